"""Compare the times and words of captions with the sound.

The text of all captions is aligned with the transcription as one script. Where a
caption's first word is in the sound, against where its caption comes in, is its offset.
The offsets over time show what is wrong with the whole: nothing, a constant
shift, a drift (a slope, found by the median of pairwise slopes: Theil, 1950;
Sen, 1968), or a jump (the best single cut by absolute deviations from two
medians).
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import numpy as np

from dubrel.base.text import tidied, tokens
from dubrel.base.value import replace
from dubrel.model import Audit, AuditedCaption, Course, Cue, RecognisedWord, Timing
from dubrel.model.audit import EARLY, LATE, NOT_SPOKEN, ON_TIME, TOLERANCE_MS
from dubrel.speech.align.scriptalign import ScriptAlignment

_SAID = 0.5
_LEAST_EXTRA_MS = 450
_FACTORS: tuple[Fraction, ...] = (
    Fraction(25, 24),
    Fraction(24, 25),
    Fraction(1001, 1000),
    Fraction(1000, 1001),
)
_FACTORS += (Fraction(25025, 24000), Fraction(24000, 25025))
_NEAR_FACTOR = 0.0008


def audit(cues: Sequence[Cue], found: ScriptAlignment) -> Audit:
    """Compare captions with a line-up of their words.

    Parameters
    ----------
    cues : sequence of Cue
        In order of time.
    found : ScriptAlignment
        Of all the cues' words, one after the other.
    """
    lines, at = [], 0
    for number, cue in enumerate(cues, 1):
        text = tidied(" ".join(cue.lines))
        words = found.words[at : at + len(tokens(text))]
        at += len(words)
        lines.append(_line(number, cue, text, words))
    course = find_course([(one.start_ms, one.offset_ms) for one in lines if one.offset_ms is not None])
    lines = [_away(line, course) for line in lines]
    marked = [_marked(line, before) for line, before in zip(lines, [None, *lines])]
    return Audit(tuple(marked), course, tuple(_uncovered(lines, found.extra)))


def _line(number: int, cue: Cue, text: str, words: Sequence[RecognisedWord]) -> AuditedCaption:
    said = [word for word in words if word.timing is not Timing.UNHEARD]
    agreement = len(said) / max(1, len(words))
    heard = None
    if said and agreement >= _SAID:
        first = words.index(said[0])
        lead = sum(len(word.text) + 1 for word in words[:first]) * 65
        heard = (max(0, said[0].start_ms - lead), said[-1].end_ms)
    return AuditedCaption(number, cue.start_ms, cue.end_ms, text, round(agreement, 3), heard, "")


def _away(line: AuditedCaption, course: Course) -> AuditedCaption:
    """A line that was found far from where the course of all others puts it was not said there."""
    if line.heard is None or len(tokens(line.text)) > 4:
        return line
    astray = abs(line.heard[0] - course.corrected(line.start_ms)) > 4000
    return replace(line, heard=None, agreement=0.0) if astray else line


def _marked(line: AuditedCaption, before: AuditedCaption | None) -> AuditedCaption:
    offset = line.offset_ms
    if offset is None or line.heard is None:
        return replace(line, mark=NOT_SPOKEN)
    if offset < 0 and before is not None and before.heard is not None and _in_place(before):
        # two people at once: it could not come in while the line before was still up
        waited = 0 <= line.start_ms - before.end_ms <= 130 and line.heard[0] < before.heard[1] + 130
        if waited:
            return replace(line, mark=ON_TIME)
    mark = ON_TIME if _in_place(line) else EARLY if offset > 0 else LATE
    return replace(line, mark=mark)


def _in_place(line: AuditedCaption) -> bool:
    return line.offset_ms is not None and abs(line.offset_ms) <= TOLERANCE_MS


def find_course(points: Sequence[tuple[int, int]]) -> Course:
    """What the offsets of lines over time have in common.

    Parameters
    ----------
    points : sequence of (time in the file, offset), milliseconds
    """
    if len(points) < 3:
        shift = float(np.median([offset for _, offset in points])) if points else 0.0
        return Course("shift" if abs(shift) > TOLERANCE_MS else "steady", shift_ms=shift)
    times, offsets = np.array(points, float).T
    level = float(np.median(offsets))
    flat = float(np.mean(np.abs(offsets - level)))
    slope, base = _slope(times, offsets)
    sloped = float(np.mean(np.abs(offsets - base - slope * times)))
    cut, low, high = _best_cut(offsets)
    cut_cost = float(np.mean(np.abs(offsets - np.where(np.arange(len(offsets)) < cut, low, high))))
    rise = abs(slope) * float(times[-1] - times[0])
    if abs(high - low) > TOLERANCE_MS and cut_cost < 0.5 * flat and cut_cost < 0.7 * sloped:
        return Course("jump", shift_ms=low, jump_at_ms=int(times[cut]), jump_ms=round(high - low))
    if rise > 90 and sloped < 0.7 * flat:
        factor, name = _known(1 + slope)
        base = float(np.median(offsets - (factor - 1) * times))
        return Course("drift", shift_ms=base, factor=factor, known_factor=name)
    if abs(level) > TOLERANCE_MS * 0.8:
        return Course("shift", shift_ms=level)
    return Course("steady")


def _slope(times: np.ndarray, offsets: np.ndarray) -> tuple[float, float]:
    """Theil and Sen's line: the median of the slopes of all pairs, thinned for long files."""
    step = max(1, len(times) // 600)
    t, o = times[::step], offsets[::step]
    left, right = np.triu_indices(len(t), 1)
    apart = t[right] - t[left]
    far = apart > 0.2 * (t[-1] - t[0])
    slope = float(np.median((o[right] - o[left])[far] / apart[far])) if far.any() else 0.0
    return slope, float(np.median(offsets - slope * times))


def _best_cut(offsets: np.ndarray) -> tuple[int, float, float]:
    """Where two levels fit best, with at least three lines on each side."""
    best = (float("inf"), 0, 0.0, 0.0)
    step = max(1, len(offsets) // 400)
    for cut in range(3, len(offsets) - 2, step):
        low, high = float(np.median(offsets[:cut])), float(np.median(offsets[cut:]))
        cost = float(np.abs(offsets[:cut] - low).sum() + np.abs(offsets[cut:] - high).sum())
        best = min(best, (cost, cut, low, high))
    return best[1], best[2], best[3]


def _known(factor: float) -> tuple[float, str]:
    for known in _FACTORS:
        if abs(factor - float(known)) < _NEAR_FACTOR:
            return float(known), f"{known.numerator}/{known.denominator}"
    return factor, ""


def _uncovered(lines: Sequence[AuditedCaption], extra: Sequence[RecognisedWord]) -> list[RecognisedWord]:
    """Passages of speech outside of the text and of every line's time."""
    spans = [line.heard for line in lines if line.heard]
    runs: list[list[RecognisedWord]] = []
    for word in extra:
        middle = (word.start_ms + word.end_ms) // 2
        if any(start - 60 <= middle <= end + 60 for start, end in spans):
            continue
        if runs and word.start_ms - runs[-1][-1].end_ms < 1200:
            runs[-1].append(word)
        else:
            runs.append([word])
    found = [
        RecognisedWord(" ".join(word.text for word in run), run[0].start_ms, run[-1].end_ms) for run in runs
    ]
    return [one for one in found if one.end_ms - one.start_ms >= _LEAST_EXTRA_MS]
