"""The list of episodes: number, title, sound, how far each pass is, what is to do."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QAbstractListModel, QModelIndex, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import (
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_length
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed, px
from dubrel.desk.shell.kit.theme import Space, Theme, text_font, time_font, ui_font
from dubrel.desk.shell.kit.widgets import Index
from dubrel.jobs.series.overview import PASSES, Episode

_ROW, _HEAD = 54, 20
_NUMBER, _TRACE, _LENGTH = 34, 96, 62
_PASS, _PASS_NARROW, _ROOM = 60, 30, 400
_BAR, _TRACE_HIGH = 5, 18
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


class Columns:
    """Where the parts of a row stand, for the rows and for the names above them.

    Parameters
    ----------
    width : int
        Of a row, in pixels.
    """

    def __init__(self, width: int) -> None:
        inner = width - 2 * Space.ROOM
        wide = inner > px(_ROOM) + len(PASSES) * px(_PASS)
        self.step = px(_PASS) if wide else px(_PASS_NARROW)
        self.passes = Space.ROOM + inner - len(PASSES) * self.step
        self.length = self.passes - px(_LENGTH) - Space.WIDE
        self.trace = self.length - px(_TRACE) - Space.NEAR if wide else None
        self.title = Space.ROOM + px(_NUMBER)
        self.title_width = (self.trace or self.length) - self.title - Space.WIDE

    def bar(self, nth: int) -> tuple[int, int]:
        """Where the bar of a pass begins, and how wide it is."""
        return self.passes + nth * self.step, self.step - Space.NEAR


@guarded
class PassNames(QWidget):
    """The names of the passes above their bars."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.rows: QWidget = self  # as wide as the rows below are
        fixed(self.setFixedHeight, _HEAD)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw them; where it is narrow, the first letters."""
        painter, columns = QPainter(self), Columns(self.rows.width())
        painter.setFont(ui_font(11))
        painter.setPen(self.theme.colour("quiet"))
        for nth, name in enumerate(PASSES):
            left, width = columns.bar(nth)
            shown = name.capitalize() if columns.step == px(_PASS) else name[:2].capitalize()
            painter.drawText(QRect(left, 0, width + Space.NEAR, px(_HEAD)), LEFT, shown)


@guarded
class _EpisodeDelegate(QStyledItemDelegate):
    """Draws an episode."""

    def __init__(self, parent: QWidget, theme: Theme) -> None:
        super().__init__(parent)
        self.theme = theme

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """Every row is as high."""
        return QSize(px(240), px(_ROW))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Draw a row."""
        one: Episode = index.data(Qt.ItemDataRole.UserRole)
        area, theme = option.rect, self.theme
        columns = Columns(area.width())
        painter.save()
        painter.translate(area.topLeft())
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(0, 0, area.width(), px(_ROW) - 1, theme.colour("selection"))
            if option.state & QStyle.StateFlag.State_HasFocus:
                painter.fillRect(0, 0, 3, px(_ROW) - 1, theme.colour("action"))
        self._texts(painter, one, columns)
        self._sound(painter, one, columns)
        for nth, share in enumerate(one.passes):
            self._bar(painter, columns.bar(nth), share)
        painter.fillRect(
            Space.ROOM, px(_ROW) - 1, area.width() - 2 * Space.ROOM, 1, self.theme.colour("hairline")
        )
        painter.restore()

    def _texts(self, painter: QPainter, one: Episode, columns: Columns) -> None:
        theme, top = self.theme, 6
        painter.setFont(time_font())
        painter.setPen(theme.colour("quiet"))
        painter.drawText(QRect(Space.ROOM, top, px(_NUMBER), 24), LEFT, f"{one.number:02}")
        if one.length_ms:
            painter.drawText(QRect(columns.length, top, px(_LENGTH), 24), RIGHT, format_length(one.length_ms))
        painter.setFont(text_font(16))
        painter.setPen(theme.colour("ink"))
        cut = Qt.TextElideMode.ElideRight
        title = QFontMetrics(text_font(16)).elidedText(one.title, cut, columns.title_width)
        painter.drawText(QRect(columns.title, top, columns.title_width, 24), LEFT, title)
        font = ui_font(12)
        painter.setFont(font)
        role = "look" if one.wrong else "live" if one.busy else "quiet"
        painter.setPen(theme.colour(role))
        room = columns.passes + len(PASSES) * columns.step - columns.title - Space.NEAR
        said = QFontMetrics(font).elidedText(one.said, cut, room)
        painter.drawText(QRect(columns.title, 29, room, 18), LEFT, said)

    def _sound(self, painter: QPainter, one: Episode, columns: Columns) -> None:
        if columns.trace is None:
            return
        middle, width = 17.0, px(_TRACE) / 48
        colour = self.theme.colour("trace")
        if not one.trace:
            painter.fillRect(QRectF(columns.trace, middle, px(_TRACE), 1), self.theme.colour("hairline"))
            return
        for nth in range(48):
            levels = one.trace[nth * len(one.trace) // 48 : max(1, (nth + 1) * len(one.trace) // 48)]
            high = max(1.0, max(levels, default=0) / 100 * px(_TRACE_HIGH))
            painter.fillRect(
                QRectF(columns.trace + nth * width, middle - high / 2, width - 0.6, high), colour
            )

    def _bar(self, painter: QPainter, place: tuple[int, int], share: float) -> None:
        left, width = place
        top = 16
        if share < 0:  # not wanted: a dash in the middle
            painter.fillRect(QRectF(left + width / 2 - 4, top + 2, 8, 1), self.theme.colour("quiet"))
            return
        painter.fillRect(QRectF(left, top, width, _BAR), self.theme.colour("hairline"))
        painter.fillRect(QRectF(left, top, width * share, _BAR), self.theme.colour("action"))


@guarded
class _Episodes(QAbstractListModel):
    """The rows of the list."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[Episode] = []

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - as in Qt
        """How many there are."""
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """The episode itself, and how a screen reader and a tip say it."""
        one = self.rows[index.row()]
        if role == Qt.ItemDataRole.UserRole:
            return one
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return spoken(one)
        return f"{one.title}\n{one.said}\n{one.path}" if role == Qt.ItemDataRole.ToolTipRole else None

    def show(self, episodes: Sequence[Episode]) -> None:
        """Show episodes; only rows that are others are drawn again."""
        if len(episodes) != len(self.rows):
            self.beginResetModel()
            self.rows = list(episodes)
            self.endResetModel()
            return
        before, self.rows = self.rows, list(episodes)
        for row, (one, other) in enumerate(zip(before, self.rows)):
            if one is not other and one != other:
                self.dataChanged.emit(self.index(row), self.index(row))


@guarded
class EpisodeList(QListView):
    """The episodes: Up and Down choose, Enter opens, Delete takes one out of the series.

    Signals
    -------
    opened(Path)
    unwanted(Path)
    moved(Path, int)
        It is to stand earlier (below zero) or later.
    typed(str)
        A letter was typed: something is to be found.
    resized()
    """

    opened = Signal(Path)
    unwanted = Signal(Path)
    moved = Signal(Path, int)
    typed = Signal(str)
    resized = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setAccessibleName(tr("Episodes"))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setUniformItemSizes(True)
        self._model = _Episodes()
        self.setModel(self._model)
        self.delegate = _EpisodeDelegate(self, theme)
        self.setItemDelegate(self.delegate)
        self.doubleClicked.connect(lambda _index: self._open())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """A scroll bar may have come or gone."""
        super().resizeEvent(event)
        self.resized.emit()

    def show_episodes(self, episodes: Sequence[Episode]) -> None:
        """Show them; the one that was chosen stays so."""
        chosen, row = self.chosen(), self.currentIndex().row()
        self._model.show(episodes)
        if chosen is not None:
            self.choose(chosen)
        if not self.currentIndex().isValid() and episodes:
            self.setCurrentRow(min(max(0, row), len(episodes) - 1))

    def count(self) -> int:
        """How many there are."""
        return len(self._model.rows)

    def episode_at(self, row: int) -> Episode:
        """The episode of a row."""
        return self._model.rows[row]

    def setCurrentRow(self, row: int) -> None:
        """Choose a row."""
        self.setCurrentIndex(self._model.index(row))

    def chosen(self) -> Path | None:
        """The episode that is chosen."""
        index = self.currentIndex()
        return self._model.rows[index.row()].path if index.isValid() else None

    def choose(self, path: Path) -> None:
        """Choose an episode."""
        row = self.currentIndex().row()
        if 0 <= row < self.count() and self.episode_at(row).path == path:
            return
        found = next((row for row, one in enumerate(self._model.rows) if one.path == path), -1)
        if found >= 0:
            self.setCurrentRow(found)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter opens, Delete takes out, Alt with arrows moves, letters search."""
        path, key = self.chosen(), event.key()
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if path is not None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit(path)
        elif path is not None and key == Qt.Key.Key_Delete:
            self.unwanted.emit(path)
        elif path is not None and key in steps and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.moved.emit(path, steps[Qt.Key(key)])
        elif event.text().strip() and event.text().isprintable() and not _with_control(event):
            self.typed.emit(event.text())
        else:
            super().keyPressEvent(event)

    def _open(self) -> None:
        path = self.chosen()
        if path is not None:
            self.opened.emit(path)


def _with_control(event: QKeyEvent) -> bool:
    held = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
    return bool(event.modifiers() & held)


def spoken(one: Episode) -> str:
    """An episode as a screen reader says it."""
    done = ", ".join(f"{name} {share:.0%}" for name, share in zip(PASSES, one.passes) if share >= 0)
    length = format_length(one.length_ms) if one.length_ms else ""
    return ". ".join(filter(None, (f"{one.number}, {one.title}", length, one.said, done)))
