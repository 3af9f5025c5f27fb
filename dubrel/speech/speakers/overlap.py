"""During which words somebody else speaks too, and who that is."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from dubrel.model import RecognisedWord
from dubrel.speech.speakers.segmentation import RATE, VOICES, WINDOW, Segmenter, frame_times_ms
from dubrel.speech.speakers.voiceprint import FRAMES, VoiceEncoder

_STEP = 5 * RATE
_SHARE = 0.4
_LEAST_FRAMES = 25  # of a voice alone, before it is known whose it is
_LEAST_MS = 1000
_VOTE = 0.02
_PRINT_WINDOW = FRAMES * 160
_SHARES = np.linspace(0.1, 0.9, 9)[:, None]


def overlaps(
    samples: np.ndarray,
    words: Sequence[RecognisedWord],
    labels: np.ndarray,
    centres: np.ndarray,
    encoder: VoiceEncoder,
) -> Iterator[float | np.ndarray]:
    """Find words during a good part of which somebody else speaks too.

    A segmentation model hears where two voices are at once, in windows of ten
    seconds, two over each moment. Who the other one is, is told by which mixture
    of two voice prints the sound is most like, and where mixtures are much the
    same, by who else speaks in the window with the voice that is heard.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
        16 kHz, mono.
    words : sequence of RecognisedWord
        In order of time.
    labels : ndarray of int, shape (words,)
        The speaker of each word.
    centres : ndarray, shape (speakers, 256)
        Voice prints of the speakers.
    encoder : VoiceEncoder

    Yields
    ------
    float or ndarray of int, shape (words,)
        The fraction done, and at the end the other speaker of each word, or -1.
    """
    also = np.full(len(words), -1)
    if len(centres) < 2:
        yield also
        return
    votes = _Votes(words, labels, len(centres))
    starts = window_starts(words)
    done = 0
    for batch in Segmenter().activity(samples, starts):
        for start, active in zip(starts[done : done + len(batch)], batch):
            votes.add(start * 1000 // RATE, active)
        done += len(batch)
        yield done / len(starts)
    for first, stop in runs_of_two(votes.overlapped(), labels):
        fits = _mixture_fits(samples, words[first:stop], centres, labels[first], encoder)
        fits += _VOTE * votes.others_share(first, stop)
        fits[labels[first]] = -1
        also[first:stop] = fits.argmax()
    yield also


def runs_of_two(places: np.ndarray, labels: np.ndarray) -> Iterator[tuple[int, int]]:
    """Places that follow each other in one speaker's words, as (from, to)."""
    first = 0
    for nth in range(1, len(places) + 1):
        last = places[nth - 1]
        if nth == len(places) or places[nth] != last + 1 or labels[places[nth]] != labels[last]:
            yield int(places[first]), int(last) + 1
            first = nth


def window_starts(words: Sequence[RecognisedWord]) -> np.ndarray:
    """Every five seconds, but only where words are."""
    step_ms, length_ms = _STEP * 1000 // RATE, WINDOW * 1000 // RATE
    wanted: set[int] = set()
    for word in words:
        first = max(0, -(-(word.start_ms - length_ms) // step_ms))
        wanted.update(range(first, max(word.end_ms, word.start_ms) // step_ms + 1))
    return np.array(sorted(wanted), dtype=np.int64) * _STEP


class _Votes:
    """What the windows say about each word."""

    def __init__(self, words: Sequence[RecognisedWord], labels: np.ndarray, speakers: int) -> None:
        self.begins = np.array([word.start_ms for word in words])
        self.ends = np.array([word.end_ms for word in words])
        self.latest = np.maximum.accumulate(self.ends)
        self.labels, self.speakers = labels, speakers
        self.frames = np.zeros(len(words))
        self.together = np.zeros(len(words))
        self.others = np.zeros((len(words), speakers))

    def add(self, start_ms: int, active: np.ndarray) -> None:
        """Count one window."""
        times = start_ms + frame_times_ms()
        first = int(np.searchsorted(self.latest, times[0]))
        stop = int(np.searchsorted(self.begins, times[-1], side="right"))
        inside = [
            (place, slice(*np.searchsorted(times, (self.begins[place], self.ends[place]))))
            for place in range(first, stop)
        ]
        several = active.sum(axis=1) > 1
        owners = self._owners(active, ~several, inside)
        for place, span in inside:
            together = several[span]
            self.frames[place] += len(together)
            self.together[place] += together.sum()
            for voice, owner in enumerate(owners):
                if owner >= 0 and owner != self.labels[place]:
                    self.others[place, owner] += (active[span, voice] & together).sum()

    def _owners(self, active: np.ndarray, alone: np.ndarray, inside: list[tuple[int, slice]]) -> list[int]:
        """The speaker of each of a window's voices, or -1."""
        table = np.zeros((VOICES, self.speakers))
        for place, span in inside:
            table[:, self.labels[place]] += (active[span] & alone[span, None]).sum(axis=0)
        return [int(row.argmax()) if row.max() >= _LEAST_FRAMES else -1 for row in table]

    def overlapped(self) -> np.ndarray:
        """Places of the words during a good part of which two speak."""
        return np.flatnonzero((self.frames > 0) & (self.together > _SHARE * self.frames))

    def others_share(self, first: int, stop: int) -> np.ndarray:
        """For each speaker, the share of what is said together in a run of words that windows give to it."""
        return self.others[first:stop].sum(axis=0) / max(1.0, self.together[first:stop].sum())


def _mixture_fits(
    samples: np.ndarray, words: Sequence[RecognisedWord], centres: np.ndarray, own: int, encoder: VoiceEncoder
) -> np.ndarray:
    """How alike the prints of the sound are to each speaker's, mixed with that of the words' own speaker."""
    begin, end = words[0].start_ms, words[-1].end_ms
    lack = max(0, _LEAST_MS - (end - begin)) // 2
    sound = np.asarray(samples[max(0, begin - lack) * 16 : (end + lack) * 16])
    if not len(sound):
        return np.zeros(len(centres))
    if len(sound) < _PRINT_WINDOW:
        sound = np.resize(sound, _PRINT_WINDOW)
    starts = np.arange(0, len(sound) - _PRINT_WINDOW + 1, _PRINT_WINDOW // 2)
    prints = np.concatenate(list(encoder.prints(sound, starts)))
    mixed = _SHARES * centres[:, None, :] + (1 - _SHARES) * centres[own]
    mixed /= np.linalg.norm(mixed, axis=2, keepdims=True) + 1e-8
    return (mixed @ prints.T).max(axis=1).mean(axis=1)
