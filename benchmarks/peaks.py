"""Reading an hour of sound (samples and peaks) against only decoding it with the same library."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import av
import numpy as np
from common import report

HOUR, RATE = 3600, 48_000


def make_hour(path: Path) -> None:
    """An hour of coloured noise as Opus, mono."""
    chance = np.random.default_rng(4)
    block = (chance.standard_normal((1, RATE)) * 0.1).astype(np.float32)
    with av.open(str(path), "w", format="ogg") as container:
        stream = container.add_stream("libopus", rate=RATE, layout="mono", options={"compression_level": "0"})
        stream.bit_rate = 48_000
        for second in range(HOUR):
            rolled = np.ascontiguousarray(np.roll(block, second * 997) * (0.2 + 0.8 * (second % 7 > 2)))
            for start in range(0, RATE, 960):
                frame = av.AudioFrame.from_ndarray(
                    rolled[:, start : start + 960], format="fltp", layout="mono"
                )
                frame.rate, frame.pts = RATE, second * RATE + start
                container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


def only_decode(path: Path) -> float:
    """Seconds that decoding alone takes."""
    began = time.perf_counter()
    with av.open(str(path)) as container:
        container.streams.audio[0].thread_type = "AUTO"
        for frame in container.decode(audio=0):
            frame.to_ndarray()
    return time.perf_counter() - began


def main() -> None:
    """Read and decode the same hour, twice each."""
    from dubrel.media.cache import peaks_path, sound_path
    from dubrel.media.probe import probe
    from dubrel.media.sound import read_sound

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "hour.opus"
        make_hour(path)
        media, ours, bare = probe(path), [], []
        for _ in range(2):
            began = time.perf_counter()
            list(read_sound(media))
            ours.append(time.perf_counter() - began)
            sound_path(media).unlink()
            peaks_path(media).unlink()
            bare.append(only_decode(path))
    report("peaks", ratio=min(ours) / min(bare), limit=1.5, ours_s=min(ours), decode_s=min(bare))


if __name__ == "__main__":
    main()
