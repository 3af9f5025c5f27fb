"""The deliverables of a kit, a row each: the form, its options in words, how many files."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QMimeData, QRect, QSize, Qt, QUrl, Signal
from PySide6.QtGui import QDrag, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from dubrel.base.catalogue import counted, tr
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed, px
from dubrel.desk.shell.kit.theme import Theme, time_font, ui_font
from dubrel.desk.shell.kit.widgets import Index
from dubrel.formats.shared.document import CHOICES, options_from
from dubrel.formats.shared.form import Form
from dubrel.release.forms import FORMS
from dubrel.release.kits import Item, Planned
from dubrel.release.source import EXTRA

_ROLE = Qt.ItemDataRole.UserRole
_HIGH, _MOST_ROWS = 46, 7


@guarded
class _Delegate(QStyledItemDelegate):
    """Draws two lines."""

    theme: Theme

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """High enough for two lines."""
        return QSize(px(120), px(_HIGH))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Draw name, options and count."""
        name, words, count = index.data(_ROLE)
        area: QRect = option.rect
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        if chosen:
            painter.fillRect(area, self.theme.colour("desk"))
        wide = int(QFontMetricsF(time_font(12)).horizontalAdvance(count)) + px(14)
        painter.setFont(ui_font(13))
        painter.setPen(self.theme.colour("ink"))
        inner = area.adjusted(px(10), px(6), -wide, -px(4))
        metrics = QFontMetricsF(painter.font())
        painter.drawText(
            inner,
            Qt.AlignmentFlag.AlignTop,
            metrics.elidedText(name, Qt.TextElideMode.ElideRight, inner.width()),
        )
        painter.setFont(ui_font(12))
        painter.setPen(self.theme.colour("quiet"))
        shown = QFontMetricsF(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, inner.width())
        painter.drawText(inner, Qt.AlignmentFlag.AlignBottom, shown)
        painter.setFont(time_font(12))
        painter.drawText(area.adjusted(0, px(6), -px(10), 0), Qt.AlignmentFlag.AlignRight, count)
        painter.setPen(self.theme.colour("hairline"))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.restore()


@guarded
class Docket(QListWidget):
    """A list of what will be written; written files can be dragged into other programs.

    Signals
    -------
    removed(int)
        A row is to go.
    """

    removed = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._delegate = _Delegate(self)
        self._delegate.theme = theme
        self.setItemDelegate(self._delegate)
        self.setAccessibleName(tr("Deliverables of the kit"))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.written: dict[str, list[str]] = {}  # paths by the id of the form

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self._delegate.theme = theme
        self.viewport().update()

    def fill(self, items: Sequence[Item], plan: Sequence[Planned]) -> None:
        """Show the items of a kit."""
        row = self.currentRow()
        self.blockSignals(True)
        self.clear()
        for one in items:
            form = FORMS[one.form]
            count = sum(planned.form is form for planned in plan)
            files = counted(count, "file") if count else tr("nothing to write")
            made = QListWidgetItem(tr(form.label))
            made.setData(_ROLE, (tr(form.label), in_words(form, one), files))
            made.setData(
                Qt.ItemDataRole.AccessibleTextRole, f"{tr(form.label)}, {in_words(form, one)}, {files}"
            )
            self.addItem(made)
        self.setCurrentRow(min(max(row, 0), self.count() - 1))
        fixed(self.setFixedHeight, _HIGH * min(max(2, self.count()), _MOST_ROWS) + 4)
        self.blockSignals(False)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Delete takes a row out."""
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.currentRow() >= 0:
            self.removed.emit(self.currentRow())
        else:
            super().keyPressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag the written files of a row into another program."""
        item = self.currentItem()
        if event.buttons() & Qt.MouseButton.LeftButton and item is not None:
            labels = {tr(form.label): form.id for form in FORMS.values()}
            paths = [
                path for path in self.written.get(labels.get(item.text(), ""), []) if Path(path).is_file()
            ]
            if paths:
                data = QMimeData()
                data.setUrls([QUrl.fromLocalFile(path) for path in paths])
                drag = QDrag(self)
                drag.setMimeData(data)
                drag.exec(Qt.DropAction.CopyAction)
        super().mouseMoveEvent(event)


def in_words(form: Form, item: Item) -> str:
    """The options of an item, as far as they are not the usual ones."""
    tracks = {"": "", "original": "", "all": tr("all languages"), "translations": "translations"}
    wanted = item.options.get("track", "")
    parts = [tracks.get(wanted, wanted)] if form.each_track else []
    if form.text:
        own = {name: value for name, value in item.options.items() if name not in EXTRA}
        options = options_from(own)
        for name in own:
            known = dict(CHOICES.get(name, ()))
            value = getattr(options, name)
            parts.append(
                known.get(
                    value,
                    tr("{name} every {value} s").format(name=name, value=value) if name == "times" else value,
                )
            )
    found = [part for part in parts if part]
    return ", ".join(found) if found else form.group.lower()
