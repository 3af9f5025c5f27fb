"""Who speaks in hours of sound: time, memory of all processes, voices found, words with the right speaker."""

from __future__ import annotations

import argparse
import json
import os
import tempfile
import threading
import time
from pathlib import Path

from common import DEMO, report
from longrecording import family_bytes, long_wave
from speakers import matched

from dubrel.model import RecognisedWord


def said_in(hours: float) -> list[tuple[str, int, int, str]]:
    """Text, start, end and speaker of every word of the demo's recordings over and over."""
    from dubrel.media.sound import decode_blocks

    found, at, until = [], 0, round(hours * 3_600_000)
    parts = []
    for stem, suffix in (("slow-water-7", ".opus"), ("heron-film", ".mp4")):
        length = sum(len(block) for block in decode_blocks(DEMO / f"{stem}{suffix}")) // 16
        turns = json.loads((DEMO / f"{stem}.truth.json").read_text())["turns"]
        parts.append((length, turns))
    while at < until:
        for length, turns in parts:
            for turn in turns:
                for text, start, end in turn["words"]:
                    if at + end < until:
                        found.append((text, at + start, at + end, turn["speaker"]))
            at += length
    return found


def main() -> None:
    """Tell the voices of a long recording apart and print the figures."""
    from dubrel.jobs.diarising import Asked, find_speakers
    from dubrel.jobs.machinery.events import SpeakersFound
    from dubrel.jobs.transcribing.transcribe import read_recording
    from dubrel.media.probe import probe

    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--hours", type=float, default=3.0)
    hours = parser.parse_args().hours
    with tempfile.TemporaryDirectory() as folder:
        media = probe(long_wave(Path(folder), hours))
        said = said_in(hours)
        list(read_recording(media))  # the sound has been read long before
        before, most, stop = family_bytes(os.getpid()), [0], threading.Event()

        def watch() -> None:
            while not stop.wait(0.5):
                most[0] = max(most[0], family_bytes(os.getpid()))

        watcher = threading.Thread(target=watch)
        watcher.start()
        began = time.perf_counter()
        words = [RecognisedWord(text, start, end) for text, start, end, _ in said]
        *_, found = find_speakers(media, Asked(words))
        spent = time.perf_counter() - began
        stop.set()
        watcher.join()
    assert isinstance(found, SpeakersFound)
    names = list(dict.fromkeys(who for *_, who in said))
    true = [names.index(who) for *_, who in said]
    right = sum(a == b for a, b in zip(matched(true, list(found.labels)), true))
    report(
        f"speakers in {hours:g} hours",
        real_time=spent / hours / 3600,
        limit=0.08,
        megabytes=most[0] / 1e6,
        megabytes_before=before / 1e6,
        voices=f"{len(set(found.labels))} of {len(names)}",
        words=len(said),
        words_right=right / len(said),
    )


if __name__ == "__main__":
    main()
