"""The best lines of one caption."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.value import replace
from dubrel.captions.setting.chain import Part, make_chain
from dubrel.captions.setting.linetables import FAR, line_tables
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
    chain = make_chain([Part(Turn(0, tuple(words)), name)], shown, language)
    tables = line_tables(chain, len(chain))
    return tables.breaks(0, len(chain)) if tables.cost[0, -1] < FAR else None


def _with_name(style: HouseStyle, named: bool) -> HouseStyle:
    return replace(style, names="change" if named else "never", max_words=0)
