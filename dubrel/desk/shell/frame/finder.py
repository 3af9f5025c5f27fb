"""Find a command: type some letters, press Enter; change its keys in place."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QObject, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence, QPainter
from PySide6.QtWidgets import (
    QDialog,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.commands import Act, Commands
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.listfield import ListField
from dubrel.desk.shell.kit.scale import fixed, px
from dubrel.desk.shell.kit.theme import Theme, time_font, ui_font
from dubrel.desk.shell.kit.widgets import Index, label

_HINT = tr("Enter runs it; F2 changes its keys")


@guarded
class _Row(QStyledItemDelegate):
    """A command's text at the left, its keys at the right."""

    def __init__(self, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.theme = theme

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(px(100), px(30))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        rect = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, self.theme.colour("selection"))
        painter.setFont(ui_font(13))
        painter.setPen(self.theme.colour("ink"))
        inner = rect.adjusted(px(10), 0, -px(10), 0)
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, index.data(Qt.ItemDataRole.DisplayRole))
        painter.setFont(time_font(12))
        painter.setPen(self.theme.colour("quiet"))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(inner, flags, index.data(Qt.ItemDataRole.UserRole + 1) or "")


@guarded
class Finder(QDialog):
    """The searchable list of every command, and of the buttons that no command stands for.

    Parameters
    ----------
    commands : Commands
    theme : Theme
    parent : QWidget
    acts : sequence of Act
    hints : sequence of (command, text)
        Other names of commands.
    """

    def __init__(
        self,
        commands: Commands,
        theme: Theme,
        parent: QWidget,
        acts: Sequence[Act] = (),
        hints: Sequence[tuple[str, str]] = (),
    ) -> None:
        super().__init__(parent)
        self.commands, self._changing, self._acts = commands, "", list(acts)
        self._words = {name: commands.table[name].words for name in commands.actions}
        for name, text in hints:  # what the footer calls it
            self._words[name] = f"{self._words.get(name, '')} {text}"
        self.setWindowTitle(tr("Find a command"))
        fixed(self.setMinimumSize, 460, 420)
        box = QVBoxLayout(self)
        self.list = QListWidget()
        self.field = ListField(self.list, tr("Find a command"))
        self.field.taken.connect(self.accept)
        self.list.setItemDelegate(_Row(theme, self.list))
        self.list.setAccessibleName(tr("Commands"))
        self.hint = label(_HINT, "quiet")
        self.hint.setWordWrap(True)
        box.addWidget(self.field)
        box.addWidget(self.list, 1)
        box.addWidget(self.hint)
        self.field.textChanged.connect(self._fill)
        self.list.itemActivated.connect(lambda _item: self.accept())
        self.field.installEventFilter(self)
        self._fill("")

    @property
    def chosen(self) -> str:
        """The name of the command in the chosen row."""
        item = self.list.currentItem()
        name = item.data(Qt.ItemDataRole.UserRole) if item else ""
        return name if isinstance(name, str) else ""

    def carry_out(self) -> None:
        """Do what the chosen row says."""
        item = self.list.currentItem()
        known = item.data(Qt.ItemDataRole.UserRole) if item else None
        if isinstance(known, int):
            self._acts[known].run()
        elif known:
            self.commands.run(known)

    def _fill(self, text: str) -> None:
        before = self.chosen
        self.list.clear()
        wanted = text.casefold().split()
        rows = [
            (action.text(), self._words[name], name, self.commands.keys(name))
            for name, action in self.commands.actions.items()
            if action.isEnabled()
        ]
        rows = [one for one in rows if all(part in f"{one[0]} {one[1]}".casefold() for part in wanted)]
        rows.sort(key=lambda one: not all(part in one[0].casefold() for part in wanted))  # by name first
        found: list[tuple[str, str | int, str]] = [(text, name, keys) for text, _, name, keys in rows]
        found += [
            (one.text, place, tr("in {place}").format(place=one.place))
            for place, one in enumerate(self._acts)
            if wanted and all(part in f"{one.text} {one.place}".casefold() for part in wanted)
        ]
        for text_, known, at in found:
            item = QListWidgetItem(text_)
            item.setData(Qt.ItemDataRole.UserRole, known)
            item.setData(Qt.ItemDataRole.UserRole + 1, at)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{text_}, {at}" if at else text_)
            self.list.addItem(item)
            if known == before:
                self.list.setCurrentItem(item)
        if self.list.currentRow() < 0:
            self.list.setCurrentRow(0)
        self.hint.setText(_HINT if self.list.count() else tr("No command matches"))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Keys of the field that belong to the list."""
        if event.type() == QEvent.Type.ShortcutOverride and self._changing:
            event.accept()  # these keys are being given, not carried out
            return True
        if event.type() != QEvent.Type.KeyPress or not isinstance(event, QKeyEvent):
            return False
        if self._changing:
            return self._take_keys(event)
        if event.key() == Qt.Key.Key_F2 and self.chosen:
            self._changing = self.chosen
            self.hint.setText(tr("Press the new keys, Backspace for none, Esc to cancel"))
            return True
        return False

    def _take_keys(self, event: QKeyEvent) -> bool:
        if event.key() in (Qt.Key.Key_Control, Qt.Key.Key_Shift, Qt.Key.Key_Alt, Qt.Key.Key_Meta):
            return True
        name, self._changing = self._changing, ""
        if event.key() == Qt.Key.Key_Escape:
            self.hint.setText(_HINT)
            return True
        keys = QKeySequence() if event.key() == Qt.Key.Key_Backspace else QKeySequence(event.keyCombination())
        taken = self.commands.change(name, keys)
        self._fill(self.field.text())
        if taken:
            self.hint.setText(tr("“{taken}” already has these keys; nothing was changed").format(taken=taken))
        return True
