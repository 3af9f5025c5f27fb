"""What can be chosen of a deliverable from lists: languages, masks, the film, the page."""

from __future__ import annotations

from collections.abc import Callable

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
        "Languages",
        (("Original", "original"), ("All languages", "all"), ("Translations", "translations")),
        lambda form: form.each_track and form.needs != "translation",
    ),
    (
        "masks",
        "Masked words",
        tuple(zip(("Nothing masked", "Masked: b****", "Masked: ****", "Masked: [bleep]"), HOW)),
        _is_text,
    ),
    ("speaker", "Who speaks", (), _is_text),
    (
        "quality",
        "Quality of the film",
        (("Usual quality", "usual"), ("High quality", "high"), ("Small file", "small")),
        lambda form: form.film in ("burn", "sound"),
    ),
    ("stretch", "Passage of the film", (), lambda form: form.film == "burn"),
    (
        "crop",
        "Shape of the picture",
        (
            ("Shape of the film", ""),
            ("Upright, 9:16", "upright"),
            ("Square", "square"),
            ("Portrait, 4:5", "portrait"),
        ),
        lambda form: form.film == "burn",
    ),
    (
        "ground",
        "Part of the picture, or all of it on a ground",
        (
            ("Part of the picture", ""),
            ("All of it, blurred behind", "blurred"),
            ("All of it, plain behind", "plain"),
        ),
        lambda form: form.film == "burn",
    ),
    (
        "style",
        "Captions of the film",
        (("Captions as they are set", ""), ("Set for small upright pictures", "Small upright pictures")),
        lambda form: form.film in ("burn", "sound"),
    ),
    (
        "look",
        "Look of the captions",
        (("Captions in their own look", ""), *((f"In the look “{name}”", name) for name in LOOKS)),
        lambda form: form.film in ("burn", "sound"),
    ),
    (
        "lettering",
        "Lettering and faces in the picture",
        (
            ("Captions where they were set", ""),
            ("Captions moved off lettering", "clear"),
            ("Captions moved off lettering and faces", "faces"),
        ),
        lambda form: form.film == "burn",
    ),
    (
        "amount",
        "How far the voice is brought forward",
        (
            ("Voice all the way forward", ""),
            ("Voice three quarters forward", "75"),
            ("Voice halfway forward", "50"),
            ("Sound as it is", "0"),
        ),
        lambda form: form.film == "forward",
    ),
    (
        "loudness",
        "Loudness of the sound",
        (
            ("As loud as it comes out", ""),
            ("−16 LUFS, for podcasts", "-16"),
            ("−23 LUFS, for broadcast", "-23"),
        ),
        lambda form: form.film in ("forward", "spoken"),
    ),
    (
        "spoken",
        "What is spoken in one breath",
        (("Spoken sentence by sentence", ""), ("Spoken caption by caption", "captions")),
        _is_spoken,
    ),
    (
        "under",
        "Recording while it is spoken",
        (
            ("Recording 15 dB lower meanwhile", ""),
            ("Recording 10 dB lower meanwhile", "10"),
            ("Recording 20 dB lower meanwhile", "20"),
            ("Recording 30 dB lower meanwhile", "30"),
            ("The voice alone", "alone"),
        ),
        _is_spoken,
    ),
    (
        "fastest",
        "How fast it is spoken at most",
        (
            ("Up to 1.25 times as fast", ""),
            ("Never faster", "100"),
            ("Up to 1.15 times as fast", "115"),
            ("Up to 1.5 times as fast", "150"),
        ),
        _is_spoken,
    ),
    ("voice", "Voice", (), _is_spoken),
    (
        "media",
        "Recording of the page",
        (
            ("Recording copied beside it", ""),
            ("Small sound beside it", "sound"),
            ("Recording inside it", "inside"),
            ("Recording not copied", "apart"),
        ),
        lambda form: form.id in ("page", "fragment"),
    ),
)
"""Option, its name, values with what they are called, and which forms have it."""
