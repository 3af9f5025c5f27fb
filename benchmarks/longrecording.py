"""Hours of sound: time against the bare recogniser, memory of all processes, and whether the rate stays."""

from __future__ import annotations

import argparse
import os
import tempfile
import threading
import time
import wave
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np
from common import DEMO, report


def family_bytes(pid: int) -> int:
    """Memory of a process and all below it that the system cannot take back: pages of files left out."""
    total = 0
    for line in Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines():
        if line.startswith("Pss_Anon:"):
            total += int(line.split()[1]) * 1024
    for task in Path(f"/proc/{pid}/task").iterdir():
        for child in (task / "children").read_text().split():
            try:
                total += family_bytes(int(child))
            except (FileNotFoundError, ProcessLookupError):
                continue
    return total


def long_wave(folder: Path, hours: float) -> Path:
    """The demo's recordings over and over, as one file."""
    from dubrel.media.sound import decode_blocks

    parts = [
        np.concatenate(list(decode_blocks(DEMO / name))) for name in ("slow-water-7.opus", "heron-film.mp4")
    ]
    once = np.concatenate(parts)
    path = folder / "long.wav"
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(16_000)
        left = int(hours * 3600 * 16_000)
        while left > 0:
            piece = once[:left]
            file.writeframes(piece.tobytes())
            left -= len(piece)
    return path


def bare_rate(path: Path, seconds: int = 600) -> float:
    """Seconds that the recogniser alone takes for a second of sound."""
    from moonshine_voice import ModelArch, Transcriber, get_model_path

    with wave.open(str(path)) as file:
        sound = np.frombuffer(file.readframes(seconds * 16_000), "<i2").astype(np.float32) / 32768
    engine = Transcriber(get_model_path("tiny-en"), ModelArch.TINY)
    began = time.perf_counter()
    engine.transcribe_without_streaming(sound.tolist(), 16_000)
    return (time.perf_counter() - began) / (len(sound) / 16_000)


def main() -> None:
    """Hear a long recording and print the figures."""
    from dubrel.jobs.machinery.events import Recognised
    from dubrel.jobs.transcribing.transcribe import transcribe
    from dubrel.media.probe import probe

    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--hours", type=float, default=1.0)
    hours = parser.parse_args().hours
    with tempfile.TemporaryDirectory() as folder:
        path = long_wave(Path(folder), hours)
        with ProcessPoolExecutor(1) as pool:  # its memory is not ours
            bare = pool.submit(bare_rate, path).result()
        most, stop = [0], threading.Event()

        def watch() -> None:
            while not stop.wait(0.5):
                most[0] = max(most[0], family_bytes(os.getpid()))

        watcher = threading.Thread(target=watch)
        watcher.start()
        began, marks, count = time.perf_counter(), [], 0
        for event in transcribe(probe(path)):
            if isinstance(event, Recognised):
                count += len(event.words)
                marks.append((event.words[-1].end_ms / 1000, time.perf_counter() - began))
        spent = time.perf_counter() - began
        stop.set()
        watcher.join()
        half = min(marks, key=lambda mark: abs(mark[0] - hours * 1800))
        report(
            f"{hours:g} hours of sound",
            real_time=spent / hours / 3600,
            ratio=spent / hours / 3600 / bare,
            limit=1.0,
            second_half_against_first=(spent - half[1]) / half[1],
            megabytes_of_all_processes=most[0] / 1e6,
            limit_megabytes=1500,
            words=count,
        )


if __name__ == "__main__":
    main()
