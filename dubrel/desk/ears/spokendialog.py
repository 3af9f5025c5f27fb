"""How a text is spoken, as a sentence with blanks, and what became of each line."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHeaderView, QTableWidget, QTableWidgetItem, QWidget

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_clock
from dubrel.base.value import replace
from dubrel.desk.ears.wishes import SpokenWishes
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.sentence import Blank, Sentence
from dubrel.desk.shell.kit.widgets import button, closing_row, label, plain_table, titled_box
from dubrel.speech.speaking.fitting import Placed

_FASTER = 1.005


def how(line: Placed) -> str:
    """What became of a line, in words."""
    if line.why_not:
        return line.why_not.capitalize()
    said = []
    if line.over_ms:
        said.append(tr("too long by {over_ms:.1f} s").format(over_ms=line.over_ms / 1000))
    if line.shorter:
        said.append(tr("in a shorter reading"))
    if line.pace > _FASTER:
        said.append(tr("{pace:.2f} times as fast").format(pace=line.pace))
    if line.late_ms:
        said.append(tr("begins {late_ms:.1f} s late").format(late_ms=line.late_ms / 1000))
    text = ", ".join(said)
    return text[:1].upper() + text[1:]


@guarded
class SpokenDialog(QDialog):
    """The sentence over a table of lines.

    Parameters
    ----------
    wishes : SpokenWishes
    languages : sequence of (int, str)
        Ids of tracks, 0 for the original, with what they are called in the sentence.
    voices : sequence of (str, str)
        Names of voices with what they are called.
    lines : sequence of Placed
        Spoken last; none before anything was.
    """

    def __init__(
        self,
        wishes: SpokenWishes,
        languages: Sequence[tuple[int, str]],
        voices: Sequence[tuple[str, str]],
        lines: Sequence[Placed],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.wishes, self.act, self.line, self._lines = wishes, "speak", 0, lines
        self.setWindowTitle(tr("Spoken"))
        self.resize(860, 560 if lines else 260)
        box = titled_box(self, tr("Spoken"))
        self.sentence = Sentence(_parts(languages, voices))
        self.sentence.show_values(wishes)
        self.sentence.changed.connect(self._changed)
        box.addWidget(self.sentence)
        self.about = label(_about(lines), "quiet")
        self.about.setWordWrap(True)
        box.addWidget(self.about)
        self.table = QTableWidget(0, 3)
        plain_table(self.table, tr("Lines that are spoken"), [tr("Time"), tr("Spoken"), tr("How")])
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        header = self.table.horizontalHeader()
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        fixed(self.table.setColumnWidth, 100, of=0)
        fixed(self.table.setColumnWidth, 250, of=2)
        self.table.cellActivated.connect(lambda _row, _column: self._go())
        self.table.setVisible(bool(lines))
        box.addWidget(self.table, 1)
        if not lines:
            box.addStretch(1)
        self.there, self.leave = button(tr("Go there")), button(tr("Cancel"))
        self.speak = button(tr("Speak"), primary=True)
        self.there.clicked.connect(self._go)
        self.there.setVisible(bool(lines))
        box.addLayout(closing_row(self, self.there, leave=self.leave, go=self.speak))
        self._fill()

    def _fill(self) -> None:
        """The lines that are not spoken as they stand come first."""
        rows = sorted(self._lines, key=lambda one: (not _wrong(one), one.start_ms))
        self._lines = rows
        self.table.setRowCount(len(rows))
        for row, one in enumerate(rows):
            for column, text in enumerate((format_clock(one.start_ms, digits=1), one.text, how(one))):
                item = QTableWidgetItem(text)
                if column == 1:
                    item.setToolTip(text)
                self.table.setItem(row, column, item)
        if rows:
            self.table.selectRow(0)

    def _changed(self, name: str, value: object) -> None:
        self.wishes = replace(self.wishes, **{name: value})

    def _go(self) -> None:
        """Close, and go to the line that is chosen."""
        row = self.table.currentRow()
        if 0 <= row < len(self._lines):
            self.act, self.line = "go", self._lines[row].id
            self.accept()

    def keyPressEvent(self, event: object) -> None:
        """Return in the table goes to its line."""
        key = getattr(event, "key", lambda: 0)()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.table.hasFocus():
            self._go()
        else:
            super().keyPressEvent(event)  # type: ignore[arg-type]


def _wrong(line: Placed) -> bool:
    return bool(line.over_ms or line.why_not)


def _about(lines: Sequence[Placed]) -> str:
    """What became of all of them, in a sentence."""
    if not lines:
        return tr("Nothing has been spoken yet. Lines that are too long for their time are listed here then.")
    over = sum(1 for one in lines if one.over_ms)
    faster = sum(1 for one in lines if one.pace > _FASTER and not one.over_ms)
    shorter = sum(1 for one in lines if one.shorter)
    parts = [tr("{faster:,} faster").format(faster=faster)] * bool(faster) + [
        tr("{shorter:,} in a shorter reading").format(shorter=shorter)
    ] * bool(shorter)
    parts.append(tr("{over:,} too long for their time").format(over=over) if over else tr("none too long"))
    return f"{counted(len(lines), 'line')}: {', '.join(parts)}."


def _parts(languages: Sequence[tuple[int, str]], voices: Sequence[tuple[str, str]]) -> list[str | Blank]:
    return [
        tr("Speak"),
        Blank("track", tr("What is spoken"), words=languages),
        Blank(
            "by",
            tr("In one breath"),
            words=(("", tr("sentence by sentence")), ("captions", tr("caption by caption"))),
        ),
        tr("by"),
        Blank("voice", tr("Voice"), words=voices),
        tr(", at most"),
        Blank("fastest", tr("How many times as fast at most"), 0.05, 1.0, 2.0, after=tr(" times")),
        tr("as fast, with the recording"),
        Blank(
            "under",
            tr("How much lower the recording is meanwhile"),
            words=(
                (10.0, tr("10 dB lower")),
                (15.0, tr("15 dB lower")),
                (20.0, tr("20 dB lower")),
                (30.0, tr("30 dB lower")),
                (None, tr("left out")),
            ),
        ),
        ".",
    ]
