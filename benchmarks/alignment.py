"""Forced alignment against the true times of the demo's words."""

from __future__ import annotations

import json
import time

import numpy as np
from common import DEMO, report


def main() -> None:
    """Align every true turn of both recordings and print errors in milliseconds."""
    from dubrel.media.probe import probe
    from dubrel.media.sound import passage, read_sound, samples_of
    from dubrel.speech.align.english import EnglishAligner

    starts, ends, spent, length = [], [], 0.0, 0
    aligner = EnglishAligner()
    for name, media_name in (("slow-water-7", "slow-water-7.opus"), ("heron-film", "heron-film.mp4")):
        media = probe(DEMO / media_name)
        list(read_sound(media))
        samples = samples_of(media)
        length += media.duration_ms
        for turn in json.loads((DEMO / f"{name}.truth.json").read_text())["turns"]:
            words = turn["words"]
            begin, end = words[0][1] - 200, words[-1][2] + 200
            began = time.perf_counter()
            found = aligner.align(np.array(passage(samples, begin, end)), [w[0] for w in words], begin)
            spent += time.perf_counter() - began
            starts += [abs(one.start_ms - word[1]) for one, word in zip(found, words)]
            ends += [abs(one.end_ms - word[2]) for one, word in zip(found, words)]
    report(
        "alignment",
        words=len(starts),
        start_median_ms=float(np.median(starts)),
        start_95_ms=float(np.percentile(starts, 95)),
        end_median_ms=float(np.median(ends)),
        end_95_ms=float(np.percentile(ends, 95)),
        limit_median_ms=20,
        limit_95_ms=60,
        real_time=spent * 1000 / length,
    )


if __name__ == "__main__":
    main()
