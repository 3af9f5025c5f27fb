"""The page of Release: what to write and where, and how the text will begin."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QBoxLayout,
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QVBoxLayout,
)

from dubrel.desk.shell.desk import Desk
from dubrel.desk.shell.paperpage import PaperPage
from dubrel.desk.shell.widgets import button, label
from dubrel.edits.masking import HOW, masked
from dubrel.edits.speakers import only_speaker
from dubrel.edits.striking import reading
from dubrel.edits.voices import shown_name
from dubrel.errors import DubrelError
from dubrel.formats.register import FORMS, written
from dubrel.jobs.writing import Deliverable
from dubrel.model import Project
from dubrel.settings import load_settings

_CHOSEN = {".srt", ".vtt", ".txt"}
_PREVIEW = 6000  # characters that are shown


class ReleasePage(PaperPage):
    """A page of paper about deliverables.

    Signals
    -------
    write_wanted()
    """

    write_wanted = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__("Sheet: release")
        self.desk, self.session = desk, desk.session
        both = self.beside(34)
        self.box.addLayout(both)
        both.addLayout(self._left(), 4)
        both.addLayout(self._right(), 5)
        self.session.opened.connect(self.reset)
        self.reset()

    def _left(self) -> QVBoxLayout:
        box = QVBoxLayout()
        box.setSpacing(12)
        box.addWidget(label("Write the deliverables", "title"))
        hint = label(
            "Each file is read back and compared with the project before it is called done.", "quiet"
        )
        hint.setWordWrap(True)
        box.addWidget(hint)
        self.boxes: dict[str, QCheckBox] = {}
        for suffix, form in FORMS.items():
            if form.write is not None:
                made = self.boxes[suffix] = QCheckBox(f"{form.name} ({suffix})")
                made.setChecked(suffix in _CHOSEN)
                box.addWidget(made)
        box.addSpacing(6)
        box.addLayout(self._readings())
        box.addSpacing(6)
        box.addWidget(label("Folder", "section"))
        row = QHBoxLayout()
        self.folder = QLineEdit()
        self.folder.setAccessibleName("Folder")
        choose = button("Choose")
        choose.clicked.connect(self._choose)
        row.addWidget(self.folder, 1)
        row.addWidget(choose)
        box.addLayout(row)
        self.write = button("Write", primary=True)
        self.write.clicked.connect(self.write_wanted)
        line = QHBoxLayout()
        line.addWidget(self.write)
        line.addStretch(1)
        box.addLayout(line)
        self.state = label("", "look")
        self.state.setWordWrap(True)
        self.report = label("", "")
        self.report.setWordWrap(True)
        self.report.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        box.addWidget(self.state)
        box.addWidget(self.report)
        box.addStretch(1)
        return box

    def _readings(self) -> QBoxLayout:
        """What holds for every form: clean or verbatim, and what is masked."""
        row = self.beside(8)
        self.reading, self.masks, self.who = QComboBox(), QComboBox(), QComboBox()
        for text, value in (
            ("Fillers as on the sheet", ""),
            ("Clean, without fillers", "clean"),
            ("Verbatim", "verbatim"),
        ):
            self.reading.addItem(text, value)
        for text, value in zip(("Nothing masked", "Masked: b****", "Masked: ****", "Masked: [bleep]"), HOW):
            self.masks.addItem(text, value)
        self.who.addItem("Everybody", None)
        for one, name in ((self.reading, "Reading"), (self.masks, "Masked words"), (self.who, "Who speaks")):
            one.setAccessibleName(name)
            one.currentIndexChanged.connect(self.refresh)
            one.setMaximumWidth(132)
            row.addWidget(one)
        row.addStretch(1)
        return row

    def _list_speakers(self) -> None:
        project, now = self.session.project, self.who.currentData()
        people = [(shown_name(project, one.id), one.id) for one in project.transcript.speakers]
        wanted = [("Everybody", None), *((f"Only {name}", speaker) for name, speaker in people)]
        if wanted == [(self.who.itemText(k), self.who.itemData(k)) for k in range(self.who.count())]:
            return
        self.who.blockSignals(True)
        self.who.clear()
        for text, speaker in wanted:
            self.who.addItem(text, speaker)
        self.who.setCurrentIndex(max(0, self.who.findData(now)))
        self.who.blockSignals(False)

    def prepared(self) -> Project:
        """The project as every form is to say it."""
        project = self.session.project
        if self.reading.currentData():
            project = reading(project, self.reading.currentData() == "verbatim")
        if self.who.currentData() is not None:
            project = only_speaker(project, self.who.currentData())
        return masked(project, load_settings().masked_words, self.masks.currentData())

    def _right(self) -> QVBoxLayout:
        box = QVBoxLayout()
        box.setSpacing(8)
        row = QHBoxLayout()
        row.addWidget(label("As it will be written", "section"))
        row.addStretch(1)
        self.shown = QComboBox()
        self.shown.setAccessibleName("Form that is shown")
        for suffix in self.boxes:
            self.shown.addItem(suffix, suffix)
        self.shown.setCurrentIndex(self.shown.findData(".txt"))
        self.shown.currentIndexChanged.connect(self.refresh)
        row.addWidget(self.shown)
        box.addLayout(row)
        self.preview = QPlainTextEdit()
        self.preview.setReadOnly(True)
        self.preview.setObjectName("preview")
        self.preview.setAccessibleName("Preview of the file")
        self.preview.setMinimumHeight(240)
        box.addWidget(self.preview, 1)
        return box

    def reset(self) -> None:
        """Propose a folder: the user's own, or one beside the project or its recording."""
        media, own = self.session.project.media, load_settings().release_folder
        beside = self.session.path or (Path(media.path) if media else Path.home() / "x")
        folder = Path(own) if own else beside.parent
        self.folder.setText(str(folder / f"{_file_name(self.session.project.title)} release"))
        self.report.setText("")
        self.state.setText("")

    def refresh(self) -> None:
        """Show how the file will begin."""
        self._list_speakers()
        suffix = str(self.shown.currentData())
        try:
            text = written(self.prepared(), suffix)
        except DubrelError as error:
            text = str(error)
        cut = text[:_PREVIEW]
        self.preview.setPlainText(cut if len(cut) == len(text) else f"{cut}\n…")

    def show_state(self, changed: bool) -> None:
        """Say whether the project is another since the files were written."""
        self.state.setText("The project has changed since these files were written." if changed else "")

    def show_report(self, text: str) -> None:
        """Say what was written and what was not."""
        self.report.setText(text)

    def _choose(self) -> None:
        found = self.desk.ask.folder("Folder for the deliverables", self.folder.text())
        if found is not None:
            self.folder.setText(str(found))

    def wanted(self) -> list[Deliverable]:
        """The files that are ticked."""
        folder, name = Path(self.folder.text()).expanduser(), _file_name(self.session.project.title)
        chosen = (suffix for suffix, one in self.boxes.items() if one.isChecked())
        return [Deliverable(folder / f"{name}{suffix}", {}) for suffix in chosen]


def _file_name(title: str) -> str:
    """A title without what file systems do not take."""
    return "".join("-" if sign in '/\\:*?"<>|\0' else sign for sign in title).strip(". ")[:100] or "Untitled"
