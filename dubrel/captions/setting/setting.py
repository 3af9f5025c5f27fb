"""Set words into captions by a house style.

The work is done by :mod:`search`, passage by passage: a passage is turns that
follow each other, so that one caption's out time and the next one's in time
are chosen together over the border of two turns too.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from fractions import Fraction
from itertools import groupby, pairwise

import numpy as np

from dubrel.base.text import grapheme_count
from dubrel.base.value import Value, replace
from dubrel.captions.marks import with_dash, with_name
from dubrel.captions.setting import costs
from dubrel.captions.setting.breaking import best_lines
from dubrel.captions.setting.chain import Chain, Part, make_chain
from dubrel.captions.setting.drafts import Draft, two_people
from dubrel.captions.setting.search import Run, Search
from dubrel.captions.setting.timing import Bounds
from dubrel.model import Caption, HouseStyle, Speaker, Transcript, Turn

_BRIEF_MS = 300  # who speaks at the end of another's turn for less than this comes a little later
_MOST_LINES = 8
OFF_PICTURE = frozenset(["off picture", "narrator", "voice-over"])
"""Roles of speakers who are not seen."""


class Placed(Value):
    """A draft with its times."""

    draft: Draft
    start_ms: int
    end_ms: int


def set_captions(
    transcript: Transcript,
    style: HouseStyle,
    *,
    frame_rate: Fraction | None = None,
    shots: Sequence[int] = (),
    first_id: int,
) -> tuple[Caption, ...]:
    """Set a transcript into captions.

    Parameters
    ----------
    transcript : Transcript
    style : HouseStyle
    frame_rate : Fraction, optional
        Of the picture; in and out times then fall on frames.
    shots : sequence of int
        Shot changes in milliseconds.
    first_id : int
        First id to give to a caption; as many are given as there are captions.

    Notes
    -----
    The limits of line length and lines always hold (but for single words
    longer than a line). Where somebody speaks faster than the style's reading
    speed, the caption is as long as the gap allows and the checks say so.
    """
    bounds = Bounds(frame_rate, tuple(shots))
    placed = set_turns(parts_of(transcript, transcript.turns), transcript, style, bounds)
    return tuple(
        one.draft.caption(first_id + nth, one.start_ms, one.end_ms) for nth, one in enumerate(placed)
    )


def parts_of(transcript: Transcript, turns: Iterable[Turn], before: Turn | None = None) -> list[Part]:
    """Turns that show something, with the names of who speaks; ``before`` is the turn before them."""
    names = {one.id: one.name for one in transcript.speakers}
    found = []
    for turn in turns:
        if any(not word.struck for word in turn.words):
            changed = before is None or turn.speaker != before.speaker
            found.append(Part(turn, names.get(turn.speaker or "", ""), changed))
            before = turn
    return found


def set_turns(
    parts: Sequence[Part], transcript: Transcript, style: HouseStyle, bounds: Bounds
) -> list[Placed]:
    """Set turns into captions, in order of time.

    Parameters
    ----------
    parts : sequence of Part
        In order of time.
    bounds : Bounds
        Of all of them together.
    """
    rules = style.for_language(transcript.language)
    people = {one.id: one for one in transcript.speakers}
    passages = _passages(parts)
    placed: list[tuple[int, Placed]] = []
    before = 0
    for nth, passage in enumerate(passages):
        chain = make_chain(passage, rules, transcript.language)
        first, last = nth == 0, nth + 1 == len(passages)
        here = replace(
            bounds,
            not_before=bounds.not_before if first else None,
            not_after=bounds.not_after if last else None,
        )
        runs, _ = Search(chain, here).cheapest()
        held = HeldWords(chain)
        groups = np.concatenate([[0], np.cumsum([part.closed for part in chain.parts])])
        for run in runs:
            made = Placed(draft_of_run(chain, run, held, people), run.start_ms, run.end_ms)
            placed.append((before + int(groups[chain.part_of[run.start]]), made))
        before += int(groups[-1])
    placed.sort(key=lambda pair: (pair[0], pair[1].draft.words[0].start_ms))
    found: list[Placed] = []
    for _, group in groupby(placed, key=lambda pair: pair[0]):  # between two, something stays
        rows = list(line_by_line([one for _, one in group], rules, transcript.language))
        found += one_after_the_other(list(_at_once(rows, rules)), rules, bounds)
    return found if bounds.length_ms is None else [_within(one, bounds.length_ms) for one in found]


def line_by_line(placed: Sequence[Placed], style: HouseStyle, language: str) -> Iterator[Placed]:
    """The same, with captions of people who speak at once as one line each where they are too long for one.

    So that a line of each can stand in one caption, at the time at which both are said.
    """
    apart: set[int] = set()
    for nth, one in enumerate(placed):
        for other in range(nth + 1, len(placed)):
            if placed[other].draft.words[0].start_ms >= one.draft.words[-1].end_ms - _BRIEF_MS:
                break
            if _overlap(one, placed[other]) and two_people(one.draft, placed[other].draft, style) is None:
                apart |= {nth, other}
    if not apart or style.max_lines < 2:
        yield from placed
        return
    rows = [
        row
        for nth, one in enumerate(placed)
        for row in (_lines(one, style, language) if nth in apart else (one,))
    ]
    yield from sorted(rows, key=lambda one: one.draft.words[0].start_ms)


def _lines(one: Placed, style: HouseStyle, language: str) -> Iterator[Placed]:
    """Each line of a caption by itself, short enough for a dash before it."""
    draft = one.draft
    bare = replace(style, max_cpl=style.max_cpl - len(with_dash("")), max_lines=_MOST_LINES)
    breaks = best_lines(draft.words, bare, language) or draft.breaks
    edges = [0, *breaks, len(draft.words)]
    starts = {word.id: nth for nth, word in enumerate(draft.words)}
    owner, held = 0, list[list[int]]([[] for _ in draft.words])
    for word in draft.held:
        owner = starts.get(word, owner)
        held[owner].append(word)
    for first, after in pairwise(edges):
        words = draft.words[first:after]
        ids = tuple(word for group in held[first:after] for word in group)
        named = (0,) if first == 0 and draft.named else ()
        made = Draft(words, ids, draft.texts[first:after], (), named, (), draft.speaker, draft.slanted)
        start = one.start_ms if first == 0 else words[0].start_ms
        end = one.end_ms if after == len(draft.words) else words[-1].end_ms
        yield Placed(made, start, max(end, start + 1))


def _at_once(placed: Sequence[Placed], style: HouseStyle) -> Iterator[Placed]:
    """Captions of two people who speak at the same time as one, where it has room for both."""
    before: Placed | None = None
    for one in placed:
        if before is not None and _overlap(before, one):
            both = two_people(before.draft, one.draft, style)
            if both is not None:
                before = Placed(both, before.start_ms, max(before.end_ms, one.end_ms))
                continue
        if before is not None:
            yield before
        before = one
    if before is not None:
        yield before


def _overlap(before: Placed, one: Placed) -> bool:
    """Whether another person speaks while the first one still does."""
    return before.draft.speaker != one.draft.speaker and (
        one.draft.words[0].start_ms < before.draft.words[-1].end_ms
    )


def _within(one: Placed, length_ms: int) -> Placed:
    """A caption that ends with the recording, or with its last word where that is said to end later."""
    latest = max(length_ms, one.draft.words[-1].end_ms, one.start_ms + 1)
    return one if one.end_ms <= latest else replace(one, end_ms=latest)


def _passages(parts: Sequence[Part]) -> list[list[Part]]:
    """Turns that follow each other; one that begins before the last word of another is apart."""
    found: list[list[Part]] = []
    latest = 0
    for part in parts:
        shown = [word for word in part.turn.words if not word.struck]
        if found and shown[0].start_ms >= latest:
            found[-1].append(part)
        else:
            found.append([part])
        latest = max(latest, shown[-1].start_ms)
    return found


class HeldWords:
    """The ids of all words of a chain, so that the struck ones go with those that show."""

    def __init__(self, chain: Chain) -> None:
        self._ids: list[int] = []
        self._starts: list[int] = []  # for each word that shows, where its ids begin
        for part in chain.parts:
            if not any(word.struck for word in part.turn.words):
                self._starts += range(len(self._ids), len(self._ids) + len(part.turn.words))
                self._ids += [word.id for word in part.turn.words]
                continue
            begin: int | None = len(self._ids)  # struck words before the first one go with it
            for word in part.turn.words:
                if not word.struck:
                    self._starts.append(len(self._ids) if begin is None else begin)
                    begin = None
                self._ids.append(word.id)
        self._starts.append(len(self._ids))

    def of(self, start: int, stop: int) -> tuple[int, ...]:
        """The ids that go with a run of words that show."""
        return tuple(self._ids[self._starts[start] : self._starts[stop]])


def draft_of_run(chain: Chain, run: Run, held: HeldWords, people: dict[str, Speaker]) -> Draft:
    """A run of a chain as a draft, with names, dashes and struck words."""
    words = chain.words[run.start : run.stop]
    texts = chain.texts[run.start : run.stop]
    part = chain.parts[chain.part_of[run.start]]
    named: tuple[int, ...] = (0,) if chain.named[run.start] else ()
    dashed: tuple[int, ...] = ()
    if run.dashed:
        second = run.breaks[0]
        other = chain.parts[chain.part_of[run.start + second]]
        both = bool(named and chain.named[run.start + second])
        named, dashed = ((0, second), ()) if both else ((), (0, second))
        texts[second] = with_name(other.name, texts[second]) if both else with_dash(texts[second])
    if named:
        texts[0] = with_name(part.name, texts[0])
    elif dashed:
        texts[0] = with_dash(texts[0])
    speaker = people.get(part.turn.speaker or "") if chain.style.italics else None
    slanted = speaker is not None and speaker.role.lower() in OFF_PICTURE
    return Draft(
        words,
        held.of(run.start, run.stop),
        tuple(texts),
        run.breaks,
        named,
        dashed,
        part.turn.speaker,
        slanted,
    )


def one_after_the_other(placed: Sequence[Placed], style: HouseStyle, bounds: Bounds) -> list[Placed]:
    """Captions in order of time that keep the least gap.

    Where people speak at once, or words have no time of their own, a caption
    goes out as early as its last word allows, and the next one comes in later.
    """
    grid, gap = bounds.grid, style.least_gap(bounds.rate)
    found: list[Placed] = []
    for one in placed:
        if found and one.start_ms < found[-1].end_ms + gap:
            before = found[-1]
            latest = int(grid.earlier(one.start_ms, style.gap_frames, style.gap_ms))
            spoken = int(grid.after(_said_until(before.draft)))
            end = max(min(before.end_ms, max(latest, spoken)), before.start_ms + costs.LEAST_MS)
            end = min(before.end_ms, int(grid.after(end)))
            if _overlap(before, one):
                end = int(grid.after(_shared(before, one, style, end)))
            found[-1] = replace(before, end_ms=end)
            start = max(one.start_ms, int(grid.earlier(end, -style.gap_frames, -style.gap_ms)))
            one = replace(
                one, start_ms=start, end_ms=max(one.end_ms, int(grid.after(start + costs.LEAST_MS)))
            )
        found.append(one)
    return found


def _said_until(draft: Draft) -> int:
    """When the last word is over; of two people at once, that of the one who ends first."""
    second = max((*draft.dashed, *draft.named), default=0)
    ends = [draft.words[-1].end_ms] + ([draft.words[second - 1].end_ms] if second else [])
    return min(ends) if draft.words[second].start_ms < ends[-1] else ends[0]


def _shared(before: Placed, one: Placed, style: HouseStyle, end: int) -> int:
    """When the first of two captions of people who speak at once goes out: the other must be read too."""
    lengths = [max(1, sum(grapheme_count(text) + 1 for text in each.draft.texts)) for each in (before, one)]
    last = max(before.end_ms, one.end_ms)
    if last - end >= style.least_ms(lengths[1], len(one.draft.texts)):
        return end
    middle = before.start_ms + (last - before.start_ms) * lengths[0] // sum(lengths)
    return max(before.start_ms + costs.LEAST_MS, min(end, middle))
