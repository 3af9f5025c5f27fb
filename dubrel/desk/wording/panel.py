"""In the booth: what is known of the selected word, and the doubts."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QSlider, QVBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.kit.buttonrow import ButtonRow
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import Facts, button, label
from dubrel.model import Timing, Word
from dubrel.project.queries import DOUBTFUL

_TIMINGS = {
    Timing.ALIGNED: tr("from the sound"),
    Timing.SPREAD: tr("spread evenly"),
    Timing.TYPED: tr("typed, not aligned yet"),
    Timing.UNHEARD: tr("in the script, not spoken"),
}
_FACTS = [tr("Word"), tr("In, out"), tr("Time"), tr("Doubt")]


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
        self.facts = Facts(tr("Selected word"), _FACTS)
        box.addWidget(self.facts)
        self.slider_label = label("", "section")
        box.addWidget(self.slider_label)
        row = QHBoxLayout()
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(5, 95)
        self.slider.setValue(round(DOUBTFUL * 100))
        self.slider.setAccessibleName(tr("Doubt threshold"))
        self.slider.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.count = label("")
        row.addWidget(self.slider, 1)
        row.addWidget(self.count)
        box.addLayout(row)
        self.next_doubt, self.accept = button(tr("Next doubt"), primary=True), button(tr("Accept"))
        self.play_word = button(tr("Play again"))
        for one, name in (
            (self.next_doubt, "next_look"),
            (self.accept, "accept"),
            (self.play_word, "play_word"),
        ):
            one.clicked.connect(lambda _checked=False, name=name: self.wanted.emit(name))
        box.addWidget(ButtonRow([self.next_doubt, self.accept, self.play_word]))
        box.addStretch(1)
        self.slider.valueChanged.connect(lambda value: self.threshold_chosen.emit(value / 100))

    def show_word(self, word: Word | None) -> None:
        """Show what is known of a word."""
        if word is None:
            for name in _FACTS:
                self.facts.set(name, "–")
            return
        self.facts.set(tr("Word"), word.text)
        times = " – ".join(format_clock(ms, hours=ms >= 3_600_000) for ms in (word.start_ms, word.end_ms))
        self.facts.set(tr("In, out"), times)
        self.facts.set(tr("Time"), _TIMINGS[word.timing])
        self.facts.set(tr("Doubt"), f"{word.doubt:.2f}")

    def show_doubts(self, count: int, words: int, threshold: float) -> None:
        """Show how many words are doubtful."""
        self.slider_label.setText(tr("Doubts above {threshold:.2f}").format(threshold=threshold))
        self.count.setText(tr("{count} of {words} words").format(count=count, words=words))
