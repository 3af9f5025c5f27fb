"""The speakers in the booth: who they are, how much each speaks, and what can be done with one."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_length
from dubrel.desk.shell.core.session import Session
from dubrel.desk.shell.kit.buttonrow import ButtonRow
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.theme import Space, Theme
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.desk.voices.dialogs.speakerrow import SPEAKER_ID, SpeakerRow
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import Speaker
from dubrel.project.talk import Talk

_ACTIONS = (
    ("rename", tr("Name")),
    ("play_speaker", tr("Play")),
    ("merge", tr("Merge")),
    ("swap", tr("Swap")),
    ("split", tr("Split")),
    ("remove_speaker", tr("Remove")),
)


@guarded
class _List(QListWidget):
    """The rows; Enter and Space play the next sample, 1 to 3 a certain one."""

    play = Signal()
    play_nth = Signal(int)
    leave = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Play with Enter, Space or a number, leave with Escape."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.play.emit()
        elif event.text() in ("1", "2", "3") and not event.modifiers():
            self.play_nth.emit(int(event.text()))
        elif event.key() == Qt.Key.Key_Escape:
            self.clearSelection()
            self.leave.emit()
        else:
            super().keyPressEvent(event)


@guarded
class SpeakerPanel(QWidget):
    """The list of speakers with its buttons.

    Signals
    -------
    wanted(str)
        The name of a command that was chosen.
    sample_wanted(int)
        One of the three samples of the chosen speaker, from 1.
    left()
        The user is done with the list.
    """

    wanted = Signal(str)
    sample_wanted = Signal(int)
    left = Signal()

    def __init__(
        self, session: Session, theme: Theme, menu_on: Callable[[list[str], QPoint], object]
    ) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.talk: dict[str, Talk] = {}
        box = QVBoxLayout(self)
        box.setContentsMargins(0, Space.TIGHT, 0, 0)
        box.setSpacing(Space.NEAR)
        self.heading = label(tr("Speakers"), "section")
        self.hint = label("", "quiet")
        self.hint.setWordWrap(True)
        self.list = _List()
        self.list.setItemDelegate(SpeakerRow(self))
        self.list.setAccessibleName(tr("Speakers"))
        self.list.setObjectName("speakers")
        self.find_button = button(tr("Tell speakers apart"), primary=True)
        box.addWidget(self.heading)
        box.addWidget(self.hint)
        box.addWidget(self.list, 1000)
        self.buttons = {}
        for name, text in _ACTIONS:
            made = self.buttons[name] = button(text)
            made.clicked.connect(lambda _checked=False, name=name: self.wanted.emit(name))
        box.addWidget(ButtonRow(list(self.buttons.values()), 3))
        box.addWidget(self.find_button)
        box.addStretch(1)  # takes the room of the list while there is nobody in it
        self.find_button.clicked.connect(lambda: self.wanted.emit("speakers"))
        self.list.play_nth.connect(self.sample_wanted)
        self.list.play.connect(lambda: self.wanted.emit("play_speaker"))
        self.list.itemDoubleClicked.connect(lambda _item: self.wanted.emit("rename"))
        self.list.leave.connect(self.left)
        self.list.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.list.customContextMenuRequested.connect(
            lambda at: menu_on(["speaker"], self.list.viewport().mapToGlobal(at))
        )
        self.list.itemSelectionChanged.connect(self._show_buttons)
        session.changed.connect(lambda _change: self._refresh_if_seen())
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.theme = theme
        self.list.viewport().update()

    def chosen(self) -> Speaker | None:
        """The speaker that is selected in the list while the keys go there."""
        items = self.list.selectedItems()
        if not items or not self.list.hasFocus():
            return None
        return self.session.project.transcript.speaker(items[0].data(SPEAKER_ID))

    def show_current(self, speaker_id: str | None) -> None:
        """Select the speaker of the turn at the caret, unless the keys go to the list."""
        if self.list.hasFocus() or not self.isVisible():
            return
        for place in range(self.list.count()):
            item = self.list.item(place)
            item.setSelected(item.data(SPEAKER_ID) == speaker_id)
            if item.isSelected():
                self.list.scrollToItem(item)

    def _refresh_if_seen(self) -> None:
        if self.isVisible():
            self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        """What changed meanwhile."""
        self.refresh()
        super().showEvent(event)

    def refresh(self) -> None:
        """Show the speakers as they are."""
        transcript = self.session.project.transcript
        self.talk = self.session.talk()
        ids = [one.id for one in transcript.speakers]
        if [self.list.item(k).data(SPEAKER_ID) for k in range(self.list.count())] != ids:
            items = self.list.selectedItems()
            chosen = items[0].data(SPEAKER_ID) if items else None
            self.list.clear()
            for speaker_id in ids:
                item = QListWidgetItem()
                item.setData(SPEAKER_ID, speaker_id)
                self.list.addItem(item)
                item.setSelected(chosen == speaker_id)
        for place, one in enumerate(transcript.speakers):
            self._describe(self.list.item(place), place, one)
        self.heading.setText(tr("Speakers: {ids}").format(ids=len(ids)) if ids else tr("Speakers"))
        self.list.setVisible(bool(ids))
        for made in self.buttons.values():
            made.setVisible(bool(ids))
        self.find_button.setText(tr("Tell apart again") if ids else tr("Tell speakers apart"))
        self.find_button.setEnabled(bool(transcript.turns))
        self.hint.setText("" if ids else _nobody(bool(transcript.turns)))
        self.hint.setVisible(not ids)
        self._show_buttons()
        self.list.viewport().update()

    def _describe(self, item: QListWidgetItem, place: int, speaker: Speaker) -> None:
        talk = self.talk[speaker.id]
        name = shown_name(self.session.project, speaker.id)
        said = tr("{name}, {role}, {time_ms}, {share:.0%}, {turns} turns").format(
            name=name,
            role=speaker.role or tr("no role"),
            time_ms=format_length(talk.time_ms),
            share=talk.share,
            turns=talk.turns,
        )
        item.setData(Qt.ItemDataRole.AccessibleTextRole, said)
        item.setToolTip(
            tr("{said}\nAlt+{place} assigns a turn; here 1, 2 and 3 play samples").format(
                said=said, place=place + 1
            )
            if place < 9
            else said
        )

    def _show_buttons(self) -> None:
        several = self.list.count() > 1
        for name in ("merge", "swap"):
            self.buttons[name].setEnabled(several)


def _nobody(transcribed: bool) -> str:
    if transcribed:
        return tr("Speakers have not been told apart yet. Do that, or assign turns with Alt+1 to Alt+9.")
    return tr("The recording has not been transcribed yet.")
