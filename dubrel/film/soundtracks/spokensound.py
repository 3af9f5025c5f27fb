"""What is spoken, over the recording or alone."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from dubrel.film.soundtracks.forwardsound import Blocks, mixed
from dubrel.media.forwardtrack import RATE

_BLOCK_S = 5
Spans = Sequence[tuple[int, int]]


def spoken_blocks(voice: np.ndarray, length_ms: int) -> Blocks:
    """The voice alone, block by block, as long as the recording.

    Parameters
    ----------
    voice : ndarray, shape (n,), int16
        At 48 kHz, from the beginning of the recording.
    """
    total = max(length_ms * RATE // 1000, len(voice))
    for first in range(0, total, _BLOCK_S * RATE):
        yield spoken_part(voice, first, min(first + _BLOCK_S * RATE, total))[None]


def spoken_over(
    path: Path,
    length_ms: int,
    voice: np.ndarray,
    spans: Spans,
    under_db: float,
    fade_ms: int,
    tracks: Sequence[int] = (),
) -> Blocks:
    """The voice over the recording, which goes down while it speaks.

    Parameters
    ----------
    spans : sequence of (int, int)
        From when to when somebody speaks, in milliseconds, in order.
    under_db : float
        By how much the recording goes down.
    fade_ms : int
        In which time it does, before and after.
    """
    times, levels = ducking(spans, under_db, fade_ms)
    first = 0
    for block in mixed(path, length_ms, 0.0, None, tracks):
        after = first + block.shape[1]
        yield block * kept(times, levels, first, after) + spoken_part(voice, first, after)
        first = after
    if first < len(voice):
        yield spoken_part(voice, first, len(voice))[None]


def ducking(spans: Spans, under_db: float, fade_ms: int) -> tuple[np.ndarray, np.ndarray]:
    """When the recording is how loud: times in milliseconds, and decibels, straight in between.

    Where less than two fades and a breath lie between two lines it stays down.
    """
    joined: list[list[int]] = []
    for start, end in spans:
        if joined and start - joined[-1][1] < 2 * fade_ms + 300:
            joined[-1][1] = max(joined[-1][1], end)
        else:
            joined.append([start, end])
    times, levels = [0.0], [0.0]
    for start, end in joined:
        times += [max(times[-1], start - fade_ms), max(times[-1], start), end, end + fade_ms]
        levels += [0.0, -under_db, -under_db, 0.0]
    return np.array(times), np.array(levels)


def kept(times: np.ndarray, levels: np.ndarray, first: int, after: int) -> np.ndarray:
    """Factors of the recording for samples at 48 kHz."""
    return np.asarray(
        10 ** (np.interp(np.arange(first, after) * 1000 / RATE, times, levels) / 20), np.float32
    )


def spoken_part(voice: np.ndarray, first: int, after: int) -> np.ndarray:
    """Samples of what is spoken as floats, shape (n,); silence after its end."""
    made = np.zeros(max(0, after - first), np.float32)
    found = voice[first:after]
    made[: len(found)] = found.astype(np.float32) / 32768
    return made
