"""A translated caption file, three seconds late and cut otherwise, paired with ours; and by its times alone.

A caption is right if more than half of what it is paired with is what it translates.
"""

from __future__ import annotations

from common import report
from translating import captioned

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.translation.pairing import pair_cues
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.track import begin_track
from dubrel.finding.encoder import vectors_of
from dubrel.jobs.machinery.events import SentencesTranslated
from dubrel.jobs.translating import Order, translate
from dubrel.model import Cue
from dubrel.translation.choosing import missing_tasks


def main() -> None:
    """Translate by the engine, set by another style, shift, forget, pair."""
    project = captioned(400)
    project, track_id = begin_track(project, "pt", replace(DEFAULT_STYLE, max_cpl=32, max_cps=26))
    track = project.track(track_id)
    assert track is not None
    found = []
    for event in translate(Order(track_id, missing_tasks(project, track), "en", "pt", "builtin")):
        if isinstance(event, SentencesTranslated):
            found += event.found
    project = with_translations(project, track_id, found)
    track = project.track(track_id)
    assert track is not None
    cues = [Cue(c.start_ms + 3000, c.end_ms + 3000, tuple(c.text.split("\n"))) for c in track.captions]
    bare, other = begin_track(replace(project, tracks=project.tracks[:1]), "pt")
    shares = []
    for encode in (vectors_of, None):
        paired = pair_cues(bare, other, cues, encode)
        theirs = paired.project.track(other)
        assert theirs is not None
        right = sum(
            2 * len(set(one.of) & set(ours.of)) > max(len(one.of), len(ours.of))
            for one, ours in zip(theirs.captions, track.captions)
        )
        shares.append(right / len(cues))
    report(
        "pairingfile",
        cues=len(cues),
        right=shares[0],
        right_by_times_alone=shares[1],
        ratio=shares[0] / max(0.01, shares[1]),
    )


if __name__ == "__main__":
    main()
