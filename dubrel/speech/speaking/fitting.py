"""Lines spoken in the time that each has: faster, in a shorter reading, or said as too long."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.value import Value
from dubrel.film.order import SpokenLine
from dubrel.speech.speaking.engines import Said
from dubrel.speech.speaking.stretching import RATE, at_pace, levelled, trimmed

GAP_MS = 60
"""How much is silent at least before the next line begins."""
_LEAST_SLOT_MS = 150


class Placed(Value):
    """A line as it is spoken.

    Attributes
    ----------
    id : int
        Of the caption with which it begins.
    start_ms, end_ms : int
        From its first sound to its last; the same where it is not spoken.
    text : str
        What is spoken.
    pace : float
        Times as fast as it would be by nature.
    shorter : bool
        Whether a shorter reading took its place.
    over_ms : int
        By how much it is longer than the time that it has.
    late_ms : int
        By how much it begins later, because the line before it is too long.
    words : tuple of (str, int, int)
        Each with its time.
    why_not : str
        Why it is not spoken; empty where it is.
    """

    id: int
    start_ms: int
    end_ms: int
    text: str
    pace: float = 1.0
    shorter: bool = False
    over_ms: int = 0
    late_ms: int = 0
    words: tuple[tuple[str, int, int], ...] = ()
    why_not: str = ""


class _Voice(Value):
    """A text as it was spoken, without the silence around it."""

    text: str
    said: Said
    samples: np.ndarray
    later_s: float

    @property
    def ms(self) -> float:
        return len(self.samples) * 1000 / self.said.rate


def fitted(
    lines: Sequence[SpokenLine], say: Callable[[str], Said], fastest: float
) -> Iterator[tuple[Placed, np.ndarray]]:
    """Speak lines one after the other: none over another, none cut off.

    Parameters
    ----------
    lines : sequence of SpokenLine
        In order of their times.
    say : callable
        Speaks a text at its natural pace.
    fastest : float
        How many times as fast a line may be spoken at most.

    Yields
    ------
    Placed
        What became of a line.
    ndarray, shape (n,), float32
        Its sound, at 48 kHz.
    """
    free = 0
    for line in lines:
        text = line.text.strip()
        if not any(sign.isalnum() for sign in text):
            yield (
                Placed(line.id, line.start_ms, line.start_ms, text, why_not=tr("has nothing to say")),
                _NOTHING,
            )
            continue
        start = max(line.start_ms, free)
        slot = max(_LEAST_SLOT_MS, line.until_ms - GAP_MS - start)
        voice, pace, shorter = _chosen(line, text, _spoken(say), slot * line.pace, fastest)
        if not len(voice.samples):
            yield Placed(line.id, start, start, text, why_not=tr("came out silent")), _NOTHING
            continue
        pace *= line.pace
        sound = levelled(at_pace(voice.samples, voice.said.rate, pace, line.semitones))
        end = start + round(len(sound) * 1000 / RATE)
        free = end + GAP_MS
        over = max(0, end - start - slot)
        words = tuple(_words(voice, start, end, pace))
        late = start - line.start_ms
        yield Placed(line.id, start, end, voice.text, pace, shorter, over, late, words), sound


_NOTHING = np.zeros(0, np.float32)


def _spoken(say: Callable[[str], Said]) -> Callable[[str], _Voice]:
    def spoken(text: str) -> _Voice:
        said = say(text)
        return _Voice(text, said, *trimmed(said.samples, said.rate))

    return spoken


def _chosen(
    line: SpokenLine, text: str, spoken: Callable[[str], _Voice], slot: float, fastest: float
) -> tuple[_Voice, float, bool]:
    """The text that is spoken, how much faster, and whether it is a shorter one."""
    voice = spoken(text)
    if voice.ms <= slot * fastest:
        return voice, max(1.0, voice.ms / slot), False
    best, shorter = voice, False
    for other in line.shorter:
        found = spoken(other)
        if 0 < found.ms < best.ms:
            best, shorter = found, True
        if found.ms <= slot * fastest:
            break
    return best, min(fastest, max(1.0, best.ms / slot)), shorter


def _words(voice: _Voice, start: int, end: int, pace: float) -> Iterator[tuple[str, int, int]]:
    """The words with their times; one without a sound stands at the end of the one before."""
    last = start
    times = voice.said.times or ()
    for word, time in zip(voice.text.split(), times):
        if time is None:
            yield word, last, last
            continue
        first, after = (start + round((at - voice.later_s) * 1000 / pace) for at in time)
        first = min(max(first, last), end)
        last = min(max(after, first), end)
        yield word, first, last
