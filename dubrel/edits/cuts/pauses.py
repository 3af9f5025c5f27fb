"""Pauses: where nobody speaks, by the words' times and by how loud the recording is."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dubrel.base.value import Value
from dubrel.edits.cuts.trimming import KEEP_MS, length_of
from dubrel.model import Project, TakenOut

_TAIL_MS = 120  # so long a word's end or start may be louder than the pause beside it
_BLIP_MS = 30  # a louder moment as short as this does not end a pause
_AWAY_MS = 80  # what is nearer to a word is no evidence of how quiet the pauses are
_LEAST = -90.0
_SHARE = 0.3  # of the way from the level of pauses to that of speech
_ABOVE_DB = 4.0


class Levels(Value):
    """How loud a recording is over time.

    Attributes
    ----------
    decibels : ndarray, shape (n,), float32
        Level of each step, in decibels below full scale.
    step_ms : float
        How long a step is.
    """

    decibels: np.ndarray
    step_ms: float

    @classmethod
    def of_peaks(cls, peaks: np.ndarray, step_ms: float = 2.5, together: int = 4) -> Levels:
        """Of minima and maxima (int16) of the sound, several blocks taken together.

        Parameters
        ----------
        peaks : ndarray, shape (n, 2), int16
        step_ms : float
            How long a block is.
        together : int
            How many blocks make a step.
        """
        sizes = np.abs(peaks.astype(np.int32)).max(axis=1) if len(peaks) else np.zeros(0, np.int32)
        sizes = np.pad(sizes, (0, -len(sizes) % together)).reshape(-1, together).max(axis=1)
        return cls(20 * np.log10(np.maximum(sizes, 1) / 32768).astype(np.float32), step_ms * together)

    @property
    def length_ms(self) -> int:
        """How long the recording is."""
        return round(len(self.decibels) * self.step_ms)

    def place(self, ms: float) -> int:
        """The step of a time."""
        return min(len(self.decibels), max(0, round(ms / self.step_ms)))


def quiet_level(project: Project, levels: Levels) -> float:
    """The level below which a recording is quiet, in decibels below full scale.

    Between the usual level away from words and that of words; without words, between
    the quietest and the loudest tenth.
    """
    decibels = levels.decibels
    if not len(decibels):
        return _LEAST
    spoken = np.zeros(len(decibels), bool)
    near = np.zeros(len(decibels), bool)
    for turn in project.transcript.turns:
        for word in turn.words:
            spoken[levels.place(word.start_ms) : levels.place(word.end_ms)] = True
            near[levels.place(word.start_ms - _AWAY_MS) : levels.place(word.end_ms + _AWAY_MS)] = True
    pauses, speech = decibels[~near], decibels[spoken]
    if len(pauses) < 20 or len(speech) < 20:
        low, high = (float(one) for one in np.percentile(decibels, [10, 90]))
    else:
        low, high = float(np.median(pauses)), float(np.median(speech))
    return low + max(_ABOVE_DB, _SHARE * (high - low))


def quiet_passages(levels: Levels, below_db: float) -> list[tuple[int, int]]:
    """The passages in which a recording stays below a level, but for moments too short to be anything."""
    loud = levels.decibels >= below_db
    edges = np.flatnonzero(np.diff(np.concatenate([[True], loud, [True]]).astype(np.int8)))
    spans = [(a * levels.step_ms, b * levels.step_ms) for a, b in zip(edges[::2], edges[1::2])]
    found: list[tuple[float, float]] = []
    for start, end in spans:
        if found and start - found[-1][1] <= _BLIP_MS:
            found[-1] = (found[-1][0], end)
        else:
            found.append((start, end))
    return [(round(start), round(end)) for start, end in found]


def gaps(project: Project) -> list[tuple[int, int]]:
    """The passages in which no word is said, that before the first and that after the last included."""
    found, at = list[tuple[int, int]](), 0
    for turn in project.transcript.turns:
        for word in turn.words:
            if word.start_ms > at:
                found.append((at, word.start_ms))
            at = max(at, word.end_ms)
    length = length_of(project)
    return [*found, (at, length)] if length > at else found


def pauses(
    project: Project,
    longer_ms: int,
    becomes_ms: int,
    levels: Levels | None = None,
    *,
    below_db: float | None = None,
    keep_ms: int = KEEP_MS,
    sounds: bool = False,
) -> list[TakenOut]:
    """What may go of the pauses that are longer than something, so that each becomes as long as wished.

    Parameters
    ----------
    longer_ms, becomes_ms : int
        Pauses up to the first stay; the others become as long as the second.
    levels : Levels, optional
        Of the recording. A pause is where no word is said and it is quiet: a breath,
        a laugh or music is none. Without levels, where no word is said.
    below_db : float, optional
        The level below which it is quiet; found for the recording unless given.
    keep_ms : int
        Room that stays before and after each word at the least.
    sounds : bool
        Whether sounds between words go with the pauses.
    """
    spans = [(span, span) for span in gaps(project)]
    if levels is not None and not sounds:
        below = quiet_level(project, levels) if below_db is None else below_db
        spans = _quiet_parts(gaps(project), quiet_passages(levels, below))
    length, longest = length_of(project), max(longer_ms, becomes_ms)
    found = []
    for (start, end), (quiet_from, quiet_until) in spans:
        if end - start <= longest:
            continue
        before = max(round(becomes_ms / 2), keep_ms)
        after = max(becomes_ms - before, keep_ms)
        if start == 0:  # the first and the last pause have a word on one side only
            before, after = 0, max(becomes_ms, keep_ms)
        elif end >= length:
            before, after = max(becomes_ms, keep_ms), 0
            if levels is not None and length - quiet_until <= 2 * levels.step_ms:
                quiet_until = length  # the level is known in whole steps: no crumb stays at the end
        out = max(start + before, quiet_from), min(end - after, quiet_until)
        if out[1] > out[0]:
            found.append(TakenOut(*out, "pause"))
    return found


def _quiet_parts(
    silent: Sequence[tuple[int, int]], quiet: Sequence[tuple[int, int]]
) -> list[tuple[tuple[int, int], tuple[int, int]]]:
    """Pauses with what of them is quiet: tails of words are of the pause, a breath parts two."""
    found, nth = [], 0
    for start, end in silent:
        while nth < len(quiet) and quiet[nth][1] <= start:
            nth += 1
        at = nth
        while at < len(quiet) and quiet[at][0] < end:
            since, until = max(start, quiet[at][0]), min(end, quiet[at][1])
            whole = (start if since - start <= _TAIL_MS else since, end if end - until <= _TAIL_MS else until)
            found.append((whole, (since, until)))
            at += 1
    return found
