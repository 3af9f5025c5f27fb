"""The passes at the left, each with what is still to do."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFont, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QVBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed, px
from dubrel.desk.shell.kit.theme import Theme, ui_font
from dubrel.desk.shell.kit.widgets import ACCESS

WIDE, _NARROW, _LETTERS = 142, 58, 3
_TWO_LINES = 44  # pixels: lower buttons show the name alone


@guarded
class PassButton(QAbstractButton):
    """One pass: its name, what is to do, and a bar of how much is done."""

    def __init__(self, name: str, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.todo, self.done = "", 0.0
        self.setText(name)
        self.setToolTip(name)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setProperty(ACCESS, "tab")

    def sizeHint(self) -> QSize:
        """Room for two lines."""
        return QSize(px(WIDE), px(66))

    def show_state(self, todo: str, done: float) -> None:
        """What is still to do, and the share that is done."""
        if (todo, done) == (self.todo, self.done):
            return
        self.todo, self.done = todo, done
        self.setAccessibleDescription(todo)
        self.setToolTip(f"{self.text()}: {todo}" if todo else self.text())
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw name, state and bar; the chosen one is paper."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, chosen = self.theme, self.isChecked()
        if chosen:
            painter.fillRect(QRectF(self.rect()), theme.colour("paper"))
        bar = QRectF(px(6), px(12), 3, self.height() - px(24))
        painter.fillRect(bar, theme.colour("hairline"))
        height = bar.height() * self.done
        painter.fillRect(QRectF(bar.left(), bar.bottom() - height, 3, height), theme.colour("action"))
        painter.setFont(ui_font(14, QFont.Weight.DemiBold))
        painter.setPen(theme.colour("action" if chosen else "ink" if self.isEnabled() else "quiet"))
        narrow = self.width() < px(WIDE)
        said = self.todo.partition(" ")[0] if narrow else self.todo  # the number, where there is one
        said = said if not narrow or said[:1].isdigit() else ""
        under = said and self.height() >= px(_TWO_LINES)
        top = (self.height() - (px(38) if under else px(20))) / 2
        name = self.text()[: _LETTERS if narrow else None]
        painter.drawText(
            QRectF(px(18), top, self.width() - px(20), px(20)), Qt.AlignmentFlag.AlignVCenter, name
        )
        painter.setFont(ui_font(12))
        painter.setPen(theme.colour("quiet"))
        shown = QFontMetricsF(painter.font()).elidedText(
            said, Qt.TextElideMode.ElideRight, self.width() - px(22)
        )
        if under:
            painter.drawText(
                QRectF(px(18), top + px(20), self.width() - px(20), px(18)),
                Qt.AlignmentFlag.AlignVCenter,
                shown,
            )
        if self.hasFocus():
            painter.setPen(theme.colour("action"))
            painter.drawRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5))


@guarded
class Rail(QWidget):
    """The passes from top to bottom.

    Signals
    -------
    chosen(int)
        Another pass was chosen.
    """

    chosen = Signal(int)

    def __init__(self, theme: Theme, names: Sequence[str]) -> None:
        super().__init__()
        fixed(self.setFixedWidth, WIDE)
        self.setAccessibleName(tr("Passes"))
        self.setProperty(ACCESS, "tabs")
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        self.buttons = [PassButton(name, theme) for name in names]
        for place, one in enumerate(self.buttons):
            box.addWidget(one)
            one.clicked.connect(lambda _checked=False, place=place: self.chosen.emit(place))
        box.addStretch(1)

    def choose(self, place: int | None) -> None:
        """Show a pass as the chosen one, or none."""
        for k, one in enumerate(self.buttons):
            one.setAutoExclusive(place is not None)
            one.setChecked(k == place)
            here = k == (place or 0)  # Tab leads to the present pass, arrows to the others
            one.setFocusPolicy(Qt.FocusPolicy.TabFocus if here else Qt.FocusPolicy.NoFocus)

    def fold(self, narrow: bool) -> None:
        """Show the first letters of the names and the numbers, or all of both."""
        fixed(self.setFixedWidth, _NARROW if narrow else WIDE)

    def present(self) -> PassButton:
        """The button of the present pass, or the first."""
        return next((one for one in self.buttons if one.isChecked()), self.buttons[0])

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        for one in self.buttons:
            one.theme = theme
            one.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Nothing lies behind the buttons."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrow keys go from pass to pass."""
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if step is None:
            return super().keyPressEvent(event)
        here = next((k for k, one in enumerate(self.buttons) if one.hasFocus()), 0)
        self.buttons[(here + step) % len(self.buttons)].setFocus()
        return None
