"""The shape of the sound: a pyramid of minima and maxima for drawing."""

from __future__ import annotations

import os
from copy import copy
from pathlib import Path

import numpy as np

from dubrel.media.cache import BLOCK

BLOCKS_A_SECOND = 16_000 // BLOCK
_STEP = 4
_QUIETEST = 2048.0  # the loudest passages of a whole recording are taken to be at least so loud
MOST_GAIN = 12.0  # what a quiet voice is raised by at most, so that silence stays silent
_FULL = 0.95
_AROUND_MS, _BLOCK_MS = 4000, 500


def gain_for(level: float) -> float:
    """By how much a passage is drawn larger, so that a quiet voice can be read as well as a loud one.

    Parameters
    ----------
    level : float
        Of its loud parts, 0 to 1 of the loudest passages of the recording.
    """
    return min(MOST_GAIN, _FULL / max(level, 1e-6))


def level_of(columns: np.ndarray) -> float:
    """The 95th percentile of the size of columns, shape (n, 2)."""
    return float(np.percentile(np.abs(columns).max(axis=1), 95)) if len(columns) else 0.0


class PeakBuilder:
    """Gathers the finest level while the sound is being decoded."""

    def __init__(self) -> None:
        self._rest = np.zeros(0, np.int16)
        self._parts: list[np.ndarray] = []

    def add(self, samples: np.ndarray) -> None:
        """Add the next samples (int16)."""
        if len(self._rest):
            samples = np.concatenate([self._rest, samples])
        whole = len(samples) // BLOCK * BLOCK
        self._rest = samples[whole:]
        self._append(samples[:whole].reshape(-1, BLOCK))

    def _append(self, blocks: np.ndarray) -> None:
        self._parts.append(np.stack([blocks.min(axis=1), blocks.max(axis=1)], axis=1))

    def finish(self) -> np.ndarray:
        """The finest level, shape (n, 2), int16."""
        if len(self._rest):
            self._append(np.pad(self._rest, (0, BLOCK - len(self._rest)))[None, :])
            self._rest = np.zeros(0, np.int16)
        return np.concatenate(self._parts) if self._parts else np.zeros((0, 2), np.int16)

    def save(self, path: Path) -> None:
        """Write the finest level, whole or not at all."""
        part = path.with_suffix(f".{os.getpid()}-{os.urandom(3).hex()}.part.npy")
        try:
            np.save(part, self.finish())
            part.chmod(0o600)
            part.replace(path)
        finally:
            part.unlink(missing_ok=True)


class Peaks:
    """Minima and maxima at every zoom.

    Parameters
    ----------
    finest : ndarray, shape (n, 2), int16
        One pair for every 2.5 ms.
    """

    def __init__(self, finest: np.ndarray) -> None:
        self._levels = [finest]
        while len(self._levels[-1]) > 512:
            level = self._levels[-1]
            whole = len(level) // _STEP * _STEP
            groups = level[:whole].reshape(-1, _STEP, 2)
            folded = np.stack([groups[:, :, 0].min(axis=1), groups[:, :, 1].max(axis=1)], axis=1)
            if whole < len(level):
                rest = level[whole:]
                folded = np.concatenate([folded, [[rest[:, 0].min(), rest[:, 1].max()]]]).astype(level.dtype)
            self._levels.append(folded)
        loud = np.percentile(np.abs(finest), 99.5) if len(finest) else 0
        self.loudest = max(_QUIETEST, float(loud))

    def replaced(self, first: int, pairs: np.ndarray) -> None:
        """Put other minima and maxima in place of some of the finest level; what it costs is theirs alone.

        Parameters
        ----------
        first : int
            The 2.5 ms that the first pair stands for.
        pairs : ndarray, shape (n, 2), int16
        """
        after = min(first + len(pairs), len(self._levels[0]))
        self._levels[0][first:after] = pairs[: max(0, after - first)]
        for level in range(1, len(self._levels)):
            below, size = self._levels[level - 1], len(self._levels[level])
            first, after = first // _STEP, min(-(-after // _STEP), size)
            for place in range(first, after) if after - first < _STEP else ():
                part = below[place * _STEP : (place + 1) * _STEP]
                self._levels[level][place] = part[:, 0].min(), part[:, 1].max()
            if after - first >= _STEP:
                whole = min(after, len(below) // _STEP)
                groups = below[first * _STEP : whole * _STEP].reshape(-1, _STEP, 2)
                self._levels[level][first:whole, 0] = groups[:, :, 0].min(axis=1)
                self._levels[level][first:whole, 1] = groups[:, :, 1].max(axis=1)
                if whole < after:
                    rest = below[whole * _STEP :]
                    self._levels[level][whole] = rest[:, 0].min(), rest[:, 1].max()

    def copied(self) -> Peaks:
        """Another one of the same values."""
        return Peaks(self._levels[0].copy())

    def shared(self) -> Peaks:
        """Another one on the same values: known by itself to whoever keeps what was drawn of it."""
        return copy(self)

    @classmethod
    def load(cls, path: Path) -> Peaks:
        """Read a saved finest level."""
        return cls(np.load(path))

    @property
    def duration_ms(self) -> int:
        """How long the sound is."""
        return len(self._levels[0]) * 1000 // BLOCKS_A_SECOND

    def columns(self, start_ms: float, end_ms: float, count: int) -> np.ndarray:
        """Minima and maxima for columns of a picture.

        Parameters
        ----------
        start_ms, end_ms : float
            The passage of time that the columns show; may reach past the ends.
        count : int
            How many columns.

        Returns
        -------
        ndarray, shape (count, 2), float32
            Between -1 and 1 of the loudest passages; zero outside the sound.
        """
        edges = np.linspace(start_ms, end_ms, count + 1)
        return self.at_edges(edges[:-1], edges[1:])

    def evened(self, start_ms: float, end_ms: float, count: int) -> np.ndarray:
        """As :meth:`columns`, each drawn to the loudness of the seconds around it."""
        shown = self.columns(start_ms, end_ms, count)
        margin = _AROUND_MS + _BLOCK_MS
        blocks = min(4000, max(1, round((end_ms - start_ms + 2 * margin) / _BLOCK_MS)))
        coarse = self.columns(start_ms - margin, end_ms + margin, blocks)
        sizes = np.abs(coarse).max(axis=1)
        reach = max(1, round(_AROUND_MS / ((end_ms - start_ms + 2 * margin) / blocks)))
        padded = np.pad(sizes, reach, mode="edge")
        around = np.sort(np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1), axis=1)
        levels = around[:, -2] if reach > 1 else around[:, -1]  # one click does not count
        gains = np.minimum(MOST_GAIN, _FULL / np.maximum(levels, 1e-6))
        middles = start_ms - margin + (np.arange(blocks) + 0.5) * (end_ms - start_ms + 2 * margin) / blocks
        times = start_ms + (np.arange(count) + 0.5) * (end_ms - start_ms) / max(1, count)
        made = shown * np.interp(times, middles, gains)[:, None]
        return np.clip(made, -1, 1).astype(np.float32)

    def at_edges(self, starts_ms: np.ndarray, ends_ms: np.ndarray) -> np.ndarray:
        """Minima and maxima between pairs of times; see :meth:`columns`."""
        if not len(starts_ms) or not len(self._levels[0]):
            return np.zeros((len(starts_ms), 2), np.float32)
        width = max(1e-9, float(np.mean(ends_ms - starts_ms))) * BLOCKS_A_SECOND / 1000
        level = 0
        while level + 1 < len(self._levels) and width >= 2 * _STEP ** (level + 1):
            level += 1
        data, scale = self._levels[level], BLOCKS_A_SECOND / 1000 / _STEP**level
        first = np.floor(starts_ms * scale).astype(np.int64)
        last = np.maximum(first + 1, np.ceil(ends_ms * scale).astype(np.int64))
        inside = (last > 0) & (first < len(data))
        first, last = np.clip(first, 0, len(data) - 1), np.clip(last, 1, len(data))
        begin, end = int(first.min()), int(max(last.max(), first.max() + 1))
        bounds = np.stack([first, np.maximum(last, first + 1)], axis=1).ravel() - begin
        padded = np.concatenate(
            [data[begin:end], data[end - 1 : end]]
        )  # the cost is that of what is asked for
        low = np.minimum.reduceat(padded[:, 0], bounds)[::2]
        high = np.maximum.reduceat(padded[:, 1], bounds)[::2]
        found = np.stack([low, high], axis=1).astype(np.float32) / self.loudest
        found[~inside] = 0
        return np.clip(found, -1, 1)
