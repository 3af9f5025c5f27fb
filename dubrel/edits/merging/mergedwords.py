"""The words and turns of two people as one transcript."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from dubrel.base.catalogue import Message
from dubrel.base.value import replace
from dubrel.edits.merging.threeway import Choosing, Passage, Question, Side, changed, either, passages
from dubrel.model import Project, Speaker, Transcript, Turn, Word, text_of_words


class Told:
    """One side's transcript, asked by words."""

    def __init__(self, project: Project) -> None:
        self.project = project
        self.words = [word for turn in project.transcript.turns for word in turn.words]
        self.by_id = {word.id: word for word in self.words}
        self.turn_of = {word.id: turn for turn in project.transcript.turns for word in turn.words}
        self.starts = {turn.words[0].id for turn in project.transcript.turns if turn.words}


@dataclass
class MergedWords:
    """What came of the words.

    Attributes
    ----------
    transcript : Transcript
    next_id : int
    same : dict of int to int
        Words of the second side that are those of the first, by their ids.
    """

    transcript: Transcript
    next_id: int
    same: dict[int, int] = field(default_factory=dict)


def merged_words(base: Project, a: Project, b: Project, choosing: Choosing, next_id: int) -> MergedWords:
    """One transcript of two; ids of new things must differ between both."""
    three = Told(base), Told(a), Told(b)
    found, forced, same = list[Word](), dict[int, Side](), dict[int, int]()
    for part in passages(three[0].words, three[1].words, three[2].words, _id_of, _says_the_same):
        side = _side_of(part, three, choosing, same)
        if part.by_a and part.by_b:
            forced |= {word.id: side for word in (part.a if side == "a" else part.b)}
        for word in part.a if side == "a" else part.b:
            found.append(_word(word, three, choosing, side))
    languages = [one.transcript.language for one in (base, a, b)]
    language = choosing.decide(languages, "language", Message("the language"), languages)
    turns, next_id = _turns(_in_time(found), three, forced, choosing, next_id)
    people = _people(base, a, b, choosing)
    people = (*people, *_missing(turns, {one.id for one in people}, (a, b)))
    return MergedWords(Transcript(language, people, turns), next_id, same)


def _id_of(word: Word) -> int:
    return word.id


def _says_the_same(one: Word, other: Word) -> bool:
    return one.text == other.text and one.spaced == other.spaced


def _side_of(
    part: Passage[Word], three: tuple[Told, Told, Told], choosing: Choosing, same: dict[int, int]
) -> Side:
    if not part.by_b:
        return "a"
    if not part.by_a:
        return "b"
    if [word.text for word in part.a] == [word.text for word in part.b]:
        same |= {other.id: one.id for one, other in zip(part.a, part.b) if one.id != other.id}
        return "a"
    before = three[0].words[part.first : part.stop]
    around = (*before, *part.a, *part.b)
    first = (
        before[0].id
        if before
        else -(three[0].words[part.first].id if part.first < len(three[0].words) else 0)
    )
    start, end = min(word.start_ms for word in around), max(word.end_ms for word in around)
    texts = tuple(text_of_words(words) for words in (before, part.a, part.b))
    return choosing.side(Question(f"words {first}", Message("the words"), texts, start, end))


def _word(word: Word, three: tuple[Told, Told, Told], choosing: Choosing, side: Side) -> Word:
    """A word with what both did to it beside its text."""
    was, one, other = (told.by_id.get(word.id) for told in three)
    if was is None or one is None or other is None or (one == was and other == was):
        return word
    trio = (was, one, other)
    times = [(each.start_ms, each.end_ms, each.timing) for each in trio]
    clocks = [f"{time[0] / 1000:.3f}–{time[1] / 1000:.3f} s" for time in times]
    span, what = (was.start_ms, was.end_ms), Message("the times of “{text}”", text=word.text)
    start, end, timing = choosing.decide(times, f"times {word.id}", what, clocks, span)
    return replace(
        word,
        start_ms=start,
        end_ms=end,
        timing=timing,
        also=either([each.also for each in trio], lambda: side),
        struck=changed([each.struck for each in trio]),
        filler=changed([each.filler for each in trio]),
        verse=changed([each.verse for each in trio]),
        doubt=either([each.doubt for each in trio], lambda: "a" if one.doubt <= other.doubt else "b"),
        sure=either([each.sure for each in trio], lambda: "a" if one.sure >= other.sure else "b"),
    )


def _in_time(words: Sequence[Word]) -> list[Word]:
    """Words whose times do not go back: what both moved may otherwise."""
    found, latest = list[Word](), 0
    for word in words:
        if word.start_ms < latest:
            word = replace(word, start_ms=latest, end_ms=max(latest, word.end_ms))
        latest = word.start_ms
        found.append(word)
    return found


def _turns(
    words: Sequence[Word],
    three: tuple[Told, Told, Told],
    forced: dict[int, Side],
    choosing: Choosing,
    next_id: int,
) -> tuple[tuple[Turn, ...], int]:
    groups, before = list[list[Word]](), ""
    for word in words:
        side = forced.get(word.id) or before
        before = forced.get(word.id) or ""
        if not groups or _begins(word, three, side):
            groups.append([])
        groups[-1].append(word)
    turns, taken = list[Turn](), set[int]()
    for group in groups:
        turn = _turn(tuple(group), three, choosing)
        if turn.id in taken:
            turn, next_id = replace(turn, id=next_id), next_id + 1
        taken.add(turn.id)
        turns.append(turn)
    return tuple(turns), next_id


def _begins(word: Word, three: tuple[Told, Told, Told], side: str) -> bool:
    """Whether a turn begins with a word: as whoever changed that has it."""
    was, one, other = ((word.id in told.starts if word.id in told.by_id else None) for told in three)
    if side:
        own = one if side == "a" else other
        if own is not None:
            return own
    if one is None or other is None:
        return bool(one if other is None else other)
    return changed((bool(was), one, other))


def _turn(words: tuple[Word, ...], three: tuple[Told, Told, Told], choosing: Choosing) -> Turn:
    was, one, other = (_turn_at(words, told) for told in three)
    if one is None or other is None:  # all of it is of one side
        there = one or other or was
        assert there is not None, "a word that nobody said"
        return replace(there, words=words)
    was = was or one
    trio = (was, one, other)
    number = changed([turn.id for turn in trio])
    names = [_name(told.project, turn.speaker) for told, turn in zip(three, trio)]
    span = (words[0].start_ms, words[-1].end_ms)
    speakers = [turn.speaker for turn in trio]
    speaker = choosing.decide(speakers, f"speaker {number}", Message("who speaks"), names, span)
    proofed = changed([turn.proofed for turn in trio])
    reworded = changed([turn.reworded for turn in trio])
    said = text_of_words(words)
    checked = [turn for turn in (one, other) if turn.proofed]
    if proofed and checked and all(turn.text != said for turn in checked):
        reworded = True  # what was checked is not quite what stands there now
    confirmed = changed([turn.confirmed for turn in trio])
    return Turn(number, words, speaker, proofed, confirmed, reworded and proofed)


def _turn_at(words: Sequence[Word], told: Told) -> Turn | None:
    """The turn of the first of some words that a side has."""
    return next((told.turn_of[word.id] for word in words if word.id in told.turn_of), None)


def _name(project: Project, speaker: str | None) -> str:
    people = project.transcript.speakers
    place = next((nth for nth, one in enumerate(people, 1) if one.id == speaker), 0)
    return (people[place - 1].name or f"Speaker {place}") if place else "unassigned"


def _people(base: Project, a: Project, b: Project, choosing: Choosing) -> tuple[Speaker, ...]:
    """The speakers of both, in the order of whoever changed that."""
    three = [{one.id: one for one in project.transcript.speakers} for project in (base, a, b)]
    found = list[Speaker]()
    was_so = [key for key in three[0] if key in three[1]]
    lead = (1, 2) if [key for key in three[1] if key in three[0]] != was_so else (2, 1)
    for key in dict.fromkeys((*three[lead[0]], *three[lead[1]])):
        was, one, other = (people.get(key) for people in three)
        if one is None or other is None:
            there = one or other
            if was is None or there != was:
                found.append(there)  # type: ignore[arg-type]
            continue
        was = was or Speaker(key)
        names = [who.name for who in (was, one, other)]
        name = choosing.decide(names, f"name {key}", Message("the name of a speaker"), names)
        role = changed([who.role for who in (was, one, other)])
        found.append(Speaker(key, name, role))
    return tuple(found)


def _missing(turns: Sequence[Turn], known: set[str], sides: Sequence[Project]) -> Iterator[Speaker]:
    """Those who speak although one side removed them: the other has them say something."""
    for turn in turns:
        for key in filter(None, (turn.speaker, *(word.also for word in turn.words))):
            if key not in known:
                known.add(key)
                yield next(one for side in sides for one in side.transcript.speakers if one.id == key)
