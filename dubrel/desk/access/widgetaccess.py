"""Widgets of ours that the toolkit takes for plain areas: what they are, and what they say."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import (
    QAccessible,
    QAccessibleActionInterface,
    QAccessibleInterface,
    QAccessibleObject,
    QAccessibleValueInterface,
)
from PySide6.QtWidgets import QAbstractButton, QWidget
from shiboken6 import Shiboken, VoidPtr

from dubrel.desk.access.acting import Acting
from dubrel.desk.access.fallbacks import INSTEAD, above
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.sentence import BlankField

_PRESS = QAccessibleActionInterface.pressAction
_MENU = QAccessibleActionInterface.showMenuAction
_FOCUS = QAccessibleActionInterface.setFocusAction
_Type = QAccessible.InterfaceType


@guarded
class WidgetAccess(QAccessibleObject):
    """A widget without parts.

    Parameters
    ----------
    widget : QWidget
    """

    INSTEAD = INSTEAD
    ROLE = QAccessible.Role.Client

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        self._widget = widget

    def isValid(self) -> bool:
        """Whether the widget is still there."""
        return bool(Shiboken.isValid(self._widget))

    def parent(self) -> QAccessibleInterface:
        """What it stands in."""
        return QAccessible.queryAccessibleInterface(above(self._widget))

    def window(self) -> Any:
        """The window it stands in."""
        return self._widget.window().windowHandle()

    def rect(self) -> QRect:
        """Where it stands on the screen."""
        return QRect(self._widget.mapToGlobal(QPoint(0, 0)), self._widget.size())

    def role(self) -> QAccessible.Role:
        """What it is."""
        return self.ROLE

    def state(self) -> QAccessible.State:
        """Focused, to be used, seen."""
        state, widget = QAccessible.State(), self._widget
        state.focusable, state.focused = True, widget.hasFocus()
        state.disabled, state.invisible = not widget.isEnabled(), not widget.isVisible()
        return state

    def text(self, what: QAccessible.Text) -> str:
        """Its name and its description."""
        if what == QAccessible.Text.Name:
            return self._widget.accessibleName()
        return self._widget.accessibleDescription() if what == QAccessible.Text.Description else ""

    def childCount(self) -> int:
        """It has no parts."""
        return 0

    def child(self, _place: int) -> None:
        """It has no parts."""
        return None

    def indexOfChild(self, _child: QAccessibleInterface) -> int:
        """It has no parts."""
        return -1

    def interface_cast(self, _wanted: QAccessible.InterfaceType) -> VoidPtr:
        """Nothing can be done with it."""
        return VoidPtr(0)


@guarded
class TabAccess(Acting, WidgetAccess, QAccessibleActionInterface):
    """A button that is a tab, of the rail or of the drawer: checked where it is the present one.

    Parameters
    ----------
    button : QAbstractButton
    """

    INSTEAD = INSTEAD
    ROLE = QAccessible.Role.PageTab

    def __init__(self, button: QAbstractButton) -> None:
        WidgetAccess.__init__(self, button)
        QAccessibleActionInterface.__init__(self)
        self._button = button

    def state(self) -> QAccessible.State:
        """Present or not."""
        state = super().state()
        state.selectable, state.selected = True, self._button.isChecked()
        return state

    def text(self, what: QAccessible.Text) -> str:
        """Its name, and what is still to do there."""
        found = super().text(what)
        return found or (self._button.text().replace("&", "") if what == QAccessible.Text.Name else "")

    def interface_cast(self, wanted: QAccessible.InterfaceType) -> VoidPtr:
        """It is pressed."""
        if wanted == _Type.ActionInterface and self.isValid():
            return VoidPtr(Shiboken.getCppPointer(self)[1])
        return VoidPtr(0)

    def actionNames(self) -> list[str]:
        """It is pressed, or focused."""
        return [_PRESS(), _FOCUS()]

    def doAction(self, name: str) -> None:
        """Go there, or only focus it."""
        if self.isValid():
            self._button.click() if name == _PRESS() else self._button.setFocus()


@guarded
class BlankAccess(Acting, WidgetAccess, QAccessibleValueInterface, QAccessibleActionInterface):
    """A blank in a sentence: a number with its bounds, or a choice with its list; the sentence describes it.

    Parameters
    ----------
    field : BlankField
    """

    INSTEAD = INSTEAD

    def __init__(self, field: BlankField) -> None:
        WidgetAccess.__init__(self, field)
        QAccessibleValueInterface.__init__(self)
        QAccessibleActionInterface.__init__(self)
        self._field = field

    def role(self) -> QAccessible.Role:
        """A number that is stepped, or a choice."""
        chosen = bool(self._field.blank.words)
        return QAccessible.Role.ComboBox if chosen else QAccessible.Role.SpinBox

    def state(self) -> QAccessible.State:
        """A number can be typed; a choice opens."""
        state = super().state()
        state.editable, state.hasPopup = not self._field.blank.words, bool(self._field.blank.words)
        return state

    def text(self, what: QAccessible.Text) -> str:
        """What it is for; what it shows; the sentence that it stands in."""
        if what == QAccessible.Text.Value:
            return self._field.text()
        if what == QAccessible.Text.Description:
            return self._field.sentence()
        return super().text(what)

    def interface_cast(self, wanted: QAccessible.InterfaceType) -> VoidPtr:
        """A number has a value, a choice a menu."""
        if self.isValid():
            if wanted == _Type.ValueInterface and not self._field.blank.words:
                return VoidPtr(Shiboken.getCppPointer(self)[1])
            if wanted == _Type.ActionInterface:
                return VoidPtr(Shiboken.getCppPointer(self)[2])
        return VoidPtr(0)

    def currentValue(self) -> float:
        """The number as it is shown."""
        return float(self._field.value or 0) / self._field.blank.scale

    def setCurrentValue(self, value: object) -> None:
        """Set it, within its bounds."""
        self._field.set_shown(float(value))  # type: ignore[arg-type]

    def minimumValue(self) -> float:
        """The least."""
        return self._field.blank.low / self._field.blank.scale

    def maximumValue(self) -> float:
        """The most."""
        return self._field.blank.high / self._field.blank.scale

    def minimumStepSize(self) -> float:
        """A step."""
        return self._field.blank.step / self._field.blank.scale

    def actionNames(self) -> list[str]:
        """A choice is opened."""
        return [_MENU(), _FOCUS()] if self._field.blank.words else [_FOCUS()]

    def doAction(self, name: str) -> None:
        """Open the choice, or focus it."""
        if self.isValid():
            self._field.open_choice() if name == _MENU() else self._field.setFocus()


@guarded
class DrawnAccess(WidgetAccess):
    """Something drawn, with a sentence of what it shows."""

    INSTEAD = INSTEAD
    ROLE = QAccessible.Role.Graphic

    def state(self) -> QAccessible.State:
        """Focused only where keys reach it: most are only looked at."""
        state = super().state()
        state.focusable = self._widget.focusPolicy() != Qt.FocusPolicy.NoFocus
        return state

    def text(self, what: QAccessible.Text) -> str:
        """What it shows now, where it can say so."""
        described = getattr(self._widget, "described", None)
        if what == QAccessible.Text.Description and callable(described):
            return str(described())
        return super().text(what)


@guarded
class TimeAccess(WidgetAccess, QAccessibleValueInterface):
    """The strip: a place in the recording, in seconds.

    Parameters
    ----------
    strip : QWidget
        With ``position``, ``duration`` (milliseconds), ``seek_wanted`` and ``described()``.
    """

    INSTEAD = INSTEAD
    ROLE = QAccessible.Role.Slider

    def __init__(self, strip: Any) -> None:
        WidgetAccess.__init__(self, strip)
        QAccessibleValueInterface.__init__(self)
        self._strip = strip

    def text(self, what: QAccessible.Text) -> str:
        """Where the playhead is, and what is shown."""
        if what in (QAccessible.Text.Value, QAccessible.Text.Description):
            return str(self._strip.described())
        return super().text(what)

    def interface_cast(self, wanted: QAccessible.InterfaceType) -> VoidPtr:
        """It has a value."""
        if wanted == _Type.ValueInterface and self.isValid():
            return VoidPtr(Shiboken.getCppPointer(self)[1])
        return VoidPtr(0)

    def currentValue(self) -> float:
        """Where the playhead is."""
        return float(self._strip.position / 1000)

    def setCurrentValue(self, value: object) -> None:
        """Move the playhead."""
        self._strip.seek_wanted.emit(round(float(value) * 1000))  # type: ignore[arg-type]

    def minimumValue(self) -> float:
        """The beginning."""
        return 0.0

    def maximumValue(self) -> float:
        """The end."""
        return float(self._strip.duration / 1000)

    def minimumStepSize(self) -> float:
        """A step of the keys."""
        return 5.0
