"""Release: choose what to write and where; see what was written."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from dubrel.desk.session import Session
from dubrel.desk.widgets import button, label
from dubrel.errors import DubrelError
from dubrel.formats.register import write_checked

_FORMS = {
    ".srt": "SubRip captions (.srt)",
    ".vtt": "WebVTT captions with speakers (.vtt)",
    ".txt": "Plain text (.txt)",
    ".json": "Transcript with every word's times (.json)",
    ".ctm": "Word times for scoring (.ctm)",
    ".rttm": "Who speaks when (.rttm)",
}
_CHOSEN = {".srt", ".vtt", ".txt"}


class ReleasePage(QWidget):
    """A page of paper about deliverables.

    Signals
    -------
    written(int)
        So many files were written and compared.
    """

    written = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("Sheet: release")
        box = QVBoxLayout(self)
        box.setContentsMargins(44, 40, 44, 40)
        box.setSpacing(12)
        box.addWidget(label("Write the deliverables", "title"))
        hint = label(
            "Each file is read back and compared with the project before it is called done.", "quiet"
        )
        hint.setWordWrap(True)
        box.addWidget(hint)
        self.boxes: dict[str, QCheckBox] = {}
        for suffix, text in _FORMS.items():
            self.boxes[suffix] = QCheckBox(text)
            self.boxes[suffix].setChecked(suffix in _CHOSEN)
            box.addWidget(self.boxes[suffix])
        box.addSpacing(6)
        box.addWidget(label("Folder", "section"))
        row = QHBoxLayout()
        self.folder = QLineEdit()
        self.folder.setAccessibleName("Folder")
        self.folder.setMaximumWidth(420)
        choose = button("Choose")
        choose.clicked.connect(self._choose)
        row.addWidget(self.folder, 1)
        row.addWidget(choose)
        row.addStretch(1)
        box.addLayout(row)
        self.write = button("Write", primary=True)
        self.write.clicked.connect(self.write_now)
        line = QHBoxLayout()
        line.addWidget(self.write)
        line.addStretch(1)
        box.addLayout(line)
        self.report = label("", "")
        self.report.setWordWrap(True)
        self.report.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        box.addWidget(self.report)
        box.addStretch(1)
        session.opened.connect(self.reset)
        self.reset()

    def reset(self) -> None:
        """Propose a folder beside the project or its recording."""
        media = self.session.project.media
        beside = self.session.path or (Path(media.path) if media else Path.home() / "x")
        self.folder.setText(str(beside.parent / f"{_file_name(self.session.project.title)} release"))
        self.report.setText("")

    def _choose(self) -> None:
        found = QFileDialog.getExistingDirectory(self, "Folder for the deliverables", self.folder.text())
        if found:
            self.folder.setText(found)

    def write_now(self) -> None:
        """Write what is ticked; say what was written and what was not."""
        folder, done, failed = Path(self.folder.text()).expanduser(), [], []
        name = _file_name(self.session.project.title)
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            self.report.setText(f"“{folder}” cannot be made: {error.strerror}. Choose another folder.")
            return
        for suffix in (suffix for suffix, one in self.boxes.items() if one.isChecked()):
            path = folder / f"{name}{suffix}"
            try:
                write_checked(self.session.project, path)
                done.append(f"{path.name}  written, read back, the same")
            except DubrelError as error:
                failed.append(str(error))
        self.report.setText("\n".join([*dict.fromkeys(failed), *done]) or "Nothing is ticked.")
        if done:
            self.written.emit(len(done))


def _file_name(title: str) -> str:
    """A title without what file systems do not take."""
    return "".join("-" if sign in '/\\:*?"<>|\0' else sign for sign in title).strip(". ")[:100] or "Untitled"
