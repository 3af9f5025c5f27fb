"""How unsure a transcribed word is, 0 to 1.

A logistic model over evidence of three kinds: how probable the recogniser
itself found the word's parts and their neighbours', whether a second reading
agrees, and what the language model that comes with the aligner says of the
word and its neighbours. Fitted by ``tools/fit_doubt.py`` on three synthesised
voices, clean and with noise, with the true words known; how well it tells
wrong words on another voice is measured by ``benchmarks/doubt.py`` and written
up in docs/doubt.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from dubrel.base.text import bare_word
from dubrel.base.value import replace
from dubrel.model import RecognisedWord
from dubrel.speech.align.pronounce import phones_of, spoken_forms
from dubrel.speech.recognise.recogniser import RecognisedToken

_UNIT, _FLOOR = 1e4, -12.0
_USUAL_PHONE_MS = 70.0
_MOST_MARGIN = 10.0
_CERTAIN = 0.999

# worst, total, margin, length, second reading differs, worst before and after, margin before and after;
# rarity, fit, fit of the next, fit of the last, length of phones; constant
_WITH_MODEL = np.array(
    [
        0.517,
        -1.44,
        -0.83,
        -0.929,
        1.495,
        -0.26,
        -0.773,
        -0.471,
        -0.147,
        -0.185,
        0.045,
        -0.016,
        0.056,
        -0.728,
        -0.129,
    ]
)
_WITHOUT = np.array([0.679, -1.679, -0.778, -0.337, 1.591, -0.153, -0.788, -0.387, -0.191, -0.382])


class DoubtJudge:
    """Gives transcribed words their doubt; one per process.

    Parameters
    ----------
    language : str
        The language model speaks English; other languages do without.
    """

    def __init__(self, language: str = "en") -> None:
        self._model: Any = None
        if language.split("-")[0] in ("en", ""):
            from pocketsphinx import NGramModel, get_model_path

            self._model = NGramModel.readfile(get_model_path("en-us/en-us.lm.bin"))

    def judge(
        self, words: Sequence[RecognisedWord], tokens: Sequence[RecognisedToken], agreed: Sequence[bool]
    ) -> list[RecognisedWord]:
        """The same words with their doubt.

        Parameters
        ----------
        words : sequence of RecognisedWord
            Words that follow each other, as a chunk gives them.
        tokens : sequence of RecognisedToken
            What the recogniser said of each.
        agreed : sequence of bool
            Whether a second reading has each word too.
        """
        if not words:
            return []
        weights = _WITHOUT if self._model is None else _WITH_MODEL
        evidence = self.evidence(words, tokens, agreed)
        doubts = 1 / (1 + np.exp(-(weights[:-1] @ evidence + weights[-1])))
        return [
            replace(word, doubt=round(min(float(doubt), _CERTAIN), 3)) for word, doubt in zip(words, doubts)
        ]

    def evidence(
        self, words: Sequence[RecognisedWord], tokens: Sequence[RecognisedToken], agreed: Sequence[bool]
    ) -> np.ndarray:
        """What speaks for and against each word.

        Returns
        -------
        ndarray, shape (rows, words)
            Nine rows from the sound; with a language model five more.
        """
        worst = np.array([one.worst for one in tokens])
        total = np.array([one.total for one in tokens])
        margin = np.log1p(np.clip([one.margin for one in tokens], 0, _MOST_MARGIN))
        length = np.log1p([len(bare_word(word.text)) for word in words])
        rows = [worst, total, margin, length, ~np.array(agreed, bool)]
        rows += [_before(worst), _after(worst), _before(margin, 2.4), _after(margin, 2.4)]
        if self._model is not None:
            rows += self._language_evidence(words)
        return np.array(rows, float)

    def _language_evidence(self, words: Sequence[RecognisedWord]) -> list[np.ndarray]:
        """Rarity, fit to the two words before, the next one's fit, the last one's, and length of phones."""
        found = np.zeros((3, len(words)))
        before = ["<s>", "<s>"]
        for place, word in enumerate(words):
            forms = spoken_forms(word.text)
            if not forms:
                continue
            phones = sum(len(phones_of(form).split()) for form in forms)
            pace = max(1.0, word.end_ms - word.start_ms) / max(1, phones) / _USUAL_PHONE_MS
            rarity = min(self._fit([form]) for form in forms)
            found[:, place] = rarity, self._fit([forms[-1], before[1], before[0]]), np.log(pace)
            before = [before[1], forms[-1]]
        rarity_, fit, pace_ = found
        return [rarity_, fit, _after(fit), _before(fit), pace_]

    def _fit(self, words: list[str]) -> float:
        """Log probability of the first word after the others, latest first."""
        return max(_FLOOR, float(self._model.prob(words)) / _UNIT)


def _before(row: np.ndarray, edge: float = 0.0) -> np.ndarray:
    return np.concatenate([[edge], row[:-1]])


def _after(row: np.ndarray, edge: float = 0.0) -> np.ndarray:
    return np.concatenate([row[1:], [edge]])
