"""Sound made ready for the recogniser; speech without a pause cut so that no word is lost."""

from __future__ import annotations

import numpy as np
from conftest import DEMO, truth
from recordings import write_wav

from dubrel.base.text import bare_word
from dubrel.base.textpairs import pair_words, word_error_rate
from dubrel.jobs.machinery.events import Recognised
from dubrel.jobs.transcribing.transcribe import speech_chunks, transcribe
from dubrel.media.probe import probe
from dubrel.media.sound import RATE, decode_blocks
from dubrel.speech.recognise.builtin import BuiltinRecogniser
from dubrel.speech.recognise.denoising import cleaned, levelled, prepared


def film_sound(seconds: float) -> np.ndarray:
    """The beginning of the film, float."""
    return np.concatenate(list(decode_blocks(DEMO / "heron-film.mp4")))[: int(seconds * RATE)].astype(float)


def hum(count: int, level: float) -> np.ndarray:
    """Mains hum with its overtones."""
    time = np.arange(count) / RATE
    sound = sum(np.sin(2 * np.pi * 50 * k * time + k) / k for k in range(1, 7))
    return sound / np.sqrt(np.mean(sound**2)) * level


def band(sound: np.ndarray, low: float, high: float) -> float:
    """Power between two frequencies."""
    power = np.abs(np.fft.rfft(sound)) ** 2
    at = np.fft.rfftfreq(len(sound), 1 / RATE)
    return float(power[(at >= low) & (at < high)].sum())


def test_quiet_sound_is_raised_and_loud_sound_left():
    quiet = np.sin(np.arange(16_000) / 9) * 500 / 32768
    assert np.abs(levelled(quiet)).max() > 0.25
    loud = np.sin(np.arange(16_000) / 9) * 0.97
    assert np.allclose(levelled(loud), loud, atol=1e-6)
    assert levelled(np.zeros(100)).max() == 0
    assert len(levelled(np.zeros(0))) == 0


def test_hum_is_taken_down_and_speech_stays():
    speech = film_sound(8)
    level = float(np.sqrt(np.mean(speech**2)))
    dirty = np.clip(speech + hum(len(speech), level), -32768, 32767).astype(np.int16)
    before, after = dirty / 32768, cleaned(dirty)
    assert len(after) == len(dirty)
    assert band(after, 30, 70) < band(before, 30, 70) / 1000  # below speech altogether
    assert band(after, 145, 155) < band(before, 145, 155) / 3
    assert band(after, 600, 3000) > band(before, 600, 3000) * 0.7


def test_silence_short_and_odd_lengths_go_through():
    for count in (0, 1, 511, 4096, 5001):
        assert len(prepared(np.zeros(count, np.int16))) == count
        assert np.all(np.isfinite(prepared(np.zeros(count, np.int16))))


def test_a_hum_costs_little():
    sound = film_sound(14)
    words = [bare_word(text) for text, _, end in truth("heron-film") if end < 13_500]
    level = float(np.sqrt(np.mean(sound[np.abs(sound) > 1500] ** 2)))
    dirty = np.clip(sound + hum(len(sound), 1.2 * level), -32768, 32767).astype(np.int16)
    engine = BuiltinRecogniser()

    def wrong(floats: np.ndarray) -> float:
        [tokens] = engine.hear([floats])
        return word_error_rate(words, [bare_word(one.text) for one in tokens])

    untouched = wrong(levelled(dirty / 32768))
    assert wrong(prepared(dirty)) <= min(0.25, untouched)


def test_sound_without_a_pause_loses_and_doubles_no_word_at_a_seam(tmp_path):
    sound = np.concatenate(list(decode_blocks(DEMO / "slow-water-7.opus")))
    pieces, said = [], []
    for text, start, end in truth("slow-water-7"):
        if sum(map(len, pieces)) > 40 * RATE:
            break
        pieces.append(sound[start * 16 : end * 16])
        said.append(bare_word(text))
    path = write_wav(tmp_path / "breathless.wav", np.concatenate(pieces) / 32768)
    media = probe(path)
    heard = [word for event in transcribe(media) if isinstance(event, Recognised) for word in event.words]
    chunks = list(speech_chunks((np.concatenate(pieces)).astype(np.int16)))
    assert len(chunks) >= 3 and all(one.end_ms - one.start_ms <= 17_000 for one in chunks)
    covered = sum(one.end_ms - one.start_ms for one in chunks)
    assert covered > 0.97 * media.duration_ms
    assert all(a.end_ms <= b.start_ms + 40 for a, b in zip(heard, heard[1:]))
    ends = np.cumsum([len(piece) for piece in pieces]) / 16
    seams = [(a.end_ms + b.start_ms) / 2 for a, b in zip(chunks, chunks[1:])]
    pairs = pair_words(said, [bare_word(one.text) for one in heard]).pairs
    near = {k for k, end in enumerate(ends) if any(abs(end - seam) < 700 for seam in seams)}
    lost = [said[left] for left, right in pairs if right is None and left in near]
    doubled = [
        heard[right].text
        for left, right in pairs
        if left is None
        and right is not None
        and any(abs(heard[right].start_ms - seam) < 700 for seam in seams)
        and bare_word(heard[right].text) in {bare_word(one.text) for one in heard[right - 2 : right]}
    ]
    assert len(lost) <= len(seams) // 2, lost  # misheard words beside a seam, not a word at every seam
    assert not doubled
