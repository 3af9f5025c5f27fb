"""Made conversations with known turns, and the real voices in them.

Two to five people, synthesised and real voices (a reader and the two of a
dialogue that come with the recogniser's package), short answers, overlaps.
"""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import numpy as np

_SHORT = ("Yes.", "Right.", "No, never.", "Of course.", "I see.", "That is true.")
DIALOGUE = "endgame_nagg_nell.wav"
_REAL = {"reader": "two_cities.wav", "he": DIALOGUE, "she": DIALOGUE}
_SHE = [(1.5, 1.9), (3.9, 4.3), (8.6, 11.4), (14.5, 17.1), (19.3, 19.9), (22.4, 23.2), (27.9, 28.5)]
FRAME_MS = 10
_APART_MS = 500


@lru_cache(maxsize=4)
def readings(voice: str) -> list[tuple[np.ndarray, list[tuple[str, float, float]]]]:
    """Stretches of a real reading between pauses, with their words as heard and aligned."""
    import moonshine_voice

    from dubrel.jobs.machinery.events import Recognised
    from dubrel.jobs.transcribing.transcribe import transcribe
    from dubrel.media.probe import probe
    from dubrel.media.sound import samples_of

    media = probe(Path(moonshine_voice.__file__).parent / "assets" / _REAL[voice])
    heard = [word for event in transcribe(media) if isinstance(event, Recognised) for word in event.words]
    samples, found = samples_of(media), []
    for said in between_pauses(heard):
        if len(said) < 3 or (_REAL[voice] == DIALOGUE and (voice == "she") != is_hers(said[0].start_ms)):
            continue
        begin, end = said[0].start_ms - 40, said[-1].end_ms + 40
        words = [(one.text, (one.start_ms - begin) / 1000, (one.end_ms - begin) / 1000) for one in said]
        found.append((np.array(samples[max(0, begin) * 16 : end * 16], np.float32) / 32768, words))
    return found


def between_pauses(heard: list) -> list[list]:
    """Words up to each pause of a quarter of a second."""
    runs: list[list] = [[]]
    for word in heard:
        if runs[-1] and word.start_ms - runs[-1][-1].end_ms > 250:
            runs.append([])
        runs[-1].append(word)
    return runs


def is_hers(ms: int) -> bool:
    """Whether the woman of the dialogue begins to speak at a time."""
    return any(begin <= ms / 1000 <= end for begin, end in _SHE)


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


def with_second_voice(
    samples: np.ndarray, words: list, names: list[str], chance: np.random.Generator
) -> tuple[np.ndarray, list[tuple[float, float, int]]]:
    """The sound with somebody else over every other turn of ten words or more; where, and who."""
    mixed, added, first, nth = samples.astype(np.float32), [], 0, 0
    for place in range(1, len(words) + 1):
        if place < len(words) and words[place][3] == words[first][3]:
            continue
        begin, end = words[first][1] + 0.8, words[place - 1][2] - 0.3
        if place - first >= 10 and end - begin > 0.5:
            nth += 1
            who = int(chance.choice([k for k, name in enumerate(names) if name != words[first][3]]))
            sound = utterance(chance, names[who])[0][: int(min(3.0, end - begin) * 16_000)]
            if nth % 2:
                start = int(begin * 16_000)
                mixed[start : start + len(sound)] += sound * 32767
                added.append((begin, begin + len(sound) / 16_000, who))
        first = place
    return np.clip(mixed, -32768, 32767).astype(np.int16), added


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
            found[person, int(a * 1000 / FRAME_MS) : int(end * 1000 / FRAME_MS)] = True
    return found
