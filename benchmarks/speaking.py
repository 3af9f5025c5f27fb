"""Two hundred captions spoken: starts, overlaps, what is too long and said; fetching two gigabytes."""

from __future__ import annotations

import resource
import tempfile
import threading
import time
from pathlib import Path

import numpy as np
from common import report

CAPTIONS = 200
GIGABYTES = 2
WORDS = (
    "the old boat came out of the canal and nobody could say who had left it there for so many years with"
    " its door shut and a lamp on the table"
).split()


def speak(language: str) -> None:
    """Lines of three to fourteen words, in as much time as a reader has, some of them in too little."""
    from dubrel.film.order import Speaking, SpokenLine
    from dubrel.jobs.machinery.events import LinesSpoken
    from dubrel.jobs.voice.speaking import speak_lines, voice_samples

    random = np.random.default_rng(4)
    lines, at = [], 1000
    for nth in range(CAPTIONS):
        count = int(random.integers(3, 15))
        first = int(random.integers(0, len(WORDS) - count))
        text = " ".join(WORDS[first : first + count])
        span = round(len(text) * 1000 / 17) if nth % 10 else len(text) * 30
        lines.append(SpokenLine(nth, at, at + span, f"{text}.", (text.replace("the ", ""),)))
        at += span
    began = time.perf_counter()
    *_, found = speak_lines(Speaking("auto", language, "", tuple(lines), 1.25))
    spent = time.perf_counter() - began
    assert isinstance(found, LinesSpoken)
    voice = voice_samples(found.path).astype(np.float32)
    off = []
    for line in found.lines:
        before = voice[(line.start_ms - 30) * 48 : (line.start_ms + 250) * 48]
        off.append(np.flatnonzero(np.abs(before) > 0.03 * np.abs(before).max())[0] / 48 - 30)
    ends = [b.start_ms - a.end_ms for a, b in zip(found.lines, found.lines[1:])]
    over = [one for one in found.lines if one.over_ms]
    beyond = [
        one
        for one, line in zip(found.lines, lines)
        if one.end_ms > line.until_ms and not one.over_ms + one.late_ms
    ]
    report(
        f"speaking, {language}",
        lines=len(found.lines),
        starts_off_ms=float(np.percentile(np.abs(off), 95)),
        limit_ms=20,
        least_gap_ms=min(ends),
        too_long_and_said=len(over),
        late_for_it=sum(1 for one in found.lines if one.late_ms),
        over_unsaid=len(beyond),
        shorter=sum(one.shorter for one in found.lines),
        real_time=spent * 1000 / at,
    )


def fetch() -> None:
    """Two gigabytes from a server of our own, against copying them."""
    from dubrel.base.errors import MediaError
    from dubrel.jobs.addresses.fetching import fetch, look_at
    from dubrel.standins.fileserver import StandIn

    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "served").mkdir()
        (folder / "into").mkdir()
        large = folder / "served" / "large.mp3"
        with large.open("wb") as file:
            for _ in range(GIGABYTES * 1024):
                file.write(b"\x00\x01" * (1 << 19))
        server = StandIn(0, folder / "served")
        threading.Thread(target=server.serve_forever, daemon=True).start()
        offered = look_at(f"{server.address}/large.mp3")
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        began = time.perf_counter()
        try:
            list(fetch(offered, folder / "into" / "large.mp3"))
        except MediaError as error:  # it is not a recording, which is found out when all of it is there
            assert "is not a recording" in str(error), error
        report(
            "fetching",
            gigabytes=GIGABYTES,
            seconds=time.perf_counter() - began,
            more_mb=(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024,
            limit_mb=50,
        )
        server.shutdown()


def main() -> None:
    """English by the voice that ships, Portuguese by espeak-ng."""
    for language in ("en", "pt"):
        speak(language)
    fetch()


if __name__ == "__main__":
    main()
