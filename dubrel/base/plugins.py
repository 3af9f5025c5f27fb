"""What others add.

Objects that installed packages name under an entry point, and ours, which use the same door.

Packages are asked for without loading the machinery for that where none adds
anything: it takes as long as a tenth of the start of the window.
"""

from __future__ import annotations

import logging
import sys
from collections.abc import Iterator, Mapping, Sequence
from functools import cache
from importlib import import_module
from pathlib import Path
from typing import Any, Generic, TypeVar

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError

T = TypeVar("T")


class Register(Generic[T]):
    """Objects of a kind by name: ours first, in their order, then those of other packages.

    Parameters
    ----------
    group : str
        Name of the entry point, like ``dubrel.forms``.
    kind : type
        Of each object; a name may also stand for a list or tuple of them.
    ours : mapping of str to str
        ``module:name`` by name.
    """

    def __init__(self, group: str, kind: type[T], ours: Mapping[str, str]) -> None:
        self._kind = kind
        self._places = {**_added(group), **ours}
        self.ours = tuple(ours)
        self.added = tuple(sorted(set(self._places) - set(ours)))

    @property
    def names(self) -> tuple[str, ...]:
        """All of them."""
        return (*self.ours, *self.added)

    def load(self, name: str) -> list[T]:
        """What a name stands for.

        Raises
        ------
        KeyError
            If there is none.
        DubrelError
            If the package that adds it cannot be used.
        """
        place = self._places[name]
        try:
            return self._loaded(place)
        except Exception as error:
            if name in self.ours:
                raise
            logging.warning("%s = %s", name, place, exc_info=True)
            why = " ".join(str(error).split()) or type(error).__name__
            raise DubrelError(
                tr(
                    "“{name}”, which the package of “{place}” adds, cannot be used: {why}. Update "
                    "that package or uninstall it; everything else works."
                ).format(name=name, place=place, why=why.rstrip("."))
            ) from error

    def _loaded(self, place: str) -> list[T]:
        module, _, attribute = place.partition(":")
        found: Any = import_module(module)
        for part in filter(None, attribute.split(".")):
            found = getattr(found, part)
        objects = list(found) if isinstance(found, list | tuple) else [found]
        for one in objects:
            if not isinstance(one, self._kind):
                raise TypeError(f"{self._kind.__name__} is expected, and it is {type(one).__name__}")
        return objects

    def load_all(self) -> tuple[list[T], list[str]]:
        """All objects that can be used, and a sentence for each name that cannot."""
        return self._loads(self.names)

    def load_added(self) -> tuple[list[T], list[str]]:
        """The same of those of other packages."""
        return self._loads(self.added)

    def _loads(self, names: Sequence[str]) -> tuple[list[T], list[str]]:
        found, problems = list[T](), list[str]()
        for name in names:
            try:
                found += self.load(name)
            except DubrelError as error:
                problems.append(str(error))
        return found, problems


def _added(group: str) -> dict[str, str]:
    """What installed packages name under an entry point; the later of two with one name is left out."""
    if not adds_anything(f"[{group}]"):
        return {}
    from importlib.metadata import entry_points  # late: see above

    found: dict[str, str] = {}
    for one in entry_points(group=group):
        found.setdefault(one.name, one.value)
    return found


def adds_anything(group: str) -> bool:
    """Whether an installed package may add something under an entry point whose name begins so."""
    return any(group in text for text in _declared())


@cache
def _declared() -> tuple[str, ...]:
    """The entry points of every installed package, as they stand in its file."""
    return tuple(_texts())


def _texts() -> Iterator[str]:
    for folder in dict.fromkeys(sys.path):
        try:
            files = [*Path(folder or ".").glob("*.dist-info/entry_points.txt")]
            files += Path(folder or ".").glob("*.egg-info/entry_points.txt")
            for path in files:
                yield path.read_text(encoding="utf-8", errors="replace")
        except OSError:
            continue
