"""Which clips are proposed for the open project, kept up beside the interface."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.base.value import replace
from dubrel.desk.sheet.meanings import Meanings
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.desk import Desk
from dubrel.model import Media, Project
from dubrel.model.cliprules import ClipRules

if TYPE_CHECKING:
    import numpy as np

    from dubrel.finding.clips.heard import Heard
    from dubrel.finding.clips.ranking import ClipProposal
    from dubrel.project.sentences import Sentence

_WAIT_MS = 250


class ClipFinding(QObject):
    """Finds clips by what is said, what it means and how it sounds.

    Signals
    -------
    changed()
        Other clips are proposed, or what keeps them from being found has changed.
    """

    changed = Signal()

    def __init__(self, desk: Desk, meanings: Meanings) -> None:
        super().__init__(desk)
        self.desk, self.session, self.meanings = desk, desk.session, meanings
        self.rules = ClipRules()
        self.found: list[ClipProposal] = []
        self.like: ClipProposal | None = None
        self.on = False
        self.heard: tuple[Media, Heard] | None = None
        self._silent: Media | None = None  # a recording that could not be listened to
        self._about: tuple[str, np.ndarray] | None = None
        self._without_meaning = False
        self._background = Background(desk, until=desk.session.opened, newest=True)
        desk.stopping.append(self._background.close)
        self._wait = QTimer(desk, singleShot=True, interval=_WAIT_MS)
        self._wait.timeout.connect(self._ask)
        desk.session.opened.connect(self._opened)
        meanings.changed.connect(self._more_meant)
        meanings.failed.connect(self._meaning_failed)

    @property
    def busy(self) -> bool:
        """Whether clips are being looked for."""
        return self._background.busy or self._wait.isActive() or (self.on and self.meanings.busy)

    def _opened(self) -> None:
        self.found, self.like, self.heard = [], None, None
        self._silent, self._without_meaning = None, False
        self.rules = replace(self.rules, about="")
        self._wait.stop()

    def set_rules(self, rules: ClipRules) -> None:
        """Look again by other rules."""
        self.rules = rules
        self.look()

    def look_like(self, proposal: ClipProposal | None) -> None:
        """Look for clips like one, or for any again."""
        self.like = proposal
        self.look()

    def look(self) -> None:
        """Look for clips, a moment from now."""
        if self.on:
            self._wait.start()
            self.changed.emit()

    def _more_meant(self) -> None:
        if self.on and not self.meanings.busy:
            self.look()

    def _meaning_failed(self, text: str) -> None:
        if self.on:
            self._without_meaning = True
            self.desk.say(text)
            self.look()

    def _ask(self) -> None:
        """Get what is needed ready, and look once it is."""
        project = self.session.project

        def cut() -> list[Sentence]:
            from dubrel.project.sentences import sentences_of  # late: as below

            return sentences_of(project)

        self._background.ask(cut, lambda sentences: self._prepare(project, sentences))

    def _prepare(self, project: Project, sentences: list[Sentence]) -> None:
        """Have encoded what is not yet, and look."""
        if not sentences:
            self.found = []
            self.changed.emit()
            return
        if not self._without_meaning and self.meanings.prepare(sentences):
            self.changed.emit()
            return  # it says when it is done
        if self.rules.about and not self._without_meaning and self._known(self.rules.about) is None:
            text = self.rules.about
            self.meanings.ask(text, lambda vector: self._understood(text, vector))
            return
        self._listen()
        self._find(project, sentences)

    def _known(self, text: str) -> np.ndarray | None:
        return self._about[1] if self._about is not None and self._about[0] == text else None

    def _understood(self, text: str, vector: np.ndarray) -> None:
        self._about = (text, vector)
        self.look()

    def _listen(self) -> None:
        """Have the recording listened to, once, where that has not been done."""
        media = self.session.recording
        if media is None or not media.has_audio or not self.session.has_recording:
            return
        if media == self._silent or self.desk.jobs.runs("clips"):
            return
        if self.heard is not None and self.heard[0] == media:
            return
        from dubrel.media.cache import has_clip_sound  # late: the window opens without it

        if has_clip_sound(media):
            return

        def ended(whole: bool) -> None:
            if not whole:
                self._silent = media
            if self.session.recording == media:
                QTimer.singleShot(0, self.look)

        self.desk.jobs.start_on_recording("clips", ended=ended)

    def _find(self, project: Project, sentences: Sequence[Sentence]) -> None:
        rules, like, index = self.rules, self.like, self.meanings.index
        media, known = self.session.recording, self.heard
        about = self._known(rules.about) if rules.about else None

        def work() -> tuple[Heard | None, list[ClipProposal]]:
            from dubrel.finding.clips.heard import Heard  # late: the window opens without it
            from dubrel.finding.clips.ranking import proposed_clips
            from dubrel.jobs.cuts.clipsound import heard_in

            heard = known[1] if known is not None and known[0] == media else heard_in(media)
            vectors, wanted, but = index.matrix(sentences), about, list[tuple[int, int]]()
            if like is not None:
                inside = [nth for nth, one in enumerate(sentences) if one.words[0] in like.words]
                wanted = vectors[inside].mean(axis=0) if inside else about
                but = [(like.start_ms, like.end_ms)]
            language = project.transcript.language
            found = proposed_clips(
                sentences, vectors, rules, heard or Heard(), language, about=wanted, but=but
            )
            return heard, found

        self._background.ask(work, lambda made: self._take(media, project, made))
        self.changed.emit()

    def _take(
        self, media: Media | None, project: Project, made: tuple[Heard | None, list[ClipProposal]]
    ) -> None:
        from dubrel.jobs.cuts.clipsound import forget_damaged  # late: as above

        heard, self.found = made
        if heard is not None and media is not None:
            self.heard = (media, heard)
        elif media is not None and media != self._silent and forget_damaged(media):
            self.look()  # it is listened to again
        if self.session.project.transcript is not project.transcript:
            self.look()  # words changed meanwhile
        self.changed.emit()
