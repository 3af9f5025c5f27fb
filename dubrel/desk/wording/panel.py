"""In the booth: what is known of the selected word, and the doubts."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QSlider, QVBoxLayout, QWidget

from dubrel.base.timecode import format_clock
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import Facts, button, label
from dubrel.model import Timing, Word
from dubrel.project.queries import DOUBTFUL

_TIMINGS = {
    Timing.ALIGNED: "from the sound",
    Timing.SPREAD: "spread evenly",
    Timing.TYPED: "typed, not aligned yet",
    Timing.UNHEARD: "in the script, not spoken",
}
_FACTS = ["Word", "In, out", "Time", "Doubt"]


class WordPanel(QWidget):
    """Facts of a word, the threshold of doubt, and what can be done.

    Signals
    -------
    wanted(str)
        A command was chosen.
    threshold_chosen(float)
    """

    wanted = Signal(str)
    threshold_chosen = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, Space.TIGHT, 0, 0)
        box.setSpacing(Space.ROOM)
        self.facts = Facts("Selected word", _FACTS)
        box.addWidget(self.facts)
        self.slider_label = label("", "section")
        box.addWidget(self.slider_label)
        row = QHBoxLayout()
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(5, 95)
        self.slider.setValue(round(DOUBTFUL * 100))
        self.slider.setAccessibleName("Doubt threshold")
        self.slider.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.count = label("")
        row.addWidget(self.slider, 1)
        row.addWidget(self.count)
        box.addLayout(row)
        buttons = QHBoxLayout()
        self.next_doubt, self.accept = button("Next doubt", primary=True), button("Accept")
        self.play_word = button("Play again")
        for one, name in (
            (self.next_doubt, "next_look"),
            (self.accept, "accept"),
            (self.play_word, "play_word"),
        ):
            one.clicked.connect(lambda _checked=False, name=name: self.wanted.emit(name))
            buttons.addWidget(one)
        buttons.addStretch(1)
        box.addLayout(buttons)
        box.addStretch(1)
        self.slider.valueChanged.connect(lambda value: self.threshold_chosen.emit(value / 100))

    def show_word(self, word: Word | None) -> None:
        """Show what is known of a word."""
        if word is None:
            for name in _FACTS:
                self.facts.set(name, "–")
            return
        self.facts.set("Word", word.text)
        times = " – ".join(format_clock(ms, hours=ms >= 3_600_000) for ms in (word.start_ms, word.end_ms))
        self.facts.set("In, out", times)
        self.facts.set("Time", _TIMINGS[word.timing])
        self.facts.set("Doubt", f"{word.doubt:.2f}")

    def show_doubts(self, count: int, words: int, threshold: float) -> None:
        """Show how many words are doubtful."""
        self.slider_label.setText(f"Doubts above {threshold:.2f}")
        self.count.setText(f"{count} of {words} words")
