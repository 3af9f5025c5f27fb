"""Lines that end on an article, a preposition and the like, in texts that setting was not made for.

By lists that setting does not use, in three house styles; the baseline breaks where a line is full.
"""

from __future__ import annotations

import sys
import textwrap

from common import ROOT, report

sys.path.insert(0, str(ROOT / "tests"))
import openends
from openendsabroad import BEGIN, OPEN, UNSEEN

from dubrel.base.text import spaced_units
from dubrel.captions.styles import STYLES
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.model import HouseStyle, Project, RecognisedTurn, RecognisedWord, Speaker
from dubrel.project.captiontext import text_of


def lines_of(text: str, language: str, style: HouseStyle) -> list[str]:
    """A text set into captions, line by line."""
    words, at = [], 500
    for unit, spaced in spaced_units(text):
        length = max(120, len(unit) * (160 if language in ("ja", "zh") else 70))
        words.append(RecognisedWord(unit, at, at + length, spaced=spaced))
        at += length + (440 if unit[-1] in ".!?。！？" else 40)
    project = set_turns(Project("x"), [RecognisedTurn(tuple(words), "s")], [Speaker("s", "")], language)
    project = set_again(project, style)
    track = project.captions
    assert track is not None
    return [line for one in track.captions for line in text_of(project, track, one).lines]


def ends_open(line: str, last: list[str], first: list[str]) -> bool:
    """Whether a line ends, or begins, with a word that should not stand there."""
    units = [unit.lower() for unit, _ in spaced_units(line)]
    return bool(units) and (units[-1] in last or units[0] in first)


def main() -> None:
    """Shares by language."""
    texts = {"en": openends.TEXT + openends.UNSEEN, **UNSEEN}
    lists = {"en": " ".join(openends.OPEN), **OPEN}
    shares, ours, full = dict[str, str](), [0, 0], [0, 0]
    for language, text in texts.items():
        last, first = lists[language].split(), BEGIN.get(language, "").split()
        lines = [
            line for name in ("Web", "Films", "Television") for line in lines_of(text, language, STYLES[name])
        ]
        count = sum(ends_open(line, last, first) for line in lines)
        shares[language] = f"{count / len(lines):.1%}"
        ours = [ours[0] + count, ours[1] + len(lines)]
        if language not in ("ja", "zh", "th"):
            rows = textwrap.wrap(text, 42)
            full = [full[0] + sum(ends_open(line, last, first) for line in rows), full[1] + len(rows)]
    share, usual = ours[0] / ours[1], full[0] / full[1]
    report("openends", **shares, share=f"{share:.2%}", where_full=f"{usual:.1%}", ratio=share / usual)


if __name__ == "__main__":
    main()
