"""The whole pipeline against the bare recogniser on the same samples: time and word error rate."""

from __future__ import annotations

import time

import numpy as np
from common import DEMO, normal, report, truth


def main() -> None:
    """Run both on the demo podcast, alternating, and print ratios."""
    from moonshine_voice import ModelArch, Transcriber, get_model_path

    from dubrel.jobs.events import Heard
    from dubrel.jobs.transcribe import transcribe
    from dubrel.media.probe import probe
    from dubrel.media.sound import peaks_path, read_sound, samples_of, sound_path
    from dubrel.speech.compare import word_error_rate

    media = probe(DEMO / "slow-water-7.opus")
    list(read_sound(media))
    floats = (np.array(samples_of(media), np.float32) / 32768).tolist()
    reference = [form for word, _, _ in truth("slow-water-7") for form in normal(word)]
    bare_s, ours_s = [], []
    for _ in range(2):
        sound_path(media).unlink()
        peaks_path(media).unlink()
        began = time.perf_counter()
        words = [word for event in transcribe(media) if isinstance(event, Heard) for word in event.words]
        ours_s.append(time.perf_counter() - began)
        began = time.perf_counter()
        engine = Transcriber(get_model_path("tiny-en"), ModelArch.TINY)
        bare = engine.transcribe_without_streaming(floats, 16_000)
        bare_s.append(time.perf_counter() - began)
    ours_wer = word_error_rate(reference, normal(" ".join(word.text for word in words)))
    bare_wer = word_error_rate(reference, normal(" ".join(line.text for line in bare.lines)))
    report(
        "transcribing",
        ratio=min(ours_s) / min(bare_s),
        limit=1.6,
        real_time=min(ours_s) * 1000 / media.duration_ms,
        word_error_rate=ours_wer,
        bare_word_error_rate=bare_wer,
    )


if __name__ == "__main__":
    main()
