"""The voice brought forward out of noise and babble, against the noisy recording itself."""

from __future__ import annotations

import tempfile
import time
import wave
from pathlib import Path

import numpy as np
from common import DEMO, normal, report, truth

RATE = 48_000


def write(path: Path, sound: np.ndarray) -> Path:
    """Float samples as a WAV file."""
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes((np.clip(sound, -1, 1) * 32767).astype("<i2").tobytes())
    return path


def read(path: Path) -> np.ndarray:
    """Mono samples of a file at 48 kHz."""
    import soxr

    from dubrel.media.probe import probe
    from dubrel.media.soundreader import SoundReader

    reader = SoundReader(path)
    sound = reader.read(0, probe(path).duration_ms * reader.rate // 1000).mean(axis=0)
    reader.close()
    return np.asarray(soxr.resample(sound, reader.rate, RATE))


def babble(length: int) -> np.ndarray:
    """Eight people at once: the film's speech at eight places."""
    film = read(DEMO / "heron-film.mp4")
    parts = [np.resize(np.roll(film, -k * len(film) // 8), length) for k in range(8)]
    return np.asarray(np.mean(parts, axis=0))


def band(length: int) -> np.ndarray:
    """A band of ours: four chords of a plucked organ, a bass and a drum, two beats a second."""
    at = np.arange(length) / RATE
    beat = at * 2 % 1
    chord = (at // 2 % 4).astype(int)
    roots = np.array([110.0, 87.31, 130.81, 98.0])[chord]
    sound = 0.5 * np.sin(2 * np.pi * roots / 2 * at) * np.exp(-2 * beat)
    for ratio in (2, 2.5, 3, 4, 5, 6):
        sound += (
            np.sin(2 * np.pi * roots * ratio * at) / ratio * np.exp(-3 * (beat * 0.5 + at * 2 // 1 % 2 * 0.5))
        )
    drum = np.random.default_rng(7).standard_normal(length) * np.exp(-30 * beat)
    return sound + 0.6 * drum


def segmental_snr(clean: np.ndarray, sound: np.ndarray) -> float:
    """Decibels, of 30 ms in which somebody speaks each, -10 to 35 (Hansen and Pellom 1998)."""
    size = 3 * RATE // 100
    a, b = (one[: len(one) // size * size].reshape(-1, size) for one in (clean, sound))
    power = (a**2).mean(axis=1)
    said = power > np.percentile(power, 40)
    found = 10 * np.log10(power / np.maximum(((a - b) ** 2).mean(axis=1), 1e-12))
    return float(np.clip(found[said], -10, 35).mean())


def words_of(path: Path) -> list[str]:
    """What the recogniser hears."""
    from dubrel.jobs.machinery.events import Recognised
    from dubrel.jobs.transcribing.transcribe import transcribe
    from dubrel.media.probe import probe

    found = [
        word for event in transcribe(probe(path)) if isinstance(event, Recognised) for word in event.words
    ]
    return normal(" ".join(word.text for word in found))


def measure(name: str, clean: np.ndarray, noise: np.ndarray, folder: Path) -> None:
    """Mix, bring forward, and print figures."""
    from pystoi import stoi  # type: ignore[import-untyped]

    from dubrel.base.textpairs import word_error_rate
    from dubrel.jobs.transcribing.transcribe import read_recording
    from dubrel.jobs.voice.forwarding import bring_forward
    from dubrel.media.forwardtrack import ForwardTrack
    from dubrel.media.probe import probe

    power = (clean**2).reshape(-1, RATE // 20).mean(axis=1)
    loud = power > np.percentile(power, 40)
    noise = noise * np.sqrt(power[loud].mean() / (noise**2).mean()) * 10 ** (-5 / 20)
    path = write(folder / f"{name}.wav", 0.5 * (clean + noise))
    media = probe(path)
    list(read_recording(media))
    began = time.perf_counter()
    list(bring_forward(media))
    spent = time.perf_counter() - began
    voice = ForwardTrack(media).read(0, len(clean))
    pauses = power < np.percentile(power, 10)
    left = [(one.reshape(-1, RATE // 20) ** 2).mean(axis=1)[pauses].mean() for one in (0.5 * noise, voice)]
    reference = [form for word, _, _ in truth("slow-water-7") for form in normal(word)]
    through = write(folder / f"{name}-through.wav", voice)
    report(
        f"forward, {name}",
        noise_down_db=10 * float(np.log10(left[0] / max(left[1], 1e-12))),
        limit_db=15,
        stoi=float(stoi(clean, voice, RATE)),
        stoi_before=float(stoi(clean, clean + noise, RATE)),
        segmental_snr=segmental_snr(0.5 * clean, voice),
        segmental_snr_before=segmental_snr(0.5 * clean, 0.5 * (clean + noise)),
        word_error_rate=word_error_rate(reference, words_of(path)),
        word_error_rate_through=word_error_rate(reference, words_of(through)),
        real_time=spent * 1000 / media.duration_ms,
        limit_real_time=0.5,
    )
    loudness(name, path, folder)


def loudness(name: str, path: Path, folder: Path) -> None:
    """How far the deliverables are from what was asked for, by an independent meter."""
    from pyloudnorm import Meter  # type: ignore[import-untyped]

    from dubrel.film.order import FilmOrder
    from dubrel.jobs.filming import make_film
    from dubrel.media.loudness import measured

    for wished in (-16.0, -23.0):
        target = folder / f"{name}.flac"
        list(make_film(FilmOrder("forward", str(path), str(target), amount=1.0, loudness=wished)))
        sound = read(target)
        _, peak = measured([sound[None]], RATE)
        report(
            f"forward, {name}, {wished:.0f} LUFS",
            off_lu=abs(float(Meter(RATE).integrated_loudness(sound)) - wished),
            limit_lu=1,
            true_peak=peak,
            limit_peak=-1,
        )


def main() -> None:
    """The demo podcast under noise, babble and a band, 5 dB below its speech."""
    clean = read(DEMO / "slow-water-7.opus")
    clean = clean[: len(clean) // (RATE // 20) * (RATE // 20)]
    with tempfile.TemporaryDirectory() as folder:
        noise = np.random.default_rng(5).standard_normal(len(clean))
        measure("noise", clean, noise, Path(folder))
        measure("babble", clean, babble(len(clean)), Path(folder))
        measure("band", clean, band(len(clean)), Path(folder))


if __name__ == "__main__":
    main()
