"""What is not ready before anything is written, as a list to go to."""

from __future__ import annotations

from dataclasses import dataclass

from dubrel.base.catalogue import counted, tr
from dubrel.base.languages import language_name
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
        found.append(
            NotReady(tr("{speakers} without a name").format(speakers=counted(unnamed, "speaker")), "voices")
        )
    unproofed = [turn for turn in project.transcript.turns if not turn.proofed or turn.reworded]
    doubts = sum(word.doubt >= DOUBTFUL and not word.struck for turn in unproofed for word in turn.words)
    if doubts or unproofed:
        parts = [counted(doubts, "doubtful word")] * bool(doubts) + [
            tr("{turns} not proofed").format(turns=counted(len(unproofed), "turn"))
        ] * bool(unproofed)
        found.append(NotReady(", ".join(parts), "wording"))
    queries = sum(one.kind == "Query" and not one.done for one in project.notes)
    if queries:
        found.append(NotReady(counted(queries, "open query", "open queries"), "wording"))
    track = project.captions
    if track is None or not track.captions:
        found.append(NotReady(tr("no captions yet"), "captions"))
    else:
        broken = sum(any(one.must for one in some) for some in check_track(project, track).values())
        if broken:
            found.append(
                NotReady(tr("{captions} to fix").format(captions=counted(broken, "caption")), "captions")
            )
    for one in translated_tracks(project):
        standing = standing_of(project, one)
        left = standing.captions - standing.approved
        name = tr(language_name(one.language))
        if standing.translated < standing.whole:
            found.append(
                NotReady(
                    tr("{captions} not in {language} yet").format(
                        captions=counted(standing.whole - standing.translated, "caption"), language=name
                    ),
                    "translation",
                )
            )
        if standing.changed:
            many = counted(standing.changed, "caption")
            said = tr("{captions} in {language} of which the original has changed")
            found.append(NotReady(said.format(captions=many, language=name), "translation"))
        if left:
            found.append(
                NotReady(
                    tr("{captions} in {language} not approved").format(
                        captions=counted(left, "caption"), language=name
                    ),
                    "translation",
                )
            )
    return found
