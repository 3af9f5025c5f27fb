"""Shift or stretch the captions by the user's own numbers, shown before it is applied."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtWidgets import QComboBox, QDialog, QGridLayout, QLineEdit, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, closing_row, label, titled_box
from dubrel.edits.captions.times import Move
from dubrel.model import CaptionTrack

_FACTORS = ("1", "25/24", "24/25", "1001/1000", "1000/1001", "25025/24000", "24000/25025")


class MoveDialog(QDialog):
    """Numbers for a move, and what the first and the last caption become by it.

    Parameters
    ----------
    track : CaptionTrack
    playhead_ms : int
        For a move from there on.
    """

    def __init__(self, track: CaptionTrack, playhead_ms: int, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Shift or stretch the captions"))
        self.resize(560, 320)
        self.track = track
        box = titled_box(self, tr("Shift or stretch the captions"), Space.ROOM)
        form = QGridLayout()
        form.setVerticalSpacing(Space.NEAR)
        form.setColumnStretch(1, 1)
        self.shift, self.factor, self.start = QLineEdit("0.000"), QComboBox(), QComboBox()
        self.factor.setEditable(True)
        self.factor.addItems(_FACTORS)
        self.start.addItem(tr("all captions"), 0)
        self.start.addItem(
            tr("those from the playhead on, {playhead_ms}").format(playhead_ms=format_clock(playhead_ms)),
            playhead_ms,
        )
        rows = (
            (tr("Shift by (seconds; + is later)"), self.shift),
            (tr("Stretch times by"), self.factor),
            (tr("Which"), self.start),
        )
        for row, (text, widget) in enumerate(rows):
            form.addWidget(label(text, "quiet"), row, 0)
            form.addWidget(widget, row, 1)
            widget.setAccessibleName(text)
        box.addLayout(form)
        self.first, self.last, self.problem = label(), label(), label("", "look")
        for one in (self.first, self.last, self.problem):
            box.addWidget(one)
        box.addStretch(1)
        self.leave, self.go = button(tr("Cancel")), button(tr("Apply"), primary=True)
        box.addLayout(closing_row(self, leave=self.leave, go=self.go))
        self.shift.textChanged.connect(self._show)
        self.factor.currentTextChanged.connect(self._show)
        self.start.currentIndexChanged.connect(self._show)
        self._show()
        self.shift.selectAll()

    def move_wanted(self) -> Move | None:
        """The move, or ``None`` where what was typed is not a number."""
        try:
            shift = round(Fraction(self.shift.text().replace(",", ".").strip() or "0") * 1000)
            factor = Fraction(self.factor.currentText().strip() or "1")
        except (ValueError, ZeroDivisionError):
            return None
        if not Fraction(1, 10) <= factor <= 10:
            return None
        return Move(shift, factor, int(self.start.currentData()))

    def _show(self) -> None:
        move = self.move_wanted()
        self.go.setEnabled(move is not None and move != Move(from_ms=move.from_ms))
        self.problem.setText(
            "" if move else tr("Write seconds such as 1.25 or -0.4, and a factor such as 25/24 or 1.001.")
        )
        captions = [one for one in self.track.captions if move is None or one.start_ms >= move.from_ms]
        for shown, name, caption in (
            (self.first, tr("First"), captions[:1]),
            (self.last, tr("Last"), captions[-1:]),
        ):
            if move is None or not caption:
                shown.setText("" if caption else tr("No caption begins after the playhead."))
                continue
            one = caption[0]
            before, after = format_clock(one.start_ms), format_clock(max(0, move.time(one.start_ms)))
            shown.setText(
                tr("{name} caption: {before} becomes {after}").format(name=name, before=before, after=after)
            )
