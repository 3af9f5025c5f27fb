"""One microphone a speaker: which track speaks when, and one transcript of all.

What one person says is also, fainter, in the other microphones. A track's
frames are kept only where it stands near its own usual loudness, compared
with how near the others stand to theirs; so words are heard once, and two
people who talk at once are both heard.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dubrel.base.text import bare_word, ends_sentence
from dubrel.base.value import Value
from dubrel.edits.intake import SENTENCE_PAUSE_MS
from dubrel.model import RecognisedTurn, RecognisedWord
from dubrel.speech.recognise.chunk_seams import Joins
from dubrel.speech.sound.activity import FRAME, FRAME_MS

_BEHIND_DB = 10.0
_BELOW_USUAL_DB = 20.0
_LEAST_FRAMES = 3
_WIDEN = 4  # frames kept before and after
_SMOOTH = 7
_FADED = 0.01
_FLOOR_DB = -90.0
_SILENT_DB = -60.0
_SAME_SHARE = 0.4


def own_frames(loudness: np.ndarray, speech: np.ndarray) -> np.ndarray:
    """In which frames each track holds its own speaker and not only the others, faintly.

    Parameters
    ----------
    loudness : ndarray, shape (tracks, frames)
        Root mean square of 16-bit samples.
    speech : ndarray, shape (tracks, frames)
        Probability of speech.

    Returns
    -------
    ndarray of bool, shape (tracks, frames)
    """
    level = relative_levels(loudness, speech)
    best = level.max(axis=0)
    own = (level >= best - _BEHIND_DB) & (level >= -_BELOW_USUAL_DB) & (speech.max(axis=0) >= 0.3)
    own = np.array([_without_specks(row) for row in own])
    kernel = np.ones(2 * _WIDEN + 1)
    return np.array([np.convolve(row, kernel, mode="same") > 0.5 for row in own])


def _without_specks(row: np.ndarray) -> np.ndarray:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], row.view(np.int8), [0]])))
    kept = np.zeros_like(row)
    for begin, end in zip(edges[::2], edges[1::2]):
        kept[begin:end] = end - begin >= _LEAST_FRAMES
    return kept


def relative_levels(loudness: np.ndarray, speech: np.ndarray) -> np.ndarray:
    """Loudness of each track in dB against what is usual when its own speaker speaks.

    Returns
    -------
    ndarray, shape (tracks, frames)
        Around zero where the track's own speaker speaks.
    """
    kernel = np.ones(_SMOOTH) / _SMOOTH
    power = np.array([np.convolve(row.astype(float) ** 2, kernel, mode="same") for row in loudness])
    decibels = np.maximum(10 * np.log10(power / 32768**2 + 1e-12), _FLOOR_DB)
    loudest = decibels.argmax(axis=0)
    usual = []
    for track, row in enumerate(decibels):
        mine = row[(loudest == track) & (speech[track] >= 0.5)]
        usual.append(float(np.percentile(mine, 70)) if len(mine) >= 10 else 0.0)
    return decibels - np.maximum(np.array(usual), _SILENT_DB)[:, None]


def faded(samples: np.ndarray, own: np.ndarray) -> np.ndarray:
    """A track's samples with everything faded that is not its own.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
    own : ndarray of bool, shape (frames,)
    """
    gains = np.where(own, 1.0, _FADED).astype(np.float32)
    gains = np.repeat(gains, FRAME)[: len(samples)]
    kept = np.full(len(samples), _FADED, np.float32)
    kept[: len(gains)] = gains
    return (samples * kept).astype(np.int16)


class _Phrase(Value):
    track: int
    words: tuple[RecognisedWord, ...]

    @property
    def start_ms(self) -> int:
        return self.words[0].start_ms


class Weaver:
    """Puts the words of several tracks into turns, in order of time.

    Parameters
    ----------
    levels : ndarray, shape (tracks, frames)
        See :func:`relative_levels`: of two tracks with the same word at the
        same time, the one that stands nearer its own level has said it.
    language : str
        Of the words.
    """

    def __init__(self, levels: np.ndarray, language: str = "en") -> None:
        self._levels = levels
        self._joins = [Joins(language, hold=False) for _ in levels]
        self._phrases: list[_Phrase] = []
        self._recent: list[tuple[int, RecognisedWord]] = []

    def add(self, track: int, words: Sequence[RecognisedWord]) -> None:
        """Add the words of a chunk; chunks must come in order of their starts."""
        words = self._joins[track].take(words)
        kept = [word for word in words if not self._is_double(track, word)]
        self._recent = [(t, w) for t, w in self._recent if not words or w.end_ms > words[0].start_ms - 30_000]
        self._recent += [(track, word) for word in kept]
        phrase: list[RecognisedWord] = []
        for word in kept:
            if phrase and _begins_phrase(phrase[-1], word):
                self._phrases.append(_Phrase(track, tuple(phrase)))
                phrase = []
            phrase.append(word)
        if phrase:
            self._phrases.append(_Phrase(track, tuple(phrase)))

    def take(self, before_ms: float) -> list[RecognisedTurn]:
        """The turns that begin before a time; none that begins earlier will come after them."""
        ready = sorted(
            (one for one in self._phrases if one.start_ms < before_ms), key=lambda one: one.start_ms
        )
        self._phrases = [one for one in self._phrases if one.start_ms >= before_ms]
        return [RecognisedTurn(one.words, speaker_id(one.track)) for one in ready]

    def _is_double(self, track: int, word: RecognisedWord) -> bool:
        text = bare_word(word.text)
        for other, there in self._recent:
            if other != track and text == bare_word(there.text) and _overlap(word, there) >= _SAME_SHARE:
                return self._level(track, word) <= self._level(other, word)
        return False

    def _level(self, track: int, word: RecognisedWord) -> float:
        frames = self._levels[
            track, word.start_ms // FRAME_MS : max(word.start_ms // FRAME_MS + 1, word.end_ms // FRAME_MS)
        ]
        return float(frames.mean()) if len(frames) else _FLOOR_DB


def speaker_id(track: int) -> str:
    """The id of the speaker of a track."""
    return f"s{track + 1}"


def _begins_phrase(before: RecognisedWord, word: RecognisedWord) -> bool:
    return ends_sentence(before.text) or word.start_ms - before.end_ms >= SENTENCE_PAUSE_MS


def _overlap(one: RecognisedWord, other: RecognisedWord) -> float:
    shared = min(one.end_ms, other.end_ms) - max(one.start_ms, other.start_ms)
    return shared / max(1, min(one.end_ms - one.start_ms, other.end_ms - other.start_ms))
