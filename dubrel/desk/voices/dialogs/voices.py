"""Dialogs of Voices: what a machine proposes, two voices of one speaker, a speaker's name and role."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QCompleter,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QRadioButton,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_clock, format_length
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space, wear
from dubrel.desk.shell.kit.widgets import button, closing_row, label, plain_table
from dubrel.edits.speakers.proposals import Proposal
from dubrel.edits.speakers.voices import shown_name
from dubrel.jobs.diarising import MOST
from dubrel.model import Project, Speaker
from dubrel.project.talk import talk_of, voice_samples

ROLES = (tr("Host"), tr("Guest"), tr("Narrator"), tr("Interviewer"), tr("Caller"), tr("Audience"))
_CHECKED, _UNCHECKED = Qt.CheckState.Checked, Qt.CheckState.Unchecked


@guarded
class _Rows(QTableWidget):
    """Rows with a tick; Space ticks, Enter plays, Ctrl+Enter is done."""

    def __init__(self, play: Callable[[int], None], done: Callable[[], None]) -> None:
        super().__init__()
        self._play, self._done = play, done

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter plays the row, Space ticks it or takes the tick away."""
        row = self.currentRow()
        tick = self.item(row, 0)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            held = event.modifiers() & Qt.KeyboardModifier.ControlModifier
            self._done() if held else self._play(row)
        elif event.key() == Qt.Key.Key_Space and tick is not None:
            tick.setCheckState(_UNCHECKED if tick.checkState() == _CHECKED else _CHECKED)
        else:
            super().keyPressEvent(event)


class ProposalDialog(QDialog):
    """Words that would be assigned to another speaker; each passage can be played, accepted or skipped."""

    def __init__(
        self,
        present: Project,
        proposed: Project,
        changes: Sequence[Proposal],
        play: Callable[[Proposal], None],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Voices were told apart"))
        self.resize(860, 520)
        self._changes = changes
        box = QVBoxLayout(self)
        box.setContentsMargins(Space.EDGE, Space.EDGE, Space.EDGE, Space.EDGE)
        box.setSpacing(Space.APART)
        box.addWidget(label(_headline(len(changes)), "title"))
        box.addWidget(
            label(
                tr(
                    "Turns that you have assigned yourself stay as they are. Enter plays a passage, "
                    "Space ticks"
                    " it, Ctrl+Enter accepts all that are ticked."
                ),
                "quiet",
            )
        )
        self.go = button("", primary=True)
        self.table = _Rows(lambda row: play(changes[row]), self.go.click)
        self.table.setColumnCount(4)
        plain_table(self.table, tr("Proposed changes"), [tr("Time"), tr("Words"), tr("Now"), tr("Proposed")])
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        header = self.table.horizontalHeader()
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        for column, width in ((0, 116), (2, 132), (3, 132)):
            fixed(self.table.setColumnWidth, width, of=column)
        self.table.setRowCount(len(changes))
        for row, one in enumerate(changes):
            texts = (
                format_clock(one.start_ms, digits=1),
                one.text,
                shown_name(present, one.now) or "unassigned",
                shown_name(proposed, one.then) or "unassigned",
            )
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                item.setToolTip(text)
                if column == 0:
                    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                    item.setCheckState(_CHECKED)
                self.table.setItem(row, column, item)
        self.table.setCurrentCell(0, 0)
        self.table.itemChanged.connect(lambda _item: self._show_count())
        box.addWidget(self.table, 1)
        self.play, self.none = button(tr("Play")), button(tr("Skip all"))
        self.play.clicked.connect(lambda: play(changes[max(0, self.table.currentRow())]))
        self.none.clicked.connect(self._leave_all)
        box.addLayout(closing_row(self, self.play, self.none, leave=button(tr("Cancel")), go=self.go))
        self.go.setDefault(False)  # Enter in the table plays
        self.go.setAutoDefault(False)
        self._show_count()
        self.table.setFocus()

    def _leave_all(self) -> None:
        """Untick every row, or tick all where none is."""
        state = _UNCHECKED if self.chosen() else _CHECKED
        for row in range(self.table.rowCount()):
            if (item := self.table.item(row, 0)) is not None:
                item.setCheckState(state)

    def _show_count(self) -> None:
        count = len(self.chosen())
        self.go.setText(
            tr("Accept all {count}").format(count=count)
            if count == len(self._changes)
            else tr("Accept {count}").format(count=count)
        )
        self.go.setEnabled(count > 0)
        self.none.setText(tr("Skip all") if count else tr("Accept all"))

    def chosen(self) -> list[Proposal]:
        """The proposals that are ticked."""
        found = []
        for row, one in enumerate(self._changes):
            item = self.table.item(row, 0)
            if item is not None and item.checkState() == _CHECKED:
                found.append(one)
        return found


def _headline(count: int) -> str:
    return (
        tr("1 passage would be reassigned")
        if count == 1
        else tr("{count} passages would be reassigned").format(count=count)
    )


class CountDialog(QDialog):
    """How many people speak: however many, exactly so many, or between two numbers."""

    def __init__(self, confirmed: int, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Tell speakers apart"))
        fixed(self.setMinimumWidth, 420)
        box = QVBoxLayout(self)
        box.setContentsMargins(Space.EDGE, Space.EDGE, Space.EDGE, Space.EDGE)
        box.setSpacing(Space.ROOM)
        box.addWidget(label(tr("How many people speak?"), "title"))
        self.auto = QRadioButton(tr("However many there are"))
        self.exact = QRadioButton(tr("Exactly"))
        self.between = QRadioButton(tr("Between"))
        self.count, self.least, self.most = (_number(value) for value in (2, 2, 4))
        for radio, *rest in (
            (self.auto,),
            (self.exact, self.count),
            (self.between, self.least, label(tr("and")), self.most),
        ):
            row = QHBoxLayout()
            row.setSpacing(Space.APART)
            row.addWidget(radio)
            for one in rest:
                row.addWidget(one)
                if isinstance(one, QSpinBox):
                    one.valueChanged.connect(radio.click)
            row.addStretch(1)
            box.addLayout(row)
        self.auto.setChecked(True)
        self.count.setAccessibleName(tr("Number of speakers"))
        self.least.setAccessibleName(tr("At least"))
        self.most.setAccessibleName(tr("At most"))
        self.least.valueChanged.connect(lambda value: self.most.setMinimum(value))
        hint = label(_taught_words(confirmed), "quiet")
        hint.setWordWrap(True)
        box.addWidget(hint)
        box.addStretch(1)
        box.addLayout(
            closing_row(self, leave=button(tr("Cancel")), go=button(tr("Tell apart"), primary=True))
        )
        self.auto.setFocus()

    def wanted(self) -> str:
        """``auto``, a number, or two with a hyphen."""
        if self.exact.isChecked():
            return str(self.count.value())
        if self.between.isChecked():
            return f"{self.least.value()}-{self.most.value()}"
        return "auto"


def _number(value: int) -> QSpinBox:
    made = QSpinBox()
    made.setRange(1, MOST)
    made.setValue(value)
    fixed(made.setFixedWidth, 64)
    return made


def _taught_words(confirmed: int) -> str:
    if not confirmed:
        return tr(
            "Voices are told apart by their sound, on this machine. Turns that you assign yourself help."
        )
    turns = tr("The turn") if confirmed == 1 else tr("The {confirmed} turns").format(confirmed=confirmed)
    return tr(
        "{turns} that you have assigned yourself will help to tell the voices apart and will not be changed."
    ).format(turns=turns)


class SplitDialog(QDialog):
    """Two groups of one speaker's turns, to be played before they are split."""

    def __init__(
        self, project: Project, both: tuple[str, str], play: Callable[[int, int], None], parent: QWidget
    ) -> None:
        super().__init__(parent)
        name = shown_name(project, both[0])
        self.setWindowTitle(tr("Split {name}").format(name=name))
        fixed(self.setMinimumWidth, 520)
        box = QVBoxLayout(self)
        box.setContentsMargins(Space.EDGE, Space.EDGE, Space.EDGE, Space.EDGE)
        box.setSpacing(Space.ROOM)
        box.addWidget(label(tr("Two voices in what {name} says").format(name=name), "title"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(Space.WIDE)
        grid.setVerticalSpacing(Space.NEAR)
        talk = talk_of(project)
        self.samples = []
        for row, (who, text) in enumerate(
            zip(both, (tr("Stays {name}").format(name=name), tr("Becomes a new speaker")))
        ):
            one = talk[who]
            grid.addWidget(label(text, "heading"), row, 0)
            turns = counted(one.turns, "turn")
            grid.addWidget(label(f"{format_length(one.time_ms)}, {turns}", "quiet"), row, 1)
            for nth, (start, end) in enumerate(voice_samples(project, who)):
                sample = button(tr("Play {nth}").format(nth=nth + 1))
                sample.setAccessibleName(tr("{text}: play sample {nth}").format(text=text, nth=nth + 1))
                sample.clicked.connect(lambda _checked=False, start=start, end=end: play(start, end))
                self.samples.append(sample)
                grid.addWidget(sample, row, 2 + nth)
        grid.setColumnStretch(1, 1)
        box.addLayout(grid)
        box.addStretch(1)
        box.addLayout(closing_row(self, leave=button(tr("Cancel")), go=button(tr("Split"), primary=True)))


class SpeakerDialog(QDialog):
    """A speaker's name and role."""

    def __init__(self, speaker: Speaker, names: Sequence[str], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Speaker"))
        fixed(self.setMinimumWidth, 380)
        box = QVBoxLayout(self)
        box.setContentsMargins(Space.EDGE, Space.EDGE, Space.EDGE, Space.EDGE)
        box.setSpacing(Space.ROOM)
        form = QGridLayout()
        form.setVerticalSpacing(Space.APART)
        self.name, self.role = QLineEdit(speaker.name), QComboBox()
        self.name.setAccessibleName(tr("Name"))
        completer = QCompleter(list(names), self)
        if (offered := completer.popup()) is not None:  # a window of its own
            wear(offered)
        self.name.setCompleter(completer)
        self.name.selectAll()
        self.role.setAccessibleName(tr("Role"))
        self.role.setEditable(True)
        self.role.addItems(["", *ROLES])
        self.role.setCurrentText(speaker.role)
        for row, (text, widget) in enumerate(((tr("Name"), self.name), (tr("Role"), self.role))):
            form.addWidget(label(text, "quiet"), row, 0)
            form.addWidget(widget, row, 1)
        form.setColumnStretch(1, 1)
        box.addLayout(form)
        if names:
            hint = label(tr("Used before: {listed}").format(listed=", ".join(names[:6])), "quiet")
            hint.setWordWrap(True)
            box.addWidget(hint)
        self.go = button(tr("Name"), primary=True)
        box.addLayout(closing_row(self, leave=button(tr("Cancel")), go=self.go))
        self.name.textChanged.connect(lambda text: self.go.setEnabled(bool(text.strip())))
        self.go.setEnabled(bool(speaker.name))
        self.name.setFocus()

    def facts(self) -> tuple[str, str]:
        """Name and role as typed."""
        return " ".join(self.name.text().split()), " ".join(self.role.currentText().split())
