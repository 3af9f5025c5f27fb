"""The best lines of one caption."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.value import replace
from dubrel.captions.setting.chain import Part, make_chain
from dubrel.captions.setting.linetables import lines_of_run
from dubrel.model import HouseStyle, Turn, Word


def best_lines(
    words: Sequence[Word], style: HouseStyle, language: str, name: str = ""
) -> tuple[int, ...] | None:
    """The cheapest lines of a caption.

    Parameters
    ----------
    words : sequence of Word
        Those that show.
    style : HouseStyle
        With the rules of the language.
    name : str
        What stands before the first word; empty for nothing.

    Returns
    -------
    tuple of int or None
        Places in ``words`` that begin a new line; ``None`` if the words do
        not fit. A single word longer than a line stands alone in its line.
    """
    if not words:
        return ()
    shown = _with_name(style, bool(name))
    return lines_of_run(make_chain([Part(Turn(0, tuple(words)), name)], shown, language))


def _with_name(style: HouseStyle, named: bool) -> HouseStyle:
    return replace(style, names="change" if named else "never", max_words=0)
