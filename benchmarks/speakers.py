"""Made conversations with known turns: number of voices found, error rate, words with the right speaker.

Two to five people, synthesised and real voices (readings that come with the
recogniser's package), short answers, overlaps, noise at 15 dB in half of them.
The diarisation error rate has no collar; where two speak it does not count.
"""

from __future__ import annotations

import tempfile
import time
from functools import lru_cache
from pathlib import Path

import numpy as np
from common import report

_SHORT = ("Yes.", "Right.", "No, never.", "Of course.", "I see.", "That is true.")
_REAL = {"real one": "beckett.wav", "real two": "two_cities.wav"}
_FRAME_MS = 10
_APART_MS = 500


@lru_cache(maxsize=4)
def readings(voice: str) -> list[tuple[np.ndarray, list[tuple[str, float, float]]]]:
    """Stretches of a real reading between pauses, with their words as heard and aligned."""
    import moonshine_voice

    from dubrel.jobs.events import Heard
    from dubrel.jobs.transcribe import transcribe
    from dubrel.media.probe import probe
    from dubrel.media.sound import samples_of

    media = probe(Path(moonshine_voice.__file__).parent / "assets" / _REAL[voice])
    heard = [word for event in transcribe(media) if isinstance(event, Heard) for word in event.words]
    samples, found, first = samples_of(media), [], 0
    for place in range(1, len(heard) + 1):
        pause = place == len(heard) or heard[place].start_ms - heard[place - 1].end_ms > 250
        if pause and (place - first >= 3 or place == len(heard)):
            begin, end = heard[first].start_ms - 40, heard[place - 1].end_ms + 40
            words = [
                (one.text, (one.start_ms - begin) / 1000, (one.end_ms - begin) / 1000)
                for one in heard[first:place]
            ]
            found.append((np.array(samples[max(0, begin) * 16 : end * 16], np.float32) / 32768, words))
            first = place
    return found


def utterance(chance: np.random.Generator, voice: str) -> tuple[np.ndarray, list[tuple[str, float, float]]]:
    """Something said by a voice: samples at an even loudness, and its words."""
    from story import FILM, PODCAST
    from voices import speak

    if voice in _REAL:
        some = readings(voice)
        sound, words = some[chance.integers(len(some))]
    else:
        lines = [line for _, line, _ in PODCAST + FILM]
        said = speak(str(chance.choice(_SHORT if chance.random() < 0.25 else lines)), voice)
        sound, words = said.samples, [(one.text, one.start, one.end) for one in said.words]
    return sound * (0.09 / np.sqrt(np.mean(sound**2))), words


def conversation(seed: int, people: int, noise_db: float | None) -> tuple[np.ndarray, list]:
    """Forty turns with some overlap: samples, and (text, start, end, voice) of each word."""
    chance = np.random.default_rng(seed)
    voices = list(chance.permutation(["slt", "rms", "awb", "kal16", *_REAL]))[:people]
    at, parts, words, last = 1.0, [], [], ""
    for _ in range(40):
        last = str(chance.choice([one for one in voices if one != last]))
        sound, said = utterance(chance, last)
        at += chance.uniform(0.15, 0.9) if chance.random() > 0.1 else -chance.uniform(0.1, 0.5)
        at = max(0.2, at)
        parts.append((round(at * 16_000), sound))
        words += [(text, a + at, b + at, last) for text, a, b in said]
        at = words[-1][2]
    sound = np.zeros(round((at + 2) * 16_000), np.float32)
    for start, piece in parts:
        sound[start : start + len(piece)] += piece[: len(sound) - start]
    level = 0.0016 if noise_db is None else 0.09 * 10 ** (-noise_db / 20)
    sound += chance.standard_normal(len(sound)).astype(np.float32) * level
    return (np.clip(sound, -1, 1) * 32767).astype(np.int16), sorted(words, key=lambda word: word[1])


def speaking(words: list[tuple[float, float, int]], people: int, frames: int) -> np.ndarray:
    """In which frames each person speaks: from word to word, short pauses within.

    Parameters
    ----------
    words : list of (start, end, person), in seconds and in order
    """
    found = np.zeros((people, frames), bool)
    for person in range(people):
        own = [(a, b) for a, b, who in words if who == person]
        for place, (a, b) in enumerate(own):
            near = place + 1 < len(own) and own[place + 1][0] - b < _APART_MS / 1000
            end = own[place + 1][0] if near else b
            found[person, int(a * 1000 / _FRAME_MS) : int(end * 1000 / _FRAME_MS)] = True
    return found


def error_rate(true: np.ndarray, found: np.ndarray) -> float:
    """Missed, invented and confused time over the time that somebody speaks; overlap left out."""
    alone = true.sum(axis=0) <= 1
    both = (true & alone).any(axis=0)
    right = (true & found & alone).any(axis=0)
    invented = alone & ~true.any(axis=0) & found.any(axis=0)
    return float((both & ~right).sum() + invented.sum()) / float(both.sum())


def matched(true: list[int], labels: list[int]) -> list[int]:
    """Found numbers as true ones, by the best pairing over words."""
    from scipy.optimize import linear_sum_assignment

    table = np.zeros((max(true) + 1, max(labels) + 1))
    np.add.at(table, (true, labels), 1)
    rows, columns = linear_sum_assignment(-table)
    pairs = dict(zip(columns.tolist(), rows.tolist()))
    return [pairs.get(one, -1) for one in labels]


def corrected(true: list[int], found: list[int]) -> dict[int, int]:
    """What a user says who puts the five longest wrong turns right, and says nothing else."""
    stretches, first = [], 0
    for place in range(1, len(true) + 1):
        if place == len(true) or true[place] != true[first]:
            wrong = sum(true[k] != found[k] for k in range(first, place))
            stretches.append((wrong, place - first, first, place))
            first = place
    fixed: dict[int, int] = {}
    for _, _, first, place in sorted(stretches, reverse=True)[:5]:
        fixed |= {k: true[k] for k in range(first, place)}
    return fixed


def mixed() -> None:
    """Ten conversations in one channel."""
    from dubrel.edits.intake import HeardWord
    from dubrel.speech.diarise import diarise
    from dubrel.speech.voiceprint import VoiceEncoder

    encoder, counted, rates, right, after, total = VoiceEncoder(), 0, [], 0, 0, 0
    spent = length = 0.0
    marked_right = marked = overlapped = 0
    for seed in range(10):
        people = 2 + seed % 4
        samples, words = conversation(seed, people, 15 if seed % 2 else None)
        heard = [HeardWord(text, round(a * 1000), round(b * 1000)) for text, a, b, _ in words]
        names = list(dict.fromkeys(word[3] for word in words))
        true = [names.index(word[3]) for word in words]
        began = time.perf_counter()
        *_, voices = diarise(samples, heard, encoder)
        spent += time.perf_counter() - began
        length += len(samples) / 16_000
        found = matched(true, voices.labels.tolist())
        frames = len(samples) // 160
        spans = [(a, b, who) for (_, a, b, _), who in zip(words, true)]
        guess = [(a, b, who) for (_, a, b, _), who in zip(words, found)]
        rates.append(error_rate(speaking(spans, people, frames), speaking(guess, people, frames)))
        counted += len(set(voices.labels.tolist())) == people
        right += sum(a == b for a, b in zip(true, found))
        total += len(true)
        fixed, now = corrected(true, found), [people if one < 0 else one for one in found]
        *_, again = diarise(samples, heard, encoder, fixed=fixed, now=now)
        after += sum(a == b for a, b in zip(true, again.labels.tolist()))
        both = speaking(spans, people, frames).sum(axis=0) > 1
        for (_, a, b, _), other in zip(words, voices.also):
            over = both[int(a * 100) : int(b * 100)].mean() > 0.4 if int(b * 100) > int(a * 100) else False
            overlapped += over
            marked += other >= 0
            marked_right += over and other >= 0
    report(
        "speakers",
        number_found=f"{counted} of 10",
        wanted="8 of 10",
        error_rate=float(np.mean(rates)),
        limit=0.1,
        worst=max(rates),
        words_right=right / total,
        limit_words=0.96,
        words_right_after_five_corrections=after / total,
        limit_after=0.985,
        overlap=f"{marked_right} of {overlapped} words found, {marked - marked_right} marked in vain",
        real_time=spent / length,
        limit_real_time=0.08,
    )


def apart() -> None:
    """Three people with a microphone each that hears the others at -18 dB: the job from sound to turns."""
    import sys

    from common import ROOT

    sys.path.insert(0, str(ROOT / "tests"))
    from made import microphones, write_wav

    from dubrel.jobs.events import HeardTurns
    from dubrel.jobs.hearing import Hearing
    from dubrel.jobs.transcribe import transcribe
    from dubrel.media.probe import probe

    made = microphones(24)
    with tempfile.TemporaryDirectory() as folder:
        path = write_wav(Path(folder) / "apart.wav", made.samples)
        turns = [
            turn
            for event in transcribe(probe(path), Hearing(apart=True))
            if isinstance(event, HeardTurns)
            for turn in event.turns
        ]
    true = sorted((w.start, w.end, made.names.index(t.speaker)) for t in made.turns for w in t.words)
    ids = sorted({str(turn.speaker) for turn in turns})
    found = sorted(
        (w.start_ms / 1000, w.end_ms / 1000, ids.index(str(t.speaker))) for t in turns for w in t.words
    )
    frames = made.samples.shape[1] // 160
    rate = error_rate(speaking(true, len(made.names), frames), speaking(found, len(made.names), frames))
    report("speakers, a channel each", error_rate=rate, limit=0.03)


if __name__ == "__main__":
    mixed()
    apart()
