"""Values: made once, compared by what they say, never changed.

They are structures of :mod:`msgspec`: a frozen dataclass says the same, but Python
compiles six methods for each when it is imported (a fifth of the whole start), and
makes and copies one in ten times the time. What changes stays a dataclass.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, TypeVar, dataclass_transform

from msgspec import Struct, field, structs

__all__ = ["Value", "asdict", "field", "kept_with", "part_names", "replace"]

if TYPE_CHECKING:

    @dataclass_transform(frozen_default=True, field_specifiers=(field,))
    class Value:
        """What each value is made from; ``dict`` for those that keep what they computed."""

        def __init_subclass__(
            cls, *, dict: bool = False, eq: bool = True, order: bool = False, kw_only: bool = False
        ) -> None: ...

else:

    class Value(Struct, frozen=True):
        """What each value is made from; ``dict`` for those that keep what they computed."""


V = TypeVar("V", bound=Value)


def replace(value: V, /, **changes: Any) -> V:
    """The same value but for some of its parts.

    Examples
    --------
    >>> class Place(Value):
    ...     x: int
    ...     y: int = 0
    >>> replace(Place(1), y=5)
    Place(x=1, y=5)
    """
    return structs.replace(value, **changes)  # type: ignore[type-var]


def part_names(kind: type[Value] | Value) -> tuple[str, ...]:
    """The names of the parts, in their order."""
    return kind.__struct_fields__  # type: ignore[union-attr]


def asdict(value: Value) -> dict[str, Any]:
    """The parts by their names, and so with those values among them."""
    return {name: _plain(getattr(value, name)) for name in part_names(value)}


def kept_with(value: Value, name: str, part: object) -> None:
    """Keep something with a value that belongs to it and is no part of what it says."""
    structs.force_setattr(value, name, part)  # type: ignore[arg-type]


def _plain(part: Any) -> Any:
    if isinstance(part, Value):
        return asdict(part)
    if isinstance(part, list | tuple):
        return type(part)(_plain(one) for one in part)
    if isinstance(part, dict):
        return {key: _plain(one) for key, one in part.items()}
    return part
