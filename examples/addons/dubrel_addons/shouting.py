"""A check: captions all in capitals."""

from __future__ import annotations

from collections.abc import Iterator

from dubrel.captions.checks import Shown, check


@check("shouting", "All in capitals", must=False)
def _shouting(one: Shown) -> Iterator[str]:
    text = " ".join(one.lines)
    if len(text) > 4 and text.isupper():
        yield "is written in capitals throughout"


CHECK = _shouting
