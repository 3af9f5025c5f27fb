"""Editing by key: strike, join, case, punctuation, word times; the hands never leave the keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import frame_beside
from dubrel.desk.sheet.speechlayer import EDGE_SOUND_MS
from dubrel.desk.sheet.spots import Spot
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.edits.words.casing import cased, mark_moved, marks_of, punctuated
from dubrel.edits.words.songlines import has_lines, line_switched, set_song, without_lines
from dubrel.edits.words.striking import all_struck, struck
from dubrel.edits.words.terms import bare
from dubrel.edits.words.wording import join_words
from dubrel.edits.words.wordtimes import word_edge_moved
from dubrel.model import Project, Turn
from dubrel.project.index import turn_place, word_with

_MARKS = (
    ("stop", tr("Add or remove a full stop"), ".", "Alt+."),
    ("comma", tr("Add or remove a comma"), ",", "Alt+,"),
    ("question", tr("Add or remove a question mark"), "?", "Alt+Z"),
    ("exclamation", tr("Add or remove an exclamation mark"), "!", "Alt+'"),
    ("colon", tr("Add or remove a colon"), ":", "Alt+V"),
    ("semicolon", tr("Add or remove a semicolon"), ";", "Alt+;"),
    ("dash", tr("Add or remove a dash"), "–", "Alt+-"),
)
_STEP_MS = 10


class Editing:
    """Edits of the word at the caret or of the selected words."""

    def __init__(self, desk: Desk, sheet: TypingSheet) -> None:
        self.desk, self.sheet, self.session = desk, sheet, desk.session

    def commands(self) -> list[Command]:
        """What can be done, with the first keys."""
        words, both = self.desk.without_words, ("word", "selection")
        selected = first(words, self._too_few)
        marks = [
            Command(
                f"mark_{name}",
                text,
                keys,
                partial(self.punctuate, mark),
                words,
            )
            for name, text, mark, keys in _MARKS
        ]
        return [
            Command("strike", tr("Strike the words, or unstrike them"), "Ctrl+D", self.strike, words, both),
            Command("join_words", tr("Join the words"), "Ctrl+M", self.join, selected, ("selection",)),
            Command("case", tr("Change capitals"), "Shift+F3", self.case, words, both),
            *marks,
            *self._song_commands(words),
            Command(
                "mark_back",
                tr("Move the mark to the word before"),
                "Alt+Home",
                partial(self.move_mark, -1),
                words,
            ),
            Command(
                "mark_on",
                tr("Move the mark to the next word"),
                "Alt+End",
                partial(self.move_mark, 1),
                words,
            ),
            *self._edges(words),
            Command(
                "neighbour", tr("Let the neighbour follow a word’s edge, or stay"), "", self.switch_neighbour
            ),
        ]

    def _song_commands(self, words: Callable[[], str]) -> list[Command]:
        return [
            Command(
                "song",
                tr("Find lines and stanzas of a song"),
                "",
                self.set_song,
                words,
                ("selection", "turn"),
            ),
            Command(
                "song_line",
                tr("Begin a line of a song here, or join it to the line before"),
                "Shift+Return",
                self.switch_line,
                first(words, self._inside),
                ("word",),
            ),
            Command(
                "song_plain",
                tr("Take out the lines of a song"),
                "",
                self.take_lines_out,
                first(words, self._no_lines),
                ("selection", "turn"),
            ),
        ]

    def _edges(self, words: Callable[[], str]) -> list[Command]:
        """Nudging a word's in and out time, by ten milliseconds and by a frame."""
        table = (
            ("in_back", tr("Word’s in time 10 ms earlier"), "Ctrl+[", "in", -1, False),
            ("in_on", tr("Word’s in time 10 ms later"), "Ctrl+]", "in", 1, False),
            ("out_back", tr("Word’s out time 10 ms earlier"), "Ctrl+Shift+[", "out", -1, False),
            ("out_on", tr("Word’s out time 10 ms later"), "Ctrl+Shift+]", "out", 1, False),
            ("in_frame_back", tr("Word’s in time one frame earlier"), "Alt+[", "in", -1, True),
            ("in_frame_on", tr("Word’s in time one frame later"), "Alt+]", "in", 1, True),
            ("out_frame_back", tr("Word’s out time one frame earlier"), "Alt+PgUp", "out", -1, True),
            ("out_frame_on", tr("Word’s out time one frame later"), "Alt+PgDown", "out", 1, True),
        )
        return [
            Command(name, text, keys, partial(self.nudge, edge, step, frame), words)
            for name, text, keys, edge, step, frame in table
        ]

    # -- what is meant -----------------------------------------------------------------

    def chosen(self) -> list[int]:
        """Ids of the selected words, or of the one at the caret."""
        turns = self.sheet.turns
        ids = [w.id for k, start, stop in self.sheet.selected_words() for w in turns[k].words[start:stop]]
        if ids:
            return ids
        found = self.sheet.word_at_caret()
        return [found[0].words[found[1]].id] if found and found[1] >= 0 else []

    def _too_few(self) -> str:
        selected = self.sheet.selected_words()
        if sum(stop - start for _, start, stop in selected) < 2:
            return tr("Select the words to join first.")
        return (
            "" if len(selected) == 1 else tr("Words of several turns cannot be joined. Join the turns first.")
        )

    def _names(self) -> set[str]:
        """Words that keep their capital."""
        project = self.session.project
        terms = [one.right for one in (*project.terms, *self.desk.known_terms())]
        people = [one.name for one in project.transcript.speakers]
        return {bare(part) for name in (*terms, *people) for part in name.split()}

    def _apply(self, project: Project, label: str, key: str | None = None) -> bool:
        """Take a step that was made of what is present just now; the selection stays in its words."""
        before = self.session.project
        self.session.apply(project, label, base=before, key=key)
        return self.session.project is not before

    # -- doing -------------------------------------------------------------------------

    def strike(self) -> None:
        """Strike the chosen words, or take it back where all of them are struck."""
        ids = self.chosen()
        on = not all_struck(self.session.project, set(ids))
        what = counted(len(ids), "word")
        if self._apply(
            struck(self.session.project, ids, on),
            tr("Strike {what}").format(what=what) if on else tr("Unstrike {what}").format(what=what),
        ):
            self.desk.say(
                tr("Struck: {what}.").format(what=what)
                if on
                else tr("No longer struck: {what}.").format(what=what)
            )

    def join(self) -> None:
        """Join the selected words into one."""
        place, start, stop = self.sheet.selected_words()[0]
        turn = self.sheet.turns[place]
        if self._apply(join_words(self.session.project, turn.id, start, stop), tr("Join words")):
            self.sheet.select_words(place, start, start + 1)

    def case(self) -> None:
        """Change the capitals of the chosen words."""
        self._apply(cased(self.session.project, self.chosen()), tr("Change capitals"))

    def _word(self) -> tuple[Turn, int] | None:
        """The turn and the place of the word at the caret; at its beginning, the one before."""
        found = self.sheet.word_at_caret()
        if found is None or found[1] < 0:
            return None
        turn, place = found
        at_start = self.sheet.caret.place == turn.offsets[place]
        if self.sheet.anchor == self.sheet.caret and at_start and place:
            place -= 1
        return turn, place

    def punctuate(self, mark: str) -> None:
        """Add a mark behind the word at the caret; the same one again takes it away."""
        found = self._word()
        if found is None:
            return
        turn, place = found
        project = punctuated(self.session.project, turn.id, place, mark, self._names())
        taken = marks_of(turn.words[place].text)[1] == mark
        behind = self.sheet.caret.place >= turn.offsets[place] + len(turn.words[place].text)
        if self._apply(project, tr("Remove a mark") if taken else tr("Add a mark")) and behind:
            self._caret_behind(turn.id, place)

    def move_mark(self, step: int) -> None:
        """Move the mark behind the word at the caret; the caret goes along."""
        found = self._word()
        if found is None:
            return
        turn, place = found
        if self._apply(
            mark_moved(self.session.project, turn.id, place, step, self._names()), tr("Move a mark")
        ):
            self._caret_behind(turn.id, place + step)

    def _caret_behind(self, turn_id: int, place: int) -> None:
        at = turn_place(self.session.project, turn_id)
        turn = self.sheet.turns[at]
        self.sheet.move_caret(Spot(at, turn.offsets[place] + len(turn.words[place].text)))

    # -- songs -------------------------------------------------------------------------

    def _turns(self) -> list[Turn]:
        """The turns that the selection touches; without one, that of the caret."""
        first, last = sorted((self.sheet.anchor.turn, self.sheet.caret.turn))
        return list(self.sheet.turns[first : last + 1])

    def _no_lines(self) -> str:
        return "" if has_lines(self._turns()) else tr("There are no lines of a song here.")

    def _inside(self) -> str:
        found = self._word_behind()
        return (
            "" if found and found[1] else tr("A turn begins with a line. Put the caret before a later word.")
        )

    def _word_behind(self) -> tuple[Turn, int] | None:
        """The turn at the caret, and its first word that begins at or behind it, or that it stands in."""
        found = self.sheet.word_at_caret()
        if found is None or found[1] < 0:
            return None
        turn, place = found
        behind = self.sheet.caret.place >= turn.offsets[place] + len(turn.words[place].text)
        return (turn, place + 1) if behind and place + 1 < len(turn.words) else (turn, place)

    def set_song(self) -> None:
        """Find the lines and stanzas of the selected turns."""
        before, ids = self.session.project, [turn.id for turn in self._turns()]
        made = beside(lambda: set_song(before, ids))
        if made is before:
            self.desk.say(tr("Its lines and stanzas are as they are sung."))
            return
        self.session.apply(made, tr("Find lines and stanzas"), base=before)
        self.desk.say(tr("Lines and stanzas found. Shift+Return begins or joins a line."))

    def switch_line(self) -> None:
        """Begin a line with the word at the caret, or join it to the line before."""
        found = self._word_behind()
        if found is None:
            return
        turn, place = found
        made = line_switched(self.session.project, turn.id, turn.words[place].id)
        label = tr("Join two lines") if turn.words[place].verse else tr("Begin a line")
        if self._apply(made, label):
            at = turn_place(self.session.project, turn.id)
            self.sheet.move_caret(Spot(at, self.sheet.turns[at].offsets[place]))

    def take_lines_out(self) -> None:
        """The selected turns as running text."""
        ids = [turn.id for turn in self._turns()]
        self._apply(without_lines(self.session.project, ids), tr("Take out lines"))

    # -- word times --------------------------------------------------------------------

    def nudge(self, edge: str, step: int, frame: bool) -> None:
        """Move an edge of the word at the caret, and play the sound there."""
        found = self.sheet.word_at_caret()
        if found is None or found[1] < 0:
            return
        word = found[0].words[found[1]]
        now = word.start_ms if edge == "in" else word.end_ms
        rate = self.session.project.frame_rate
        wanted = frame_beside(now, step, rate) if frame and rate else now + step * _STEP_MS
        project = word_edge_moved(
            self.session.project, word.id, edge, wanted, neighbour=self.desk.neighbours_follow
        )
        label = tr("Move the {edge} time of a word").format(edge=edge)
        if not self._apply(project, label, key=f"edge-{word.id}-{edge}"):
            self.desk.say(tr("The edge cannot go further. The word beside it is in the way."))
            return
        moved = word_with(self.session.project, word.id)
        if moved is not None:
            self.play_edge(moved.start_ms if edge == "in" else moved.end_ms, edge)

    def play_edge(self, ms: int, edge: str) -> None:
        """Play the sound that an edge cuts off: from an in time on, up to an out time."""
        if self.session.has_recording:
            start = ms if edge == "in" else max(0, ms - EDGE_SOUND_MS)
            self.desk.player.seek(start)
            self.desk.player.play(until=start + EDGE_SOUND_MS)

    def switch_neighbour(self) -> None:
        """Choose whether the word beside an edge follows it."""
        follows = self.desk.neighbours_follow = not self.desk.neighbours_follow
        self.desk.say(
            tr("The neighbour follows the edge.") if follows else tr("The neighbour stays where it is.")
        )
