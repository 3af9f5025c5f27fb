"""What is known of each sentence before clips are weighed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np

from dubrel.base.text import bare_word, ends_sentence
from dubrel.base.value import Value
from dubrel.finding.clips.heard import Heard, risen
from dubrel.finding.clips.leaning import all_lean
from dubrel.finding.commonwords import common_words
from dubrel.finding.topics import key_terms
from dubrel.project.sentences import Sentence

_ANSWER_WORDS, _ASIDE_WORDS = 12, 3  # an answer has so many; so few between its parts are none
_AFTER_MS, _BEFORE_MS = 1500, 1000  # laughter so near to the end of a sentence is about it
_NO_PAUSE = 60_000


class Features(Value):
    """Of each sentence; arrays of shape (n,) unless said otherwise.

    Attributes
    ----------
    starts, ends : ndarray of int
        Milliseconds.
    before, after : ndarray of int
        How long the pause before and after it is.
    begins, finishes : ndarray of bool
        Whether a sentence begins and ends there, not only a line.
    leans : ndarray
        How much it needs what was said before it, 0 to 1.
    leaning : list of str
        The word that does.
    questions : ndarray of bool
    enough, answered : ndarray of int
        For a question, the sentence by which there is an answer, and its last one; n where there is none.
    laughs, closing : ndarray
        Milliseconds of laughter or applause in and after it; those that follow it at once.
    risen : ndarray, shape (n, 3)
        See :func:`dubrel.finding.clips.heard.risen`.
    facts : ndarray
        Figures, names and key terms.
    turns : ndarray of int
        A number for who speaks, another one whenever the voice changes.
    vectors : ndarray, shape (n, 512)
    """

    starts: np.ndarray
    ends: np.ndarray
    before: np.ndarray
    after: np.ndarray
    begins: np.ndarray
    finishes: np.ndarray
    leans: np.ndarray
    leaning: list[str]
    questions: np.ndarray
    enough: np.ndarray
    answered: np.ndarray
    laughs: np.ndarray
    closing: np.ndarray
    risen: np.ndarray
    facts: np.ndarray
    turns: np.ndarray
    vectors: np.ndarray


def features_of(sentences: Sequence[Sentence], vectors: np.ndarray, heard: Heard, language: str) -> Features:
    """What is known of sentences.

    Parameters
    ----------
    vectors : ndarray, shape (n, 512)
        What the sentences mean; zeros where that is not known.
    """
    starts = np.array([one.start_ms for one in sentences])
    ends = np.array([one.end_ms for one in sentences])
    pauses = np.maximum(0, starts[1:] - ends[:-1])
    whole = [ends_sentence(one.text.split()[-1], language) for one in sentences]
    last = [a.turn != b.turn for a, b in zip(sentences, sentences[1:])]
    finishes = np.array([w or turn for w, turn in zip(whole, [*last, True])])
    leaning = all_lean([one.text for one in sentences], language)
    questions = np.array([one.text.rstrip("”\"'’»)").endswith(("?", "？", "؟")) for one in sentences])
    enough, answered = _answers(sentences, questions)
    laughs, closing = _laughter(starts, ends, heard)
    voices = [one.speaker if one.speaker is not None else one.turn for one in sentences]
    changes = np.array([0, *(a != b for a, b in zip(voices, voices[1:]))])
    return Features(
        starts,
        ends,
        np.concatenate([[_NO_PAUSE], pauses]),
        np.concatenate([pauses, [_NO_PAUSE]]),
        np.concatenate([[True], finishes[:-1]]),
        finishes,
        np.array([amount for amount, _ in leaning]),
        [word for _, word in leaning],
        questions,
        enough,
        answered,
        laughs,
        closing,
        risen(sentences, heard),
        np.array(_facts(sentences, language), np.float64),
        np.cumsum(changes),
        vectors,
    )


def _answers(sentences: Sequence[Sentence], questions: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Where each question has been answered, and where its answer ends."""
    count = len(sentences)
    enough, answered = np.full(count, count), np.full(count, count)
    for asked in np.flatnonzero(questions).tolist():
        who, words = sentences[asked].speaker or sentences[asked].turn, 0
        for nth in range(asked + 1, min(count, asked + 60)):
            one = sentences[nth]
            if (one.speaker or one.turn) == who:
                if words and len(one.words) > _ASIDE_WORDS:
                    break
                continue  # the question goes on, or is an aside
            words += len(one.words)
            if words >= _ANSWER_WORDS:
                enough[asked] = min(enough[asked], nth)
                answered[asked] = nth
    return enough, answered


def _laughter(starts: np.ndarray, ends: np.ndarray, heard: Heard) -> tuple[np.ndarray, np.ndarray]:
    laughs, closing = np.zeros(len(starts)), np.zeros(len(starts))
    for spot in heard.lively:
        nth = int(np.searchsorted(starts, spot.start_ms, side="right")) - 1
        if nth < 0 or spot.start_ms > ends[nth] + 2 * _AFTER_MS:
            continue
        length = spot.end_ms - spot.start_ms
        laughs[nth] += length
        if -_BEFORE_MS <= spot.start_ms - ends[nth] <= _AFTER_MS:
            closing[nth] += length
    return laughs, closing


def _facts(sentences: Sequence[Sentence], language: str) -> list[int]:
    """How many figures, names and key terms each sentence has."""
    terms = {bare_word(word) for term, _, _ in key_terms(sentences, language) for word in term.split()}
    return [
        len(figures_in(one.text)) + len(names_in(one.text, language)) + _terms_in(one.text, terms)
        for one in sentences
    ]


def _terms_in(text: str, terms: set[str]) -> int:
    return len({bare for word in text.split() if (bare := bare_word(word)) in terms})


def figures_in(text: str) -> list[str]:
    """What is written in figures, without the marks around it."""
    return [word.strip(".,;:!?()“”\"'’") for word in text.split() if any(map(str.isdigit, word))]


def names_in(text: str, language: str) -> list[str]:
    """Names: what has a capital within a sentence; none in a language that gives one to every noun."""
    if language.split("-")[0] == "de":
        return []
    common, found, run = common_words(language), list[str](), list[str]()
    words = text.split()
    for nth, word in enumerate(words):
        bare = word.strip(".,;:!?()“”\"'’")
        capital = nth > 0 and bare[:1].isupper() and bare_word(bare) not in common and len(bare) > 1
        if capital:
            run.append(bare.removesuffix("’s").removesuffix("'s"))
        if run and (not capital or bare != word.lstrip("(“\"'‘")):
            found.append(" ".join(run))
            run = []
    return [*found, " ".join(run)] if run else found


def rarities(sentences: Sequence[Sentence]) -> dict[str, float]:
    """How rare each word is in the recording: the logarithm of sentences to each with it."""
    counts: Counter[str] = Counter()
    for one in sentences:
        counts.update({bare_word(word) for word in one.text.split()})
    return {word: float(np.log(len(sentences) / count)) for word, count in counts.items()}
