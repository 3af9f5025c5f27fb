"""What others add: objects that installed packages name under an entry point, and ours, which use the same door."""

from __future__ import annotations

import logging
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from importlib.metadata import EntryPoint, entry_points
from typing import Any, Generic, TypeVar

T = TypeVar("T")
OURS = "dubrel"


@dataclass(frozen=True)
class Plugins(Generic[T]):
    """What was found.

    Attributes
    ----------
    things : tuple
        Ours first, in their order, then those of other packages by name.
    problems : tuple of str
        One sentence for each that cannot be used.
    """

    things: tuple[T, ...]
    problems: tuple[str, ...] = ()


def plugins(group: str, kind: type[T], built_in: Sequence[str]) -> Plugins[T]:
    """The objects of a kind: ours, and those of packages that are installed.

    Parameters
    ----------
    group : str
        Name of the entry point, like ``dubrel.forms``.
    kind : type
        Of each object; an entry point may also name a list or tuple of them.
    built_in : sequence of str
        Ours, as ``module:name``.
    """
    things: list[T] = []
    problems: list[str] = []
    ours = [EntryPoint(OURS, value, group) for value in built_in]
    others = sorted(entry_points(group=group), key=lambda one: one.name)
    for one in (*ours, *others):
        try:
            things += _objects(one, kind)
        except Exception as error:
            if one.name == OURS:
                raise
            logging.warning("%s %s", group, one.name, exc_info=True)
            problems.append(_problem(one, error))
    return Plugins(tuple(things), tuple(problems))


def _objects(one: EntryPoint, kind: type[T]) -> Iterable[T]:
    loaded: Any = one.load()
    found = list(loaded) if isinstance(loaded, list | tuple) else [loaded]
    for each in found:
        if not isinstance(each, kind):
            raise TypeError(f"{type(each).__name__} where {kind.__name__} is expected")
    return found


def _problem(one: EntryPoint, error: Exception) -> str:
    package = one.dist.name if one.dist is not None else one.module
    why = " ".join(str(error).split()) or type(error).__name__
    return (
        f"“{one.name}” of the package “{package}” cannot be used: {why}. "
        "Update the package or uninstall it; everything else works."
    )
