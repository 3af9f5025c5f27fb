"""In the booth: the clip that is chosen, its words, why it is proposed, and its edges."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.theme import Space, text_font
from dubrel.desk.shell.kit.widgets import button, label


@guarded
class ClipPanel(QWidget):
    """What is known of a clip.

    Signals
    -------
    wanted(str)
        A command.
    """

    wanted = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, Space.TIGHT, 0, 0)
        box.setSpacing(Space.NEAR)
        self.heading = label("", "section")
        self.heading.setWordWrap(True)
        self.who = label("", "quiet")
        self.who.setWordWrap(True)
        self.text = label("")
        self.text.setWordWrap(True)
        self.text.setFont(text_font(15))
        self.text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.why = label("", "quiet")
        self.why.setWordWrap(True)
        for one in (self.heading, self.who, self.text, self.why):
            box.addWidget(one)
        self.edges = QWidget()
        grid = QGridLayout(self.edges)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(Space.TIGHT)
        for row, (name, edge) in enumerate(((tr("Begins a word"), "begin"), (tr("Ends a word"), "end"))):
            grid.addWidget(label(name), row, 0)
            for column, (step, said) in enumerate((("earlier", tr("earlier")), ("later", tr("later"))), 1):
                made = button(said)
                made.setAccessibleName(f"{name} {said}")
                made.clicked.connect(lambda _=False, one=f"clip_{edge}_{step}": self.wanted.emit(one))
                grid.addWidget(made, row, column)
        box.addWidget(self.edges)
        buttons = QHBoxLayout()
        buttons.setSpacing(Space.CLOSE)
        self.rename, self.join = button(tr("Rename")), button(tr("Join into one"))
        self.tighten = button(tr("Take the pauses out"))
        self.tighten.clicked.connect(lambda: self.wanted.emit("tighten_clip"))
        buttons.addWidget(self.tighten)
        self.rename.clicked.connect(lambda: self.wanted.emit("rename_clip"))
        self.join.clicked.connect(lambda: self.wanted.emit("join_clips"))
        buttons.addWidget(self.rename)
        buttons.addWidget(self.join)
        buttons.addStretch(1)
        box.addLayout(buttons)
        box.addStretch(1)
        self.show_clip("", "", "", (), made=False, several=False)

    def show_clip(
        self, title: str, who: str, text: str, reasons: Sequence[str], *, made: bool, several: bool
    ) -> None:
        """Show a clip; its edges can be moved once it is made."""
        why = "\n".join(reasons)
        for one, said in ((self.heading, title), (self.who, who), (self.text, text), (self.why, why)):
            one.setText(said)
            one.setVisible(bool(said))
        self.edges.setVisible(made and not several)
        self.rename.setVisible(made and not several)
        self.tighten.setVisible(made and not several)
        self.join.setVisible(several)
