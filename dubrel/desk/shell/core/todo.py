"""What is still to do in a pass, as the rail says it."""

from __future__ import annotations

from dubrel.base.value import Value


class ToDo(Value):
    """What is still to do, in a few words, the share that is done, 0 to 1, and how many things are left."""

    text: str = ""
    done: float = 0.0
    left: int = 0
