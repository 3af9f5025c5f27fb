"""Align a whole script without a recogniser: spoken by espeak-ng, warped in two steps.

First the whole script is laid along all the speech of the recording, coarsely;
then every few sentences are warped finely onto the sound around where they
came to lie. Memory stays bounded: the coarse way has a band, the fine ones are short.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.text import ends_sentence
from dubrel.base.value import Value
from dubrel.media.sound import RATE, passage
from dubrel.model import RecognisedWord, Timing
from dubrel.speech.align.synthalign import without_silence
from dubrel.speech.align.synthesis import speak
from dubrel.speech.align.warping import even, features, warp
from dubrel.speech.sound.activity import Chunk

_POOL = 10  # frames of 10 ms in one coarse step
_HOP = 160  # 10 ms
_FRAME_MS = 10
_PIECE_WORDS = 40
_NEAR_MS = 1500
_FRAME, _PAUSE = RATE // 100, 25
_FAR_DB = 12.0
_CELLS = 60_000_000
_LEAST_BAND = 300
_JUDGED, _LEAST_JUDGED, _OTHERS = 12, 4, 3
_CLEAR_GAIN, _CLEAR_ERRORS = 0.02, 1.5


class _Piece(Value):
    """A few sentences: their words, how they sound, where in the spoken script they begin."""

    first: int
    words: list[str]
    sound: np.ndarray
    times: list[tuple[float, float] | None]


def align_by_synthesis(
    script: Sequence[str], samples: np.ndarray, chunks: Sequence[Chunk], language: str
) -> Iterator[float | list[RecognisedWord]]:
    """Give a script's words their times.

    Parameters
    ----------
    script : sequence of str
        Words as written.
    samples : ndarray, shape (n,), int16
        16 kHz, mono: the whole recording.
    chunks : sequence of Chunk
        Where somebody speaks.
    language : str

    Yields
    ------
    float or list of RecognisedWord
        The fraction done, and at the end the words.

    Raises
    ------
    EngineError
        If espeak-ng has no voice for the language, or the script fits nowhere.
    """
    pieces = []
    for piece in _pieces(script, language):
        pieces.append(piece)
        yield 0.3 * (piece.first + len(piece.words)) / max(1, len(script))
    starts, ends = _coarse(pieces, samples, chunks)
    yield 0.5
    if not pieces:
        yield []
        return
    cuts = _cuts(starts, ends, samples)
    if _strays(pieces, cuts, samples):
        raise EngineError(
            tr(
                "The script does not seem to be of this recording: it matches no better in its place than"
                " anywhere else. Choose another script or recording."
            )
        )
    words: list[RecognisedWord] = []
    for place, piece in enumerate(pieces):
        last = words[-1].end_ms if words else 0
        words += _fine(piece, samples, cuts[place], cuts[place + 1], last)
        yield 0.5 + 0.5 * (place + 1) / len(pieces)
    yield words


def _pieces(script: Sequence[str], language: str) -> Iterator[_Piece]:
    first = 0
    while first < len(script):
        stop = min(first + _PIECE_WORDS, len(script))
        ends = [k + 1 for k in range(first, stop) if ends_sentence(script[k])]
        if ends and stop < len(script):
            stop = ends[-1]
        words = list(script[first:stop])
        spoken = speak(words, language)
        sound, begin, _ = without_silence(spoken.samples)
        times = [
            None if one is None else (one[0] - begin / RATE, one[1] - begin / RATE) for one in spoken.times
        ]
        yield _Piece(first, words, sound, times)
        first = stop


def _coarse(
    pieces: list[_Piece], samples: np.ndarray, chunks: Sequence[Chunk]
) -> tuple[list[int], list[int]]:
    """Where each piece lies in the recording, in milliseconds, give or take a second."""
    theirs = [_pooled(piece.sound) for piece in pieces]
    ours, places = [], []
    for chunk in chunks:
        sound = np.array(passage(samples, chunk.start_ms, chunk.end_ms), np.float32) / 32768
        pooled = _pooled(sound)
        ours.append(pooled)
        places.append(chunk.start_ms + np.arange(len(pooled)) * _POOL * 10)
    if not ours:
        return [0] * len(pieces), [0] * len(pieces)
    times = np.concatenate(places)
    script, speech = even(np.concatenate(theirs)), even(np.concatenate(ours))
    band = max(_LEAST_BAND, min(len(speech) // 6, _CELLS // len(script) // 2))
    way = warp(script, speech, band=band)
    edges = np.cumsum([0, *(len(one) for one in theirs)])
    at = np.round(way).astype(int)
    starts = [int(times[at[min(edge, len(at) - 1)]]) for edge in edges[:-1]]
    ends = [int(times[at[max(0, edge - 1)]]) + _POOL * 10 for edge in edges[1:]]
    return starts, ends


def _pooled(sound: np.ndarray) -> np.ndarray:
    """Features averaged over a tenth of a second."""
    found = features(sound, scaled=False)
    count = max(1, len(found) // _POOL)
    return np.stack([part.mean(axis=0) for part in np.array_split(found, count)])


def _cuts(starts: list[int], ends: list[int], samples: np.ndarray) -> list[int]:
    """Where one piece ends and the next begins: in the longest silence near where both came to lie."""
    cuts = [starts[0]]
    for end, start in zip(ends, starts[1:]):
        middle = (end + start) // 2
        low = max(cuts[-1], middle - _NEAR_MS)
        sound = np.array(passage(samples, low, middle + _NEAR_MS), np.float32)
        frames = sound[: len(sound) // _FRAME * _FRAME].reshape(-1, _FRAME)
        if len(frames) <= _PAUSE:
            cuts.append(max(cuts[-1], middle))
            continue
        level = 10 * np.log10((frames**2).mean(axis=1) + 10)
        smooth = np.convolve(level, np.ones(_PAUSE) / _PAUSE, mode="valid")
        centres = low + (np.arange(len(smooth)) + _PAUSE / 2) * 10
        far = np.abs(centres - middle) / _NEAR_MS
        cuts.append(round(float(centres[int(np.argmin(smooth + _FAR_DB * far))])))
    return [*cuts, max(cuts[-1], ends[-1])]


def _strays(pieces: list[_Piece], cuts: list[int], samples: np.ndarray) -> bool:
    """Whether pieces fit the sound where they came to lie no better than sound from elsewhere.

    Some pieces are warped onto their own sound and onto that of others. What
    their own costs over what the others cost is clearly below one on the whole,
    or it is another recording.
    """
    step = max(1, len(pieces) // _JUDGED)
    spoken, sounds = [], []
    for place in range(0, len(pieces), step):
        sound = np.array(passage(samples, cuts[place], cuts[place + 1]), np.float32) / 32768
        sound, _, _ = without_silence(sound)
        if len(sound) > RATE // 2 and len(pieces[place].sound) > RATE // 2:
            spoken.append(features(pieces[place].sound))
            sounds.append(features(sound))
    if len(spoken) < _LEAST_JUDGED:
        return False
    shares = []
    for place, one in enumerate(spoken):
        others = [_apart(one, sounds[(place + k) % len(sounds)]) for k in range(1, _OTHERS + 1)]
        shares.append(_apart(one, sounds[place]) / np.mean(others))
    gain, error = 1 - np.mean(shares), np.std(shares) / np.sqrt(len(shares))
    return bool(gain < min(_CLEAR_GAIN, _CLEAR_ERRORS * error))


def _apart(one: np.ndarray, other: np.ndarray) -> float:
    """How far two sounds are from each other along the best way."""
    along = np.clip(np.round(warp(one, other)).astype(int), 0, len(other) - 1)
    return float(np.linalg.norm(one - other[along], axis=1).mean())


def _fine(piece: _Piece, samples: np.ndarray, begin_ms: int, end_ms: int, last: int) -> list[RecognisedWord]:
    sound = np.array(passage(samples, begin_ms, end_ms), np.float32) / 32768
    sound, first, _ = without_silence(sound)
    if len(sound) < RATE // 10 or not len(piece.sound):
        return [RecognisedWord(word, last, last, timing=Timing.UNHEARD) for word in piece.words]
    offset = begin_ms + first * 1000 / RATE
    way = warp(features(piece.sound, _HOP), features(sound, _HOP))
    frames, heard = np.arange(len(way)), []
    for word, time in zip(piece.words, piece.times):
        a, b = (
            (last, last)
            if time is None
            else (
                round(offset + float(np.interp(one * 1000 / _FRAME_MS, frames, way)) * _FRAME_MS)
                for one in time
            )
        )
        start = max(a, last)
        last = max(start, b)
        heard.append(RecognisedWord(word, start, last))
    return heard
