"""What a screen reader says at once."""

from __future__ import annotations

from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent
from PySide6.QtWidgets import QWidget


def announce(widget: QWidget, text: str) -> None:
    """Have a screen reader say something now, through the widget that shows it."""
    if text and QAccessible.isActive():
        QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(widget, text))
