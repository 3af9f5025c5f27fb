"""Compare two texts word by word: the edits of least number, and the word error rate.

Levenshtein's distance, by the bits of RapidFuzz (after Hyyrö, 2003), which cuts what
is too long for memory where the best way passes (Hirschberg, 1975). Of several ways
with as few edits the one is taken whose words left out and put in stand earliest.
"""

from __future__ import annotations

from collections.abc import Sequence

from rapidfuzz.distance import Levenshtein

from dubrel.base.value import Value


class Pairing(Value):
    """What stands opposite what.

    Attributes
    ----------
    pairs : list of (int or None, int or None)
        Places in the reference and in the hypothesis; ``None`` where a word
        was left out or put in.
    substitutions, insertions, deletions : int
    """

    pairs: list[tuple[int | None, int | None]]
    substitutions: int
    insertions: int
    deletions: int

    @property
    def errors(self) -> int:
        """All edits."""
        return self.substitutions + self.insertions + self.deletions


def pair_words(reference: Sequence[str], hypothesis: Sequence[str]) -> Pairing:
    """Pair the words of two texts with the fewest edits.

    Parameters
    ----------
    reference, hypothesis : sequence of str
        Words, already normalised.

    Examples
    --------
    >>> pair_words("a b c".split(), "a x c d".split()).errors
    2
    >>> pair_words(["so"], ["so", "so"]).pairs
    [(None, 0), (0, 1)]
    """
    rows, columns = len(reference), len(hypothesis)
    pairs: list[tuple[int | None, int | None]] = []
    # backwards, so that of two ways that are as good the words put in come early
    for step in Levenshtein.opcodes(reference[::-1], hypothesis[::-1]):
        ours = range(rows - 1 - step.src_start, rows - 1 - step.src_end, -1)
        theirs = range(columns - 1 - step.dest_start, columns - 1 - step.dest_end, -1)
        if step.tag == "delete":
            pairs += [(one, None) for one in ours]
        elif step.tag == "insert":
            pairs += [(None, one) for one in theirs]
        else:
            pairs += zip(ours, theirs)
    pairs.reverse()
    wrong = sum(r is not None and h is not None and reference[r] != hypothesis[h] for r, h in pairs)
    return Pairing(pairs, wrong, sum(r is None for r, _ in pairs), sum(h is None for _, h in pairs))


def word_error_rate(reference: Sequence[str], hypothesis: Sequence[str]) -> float:
    """Edits over the words of the reference."""
    return pair_words(reference, hypothesis).errors / max(1, len(reference))
