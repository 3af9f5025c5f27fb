"""The booth at the right: picture, play controls, and what is selected."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QSlider,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dubrel.desk.findings import DOUBTFUL, Findings
from dubrel.desk.icons import icon
from dubrel.desk.picture import Picture
from dubrel.desk.player import SPEEDS, Player
from dubrel.desk.session import Session
from dubrel.desk.theme import Theme
from dubrel.desk.widgets import Facts, button, label
from dubrel.model import Speaker, Timing, Word
from dubrel.timecode import format_clock

if TYPE_CHECKING:
    from dubrel.desk.speakerpanel import SpeakerPanel

_RULES = {
    "speed": "Over speed",
    "line length": "Line too long",
    "lines": "Too many lines",
    "short": "Too short",
    "long": "Too long",
    "gap": "Gap too small",
    "overlap": "Overlaps",
}
_ALWAYS = ("speed", "line length", "short")
_TIMINGS = {
    Timing.ALIGNED: "from the sound",
    Timing.SPREAD: "spread, not lined up",
    Timing.TYPED: "shared, typed",
    Timing.UNHEARD: "in the script, not heard",
}


class Booth(QWidget):
    """Picture, controls and details.

    Signals
    -------
    speaker_command(str), speaker_sample(int), speakers_left()
        Of the list of speakers; see :class:`dubrel.desk.speakerpanel.SpeakerPanel`.
    """

    speaker_command = Signal(str)
    speaker_sample = Signal(int)
    speakers_left = Signal()

    def __init__(self, session: Session, player: Player, findings: Findings, theme: Theme) -> None:
        super().__init__()
        self.session, self.player, self.findings, self.theme = session, player, findings, theme
        self.setFixedWidth(296)
        self.setAccessibleName("Booth")
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(10)
        self.picture = Picture(session, theme)
        box.addWidget(self.picture)
        self._speakers: SpeakerPanel | None = None
        box.addLayout(self._controls())
        self.details = QStackedWidget()
        self.details.addWidget(self._word_details())
        self.details.addWidget(self._caption_details())
        self.details.addWidget(QWidget())
        box.addWidget(self.details, 1)
        player.moved.connect(self._on_moved)
        player.state_changed.connect(self._on_state)
        findings.counted.connect(self.show_counts)
        session.sound_ready.connect(self.picture.update)

    def resizeEvent(self, event) -> None:
        """Give the picture its share."""
        self.picture.fit(self.height())
        super().resizeEvent(event)

    def _tool(self, name: str, text: str) -> QToolButton:
        made = QToolButton()
        made.setIconSize(QSize(16, 16))
        made.setAccessibleName(text)
        made.setToolTip(text)
        made.setProperty("icon_name", name)
        made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return made

    def _controls(self) -> QVBoxLayout:
        both = QVBoxLayout()
        row = QHBoxLayout()
        row.setSpacing(6)
        self.back = self._tool("back", "Back 5 seconds")
        self.play = self._tool("play", "Play")
        self.forward = self._tool("forward", "Forward 5 seconds")
        self.clock = label("00:00:00.00", "clock")
        row.addWidget(self.back)
        row.addWidget(self.play)
        row.addWidget(self.forward)
        row.addStretch(1)
        row.addWidget(self.clock)
        both.addLayout(row)
        second = QHBoxLayout()
        self.speed = QComboBox()
        self.speed.setAccessibleName("Speed")
        for speed in SPEEDS:
            self.speed.addItem(f"{speed:g} ×", speed)
        self.speed.setCurrentIndex(SPEEDS.index(1.0))
        self.speed.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.loop = QToolButton()
        self.loop.setText("Loop turn")
        self.loop.setCheckable(True)
        self.loop.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        second.addWidget(self.speed)
        second.addWidget(self.loop)
        second.addStretch(1)
        both.addLayout(second)
        self.set_theme(self.theme)
        self.back.clicked.connect(lambda: self.player.step(-5000))
        self.forward.clicked.connect(lambda: self.player.step(5000))
        self.play.clicked.connect(self.player.toggle)
        self.speed.currentIndexChanged.connect(lambda: self.player.set_speed(self.speed.currentData()))
        return both

    def _word_details(self) -> QWidget:
        page = QWidget()
        box = QVBoxLayout(page)
        box.setContentsMargins(0, 4, 0, 0)
        box.setSpacing(12)
        self.word_facts = Facts("Selected word", ["Word", "In, out", "Time", "Doubt"])
        box.addWidget(self.word_facts)
        self.slider_label = label(f"Doubts above {DOUBTFUL:.2f}", "section")
        box.addWidget(self.slider_label)
        row = QHBoxLayout()
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(5, 95)
        self.slider.setValue(round(DOUBTFUL * 100))
        self.slider.setAccessibleName("Doubt threshold")
        self.slider.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.slider_count = label("0 of 0 words")
        row.addWidget(self.slider, 1)
        row.addWidget(self.slider_count)
        box.addLayout(row)
        buttons = QHBoxLayout()
        self.next_doubt = button("Next doubt", primary=True)
        self.accept = button("Accept")
        self.hear_again = button("Hear again")
        for one in (self.next_doubt, self.accept, self.hear_again):
            buttons.addWidget(one)
        buttons.addStretch(1)
        box.addLayout(buttons)
        box.addStretch(1)
        return page

    def _caption_details(self) -> QWidget:
        page = QWidget()
        box = QVBoxLayout(page)
        box.setContentsMargins(0, 4, 0, 0)
        box.setSpacing(14)
        self.style_facts = Facts("House style", ["Name", "Lines", "Speed", "Time", "Speakers"])
        self.rule_facts = Facts("Still to look at", list(_RULES.values()))
        box.addWidget(self.style_facts)
        box.addWidget(self.rule_facts)
        buttons = QHBoxLayout()
        self.next_finding = button("Next to mend", primary=True)
        self.set_again = button("Set again")
        buttons.addWidget(self.next_finding)
        self.choose_style = button("Style")
        buttons.addWidget(self.set_again)
        buttons.addWidget(self.choose_style)
        buttons.addStretch(1)
        box.addLayout(buttons)
        box.addStretch(1)
        return page

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.theme = theme
        self.picture.theme = theme
        if self._speakers is not None:
            self._speakers.set_theme(theme)
        for tool in (self.back, self.forward):
            tool.setIcon(icon(tool.property("icon_name"), theme.colour("ink")))
        self._on_state(self.player.playing)
        self.picture.update()

    @property
    def speakers(self) -> SpeakerPanel:
        """The list of speakers, made when it is first wanted."""
        if self._speakers is None:
            from dubrel.desk.speakerpanel import SpeakerPanel  # late: the window opens without it

            made = self._speakers = SpeakerPanel(self.session, self.theme)
            made.wanted.connect(self.speaker_command)
            made.sample_wanted.connect(self.speaker_sample)
            made.left.connect(self.speakers_left)
            self.details.addWidget(made)
        return self._speakers

    def show_details(self, name: str) -> None:
        """Show the details of a ``word``, the ``captions``, the ``speakers``, or none."""
        pages = {"word": 0, "captions": 1}
        if name == "speakers":
            self.details.setCurrentWidget(self.speakers)
        else:
            self.details.setCurrentIndex(pages.get(name, 2))

    def chosen_speaker(self) -> Speaker | None:
        """The speaker chosen in the list while the keys go there."""
        return self._speakers.chosen() if self._speakers is not None else None

    def show_speaker(self, speaker_id: str | None) -> None:
        """Show the speaker of the turn at the caret in the list, if it is seen."""
        if self._speakers is not None:
            self._speakers.show_current(speaker_id)

    def show_word(self, word: Word | None) -> None:
        """Show what is known of a word."""
        if word is None:
            for name in ("Word", "In, out", "Time", "Doubt"):
                self.word_facts.set(name, "–")
            return
        self.word_facts.set("Word", word.text)
        times = " – ".join(format_clock(ms, hours=ms >= 3_600_000) for ms in (word.start_ms, word.end_ms))
        self.word_facts.set("In, out", times)
        self.word_facts.set("Time", _TIMINGS[word.timing])
        self.word_facts.set("Doubt", f"{word.doubt:.2f}")

    def show_counts(self) -> None:
        """Show how much is left to look at."""
        project, style = self.session.project, self.findings.style
        count = self.findings.doubt_count
        self.slider_label.setText(f"Doubts above {self.findings.threshold:.2f}")
        self.slider_count.setText(f"{count} of {project.transcript.word_count} words")
        media = project.media
        gap = style.gap_ms(media.frame_rate if media else None)
        self.style_facts.set("Name", style.name)
        self.style_facts.set("Lines", f"{style.max_lines} of {style.max_cpl} characters")
        self.style_facts.set("Speed", f"{style.max_cps:g} CPS")
        length = f"{style.min_ms / 1000:g} to {style.max_ms / 1000:g} s, gap {gap} ms"
        self.style_facts.set("Time", length)
        names = {"never": "no names", "change": "name at each change", "always": "name always"}[style.names]
        self.style_facts.set("Speakers", f"{names}, dashes" if style.dashes else names)
        for rule, name in _RULES.items():
            count = self.findings.rules[rule]
            self.rule_facts.set(name, str(count))
            self.rule_facts.set_visible(name, count > 0 or rule in _ALWAYS)

    def _on_moved(self, ms: int) -> None:
        self.clock.setText(format_clock(ms, digits=2))
        self.picture.set_position(ms)

    def _on_state(self, playing: bool) -> None:
        name = "pause" if playing else "play"
        self.play.setIcon(icon(name, self.theme.colour("live")))
        self.play.setAccessibleName(name.capitalize())
        self.play.setToolTip(name.capitalize())
