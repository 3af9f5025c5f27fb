"""Intake: the recording, what it is, and turning it into words."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QVBoxLayout, QWidget

from dubrel.desk.session import Session
from dubrel.desk.theme import Theme
from dubrel.desk.widgets import Facts, button, label
from dubrel.jobs.events import Progress
from dubrel.timecode import format_length


def time_left(progress: Progress) -> str:
    """Stage, fraction and time left in words."""
    text = f"{progress.stage}, {progress.fraction:.0%}"
    if progress.left_s is None:
        return text
    left = format_length(round(progress.left_s) * 1000)
    return f"{text}, about {left} left"


class IntakePage(QWidget):
    """A page of paper about the recording.

    Signals
    -------
    transcribe_wanted(), script_wanted(), cancel_wanted(), open_wanted(), find_wanted()
    """

    transcribe_wanted = Signal()
    script_wanted = Signal()
    cancel_wanted = Signal()
    open_wanted = Signal()
    find_wanted = Signal()

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("Sheet: intake")
        box = QVBoxLayout(self)
        box.setContentsMargins(44, 40, 44, 40)
        box.setSpacing(14)
        self.title = label("", "title")
        self.hint = label("", "quiet")
        self.hint.setWordWrap(True)
        self.facts = Facts("Recording", ["File", "Length", "Sound", "Picture", "Words"])
        self.facts.setMaximumWidth(520)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setMaximumWidth(520)
        self.state = label("", "quiet")
        self.problem = label("", "look")
        self.problem.setWordWrap(True)
        self.transcribe = button("Transcribe", primary=True)
        self.script = button("Line up a script")
        self.cancel = button("Cancel")
        self.open = button("Open a recording or a project")
        self.find_button = button("Find the recording")
        for widget in (self.title, self.hint, self.facts, self.bar, self.state, self.problem):
            box.addWidget(widget)
        row = QHBoxLayout()
        for one in (self.transcribe, self.script, self.cancel, self.find_button, self.open):
            row.addWidget(one)
        row.addStretch(1)
        box.addLayout(row)
        box.addStretch(1)
        self.transcribe.clicked.connect(self.transcribe_wanted)
        self.script.clicked.connect(self.script_wanted)
        self.cancel.clicked.connect(self.cancel_wanted)
        self.open.clicked.connect(self.open_wanted)
        self.find_button.clicked.connect(self.find_wanted)
        self.show_progress(None)
        self.refresh()

    def refresh(self) -> None:
        """Show what the project has."""
        media, project = self.session.project.media, self.session.project
        self.facts.setVisible(media is not None)
        self.transcribe.setVisible(media is not None)
        self.script.setVisible(media is not None)
        missing = media is not None and self.session.media_path is None
        self.find_button.setVisible(missing)
        if media is None:
            self.title.setText("Bring in a recording")
            self.hint.setText(
                "Drop a sound or video file on this window, or open one. It stays on this machine: "
                "everything is heard, timed and written here."
            )
            return
        words = project.transcript.word_count
        self.title.setText(media.name if len(media.name) < 44 else media.name[:42] + "…")
        self.title.setToolTip(media.name)
        if missing:
            self.hint.setText(f"“{media.path}” is not there any more. Find the recording to hear it.")
        elif words:
            self.hint.setText("The recording has been heard. Transcribing it again replaces the words.")
        else:
            self.hint.setText("Transcribe turns the speech into words with times; reading can begin at once.")
        self.transcribe.setText("Transcribe again" if words else "Transcribe")
        self.transcribe.setEnabled(media.has_audio and not missing)
        self.script.setEnabled(media.has_audio and not missing)
        self.facts.set("File", media.name)
        self.facts.set("Length", format_length(media.duration_ms))
        channels = {1: "mono", 2: "stereo"}.get(media.channels, f"{media.channels} channels")
        self.facts.set("Sound", f"{channels}, {media.sample_rate} Hz" if media.has_audio else "none")
        rate = media.frame_rate
        shown = f"{media.width} × {media.height}, {rate} frames a second" if media.has_video else "none"
        self.facts.set("Picture", shown)
        self.facts.set("Words", str(words))

    def show_progress(self, progress: Progress | None) -> None:
        """Show a running job, or that there is none."""
        running = progress is not None
        self.bar.setVisible(running)
        self.cancel.setVisible(running)
        self.state.setVisible(running)
        self.transcribe.setDisabled(running)
        self.script.setDisabled(running)
        if progress is not None:
            self.bar.setValue(round(progress.fraction * 1000))
            self.state.setText(time_left(progress))

    def show_problem(self, text: str) -> None:
        """Show what went wrong, or nothing."""
        self.problem.setText(text)
        self.problem.setVisible(bool(text))
