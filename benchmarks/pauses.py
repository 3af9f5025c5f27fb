"""Pauses taken out of made speech with a known clock: how much of what could go, and whether words lose any.

The baseline takes a pause to be wherever it is quiet, with no regard to words.
"""

from __future__ import annotations

import random
import sys

import numpy as np
from common import report
from voices import speak

from dubrel.edits.cuts.pauses import Levels, pauses, quiet_level, quiet_passages
from dubrel.edits.intake import set_turns
from dubrel.media.peaks import PeakBuilder
from dubrel.model import Media, Project, RecognisedTurn, RecognisedWord, Speaker

RATE = 16_000
LONGER_MS, BECOMES_MS = 800, 300
SENTENCES = (
    "Mostly oak, and most of it tired.",
    "The bottom boards at the stern are gone, you can put your thumb through them.",
    "The knees are sound though, and the sternpost is the original.",
    "She carried flour and coal for sixty years, and then she was a houseboat.",
    "Forgotten is kind. She sat in the reeds below the old mill for twenty winters.",
    "So we make a pattern from thin plywood, and we steam the new oak for an hour.",
    "Six feet ten across, and every one of those feet leaks.",
    "It still rings when you knock on it.",
)
VOICES = ("slt", "awb", "rms")


def made(words: int, seed: int = 1) -> tuple[np.ndarray, list[tuple[str, float, float]]]:
    """Speech of several voices with pauses of any length, and when each word is said in ms."""
    chance = random.Random(seed)
    pool = [speak(text, voice) for voice in VOICES for text in SENTENCES]
    parts, times, at = [np.zeros(RATE, np.float32)], [], RATE
    while len(times) < words:
        one = chance.choice(pool)
        samples = np.asarray(one.samples, np.float32)
        times += [
            (w.text, (at + w.start * RATE) * 1000 / RATE, (at + w.end * RATE) * 1000 / RATE)
            for w in one.words
        ]
        gap = np.zeros(int(chance.choice((0.1, 0.4, 0.7, 0.9, 1.2, 2.0, 4.0)) * RATE), np.float32)
        parts += [samples, gap]
        at += len(samples) + len(gap)
    sound = np.concatenate(parts)
    sound += np.random.default_rng(seed).normal(0, 3e-4, len(sound)).astype(np.float32)  # the room
    return sound, times


def with_noise(sound: np.ndarray, decibels: float) -> np.ndarray:
    """The sound with noise so far below it."""
    loud = np.sqrt(np.mean(sound[np.abs(sound) > 0.01] ** 2))
    noise = np.random.default_rng(2).normal(0, loud * 10 ** (-decibels / 20), len(sound))
    return sound + noise.astype(np.float32)


def as_aligned(times: list[tuple[str, float, float]]) -> list[RecognisedWord]:
    """Words as the aligner gives them: off by some ms (9 at the middle, 30 at 95 %)."""
    rng = np.random.default_rng(3)
    found, before = [], 0
    for text, start, end in times:
        a, b = (ms + rng.laplace(0, 12) for ms in (start, end))
        first = max(before, round(a))
        found.append(RecognisedWord(text, first, max(first + 10, round(b))))
        before = found[-1].end_ms
    return found


def measured(
    sound: np.ndarray, times: list[tuple[str, float, float]], out: list[tuple[int, int]]
) -> tuple[float, int]:
    """The share of what could go that goes, and how many words lose more than 5 ms."""
    length = len(sound) * 1000 / RATE
    edges = [0.0] + [end for _, _, end in times]
    could = sum(
        max(0.0, start - before - BECOMES_MS)
        for before, (_, start, _) in zip(edges, times)
        if start - before > LONGER_MS
    )
    could += max(0.0, length - edges[-1] - BECOMES_MS)
    goes = sum(end - start for start, end in out)
    starts = np.array([start for _, start, _ in times])
    lost = 0
    for start, end in out:
        for nth in range(max(0, int(np.searchsorted(starts, start)) - 2), len(times)):
            _, since, until = times[nth]
            if since >= end:
                break
            lost += min(end, until) - max(start, since) > 5
    return goes / could, lost


def main() -> None:
    """Print a line for clean sound and one for noise."""
    words = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    sound, times = made(words)
    for name, heard in (("clean", sound), ("15 dB", with_noise(sound, 15))):
        builder = PeakBuilder()
        builder.add((np.clip(heard, -1, 1) * 32767).astype(np.int16))
        levels = Levels.of_peaks(builder.finish())
        media = Media("made.wav", "", "", levels.length_ms, channels=1)
        turns = [RecognisedTurn(tuple(as_aligned(times)), "s0")]
        project = set_turns(Project(media=media), turns, [Speaker("s0")], "en")
        found = [(one.start_ms, one.end_ms) for one in pauses(project, LONGER_MS, BECOMES_MS, levels)]
        share, lost = measured(heard, times, found)
        quiet = quiet_passages(levels, quiet_level(project, levels))
        half = BECOMES_MS // 2
        plain = [(a + half, b - half) for a, b in quiet if b - a > LONGER_MS]
        share_plain, lost_plain = measured(heard, times, plain)
        report(
            "pauses",
            sound=name,
            words=len(times),
            found=share,
            words_cut_into=lost,
            baseline_found=share_plain,
            baseline_cut_into=lost_plain,
            ratio=share / max(share_plain, 1e-9),
        )


if __name__ == "__main__":
    main()
