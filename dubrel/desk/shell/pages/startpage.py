"""The page with nothing open: recent projects and how they stand, unsaved work, ways to begin."""

from __future__ import annotations

import time
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import told, tr
from dubrel.base.timecode import format_length
from dubrel.base.value import replace
from dubrel.desk.shell.kit.dates import dated
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed, px
from dubrel.desk.shell.kit.theme import Space, Theme, text_font, time_font, ui_font
from dubrel.desk.shell.kit.widgets import Index, button, label, scrolled
from dubrel.store.recovery import Leftover
from dubrel.user.recents import Recent

_ROW, _MARGIN, _TRACE = 104, 14, 28
_SIDE, _SERIES = 316, 3


def state_of(one: Recent) -> str:
    """How a project stands, in a phrase."""
    release = tr("not released")
    if one.released and one.released != one.digest:
        release = tr("released, changed since")
    elif one.released:
        then, now = time.localtime(one.released_at), time.localtime()
        near = time.time() - one.released_at < 6 * 86_400
        day = dated(one.released_at, "dddd" if near else tr("d MMMM"))
        on_day = tr("released on {day}").format(day=day)
        release = tr("released today") if then[:3] == now[:3] else on_day
    return ", ".join((*map(told, one.to_do), release))


@guarded
class _RecentDelegate(QStyledItemDelegate):
    """A project: title, state, length, its sound, and a rule under what has been proofed."""

    def __init__(self, parent: QWidget, theme: Theme) -> None:
        super().__init__(parent)
        self.theme = theme

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """Every row is as high."""
        return QSize(px(320), px(_ROW))

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: Index,
    ) -> None:
        """Draw a row."""
        one: Recent = index.data(Qt.ItemDataRole.UserRole)
        area = option.rect.adjusted(px(_MARGIN), 0, -px(_MARGIN), 0)
        theme = self.theme
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(option.rect.adjusted(0, 1, 0, -2), theme.colour("selection"))
        self._texts(painter, one, area)
        self._sound(painter, one, area)
        painter.fillRect(area.left(), area.bottom(), area.width(), 1, theme.colour("hairline"))
        painter.restore()

    def _texts(self, painter: QPainter, one: Recent, area: QRect) -> None:
        theme, line = self.theme, QRectF(area.left(), area.top() + 10, area.width(), 30)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        length = format_length(one.length_ms)
        painter.setFont(time_font())
        painter.setPen(theme.colour("quiet"))
        painter.drawText(line, right, length)
        taken = QFontMetrics(time_font()).horizontalAdvance(length) + 12
        painter.setFont(ui_font())
        painter.setPen(theme.colour("ink"))
        metrics = QFontMetrics(ui_font())
        state = metrics.elidedText(state_of(one), Qt.TextElideMode.ElideRight, area.width() // 2)
        painter.drawText(line.adjusted(0, 0, -taken, 0), right, state)
        taken += metrics.horizontalAdvance(state) + 16
        serif = QFontMetrics(text_font(20))
        title = serif.elidedText(one.title, Qt.TextElideMode.ElideRight, max(40, area.width() - taken))
        painter.setFont(text_font(20))
        painter.drawText(line, left, title)
        begin = serif.horizontalAdvance(title) + 8
        room = area.width() - taken - begin
        if one.subtitle and room > 60:
            painter.setFont(ui_font())
            painter.setPen(theme.colour("quiet"))
            cut = metrics.elidedText(one.subtitle, Qt.TextElideMode.ElideRight, room)
            painter.drawText(line.adjusted(begin, 2, 0, 2), left, cut)

    def _sound(self, painter: QPainter, one: Recent, area: QRect) -> None:
        theme, middle = self.theme, area.top() + 44 + px(_TRACE) / 2
        if one.trace:
            step = area.width() / len(one.trace)
            for place, level in enumerate(one.trace):
                high = max(1.0, level / 100 * px(_TRACE))
                bar = QRectF(area.left() + place * step, middle - high / 2, step * 0.8, high)
                painter.fillRect(bar, theme.colour("trace"))
        under = area.top() + 44 + px(_TRACE) + 9
        painter.fillRect(QRectF(area.left(), under, area.width(), 1), theme.colour("hairline"))
        for start, end in one.proofed:
            rule = QRectF(area.left() + start * area.width() / 1000, under - 1, 0, 3)
            rule.setWidth(max(2.0, (end - start) * area.width() / 1000))
            painter.fillRect(rule, theme.colour("action"))


def _where(one: Recent, projects: Sequence[Recent]) -> str:
    """Where a project is, as shortly as tells it from others of its title."""
    parts = Path(one.path).parts
    others = [Path(other.path).parts for other in projects if other.title == one.title and other is not one]
    folder = next((n for n in range(2, len(parts)) if all(o[-n:-1] != parts[-n:-1] for o in others)), 0)
    return tr("in {folder}").format(folder="/".join(parts[-folder:-1])) if folder else parts[-1]


@guarded
class RecentList(QListWidget):
    """The recent projects: Up and Down choose, Enter opens, Delete takes one off the list.

    Signals
    -------
    opened(Path)
    """

    opened = Signal(Path)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setAccessibleName(tr("Recent projects"))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.delegate = _RecentDelegate(self, theme)
        self.setItemDelegate(self.delegate)
        self.itemClicked.connect(lambda _item: self._open())

    def show_projects(self, projects: list[Recent]) -> None:
        """Show them, the first one chosen."""
        self.clear()
        titles = [one.title for one in projects]
        for one in projects:
            if titles.count(one.title) > 1:  # told apart by where they are
                one = replace(one, subtitle=_where(one, projects))
            item = QListWidgetItem()
            item.setData(Qt.ItemDataRole.UserRole, one)
            name = ", ".join(
                filter(None, (one.title, one.subtitle, state_of(one), format_length(one.length_ms)))
            )
            item.setData(Qt.ItemDataRole.AccessibleTextRole, name)
            item.setToolTip(f"{one.title}\n{state_of(one)}\n{one.path}")
            self.addItem(item)
        if projects:
            self.setCurrentRow(0)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter opens."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._open()
        else:
            super().keyPressEvent(event)

    def _open(self) -> None:
        item = self.currentItem()
        if item is not None:
            self.opened.emit(Path(item.data(Qt.ItemDataRole.UserRole).path))


class UnsavedWork(QFrame):
    """A card about work that was not saved when the application ended.

    Signals
    -------
    wanted(Leftover), looked(Leftover), unwanted(Leftover)
    """

    wanted = Signal(object)
    looked = Signal(object)
    unwanted = Signal(object)

    def __init__(self, left: Leftover) -> None:
        super().__init__()
        self.left = left
        self.setObjectName("card")
        box = QVBoxLayout(self)
        box.setContentsMargins(Space.WIDE, Space.ROOM, Space.WIDE, Space.WIDE)
        box.setSpacing(Space.NEAR)
        when = dated(left.at, tr("dddd HH:mm"))
        box.addWidget(label(tr("Unsaved work from {when}").format(when=when), "heading"))
        self.text = label(leftover_in_words(left))
        self.text.setWordWrap(True)
        box.addWidget(self.text)
        row = QHBoxLayout()
        row.setSpacing(Space.CLOSE)
        self.back, self.look, self.drop = (
            button(tr("Recover"), True),
            button(tr("Look first")),
            button(tr("Delete")),
        )
        for one, signal in ((self.back, self.wanted), (self.look, self.looked), (self.drop, self.unwanted)):
            one.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            one.clicked.connect(lambda _checked=False, signal=signal: signal.emit(left))
            row.addWidget(one)
        row.addStretch(1)
        box.addLayout(row)


def leftover_in_words(left: Leftover) -> str:
    """Unsaved work, in a sentence."""
    newer = str(left.newer)
    if left.meta.kind != "desk":
        return tr("Transcribing “{title}” was interrupted: {newer}.").format(title=left.title, newer=newer)
    if left.path is not None:
        return tr("“{title}” was not closed. Newer than its file: {newer}.").format(
            title=left.title, newer=newer
        )
    if left.meta.path:
        return tr(
            "“{title}” was not closed, and its file has changed since. Not in the file: {newer}."
        ).format(title=left.title, newer=newer)
    if left.meta.recording and not left.newer.new:
        return tr("“{title}” was being recorded.").format(title=left.title)
    return tr("“{title}” was never saved: {newer}.").format(title=left.title, newer=newer)


class StartPage(QWidget):
    """What is shown while nothing is open.

    Signals
    -------
    open_wanted(), record_wanted(), demo_wanted()
    project_wanted(Path), series_wanted(Path)
    back_wanted(Leftover), look_wanted(Leftover), delete_wanted(Leftover)
    """

    open_wanted = Signal()
    record_wanted = Signal()
    demo_wanted = Signal()
    project_wanted = Signal(Path)
    series_wanted = Signal(Path)
    back_wanted = Signal(object)
    look_wanted = Signal(object)
    delete_wanted = Signal(object)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setAccessibleName(tr("Start"))
        self.list = RecentList(theme)
        self.list.opened.connect(self.project_wanted)
        self.cards: list[UnsavedWork] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(Space.PAGE, Space.PAGE, Space.PAGE, Space.FAR)
        box.setSpacing(0)
        name = label("Dubrel", "name")
        box.addWidget(name)
        self.under = label(tr("On your desk"), "quiet")
        box.addWidget(self.under)
        box.addSpacing(Space.ROOM)
        row = QHBoxLayout()
        row.setSpacing(Space.PAGE)
        row.addWidget(self._paper(), 1)
        row.addWidget(self._side())
        box.addLayout(row, 1)
        box.addSpacing(Space.WIDE)
        self.hint, self.message = label("", "quiet"), label("", "look")
        self.message.setWordWrap(True)
        self.message.hide()
        box.addWidget(self.hint)
        box.addWidget(self.message)

    def _paper(self) -> QWidget:
        sheet = QWidget()
        sheet.setObjectName("paper")
        sheet.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        box = QVBoxLayout(sheet)
        box.setContentsMargins(Space.WIDE, Space.ROOM, Space.WIDE, Space.ROOM)
        self.empty = label(
            tr(
                "Nothing has been worked on yet. Open a recording to transcribe it, a project, or captions; "
                "or look at the demo: a podcast about an old wooden boat."
            ),
        )
        self.empty.setWordWrap(True)
        self.empty.setContentsMargins(Space.WIDE, Space.APART, Space.WIDE, Space.APART)
        box.addWidget(self.empty, 0, Qt.AlignmentFlag.AlignTop)
        box.addWidget(self.list, 1)
        return sheet

    def _side(self) -> QWidget:
        inner = QWidget()
        box = QVBoxLayout(inner)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(Space.ROOM)
        self.open, self.record = (
            button(tr("Open a recording, a project, captions"), True),
            button(tr("Record")),
        )
        self.demo = button(tr("Look at the demo"))
        for one, signal in (
            (self.open, self.open_wanted),
            (self.record, self.record_wanted),
            (self.demo, self.demo_wanted),
        ):
            one.setProperty("kind", "tall")
            one.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            one.clicked.connect(signal)
            box.addWidget(one)
        box.addSpacing(Space.ROOM)
        self.series_title, self._series_box = label(tr("Series"), "section"), QVBoxLayout()
        self._series_box.setSpacing(Space.NEAR)
        box.addWidget(self.series_title)
        box.addLayout(self._series_box)
        self.series: list[QPushButton] = []
        self._cards_box = QVBoxLayout()
        self._cards_box.setSpacing(Space.ROOM)
        box.addLayout(self._cards_box)
        box.addStretch(1)
        area = scrolled(inner)
        fixed(area.setFixedWidth, _SIDE)
        return area

    def show_state(self, projects: list[Recent], left: list[Leftover], series: Sequence[Path] = ()) -> None:
        """Show the recent projects, unsaved work, and the series that were open last."""
        self.say("")
        self.list.show_projects(projects)
        self.list.setVisible(bool(projects))
        self.empty.setVisible(not projects)
        self.hint.setText(
            tr(
                "A rule under the trace: these passages have been proofed.      "
                "Up, Down  choose      Enter  open      Drop files anywhere"
            )
            if projects
            else tr("Drop files anywhere")
        )
        self._show_series(series[:_SERIES])
        for card in self.cards:
            card.hide()
            card.deleteLater()
        self.cards = [UnsavedWork(one) for one in left]
        for card in self.cards:
            self._cards_box.addWidget(card)
            card.wanted.connect(self.back_wanted)
            card.looked.connect(self.look_wanted)
            card.unwanted.connect(self.delete_wanted)
        first = self.cards[0].back if self.cards else self.list if projects else self.open
        self.setFocusProxy(first)

    def _show_series(self, series: Sequence[Path]) -> None:
        self.series_title.setVisible(bool(series))
        for one in self.series:
            one.hide()
            one.deleteLater()
        self.series = [button(path.stem) for path in series]
        for one, path in zip(self.series, series):
            one.setProperty("kind", "tall")
            one.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            one.setToolTip(str(path))
            one.clicked.connect(lambda _checked=False, path=path: self.series_wanted.emit(path))
            self._series_box.addWidget(one)

    def say(self, text: str) -> None:
        """Say something in place of the hints, until something else is done."""
        self.message.setText(text)
        self.message.setVisible(bool(text))
        self.hint.setVisible(not text)

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.list.delegate.theme = theme
        self.list.viewport().update()
