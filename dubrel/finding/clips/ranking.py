"""Clips: passages that stand by themselves, the liveliest first, each with its reasons."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np

from dubrel.base.text import bare_word
from dubrel.base.value import Value
from dubrel.finding.clips.features import Features, features_of, rarities
from dubrel.finding.clips.heard import Heard
from dubrel.finding.clips.titles import title_of
from dubrel.finding.clips.whyclip import reasons_of
from dubrel.finding.commonwords import common_words
from dubrel.model.cliprules import ClipRules
from dubrel.project.sentences import Sentence

MOST = 30
_LEANS = 0.5  # from here on a clip does not stand by itself
_OVERLAP = 0.25  # of the shorter of two
_PAUSE_MS = 600.0
_AROUND = 3  # sentences beside a clip with which it is compared
_USUAL = 2  # of the weights
_BLOCK = 4096  # passages whose vectors are in memory at once
_BASE = {"answers": 1.0, "laughter": 1.2, "raised": 0.8, "facts": 0.5, "thought": 1.2, "voices": 0.2}
_ABOUT, _NEAR, _SHORT, _SAID = 2.0, 0.12, 2, 0.3


class ClipProposal(Value):
    """A passage that could be passed on.

    Attributes
    ----------
    start_ms, end_ms : int
        From its first word to its last, or to the end of the laughter that follows.
    words : tuple of int
        Ids.
    title : str
        Words that are said in it.
    reasons : tuple of str
        Why, in words and figures, what counts most first.
    score : float
    speakers : tuple of str
        Ids of those who speak, in order.
    stands : bool
        Whether it needs nothing that was said before it.
    """

    start_ms: int
    end_ms: int
    words: tuple[int, ...]
    title: str
    reasons: tuple[str, ...]
    score: float
    speakers: tuple[str, ...]
    stands: bool


class _Spans(Value):
    """Passages by their first and last sentences, and what each part of their worth comes to."""

    first: np.ndarray
    last: np.ndarray
    parts: dict[str, np.ndarray]
    score: np.ndarray


def proposed_clips(
    sentences: Sequence[Sentence],
    vectors: np.ndarray,
    rules: ClipRules,
    heard: Heard,
    language: str,
    *,
    about: np.ndarray | None = None,
    but: Collection[tuple[int, int]] = (),
    most: int = MOST,
) -> list[ClipProposal]:
    """Passages worth sharing.

    Every run of sentences of the wished length is weighed at once; of those that share
    more than a quarter, the best is taken.

    Parameters
    ----------
    sentences : sequence of Sentence
        Of the whole recording, in order.
    vectors : ndarray, shape (n, 512)
        What they mean; zeros where that is not known.
    rules : ClipRules
    heard : Heard
        What the sound says.
    about : ndarray, shape (512,), optional
        What clips are to be about: a question, or the mean of another clip.
    but : collection of (int, int)
        Times that no clip may overlap.

    Returns
    -------
    list of ClipProposal
        None of which begins or ends within a sentence.
    """
    if not sentences:
        return []
    known = features_of(sentences, vectors, heard, language)
    near = None
    if about is not None:
        near = known.vectors @ about * _long(sentences) + _named(sentences, rules.about, language)
    spans = _weighed(known, rules, near)
    chosen = _apart(known, spans, but, most)
    rare = rarities(sentences)
    made = [_made(sentences, known, spans, nth, heard, language, rare) for nth in chosen]
    return made if rules.order == "worth" else sorted(made, key=lambda one: one.start_ms)


def _spans(known: Features, rules: ClipRules) -> tuple[np.ndarray, np.ndarray]:
    """The runs of whole sentences of the wished length."""
    begins = np.flatnonzero(known.begins)
    low = np.searchsorted(known.ends, known.starts[begins] + rules.low_s * 1000, side="left")
    high = np.searchsorted(known.ends, known.starts[begins] + rules.high_s * 1000, side="right")
    counts = np.maximum(0, high - low)
    first = np.repeat(begins, counts)
    offsets = np.arange(len(first)) - np.repeat(np.cumsum(counts) - counts, counts)
    last = np.repeat(low, counts) + offsets
    good = known.finishes[last] if len(last) else np.zeros(0, bool)
    if rules.alone == "must":
        good &= known.leans[first] < _LEANS
    return first[good], last[good]


def _long(sentences: Sequence[Sentence]) -> np.ndarray:
    """1 for a sentence that says something, 0 for a word or two: those are near to everything."""
    return np.array([len(one.words) > _SHORT for one in sentences], np.float64)


def _named(sentences: Sequence[Sentence], about: str, language: str) -> np.ndarray:
    """How much of what was asked for is said in so many words, or in others of the same stem."""
    common = common_words(language)
    asked = {bare for word in about.split() if len(bare := bare_word(word)) >= 3 and bare not in common}
    stems = [word[: max(4, len(word) - 2)] for word in asked]
    said = [[bare_word(word) for word in one.text.split()] for one in sentences]
    counts = [sum(any(word.startswith(stem) for word in row) for stem in stems) for row in said]
    return _SAID * np.array(counts, np.float64) / max(1, len(stems))


def _weighed(known: Features, rules: ClipRules, near: np.ndarray | None) -> _Spans:
    first, last = _spans(known, rules)
    parts = {
        "answers": _answers(known, first, last),
        "laughter": _laughter(known, first, last),
        "raised": _raised(known, first, last),
        "facts": np.minimum(1, _sum(known.facts, first, last) / 6),
        "thought": _thought(known, first, last),
        "voices": np.minimum(1, (known.turns[last] - known.turns[first]) / 4),
    }
    score = np.zeros(len(first))
    for name, part in parts.items():
        score += _BASE[name] * getattr(rules, name) / _USUAL * part
    score += 0.3 * np.minimum(1, known.before[first] / _PAUSE_MS)
    score += 0.3 * np.minimum(1, known.after[last] / _PAUSE_MS)
    score -= 0.6 * known.questions[last]
    if rules.alone != "any":
        score -= 1.5 * known.leans[first]
    if near is not None:
        best = _most(near, first, last)
        mean = _sum(near, first, last) / (last - first + 1)
        parts["about"] = best
        spread = max(float(near.std()), 1e-6)
        score += _ABOUT * (0.6 * best + 0.4 * mean - float(near.mean())) / (2 * spread)
        score[best < _NEAR] = -np.inf
    return _Spans(first, last, parts, score)


def _sum(values: np.ndarray, first: np.ndarray, last: np.ndarray) -> np.ndarray:
    sums = np.concatenate([[0.0], np.cumsum(values)])
    return sums[last + 1] - sums[first]


def _most(values: np.ndarray, first: np.ndarray, last: np.ndarray) -> np.ndarray:
    """The greatest value of each run, by a table of the greatest of 1, 2, 4 … in a row."""
    table = [values]
    while 2 ** len(table) <= len(values):
        half = 2 ** (len(table) - 1)
        table.append(np.maximum(table[-1][:-half], table[-1][half:]))
    level = np.log2(last - first + 1).astype(int)
    found = np.empty(len(first))
    for one in np.unique(level):
        rows = level == one
        found[rows] = np.maximum(table[one][first[rows]], table[one][last[rows] + 1 - 2**one])
    return found


def _answers(known: Features, first: np.ndarray, last: np.ndarray) -> np.ndarray:
    """Whether a question near the beginning is answered, and to the end."""
    best = np.zeros(len(first))
    for step, worth in ((0, 1.0), (1, 0.8), (2, 0.6)):
        asked = np.minimum(first + step, len(known.starts) - 1)
        there = known.questions[asked] & (known.enough[asked] <= last)
        whole = there & (known.answered[asked] <= last)
        best = np.maximum(best, worth * (1 - known.leans[asked]) * (0.6 * there + 0.4 * whole))
    return best


def _laughter(known: Features, first: np.ndarray, last: np.ndarray) -> np.ndarray:
    """How much laughter or applause there is, above all at the end."""
    within = np.minimum(1, _sum(known.laughs, first, last) / 2000)
    return 0.4 * within + 0.6 * (known.closing[last] > 0)


def _raised(known: Features, first: np.ndarray, last: np.ndarray) -> np.ndarray:
    """How far voices rise above their own average."""
    length = _sum(known.ends - known.starts, first, last)
    usual = np.array([4.0, 3.0, 0.25])
    above = np.clip(known.risen / usual, 0, 1) * (known.ends - known.starts)[:, None]
    each = [_sum(above[:, column], first, last) / np.maximum(length, 1) for column in range(3)]
    return np.minimum(1, 2 * (0.4 * each[0] + 0.3 * each[1] + 0.3 * each[2]))


def _thought(known: Features, first: np.ndarray, last: np.ndarray) -> np.ndarray:
    """How alike the sentences are to each other, more than to those beside them."""
    if not known.vectors.any() or not len(first):
        return np.zeros(len(first))
    sums = np.concatenate([np.zeros((1, known.vectors.shape[1])), np.cumsum(known.vectors, axis=0)])
    squares = np.concatenate([[0.0], np.cumsum((known.vectors**2).sum(axis=1))])
    blocks = [
        _alike(sums, squares, first[at : at + _BLOCK], last[at : at + _BLOCK])
        for at in range(0, len(first), _BLOCK)
    ]
    inside, apart = np.concatenate(blocks, axis=1)
    level = (inside - np.median(inside)) / max(float(inside.std()), 1e-6)
    return np.clip(0.25 * level + 2.0 * apart, 0, 1)


def _alike(sums: np.ndarray, squares: np.ndarray, first: np.ndarray, last: np.ndarray) -> np.ndarray:
    """How alike the sentences of passages are, on average; and how much more than to those beside.

    Parameters
    ----------
    sums, squares : ndarray, shapes (n + 1, 512) and (n + 1,)
        Running sums of the vectors, and of the squares of their lengths.

    Returns
    -------
    ndarray, shape (2, m)
    """
    count = (last - first + 1).astype(np.float64)
    whole = sums[last + 1] - sums[first]
    own = (whole**2).sum(axis=1) - (squares[last + 1] - squares[first])
    inside = np.where(count > 1, own / np.maximum(count * (count - 1), 1), 0.0)
    low, high = np.maximum(0, first - _AROUND), np.minimum(len(sums) - 1, last + 1 + _AROUND)
    beside = [
        ((sums[b] - sums[a]) * whole).sum(axis=1) / np.maximum((b - a) * count, 1)
        for a, b in ((low, first), (last + 1, high))
    ]
    return np.stack([inside, inside - 0.5 * (beside[0] + beside[1])])


def _apart(known: Features, spans: _Spans, but: Collection[tuple[int, int]], most: int) -> list[int]:
    """The best passages of which no two share much."""
    taken, chosen = [(start, end, 0.0) for start, end in but], list[int]()
    for nth in np.argsort(-spans.score, kind="stable"):
        if len(chosen) == most or spans.score[nth] == -np.inf:
            break
        start, end = int(known.starts[spans.first[nth]]), int(known.ends[spans.last[nth]])
        if all(
            min(end, stop) - max(start, since) <= share * min(end - start, stop - since)
            for since, stop, share in taken
        ):
            chosen.append(int(nth))
            taken.append((start, end, _OVERLAP))
    return chosen


def _made(
    sentences: Sequence[Sentence],
    known: Features,
    spans: _Spans,
    nth: int,
    heard: Heard,
    language: str,
    rare: dict[str, float],
) -> ClipProposal:
    first, last = int(spans.first[nth]), int(spans.last[nth])
    some = sentences[first : last + 1]
    end = some[-1].end_ms
    until = int(known.starts[last + 1]) if last + 1 < len(sentences) else end + 5000
    for spot in heard.lively:
        if end - 1000 <= spot.start_ms <= end + 1500:
            end = max(end, min(spot.end_ms, until))
    parts = {name: float(part[nth]) for name, part in spans.parts.items()}
    return ClipProposal(
        some[0].start_ms,
        end,
        tuple(word for one in some for word in one.words),
        title_of([one.text for one in some], rare, language),
        tuple(reasons_of(some, known, first, last, parts, heard, language)),
        float(spans.score[nth]),
        tuple(dict.fromkeys(one.speaker for one in some if one.speaker is not None)),
        bool(known.leans[first] < _LEANS),
    )
