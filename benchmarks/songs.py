"""Lines of songs found from how they are sung, against a line at every rest of a third of a second."""

from __future__ import annotations

import json
import sys
import time
from itertools import accumulate

from common import ROOT, report

from dubrel.base.value import replace

sys.path.insert(0, str(ROOT / "tests"))
from songs import STANZAS, sung

from dubrel.edits.words.songlines import line_starts, stanzas_of
from dubrel.model import Word

SONGS = {
    "common metre": STANZAS,
    "ten syllables": (
        (
            "The river carries everything we lose",
            "the tins the ropes the letters and the shoes",
            "and leaves them where the willow roots are old",
            "among the flags of iris blue and gold",
        ),
        (
            "I walked the towpath early in the year",
            "the engine that I wanted was not near",
            "a heron stood as quiet as a nail",
            "and watched the empty water like a sail",
        ),
    ),
    "three syllables": (
        ("Push the pole", "turn the wheel", "paint the hull", "mend the keel"),
        ("Rain again", "tea at four", "boots in rows", "by the door"),
        ("Pump the bilge", "light the stove", "nobody knows", "the way we drove"),
    ),
    "a refrain": (
        (
            "Bring her home bring her home",
            "down the water slow",
            "bring her home bring her home",
            "let the ladies know",
            "that the lantern in the window",
            "has been burning since November",
            "and the kettle on the hob",
            "is the sound that I remember",
        ),
        (
            "Bring her home bring her home",
            "down the water slow",
            "bring her home bring her home",
            "let the ladies know",
            "that the paint is red and yellow",
            "and the brasses all are shining",
            "and the cloud above the marsh",
            "has a broken silver lining",
        ),
    ),
}
REST_MS = 300
SEEDS = range(10)


def score(found: list[int], wanted: set[int]) -> float:
    """The harmonic mean of how many are right and how many are found, without the first line."""
    got = set(found) - {0}
    right = len(got & wanted)
    return 2 * right / (len(got) + len(wanted)) if got else 0.0


def by_rests(words: list[Word]) -> list[int]:
    """A line at every rest."""
    return [k for k in range(1, len(words)) if words[k].start_ms - words[k - 1].end_ms >= REST_MS]


def main() -> None:
    """Print what is found in each song, and how long an hour and a half of songs takes."""
    figures: dict[str, dict[str, float]] = {}
    for name, stanzas in SONGS.items():
        wanted = set(accumulate(len(line.split()) for lines in stanzas for line in lines))
        wanted.remove(max(wanted))
        for rest in (0, 150, 350):
            for marks in (False, True):
                said = [sung(stanzas, rest_ms=rest, marks=marks, seed=seed) for seed in SEEDS]
                ours = sum(score(line_starts(one), wanted) for one in said) / len(said)
                base = sum(score(by_rests(one), wanted) for one in said) / len(said)
                sizes = [sum(len(line.split()) for line in lines) for lines in stanzas]
                stanza = sum([len(part) for part in stanzas_of(one)] == sizes for one in said) / len(said)
                key = f"{name}, rests of {rest} ms{', commas' if marks else ''}"
                figures[key] = {"lines": round(ours, 3), "at rests": round(base, 3), "stanzas": stanza}
    long: list[Word] = []
    for nth in range(90):
        long += [
            replace(one, start_ms=one.start_ms + nth * 60_000, end_ms=one.end_ms + nth * 60_000)
            for one in sung(seed=nth)
        ]
    began = time.perf_counter()
    line_starts(long)
    seconds = time.perf_counter() - began
    lines = sum(one["lines"] for one in figures.values()) / len(figures)
    base = sum(one["at rests"] for one in figures.values()) / len(figures)
    print(json.dumps(figures, indent=1))
    report("songs", lines=lines, at_rests=base, words=len(long), seconds=seconds)


if __name__ == "__main__":
    main()
