"""In the booth beside the page of a house style: all styles, and what can be done with them."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from dubrel.base.catalogue import counted, shipped, tr
from dubrel.captions.styles import STYLES
from dubrel.desk.shell.kit.buttonrow import ButtonRow
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.model import HouseStyle
from dubrel.user.styles import all_styles


def brief(style: HouseStyle) -> str:
    """A style in some signs: “42 × 2, 17 CPS”."""
    if style.max_words:
        lines = counted(style.max_lines, "line")
        return tr("{max_words} words, {lines}").format(max_words=style.max_words, lines=lines)
    speed = f"{style.max_wpm} WPM" if style.speed_in == "wpm" and style.max_wpm else f"{style.max_cps:g} CPS"
    return f"{style.max_cpl} × {style.max_lines}, {speed}"


class StylesPanel(QWidget):
    """The list of styles.

    Signals
    -------
    chosen(HouseStyle)
    wanted(str)
        ``copy``, ``rename``, ``import``, ``export``, ``forget``, ``compare`` or ``keep``.
    """

    chosen = Signal(object)
    wanted = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, Space.TIGHT, 0, 0)
        box.setSpacing(Space.NEAR)
        box.addWidget(label(tr("Styles"), "section"))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Styles"))
        fixed(self.list.setFixedHeight, 196)
        box.addWidget(self.list)
        self.buttons = {}
        names = (
            ("copy", tr("Copy")),
            ("rename", tr("Rename")),
            ("keep", tr("Keep as mine")),
            ("import", tr("Import")),
            ("export", tr("Export")),
            ("compare", tr("Compare")),
            ("forget", tr("Delete")),
        )
        for name, text in names:
            made = self.buttons[name] = button(text)
            made.clicked.connect(lambda _checked=False, name=name: self.wanted.emit(name))
        box.addWidget(ButtonRow(list(self.buttons.values()), 3))
        box.addStretch(1)
        self._styles: list[HouseStyle] = []
        self.list.currentRowChanged.connect(self._on_row)

    def fill(self, own: HouseStyle, shown: HouseStyle) -> None:
        """List that of the project, the user's own, and those that ship."""
        self._styles = [own, *(one for one in all_styles().values() if one != own)]
        if shown not in self._styles:
            self._styles.insert(1, shown)
        self.list.blockSignals(True)
        self.list.clear()
        for nth, one in enumerate(self._styles):
            where = tr("this project") if nth == 0 else brief(one)
            item = QListWidgetItem(f"{shipped(one.name, STYLES)}    {where}")
            item.setToolTip(brief(one))
            self.list.addItem(item)
        self.list.setCurrentRow(self._styles.index(shown))
        self.list.blockSignals(False)
        ships = shown.name in STYLES
        self.buttons["forget"].setEnabled(not ships)
        self.buttons["keep"].setEnabled(not ships)
        self.buttons["rename"].setEnabled(not ships)

    def _on_row(self, row: int) -> None:
        if 0 <= row < len(self._styles):
            self.chosen.emit(self._styles[row])
