"""Buttons that are tabs: of the rail and of the drawer; one is the present one, pressing goes there."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPoint, QRect
from PySide6.QtGui import (
    QAccessible,
    QAccessibleActionInterface,
    QAccessibleInterface,
    QAccessibleObject,
)
from PySide6.QtWidgets import QAbstractButton
from shiboken6 import Shiboken, VoidPtr

from dubrel.desk.access.instead import INSTEAD
from dubrel.desk.shell.kit.guard import guarded

_PRESS = QAccessibleActionInterface.pressAction


@guarded
class TabAccess(QAccessibleObject, QAccessibleActionInterface):
    """A tab of a list of tabs.

    Parameters
    ----------
    button : QAbstractButton
        Checked where it is the present one.
    """

    INSTEAD = INSTEAD

    def __init__(self, button: QAbstractButton) -> None:
        QAccessibleObject.__init__(self, button)
        QAccessibleActionInterface.__init__(self)
        self._button = button

    def isValid(self) -> bool:
        """Whether the button is still there."""
        return bool(Shiboken.isValid(self._button))

    def parent(self) -> QAccessibleInterface:
        """The list of tabs."""
        button = self._button
        return QAccessible.queryAccessibleInterface(button.parentWidget() or button.window())

    def window(self) -> Any:
        """The window it stands in."""
        return self._button.window().windowHandle()

    def rect(self) -> QRect:
        """Where it stands on the screen."""
        return QRect(self._button.mapToGlobal(QPoint(0, 0)), self._button.size())

    def role(self) -> QAccessible.Role:
        """A tab."""
        return QAccessible.Role.PageTab

    def state(self) -> QAccessible.State:
        """Present or not, focused or not."""
        state, button = QAccessible.State(), self._button
        state.focusable = state.selectable = True
        state.selected, state.focused = button.isChecked(), button.hasFocus()
        state.disabled, state.invisible = not button.isEnabled(), not button.isVisible()
        return state

    def text(self, what: QAccessible.Text) -> str:
        """Its name, and what is still to do there."""
        button = self._button
        if what == QAccessible.Text.Name:
            return button.accessibleName() or button.text().replace("&", "")
        return button.accessibleDescription() if what == QAccessible.Text.Description else ""

    def childCount(self) -> int:
        """It has no parts."""
        return 0

    def child(self, _place: int) -> None:
        """It has no parts."""
        return None

    def indexOfChild(self, _child: QAccessibleInterface) -> int:
        """It has no parts."""
        return -1

    def interface_cast(self, wanted: QAccessible.InterfaceType) -> VoidPtr:
        """What can be done with it."""
        if wanted == QAccessible.InterfaceType.ActionInterface and self.isValid():
            return VoidPtr(Shiboken.getCppPointer(self)[1])
        return VoidPtr(0)

    def actionNames(self) -> list[str]:
        """It is pressed, or focused."""
        return [_PRESS(), QAccessibleActionInterface.setFocusAction()]

    def localizedActionName(self, name: str) -> str:
        """The same."""
        return name

    def localizedActionDescription(self, _name: str) -> str:
        """Names say enough."""
        return ""

    def keyBindingsForAction(self, _name: str) -> list[str]:
        """The command list says them."""
        return []

    def doAction(self, name: str) -> None:
        """Go there, or only focus it."""
        if not self.isValid():
            return
        if name == _PRESS():
            self._button.click()
        else:
            self._button.setFocus()
