"""Choose one of the speakers: type a number or some letters, press Enter."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.session import Session
from dubrel.desk.shell.kit.listfield import ListField
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space, Theme
from dubrel.desk.shell.kit.widgets import button, closing_row, label
from dubrel.desk.voices.dialogs.speakerrow import SPEAKER_ID, SpeakerRow
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import Speaker


class PersonDialog(QDialog):
    """The speakers that may be chosen, as they look in the booth."""

    def __init__(
        self, question: str, choices: Sequence[Speaker], session: Session, theme: Theme, parent: QWidget
    ) -> None:
        super().__init__(parent)
        self.session, self.theme, self.talk = session, theme, session.talk()
        self._choices = choices
        self._numbers = {one.id: place for place, one in enumerate(session.project.transcript.speakers, 1)}
        self.setWindowTitle(tr("Speaker"))
        fixed(self.setMinimumSize, 400, min(480, 210 + 46 * len(choices)))
        box = QVBoxLayout(self)
        box.setContentsMargins(Space.EDGE, Space.EDGE, Space.EDGE, Space.EDGE)
        box.setSpacing(Space.APART)
        heading = label(question, "title")
        heading.setWordWrap(True)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Speakers"))
        self.list.setItemDelegate(SpeakerRow(self))
        self.list.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.field = ListField(self.list, tr("Number or name"))
        self.go = button(tr("Choose"), primary=True)
        box.addWidget(heading)
        box.addWidget(self.field)
        box.addWidget(self.list, 1)
        box.addLayout(closing_row(self, leave=button(tr("Cancel")), go=self.go))
        self.field.textChanged.connect(self._fill)
        self.field.taken.connect(self.accept)
        self.list.itemDoubleClicked.connect(lambda _item: self.accept())
        self._fill("")
        self.field.setFocus()

    def _fill(self, text: str) -> None:
        """Show who fits: a number is the speaker's own, letters are of name or role."""
        self.list.clear()
        wanted = text.casefold().split()
        for one in self._choices:
            number = self._numbers[one.id]
            name = shown_name(self.session.project, one.id)
            said = f"{name} {one.role}".casefold()
            if text.strip() == str(number) or all(part in said for part in wanted):
                item = QListWidgetItem()
                item.setData(SPEAKER_ID, one.id)
                item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{number}, {name}")
                self.list.addItem(item)
                if text.strip() == str(number):
                    self.list.setCurrentItem(item)
        if self.list.currentRow() < 0:
            self.list.setCurrentRow(0)
        self.go.setEnabled(self.list.count() > 0)

    def chosen(self) -> Speaker | None:
        """The speaker in the chosen row."""
        item = self.list.currentItem()
        wanted = item.data(SPEAKER_ID) if item is not None else None
        return next((one for one in self._choices if one.id == wanted), None)
