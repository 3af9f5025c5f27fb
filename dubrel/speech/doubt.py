"""How unsure a heard word is, 0 to 1.

A logistic model over evidence from the language model that comes with the
aligner: how rare the word is, how well it fits the two words before it, how
well the next and the last one fit their own neighbours, and how fast it is
spoken. Fitted on three synthesised voices, clean and with noise at 15 dB, with
the true words known; how well it tells wrong words on other voices is measured
by ``benchmarks/doubt.py`` and written up in docs/doubt.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from dubrel.edits.intake import HeardWord
from dubrel.speech.pronounce import phones_of, spoken_forms

# rarity, fit, fit of the next, fit of the last, worse of fit and next, length of phones, constant
_WEIGHTS = np.array([-0.185, -0.754, -0.339, -0.088, -0.115, -0.536, -1.86])
_MEANS = np.array([-6.706, -5.508, -5.497, -5.491, -7.326, 0.052, 0.0])
_SPREADS = np.array([2.726, 3.179, 3.185, 3.179, 3.017, 0.375, 1.0])
_UNIT, _FLOOR = 1e4, -12.0
_USUAL_PHONE_MS = 70.0


class DoubtJudge:
    """Gives heard words their doubt; one per process."""

    def __init__(self) -> None:
        from pocketsphinx import NGramModel, get_model_path

        self._model: Any = NGramModel.readfile(get_model_path("en-us/en-us.lm.bin"))

    def judge(self, words: Sequence[HeardWord]) -> list[HeardWord]:
        """The same words with their doubt.

        Parameters
        ----------
        words : sequence of HeardWord
            Words that follow each other, as a chunk gives them.
        """
        rows, places = [], []
        before = ["<s>", "<s>"]
        for place, word in enumerate(words):
            forms = spoken_forms(word.text)
            if not forms:
                continue
            phones = sum(len(phones_of(form).split()) for form in forms)
            pace = max(1.0, word.end_ms - word.start_ms) / max(1, phones) / _USUAL_PHONE_MS
            rarity = min(self._fit([form]) for form in forms)
            rows.append((rarity, max(_FLOOR, self._fit([forms[-1], before[1], before[0]])), np.log(pace)))
            places.append(place)
            before = [before[1], forms[-1]]
        judged = list(words)
        for place, doubt in zip(places, _doubts(np.array(rows))):
            judged[place] = replace(judged[place], doubt=round(float(doubt), 3))
        return judged

    def _fit(self, words: list[str]) -> float:
        """Log probability of the first word after the others, latest first."""
        return max(_FLOOR, float(self._model.prob(words)) / _UNIT)


def _doubts(rows: np.ndarray) -> np.ndarray:
    if not len(rows):
        return np.zeros(0)
    rarity, fit, pace = rows.T
    following = np.concatenate([fit[1:], [0.0]])
    last = np.concatenate([[0.0], fit[:-1]])
    evidence = np.stack([rarity, fit, following, last, np.minimum(fit, following), pace, np.ones(len(fit))])
    score = _WEIGHTS @ ((evidence - _MEANS[:, None]) / _SPREADS[:, None])
    return 1 / (1 + np.exp(-score))
