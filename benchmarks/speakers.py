"""Made conversations with known turns: number of voices found, error rate, words with the right speaker.

Two to five people, synthesised and real voices (a reader and the two of a
dialogue that come with the recogniser's package), short answers, overlaps, noise
at 15 dB in half of them.
The diarisation error rate has no collar; where two speak it does not count.
"""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import numpy as np
from common import report
from conversations import DIALOGUE, conversation, is_hers, speaking, with_second_voice

from dubrel.model import RecognisedWord


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
    from dubrel.speech.speakers.diarise import diarise
    from dubrel.speech.speakers.voiceprint import VoiceEncoder

    encoder, counted, rates, right, after, total = VoiceEncoder(), 0, [], 0, 0, 0
    spent = length = 0.0
    marked_right = marked = overlapped = 0
    for seed in range(10):
        people = 2 + seed % 4
        samples, words = conversation(seed, people, 15 if seed % 2 else None)
        heard = [RecognisedWord(text, round(a * 1000), round(b * 1000)) for text, a, b, _ in words]
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


def together() -> None:
    """A second voice over the middle of every other long turn: is it found, and is it known whose it is."""
    from dubrel.speech.speakers.overlap import overlaps
    from dubrel.speech.speakers.voiceprint import VoiceEncoder

    encoder, found, named, over, vain, alone = VoiceEncoder(), 0, 0, 0, 0, 0
    for seed in range(4):
        samples, words = conversation(seed, 2 + seed, 15 if seed % 2 else None)
        names = list(dict.fromkeys(word[3] for word in words))
        true = np.array([names.index(word[3]) for word in words])
        heard = [RecognisedWord(text, round(a * 1000), round(b * 1000)) for text, a, b, _ in words]
        centres = centres_of(samples, words, names, encoder)
        before = speaking(
            [(a, b, who) for (_, a, b, _), who in zip(words, true)], len(names), len(samples) // 160
        )
        samples, added = with_second_voice(samples, words, names, np.random.default_rng(100 + seed))
        *_, also = overlaps(samples, heard, true, centres, encoder)
        for place, (_, start, end, _) in enumerate(words):
            shares = [(min(e, end) - max(s, start), who) for s, e, who in added]
            share, who = max(shares, default=(0.0, -1))
            if share > 0.6 * (end - start):
                over += 1
                found += also[place] >= 0
                named += also[place] == who
            elif share <= 0 and before[:, int(start * 100) : int(end * 100)].sum(axis=0).max(initial=0) < 2:
                alone += 1
                vain += also[place] >= 0
    report(
        "speakers, a second voice over a turn",
        found=found / over,
        and_named=named / over,
        words=over,
        in_vain=f"{vain} of {alone}",
    )


def centres_of(samples: np.ndarray, words: list, names: list[str], encoder) -> np.ndarray:
    """The mean voice print of each person's words."""
    rows = []
    for name in names:
        own = [samples[int(a * 16_000) : int(b * 16_000)] for _, a, b, who in words if who == name]
        sound = np.concatenate(own)[: 60 * 16_000]
        starts = np.arange(0, max(1, len(sound) - 25_600), 12_800)
        mean = np.concatenate(list(encoder.prints(sound, starts))).mean(axis=0)
        rows.append(mean / np.linalg.norm(mean))
    return np.stack(rows)


def dialogue() -> None:
    """The real dialogue of the recogniser's package, from sound to turns.

    Two people, one begins each time.
    """
    import moonshine_voice

    from dubrel.jobs.machinery.events import Recognised
    from dubrel.jobs.transcribing.transcribe import transcribe
    from dubrel.media.probe import probe
    from dubrel.media.sound import samples_of
    from dubrel.speech.speakers.diarise import diarise
    from dubrel.speech.speakers.voiceprint import VoiceEncoder

    media = probe(Path(moonshine_voice.__file__).parent / "assets" / DIALOGUE)
    heard: list[RecognisedWord] = [w for e in transcribe(media) if isinstance(e, Recognised) for w in e.words]
    *_, voices = diarise(samples_of(media), heard, VoiceEncoder())
    true = [int(is_hers(word.start_ms)) for word in heard]
    right = np.mean([a == b for a, b in zip(true, matched(true, voices.labels.tolist()))])
    report("speakers, a real dialogue", voices=f"{len(voices.prints)} of 2", words_right=float(right))


def apart() -> None:
    """Three people with a microphone each that hears the others at -18 dB: the job from sound to turns."""
    import sys

    from common import ROOT

    sys.path.insert(0, str(ROOT / "tests"))
    from recordings import microphones, write_wav

    from dubrel.jobs.machinery.events import RecognisedTurns
    from dubrel.jobs.transcribing.transcribe import transcribe
    from dubrel.media.probe import probe
    from dubrel.model.choices import Choices

    made = microphones(24)
    with tempfile.TemporaryDirectory() as folder:
        path = write_wav(Path(folder) / "apart.wav", made.samples)
        turns = [
            turn
            for event in transcribe(probe(path), Choices(apart=True))
            if isinstance(event, RecognisedTurns)
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
    together()
    dialogue()
    apart()
