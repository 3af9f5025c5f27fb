"""JSON that may come from anywhere: bounded in size, depth and numbers, so that no file can hurt."""

from __future__ import annotations

import json
from typing import Any, NoReturn

MOST_BYTES = 32 << 20  # some five hundred thousand words
_MOST_CONTAINERS = 2_000_000


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
        return json.loads(data, parse_constant=_refuse)
    except RecursionError as error:
        raise ValueError("it is nested too deeply") from error


def _refuse(name: str) -> NoReturn:
    raise ValueError(f"{name} is not a number")
