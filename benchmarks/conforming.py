"""Edits of an hour found again by sound alone: order changed, music laid over, level, MP3, stretch.

The baseline looks for the whole of the edit at one offset, as an audit of a shift does.
"""

from __future__ import annotations

import random
import resource
import sys
import tempfile
import time
from pathlib import Path

import av
import numpy as np
from common import ROOT, report
from takes import sentence
from voices import speak

from dubrel.finding.samesound import SamePassage, same_passages
from dubrel.media.sound import decode_blocks

sys.path.insert(0, str(ROOT / "tests"))
from recordings import tune

RATE = 16_000


def hour(seconds: int, seed: int = 1) -> np.ndarray:
    """Speech of three voices that never says the same twice, shape (n,), int16; kept between runs."""
    kept = Path(tempfile.gettempdir()) / f"dubrel-hour-{seconds}-{seed}.npy"
    if kept.is_file():
        return np.load(kept)
    chance, parts, count = random.Random(seed), [], 0
    noise = np.random.default_rng(seed)
    while count < seconds * RATE:
        samples = speak(sentence(chance), chance.choice(("slt", "awb", "rms"))).samples
        gap = np.zeros(round(chance.uniform(0.15, 1.2) * RATE), np.float32)
        parts += [samples, gap]
        count += len(samples) + len(gap)
    sound = np.concatenate(parts)[: seconds * RATE]
    sound = sound + noise.normal(0, 4e-4, len(sound)).astype(np.float32)
    made = (np.clip(sound, -1, 1) * 32767).astype(np.int16)
    np.save(kept, made)
    return made


def edited(old: np.ndarray, joins: int, chance: random.Random, order: bool) -> list[tuple[int, int]]:
    """Passages of a recording, in samples: some left out, some in another order."""
    marks = sorted(chance.sample(range(RATE, len(old) - RATE, 160), 2 * joins))
    edges = [0, *marks, len(old)]
    spans = [(a, b) for a, b in zip(edges[::2], edges[1::2]) if b - a > 1.2 * RATE]
    if order:
        for _ in range(len(spans) // 8):
            a, b = chance.sample(range(len(spans)), 2)
            spans[a], spans[b] = spans[b], spans[a]
    return spans


def through(sound: np.ndarray, codec: str, folder: Path) -> np.ndarray:
    """The sound after it was encoded and read again."""
    path = folder / f"edit.{codec}"
    with av.open(str(path), "w", format="mp3" if codec == "mp3" else "wav") as out:
        stream = out.add_stream("libmp3lame" if codec == "mp3" else "pcm_s16le", rate=RATE, layout="mono")
        if codec == "mp3":
            stream.bit_rate = 96_000
        shaped = av.AudioResampler(format=stream.format.name, layout="mono", rate=RATE, frame_size=576)
        frame = av.AudioFrame.from_ndarray(sound[None, :].astype(np.int16), "s16", "mono")
        frame.sample_rate = RATE
        for one in [*shaped.resample(frame), *shaped.resample(None)]:
            out.mux(stream.encode(one))
        out.mux(stream.encode(None))
    return np.concatenate(list(decode_blocks(path)))


def errors(
    found: list[SamePassage], spans: list[tuple[int, int]], stretch: float
) -> tuple[np.ndarray, float, float]:
    """Errors in ms of moments of the old recording, the share that is found, and of joins in 40 ms."""
    off, joins, at = [], [], 0.0
    missed = 0
    for a, b in spans:
        long = (b - a) / stretch
        for old in range(a + RATE // 4, b - RATE // 4, RATE // 2):
            true = (at + (old - a) / stretch) * 1000 / RATE
            ms = old * 1000 / RATE
            there = [
                one.at_ms + (ms - one.start_ms) * (one.until_ms - one.at_ms) / (one.end_ms - one.start_ms)
                for one in found
                if one.start_ms <= ms < one.end_ms
            ]
            best = min((abs(one - true) for one in there), default=1e9)
            missed += best > 200
            off.append(min(best, 200))
        at += long
        joins.append(at * 1000 / RATE)
    edges = np.array([edge for one in found for edge in (one.at_ms, one.until_ms)])
    near = [np.abs(edges - one).min() <= 40 for one in joins[:-1]]
    return np.array(off), 1 - missed / len(off), float(np.mean(near)) if near else 1.0


def main() -> None:
    """Print a line for each edit."""
    seconds = int(sys.argv[1]) if len(sys.argv) > 1 else 3600
    old = hour(seconds)
    music = tune(60)
    scale = seconds / 3600
    with tempfile.TemporaryDirectory() as folder:
        for nth in range(10):
            chance = random.Random(nth)
            joins = max(3, round(chance.randint(50, 300) * scale))
            spans = edited(old, joins, chance, order=nth % 2 == 1)
            made = np.concatenate([old[a:b] for a, b in spans]).astype(np.float32)
            stretch = (1.0, 1.0, 1.003, 0.996, 1.0)[nth % 5]
            if stretch != 1.0:
                places = np.arange(0, len(made) - 1, stretch)
                made = np.interp(places, np.arange(len(made)), made).astype(np.float32)
            if nth % 3 == 1:
                laid = np.tile(music, -(-len(made) // len(music)))[: len(made)].astype(np.float32)
                level = np.sqrt(np.mean(made**2)) / np.sqrt(np.mean(laid**2)) * 10 ** (-15 / 20)
                made = made + laid * level
            made *= chance.choice((1.0, 0.5, 0.25))
            new = through(np.clip(made, -32768, 32767), "mp3" if nth % 2 else "wav", Path(folder))
            began = time.perf_counter()
            found = same_passages(old, new)
            spent = time.perf_counter() - began
            off, share, near = errors(found, spans, stretch)
            report(
                "conforming",
                edit=nth,
                joins=len(spans) - 1,
                stretch=stretch,
                found=share,
                median_ms=float(np.median(off)),
                p95_ms=float(np.percentile(off, 95)),
                joins_in_40_ms=near,
                seconds=spent,
                peak_mb=resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024,
                ratio=spent / (len(new) / RATE),
            )


if __name__ == "__main__":
    main()
