"""Whether a translation means what the original means, in a language that one need not know.

Both are turned into vectors by the multilingual sentence encoder; how near
they are and how long they are goes through a logistic scale that
``tools/fit_meaning.py`` fits on known good, shuffled and damaged pairs.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dubrel.base.languages import main_tag
from dubrel.finding.encoder import LANGUAGES, vectors_of

WEIGHTS = (14.37, 14.26, -1.3, -5.59)
SOUND, LOOK = 0.5, 0.06
"""From here on a translation is taken as sound, and as worth a look; below it is wrong."""
LENGTHS = {
    "de": 1.08,
    "es": 1.04,
    "fr": 1.1,
    "it": 1.06,
    "pt": 1.0,
    "ja": 0.45,
    "ko": 0.5,
    "zh": 0.32,
    "en": 1.0,
}
"""How long a text usually is, against English."""


def can_weigh(source: str, target: str) -> bool:
    """Whether the encoder knows both languages."""
    return main_tag(source) in LANGUAGES and main_tag(target) in LANGUAGES


def likeness(pairs: Sequence[tuple[str, str]]) -> np.ndarray:
    """Cosines of originals and translations, shape (n,).

    Raises
    ------
    EngineError
        If the encoder is not installed.
    """
    texts = [text for pair in pairs for text in pair]
    known = {text: nth for nth, text in enumerate(dict.fromkeys(texts))}
    vectors = vectors_of(list(known))
    rows = np.array([known[text] for text in texts], int).reshape(-1, 2)
    return (vectors[rows[:, 0]] * vectors[rows[:, 1]]).sum(axis=1) if len(rows) else np.zeros(0)


def features(
    likenesses: np.ndarray, pairs: Sequence[tuple[str, str]], source: str = "en", target: str = "pt"
) -> np.ndarray:
    """What the scale looks at, shape (n, 4): nearness, how much too short and too long, and one."""
    usual = LENGTHS.get(main_tag(target), 1.0) / LENGTHS.get(main_tag(source), 1.0)
    ratio = (
        np.log([(len(other) + 4) / (len(one) * usual + 4) for one, other in pairs])
        if len(pairs)
        else np.zeros(0)
    )
    return np.stack([likenesses, np.minimum(0, ratio), np.maximum(0, ratio), np.ones(len(pairs))], axis=1)


def meanings(pairs: Sequence[tuple[str, str]], source: str, target: str) -> list[float]:
    """How likely each translation means what its original means, 0 to 1.

    Parameters
    ----------
    pairs : sequence of (str, str)
        Originals and translations.
    source, target : str
        Languages (BCP 47 tags) that the encoder knows.

    Raises
    ------
    EngineError
        If the encoder is not installed.
    """
    table = features(likeness(pairs), pairs, source, target)
    return [float(one) for one in 1 / (1 + np.exp(-(table @ np.array(WEIGHTS))))]


def verdict(meaning: float) -> str:
    """``sound``, ``look`` or ``wrong``."""
    return "sound" if meaning >= SOUND else "look" if meaning >= LOOK else "wrong"
