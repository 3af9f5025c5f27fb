"""What a recording is about: words that mark a part, chapters, key sentences, quotes, key terms.

Nothing is invented: every sentence, quote and title is made of words that were said.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence

import numpy as np

from dubrel.base.text import bare_word, ends_sentence, tokens
from dubrel.base.value import Value
from dubrel.finding.commonwords import common_words
from dubrel.project.sentences import Sentence

_LONGEST_TERM = 3
_DEPENDENT = frozenset(
    (
        "and but so or because it it's its that that's this these those he she they them which who then"
        " there here yes no well oh too also und aber also der die das er sie es y pero que e mas et mais"
        " il elle"
    ).split()
)


class Chapter(Value):
    """A part of a recording about one thing.

    Attributes
    ----------
    first : int
        Place of its first sentence.
    start_ms : int
    word : int
        Id of its first word.
    title : str
    strength : float
        How much it differs from the part before, 0 to 1.
    """

    first: int
    start_ms: int
    word: int
    title: str
    strength: float


def chapters(sentences: Sequence[Sentence], vectors: np.ndarray, count: int, language: str) -> list[Chapter]:
    """Cut a recording where its topic changes.

    The cut into ``count`` parts whose sentences are most alike within each part
    (least squares about each part's mean vector, found exactly by dynamic
    programming over paragraphs; compare Utiyama and Isahara, 2001). Long pauses
    and another speaker speak for a border.

    Parameters
    ----------
    sentences : sequence of Sentence
    vectors : ndarray, shape (n, 512)
    count : int
        Parts wanted; there may be fewer where there is too little.
    language : str
    """
    units = _units(sentences)
    count = max(1, min(count, len(units) // 2))
    if not units:
        return []
    cuts = _best_cuts(sentences, vectors, units, count)
    firsts = [units[cut] for cut in cuts]
    parts = [range(a, b) for a, b in zip(firsts, [*firsts[1:], len(sentences)])]
    titles = _titles([[sentences[k].text for k in part] for part in parts], language)
    means = np.array([_unit(vectors[part.start : part.stop].mean(axis=0)) for part in parts])
    found = []
    for nth, part in enumerate(parts):
        strength = 1.0 if nth == 0 else float(np.clip(1 - means[nth] @ means[nth - 1], 0, 1))
        one = sentences[part.start]
        found.append(Chapter(part.start, one.start_ms, one.words[0], titles[nth], strength))
    return found


def usual_count(duration_ms: int) -> int:
    """How many chapters a recording of some length usually has: one in about six minutes, two to twelve."""
    return int(np.clip(round(duration_ms / 360_000), 2, 12))


def _unit(row: np.ndarray) -> np.ndarray:
    return row / max(float(np.linalg.norm(row)), 1e-9)


def _units(sentences: Sequence[Sentence]) -> list[int]:
    """First sentences of paragraphs: turns, long ones cut, very short ones joined to the next."""
    firsts, words = [], 0
    for place, one in enumerate(sentences):
        begins = place == 0 or (one.turn != sentences[place - 1].turn and words >= 12) or words >= 90
        if begins:
            firsts.append(place)
            words = 0
        words += len(one.words)
    return firsts


def _best_cuts(
    sentences: Sequence[Sentence], vectors: np.ndarray, units: Sequence[int], count: int
) -> list[int]:
    """Places among the units where the parts begin."""
    weights = np.sqrt([max(1, len(one.words)) for one in sentences]).astype(np.float32)
    bounds = [*units, len(sentences)]
    sums = np.array([(vectors[a:b] * weights[a:b, None]).sum(axis=0) for a, b in zip(bounds, bounds[1:])])
    sizes = np.array([weights[a:b].sum() for a, b in zip(bounds, bounds[1:])])
    n = len(units)
    prefix = np.concatenate([np.zeros((1, sums.shape[1])), np.cumsum(sums, axis=0)])
    gram = prefix @ prefix.T
    squares = np.diag(gram)
    lengths = np.concatenate([[0], np.cumsum(sizes)])
    span = lengths[None, :] - lengths[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        cohesion = (squares[None, :] + squares[:, None] - 2 * gram) / span
    least = min(3, n // count)
    far = np.arange(n + 1)[None, :] - np.arange(n + 1)[:, None] >= least
    cohesion = np.where((span > 0) & far, cohesion, -np.inf)
    bonus = np.array([_border(sentences, place) for place in units])
    best = cohesion[0] + 0.0
    came: list[np.ndarray] = []
    for _ in range(count - 1):
        gains = best[:n, None] + bonus[:, None] + cohesion[:n]
        came.append(np.argmax(gains, axis=0))
        best = gains.max(axis=0)
    cuts, at = [], n
    for back in reversed(came):
        at = int(back[at])
        cuts.append(at)
    return [0, *reversed(cuts)] if all(np.isfinite(best[n : n + 1])) else [0]


def _border(sentences: Sequence[Sentence], place: int) -> float:
    """What speaks for a border before a sentence: a pause, another speaker."""
    if place == 0:
        return 0.0
    before, one = sentences[place - 1], sentences[place]
    pause = max(0, one.start_ms - before.end_ms)
    short = 0.6 * (len(one.words) < 4)  # "Yes," belongs to what it answers
    return 0.15 * min(pause, 4000) / 1000 + 0.1 * (before.speaker != one.speaker) - short


# -- words that mark a part ------------------------------------------------------------


def _runs(text: str, common: frozenset[str]) -> Iterable[tuple[str, ...]]:
    """Runs of one to three words that neither begin nor end with a common one, within clauses."""
    words = tokens(text)
    bare = [bare_word(word) for word in words]
    for first in range(len(bare)):
        if not _marks(bare[first], common):
            continue
        for stop in range(first + 1, min(first + _LONGEST_TERM, len(bare)) + 1):
            if stop > first + 1 and words[stop - 2][-1:] in ",.;:!?—–":
                break
            if not _marks(bare[stop - 1], common):
                break
            yield tuple(bare[first:stop])


def _marks(bare: str, common: frozenset[str]) -> bool:
    return len(bare) > 2 and bare not in common and not bare.isdigit()


def _titles(parts: Sequence[Sequence[str]], language: str) -> list[str]:
    """For each part the runs of words that are frequent in it and rare in the others."""
    common = common_words(language)
    counts = [Counter(run for text in texts for run in _runs(text, common)) for texts in parts]
    spread = Counter(run for one in counts for run in one)
    titles = []
    for texts, one in zip(parts, counts):
        ranked = sorted(one, key=lambda run: -_worth(run, one[run], spread[run], len(parts)))
        chosen: list[tuple[str, ...]] = []
        for run in ranked:
            if all(not set(run) & set(other) for other in chosen):
                chosen.append(run)
            if len(chosen) == 2:
                break
        said = [_as_said(run, texts) for run in chosen]
        title = ", ".join(said)
        titles.append(title[:1].upper() + title[1:])
    return titles


def _worth(run: tuple[str, ...], count: int, parts: int, of: int) -> float:
    often = count if len(run) == 1 else 1.6 * (count - 0.8)  # said once, a run of words is chance
    return often * float(np.log(1 + parts * count / of)) + 0.01 * len("".join(run))


def _as_said(run: tuple[str, ...], texts: Iterable[str]) -> str:
    """A run as it was written the first time, without marks at its ends."""
    for text in texts:
        words = tokens(text)
        bare = [bare_word(word) for word in words]
        for first in range(len(bare) - len(run) + 1):
            if tuple(bare[first : first + len(run)]) == run:
                said = [word.strip('.,;:!?…“”"«»()[]–—') for word in words[first : first + len(run)]]
                return " ".join(said)
    return " ".join(run)


def key_terms(sentences: Sequence[Sentence], language: str, most: int = 20) -> list[tuple[str, int, int]]:
    """What is spoken of most: the term as said, how often, and the place of its first sentence."""
    common = common_words(language)
    counts: Counter[tuple[str, ...]] = Counter()
    first: dict[tuple[str, ...], int] = {}
    for place, one in enumerate(sentences):
        for run in _runs(one.text, common):
            counts[run] += 1
            first.setdefault(run, place)
    ranked = sorted(counts, key=lambda run: (-counts[run] * (1 + 0.8 * (len(run) - 1)), first[run]))
    chosen: list[tuple[str, ...]] = []
    for run in ranked:
        if counts[run] < 2 or len(chosen) == most:
            break
        if not any(_within(run, other) or _within(other, run) for other in chosen):
            chosen.append(run)
    return [(_as_said(run, [sentences[first[run]].text]), counts[run], first[run]) for run in chosen]


def _within(short: tuple[str, ...], long: tuple[str, ...]) -> bool:
    return any(long[k : k + len(short)] == short for k in range(len(long) - len(short) + 1))


# -- sentences that matter ---------------------------------------------------------------


def key_sentences(sentences: Sequence[Sentence], vectors: np.ndarray, words: int) -> list[int]:
    """The sentences that say most of the whole, in their order, of about so many words together.

    Each is taken for how near it is to all others (degree centrality; Erkan and
    Radev, *LexRank*, 2004) less how much of it the chosen ones say already
    (maximal marginal relevance; Carbonell and Goldstein, 1998).

    Returns
    -------
    list of int
        Places, rising.
    """
    if not len(sentences):
        return []
    lengths = np.array([len(one.text.split()) for one in sentences])
    worth = _centrality(vectors) * np.clip(lengths / 8, 0, 1) * np.clip(40 / np.maximum(lengths, 1), 0.5, 1)
    chosen: list[int] = []
    said = np.zeros(len(sentences), np.float32)
    free = lengths > 2
    total = 0
    while total < words and free.any():
        place = int(np.argmax(np.where(free, worth - 0.6 * said, -np.inf)))
        free[place] = False
        if total and total + lengths[place] > words * 1.15:
            continue
        chosen.append(place)
        total += int(lengths[place])
        said = np.maximum(said, vectors @ vectors[place])
    return sorted(chosen)


def _centrality(vectors: np.ndarray) -> np.ndarray:
    """How near each sentence is to all others, 0 to 1."""
    total = vectors.sum(axis=0)
    near = (vectors @ total - 1) / max(1, len(vectors) - 1)
    low, high = float(near.min(initial=0)), float(near.max(initial=1))
    return (near - low) / max(high - low, 1e-9)


def quotes(
    sentences: Sequence[Sentence], vectors: np.ndarray, doubts: Sequence[float], most: int = 12
) -> list[int]:
    """Sentences that can stand alone: whole, of eight to thirty words, surely transcribed, near the matter.

    Parameters
    ----------
    doubts : sequence of float
        The highest doubt in each sentence.

    Returns
    -------
    list of int
        Places, the best first.
    """
    worth = _centrality(vectors) if len(sentences) else np.zeros(0)
    ranked = []
    for place, one in enumerate(sentences):
        words = one.text.split()
        if not 8 <= len(words) <= 30 or not ends_sentence(words[-1]) or one.text.rstrip("”\"'’")[-1:] == "?":
            continue
        if bare_word(words[0]) in _DEPENDENT or not words[0][:1].isupper() or doubts[place] > 0.6:
            continue
        ranked.append((worth[place] - 0.5 * doubts[place], place))
    chosen: list[int] = []
    for _, place in sorted(ranked, reverse=True):
        if all(float(vectors[place] @ vectors[other]) < 0.7 for other in chosen):
            chosen.append(place)
        if len(chosen) == most:
            break
    return chosen
