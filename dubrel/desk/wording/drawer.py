"""The drawer under the sheet: its pages by name, one at a time, made when they are first wanted."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.commands import Act
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed, px
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import ACCESS
from dubrel.desk.wording.drawerpage import DrawerPage

_HEIGHT, _NARROW = 252, 700


@guarded
class Drawer(QWidget):
    """Pages with lists of places.

    Parameters
    ----------
    desk : Desk
    pages : mapping of id to (name, callable)
        What makes each page.

    Signals
    -------
    closed()
    opened()
    """

    closed = Signal()
    opened = Signal()

    def __init__(self, desk: Desk, pages: Mapping[str, tuple[str, Callable[[], DrawerPage]]]) -> None:
        super().__init__()
        self.desk, self._make = desk, pages
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(tr("Drawer"))
        fixed(self.setFixedHeight, _HEIGHT)
        self.made: dict[str, DrawerPage] = {}
        self.now = ""
        box = QVBoxLayout(self)
        box.setContentsMargins(0, Space.CLOSE, 0, Space.CLOSE)
        box.setSpacing(Space.CLOSE)
        box.addLayout(self._tabs())
        self.stack = QStackedWidget()
        box.addWidget(self.stack, 1)

    def _tabs(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(Space.NEAR, 0, Space.APART, 0)
        row.setSpacing(0)
        self.tabs: dict[str, QToolButton] = {}
        for name, (text, _) in self._make.items():
            tab = self.tabs[name] = QToolButton()
            tab.setText(text)
            tab.setCheckable(True)
            tab.setProperty("role", "tab")
            tab.setProperty(ACCESS, "tab")
            tab.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            tab.clicked.connect(lambda _checked=False, name=name: self.open(name))
            row.addWidget(tab)
        self.choice = QComboBox()
        self.choice.setAccessibleName(tr("Page of the drawer"))
        for name, (text, _) in self._make.items():
            self.choice.addItem(text, name)
        self.choice.activated.connect(lambda _place: self.open(self.choice.currentData()))
        self.choice.hide()
        row.addWidget(self.choice)
        row.addStretch(1)
        self.leave = QToolButton()
        self.leave.setText(tr("Close"))
        self.leave.setToolTip(tr("Close the drawer (Esc)"))
        self.leave.clicked.connect(self.close_drawer)
        row.addWidget(self.leave)
        return row

    def page(self, name: str) -> DrawerPage:
        """A page, made when it is first wanted."""
        if name not in self.made:
            self.made[name] = self._make[name][1]()
            self.stack.addWidget(self.made[name])
            self.made[name].fold(self.width() < px(_NARROW))
        return self.made[name]

    def open(self, name: str) -> DrawerPage:
        """Pull the drawer out at a page."""
        page = self.page(name)
        self.now = name
        self.stack.setCurrentWidget(page)
        for other, tab in self.tabs.items():
            tab.setChecked(other == name)
        self.choice.setCurrentIndex(self.choice.findData(name))
        self.opened.emit()
        page.begin()
        return page

    def acts(self) -> list[Act]:
        """The buttons of every page."""
        found = []
        for name, (text, _) in self._make.items():
            for one in self.page(name).findChildren(QPushButton):
                if one.text():
                    found.append(Act(one.text(), text, partial(self._press, name, one)))
        return found

    def _press(self, name: str, which: QPushButton) -> None:
        """Press a button of the page that is shown; another page is opened with the keys on the button."""
        if self.now == name and which.isEnabled():
            which.click()
            return
        self.open(name)
        which.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def close_drawer(self) -> None:
        """Push it in; the keys go back to the sheet."""
        self.now = ""
        self.closed.emit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Where the tabs have no room, a list stands in their place."""
        super().resizeEvent(event)
        wide = sum(one.sizeHint().width() for one in (*self.tabs.values(), self.leave)) + px(_NARROW) // 10
        narrow = self.width() < max(px(_NARROW), wide)
        self.choice.setVisible(narrow)
        for tab in self.tabs.values():
            tab.setVisible(not narrow)
        for page in self.made.values():
            page.fold(narrow)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Esc closes."""
        if event.key() == Qt.Key.Key_Escape:
            self.close_drawer()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """A rule between the sheet and the drawer."""
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setPen(QPen(self.desk.theme.colour("hairline"), 1))
        painter.drawLine(0, 0, self.width(), 0)
        painter.end()
