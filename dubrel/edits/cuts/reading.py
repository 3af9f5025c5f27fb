"""How a cut reads: its turns with what was taken out folded, and what is proposed marked."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from dubrel.edits.cuts.passages import length_of
from dubrel.model import Cut, CutPassage, Project, Turn, Word

if TYPE_CHECKING:
    from dubrel.edits.cuts.removals import Removal

Kind = Literal["word", "pause", "gone"]


@dataclass(frozen=True)
class Token:
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


@dataclass(frozen=True)
class Paragraph:
    """A turn as it reads in a cut.

    Attributes
    ----------
    id : int
    turn : Turn
    tokens : tuple of Token
    """

    id: int
    turn: Turn
    tokens: tuple[Token, ...]

    @property
    def start_ms(self) -> int:
        """When it begins in the recording."""
        return self.tokens[0].start_ms if self.tokens else self.turn.start_ms


class CutReading:
    """Reads a cut turn by turn; turns of which nothing changed are the same objects as before."""

    def __init__(self) -> None:
        self._known: dict[int, tuple[Turn, tuple, Paragraph]] = {}

    def paragraphs(
        self, project: Project, cut: Cut | None, proposals: Sequence[Removal] = ()
    ) -> list[Paragraph]:
        """The paragraphs of a cut in order; of the whole recording without one.

        Parameters
        ----------
        proposals : sequence of Removal
            In order of time.
        """
        passages = _in_order(cut, project)
        starts = [one.start_ms for one in passages]
        offered = [one.start_ms for one in proposals]
        taken = [one.start_ms for one in cut.taken] if cut else []
        known, made, before, cut_off = self._known, list[Paragraph](), 0, False
        self._known = {}
        turns = project.transcript.turns
        for turn in turns:
            low, high = min(before, turn.start_ms), turn.end_ms
            tail = max(high, length_of(project)) if turn is turns[-1] else 0
            high = max(high, tail)
            here = passages[max(0, bisect_right(starts, low) - 1) : bisect_right(starts, high)]
            near = proposals[max(0, bisect_right(offered, low) - 2) : bisect_right(offered, high)]
            gone = cut.taken[max(0, bisect_right(taken, low) - 2) : bisect_right(taken, high)] if cut else ()
            key = (tuple(here), tuple(near), gone, before, cut_off, tail)
            old = known.get(turn.id)
            if old is not None and old[0] is turn and old[1] == key:
                paragraph = old[2]
            else:
                paragraph = Paragraph(turn.id, turn, tuple(_tokens(turn, here, near, gone, key[3:])))
                if old is not None and old[2] == paragraph:
                    paragraph = old[2]
            self._known[turn.id] = (turn, key, paragraph)
            made.append(paragraph)
            before = max(before, turn.end_ms)
            cut_off = bool(paragraph.tokens) and paragraph.tokens[-1].kind == "gone"
        return made


def _in_order(cut: Cut | None, project: Project) -> list[CutPassage]:
    """The passages by when they are in the recording."""
    if cut is None:
        return [CutPassage(0, max(1, length_of(project)))]
    length = max(1, length_of(project))
    edges = CutPassage(0, 0), CutPassage(length, length)  # what is out before the first and after the last
    return [edges[0], *sorted(cut.passages, key=lambda one: one.start_ms), edges[1]]


def _tokens(
    turn: Turn,
    passages: Sequence[CutPassage],
    proposals: Sequence[Removal],
    taken: Sequence,
    around: tuple[int, bool, int],
) -> Iterator[Token]:
    """The tokens of a turn.

    Parameters
    ----------
    around : tuple of (int, bool, int)
        When what is said before it ends, whether that is out, and until when nothing is said after it.
    """
    before_ms, before_gone, tail_ms = around
    starts = [one.start_ms for one in passages]

    def passage_at(ms: int) -> int:
        at = bisect_right(starts, ms) - 1
        return at if at >= 0 and ms < passages[at].end_ms and passages[at].plays == "all" else -1

    def why(start: int, end: int) -> str:
        for one in passages:
            if one.plays != "all" and one.start_ms < end and one.end_ms > start:
                return one.plays
        best, most = "", 0
        for one in taken:
            common = min(end, one.end_ms) - max(start, one.start_ms)
            if common > most:
                best, most = one.why, common
        return best or "by hand"

    pausing = [one for one in proposals if not one.text]
    saying = [one for one in proposals if one.text]
    words, place = turn.words, 0
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
            if stop == len(words):
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
