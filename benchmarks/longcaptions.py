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
    """The middle of three readings."""
    from dubrel.formats.register import read_file

    spent = []
    for _ in range(3):
        began = time.perf_counter()
        read_file(path)
        spent.append(time.perf_counter() - began)
    return sorted(spent)[1]


def main() -> None:
    """Print the ratios."""
    folder = Path(tempfile.mkdtemp())
    for suffix in (".srt", ".vtt"):
        for ended in (True, False):
            times = []
            for hours in (2, 8):
                path = folder / f"{hours}{suffix}"
                path.write_text(captions(hours, suffix, ended))
                times.append(seconds(path))
            report(
                "longcaptions",
                form=suffix,
                sentences=ended,
                two_h_s=times[0],
                eight_h_s=times[1],
                ratio=times[1] / times[0],
            )


if __name__ == "__main__":
    main()
