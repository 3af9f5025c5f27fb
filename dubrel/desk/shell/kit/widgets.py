"""Small widgets used in several places."""

from __future__ import annotations

from typing import TypeAlias

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPoint, QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QScrollArea,
    QTableWidget,
    QVBoxLayout,
    QWidget,
)

from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space

Index: TypeAlias = QModelIndex | QPersistentModelIndex
"""What the lists of Qt give their delegates."""


ACCESS = "access"
"""A property of widgets that says what they are to a screen reader: tab, tabs, blank, drawn, time."""


_TICK = 34  # pixels of the box, and of what is around it


def label(text: str = "", role: str = "") -> QLabel:
    """A label in one of the roles of the style sheet."""
    made = QLabel(text)
    if role:
        made.setProperty("role", role)
    return made


def paper(name: str) -> QWidget:
    """A page of paper; ``name`` is for a screen reader."""
    made = QWidget()
    made.setObjectName("paper")
    made.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    made.setAccessibleName(name)
    return made


def button(text: str, primary: bool = False) -> QPushButton:
    """A push button; the primary one is filled."""
    made = QPushButton(text)
    if primary:
        made.setProperty("role", "primary")
    made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    return made


@guarded
class WrappedCheckBox(QCheckBox):
    """A box to tick whose words go on below where there is no room.

    Parameters
    ----------
    words : str
    """

    def __init__(self, words: str) -> None:
        super().__init__(words)
        self._words = words
        self.setAccessibleName(words)

    def minimumSizeHint(self) -> QSize:
        """The longest word."""
        widest = max(map(self.fontMetrics().horizontalAdvance, self._words.split()), default=0)
        return QSize(widest + _TICK, super().sizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Break the words where they must."""
        super().resizeEvent(event)
        lines, room = [""], self.width() - _TICK
        for word in self._words.split():
            longer = f"{lines[-1]} {word}".strip()
            if lines[-1] and self.fontMetrics().horizontalAdvance(longer) > room:
                lines.append(word)
            else:
                lines[-1] = longer
        if (text := "\n".join(lines)) != self.text():
            self.setText(text)


def show_menu(menu: QMenu, at: QPoint) -> None:
    """Show a menu at a point of the screen; it is gone when it closes, and at once where it says nothing."""
    menu.aboutToHide.connect(menu.deleteLater)
    if menu.isEmpty():
        menu.deleteLater()
    else:
        menu.popup(at)


def plain_table(table: QTableWidget, name: str, headings: list[str]) -> None:
    """Make a table a quiet list of rows: no grid, no numbers, headings at the left if there are any.

    Parameters
    ----------
    table : QTableWidget
    name : str
        For a screen reader.
    headings : list of str
        Of the columns; empty for none.
    """
    table.setAccessibleName(name)
    table.setTabKeyNavigation(False)  # Tab leads out of it, arrows go from cell to cell
    table.verticalHeader().hide()
    table.setShowGrid(False)
    table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    header = table.horizontalHeader()
    header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
    header.setVisible(bool(headings))
    if headings:
        table.setHorizontalHeaderLabels(headings)


def titled_box(dialog: QWidget, title: str, spacing: int = Space.APART) -> QVBoxLayout:
    """Rows of a dialog below each other, its title first."""
    box = QVBoxLayout(dialog)
    box.setContentsMargins(Space.EDGE, Space.WIDE, Space.EDGE, Space.WIDE)
    box.setSpacing(spacing)
    box.addWidget(label(title, "title"))
    return box


def closing_row(dialog: QDialog, *others: QWidget, leave: QPushButton, go: QPushButton) -> QHBoxLayout:
    """The last row of a dialog: what else there is, then the way out and the way on."""
    row = QHBoxLayout()
    for one in others:
        row.addWidget(one)
    row.addStretch(1)
    row.addWidget(leave)
    row.addWidget(go)
    go.setDefault(True)
    leave.clicked.connect(dialog.reject)
    go.clicked.connect(dialog.accept)
    return row


_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignAbsolute | Qt.AlignmentFlag.AlignVCenter


def scroll(area: QScrollArea, widget: QWidget) -> None:
    """Let an area scroll a widget up and down where there is no room for it."""
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setWidget(widget)


def scrolling() -> QScrollArea:
    """An area on the bare desk for what can be scrolled; the keys stay in that."""
    area = QScrollArea()
    area.setViewport(QWidget())
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.viewport().setAutoFillBackground(False)
    return area


def scrolled(widget: QWidget) -> QScrollArea:
    """A widget on the bare desk that can be scrolled; the keys stay in it."""
    area = scrolling()
    scroll(area, widget)
    widget.setAutoFillBackground(False)
    return area


class Facts(QWidget):
    """Rows of a name and a value, a hairline under each."""

    def __init__(self, title: str, names: list[str]) -> None:
        super().__init__()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        heading = label(title, "section")
        heading.setContentsMargins(0, 0, 0, Space.TIGHT)
        box.addWidget(heading)
        self._values: dict[str, QLabel] = {}
        self._rows: dict[str, QWidget] = {}
        for name in names:
            whole = QWidget()
            both = QVBoxLayout(whole)
            both.setContentsMargins(0, 0, 0, 0)
            both.setSpacing(0)
            row = QHBoxLayout()
            row.setContentsMargins(0, Space.CLOSE, 0, Space.CLOSE)
            row.addWidget(label(name, "quiet"))
            value = label("–")
            value.setAlignment(_RIGHT)
            value.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
            fixed(value.setMinimumWidth, 20)
            row.addWidget(value, 1)
            both.addLayout(row)
            line = QFrame()
            line.setFrameShape(QFrame.Shape.NoFrame)
            line.setFixedHeight(1)
            line.setObjectName("hairline")
            both.addWidget(line)
            box.addWidget(whole)
            self._values[name] = value
            self._rows[name] = whole

    def set_visible(self, name: str, visible: bool) -> None:
        """Show or hide a row."""
        self._rows[name].setVisible(visible)

    def value(self, name: str) -> str:
        """What a row shows."""
        return self._values[name].text()

    def set(self, name: str, value: str, more: str = "") -> None:
        """Show a value; a long one is cut, and whole in the tool tip with what else there is to say."""
        shown = value if len(value) <= 34 else value[:33] + "…"
        self._values[name].setText(shown)
        self._values[name].setToolTip(more or (value if shown != value else ""))
