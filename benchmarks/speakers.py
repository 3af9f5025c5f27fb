"""Made conversations with known turns: is the number of voices found, do words go to the right one."""

from __future__ import annotations

import time

import numpy as np
from common import report

_SHORT = ("Yes.", "Right.", "No, never.", "Of course.", "I see.", "That is true.")


def conversation(seed: int, people: int, noise_db: float | None) -> tuple[np.ndarray, list]:
    """Forty turns with short answers and some overlap: samples, and (text, start, end, voice) of each word."""
    from story import FILM, PODCAST
    from voices import speak

    chance = np.random.default_rng(seed)
    lines = [line for _, line, _ in PODCAST + FILM]
    voices = list(chance.permutation(["slt", "rms", "awb", "kal16"]))[:people]
    at, parts, words, last = 1.0, [], [], ""
    for _ in range(40):
        last = str(chance.choice([one for one in voices if one != last]))
        said = speak(str(chance.choice(_SHORT if chance.random() < 0.25 else lines)), last)
        at += chance.uniform(0.15, 0.9) if chance.random() > 0.1 else -chance.uniform(0.1, 0.5)
        at = max(0.2, at)
        parts.append((round(at * 16_000), said.samples * (0.09 / np.sqrt(np.mean(said.samples**2)))))
        words += [(word.text, word.start + at, word.end + at, last) for word in said.words]
        at = words[-1][2]
    sound = np.zeros(round((at + 2) * 16_000), np.float32)
    for start, piece in parts:
        sound[start : start + len(piece)] += piece[: len(sound) - start]
    level = 0.0016 if noise_db is None else 0.09 * 10 ** (-noise_db / 20)
    sound += chance.standard_normal(len(sound)).astype(np.float32) * level
    return (np.clip(sound, -1, 1) * 32767).astype(np.int16), sorted(words, key=lambda word: word[1])


def main() -> None:
    """Ten conversations of two to four people, half of them with noise at 15 dB."""
    from scipy.optimize import linear_sum_assignment

    from dubrel.edits.intake import HeardWord
    from dubrel.speech.diarise import diarise
    from dubrel.speech.voiceprint import VoiceEncoder

    encoder, counted, right, total, spent, length = VoiceEncoder(), 0, 0.0, 0.0, 0.0, 0.0
    for seed in range(10):
        people = 2 + seed % 3
        samples, words = conversation(seed, people, 15 if seed % 2 else None)
        heard = [HeardWord(text, round(a * 1000), round(b * 1000)) for text, a, b, _ in words]
        began = time.perf_counter()
        *_, found = diarise(samples, heard, encoder)
        spent += time.perf_counter() - began
        length += len(samples) / 16_000
        names = sorted({word[3] for word in words})
        table = np.zeros((len(names), len(found.prints)))
        for place, (_, a, b, voice) in enumerate(words):
            table[names.index(voice), found.labels[place]] += b - a
        rows, columns = linear_sum_assignment(-table)
        right += table[rows, columns].sum()
        total += table.sum()
        counted += len(set(found.labels.tolist())) == people
    report(
        "speakers",
        number_found=f"{counted} of 10",
        wanted="8 of 10",
        time_of_words_given_wrongly=1 - right / total,
        limit=0.1,
        real_time=spent / length,
        limit_real_time=0.08,
    )


if __name__ == "__main__":
    main()
