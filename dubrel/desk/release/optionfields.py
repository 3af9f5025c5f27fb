"""What can be chosen of a deliverable from lists: languages, masks, the film, the page."""

from __future__ import annotations

from collections.abc import Callable

from dubrel.base.catalogue import tr
from dubrel.captions.looks import LOOKS
from dubrel.edits.words.masking import HOW
from dubrel.formats.shared.form import Form


def _is_text(form: Form) -> bool:
    return not form.film


def _is_spoken(form: Form) -> bool:
    return form.film == "spoken"


FIELDS: tuple[tuple[str, str, tuple[tuple[str, str], ...], Callable[[Form], bool]], ...] = (
    (
        "track",
        tr("Languages"),
        ((tr("Original"), "original"), (tr("All languages"), "all"), (tr("Translations"), "translations")),
        lambda form: form.each_track and form.needs != "translation",
    ),
    (
        "masks",
        tr("Masked words"),
        tuple(
            zip((tr("Nothing masked"), tr("Masked: b****"), tr("Masked: ****"), tr("Masked: [bleep]")), HOW)
        ),
        _is_text,
    ),
    ("speaker", tr("Who speaks"), (), _is_text),
    (
        "quality",
        tr("Quality of the film"),
        ((tr("Usual quality"), "usual"), (tr("High quality"), "high"), (tr("Small file"), "small")),
        lambda form: form.film in ("burn", "sound"),
    ),
    ("stretch", tr("Passage of the film"), (), lambda form: form.film == "burn"),
    (
        "crop",
        tr("Shape of the picture"),
        (
            (tr("Shape of the film"), ""),
            (tr("Upright, 9:16"), "upright"),
            (tr("Square"), "square"),
            (tr("Portrait, 4:5"), "portrait"),
        ),
        lambda form: form.film == "burn",
    ),
    (
        "ground",
        tr("Part of the picture, or all of it on a ground"),
        (
            (tr("Part of the picture"), ""),
            (tr("All of it, blurred behind"), "blurred"),
            (tr("All of it, plain behind"), "plain"),
        ),
        lambda form: form.film == "burn",
    ),
    (
        "style",
        tr("Captions of the film"),
        (
            (tr("Captions as they are set"), ""),
            (tr("Set for small upright pictures"), "Small upright pictures"),
        ),
        lambda form: form.film in ("burn", "sound"),
    ),
    (
        "look",
        tr("Look of the captions"),
        (
            (tr("Captions in their own look"), ""),
            *((tr("In the look “{name}”").format(name=tr(name)), name) for name in LOOKS),
        ),
        lambda form: form.film in ("burn", "sound"),
    ),
    (
        "lettering",
        tr("Lettering and faces in the picture"),
        (
            (tr("Captions where they were set"), ""),
            (tr("Captions moved off lettering"), "clear"),
            (tr("Captions moved off lettering and faces"), "faces"),
        ),
        lambda form: form.film == "burn",
    ),
    (
        "amount",
        tr("How far the voice is brought forward"),
        (
            (tr("Voice all the way forward"), ""),
            (tr("Voice three quarters forward"), "75"),
            (tr("Voice halfway forward"), "50"),
            (tr("Sound as it is"), "0"),
        ),
        lambda form: form.film == "forward",
    ),
    (
        "loudness",
        tr("Loudness of the sound"),
        (
            (tr("As loud as it comes out"), ""),
            (tr("−16 LUFS, for podcasts"), "-16"),
            (tr("−23 LUFS, for broadcast"), "-23"),
        ),
        lambda form: form.film in ("forward", "spoken"),
    ),
    (
        "spoken",
        tr("What is spoken in one breath"),
        ((tr("Spoken sentence by sentence"), ""), (tr("Spoken caption by caption"), "captions")),
        _is_spoken,
    ),
    (
        "under",
        tr("Recording while it is spoken"),
        (
            (tr("Recording 15 dB lower meanwhile"), ""),
            (tr("Recording 10 dB lower meanwhile"), "10"),
            (tr("Recording 20 dB lower meanwhile"), "20"),
            (tr("Recording 30 dB lower meanwhile"), "30"),
            (tr("The voice alone"), "alone"),
        ),
        _is_spoken,
    ),
    (
        "fastest",
        tr("How fast it is spoken at most"),
        (
            (tr("Up to 1.25 times as fast"), ""),
            (tr("Never faster"), "100"),
            (tr("Up to 1.15 times as fast"), "115"),
            (tr("Up to 1.5 times as fast"), "150"),
        ),
        _is_spoken,
    ),
    ("voice", tr("Voice"), (), _is_spoken),
    (
        "media",
        tr("Recording of the page"),
        (
            (tr("Recording copied beside it"), ""),
            (tr("Small sound beside it"), "sound"),
            (tr("Recording inside it"), "inside"),
            (tr("Recording not copied"), "apart"),
        ),
        lambda form: form.id in ("page", "fragment"),
    ),
)
"""Option, its name, values with what they are called, and which forms have it."""
