"""What is not ready before anything is written, as a list to go to."""

from __future__ import annotations

from dataclasses import dataclass

from dubrel.base.languages import language_name
from dubrel.base.text import counted
from dubrel.edits.captions.trackchecks import check_track
from dubrel.edits.translation.track import standing_of, translated_tracks
from dubrel.model import Project
from dubrel.project.queries import DOUBTFUL


@dataclass(frozen=True)
class NotReady:
    """Something that is still to do.

    Attributes
    ----------
    text : str
    room : str
        The pass where it is done.
    """

    text: str
    room: str


def not_ready(project: Project) -> list[NotReady]:
    """Everything that is still to do, in the order of the passes."""
    found = []
    speaking = {turn.speaker for turn in project.transcript.turns}
    unnamed = sum(one.id in speaking and not one.name for one in project.transcript.speakers)
    if unnamed:
        found.append(NotReady(counted(unnamed, "speaker") + " without a name", "voices"))
    unproofed = [turn for turn in project.transcript.turns if not turn.proofed or turn.reworded]
    doubts = sum(word.doubt >= DOUBTFUL and not word.struck for turn in unproofed for word in turn.words)
    if doubts or unproofed:
        parts = [counted(doubts, "doubtful word")] * bool(doubts) + [
            f"{counted(len(unproofed), 'turn')} not proofed"
        ] * bool(unproofed)
        found.append(NotReady(", ".join(parts), "wording"))
    queries = sum(one.kind == "Query" and not one.done for one in project.notes)
    if queries:
        found.append(NotReady(counted(queries, "open query", "open queries"), "wording"))
    track = project.captions
    if track is None or not track.captions:
        found.append(NotReady("no captions yet", "captions"))
    else:
        broken = sum(any(one.must for one in some) for some in check_track(project, track).values())
        if broken:
            found.append(NotReady(f"{counted(broken, 'caption')} to fix", "captions"))
    for one in translated_tracks(project):
        standing = standing_of(project, one)
        left = standing.captions - standing.approved
        name = language_name(one.language)
        if standing.translated < standing.whole:
            found.append(
                NotReady(
                    f"{counted(standing.whole - standing.translated, 'caption')} not in {name} yet",
                    "translation",
                )
            )
        if standing.changed:
            many = counted(standing.changed, f"{name} caption")
            found.append(NotReady(f"{many} of which the original has changed", "translation"))
        if left:
            found.append(
                NotReady(
                    f"{left:,} {name} {'caption' if left == 1 else 'captions'} not approved", "translation"
                )
            )
    return found
