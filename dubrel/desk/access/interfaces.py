"""A page that draws itself as a list of texts, through the toolkit's accessible interfaces."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPoint, QRect
from PySide6.QtGui import (
    QAccessible,
    QAccessibleActionInterface,
    QAccessibleEvent,
    QAccessibleInterface,
    QAccessibleTextCursorEvent,
    QAccessibleTextSelectionEvent,
    QAccessibleTextUpdateEvent,
)
from shiboken6 import Shiboken, VoidPtr

from dubrel.desk.access.acting import Acting
from dubrel.desk.access.described import Described, Describing
from dubrel.desk.access.fallbacks import INSTEAD
from dubrel.desk.access.mirror import Mirror, replaced
from dubrel.desk.access.widgetaccess import WidgetAccess
from dubrel.desk.shell.kit.guard import guarded

_NONE = VoidPtr(0)
_Type = QAccessible.InterfaceType


@guarded
class PageAccess(WidgetAccess):
    """The page: a list with a name, whose children are what stands on it.

    Parameters
    ----------
    of : Describing
    """

    INSTEAD = INSTEAD
    ROLE = QAccessible.Role.List

    def __init__(self, of: Describing) -> None:
        super().__init__(of.page)
        self.of = of
        self._mirror: Mirror | None = None
        self._children: dict[int, ItemAccess] = {}
        self._places: dict[int, int] = {}
        self._ids: list[int] = []
        self._now: tuple[int, int, int] = (0, 0, 0)  # id of the chosen one, anchor, caret
        self._said: Described | None = None
        of.moved.connect(self.tell)
        of.changed.connect(self.tell)

    @property
    def mirror(self) -> Mirror:
        """What lends its text interface; made late: a new widget asks for the interface of its parent."""
        if self._mirror is None:
            self._mirror = Mirror(self._widget)
        return self._mirror

    # -- the list -----------------------------------------------------------------------

    def text(self, what: QAccessible.Text) -> str:
        """Its name, and what it says where it is empty."""
        return self.of.empty() if what == QAccessible.Text.Description else super().text(what)

    # -- its children -------------------------------------------------------------------

    def places(self) -> dict[int, int]:
        """The place of each child by its id."""
        ids = self.of.ids()
        if ids is not self._ids:
            self._ids, self._places = ids, {one: place for place, one in enumerate(ids)}
        return self._places

    def childCount(self) -> int:
        """How many things stand on the page."""
        return len(self.places())

    def child(self, place: int) -> QAccessibleInterface | None:
        """The thing at a place."""
        self.places()
        if not 0 <= place < len(self._ids):
            return None
        return self.child_of(self._ids[place])

    def child_of(self, item: int) -> ItemAccess:
        """The thing with an id."""
        found = self._children.get(item)
        if found is None:
            found = self._children[item] = ItemAccess(self, item)
            QAccessible.registerAccessibleInterface(found)
        return found

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        """The place of a child."""
        return self.places().get(child.item, -1) if isinstance(child, ItemAccess) else -1

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:
        """The thing at a point of the screen."""
        point = QPoint(x, y)
        places = range(len(self.places()))
        found = next((place for place in places if self.screen_rect(place).contains(point)), None)
        return self.child(found) if found is not None else None

    def focusChild(self) -> QAccessibleInterface | None:
        """The chosen thing."""
        return self.child(self.of.chosen())

    def screen_rect(self, place: int) -> QRect:
        """Where a thing stands on the screen."""
        rect = self.of.rect(place)
        return rect.translated(self._widget.mapToGlobal(QPoint(0, 0)))

    # -- what is told -------------------------------------------------------------------

    def tell(self) -> None:
        """Tell what is another since the last time: the chosen thing, its text, the caret in it."""
        if not self.isValid() or not self._widget.isVisible():
            return
        place = self.of.chosen()
        if place < 0:
            return
        item = self.of.ids()[place]
        anchor, caret = self.of.caret()
        said, before, was = self.of.described(place), self._said, self._now
        self._said, self._now = said, (item, anchor, caret)
        child = self.child_of(item)
        if item != was[0]:
            if self._widget.hasFocus():
                QAccessible.updateAccessibility(QAccessibleEvent(child, QAccessible.Event.Focus))
        elif before is not None:
            self._tell_changes(child, before, said, caret)
        if (anchor, caret) != was[1:] or item != was[0]:
            QAccessible.updateAccessibility(QAccessibleTextCursorEvent(child, caret))
        if anchor != caret or was[1] != was[2]:
            QAccessible.updateAccessibility(
                QAccessibleTextSelectionEvent(child, min(anchor, caret), max(anchor, caret))
            )

    def _tell_changes(self, child: ItemAccess, before: Described, said: Described, caret: int) -> None:
        if before.text != said.text:
            start, old, new = replaced(before.text, said.text)
            QAccessible.updateAccessibility(QAccessibleTextUpdateEvent(child, start, old, new))
        if before.name != said.name:
            QAccessible.updateAccessibility(QAccessibleEvent(child, QAccessible.Event.NameChanged))


@guarded
class ItemAccess(Acting, QAccessibleInterface, QAccessibleActionInterface):
    """One thing on a page: its name, its text, and what can be done with it."""

    INSTEAD = INSTEAD

    def __init__(self, page: PageAccess, item: int) -> None:
        QAccessibleInterface.__init__(self)
        QAccessibleActionInterface.__init__(self)
        self._page, self.item = page, item

    @property
    def place(self) -> int:
        """Where it stands in the list; -1 where it is gone."""
        return self._page.places().get(self.item, -1)

    def isValid(self) -> bool:
        """Whether it is still there."""
        return self._page.isValid() and self.place >= 0

    def object(self) -> None:
        """It is not an object of the toolkit."""
        return None

    def parent(self) -> QAccessibleInterface:
        """The page."""
        return self._page

    def window(self) -> Any:
        """The window it stands in."""
        return self._page.window()

    def rect(self) -> QRect:
        """Where it stands on the screen."""
        return self._page.screen_rect(self.place) if self.isValid() else QRect()

    def role(self) -> QAccessible.Role:
        """An entry of a list."""
        return QAccessible.Role.ListItem

    def state(self) -> QAccessible.State:
        """Chosen or not, to be written in or not."""
        state, of = QAccessible.State(), self._page.of
        if not self.isValid():
            state.invalid = True
            return state
        chosen = of.chosen() == self.place
        state.focusable = state.selectable = state.multiLine = True
        state.selected = chosen
        state.focused = chosen and of.page.hasFocus()
        state.editable = of.writer() is not None
        state.readOnly = of.writer() is None
        state.invisible = not of.page.isVisible()
        state.offscreen = not self._page.rect().intersects(self.rect())
        return state

    def text(self, what: QAccessible.Text) -> str:
        """Who, when and how it stands."""
        if not self.isValid() or what != QAccessible.Text.Name:
            return ""
        return self._page.of.described(self.place).name

    def setText(self, _what: QAccessible.Text, _text: str) -> None:
        """Names are not set from outside."""

    def childCount(self) -> int:
        """It has no parts."""
        return 0

    def child(self, _place: int) -> None:
        """It has no parts."""
        return None

    def childAt(self, _x: int, _y: int) -> None:
        """It has no parts."""
        return None

    def indexOfChild(self, _child: QAccessibleInterface) -> int:
        """It has no parts."""
        return -1

    def relations(self, _match: Any) -> list[Any]:
        """It stands for itself."""
        return []

    # -- its text, and what can be done with it -------------------------------------------

    def interface_cast(self, wanted: QAccessible.InterfaceType) -> VoidPtr:
        """Its text, lent by the mirror, and its acts."""
        if not self.isValid():
            return _NONE
        if wanted == _Type.ActionInterface:
            return VoidPtr(Shiboken.getCppPointer(self)[1])
        if wanted in (_Type.TextInterface, _Type.EditableTextInterface):
            return self._lent(wanted == _Type.EditableTextInterface)
        return _NONE

    def _lent(self, writing: bool) -> VoidPtr:
        of, place = self._page.of, self.place
        self._page.mirror.flush()
        writer = of.writer()
        if writing and writer is None:
            return _NONE
        shown = of.described(place)
        caret = of.caret() if of.chosen() == place else (0, 0)
        self._page.mirror.load(
            shown,
            caret,
            of.rect(place),
            lambda anchor, caret: of.put_caret(place, anchor, caret),
            None if writer is None else lambda start, end, text: writer(place, start, end, text),
        )
        return VoidPtr(self._page.mirror.pointer(writing=writing))

    def actionNames(self) -> list[str]:
        """What can be done with it."""
        return [QAccessibleActionInterface.setFocusAction(), *(name for name, _ in self._page.of.acts)]

    def doAction(self, name: str) -> None:
        """Choose it, and do something with it."""
        of = self._page.of
        if not self.isValid():
            return
        of.choose(self.place)
        command = dict(of.acts).get(name)
        if command is not None:
            of.run(command)
        else:
            of.page.setFocus()
