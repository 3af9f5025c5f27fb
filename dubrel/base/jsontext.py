"""JSON that may come from anywhere: bounded in size, depth and numbers, so that no file can hurt."""

from __future__ import annotations

import json
import threading
from collections.abc import Iterator
from typing import Any, NoReturn

import msgspec

MOST_BYTES = 32 << 20  # some five hundred thousand words
_MOST_CONTAINERS = 2_000_000
_AT_ONCE = 1 << 17  # some thousandths of a second
_MEMBERS = msgspec.json.Decoder(dict[str, msgspec.Raw])
_ROWS = msgspec.json.Decoder(list[msgspec.Raw])


def parse_json(data: bytes | str) -> Any:
    """Plain values out of a JSON text.

    Names of numbers that are not finite are refused, as are texts that are too
    large or too deep. A number may still be larger than any that makes sense
    (``1e400`` is infinite): who takes one looks at it.

    Raises
    ------
    ValueError
        If it is not such a text.
    """
    if isinstance(data, bytes):
        data = data.decode("utf-8-sig")
    if len(data) > MOST_BYTES or data.count("[") + data.count("{") > _MOST_CONTAINERS:
        raise ValueError("it is too large")
    try:
        beside = threading.current_thread() is not threading.main_thread()
        return _in_pieces(data) if beside and len(data) > _AT_ONCE else _at_once(data)
    except RecursionError as error:
        raise ValueError("it is nested too deeply") from error


def _at_once(data: str) -> Any:
    return json.loads(data, parse_constant=_refuse)


def _in_pieces(data: str) -> Any:
    """The same, so that other threads have their turn in between: the reader of a long text lets none in."""
    try:
        return _value(data.encode())
    except (msgspec.DecodeError, UnicodeError):
        return _at_once(data)  # it knows what is wrong, or reads what a stricter reader refuses


def _value(data: bytes) -> Any:
    if len(data) <= _AT_ONCE:
        return _at_once(data.decode())
    if data.lstrip()[:1] == b"{":
        return {name: _value(bytes(raw)) for name, raw in _MEMBERS.decode(data).items()}
    if data.lstrip()[:1] == b"[":
        return [one for piece in _pieces(_ROWS.decode(data)) for one in _value_of_rows(piece)]
    return _at_once(data.decode())


def _pieces(rows: list[msgspec.Raw]) -> Iterator[list[msgspec.Raw]]:
    """Rows that are read together; a long one by itself."""
    piece, size = list[msgspec.Raw](), 0
    for row in rows:
        if piece and size + len(row) > _AT_ONCE:
            yield piece
            piece, size = [], 0
        piece.append(row)
        size += len(row)
    if piece:
        yield piece


def _value_of_rows(rows: list[msgspec.Raw]) -> list[Any]:
    if len(rows) == 1:
        return [_value(bytes(rows[0]))]
    found: list[Any] = _at_once(f"[{b','.join(map(bytes, rows)).decode()}]")
    return found


def _refuse(name: str) -> NoReturn:
    raise ValueError(f"{name} is not a number")
