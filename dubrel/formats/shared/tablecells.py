"""Cells of tables: what looks like a formula is guarded by a sign that is not seen."""

from __future__ import annotations

from collections.abc import Iterable

from dubrel.base.catalogue import counted

_GUARD = "\u200b"
_FORMULA = "=+-@\t\r"


def guarded(text: str) -> str:
    r"""A text that no program for tables takes for a formula.

    Examples
    --------
    >>> guarded("=1+1") == "\u200b=1+1", guarded("Oak")
    (True, 'Oak')
    """
    return f"{_GUARD}{text}" if text[:1] in _FORMULA and text else text


def unguarded(text: str) -> str:
    """A cell without that sign."""
    return text.lstrip(_GUARD)


def guards_said(cells: Iterable[str]) -> str:
    """What there is to say of cells that were guarded; nothing where none was."""
    many = sum(guarded(one) != one for one in cells)
    if not many:
        return ""
    return counted(
        many,
        "text begins like a formula; an invisible character stands before it in the table.",
        "texts begin like a formula; an invisible character stands before each in the table.",
    )
