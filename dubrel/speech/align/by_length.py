"""Words by their lengths over a passage, where nothing better is to be had."""

from __future__ import annotations

import numpy as np

from dubrel.model import RecognisedWord, Timing


def spread(words: list[str], start_ms: int, end_ms: int) -> list[RecognisedWord]:
    """Words by their lengths over a passage that could not be aligned, marked as such."""
    total, done, heard = sum(len(word) for word in words), 0, []
    for word in words:
        begin = start_ms + (end_ms - start_ms) * done // total
        done += len(word)
        close = start_ms + (end_ms - start_ms) * done // total
        heard.append(RecognisedWord(word, begin, close, doubt=0.0, timing=Timing.SPREAD))
    return heard


class SpreadAligner:
    """Where nothing better is to be had: words share the passage by their lengths, and are marked."""

    def align(self, samples: np.ndarray, words: list[str], start_ms: int) -> list[RecognisedWord]:
        """Give every word a share of the time; see :class:`EnglishAligner`."""
        return spread(words, start_ms, start_ms + max(1, len(samples) * 1000 // 16_000))
