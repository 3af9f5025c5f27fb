"""How a cut reads: its turns with what was taken out folded, and what is proposed marked."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Literal

from dubrel.base.value import Value
from dubrel.edits.cuts.trimming import length_of
from dubrel.model import Cut, CutPassage, Project, TakenOut, Turn, Word
from dubrel.project.timeline import runs

if TYPE_CHECKING:
    from dubrel.edits.cuts.removals import Removal

Kind = Literal["word", "pause", "gone"]
_EVER = 1 << 60
_RUN = 1 << 40  # apart from the ids of turns


class Token(Value):
    """A word, a pause that is shorter now, or a passage that is not in the cut.

    Attributes
    ----------
    kind : {"word", "pause", "gone"}
    first, stop : int
        Places of its words in the turn; of a pause, where it stands.
    start_ms, end_ms : int
        Of what is heard, or of what is taken out.
    why : str
        Why it is not in the cut; “muted” and “gap” where its time stays.
    proposed : Removal or None
        What is proposed here and not done.
    """

    kind: Kind
    first: int
    stop: int
    start_ms: int
    end_ms: int
    why: str = ""
    proposed: Removal | None = None


class Paragraph:
    """A turn as it reads in a cut; its tokens are found when they are first asked for.

    Attributes
    ----------
    id : int
        That of its turn, unless the turn plays in several places.
    turn : Turn
    start_ms : int
        When it begins in the recording.
    """

    def __init__(self, turn: Turn, near: _Near, nth: int = 0) -> None:
        self.id, self.turn, self.near = turn.id + nth * _RUN, turn, near
        self.start_ms = max(turn.start_ms, near.limits[0])

    @cached_property
    def tokens(self) -> tuple[Token, ...]:
        """Words, pauses that are shorter, passages that are out, in order."""
        return tuple(_tokens(self.turn, self.near))


class _Near(Value):
    """What of a cut concerns a turn.

    Attributes
    ----------
    passages, proposals, taken : tuple
    before_ms : int
        When what is said before the turn ends.
    before_gone : bool
        Whether that is out.
    tail_ms : int
        Until when nothing is said after it; 0 where another turn follows.
    limits : tuple of (int, int)
        The part of the recording that is told here, where a cut plays it in another order.
    """

    passages: tuple[CutPassage, ...]
    proposals: tuple[Removal, ...]
    taken: tuple[TakenOut, ...]
    before_ms: int
    before_gone: bool
    tail_ms: int
    limits: tuple[int, int] = (0, _EVER)


class CutReading:
    """Reads a cut turn by turn; turns of which nothing changed are the same objects as before."""

    def __init__(self) -> None:
        self._known: dict[tuple[int, int], Paragraph] = {}

    def paragraphs(
        self, project: Project, cut: Cut | None, proposals: Sequence[Removal] = ()
    ) -> list[Paragraph]:
        """The paragraphs of a cut in order; of the whole recording without one.

        Parameters
        ----------
        proposals : sequence of Removal
            In order of time.
        """
        parts = runs(cut.passages) if cut else []
        known, self._known = self._known, {}
        if len(parts) < 2:
            return self._part(project, cut, proposals, _in_order(cut, project), known)
        made = list[Paragraph]()
        for nth, run in enumerate(parts):
            limits = run[0].start_ms, run[-1].end_ms
            made += self._part(project, cut, proposals, run, known, nth, limits)
        return made

    def _part(
        self,
        project: Project,
        cut: Cut | None,
        proposals: Sequence[Removal],
        passages: Sequence[CutPassage],
        known: Mapping[tuple[int, int], Paragraph],
        nth: int = 0,
        limits: tuple[int, int] = (0, _EVER),
    ) -> list[Paragraph]:
        """The paragraphs of what plays in the order of the recording."""
        taken = cut.taken if cut else ()
        starts, offered, outs = ([one.start_ms for one in some] for some in (passages, proposals, taken))
        made, before, gone = list[Paragraph](), limits[0], False
        turns, length = project.transcript.turns, length_of(project)
        for turn in turns:
            if turn.end_ms <= limits[0] or turn.start_ms >= limits[1]:
                continue
            low, high = min(before, turn.start_ms), turn.end_ms
            tail = max(high, length) if turn is turns[-1] and limits[1] == _EVER else 0
            high = max(high, tail)
            here = passages[max(0, bisect_right(starts, low) - 1) : bisect_right(starts, high)]
            near = proposals[max(0, bisect_right(offered, low) - 2) : bisect_right(offered, high)]
            out = taken[max(0, bisect_right(outs, low) - 2) : bisect_right(outs, high)]
            beside = _Near(tuple(here), tuple(near), tuple(out), before, gone, tail, limits)
            old = known.get((nth, turn.id))
            same = old is not None and old.turn is turn and old.near == beside
            paragraph = old if same and old is not None else Paragraph(turn, beside, nth)
            self._known[nth, turn.id] = paragraph
            if limits[1] == _EVER or paragraph.tokens:
                made.append(paragraph)
            before = max(before, turn.end_ms)
            gone = bool(turn.words) and _passage_at(here, starts_of(here), _middle(turn.words[-1])) < 0
        return made


def starts_of(passages: Sequence[CutPassage]) -> list[int]:
    """When each passage begins."""
    return [one.start_ms for one in passages]


def _passage_at(passages: Sequence[CutPassage], starts: Sequence[int], ms: int) -> int:
    """The passage that plays a time, sound and all; -1 for none."""
    at = bisect_right(starts, ms) - 1
    return at if at >= 0 and ms < passages[at].end_ms and passages[at].plays == "all" else -1


def _in_order(cut: Cut | None, project: Project) -> list[CutPassage]:
    """The passages by when they are in the recording."""
    if cut is None:
        return [CutPassage(0, max(1, length_of(project)))]
    length = max(1, length_of(project))
    edges = CutPassage(0, 0), CutPassage(length, length)  # what is out before the first and after the last
    return [edges[0], *sorted(cut.passages, key=lambda one: one.start_ms), edges[1]]


def _tokens(turn: Turn, near: _Near) -> Iterator[Token]:
    """The tokens of a turn."""
    passages, proposals, taken = near.passages, near.proposals, near.taken
    before_ms, before_gone, tail_ms = near.before_ms, near.before_gone, near.tail_ms
    starts = starts_of(passages)

    def passage_at(ms: int) -> int:
        return _passage_at(passages, starts, ms)

    def why(start: int, end: int) -> str:
        for one in passages:
            if one.plays != "all" and one.start_ms < end and one.end_ms > start:
                return one.plays
        best, most = "", 0
        for out in taken:
            common = min(end, out.end_ms) - max(start, out.start_ms)
            if common > most:
                best, most = out.why, common
        return best or "by hand"

    pausing = [one for one in proposals if not one.text]
    saying = [one for one in proposals if one.text]
    low, high = near.limits
    words = [word for word in turn.words if _middle(word) < high]
    place = sum(_middle(word) < low for word in words) if low else 0
    last_ms, last_at = before_ms, -1
    while place < len(words):
        word = words[place]
        if passage_at(_middle(word)) < 0:
            stop = place
            while stop < len(words) and passage_at(_middle(words[stop])) < 0:
                stop += 1
            start, end = _removed(passages, starts, _middle(word), _middle(words[stop - 1]))
            if place == 0 and before_gone:  # what is out before it is told in the turn before
                start = max(start, min(before_ms, word.start_ms))
            if stop == len(turn.words):
                end = max(words[stop - 1].end_ms, start + 1)
            yield Token("gone", place, stop, start, end, why(start, end))
            last_ms, last_at, place = max(words[stop - 1].end_ms, last_ms), -1, stop
            continue
        at = passage_at(_middle(word))
        if at != last_at or pausing:
            yield from _pauses(passages, pausing, last_ms, word.start_ms, place)
        offered = next((one for one in saying if one.start_ms <= _middle(word) < one.end_ms), None)
        yield Token("word", place, place + 1, word.start_ms, word.end_ms, proposed=offered)
        last_ms, last_at, place = max(last_ms, word.end_ms), at, place + 1
    if tail_ms > last_ms:
        yield from _pauses(passages, pausing, last_ms, tail_ms, len(words))


def _middle(word: Word) -> int:
    return (word.start_ms + word.end_ms) // 2


def _removed(passages: Sequence[CutPassage], starts: Sequence[int], first: int, last: int) -> tuple[int, int]:
    """From when to when nothing plays around some words."""
    at = bisect_right(starts, first) - 1
    low = passages[at].end_ms if at >= 0 and passages[at].plays == "all" else first
    if at >= 0 and passages[at].plays != "all" and first < passages[at].end_ms:
        low = passages[at].start_ms
    nth = bisect_left(starts, last)
    while nth < len(passages) and passages[nth].plays != "all":
        nth += 1
    high = passages[nth].start_ms if nth < len(passages) else max(last, low)
    return min(low, first), max(high, last + 1)


def _pauses(
    passages: Sequence[CutPassage], proposals: Sequence[Removal], since: int, until: int, place: int
) -> Iterator[Token]:
    """What goes, or could go, of the pause between two words."""
    for one, other in zip(passages, passages[1:]):
        if one.end_ms < other.start_ms and since <= one.end_ms and other.start_ms <= until + 1:
            yield Token("pause", place, place, one.end_ms, other.start_ms, "pause")
    for one in passages:
        if one.plays != "all" and since <= one.start_ms and one.end_ms <= until + 1:
            yield Token("pause", place, place, one.start_ms, one.end_ms, one.plays)
    for offer in proposals:
        if since <= offer.start_ms and offer.end_ms <= until + 1:
            yield Token("pause", place, place, offer.start_ms, offer.end_ms, "pause", offer)


def reason_text(why: str) -> str:
    """A reason as it is said on screen."""
    return {"by hand": "taken out by hand", "struck": "struck", "gap": "kept as a gap"}.get(why, why)
