"""Fit the weights of doubt (dubrel/speech/recognise/doubt.py) on synthesised voices, and print them.

Three voices speak the demo's story and the sentences of our own documents,
clean and with white noise; what is heard wrong is known word by word. The
fourth voice is kept for benchmarks/doubt.py.
"""

from __future__ import annotations

import re
import subprocess
import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parent.parent
sys.path[:0] = [str(ROOT / "demo"), str(ROOT / "benchmarks")]
VOICES = ("slt", "rms", "awb")
NOISES = (None, 20, 12)


def sentences() -> list[str]:
    """The demo's lines and the plain sentences of our documents."""
    from story import FILM, PODCAST

    text = " ".join(path.read_text() for path in sorted((ROOT / "docs").glob("*.md")))
    text = re.sub(r"`[^`]*`", "it", re.sub(r"```.*?```", "", text, flags=re.S))
    plain = [re.sub(r"[^A-Za-z ,.']+", " ", one).strip() for one in re.split(r"(?<=[.!?])\s", text)]
    story = [line for _, line, _ in PODCAST + FILM]
    return story + [one for one in plain if 8 <= len(one.split()) <= 30 and one.endswith(".")]


def spoken(text: str, voice: str) -> np.ndarray:
    """A sentence, float32 at 16 kHz, at an even loudness, with half a second after it."""
    from dubrel.media.sound import decode_blocks

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "spoken.wav"
        subprocess.run(["flite", "-voice", voice, "-t", text, "-o", str(path)], check=True)
        sound = np.concatenate(list(decode_blocks(path))).astype(np.float32) / 32768
    sound *= 0.09 / np.sqrt(np.mean(sound**2))
    return np.concatenate([sound, np.zeros(8000, np.float32)])


def hear(voice: str, noise: float | None) -> tuple[np.ndarray, np.ndarray]:
    """Evidence, shape (rows, words), and which words are wrong, for one voice and one noise in dB."""
    from dubrel.base.text import bare_word
    from dubrel.base.textpairs import pair_words
    from dubrel.jobs.transcribing.transcribe import speech_chunks
    from dubrel.media.sound import passage
    from dubrel.speech.recognise.denoising import prepared
    from dubrel.speech.recognise.listener import Listener, hear_twice

    lines = sentences()
    sound = np.concatenate([spoken(line, voice) for line in lines])
    if noise is not None:
        level = 0.09 * 10 ** (-noise / 20)
        sound = sound + level * np.random.default_rng(11).standard_normal(len(sound))
    samples = (np.clip(sound, -1, 1) * 32767).astype(np.int16)
    listener, rows, texts = Listener("builtin", "en"), [], []
    chunks = list(speech_chunks(samples))
    sounds = [np.array(passage(samples, one.start_ms, one.end_ms)) for one in chunks]
    for chunk, piece, (tokens, agreed) in zip(
        chunks, sounds, hear_twice(listener.hearer, [prepared(one) for one in sounds])
    ):
        if tokens:
            words = listener.aligner.align(piece, [one.text for one in tokens], chunk.start_ms)
            rows.append(listener.judge.evidence(words, tokens, agreed))
            texts += [bare_word(one.text) for one in tokens]
    said = [bare_word(word) for line in lines for word in line.split()]
    wrong = np.ones(len(texts), bool)
    for ours, theirs in pair_words(said, texts).pairs:
        if ours is not None and theirs is not None and said[ours] == texts[theirs]:
            wrong[theirs] = False
    return np.concatenate(rows, axis=1), wrong


def fitted(evidence: np.ndarray, wrong: np.ndarray) -> np.ndarray:
    """Weights and constant of a logistic model, by penalised maximum likelihood on scaled rows."""
    from scipy.optimize import minimize

    mean, spread = evidence.mean(axis=1), evidence.std(axis=1)
    scaled = np.concatenate([(evidence - mean[:, None]) / spread[:, None], np.ones((1, len(wrong)))])

    def loss(weights: np.ndarray) -> tuple[float, np.ndarray]:
        score = weights @ scaled
        value = np.sum(np.logaddexp(0, score) - wrong * score) + np.sum(weights[:-1] ** 2)
        slope = scaled @ (1 / (1 + np.exp(-score)) - wrong) + 2 * np.append(weights[:-1], 0)
        return value, slope

    found = minimize(loss, np.zeros(len(scaled)), jac=True).x
    return np.append(found[:-1] / spread, found[-1] - np.sum(found[:-1] * mean / spread))


def main() -> None:
    """Hear everything on two cores and print the two sets of weights."""
    pairs = [(voice, noise) for voice in VOICES for noise in NOISES]
    with ProcessPoolExecutor(2) as pool:
        heard = list(pool.map(hear, *zip(*pairs)))
    evidence = np.concatenate([one for one, _ in heard], axis=1)
    wrong = np.concatenate([one for _, one in heard])
    print(f"{len(wrong)} words, {wrong.mean():.1%} wrong")
    for name, rows in (("_WITH_MODEL", evidence), ("_WITHOUT", evidence[:9])):
        print(f"{name} = np.array({[round(float(one), 3) for one in fitted(rows, wrong)]})")


if __name__ == "__main__":
    main()
