"""What the commands of comparing do: a second engine, or a reference text."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from dubrel.desk.aside import beside
from dubrel.desk.hearingwords import engine_label
from dubrel.edits.readings import Difference, take_reading
from dubrel.errors import DubrelError
from dubrel.formats.script import Kind, read_script
from dubrel.jobs.hearing import Hearing

if TYPE_CHECKING:
    from dubrel.desk.window import MainWindow
    from dubrel.jobs.compare import Comparison
    from dubrel.jobs.events import Read

_LEAD_MS, _TRAIL_MS = 700, 700
_AROUND = 3


class Comparing:
    """Compares the sheet with another reading."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        self._engine = ""

    def rows(self) -> list[tuple[str, str, str, Callable[[], object]]]:
        """Names, texts and first keys of the commands."""
        return [
            ("compare", "Compare with another recogniser", "Ctrl+Shift+C", self.with_engine),
            ("compare_text", "Compare with a reference text", "", self.with_text),
        ]

    def with_engine(self) -> None:
        """Let another engine read the recording, or what is selected, and show where both differ."""
        session = self.window.session
        media = session.project.media
        if media is None or session.media_path is None or not session.project.transcript.turns:
            self.window.say("Comparing needs a recording that has been heard.")
            return
        engine = self.window.dialogs.engine()
        if engine is None or not self.window.operations.hearing.may_use(engine):
            return
        self._engine = engine_label(engine)
        start, end = self._selected() or (0, media.duration_ms)
        self.window.say("The other recogniser is reading; you can go on meanwhile.")
        self.window.work.hear_again(Hearing(engine, session.project.transcript.language), start, end)

    def _selected(self) -> tuple[int, int] | None:
        """The times of the selected words, if more than one word is selected."""
        turns = self.window.sheet.turns
        chosen = [
            word
            for k, first, stop in self.window.sheet.selected_words()
            for word in turns[k].words[first:stop]
        ]
        return (chosen[0].start_ms, chosen[-1].end_ms) if len(chosen) > 1 else None

    def show(self, read: Read) -> None:
        """Show where the other engine's reading differs."""
        from dubrel.jobs.compare import compare_with_words  # late: starting the desk does not need it

        project = self.window.session.project
        found = beside(lambda: compare_with_words(project, read.words, read.start_ms, read.end_ms))
        self._show(found, self._engine or "The other reading", reference=False)

    def with_text(self) -> None:
        """Compare the sheet with a reference text and count the errors."""
        from dubrel.jobs.compare import compare_with_text

        path = self.window.dialogs.script()
        if path is None:
            return
        try:
            pieces = beside(partial(read_script, path))
        except DubrelError as error:
            self.window.say(str(error))
            return
        text = " ".join(piece.text for piece in pieces if piece.kind is Kind.SPEECH)
        project = self.window.session.project
        found = beside(lambda: compare_with_text(project, text))
        self._show(found, path.name, reference=True)

    def _show(self, found: Comparison, name: str, *, reference: bool) -> None:
        self.window.dialogs.compare(
            found, ("On the sheet", name), reference, self.texts, self.hear, self.take
        )

    def texts(self, one: Difference) -> tuple[str, str, str]:
        """The words on the sheet at a difference, with a few before and after."""
        project = self.window.session.project
        turn = next((turn for turn in project.transcript.turns if turn.id == one.turn), None)
        if turn is None:
            return "", "", ""
        words = self.window.session.words
        ours = " ".join(words[k].text for k in one.ours if k in words)
        if one.ours:
            first = turn.index_of.get(one.ours[0], 0)
            last = turn.index_of.get(one.ours[-1], len(turn.words) - 1) + 1
        else:
            first = last = turn.index_of[one.after] + 1 if one.after in turn.index_of else 0
        before = turn.words[max(0, first - _AROUND) : first]
        after = turn.words[last : last + _AROUND]
        return " ".join(w.text for w in before), ours, " ".join(w.text for w in after)

    def hear(self, one: Difference) -> None:
        """Play a difference with a little before and after."""
        self.window.player.seek(max(0, one.start_ms - _LEAD_MS))
        self.window.player.play(until=one.end_ms + _TRAIL_MS)

    def take(self, chosen: list[Difference]) -> None:
        """Take the other reading; one step, however many."""
        project = self.window.session.project
        for one in reversed(chosen):
            project = take_reading(project, one)
        self.window.session.apply(project, "Take another reading")
