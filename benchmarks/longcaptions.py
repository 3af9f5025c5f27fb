"""Reading eight hours of captions against two: time grows with the file, not with its square."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from common import report

_CLOCK = "{:02d}:{:02d}:{:02d}{}{:03d}"


def captions(hours: int, suffix: str, ended: bool) -> str:
    """Captions of some seconds each, with sentence ends or without any."""
    mark, rows = "," if suffix == ".srt" else ".", [] if suffix == ".srt" else ["WEBVTT\n"]
    for nth in range(hours * 1200):
        start, end = nth * 3, nth * 3 + 2
        times = [_CLOCK.format(s // 3600, s // 60 % 60, s % 60, mark, 500) for s in (start, end)]
        text = "slow water runs under\nthe old wooden boat" + ("." if ended else "")
        rows.append(f"{nth + 1}\n{times[0]} --> {times[1]}\n{text}\n")
    return "\n".join(rows)


def seconds(path: Path) -> float:
    """One reading."""
    from dubrel.formats.register import read_file

    began = time.perf_counter()
    read_file(path)
    return time.perf_counter() - began


def main() -> None:
    """Print the ratios of the quickest of nine readings, taken in turns on the same machine."""
    folder = Path(tempfile.mkdtemp())
    for suffix in (".srt", ".vtt"):
        for ended in (True, False):
            paths = [folder / f"{hours}{suffix}" for hours in (2, 8)]
            for hours, path in zip((2, 8), paths):
                path.write_text(captions(hours, suffix, ended))
            two, eight = (min(times) for times in zip(*[[seconds(path) for path in paths] for _ in range(9)]))
            ratio = eight / two
            report("longcaptions", form=suffix, sentences=ended, two_h_s=two, eight_h_s=eight, ratio=ratio)


if __name__ == "__main__":
    main()
