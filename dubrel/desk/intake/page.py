"""Intake: the recording, what it is, and turning it into words."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QProgressBar,
    QSizePolicy,
    QWidget,
)

from dubrel.base.catalogue import counted, shipped, tr
from dubrel.base.languages import LANGUAGES, language_name
from dubrel.base.timecode import format_length, rate_in_words
from dubrel.desk.intake.enginewords import added_engines, engine_label, own_language
from dubrel.desk.intake.queuepanel import QueuePanel
from dubrel.desk.intake.queuework import QueueWork
from dubrel.desk.intake.surveyview import SoundOverTime
from dubrel.desk.shell.core.session import Session
from dubrel.desk.shell.frame.footer import time_left
from dubrel.desk.shell.kit.paperpage import PaperPage
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space, Theme
from dubrel.desk.shell.kit.widgets import Facts, button, label
from dubrel.model import Media
from dubrel.model.choices import Choices
from dubrel.user.settings import SETTINGS

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Progress

_SPEAKERS = [
    (tr("Tell apart, however many"), "auto"),
    *((tr("Tell {count} apart").format(count=count), str(count)) for count in range(2, 9)),
    (tr("Do not tell apart"), "off"),
]


class ChoicesForm(QWidget):
    """Recogniser, language, speakers, channels: how a recording is to be transcribed."""

    def __init__(self) -> None:
        super().__init__()
        form = QGridLayout(self)
        form.setContentsMargins(0, 0, 0, 0)
        form.setVerticalSpacing(Space.NEAR)
        form.setColumnStretch(1, 1)
        self.engine, self.language, self.speakers = QComboBox(), QComboBox(), QComboBox()
        self.engine.setAccessibleName(tr("Recogniser"))
        self.language.setAccessibleName(tr("Language"))
        self.speakers.setAccessibleName(tr("Speakers"))
        for text, value in _SPEAKERS:
            self.speakers.addItem(text, value)
        self.apart = QCheckBox(tr("One speaker a channel: transcribe each by itself"))
        form.addWidget(label(tr("How to transcribe it"), "section"), 0, 0, 1, 2)
        rows = (
            (tr("Recogniser"), self.engine),
            (tr("Language"), self.language),
            (tr("Speakers"), self.speakers),
        )
        for row, (text, widget) in enumerate(rows, 1):
            form.addWidget(label(text, "quiet"), row, 0)
            form.addWidget(widget, row, 1)
        form.addWidget(self.apart, 4, 0, 1, 2)
        self.kit, self._kit_label = QComboBox(), label(tr("Then"), "quiet")
        self.kit.setAccessibleName(tr("What is done with a recording of the queue when it is transcribed"))
        form.addWidget(self._kit_label, 5, 0)
        form.addWidget(self.kit, 5, 1)
        self.apart.toggled.connect(self.speakers.setDisabled)
        self.engine.currentIndexChanged.connect(self._fill_languages)
        self.fill_engines("builtin")

    def fill_engines(self, chosen: str) -> None:
        """Show the recognisers that there are."""
        names = ["builtin", *SETTINGS.read().engines, *added_engines()]
        self.engine.blockSignals(True)
        self.engine.clear()
        for name in names:
            self.engine.addItem(engine_label(name), name)
            self.engine.setItemData(self.engine.count() - 1, name, Qt.ItemDataRole.ToolTipRole)
        self.engine.setCurrentIndex(max(0, names.index(chosen) if chosen in names else 0))
        self.engine.blockSignals(False)
        self._fill_languages()

    def _fill_languages(self) -> None:
        """A recogniser knows its language; of one that does not say it, the user does."""
        own = own_language(str(self.engine.currentData()))
        self.language.clear()
        for tag in [own] if own else ["en", *(one for one in LANGUAGES if one != "en")]:
            self.language.addItem(tr(language_name(tag)), tag)
        self.language.setEnabled(not own)

    def show_media(self, media: Media | None, queued: bool) -> None:
        """Offer what fits the recording, or those of the queue."""
        self.setVisible(queued or (media is not None and media.has_audio))
        self._offer_kits(queued)
        several = media is not None and media.separate > 1
        self.apart.setVisible(several)
        if not several:
            self.apart.setChecked(False)
        of_tracks = media is not None and bool(media.tracks)
        by_channel = tr("One speaker a channel: transcribe each by itself")
        self.apart.setText(tr("One speaker a track: transcribe each by itself") if of_tracks else by_channel)

    def _offer_kits(self, queued: bool) -> None:
        """Recordings of the queue can be released by themselves; the open one is released in Release."""
        if queued:
            from dubrel.release.kits import KITS, all_kits  # late: starting the desk does not need it

            chosen, names = self.kit.currentData(), ["", *all_kits()]
            if names != [self.kit.itemData(nth) for nth in range(self.kit.count())]:
                self.kit.clear()
                for name in names:
                    self.kit.addItem(
                        tr("Save and release: {name}").format(name=shipped(name, KITS))
                        if name
                        else tr("Save the project"),
                        name,
                    )
                self.kit.setCurrentIndex(max(0, self.kit.findData(chosen)))
        for one in (self.kit, self._kit_label):
            one.setVisible(queued)

    def chosen(self) -> Choices:
        """What was chosen."""
        return Choices(
            str(self.engine.currentData()),
            str(self.language.currentData()),
            self.apart.isChecked(),
            "off" if self.apart.isChecked() else str(self.speakers.currentData()),
            str(self.kit.currentData() or ""),
        )


class IntakePage(PaperPage):
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

    def __init__(
        self, session: Session, queue: QueueWork, menu_on: Callable[[list[str], QPoint], object], theme: Theme
    ) -> None:
        super().__init__(tr("Sheet: intake"))
        self.session = session
        self._running = False
        self.title = label("", "title")
        self.hint = label("", "quiet")
        self.hint.setWordWrap(True)
        self.facts = Facts(
            tr("Recording"),
            [tr("File"), tr("Length"), tr("Sound"), tr("Picture"), tr("Words"), tr("Language")],
        )
        self.facts.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        fixed(self.bar.setMaximumWidth, 520)
        self.state = label("", "quiet")
        self.problem = label("", "look")
        self.problem.setWordWrap(True)
        self.transcribe = button(tr("Transcribe"), primary=True)
        self.script = button(tr("Align a script"))
        self.cancel = button(tr("Cancel"))
        self.open = button(tr("Open a recording or a project"))
        self.find_button = button(tr("Find the recording"))
        self.form = ChoicesForm()
        self.sound = SoundOverTime(theme)
        self.sound.hide()
        self._lay_out(queue, menu_on)
        self.transcribe.clicked.connect(self.transcribe_wanted)
        self.script.clicked.connect(self.script_wanted)
        self.cancel.clicked.connect(self.cancel_wanted)
        self.open.clicked.connect(self.open_wanted)
        self.find_button.clicked.connect(self.find_wanted)
        self.show_progress(None)
        self.refresh()

    def _lay_out(self, queue: QueueWork, menu_on: Callable[[list[str], QPoint], object]) -> None:
        box, both = self.box, self.beside(44)
        both.addWidget(self.facts, 1, Qt.AlignmentFlag.AlignTop)
        both.addWidget(self.form, 1, Qt.AlignmentFlag.AlignTop)
        box.addWidget(self.title)
        box.addWidget(self.hint)
        box.addLayout(both)
        for widget in (self.bar, self.state, self.problem):
            box.addWidget(widget)
        row = self.beside(8)
        for one in (self.transcribe, self.script, self.cancel, self.find_button, self.open):
            row.addWidget(one)
        row.addStretch(1)
        box.addLayout(row)
        box.addSpacing(Space.APART)
        box.addWidget(self.sound)
        self.queue = QueuePanel(queue, menu_on)
        queue.changed.connect(self._show_choices)
        box.addWidget(self.queue, 10)
        box.addStretch(1)

    def choices(self) -> Choices:
        """How the recording is to be transcribed, as chosen."""
        return self.form.chosen()

    def fill_engines(self, chosen: str) -> None:
        """Show the recognisers that there are."""
        self.form.fill_engines(chosen)

    def _show_choices(self) -> None:
        self.form.show_media(self.session.project.media, bool(self.queue.work.queue.items))

    def refresh(self) -> None:
        """Show what the project has."""
        media, project = self.session.project.media, self.session.project
        self.facts.setVisible(media is not None)
        self._show_choices()
        self.transcribe.setVisible(media is not None)
        self.script.setVisible(media is not None)
        another = self.session.is_another
        missing = media is not None and self.session.media_path is None
        self.find_button.setVisible(missing or another)
        if media is None:
            self.title.setText(tr("Bring in a recording"))
            self.open.setText(tr("Open a recording or a project"))
            self.hint.setText(
                tr(
                    "Drop a sound or video file on this window, or open one; several at once go into "
                    "a queue. "
                    "Everything is transcribed, timed and written on this machine."
                )
            )
            return
        self.open.setText(tr("Open another"))
        words = project.transcript.word_count
        self.title.setText(media.name if len(media.name) < 44 else media.name[:42] + "…")
        self.title.setToolTip(media.name)
        if missing:
            self.hint.setText(
                tr("“{path}” is no longer there. Find the recording to play or transcribe it.").format(
                    path=media.path
                )
            )
        elif another:
            self.hint.setText(
                tr("Another recording stands at “{media_path}” now.").format(
                    media_path=self.session.media_path
                )
            )
        elif words:
            self.hint.setText(
                tr("The recording has been transcribed. Transcribing it again replaces the words.")
            )
        else:
            self.hint.setText(
                tr("Transcribing turns the speech into words with times; you can read while it runs.")
            )
        self.transcribe.setText(tr("Transcribe again") if words else tr("Transcribe"))
        self.transcribe.setEnabled(media.has_audio and not missing and not self._running)
        self.script.setEnabled(media.has_audio and not missing and not self._running)
        self._show_facts(media, words)

    def _show_facts(self, media: Media, words: int) -> None:
        self.facts.set(tr("File"), media.name)
        self.facts.set(tr("Length"), format_length(media.duration_ms))
        channels = {1: tr("mono"), 2: tr("stereo")}.get(media.channels, counted(media.channels, "channel"))
        if media.tracks:
            channels = counted(len(media.tracks), "track")
        self.facts.set(
            tr("Sound"), f"{channels}, {media.sample_rate / 1000:g} kHz" if media.has_audio else tr("none")
        )
        rate = media.frame_rate
        shown = (
            tr("{width} × {height}, {rate} fps").format(
                width=media.width, height=media.height, rate=rate_in_words(rate)
            )
            if media.has_video
            else tr("none")
        )
        self.facts.set(tr("Picture"), shown, tr("{rate} frames a second").format(rate=rate) if rate else "")
        self.facts.set(tr("Words"), str(words))
        self.facts.set(
            tr("Language"), tr(language_name(self.session.project.transcript.language)) if words else "–"
        )

    def show_progress(self, progress: Progress | None) -> None:
        """Show a running job, or that there is none."""
        running = self._running = progress is not None
        self.bar.setVisible(running)
        self.cancel.setVisible(running)
        self.state.setVisible(running)
        self.transcribe.setDisabled(running)
        self.script.setDisabled(running)
        if progress is not None:
            self.bar.setValue(round(progress.fraction * 1000))
            self.state.setText(time_left(progress))

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.sound.theme = theme
        self.sound.update()

    def show_problem(self, text: str) -> None:
        """Show what went wrong, or nothing."""
        self.problem.setText(text)
        self.problem.setVisible(bool(text))
