"""What an interface of ours answers a screen reader after an error of ours: that there is nothing."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QRect
from PySide6.QtGui import QAccessible
from shiboken6 import VoidPtr

INSTEAD: dict[str, Callable[[], Any]] = {
    "isValid": lambda: False,
    "rect": QRect,
    "role": lambda: QAccessible.Role.NoRole,
    "state": QAccessible.State,
    "text": str,
    "childCount": int,
    "indexOfChild": lambda: -1,
    "relations": list,
    "interface_cast": lambda: VoidPtr(0),
    "actionNames": list,
    "localizedActionName": str,
    "localizedActionDescription": str,
    "keyBindingsForAction": list,
}
"""By the name of the method; the others answer nothing."""
