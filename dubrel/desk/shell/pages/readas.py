"""The line that says in which encoding a text was read, with a choice that reads it again."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.edits.words.importing import with_text_of
from dubrel.project.history import History


class ReadAs(QWidget):
    """Stands under the header while the letters of a text that was opened may be wrong."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.session = desk, desk.session
        self._path: Path | None = None
        self._names: tuple[str, ...] = ()
        self._of: History | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(Space.EDGE, Space.HAIR, Space.WIDE, Space.HAIR)
        row.setSpacing(Space.APART)
        self.text = label("", "look")
        self.text.setWordWrap(True)
        self.choice = QComboBox()
        self.choice.setAccessibleName(tr("Encoding of the text"))
        self.choice.activated.connect(lambda _place: self.read_again())
        self.keep = button(tr("It reads correctly"))
        self.keep.clicked.connect(self.hide)
        row.addWidget(self.text, 1)
        row.addWidget(self.choice)
        row.addWidget(self.keep)
        desk.bars.append(self)
        desk.text_read.connect(self.offer)
        self.session.opened.connect(self._on_opened)
        self.hide()

    def offer(self, path: Path, encoding: str, names: tuple[str, ...]) -> None:
        """A text was opened: say what was assumed of it, or nothing where it is Unicode."""
        self._path, self._names, self._of = path, names, self.session.history
        self.setVisible(bool(encoding))
        if not encoding:
            return
        self._fill()
        self.text.setText(tr("“{name}” is not Unicode. Does it read correctly?").format(name=path.name))
        self.choice.setCurrentIndex(self.choice.findData(encoding))

    def _fill(self) -> None:
        from dubrel.formats.shared.encodings import ENCODINGS, known_encoding  # late: starting does without

        if not self.choice.count():
            for name, text in ENCODINGS.items():
                self.choice.addItem(text, known_encoding(name))

    def read_again(self) -> None:
        """Read the text in the encoding that is chosen, as a step."""
        from dubrel.formats.register import read_file  # late: as above

        path, encoding = self._path, self.choice.currentData()
        if path is None or self._of is not self.session.history:
            return
        question = tr("The translations of this text go when it is read again; undo brings them back.")
        translated = any(not one.spoken for one in self.session.project.tracks)
        if translated and not self.desk.ask.yes(question, tr("Read again")):
            return
        try:
            reading = beside(partial(read_file, path, self._names, encoding))
            self.desk.jobs.cancel_changing()
            label_ = tr("Read {name} as {choice}").format(name=path.name, choice=self.choice.currentText())
            self.session.step(lambda now: with_text_of(now, reading.project), label_, within=self._of)
        except DubrelError as error:
            self.desk.say(str(error))
            return
        self.desk.say(" ".join(reading.warnings))
        self.desk.counted.emit()

    def _on_opened(self) -> None:
        self._path, self._of = None, None
        self.hide()
