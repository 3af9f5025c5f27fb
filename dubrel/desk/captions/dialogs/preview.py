"""What setting again, or fixing, would do: old and new side by side, before it is done."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Theme, text_font, time_font
from dubrel.desk.shell.kit.widgets import Index, button, closing_row, label, titled_box
from dubrel.edits.captions.resetting import Exchange, differences, exchanges
from dubrel.model import Caption, Project
from dubrel.project.captiontext import text_of

_ROW = Qt.ItemDataRole.UserRole
_LINE, _PAD = 21, 10
_MOST = 400  # exchanges that are listed

Made = Callable[[str, bool], Project]


@guarded
class _Sides(QStyledItemDelegate):
    """Draws an exchange: what stands now at the left, what would stand there at the right."""

    def __init__(self, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.theme = theme

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """As high as the longer side."""
        sides: tuple[Sequence[tuple[str, bool]], ...] = index.data(_ROW)
        return QSize(px(200), max(len(side) for side in sides) * px(_LINE) + 2 * px(_PAD))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Draw both sides and a hairline."""
        area = QRectF(option.rect)
        half = area.width() / 2
        for nth, side in enumerate(index.data(_ROW)):
            y = area.top() + px(_PAD)
            for text, is_time in side:
                painter.setFont(time_font(11) if is_time else text_font(15))
                painter.setPen(self.theme.colour("quiet" if is_time or nth == 0 else "ink"))
                box = QRectF(area.left() + nth * half + px(8), y, half - px(20), px(_LINE))
                shown = QFontMetricsF(painter.font()).elidedText(
                    text, Qt.TextElideMode.ElideRight, box.width()
                )
                painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, shown)
                y += px(_LINE)
        painter.setPen(QPen(self.theme.colour("hairline"), 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        middle = area.left() + half - px(4)
        painter.drawLine(middle, area.top() + px(6), middle, area.bottom() - px(6))  # type: ignore[call-overload]


class PreviewDialog(QDialog):
    """Old and new captions side by side.

    Parameters
    ----------
    project : Project
        As it is.
    title, go : str
        Of the dialog, and of the button that does it; no button for looking only.
    scopes : list of (str, str)
        What it may be about: a key, and words for the eye; none for no choice.
    make : callable
        Gets the key of the scope and whether what is held is kept; gives what the project would be.
    heads : tuple of str
        What stands over both sides.
    """

    def __init__(
        self,
        project: Project,
        theme: Theme,
        title: str,
        go: str,
        scopes: Sequence[tuple[str, str]],
        make: Made,
        parent: QWidget,
        heads: tuple[str, str] = (tr("Now"), tr("Then")),
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.resize(920, 620)
        self.project, self.made, self._make, self._go = project, project, make, go
        box = titled_box(self, title)
        row = QHBoxLayout()
        self.scope, self.keep = QComboBox(), QCheckBox(tr("Keep manual changes"))
        self.scope.setAccessibleName(tr("What"))
        for key, text in scopes:
            self.scope.addItem(text, key)
        self.keep.setChecked(True)
        held = sum(bool(one.held) for one in project.captions.captions) if project.captions else 0
        self.keep.setVisible(bool(scopes) and held > 0)
        self.scope.setVisible(bool(scopes))
        row.addWidget(self.scope)
        row.addWidget(self.keep)
        row.addStretch(1)
        box.addLayout(row)
        self.says = label("")
        box.addWidget(self.says)
        over = QHBoxLayout()
        for text in heads:
            over.addWidget(label(text, "section"), 1)
        box.addLayout(over)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("What would change"))
        self.list.setItemDelegate(_Sides(theme, self.list))
        self.list.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        box.addWidget(self.list, 1)
        self.leave, self.go = button(tr("Cancel")), button(go, primary=True)
        box.addLayout(closing_row(self, leave=self.leave, go=self.go))
        if not go:  # to be looked at only
            self.leave.setText(tr("Close"))
            self.go.hide()
        self.scope.currentIndexChanged.connect(self._show)
        self.keep.toggled.connect(self._show)
        self._show()

    def _show(self) -> None:
        """Work it out and show it."""
        self.made = self._make(str(self.scope.currentData() or ""), self.keep.isChecked())
        track = self.made.captions
        found = exchanges(self.project.captions, track) if track else []
        if not self._go:  # two projects, of which no caption is the same object
            found = differences(self.project, self.made)
        self.list.clear()
        for one in found[:_MOST]:
            item = QListWidgetItem()
            item.setData(_ROW, self._sides(one))
            item.setData(Qt.ItemDataRole.AccessibleTextRole, self._spoken(one))
            self.list.addItem(item)
        before = len(self.project.captions.captions) if self.project.captions else 0
        after = len(track.captions) if track else 0
        changed = sum(len(one.new) for one in found)
        would = counted(changed, "caption would change", "captions would change")
        differ = counted(changed, "caption differs", "captions differ")
        said = would if self._go else differ
        text = f"{said}."
        if after != before:
            text = tr("{captions}; {after:,} instead of {before:,}.").format(
                captions=said, after=after, before=before
            )
        if len(found) > _MOST:
            text += tr(" The first {most} places are listed.").format(most=_MOST)
        self.says.setText(text if found else tr("Nothing would change."))
        self.go.setEnabled(bool(found) or self.made != self.project)
        self.go.setText(f"{self._go}: {changed:,}" if changed else self._go)

    def _sides(self, one: Exchange) -> tuple[list[tuple[str, bool]], list[tuple[str, bool]]]:
        return self._side(self.project, one.old), self._side(self.made, one.new)

    def _side(self, project: Project, captions: Sequence[Caption]) -> list[tuple[str, bool]]:
        track = project.captions
        rows: list[tuple[str, bool]] = []
        for one in captions:
            assert track is not None
            rows.append((f"{format_clock(one.start_ms)} – {format_clock(one.end_ms)}", True))
            rows += [(line, False) for line in text_of(project, track, one).lines]
        return rows

    def _spoken(self, one: Exchange) -> str:
        old, new = (" / ".join(text for text, is_time in side if not is_time) for side in self._sides(one))
        return tr("{old} becomes {new}").format(old=old, new=new)
