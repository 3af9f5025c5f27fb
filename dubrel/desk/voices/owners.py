"""Who says what, by hand: turns and words assigned, moved from turn to turn, broken into paragraphs."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from dubrel.base.catalogue import tr
from dubrel.desk.sheet.spots import Spot
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.voices.questions import VoiceQuestions
from dubrel.edits.speakers.voices import add_speaker, give_turn
from dubrel.edits.words.paragraphs import set_paragraphs
from dubrel.model import Project, Speaker, Turn
from dubrel.project import reasons
from dubrel.project.history import History
from dubrel.project.queries import word_at

_NEAR_MS = 300


class Owners:
    """The commands that give words to speakers.

    Parameters
    ----------
    known_names : callable
        Names that are offered for a new speaker.
    take : callable
        Takes a step that changes who speaks.
    """

    def __init__(
        self,
        desk: Desk,
        sheet: TypingSheet,
        ask: VoiceQuestions,
        known_names: Callable[[], list[str]],
        take: Callable[..., None],
    ) -> None:
        self.desk, self.sheet, self.session = desk, sheet, desk.session
        self.ask, self.known_names, self.take = ask, known_names, take

    def commands(self) -> list[Command]:
        """Who says what."""
        words = self.desk.without_words
        later, earlier = partial(self.boundary, 1), partial(self.boundary, -1)
        second, on = first(words, self._first_turn), ("turn",)
        what = tr("Assign the turn, or the selected words, to")
        numbered = [
            Command(
                f"speaker_{k}",
                tr("{what} speaker {k}").format(what=what, k=k),
                f"Alt+{k}",
                partial(self.give, k),
                words,
            )
            for k in range(1, 10)
        ]
        one = first(words, lambda: reasons.no_speakers(self.session.project, 1))
        places = ("turn", "selection", "word")
        return [
            *numbered,
            Command(
                "speaker_other",
                tr("{what} a speaker").format(what=what),
                "Alt+0",
                self.give_other,
                one,
                places,
            ),
            Command("boundary_back", tr("Start the turn one word earlier"), "Alt+Left", earlier, second, on),
            Command("boundary_on", tr("Start the turn one word later"), "Alt+Right", later, second, on),
            Command(
                "paragraphs",
                tr("Break long turns into paragraphs"),
                "Alt+P",
                self.paragraphs,
                words,
                words=tr("set the length"),
            ),
        ]

    def _first_turn(self) -> str:
        return "" if self.sheet.caret.turn else tr("There is no turn before the first one.")

    def give(self, number: int) -> None:
        """Assign the selected words or the turn to a speaker; a new number asks for a name."""
        speakers, meant, history = (
            self.session.project.transcript.speakers,
            self._meant(),
            self.session.history,
        )
        if number <= len(speakers):
            speaker = speakers[number - 1].id
            self._give(meant, lambda project: (project, speaker), history)
        elif wanted := self.ask.speaker_facts(Speaker(""), self.known_names()):
            self._give(meant, lambda project: add_speaker(project, *wanted), history)

    def give_other(self) -> None:
        """Assign the selected words or the turn to a speaker chosen from all."""
        meant, history = self._meant(), self.session.history
        speaker = self.ask.speaker(tr("Assign to"), list(self.session.project.transcript.speakers))
        if speaker is not None:
            self._give(meant, lambda project: (project, speaker.id), history)

    def _meant(self) -> tuple[int, list[int]]:
        """What is to be assigned, by ids: a turn, or some words where there are any."""
        turns = self.sheet.turns
        words = [one.id for place, a, b in self.sheet.selected_words() for one in turns[place].words[a:b]]
        return (0, words) if words else (self._turn_meant().id, [])

    def _give(
        self,
        meant: tuple[int, list[int]],
        speaker: Callable[[Project], tuple[Project, str]],
        history: History,
    ) -> None:
        from dubrel.edits.speakers.assigning import give_these  # late: the window opens without it

        turn, words = meant

        def given(project: Project) -> Project:
            project, who = speaker(project)
            return give_these(project, words, who) if words else give_turn(project, turn, who)

        self.take(given, tr("Assign words") if words else tr("Assign a turn"), within=history)

    def _turn_meant(self) -> Turn:
        """The turn at the caret; while another one plays, that one."""
        sheet, player = self.sheet, self.desk.player
        turn = sheet.turns[sheet.caret.turn]
        near = turn.start_ms - _NEAR_MS <= player.position <= turn.end_ms + _NEAR_MS
        if not player.playing or near:
            return turn
        found = word_at(self.session.project, player.position)
        return sheet.turns[found[0]] if found else turn

    def boundary(self, words: int) -> None:
        """Move the beginning of the turn at the caret by a word."""
        from dubrel.edits.speakers.assigning import move_boundary  # late: the window opens without it

        turn = self.sheet.turns[self.sheet.caret.turn]
        project = self.session.project
        if move_boundary(project, turn.id, words) is project:
            self.desk.say(tr("A turn keeps at least one word."))
            return
        self.take(lambda now: move_boundary(now, turn.id, words), tr("Move the start of a turn"))
        self.sheet.move_caret(Spot(self._place_of(turn), 0))

    def _place_of(self, turn: Turn) -> int:
        return next((k for k, one in enumerate(self.sheet.turns) if one.id == turn.id), 0)

    def paragraphs(self) -> None:
        """Break long turns at sentence ends into paragraphs of about so many words."""
        history = self.session.history
        count = self.ask.paragraph_length()
        if count is None:
            return
        before = self.session.project
        self.take(lambda project: set_paragraphs(project, count), tr("Set paragraphs"), within=history)
        if self.session.project is before:
            self.desk.say(tr("The paragraphs already have that length."))
