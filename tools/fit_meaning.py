"""Fit the scale of meaning on known good, shuffled and damaged pairs.

Prints what translation/meaning.py holds.

Run it from the root: ``.venv/bin/python tools/fit_meaning.py``.
"""

import sys
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "benchmarks"))
from translated_pairs import FIT

from dubrel.translation.meaning import features, likeness


def damaged() -> tuple[list[tuple[str, str]], list[int]]:
    """Pairs in both directions with 1 for a good one."""
    pairs, good = [], []
    both = [*FIT, *((b, a) for a, b in FIT)]
    for nth, (one, other) in enumerate(both):
        words = other.split()
        half = len(words) // 2
        shuffled = both[(nth + 1) % len(both)][1]
        for text, mark in (
            (other, 1),
            (other, 1),
            (shuffled, 0),
            (" ".join(words[:half]), 0),
            (" ".join(words[half:]), 0),
        ):
            pairs.append((one, text))
            good.append(mark)
    return pairs, good


def main() -> None:
    """Maximum likelihood of a logistic scale, with a little pull to zero."""
    pairs, good = damaged()
    table = features(likeness(pairs), pairs)
    wanted = np.array(good)

    def loss(weights: np.ndarray) -> float:
        z = table @ weights
        return float(np.logaddexp(0, z).sum() - (z * wanted).sum() + 0.02 * (weights**2).sum())

    found = minimize(loss, np.zeros(table.shape[1])).x
    right = ((table @ found > 0) == wanted).mean()
    print(
        "WEIGHTS =", tuple(round(float(one), 2) for one in found), f"# {right:.1%} of {len(pairs)} told apart"
    )


if __name__ == "__main__":
    main()
