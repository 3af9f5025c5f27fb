"""How many voices there are, and the mean print of each."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from dubrel.base.value import Value
from dubrel.speech.sound.windows import evenly
from dubrel.speech.speakers.second_print import IdentityEncoder

_DENSITIES = (0.08, 0.06, 0.12)
_LEAST_NEIGHBOURS = 5
_ROUNDS = 4
_TRIES = 8
_SAMPLED = 900
_MOST_FOUND = 12
_MAYBE_ALIKE = 0.76
_ONE_PERSON = 0.68
_MAYBE_TWO, _TWO_PEOPLE = 0.85, 0.40
_LEAST_PART = 5
_SAMPLES = 12

Sound = Callable[[np.ndarray], np.ndarray]


class Clusters(Value):
    """Voices that were found.

    Attributes
    ----------
    centres : ndarray, shape (voices, 256)
        The mean print of each; at least one.
    people : int
        How many of them are different persons by the second prints: fewer than
        voices only where more voices were asked for than speak.
    """

    centres: np.ndarray
    people: int


def find_voices(prints: np.ndarray, sound: Sound, least: int, most: int) -> Clusters:
    """Cluster windows by voice.

    Parameters
    ----------
    prints : ndarray, shape (windows, 256)
        Of length one each.
    sound : callable
        The samples of some windows by their places, nothing twice.
    least, most : int
        Bounds of the number of voices.

    Returns
    -------
    Clusters
    """
    if len(prints) < 2:
        return Clusters(prints if len(prints) else np.zeros((1, 256), np.float32), 1)
    step = max(1, -(-len(prints) // _SAMPLED))
    some = prints[::step]
    most = min(most, len(some))
    count = min(max(speaker_count(some, min(most, _MOST_FOUND)), least), most)
    centres = means(some, _spectral(some, count))
    for _ in range(_ROUNDS):  # all windows, not only the sampled ones
        centres = means(prints, np.argmax(prints @ centres.T, axis=1))
    identities = _Identities(sound)
    centres = with_parts(prints, centres, most, identities)
    centres = _without_halves(prints, centres, least, identities)
    forced = 1 < least == len(centres)
    return Clusters(centres, len(_without_halves(prints, centres, 1, identities)) if forced else len(centres))


class _Identities:
    """Second prints of clusters, made when first asked for."""

    def __init__(self, sound: Sound) -> None:
        self._sound = sound
        self._encoder: IdentityEncoder | None = None
        self._known: dict[bytes, np.ndarray] = {}

    def alike(self, one: np.ndarray, other: np.ndarray) -> float:
        """How alike two clusters are, as masks of windows; 1 is one person, below 0.5 surely two."""
        return float(self._print(one) @ self._print(other))

    def _print(self, mask: np.ndarray) -> np.ndarray:
        key = mask.tobytes()
        if key not in self._known:
            self._encoder = self._encoder or IdentityEncoder()
            places = np.flatnonzero(mask)
            chosen = places[evenly(len(places), _SAMPLES)]
            self._known[key] = self._encoder.print_of(self._sound(chosen))
        return self._known[key]


def with_parts(prints: np.ndarray, centres: np.ndarray, most: int, identities: _Identities) -> np.ndarray:
    """Part clusters whose halves a second encoder takes for two people."""
    labels = np.argmax(prints @ centres.T, axis=1)
    for name in range(len(centres)):
        places = np.flatnonzero(labels == name)
        second = places[_halves(prints[places])] if len(places) >= 2 * _LEAST_PART else places[:0]
        first = np.setdiff1d(places, second)
        if min(len(first), len(second)) < _LEAST_PART or labels.max() + 2 > most:
            continue
        unlike = unit(prints[first].mean(axis=0)) @ unit(prints[second].mean(axis=0)) < _MAYBE_TWO
        if unlike and identities.alike(_mask(first, labels), _mask(second, labels)) < _TWO_PEOPLE:
            labels[second] = labels.max() + 1
    return means(prints, labels)


def _halves(prints: np.ndarray) -> np.ndarray:
    """Which windows are in the second half of the best cut of a cluster in two."""
    from scipy.cluster.vq import kmeans2

    tries = [kmeans2(prints, 2, minit="++", seed=seed) for seed in range(_TRIES)]
    _, labels = min(tries, key=lambda one: float(((prints - one[0][one[1]]) ** 2).sum()))
    return labels == 1


def _mask(places: np.ndarray, labels: np.ndarray) -> np.ndarray:
    mask = np.zeros(len(labels), bool)
    mask[places] = True
    return mask


def _without_halves(
    prints: np.ndarray, centres: np.ndarray, least: int, identities: _Identities
) -> np.ndarray:
    """Join clusters that a second encoder takes for one person, the most alike first."""
    while len(centres) > least:
        labels = np.argmax(prints @ centres.T, axis=1)
        alike = centres @ centres.T
        pairs = []
        for one, other in zip(*np.triu_indices(len(centres), 1)):
            here, there = labels == one, labels == other
            if alike[one, other] >= _MAYBE_ALIKE and here.any() and there.any():
                pairs.append((identities.alike(here, there), one, other))
        if not pairs or max(pairs)[0] < _ONE_PERSON:
            break
        _, one, other = max(pairs)
        centres = means(prints, np.where(labels == other, one, labels))
    return centres


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


def means(prints: np.ndarray, labels: np.ndarray) -> np.ndarray:
    """The mean print of each label that occurs, of length one."""
    return np.stack([unit(prints[labels == name].mean(axis=0)) for name in np.unique(labels)])


def unit(row: np.ndarray) -> np.ndarray:
    """A row made of length one."""
    return row / (np.linalg.norm(row) + 1e-8)
