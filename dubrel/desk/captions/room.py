"""Captions: set by a house style, checked, audited against the sound, adjusted."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import Message, counted, told, tr
from dubrel.desk.captions.comparing import Comparing
from dubrel.desk.captions.editing import CaptionEditing
from dubrel.desk.captions.findings import Findings
from dubrel.desk.captions.lookkeeping import LookKeeping
from dubrel.desk.captions.questions import CaptionQuestions
from dubrel.desk.captions.setting import Setting
from dubrel.desk.captions.sounds import Sounds
from dubrel.desk.captions.styling import Styling
from dubrel.desk.sheet.copying import copy_captions
from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.shell.core.job_slots import Running
from dubrel.desk.shell.core.todo import ToDo
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.shell.frame.shots import Shots
from dubrel.desk.shell.kit.theme import Theme
from dubrel.edits.captions.auditfixes import audit_cues, repaired
from dubrel.edits.captions.times import moved

if TYPE_CHECKING:
    from dubrel.desk.captions.panel import CaptionPanel
    from dubrel.desk.captions.stanzas import CaptionSheet
    from dubrel.desk.captions.textfield import TextField
    from dubrel.jobs.machinery.events import Event


class CaptionsRoom(Room):
    """The fourth pass."""

    id, name = "captions", tr("Captions")
    hints = (
        ("next_best", tr("next best break")),
        ("break_here", tr("break here")),
        ("split_caption", tr("split")),
        ("next_look", tr("next to fix")),
    )
    ahead = (
        "dubrel.desk.sheet.linesfield",
        "dubrel.desk.captions.painting",
        "dubrel.desk.captions.stanzas",
        "dubrel.desk.captions.panel",
        "dubrel.desk.captions.lookpanel",
        "dubrel.desk.captions.textfield",
    )

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.session = desk.session
        self.ask = CaptionQuestions(desk)
        self.findings = Findings(desk.session)
        self._stanzas: CaptionSheet | None = None
        self._panel: CaptionPanel | None = None
        self._layer: SpeechLayer | None = None
        self.editing = CaptionEditing(desk, self.ask, lambda: self.stanzas)
        self.setting = Setting(desk, self.ask, self.findings, self.editing)
        self.pictures = Shots(desk)
        self.sounds = Sounds(desk, self.ask, self.editing)
        self.comparing = Comparing(desk, self.ask)
        self.styling = Styling(desk, self.ask, self.setting)
        self.looks = LookKeeping(desk, self.ask, lambda: self._caption_panel().look)
        self.field: TextField | None = None
        self.findings.counted.connect(desk.counted)

    def share_layer(self, layer: SpeechLayer) -> None:
        """Draw words and captions on the strip, as other passes do."""
        self._layer = layer

    @property
    def stanzas(self) -> CaptionSheet:
        """The captions, one below the other."""
        if self._stanzas is None:
            from dubrel.desk.captions.stanzas import CaptionSheet  # late: the window opens without it

            self._stanzas = CaptionSheet(self.desk, self.findings)
            self._stanzas.text_wanted.connect(self._edit_text)
        return self._stanzas

    @property
    def page(self) -> QWidget:
        """The stanzas, or the rules of a house style."""
        return self.styling.page if self.styling.on else self.stanzas

    @property
    def panel(self) -> QWidget:
        """What is to fix, place and look; or all house styles."""
        return self.styling.panel if self.styling.on else self._caption_panel()

    def _caption_panel(self) -> CaptionPanel:
        if self._panel is None:
            from dubrel.desk.captions.lookpanel import LookPanel  # late: as above
            from dubrel.desk.captions.panel import CaptionPanel

            picture = self.desk.picture()
            picture.caption_moved.connect(self.editing.dragged)
            look = LookPanel(self.desk, self.editing, picture)
            self.stanzas.chosen.connect(look.refresh)
            self._panel = CaptionPanel(self.desk, self.findings, look)
            self._panel.wanted.connect(lambda name: self.desk.commands.run(name))
        return self._panel

    @property
    def layer(self) -> SpeechLayer | None:
        """Words and captions."""
        return self._layer

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        if self._stanzas is not None:
            self._stanzas.set_theme(theme)
        self.styling.set_theme(theme)

    def enter(self) -> None:
        """Begin where the playhead is."""
        if self.stanzas.current < 0 and self.stanzas.captions:
            self.stanzas.choose_at(self.desk.player.position)
        self.pictures.look_once()

    def todo(self) -> ToDo:
        """How many captions are to be fixed."""
        track = self.session.project.captions
        if track is None or not track.captions:
            return ToDo()
        broken, count = self.findings.count, len(track.captions)
        return ToDo(
            Message("{broken} to fix", broken=broken) if broken else Message("{count} in order", count=count),
            max(0.0, 1 - broken / count),
            broken,
        )

    def commands(self) -> list[Command]:
        """What can be done here."""
        captions = self.desk.without_captions
        free = self.desk.still_transcribing
        return [
            *self.setting.commands(),
            Command(
                "style", tr("Show the house styles, or the captions again"), "Ctrl+Shift+H", self.styling.open
            ),
            *self.editing.commands(),
            *self.pictures.commands(),
            *self.sounds.commands(),
            *self.comparing.commands(),
            *self.looks.commands(),
            Command(
                "audit",
                tr("Audit the timing of the captions"),
                "Ctrl+Shift+A",
                self.audit,
                first(self.desk.without_sound, captions, free),
                words=tr("fix each caption, fix the drift"),
            ),
            Command(
                "copy_captions",
                tr("Copy the captions, line by line"),
                "",
                self.copy_captions,
                captions,
                ("caption",),
            ),
            Command("move", tr("Shift or stretch the captions"), "", self.move, captions),
            Command(
                "play_caption",
                tr("Play the caption"),
                "Shift+F7",
                self.play_caption,
                first(self.desk.without_recording, self.editing.none_chosen),
                ("caption",),
            ),
        ]

    def _edit_text(self) -> None:
        """Edit the text of the chosen caption where it stands."""
        if self.field is None:
            from dubrel.desk.captions.textfield import TextField  # late: as above

            self.field = TextField(self.stanzas)
        if (caption := self.stanzas.caption) is not None and not self.session.read_only:
            self.field.edit(caption)

    def look(self, step: int) -> None:
        """Go to the next caption that breaks a rule, or to the one before."""
        if not self.stanzas.next_finding(step):
            lost = self.findings.lost
            if lost:
                self.desk.player.seek(lost[0].at_ms)
            self.desk.say(f"{told(lost[0].message)}." if lost else tr("No caption breaks a rule."))

    def play_caption(self) -> None:
        """Play the chosen caption."""
        caption = self.stanzas.captions[self.stanzas.current]
        self.desk.play(caption.start_ms, caption.end_ms, 0)

    def copy_captions(self) -> None:
        """Copy the captions as they stand."""
        count = copy_captions(self.session.project)
        self.desk.say(tr("Copied: {captions}.").format(captions=counted(count, "caption")))

    # -- times ------------------------------------------------------------------------

    def audit(self) -> None:
        """Compare the times of the captions with the sound."""
        _, cues = audit_cues(self.session.project)
        self.desk.say(tr("The timing audit is running; you can keep working."))
        self.desk.jobs.start_on_recording("audit", cues, result=self._show_audit)

    def _show_audit(self, event: Event, running: Running) -> None:
        """Show what an audit found, and fix what the user chooses."""
        from dubrel.jobs.machinery.events import Audited  # late: the window opens without it

        history = self.session.history
        way = self.ask.fix(event.report) if isinstance(event, Audited) else None
        if way is None or not isinstance(event, Audited):
            return
        report = event.report
        ids, _ = audit_cues(running.project)
        if self.session.project.captions != running.project.captions:
            self.desk.say(tr("The captions have changed since the audit began. Audit them again."))
            return
        self.session.step(
            lambda project: repaired(project, report, ids, way), tr("Fix the timing"), within=history
        )

    def move(self) -> None:
        """Shift or stretch the captions by the user's own numbers."""
        track, history = self.session.project.captions, self.session.history
        wanted = self.ask.move(track, self.desk.player.position) if track else None
        if wanted is not None:
            self.session.step(
                lambda project: moved(project, wanted), tr("Shift or stretch the captions"), within=history
            )
