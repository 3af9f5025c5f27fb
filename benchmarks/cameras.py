"""Ten cameras of an hour of talk, synchronised by their sound: offsets up to ten minutes, clocks that drift.

The baseline looks for each camera at one offset, by the level alone, as a clap would be found.
"""

from __future__ import annotations

import random
import resource
import time

import numpy as np
import soxr
from common import report
from conforming import RATE, hour
from scipy import fft, signal

from dubrel.finding.camerasync import Sync, synced

SECONDS, CAMERAS, MOST_S, DRIFT = 3600, 10, 600, 50e-6


def camera_of(sound: np.ndarray, starts_s: float, length_s: float, ppm: float, seed: int) -> np.ndarray:
    """What a camera in another place of the room records: its own level, echo, noise and clock."""
    noise = np.random.default_rng(seed)
    begin, end = round(starts_s * RATE), round((starts_s + length_s) * RATE)
    part = np.zeros(end - begin, np.float32)
    low, high = max(0, begin), min(len(sound), end)
    part[low - begin : high - begin] = sound[low:high].astype(np.float32) / 32768
    echo = noise.normal(0, 1, round(0.25 * RATE)) * np.exp(-np.arange(round(0.25 * RATE)) / (0.06 * RATE))
    echo[0] = 12.0
    part = signal.oaconvolve(part, echo.astype(np.float32) / 12)[: len(part)]
    level = float(np.sqrt(np.mean(part**2)))
    part += noise.normal(0, level * 10 ** (-noise.uniform(6, 20) / 20), len(part)).astype(np.float32)
    part = soxr.resample(part, RATE * (1 + ppm), RATE, quality="HQ")  # a clock that runs slow
    gain = noise.uniform(0.1, 1.5)
    return (np.clip(part * gain, -1, 1) * 32767).astype(np.int16)


def by_level(recording: np.ndarray, camera: np.ndarray) -> Sync:
    """One offset, by the level in steps of 10 ms."""
    levels = []
    for one in (recording, camera):
        count = len(one) // 160
        level = np.abs(one[: count * 160].astype(np.float32)).reshape(count, 160).mean(axis=1)
        levels.append(level - level.mean())
    size = fft.next_fast_len(len(levels[0]) + len(levels[1]), real=True)
    found = fft.irfft(fft.rfft(levels[0], size) * np.conj(fft.rfft(levels[1], size)), size)
    best = int(np.argmax(found))
    return Sync((best if best < len(levels[0]) else best - size) * 10.0, 1.0)


def worst(found: Sync | None, starts_s: float, length_s: float, ppm: float, whole_s: float) -> float:
    """The largest error in ms, from where the camera and the recording meet to where they part."""
    if found is None:
        return float("inf")
    low, high = max(0.0, starts_s), min(whole_s, starts_s + length_s)
    errors = []
    for at in np.linspace(low, high, 9):
        of_camera = (at - starts_s) * 1000 / (1 + ppm)
        errors.append(abs(found.starts_ms + found.rate * of_camera - at * 1000))
    return max(errors)


def main() -> None:
    """Print errors and the time it takes."""
    sound, chance = hour(SECONDS), random.Random(7)
    whole = len(sound) / RATE
    ours, baseline, spent, first = [], [], 0.0, 0.0
    for nth in range(CAMERAS):
        starts = chance.uniform(-MOST_S, MOST_S)
        length = whole - starts if nth % 3 else chance.uniform(600, 1500)  # some run for a part alone
        if nth % 5 == 4:
            starts = chance.uniform(1200, 2400)  # one that starts in the middle
        ppm = DRIFT if nth == 0 else chance.uniform(-DRIFT, DRIFT)
        camera = camera_of(sound, starts, length, ppm, nth)
        begun = time.perf_counter()
        found = synced(sound, camera)
        spent += time.perf_counter() - begun
        begun = time.perf_counter()
        simple = by_level(sound, camera)
        first += time.perf_counter() - begun
        ours.append(worst(found, starts, length, ppm, whole))
        baseline.append(worst(simple, starts, length, ppm, whole))
        print(f"  camera {nth}: {ours[-1]:.2f} ms, by level {baseline[-1]:.0f} ms", flush=True)
    other = synced(sound, camera_of(hour(900, seed=3), 0.0, 900, 0, 99))
    print(f"a camera of another event: {'not taken for one' if other is None else 'TAKEN FOR ONE'}")
    print(f"worst error {max(ours):.2f} ms (wanted: 5), by level alone {max(baseline):.0f} ms")
    report("cameras", ratio=spent / first, seconds=spent, worst_ms=max(ours), by_level_ms=max(baseline))
    print(f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")


if __name__ == "__main__":
    main()
