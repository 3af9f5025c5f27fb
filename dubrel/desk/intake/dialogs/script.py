"""Show how a script was understood, and let it be changed before it is aligned."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.base.languages import LANGUAGES, detect_language, language_name
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.widgets import button, closing_row, label, plain_table, titled_box
from dubrel.formats.scripts.script import Kind, Piece

_LINE_END = " / "  # as lines of a song stand in running text
_NAMES = {Kind.SPEECH: tr("Speech"), Kind.HEADING: tr("Heading"), Kind.DIRECTION: tr("Direction")}


class ScriptDialog(QDialog):
    """A table of the script's pieces: what each is, who says it, what it says.

    Parameters
    ----------
    name : str
        The script's file name.
    pieces : sequence of Piece
    """

    def __init__(self, name: str, pieces: Sequence[Piece], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Align a script"))
        self.resize(820, 560)
        box = titled_box(self, name)
        hint = label(
            tr(
                "Only speech is aligned with the sound. Correct the kind of a piece or the name "
                "of its speaker"
                " here."
            ),
            "quiet",
        )
        hint.setWordWrap(True)
        box.addWidget(hint)
        self.table = QTableWidget(len(pieces), 3)
        plain_table(self.table, tr("Pieces of the script"), [tr("What"), tr("Speaker"), tr("Text")])
        self.table.horizontalHeader().setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        fixed(self.table.setColumnWidth, 118, of=0)
        fixed(self.table.setColumnWidth, 130, of=1)
        self._kinds: list[QComboBox] = []
        self._lined = {row for row, piece in enumerate(pieces) if "\n" in piece.text}
        for row, piece in enumerate(pieces):
            self._fill_row(row, piece)
        box.addWidget(self.table, 1)
        self.count = label("", "quiet")
        self.tongue = QComboBox()
        self.tongue.setAccessibleName(tr("Language of the script"))
        for tag, text in LANGUAGES.items():
            self.tongue.addItem(tr(text), tag)
        found = detect_language(" ".join(piece.text for piece in pieces[:200])) or "en"
        if found not in LANGUAGES:
            self.tongue.addItem(tr(language_name(found)), found)
        self.tongue.setCurrentIndex(self.tongue.findData(found))
        self.leave, self.go = button(tr("Cancel")), button(tr("Align"), primary=True)
        tongue = label(tr("in"), "quiet")
        box.addLayout(closing_row(self, self.count, tongue, self.tongue, leave=self.leave, go=self.go))
        self._show_count()

    def _fill_row(self, row: int, piece: Piece) -> None:
        kind = QComboBox()
        for one, text in _NAMES.items():
            kind.addItem(text, one)
        kind.setCurrentIndex(list(_NAMES).index(piece.kind))
        kind.currentIndexChanged.connect(self._show_count)
        self._kinds.append(kind)
        self.table.setCellWidget(row, 0, kind)
        self.table.setItem(row, 1, QTableWidgetItem(piece.speaker))
        self.table.setItem(row, 2, QTableWidgetItem(piece.text.replace("\n", _LINE_END)))
        self.table.setRowHeight(row, 34)

    def pieces(self) -> list[Piece]:
        """The pieces as the user left them."""
        found = []
        for row, kind in enumerate(self._kinds):
            speaker, text = self.table.item(row, 1), self.table.item(row, 2)
            if speaker is not None and text is not None and text.text().strip():
                said = text.text().strip()
                said = said.replace(_LINE_END, "\n") if row in self._lined else said
                found.append(Piece(Kind(kind.currentData()), said, speaker.text().strip()))
        return found

    def language(self) -> str:
        """The language of the script."""
        return str(self.tongue.currentData())

    def _show_count(self) -> None:
        speech = [piece for piece in self.pieces() if piece.kind is Kind.SPEECH]
        words = sum(len(piece.text.split()) for piece in speech)
        speakers = len({piece.speaker for piece in speech if piece.speaker})
        self.count.setText(
            tr("{words} words of speech, {speakers} named speakers").format(words=words, speakers=speakers)
        )
        self.go.setEnabled(words > 0)
