"""What is not ready before anything is written, as a list to go to."""

from __future__ import annotations

from collections.abc import Iterator

from dubrel.base.catalogue import Message, amount
from dubrel.base.languages import language_name
from dubrel.base.value import Value
from dubrel.edits.captions.trackchecks import check_track
from dubrel.edits.translation.track import Standing, standing_of, translated_tracks
from dubrel.model import Project
from dubrel.project.queries import DOUBTFUL


class NotReady(Value):
    """Something that is still to do.

    Attributes
    ----------
    text : Message
    room : str
        The pass where it is done.
    """

    text: Message
    room: str


def not_ready(project: Project) -> list[NotReady]:
    """Everything that is still to do, in the order of the passes."""
    found = []
    speaking = {turn.speaker for turn in project.transcript.turns}
    unnamed = sum(one.id in speaking and not one.name for one in project.transcript.speakers)
    if unnamed:
        said = Message("{speakers} without a name", speakers=amount(unnamed, "speaker"))
        found.append(NotReady(said, "voices"))
    unproofed = [turn for turn in project.transcript.turns if not turn.proofed or turn.reworded]
    doubts = sum(word.doubt >= DOUBTFUL and not word.struck for turn in unproofed for word in turn.words)
    words, turns = amount(doubts, "doubtful word"), amount(len(unproofed), "turn")
    if unproofed and doubts:
        found.append(NotReady(Message("{words}, {turns} not proofed", words=words, turns=turns), "wording"))
    elif unproofed:
        found.append(NotReady(Message("{turns} not proofed", turns=turns), "wording"))
    queries = sum(one.kind == "Query" and not one.done for one in project.notes)
    if queries:
        found.append(NotReady(amount(queries, "open query", "open queries"), "wording"))
    track = project.captions
    if track is None or not track.captions:
        found.append(NotReady(Message("no captions yet"), "captions"))
    else:
        broken = sum(any(one.must for one in some) for some in check_track(project, track).values())
        if broken:
            said = Message("{captions} to fix", captions=amount(broken, "caption"))
            found.append(NotReady(said, "captions"))
    for one in translated_tracks(project):
        sentences = _of_translation(standing_of(project, one), one.language)
        found += [NotReady(said, "translation") for said in sentences]
    return found


def _of_translation(standing: Standing, language: str) -> Iterator[Message]:
    name, missing = Message(language_name(language)), standing.whole - standing.translated
    if missing > 0:
        yield Message("{captions} not in {language} yet", captions=amount(missing, "caption"), language=name)
    if standing.changed:
        changed = amount(standing.changed, "caption")
        yield Message("{captions} in {language} whose original has changed", captions=changed, language=name)
    if left := standing.captions - standing.approved:
        yield Message(
            "{captions} in {language} not approved", captions=amount(left, "caption"), language=name
        )
