"""The whole pipeline against the bare recogniser on the same samples: time and word error rate."""

from __future__ import annotations

import tempfile
import time
import wave
from pathlib import Path

import numpy as np
from common import DEMO, normal, report, truth

from dubrel.media.sound import decode_blocks


def noisy(name: str, folder: Path, decibels: float = 10.0) -> Path:
    """A demo recording with white noise so far below its speech."""
    samples = np.concatenate(list(decode_blocks(DEMO / name))).astype(np.float32)
    loud = np.abs(samples) > np.abs(samples).max() * 0.05
    level = np.sqrt(np.mean(samples[loud] ** 2)) * 10 ** (-decibels / 20)
    noise = np.random.default_rng(9).standard_normal(len(samples)) * level
    path = folder / "noisy.wav"
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(16_000)
        file.writeframes(np.clip(samples + noise, -32768, 32767).astype("<i2").tobytes())
    return path


def measure(name: str, path: Path, reference: list[str]) -> None:
    """Run both on a recording, alternating, and print ratios."""
    from moonshine_voice import ModelArch, Transcriber, get_model_path

    from dubrel.base.textpairs import word_error_rate
    from dubrel.jobs.machinery.events import Recognised
    from dubrel.jobs.transcribing.transcribe import transcribe
    from dubrel.media.cache import peaks_path, sound_path
    from dubrel.media.probe import probe
    from dubrel.media.sound import read_sound, samples_of

    media = probe(path)
    list(read_sound(media))
    floats = (np.array(samples_of(media), np.float32) / 32768).tolist()
    bare_s, ours_s = [], []
    for _ in range(2):
        sound_path(media).unlink()
        peaks_path(media).unlink()
        began = time.perf_counter()
        words = [word for event in transcribe(media) if isinstance(event, Recognised) for word in event.words]
        ours_s.append(time.perf_counter() - began)
        began = time.perf_counter()
        engine = Transcriber(get_model_path("tiny-en"), ModelArch.TINY)
        bare = engine.transcribe_without_streaming(floats, 16_000)
        bare_s.append(time.perf_counter() - began)
    report(
        f"transcribing, {name}",
        ratio=min(ours_s) / min(bare_s),
        limit=1.3,
        real_time=min(ours_s) * 1000 / media.duration_ms,
        word_error_rate=word_error_rate(reference, normal(" ".join(word.text for word in words))),
        bare_word_error_rate=word_error_rate(reference, normal(" ".join(line.text for line in bare.lines))),
    )


def main() -> None:
    """Hear the demo podcast, clean and with noise."""
    reference = [form for word, _, _ in truth("slow-water-7") for form in normal(word)]
    measure("clean", DEMO / "slow-water-7.opus", reference)
    with tempfile.TemporaryDirectory() as folder:
        measure("noise at 10 dB", noisy("slow-water-7.opus", Path(folder)), reference)


if __name__ == "__main__":
    main()
