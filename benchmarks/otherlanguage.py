"""Lining up by synthesis and warping, as for any language without a recogniser, against true word times.

The demo's voices speak English with a known clock; the aligner's own voice is
another synthesiser's. Spanish is spoken by another voice of espeak-ng itself.
"""

from __future__ import annotations

import time

import numpy as np
from common import DEMO, report, truth


def errors_of(true: list[tuple[str, float]], samples: np.ndarray, language: str) -> tuple[np.ndarray, float]:
    """Errors of the starts in milliseconds, and seconds of work for a second of sound."""
    from dubrel.jobs.transcribing.transcribe import speech_chunks
    from dubrel.speech.align.synthscript import align_by_synthesis

    began = time.perf_counter()
    *_, found = align_by_synthesis([one[0] for one in true], samples, list(speech_chunks(samples)), language)
    spent = time.perf_counter() - began
    return np.array([abs(word.start_ms - one[1]) for word, one in zip(found, true)]), spent / (
        len(samples) / 16_000
    )


def spanish() -> tuple[list[tuple[str, float]], np.ndarray]:
    """Two minutes of made-up Spanish by another voice, with its true times."""
    from dubrel.speech.align.synthesis import speak

    text = (
        "El barco viejo sale hoy del canal. Las tablas de la popa faltan, y casi todo el roble está cansado. "
        "Quitamos cada tabla con cuidado, porque enseña la forma de la siguiente. Mañana doblamos la madera "
        "nueva con vapor, entre seis personas, con guantes gruesos y sin discutir demasiado."
    )
    true, pieces, at = [], [], 0.0
    for _ in range(6):
        said = speak(text.split(), "es+f2")
        true += [(word, (at + time_[0]) * 1000) for word, time_ in zip(text.split(), said.times) if time_]
        pieces += [said.samples * 0.5, np.zeros(16_000, np.float32)]
        at += len(said.samples) / 16_000 + 1
    noise = np.random.default_rng(5).standard_normal(sum(map(len, pieces))) * 0.003
    return true, (np.clip(np.concatenate(pieces) + noise, -1, 1) * 32767).astype(np.int16)


def main() -> None:
    """Line up the demo's podcast and the Spanish and print the figures."""
    from dubrel.media.probe import probe
    from dubrel.media.sound import read_sound, samples_of

    media = probe(DEMO / "slow-water-7.opus")
    list(read_sound(media))
    english = [(text, float(start)) for text, start, _ in truth("slow-water-7")]
    for name, true, samples, language in (
        ("English as any language", english, samples_of(media), "en"),
        ("Spanish", *spanish(), "es"),
    ):
        errors, pace = errors_of(true, samples, language)
        report(
            f"by synthesis, {name}",
            words=len(true),
            median_ms=float(np.median(errors)),
            limit_ms=80,
            ninety_percent_ms=float(np.percentile(errors, 90)),
            real_time=pace,
        )


if __name__ == "__main__":
    main()
