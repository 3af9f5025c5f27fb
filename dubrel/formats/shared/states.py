"""Captions that grow or roll on the picture: each word is read once, with the time at which it came.

A form that shows text as it is spoken holds one state after the other, each with
what stands there already. Read as they are, words would be said two and three times.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from dubrel.base.text import spaced_units
from dubrel.base.value import replace
from dubrel.formats.shared.common import cue_of
from dubrel.formats.shared.inline import plain
from dubrel.formats.shared.oddities import Oddities
from dubrel.model import Cue

_NEXT_MS = 70  # states this near to each other follow each other: two frames


@dataclass
class State:
    """What stands on the picture for a while.

    Attributes
    ----------
    start_ms, end_ms : int
    lines : list of str
        As WebVTT has them.
    place : str
        Cue settings.
    line : int
        In the file.
    group : int
        Only states of one group go on from each other; those of none stand alone.
    rolls : bool
        Whether a new line is a caption of its own, and those above it stand there still.
    """

    start_ms: int
    end_ms: int
    lines: list[str]
    place: str = ""
    line: int = 0
    group: int = 0
    rolls: bool = False


@dataclass
class _Open:
    """A caption that may grow: its own lines, those that stand above it, and when each word came."""

    state: State
    above: list[str]
    own: list[str]
    begins: dict[tuple[int, int], int] = field(default_factory=dict)

    @property
    def shown(self) -> list[str]:
        return [*self.above, *self.own]


def cues_of_states(states: Iterable[State], odd: Oddities) -> Iterator[Cue]:
    """The captions of a row of states, in order of time.

    Parameters
    ----------
    states : iterable of State
    odd : Oddities
    """
    current: _Open | None = None
    for state in states:
        grown = _follows(current, state) if current is not None else None
        if grown is not None:
            current = grown
            continue
        if current is not None:
            rolled = _rolled(current, state)
            yield from _closed(current, odd)
            current = rolled
        if current is None:
            current = _Open(state, [], list(state.lines))
    if current is not None:
        yield from _closed(current, odd)


def _follows(current: _Open, state: State) -> _Open | None:
    """The caption grown to another state; ``None`` where that is another caption."""
    if not _go_on(current.state, state) or state.place != current.state.place:
        return None
    before, now = [plain(one) for one in current.shown], [plain(one) for one in state.lines]
    if not state.rolls and " ".join(before).startswith(" ".join(now)):  # some of it is gone already
        return _lasting(current, state)
    if len(now) < len(before) or now[: len(before) - 1] != before[:-1]:
        return None
    if not now[len(before) - 1].startswith(before[-1]):
        return None
    if state.rolls and len(now) > len(before):
        return None
    own = state.lines[len(current.above) :]
    begins = dict(current.begins)
    for nth, line in enumerate(own):
        known = len(_words(current.own[nth])) if nth < len(current.own) else 0
        for place in range(known, len(_words(line))):
            begins[nth, place] = state.start_ms
    return _Open(dataclasses.replace(current.state, end_ms=state.end_ms), current.above, own, begins)


def _lasting(current: _Open, state: State) -> _Open:
    """The caption for as long as a state stands."""
    return dataclasses.replace(current, state=dataclasses.replace(current.state, end_ms=state.end_ms))


def _go_on(before: State, now: State) -> bool:
    return bool(now.group) and before.group == now.group and abs(now.start_ms - before.end_ms) <= _NEXT_MS


def _rolled(current: _Open, state: State) -> _Open | None:
    """What a state shows that was not there before; ``None`` where nothing of before is there still."""
    if not state.rolls or not _go_on(current.state, state):
        return None
    before, now = [plain(one) for one in current.shown], [plain(one) for one in state.lines]
    for gone in range(len(before)):
        kept = before[gone:]
        if len(kept) < len(now) and now[: len(kept)] == kept:
            return _Open(state, state.lines[: len(kept)], state.lines[len(kept) :])
    return None


def _words(line: str) -> Sequence[tuple[str, bool]]:
    return spaced_units(plain(line))


def _closed(one: _Open, odd: Oddities) -> Iterator[Cue]:
    cue = cue_of((one.state.start_ms, one.state.end_ms), one.own, one.state.line, odd, one.state.place)
    if cue is not None:
        yield with_times(cue, one.begins)


def with_times(cue: Cue, begins: Mapping[tuple[int, int], int]) -> Cue:
    """A cue whose words begin when it says, by line and place in it; others share what is between."""
    return replace(cue, begins=dict(begins)) if begins else cue
