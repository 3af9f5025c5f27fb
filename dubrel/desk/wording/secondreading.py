"""Compare the sheet with a second engine's reading, or with a reference text."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.desk.intake.enginewords import engine_label
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.shell.core.job_slots import Running
from dubrel.desk.wording.questions import WordingQuestions
from dubrel.model import Project
from dubrel.model.choices import Choices
from dubrel.project.index import turn_with, words_with

if TYPE_CHECKING:
    from dubrel.edits.words.readings import Difference
    from dubrel.jobs.machinery.events import Event
    from dubrel.jobs.transcribing.secondreading import Comparison

_AROUND_MS = 700
_AROUND = 3


class SecondReading:
    """Compares the sheet with another reading.

    Parameters
    ----------
    may_use : callable
        Whether an engine may get the open recording.
    """

    def __init__(
        self, desk: Desk, ask: WordingQuestions, sheet: TypingSheet, may_use: Callable[[str], bool]
    ) -> None:
        self.desk, self.ask, self.sheet, self.may_use = desk, ask, sheet, may_use

    def commands(self) -> list[Command]:
        """What can be compared."""
        words = self.desk.without_words
        ready = first(self.desk.without_sound, words, self.desk.still_transcribing)
        return [
            Command(
                "compare",
                tr("Compare with another recogniser"),
                "Ctrl+Shift+C",
                self.with_engine,
                ready,
                ("selection",),
                words=tr("accept the other reading, accept all"),
            ),
            Command("compare_text", tr("Compare with a reference text"), "", self.with_text, words),
        ]

    def with_engine(self) -> None:
        """Let another engine read the recording, or what is selected, and show where both differ."""
        project = self.desk.session.project
        engine = self.ask.engine()
        if engine is None or project.media is None or not self.may_use(engine):
            return
        start, end = self._selected() or (0, project.media.duration_ms)
        choices = Choices(engine, project.transcript.language)
        self.desk.say(tr("The other recogniser is transcribing; you can keep working."))
        show = partial(self._show_reading, engine_label(engine))
        self.desk.jobs.start_on_recording("compare", choices, start, end, result=show)

    def _selected(self) -> tuple[int, int] | None:
        """The times of the selected words, if more than one word is selected."""
        turns = self.sheet.turns
        chosen = [
            word for k, start, stop in self.sheet.selected_words() for word in turns[k].words[start:stop]
        ]
        return (chosen[0].start_ms, chosen[-1].end_ms) if len(chosen) > 1 else None

    def _show_reading(self, name: str, event: Event, running: Running) -> None:
        from dubrel.jobs.machinery.events import Read  # late: the window opens without it
        from dubrel.jobs.transcribing.secondreading import (
            compare_with_words,  # late: starting the desk does not need it
        )

        if isinstance(event, Read):
            project = self.desk.session.project
            found = beside(lambda: compare_with_words(project, event.words, event.start_ms, event.end_ms))
            self._show(found, name, reference=False)

    def with_text(self) -> None:
        """Compare the sheet with a reference text and count the errors."""
        from dubrel.jobs.transcribing.secondreading import compare_with_text

        path = self.ask.reference()
        if path is None:
            return
        try:
            from dubrel.formats.scripts.script import (  # late: starting the desk does not need it
                Kind,
                read_script,
            )

            pieces = beside(partial(read_script, path))
        except DubrelError as error:
            self.desk.say(str(error))
            return
        text = " ".join(piece.text for piece in pieces if piece.kind is Kind.SPEECH)
        project = self.desk.session.project
        found = beside(lambda: compare_with_text(project, text))
        self._show(found, path.name, reference=True)

    def _show(self, found: Comparison, name: str, *, reference: bool) -> None:
        self.ask.compare(found, (tr("On the sheet"), name), reference, self.texts, self.play, self.accept)

    def texts(self, one: Difference) -> tuple[str, str, str]:
        """The words on the sheet at a difference, with a few before and after."""
        project = self.desk.session.project
        turn = turn_with(project, one.turn)
        if turn is None:
            return "", "", ""
        ours = " ".join(word.text for word in words_with(project, one.ours))
        if one.ours:
            start = turn.index_of.get(one.ours[0], 0)
            stop = turn.index_of.get(one.ours[-1], len(turn.words) - 1) + 1
        else:
            start = stop = turn.index_of[one.after] + 1 if one.after in turn.index_of else 0
        before = turn.words[max(0, start - _AROUND) : start]
        after = turn.words[stop : stop + _AROUND]
        return " ".join(w.text for w in before), ours, " ".join(w.text for w in after)

    def play(self, one: Difference) -> None:
        """Play what is read in two ways."""
        self.desk.play(one.start_ms, one.end_ms, _AROUND_MS)

    def accept(self, chosen: list[Difference]) -> None:
        """Accept the other reading; one step, however many."""
        from dubrel.edits.words.readings import take_reading  # late: the window opens without it

        def read(project: Project) -> Project:
            for one in reversed(chosen):
                project = take_reading(project, one)
            return project

        self.desk.session.step(read, tr("Accept another reading"))
