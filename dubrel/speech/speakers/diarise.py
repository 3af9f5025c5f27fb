"""Who speaks when: voice prints of what lies between pauses, clustered, and given to words.

Sound is taken phrase by phrase (words up to a pause or a sentence end), so a
window never mixes two sides of a pause; a phrase shorter than a window is
repeated until it fills one, so a short answer has a voice of its own. The
prints are clustered spectrally; how many speakers there are is told by the
leap of the eigenvalues. A way through the words
(Viterbi) then changes speakers between words only, preferably at pauses and
sentence ends, hardly elsewhere.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial

import numpy as np

from dubrel.base.text import ends_sentence
from dubrel.base.value import Value, replace
from dubrel.model import RecognisedWord
from dubrel.speech.speakers.clusters import find_voices, unit
from dubrel.speech.speakers.overlap import overlaps
from dubrel.speech.speakers.voiceprint import FRAMES, RATE, VoiceEncoder

_PAUSE_MS = 150
_WINDOW = FRAMES * 160
_LEAST_SOUND = 320
_AT_ONCE = 96
_STEP = RATE * 6 // 10
_ALIKE = 0.92
_ROUNDS = 4
_SEED_WEIGHT, _HELD_WEIGHT = 3.0, 0.2
_MOST = 40
_CHANGE = 9.0
_AT_PAUSE = 0.35
_AT_SENTENCE = 2.0
_SHARPNESS, _TEMPER = 14.0, 0.4


class Voices(Value):
    """Who says each word.

    Attributes
    ----------
    labels : ndarray of int, shape (words,)
        The speaker of each word, numbered by first appearance.
    sureness : ndarray, shape (words,)
        0 to 1: how likely the speaker is, with all words before and after.
    prints : ndarray, shape (speakers, 256)
        The mean voice print of each speaker.
    also : ndarray of int, shape (words,)
        Who speaks at the same time, or -1.
    people : int
        How many of the speakers sound like different persons: fewer only where
        more were asked for than speak.
    """

    labels: np.ndarray
    sureness: np.ndarray
    prints: np.ndarray
    also: np.ndarray
    people: int = 0


class _Windows(Value):
    """Voice prints with the words that each covers and the samples that it was made of."""

    prints: np.ndarray
    spans: list[tuple[int, int]]
    bounds: list[tuple[int, int]]


def diarise(
    samples: np.ndarray,
    words: Sequence[RecognisedWord],
    encoder: VoiceEncoder,
    *,
    least: int = 1,
    most: int = _MOST,
    fixed: dict[int, int] | None = None,
    now: Sequence[int] = (),
) -> Iterator[float | Voices]:
    """Find the speaker of every word.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
        16 kHz, mono.
    words : sequence of RecognisedWord
        In order of time.
    least, most : int
        Bounds of the number of speakers; the same twice where it is known.
    fixed : dict of int to int, optional
        Words (by place) whose speaker is known: they teach the voices and stay.
    now : sequence of int, optional
        Who says each word so far, or -1; with ``fixed`` it tells which voice is
        which speaker.

    Yields
    ------
    float or Voices
        The fraction done, and at the end who says what.
    """
    if not words:
        yield Voices(np.zeros(0, int), np.zeros(0), np.zeros((0, 256)), np.zeros(0, int))
        return
    windows = None
    for said in _print_windows(samples, words, encoder):
        if isinstance(said, float):
            yield said * 0.5
        else:
            windows = said
    assert windows is not None

    clusters = find_voices(windows.prints, partial(_sound, samples, windows.bounds), least, most)
    centres = clusters.centres
    if fixed:
        centres = _taught(windows, fixed, now, centres, (least, most))
    emission = _emission(windows, centres, len(words))
    for place, speaker in (fixed or {}).items():
        emission[place] = -1e6
        emission[place, speaker] = 0.0
    costs = _change_costs(words)
    labels = _way(emission, costs)
    found = _named(labels, _sureness(emission, costs, labels), centres, keep=bool(fixed))
    for also in overlaps(samples, words, found.labels, found.prints, encoder):
        if isinstance(also, float):
            yield 0.5 + also * 0.5
        else:
            yield replace(found, also=also, people=len(centres) if fixed else clusters.people)


def phrases(words: Sequence[RecognisedWord]) -> list[tuple[int, int]]:
    """Runs of words up to a pause or a sentence end, as places (from, to)."""
    found, first = [], 0
    for place in range(1, len(words) + 1):
        if place == len(words) or (
            words[place].start_ms - words[place - 1].end_ms >= _PAUSE_MS
            or ends_sentence(words[place - 1].text)
        ):
            found.append((first, place))
            first = place
    return found


def _sound(samples: np.ndarray, bounds: Sequence[tuple[int, int]], places: np.ndarray) -> np.ndarray:
    """The sound of some windows in order of time, nothing twice."""
    parts, last = [], 0
    for begin, end in (bounds[place] for place in places):
        parts.append(np.asarray(samples[max(begin, last) : end]))
        last = max(last, end)
    return np.concatenate(parts)


def _print_windows(
    samples: np.ndarray, words: Sequence[RecognisedWord], encoder: VoiceEncoder
) -> Iterator[float | _Windows]:
    bounds: list[tuple[int, int]] = []
    spans: list[tuple[int, int]] = []
    prints: list[np.ndarray] = []
    for first, stop in phrases(words):
        begin, end = words[first].start_ms * 16, max(words[stop - 1].end_ms, words[first].start_ms + 60) * 16
        end = min(end, len(samples))
        if end - begin < _LEAST_SOUND:
            continue
        count = max(0, -(-(end - begin - _WINDOW) // _STEP)) + 1
        for start in np.linspace(begin, max(begin, end - _WINDOW), count).astype(int).tolist():
            low, high = start / 16, (start + _WINDOW) / 16
            inside = [k for k in range(first, stop) if words[k].end_ms > low and words[k].start_ms < high]
            bounds.append((start, min(end, start + _WINDOW)))
            spans.append((inside[0], inside[-1] + 1) if count > 1 else (first, stop))
    for at in range(0, len(bounds), _AT_ONCE):
        some = bounds[at : at + _AT_ONCE]
        sound = np.concatenate([np.resize(samples[a:b], _WINDOW) for a, b in some])
        prints += list(encoder.prints(sound, np.arange(len(some)) * _WINDOW))
        yield (at + len(some)) / len(bounds)
    yield _Windows(np.concatenate(prints) if prints else np.zeros((0, 256), np.float32), spans, bounds)


def _taught(
    windows: _Windows,
    fixed: dict[int, int],
    now: Sequence[int],
    found: np.ndarray,
    bounds: tuple[int, int],
) -> np.ndarray:
    """The prints of the speakers that are known, then of voices that are none of them.

    Windows of confirmed words are seeds that stay. Each speaker begins with the
    cluster that holds most of the seeds and of the words that are the speaker's
    so far; all other windows then find their places around these.
    """
    prints, speakers = windows.prints, max([*fixed.values(), *now]) + 1
    seeds = np.array([_only({fixed.get(k, -1) for k in range(*span)} - {-1}) for span in windows.spans])
    held = np.array([_only(set(now[slice(*span)])) for span in windows.spans])
    centres = _seeded(prints, seeds, held, found, speakers, bounds)
    labels = np.argmax(prints @ centres.T, axis=1)
    for _ in range(_ROUNDS):
        labels = np.where(seeds >= 0, seeds, labels)
        weights = np.where(seeds >= 0, _SEED_WEIGHT, 1.0)
        centres = np.stack(
            [
                (
                    unit((prints * (weights * (labels == name))[:, None]).sum(axis=0))
                    if (labels == name).any()
                    else centre
                )
                for name, centre in enumerate(centres)
            ]
        )
        labels = np.argmax(prints @ centres.T, axis=1)
    return centres


def _only(some: set[int]) -> int:
    """The one member of a set, or -1."""
    return some.pop() if len(some) == 1 else -1


def _seeded(
    prints: np.ndarray,
    seeds: np.ndarray,
    held: np.ndarray,
    found: np.ndarray,
    speakers: int,
    bounds: tuple[int, int],
) -> np.ndarray:
    """A print for each known speaker to begin with, and for each voice that clearly belongs to none of them.

    What people fix is what was assigned wrongly: a seed alone would give its
    speaker the cluster that it was wrongly in. So the words that a speaker has
    so far vote too, each for little.
    """
    from scipy.optimize import linear_sum_assignment

    least, most = bounds
    clusters = np.argmax(prints @ found.T, axis=1)
    sown = _votes(clusters, seeds, len(found), speakers)
    votes = sown + _HELD_WEIGHT * _votes(clusters, held, len(found), speakers)
    own = np.stack([_own(prints, seeds, held, name) for name in range(speakers)])
    shares = votes / np.maximum(1, votes.sum(axis=0))
    rows, columns = linear_sum_assignment(-(shares * np.log1p(votes) + found @ own.T))
    centres = own.copy()
    for cluster, name in zip(rows, columns):
        most_of_it = votes[cluster, name] >= 0.5 * votes[cluster].sum()
        if most_of_it or not own[name].any():
            centres[name] = found[cluster]
    for cluster in set(range(len(found))) - set(rows.tolist()):
        alike = (centres @ found[cluster]).max()
        nobody = not votes[cluster].any() and alike < _ALIKE
        if (nobody or len(centres) < least) and len(centres) < most:
            centres = np.vstack([centres, found[cluster]])
    return centres


def _own(prints: np.ndarray, seeds: np.ndarray, held: np.ndarray, name: int) -> np.ndarray:
    """The mean print of what a speaker is known to say, or else of what the speaker has so far."""
    sown = seeds == name
    return unit(prints[sown if sown.any() else (held == name) & (seeds < 0)].sum(axis=0))


def _votes(clusters: np.ndarray, names: np.ndarray, count: int, speakers: int) -> np.ndarray:
    """How many windows of each cluster have each name."""
    votes = np.zeros((count, speakers))
    np.add.at(votes, (clusters[names >= 0], names[names >= 0]), 1)
    return votes


def _emission(windows: _Windows, centres: np.ndarray, count: int) -> np.ndarray:
    """How well each word fits each speaker, as log probability."""
    total, seen = np.zeros((count, len(centres))), np.zeros(count)
    for row, (first, stop) in zip(windows.prints @ centres.T, windows.spans):
        total[first:stop] += row
        seen[first:stop] += 1
    score = _SHARPNESS * total / np.maximum(seen, 1)[:, None]
    score -= score.max(axis=1, keepdims=True)
    return score - np.log(np.exp(score).sum(axis=1, keepdims=True))


def _change_costs(words: Sequence[RecognisedWord]) -> np.ndarray:
    """What a change of speaker costs before each word."""
    costs = np.full(len(words), _CHANGE)
    for place in range(1, len(words)):
        if words[place].start_ms - words[place - 1].end_ms >= _PAUSE_MS:
            costs[place] = _AT_PAUSE
        elif ends_sentence(words[place - 1].text):
            costs[place] = _AT_SENTENCE
    return costs


def _way(emission: np.ndarray, costs: np.ndarray) -> np.ndarray:
    """The best speaker of each word, changes paid for (Viterbi, 1967)."""
    count, speakers = emission.shape
    back = np.zeros((count, speakers), int)
    best = emission[0].copy()
    for place in range(1, count):
        changed = int(np.argmax(best))
        stay = best >= best[changed] - costs[place]
        back[place] = np.where(stay, np.arange(speakers), changed)
        best = np.where(stay, best, best[changed] - costs[place]) + emission[place]
    labels = np.zeros(count, int)
    labels[-1] = int(np.argmax(best))
    for place in range(count - 1, 0, -1):
        labels[place - 1] = back[place, labels[place]]
    return labels


def _sureness(emission: np.ndarray, costs: np.ndarray, labels: np.ndarray) -> np.ndarray:
    """How likely each word's speaker is over all ways through the words (forward and backward, Baum 1970).

    Windows overlap, so their evidence is worth less than its sum: all is
    tempered by ``_TEMPER``.
    """
    likely, change = np.exp(emission * _TEMPER), np.exp(-costs * _TEMPER)
    count = len(labels)
    before, after = np.empty_like(likely), np.ones_like(likely)
    before[0] = likely[0] / likely[0].sum()
    for place in range(1, count):
        row = (before[place - 1] * (1 - change[place]) + change[place]) * likely[place]
        before[place] = row / row.sum()
    for place in range(count - 2, -1, -1):
        row = after[place + 1] * likely[place + 1]
        row /= row.sum()
        after[place] = row * (1 - change[place + 1]) + change[place + 1]
    both = before * after
    return both[np.arange(count), labels] / both.sum(axis=1)


def _named(labels: np.ndarray, sureness: np.ndarray, centres: np.ndarray, *, keep: bool) -> Voices:
    """Speakers numbered by first appearance, unless their numbers were given."""
    if keep:
        return Voices(labels, sureness, centres, np.full(len(labels), -1))
    _, firsts = np.unique(labels, return_index=True)
    order = labels[np.sort(firsts)]
    number = {int(old): new for new, old in enumerate(order)}
    named = np.array([number[int(one)] for one in labels])
    return Voices(named, sureness, centres[order], np.full(len(labels), -1))
