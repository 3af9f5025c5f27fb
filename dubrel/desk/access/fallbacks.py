"""What interfaces of ours share: what is above a widget, and what they answer after an error of ours."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRect
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QApplication, QWidget
from shiboken6 import VoidPtr


def above(widget: QWidget) -> QObject:
    """What holds a widget; never itself, for then there would be no end upwards."""
    app = QApplication.instance()
    assert app is not None
    return widget.parentWidget() or app


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
