"""A stand-in for a microphone: plays a file as if live.

``python -m dubrel.standins.microphone FILE`` writes 48 kHz mono samples (16-bit,
little endian) to standard output in the file's own time. ``--speed`` makes it
faster; ``--break-after`` lets the device go away in the middle.
"""

from __future__ import annotations

import argparse
import sys
import time
from collections.abc import Iterator
from pathlib import Path

RATE = 48_000
_BLOCK_MS = 100


def pieces(path: Path) -> Iterator[bytes]:
    """The file's sound in pieces of a tenth of a second."""
    from av import AudioResampler

    from dubrel.media.probe import open_media

    size, held = RATE * 2 * _BLOCK_MS // 1000, b""
    with open_media(path) as container:
        resampler = AudioResampler(format="s16", layout="mono", rate=RATE)
        for frame in container.decode(audio=0):
            for part in resampler.resample(frame):
                held += part.to_ndarray().tobytes()
            while len(held) >= size:
                yield held[:size]
                held = held[size:]
    yield held


def main() -> None:
    """Play to standard output until the file ends or nobody listens any more."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("file", type=Path)
    parser.add_argument("--speed", type=float, default=1.0)
    parser.add_argument("--break-after", type=float, default=float("inf"), metavar="SECONDS")
    args = parser.parse_args()
    began = time.monotonic()
    for nth, piece in enumerate(pieces(args.file)):
        at = nth * _BLOCK_MS / 1000
        if at >= args.break_after:
            sys.exit(1)
        time.sleep(max(0.0, began + at / args.speed - time.monotonic()))
        try:
            sys.stdout.buffer.write(piece)
            sys.stdout.buffer.flush()
        except BrokenPipeError:
            return


if __name__ == "__main__":
    main()
