"""In the booth: what is proposed by kind, what is out, and the join where one stands."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock, format_length
from dubrel.desk.shell.kit.buttonrow import ButtonRow
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.sentence import Blank, Sentence
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import Facts, button, label
from dubrel.edits.cuts.totals import KINDS

_ROWS = [*KINDS]
_JOIN: list[str | Blank] = [
    tr("The join has"),
    Blank(
        "cross_ms",
        tr("Cross-fade of this join"),
        5,
        0,
        5000,
        1,
        tr(" ms of cross-fade"),
        zero=tr("no cross-fade"),
    ),
    ".",
]
_LEAD: list[str | Blank] = [
    tr("Its sound leads the picture by"),
    Blank(
        "lead_frames", tr("Frames by which the sound leads"), 1, 0, 250, 1, tr(" frames"), zero=tr("nothing")
    ),
    ".",
]


@guarded
class CutPanel(QWidget):
    """Figures and the present join.

    Signals
    -------
    wanted(str)
        A command.
    join_changed(str, object)
        What is set of the present join.
    """

    wanted = Signal(str)
    join_changed = Signal(str, object)

    def __init__(self) -> None:
        super().__init__()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, Space.TIGHT, 0, 0)
        box.setSpacing(Space.NEAR)
        self.clock = label("", "quiet")
        box.addWidget(self.clock)
        self.gone = Facts(tr("What is out"), [tr(kind) for kind in _ROWS])
        box.addWidget(self.gone)
        self.next, self.back = button(tr("Next join")), button(tr("Put back"))
        self.next.clicked.connect(lambda: self.wanted.emit("next_look"))
        self.back.clicked.connect(lambda: self.wanted.emit("put_back"))
        box.addWidget(ButtonRow([self.next, self.back]))
        self.heading = label("", "section")
        self.text = label("")
        self.text.setWordWrap(True)
        self.join = Sentence(_JOIN, small=True)
        self.join.changed.connect(self.join_changed)
        box.addWidget(self.heading)
        box.addWidget(self.text)
        self.lead = Sentence(_LEAD, small=True)
        self.lead.changed.connect(self.join_changed)
        box.addWidget(self.join)
        box.addWidget(self.lead)
        box.addStretch(1)
        self.show_here("", "", None)

    def show_clock(self, cut_ms: int | None) -> None:
        """The time in the cut."""
        self.clock.setText(
            "" if cut_ms is None else tr("in the cut {cut_ms}").format(cut_ms=format_clock(cut_ms, digits=2))
        )
        self.clock.setVisible(cut_ms is not None)

    def show_kinds(self, done: dict[str, tuple[int, int]], offered: dict[str, tuple[int, int]]) -> None:
        """How many places of each kind are out, or proposed, and how long they are."""
        for kind in _ROWS:
            count, ms = done.get(kind, (0, 0))
            more, offered_ms = offered.get(kind, (0, 0))
            parts = [f"{count}   {format_length(ms)}"] if count else []
            parts += (
                [tr("{more} proposed").format(more=more) + f"   {format_length(offered_ms)}"] if more else []
            )
            self.gone.set(tr(kind), ", ".join(parts) or "–")

    def show_here(self, heading: str, text: str, join: object | None, picture: bool = False) -> None:
        """What stands where one is; sound can lead where there is a picture."""
        self.heading.setText(heading)
        self.text.setText(text)
        self.heading.setVisible(bool(heading))
        self.text.setVisible(bool(text))
        self.join.setVisible(join is not None)
        self.lead.setVisible(join is not None and picture)
        if join is not None:
            self.join.show_values(join)
            self.lead.show_values(join)
