"""JSON that may come from anywhere: bounded in size, depth and numbers, so that no file can hurt."""

from __future__ import annotations

import json
from typing import Any, NoReturn

MOST_BYTES = 32 << 20  # some five hundred thousand words
_MOST_CONTAINERS = 2_000_000
_MOST_DIGITS = 18


def parse_json(data: bytes | str) -> Any:
    """Plain values out of a JSON text.

    Numbers that are not finite, or longer than eighteen digits, are refused, as
    are texts that are too large or too deep.

    Raises
    ------
    ValueError
        If it is no such text.
    """
    if isinstance(data, bytes):
        data = data.decode("utf-8-sig")
    if len(data) > MOST_BYTES or data.count("[") + data.count("{") > _MOST_CONTAINERS:
        raise ValueError("it is too large")
    try:
        return json.loads(data, parse_constant=_refuse, parse_int=_whole, parse_float=_finite)
    except RecursionError as error:
        raise ValueError("it is nested too deeply") from error


def _refuse(name: str) -> NoReturn:
    raise ValueError(f"{name} is no number")


def _whole(digits: str) -> int:
    if len(digits) > _MOST_DIGITS + 1:
        raise ValueError("a number is too large")
    return int(digits)


def _finite(text: str) -> float:
    value = float(text)
    if not abs(value) < 1e18:
        raise ValueError("a number is too large")
    return value
