"""Who speaks when: voice prints of what lies between pauses, clustered, and given to words.

Sound is taken phrase by phrase (words up to a pause or a sentence end), so a
window never mixes two sides of a pause; a phrase shorter than a window is
repeated until it fills one, so a short answer has a voice of its own. The
prints are clustered spectrally; how many speakers there are is told by the
leap of the eigenvalues. A way through the words
(Viterbi) then changes speakers between words only, gladly at pauses and
sentence ends, hardly elsewhere.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dubrel.edits.intake import HeardWord
from dubrel.speech.voiceprint import FRAMES, RATE, VoiceEncoder
from dubrel.text import ends_sentence

_PAUSE_MS = 150
_WINDOW = FRAMES * 160
_STEP = RATE * 6 // 10
_DENSITIES = (0.08, 0.06, 0.12)
_LEAST_NEIGHBOURS = 5
_ALIKE = 0.92
_ROUNDS = 4
_SEED_WEIGHT, _HELD_WEIGHT = 3.0, 0.2
_HALVES_ALIKE, _HALVES_APART = 0.88, 6.2
_TRIES = 8
_SAMPLED = 900
_MOST = 40
_MOST_FOUND = 12
_CHANGE = 9.0
_AT_PAUSE = 0.35
_AT_SENTENCE = 2.0
_SHARPNESS, _TEMPER = 14.0, 0.4
_NEAR_MS, _MIXED = 500, 0.022
_AT_ONCE = 96


@dataclass(frozen=True)
class Voices:
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
    """

    labels: np.ndarray
    sureness: np.ndarray
    prints: np.ndarray
    also: np.ndarray


@dataclass(frozen=True)
class _Windows:
    """Voice prints with the words that each covers."""

    prints: np.ndarray
    spans: list[tuple[int, int]]


def diarise(
    samples: np.ndarray,
    words: Sequence[HeardWord],
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
    words : sequence of HeardWord
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
    centres = _centres(windows.prints, least, most)
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
            yield replace(found, also=also)


def overlaps(
    samples: np.ndarray,
    words: Sequence[HeardWord],
    labels: np.ndarray,
    centres: np.ndarray,
    encoder: VoiceEncoder,
) -> Iterator[float | np.ndarray]:
    """Find words during which somebody else speaks too.

    The print of a second of sound around a word, held against mixtures of its
    speaker's print with each other one: where a mixture fits clearly better
    than the speaker alone, two speak.

    Yields
    ------
    float or ndarray of int, shape (words,)
        The fraction done, and at the end the other speaker of each word, or -1.
    """
    also = np.full(len(words), -1)
    if len(centres) > 1:
        gains = np.zeros((len(words), len(centres)))
        shares = np.linspace(0.1, 0.9, 9)[:, None]
        for first in range(0, len(words), _AT_ONCE):
            some = range(first, min(first + _AT_ONCE, len(words)))
            sound = np.concatenate([_around(samples, words, labels, place) for place in some])
            prints = np.concatenate(list(encoder.prints(sound, np.arange(len(some)) * _WINDOW)))
            for place, one in zip(some, prints):
                own = centres[labels[place]]
                mixed = shares * centres[:, None, :] + (1 - shares) * own
                mixed /= np.linalg.norm(mixed, axis=2, keepdims=True) + 1e-8
                gains[place] = (mixed @ one).max(axis=1) - own @ one
            yield some.stop / len(words)
        gains[np.arange(len(words)), labels] = 0
        gains = _with_neighbours(gains, labels)
        also = np.where(gains.max(axis=1) > _MIXED, gains.argmax(axis=1), -1)
    yield also


def _with_neighbours(gains: np.ndarray, labels: np.ndarray) -> np.ndarray:
    """Each row averaged with those before and after that have the same label."""
    total, count = gains.copy(), np.ones(len(gains))
    same = labels[1:] == labels[:-1]
    total[1:][same] += gains[:-1][same]
    total[:-1][same] += gains[1:][same]
    count[1:] += same
    count[:-1] += same
    return total / count[:, None]


def _around(samples: np.ndarray, words: Sequence[HeardWord], labels: np.ndarray, place: int) -> np.ndarray:
    """A second around a word, but nothing of the turns before and after, repeated to fill a window."""
    middle = (words[place].start_ms + words[place].end_ms) // 2
    begin, end = middle - _NEAR_MS, middle + _NEAR_MS
    for step in (-1, 1):
        at = place + step
        while 0 <= at < len(words) and begin < words[at].end_ms and words[at].start_ms < end:
            if labels[at] != labels[place]:
                begin, end = (
                    (max(begin, words[at].end_ms), end) if step < 0 else (begin, min(end, words[at].start_ms))
                )
                break
            at += step
    begin, end = max(0, min(begin, words[place].start_ms)), max(end, words[place].end_ms)
    sound = np.asarray(samples[begin * 16 : end * 16])
    return np.resize(sound, _WINDOW) if len(sound) else np.zeros(_WINDOW, np.int16)


def phrases(words: Sequence[HeardWord]) -> list[tuple[int, int]]:
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


def _print_windows(
    samples: np.ndarray, words: Sequence[HeardWord], encoder: VoiceEncoder
) -> Iterator[float | _Windows]:
    pieces: list[np.ndarray] = []
    spans: list[tuple[int, int]] = []
    prints: list[np.ndarray] = []
    runs = phrases(words)
    for nth, (first, stop) in enumerate(runs):
        begin, end = words[first].start_ms * 16, max(words[stop - 1].end_ms, words[first].start_ms + 60) * 16
        sound = np.asarray(samples[begin:end])
        if len(sound) < 320:
            continue
        if len(sound) <= _WINDOW:
            pieces.append(np.resize(sound, _WINDOW))
            spans.append((first, stop))
        else:
            count = -(-(len(sound) - _WINDOW) // _STEP) + 1
            for start in np.linspace(0, len(sound) - _WINDOW, count).astype(int):
                low, high = (begin + start) / 16, (begin + start + _WINDOW) / 16
                inside = [k for k in range(first, stop) if words[k].end_ms > low and words[k].start_ms < high]
                pieces.append(sound[start : start + _WINDOW])
                spans.append((inside[0], inside[-1] + 1))
        if len(pieces) >= 96 or nth == len(runs) - 1:
            joined = np.concatenate(pieces) if pieces else np.zeros(0, np.int16)
            prints += list(encoder.prints(joined, np.arange(len(pieces)) * _WINDOW))
            pieces = []
            yield (nth + 1) / len(runs)
    if pieces:
        prints += list(encoder.prints(np.concatenate(pieces), np.arange(len(pieces)) * _WINDOW))
    yield _Windows(np.concatenate(prints) if prints else np.zeros((0, 256), np.float32), spans)


def _centres(prints: np.ndarray, least: int, most: int) -> np.ndarray:
    """The mean print of each speaker; at least one."""
    if len(prints) < 2:
        return prints if len(prints) else np.zeros((1, 256), np.float32)
    step = max(1, -(-len(prints) // _SAMPLED))
    some = prints[::step]
    most = min(most, len(some))
    count = min(max(speaker_count(some, min(most, _MOST_FOUND)), least), most)
    centres = _means(some, _spectral(some, count))
    for _ in range(_ROUNDS):  # all windows, not only the sampled ones
        centres = _means(prints, np.argmax(prints @ centres.T, axis=1))
    return _without_halves(prints, centres, least)


def _without_halves(prints: np.ndarray, centres: np.ndarray, least: int) -> np.ndarray:
    """Join clusters that are halves of one voice: alike, and not clearly apart along the line between them."""
    while len(centres) > least:
        labels = np.argmax(prints @ centres.T, axis=1)
        alike = centres @ centres.T
        pairs = [
            (_apart(prints[labels == one], prints[labels == other]), one, other)
            for one, other in zip(*np.triu_indices(len(centres), 1))
            if alike[one, other] >= _HALVES_ALIKE
        ]
        if not pairs or min(pairs)[0] >= _HALVES_APART:
            break
        _, one, other = min(pairs)
        centres = _means(prints, np.where(labels == other, one, labels))
    return centres


def _apart(one: np.ndarray, other: np.ndarray) -> float:
    """How far two clusters are apart on the line between their means, in their spreads."""
    if not len(one) or not len(other):
        return 0.0
    line = _unit(one.mean(axis=0) - other.mean(axis=0))
    here, there = one @ line, other @ line
    spread = (here.var() * len(here) + there.var() * len(there)) / (len(here) + len(there))
    return float((here.mean() - there.mean()) / np.sqrt(spread + 1e-12))


def speaker_count(prints: np.ndarray, most: int) -> int:
    """How many voices there are: where the eigenvalues of the affinity's Laplacian leap.

    The leap is looked for at several densities of the affinity; the count that
    most of them find is taken.

    Parameters
    ----------
    prints : ndarray, shape (n, 256)
        Of length one.
    most : int
    """
    counts = []
    for share in _DENSITIES:
        values = np.linalg.eigvalsh(_laplacian(prints, share))[: most + 1]
        counts.append(int(np.argmax(np.diff(values))) + 1 if len(values) > 1 else 1)
    return max(set(counts), key=lambda one: (counts.count(one), -counts.index(one)))


def _laplacian(prints: np.ndarray, share: float) -> np.ndarray:
    """Of the graph in which each window holds on to the windows most like it (von Luxburg, 2007)."""
    alike = prints @ prints.T
    kept = min(len(prints), max(_LEAST_NEIGHBOURS, round(len(prints) * share)))
    bound = np.sort(alike, axis=1)[:, -kept][:, None]
    graph = np.where(alike >= bound, np.maximum(alike, 0), 0.01 * np.maximum(alike, 0))
    graph = np.maximum(graph, graph.T)
    np.fill_diagonal(graph, 0)
    roots = np.sqrt(graph.sum(axis=1)) + 1e-8
    return np.eye(len(prints)) - graph / roots[:, None] / roots[None, :]


def _spectral(prints: np.ndarray, count: int) -> np.ndarray:
    """A cluster for each window: k-means in the space of the first eigenvectors (Ng and others, 2001)."""
    from scipy.cluster.vq import kmeans2

    if count == 1:
        return np.zeros(len(prints), int)
    _, vectors = np.linalg.eigh(_laplacian(prints, _DENSITIES[0]))
    rows = vectors[:, :count]
    rows = rows / (np.linalg.norm(rows, axis=1, keepdims=True) + 1e-8)
    best, least = np.zeros(len(prints), int), np.inf
    for seed in range(_TRIES):
        means, labels = kmeans2(rows, count, minit="++", seed=seed)
        spread = float(((rows - means[labels]) ** 2).sum())
        if spread < least and len(np.unique(labels)) == count:
            best, least = labels, spread
    return best


def _means(prints: np.ndarray, labels: np.ndarray) -> np.ndarray:
    return np.stack([_unit(prints[labels == name].mean(axis=0)) for name in np.unique(labels)])


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
                _unit((prints * (weights * (labels == name))[:, None]).sum(axis=0))
                if (labels == name).any()
                else centre
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
    """A print for each known speaker to begin with, and for each voice that is clearly nobody's.

    What people put right is what was heard wrong: a seed alone would give its
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
    return _unit(prints[sown if sown.any() else (held == name) & (seeds < 0)].sum(axis=0))


def _votes(clusters: np.ndarray, names: np.ndarray, count: int, speakers: int) -> np.ndarray:
    """How many windows of each cluster have each name."""
    votes = np.zeros((count, speakers))
    np.add.at(votes, (clusters[names >= 0], names[names >= 0]), 1)
    return votes


def _unit(row: np.ndarray) -> np.ndarray:
    return row / (np.linalg.norm(row) + 1e-8)


def _emission(windows: _Windows, centres: np.ndarray, count: int) -> np.ndarray:
    """How well each word fits each speaker, as log probability."""
    total, seen = np.zeros((count, len(centres))), np.zeros(count)
    for row, (first, stop) in zip(windows.prints @ centres.T, windows.spans):
        total[first:stop] += row
        seen[first:stop] += 1
    score = _SHARPNESS * total / np.maximum(seen, 1)[:, None]
    score -= score.max(axis=1, keepdims=True)
    return score - np.log(np.exp(score).sum(axis=1, keepdims=True))


def _change_costs(words: Sequence[HeardWord]) -> np.ndarray:
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
