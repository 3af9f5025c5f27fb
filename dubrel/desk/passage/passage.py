"""In and out points, and what is done with the passage between them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_clock
from dubrel.base.value import replace
from dubrel.desk.captions.room import CaptionsRoom
from dubrel.desk.intake.room import IntakeRoom
from dubrel.desk.release.room import ReleaseRoom
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.commands import Command, Group
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.translation.room import TranslationRoom
from dubrel.desk.voices.room import VoicesRoom
from dubrel.edits.cuts.trimming import with_cut
from dubrel.edits.words.passage import with_passage, words_between
from dubrel.model import CutPassage, Project, RecognisedWord

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Event

_NONE = tr("Set an in and an out point on the strip (I and O), or select words.")


class Passage(QObject):
    """The commands of a passage.

    Parameters
    ----------
    desk : Desk
    sheet : TypingSheet
        Where words are selected.
    intake, voices, captions, translation, release
        The rooms that do what is asked for.
    """

    def __init__(
        self,
        desk: Desk,
        sheet: TypingSheet,
        intake: IntakeRoom,
        voices: VoicesRoom,
        captions: CaptionsRoom,
        translation: TranslationRoom,
        release: ReleaseRoom,
    ) -> None:
        super().__init__(desk)
        self.desk, self.session, self.sheet = desk, desk.session, sheet
        self._intake, self._voices, self._captions = intake, voices, captions
        self._translation, self._release = translation, release
        self.session.opened.connect(self._forget)

    def group(self) -> Group:
        """What can be done."""
        there, on = self.desk.without_recording, ("strip",)
        return Group(
            tr("Passage"),
            [
                Command(
                    "mark_in", tr("Set the in point at the playhead"), "", partial(self.mark, 0), there, on
                ),
                Command(
                    "mark_out", tr("Set the out point at the playhead"), "", partial(self.mark, 1), there, on
                ),
                Command(
                    "clear_marks", tr("Remove the in and out points"), "", self.clear, self._no_marks, on
                ),
                *(
                    Command(
                        f"{name}_passage",
                        tr("{text} between in and out").format(text=text),
                        "",
                        run,
                        why_not,
                        on,
                    )
                    for name, text, run, why_not in self._acts()
                ),
            ],
        )

    def _acts(self) -> list[tuple[str, str, Callable[[], object], Callable[[], str]]]:
        """Name, text, what it does, why it cannot be done."""
        desk = self.desk
        there = first(desk.without_recording, self._none)
        sound = first(desk.without_sound, desk.still_transcribing, self._none)
        words = first(desk.without_words, desk.still_transcribing, self._none)
        captions = first(desk.without_captions, words)
        return [
            ("play", tr("Play"), self.play, there),
            ("transcribe", tr("Transcribe"), self.transcribe, sound),
            ("voices", tr("Tell speakers apart"), self.tell, first(sound, words)),
            ("captions", tr("Set captions again"), self.set_captions, captions),
            (
                "translate",
                tr("Translate"),
                self.translate,
                first(captions, self._translation.translating.no_track),
            ),
            ("release", tr("Release what is"), self.release, first(there, words)),
        ]

    # -- in and out -------------------------------------------------------------------------

    def mark_in(self) -> None:
        """Set the in point."""
        self.mark(0)

    def mark_out(self) -> None:
        """Set the out point."""
        self.mark(1)

    def mark(self, which: int) -> None:
        """Set a point; one that would lie on the wrong side of the other takes it away."""
        now = self.desk.player.position
        start, end = self.desk.span
        start, end = (now, end) if which == 0 else (start, now)
        if start is not None and end is not None and end <= start:
            start, end = (now, None) if which == 0 else (None, now)
        self.desk.span = (start, end)
        self.desk.marked.emit()
        said = [tr("in {clock}").format(clock=format_clock(start, digits=1))] if start is not None else []
        said += [tr("out {clock}").format(clock=format_clock(end, digits=1))] if end is not None else []
        self.desk.say(", ".join(said).capitalize() + ".")

    def clear(self) -> None:
        """Remove both points."""
        self._forget()
        self.desk.say(tr("The in and out points are removed."))

    def _forget(self) -> None:
        self.desk.span = (None, None)
        self.desk.marked.emit()

    def _no_marks(self) -> str:
        return "" if any(one is not None for one in self.desk.span) else tr("There is no in or out point.")

    @property
    def span(self) -> tuple[int, int] | None:
        """Between in and out (the ends of the recording where one is missing), or what is selected."""
        start, end = self.desk.span
        if start is not None or end is not None:
            media = self.session.project.media
            return start or 0, (media.duration_ms if media is not None else 0) if end is None else end
        turns = self.session.project.transcript.turns
        words = [w for k, a, b in self.sheet.selected_words() for w in turns[k].words[a:b]]
        return (words[0].start_ms, words[-1].end_ms) if words else None

    def _none(self) -> str:
        return "" if self.span is not None else _NONE

    def _wanted(self) -> tuple[int, int]:
        found = self.span
        assert found is not None  # else the command says why not
        return found

    # -- what is done -----------------------------------------------------------------------

    def play(self) -> None:
        """Play it once."""
        start, end = self._wanted()
        self.desk.player.seek(start)
        self.desk.player.play(until=end)

    def transcribe(self) -> None:
        """Transcribe it; the words that stand there are replaced once all of it is heard."""
        start, end = self._wanted()
        choices = replace(self._intake.page.choices(), from_ms=start, to_ms=end, apart=False)
        there = len(words_between(self.session.project, start, end))
        if not self._intake.engines.may_use(choices.engine):
            return
        if there and not self.desk.ask.yes(
            tr(
                "{words} between in and out will be replaced by what is transcribed now. "
                "Undo brings them back."
            ).format(words=counted(there, "word")),
            tr("Transcribe it"),
        ):
            return
        heard: list[RecognisedWord] = []
        history = self.session.history
        done = lambda *_: self._heard(heard, start, end, history)  # noqa: E731
        take = partial(self._take, heard)
        self.desk.jobs.start_on_recording("passage", choices, take=take, result=done)
        self.desk.say(
            tr("Transcribing from {start} to {end}.").format(
                start=format_clock(start, digits=1), end=format_clock(end, digits=1)
            )
        )

    @staticmethod
    def _take(heard: list[RecognisedWord], event: Event) -> None:
        from dubrel.jobs.machinery.events import Recognised  # late: the window opens without it

        if isinstance(event, Recognised):
            heard += event.words

    def _heard(self, heard: list[RecognisedWord], start: int, end: int, history: object) -> None:
        if self.session.history is not history:
            return
        if not heard:
            self.desk.say(tr("No speech was found between in and out. The words stay as they are."))
            return
        self.session.step(lambda now: with_passage(now, heard, start, end), tr("Transcribe a passage"))
        self.desk.say(tr("{words} transcribed between in and out.").format(words=counted(len(heard), "word")))
        self.desk.go("wording")

    def tell(self) -> None:
        """Tell the speakers in it apart."""
        wanted = self._voices.ask.speaker_count()
        if wanted is not None:
            self._voices.diarising.tell(wanted, self._wanted())

    def set_captions(self) -> None:
        """Set its captions again."""
        self._captions.setting.set_between(*self._wanted())

    def translate(self) -> None:
        """Translate it."""
        self._translation.translating.between(*self._wanted())

    def release(self) -> None:
        """Make a cut of it, and show it in Release."""
        start, end = self._wanted()
        name = f"{format_clock(start, digits=0)} to {format_clock(end, digits=0)}"
        made: list[int] = []

        def verb(project: Project) -> Project:
            same = next((one for one in project.cuts if one.name == name), None)
            if same is not None:
                made[:] = [same.id]
                return project
            project, cut_id = with_cut(project, name, [CutPassage(start, end)])
            made[:] = [cut_id]
            return project

        self.session.step(verb, tr("Release a passage"))
        self._release.page.of.choose(made[0])
        self.desk.go("release")
