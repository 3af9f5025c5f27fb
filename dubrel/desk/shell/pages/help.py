"""The guide inside the application: a page for each pass, and the table of all keys."""

from __future__ import annotations

import re
from pathlib import Path

from PySide6.QtCore import Qt, QUrl, Signal
from PySide6.QtGui import (
    QFont,
    QKeyEvent,
    QTextBlockFormat,
    QTextCharFormat,
    QTextCursor,
    QTextDocument,
    QTextTable,
)
from PySide6.QtWidgets import QLineEdit, QListWidget, QTextBrowser, QVBoxLayout, QWidget

import dubrel
from dubrel.base.catalogue import tr
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.paperpage import PaperPage
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space, Theme, text_font, ui_font
from dubrel.desk.shell.kit.widgets import button, label

GUIDE = Path(dubrel.__file__).parent / "assets" / "guide"
_ORDER = (
    "everywhere",
    "intake",
    "voices",
    "wording",
    "captions",
    "translation",
    "release",
    "series",
    "together",
    "machines",
)
_LAST = ("keys", "forms", "checks", "command-line", "options", "python")
_NOT_SHOWN = re.compile(r"^(?:!\[|More pictures:|Made from ).*\n", re.MULTILINE)
_LIST_WIDTH, _LINE = 190, 118  # pixels, hundredths


def pages() -> dict[str, str]:
    """The title of each page of the guide by its name, those of the passes first."""
    found = {path.stem: _title(path) for path in sorted(GUIDE.glob("*.md"))}
    return {name: found.pop(name) for name in (*_ORDER, *_LAST)} | found


def text_of(name: str) -> str:
    """A page as Markdown, without pictures, which show what is beside it, and without how it was made."""
    return _NOT_SHOWN.sub("", (GUIDE / f"{name}.md").read_text(encoding="utf-8"))


def _title(path: Path) -> str:
    first = path.read_text(encoding="utf-8").split("\n", 1)[0]
    return first.removeprefix("# ")


@guarded
class HelpPage(PaperPage):
    """The pages in a list, and the chosen one beside it.

    Signals
    -------
    closed()
    """

    closed = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__(tr("Guide"))
        self.box.setContentsMargins(Space.PAGE, Space.FAR, Space.FAR, Space.EDGE)
        self.box.addWidget(label(tr("Guide"), "title"))
        row = self.beside(24)
        self.names = list(pages())
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Pages of the guide"))
        self.list.addItems(list(pages().values()))
        self.list.currentRowChanged.connect(self._show)
        self.sought = QLineEdit()
        self.sought.setPlaceholderText(tr("Find on this page"))
        self.sought.setAccessibleName(tr("Find on this page"))
        self.sought.textEdited.connect(lambda _text: self._seek(again=False))
        self.sought.returnPressed.connect(lambda: self._seek(again=True))
        self.close_button = button(tr("Close"), primary=True)
        self.close_button.clicked.connect(self.closed)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        for one in (self.list, self.sought, self.close_button):
            column.addWidget(one)
        fixed(left.setMaximumWidth, _LIST_WIDTH)
        self.text = QTextBrowser()
        self.text.setAccessibleName(tr("The page"))
        self.text.setObjectName("preview")
        self.text.setOpenLinks(False)
        self.text.anchorClicked.connect(self._follow)
        fixed(self.text.setMinimumHeight, 240)
        row.addWidget(left)
        row.addWidget(self.text, 1)
        self.box.addLayout(row, 1)
        self.setFocusProxy(self.list)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self._theme = theme
        self._show(self.list.currentRow())

    def show_page(self, name: str) -> None:
        """Show a page by its name; the first where there is none of it."""
        self.list.setCurrentRow(self.names.index(name) if name in self.names else 0)

    def _show(self, row: int) -> None:
        if 0 <= row < len(self.names):
            self.text.setDocument(self._document(text_of(self.names[row])))
            self.text.moveCursor(QTextCursor.MoveOperation.Start)

    def _document(self, text: str) -> QTextDocument:
        """A page with headings, spaces and tables as on our other pages; laid out once, when it is shown."""
        document = QTextDocument(self.text)
        document.setDefaultFont(ui_font(14))
        document.setDocumentMargin(18)
        document.setUndoRedoEnabled(False)
        document.setMarkdown(text)
        block = document.begin()
        while block.isValid():
            cursor = QTextCursor(block)
            if cursor.currentTable() is None:
                _set_type(cursor, block.blockFormat().headingLevel())
            block = block.next()
        for frame in document.rootFrame().childFrames():
            if isinstance(frame, QTextTable):
                look = frame.format()
                look.setBorderBrush(self._theme.colour("hairline"))
                look.setCellPadding(5)
                frame.setFormat(look)
        return document

    def _follow(self, link: QUrl) -> None:
        """Links to other pages of the guide are followed; others lead outside it and are not."""
        name = Path(link.path()).stem
        if link.isRelative() and name in self.names:
            self.show_page(name)

    def _seek(self, *, again: bool) -> None:
        """Select what is looked for: from the top while it is typed, the next place with Enter."""
        if not again:
            self.text.moveCursor(QTextCursor.MoveOperation.Start)
        if self.sought.text() and not self.text.find(self.sought.text()):
            self.text.moveCursor(QTextCursor.MoveOperation.Start)
            self.text.find(self.sought.text())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape closes the page."""
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        else:
            super().keyPressEvent(event)


def _set_type(cursor: QTextCursor, level: int) -> None:
    """Font and spaces of a paragraph, or of a heading of a level."""
    form = QTextBlockFormat()
    if level:
        cursor.select(QTextCursor.SelectionType.BlockUnderCursor)
        heading = QTextCharFormat()
        heading.setFont(text_font(24) if level == 1 else ui_font(14, QFont.Weight.DemiBold))
        cursor.setCharFormat(heading)
        form.setTopMargin(0 if level == 1 else 14)
    form.setBottomMargin(6)
    form.setLineHeight(_LINE, QTextBlockFormat.LineHeightTypes.ProportionalHeight.value)
    cursor.mergeBlockFormat(form)
