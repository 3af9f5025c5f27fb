"""Hold the garbage collector back while much is made at once.

Nothing that a reader makes is garbage before it is done, and the collector
would walk over all of it again and again; nor is it in circles, so the collector
need not look at it later either.
"""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def nothing_collected() -> Iterator[None]:
    """No collecting inside."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        gc.freeze()
        if was:
            gc.enable()
