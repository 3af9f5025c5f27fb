"""Hand tools of Captions as commands: each one undo step, by key and in the menu of a caption."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import TYPE_CHECKING

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.captions.places import Place, named_place, placed, settings_of
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.edits.captions import shape, times
from dubrel.edits.notes import QUERY, with_note
from dubrel.model import Caption, Project
from dubrel.project.history import History
from dubrel.user.settings import SETTINGS

if TYPE_CHECKING:
    from dubrel.desk.captions.questions import CaptionQuestions
    from dubrel.desk.captions.stanzas import CaptionSheet

_ON = ("caption",)
_NUDGES = (
    ("in", -1, "F5", tr("In time of the caption earlier"), tr("In time earlier, with the neighbour")),
    ("in", 1, "F6", tr("In time of the caption later"), tr("In time later, with the neighbour")),
    ("out", -1, "F7", tr("Out time of the caption earlier"), tr("Out time earlier, with the neighbour")),
    ("out", 1, "F8", tr("Out time of the caption later"), tr("Out time later, with the neighbour")),
)


class CaptionEditing:
    """What a person does to captions.

    Parameters
    ----------
    desk : Desk
    ask : CaptionQuestions
    sheet : callable
        The sheet; made when it is first wanted.
    """

    def __init__(self, desk: Desk, ask: CaptionQuestions, sheet: Callable[[], CaptionSheet]) -> None:
        self.desk, self.session, self.ask, self._sheet = desk, desk.session, ask, sheet

    @property
    def sheet(self) -> CaptionSheet:
        """The sheet of captions."""
        return self._sheet()

    @property
    def project(self) -> Project:
        """What is open now."""
        return self.session.project

    def none_chosen(self) -> str:
        """Why nothing can be done to a caption."""
        if reason := self.desk.without_captions():
            return reason
        return "" if self.sheet.current >= 0 else tr("No caption is chosen. Choose one in Captions.")

    def _no_word(self) -> str:
        if reason := self.none_chosen():
            return reason
        return (
            ""
            if self.sheet.word is not None
            else tr("This caption has a text of its own, no spoken words. Edit its text.")
        )

    @property
    def caption(self) -> Caption:
        """The chosen caption."""
        found = self.sheet.caption
        if found is None:
            raise DubrelError(tr("No caption is chosen. Choose one in Captions."))
        return found

    def apply(self, made: Project, label: str, *, base: Project) -> None:
        """Make a step of what was made from a value, which no other joins."""
        self.session.history.seal()
        self.session.apply(made, label, base=base)
        self.session.history.seal()

    def step(self, verb: Callable[[Project], Project], label: str, *, within: History | None = None) -> None:
        """Make a step from what is present, which no other joins."""
        self.session.history.seal()
        self.session.step(verb, label, within=within)
        self.session.history.seal()

    # -- commands ---------------------------------------------------------------------

    def commands(self) -> list[Command]:
        """All hand tools."""
        any_, word, none = self.none_chosen, self._no_word, self.desk.without_captions
        sound = first(self.desk.without_recording, any_)
        return [
            *self._shape_commands(any_, word),
            *self._word_commands(any_, word),
            *self._time_commands(any_, sound),
            *self._whole_commands(any_, word, none),
            *self._place_commands(any_),
            Command(
                "select_captions", tr("Select all captions"), "Alt+A", lambda: self.sheet.select_all(), none
            ),
        ]

    def _shape_commands(self, any_: Callable[[], str], word: Callable[[], str]) -> list[Command]:
        return [
            Command(
                "edit_caption",
                tr("Edit the text of the caption"),
                "Ctrl+Shift+Return",
                self.edit_text,
                any_,
                _ON,
            ),
            Command("split_caption", tr("Split the caption at the word"), "Alt+S", self.split, any_, _ON),
            Command(
                "split_at_playhead",
                tr("Split the caption at the playhead"),
                "Shift+F9",
                self.split_at_playhead,
                any_,
                _ON,
            ),
            Command(
                "join_next", tr("Join the caption with the next"), "Alt+J", partial(self.join, 1), any_, _ON
            ),
            Command(
                "join_before",
                tr("Join the caption with the one before"),
                "Ctrl+B",
                partial(self.join, -1),
                any_,
                _ON,
            ),
            Command(
                "break_here",
                tr("Break the line before the word, or join the lines there"),
                "Alt+Return",
                self.break_here,
                word,
                _ON,
            ),
        ]

    def _word_commands(self, any_: Callable[[], str], word: Callable[[], str]) -> list[Command]:
        return [
            Command(
                "last_to_next",
                tr("Move the last word to the next caption"),
                "Ctrl+F2",
                partial(self.move, "out", 1),
                word,
            ),
            Command(
                "first_to_before",
                tr("Move the first word to the caption before"),
                "Ctrl+F1",
                partial(self.move, "in", -1),
                word,
            ),
            Command(
                "take_from_next",
                tr("Take the first word of the next caption"),
                "Ctrl+Shift+F2",
                partial(self.move, "out", -1),
                word,
            ),
            Command(
                "take_from_before",
                tr("Take the last word of the caption before"),
                "Ctrl+Shift+F1",
                partial(self.move, "in", 1),
                word,
            ),
            Command(
                "hide_word",
                tr("Hide the word in this caption, or show it again"),
                "Alt+H",
                self.hide_word,
                word,
                _ON,
            ),
            Command(
                "show_hidden", tr("Show all words of the caption"), "Shift+F6", self.show_hidden, any_, _ON
            ),
        ]

    def _whole_commands(
        self, any_: Callable[[], str], word: Callable[[], str], none: Callable[[], str]
    ) -> list[Command]:
        return [
            Command("insert_caption", tr("Insert a caption at the playhead"), "Alt+N", self.insert, none),
            Command(
                "delete_captions",
                tr("Delete the captions; their words stay"),
                "Ctrl+Delete",
                self.delete,
                any_,
                _ON,
            ),
            Command(
                "tick_caption",
                tr("Tick the captions as done, or untick them"),
                "Alt+T",
                self.tick,
                any_,
                _ON,
            ),
            Command(
                "next_not_done",
                tr("Go to the next caption that is not done"),
                "Shift+F2",
                self.next_not_done,
                none,
            ),
            Command("caption_query", tr("Add a query to the caption"), "Alt+Q", self.query, word, _ON),
            Command("let_go", tr("Unlock manual changes"), "Alt+R", self.release, any_, _ON),
        ]

    def _place_commands(self, any_: Callable[[], str]) -> list[Command]:
        return [
            Command(
                "place_top",
                tr("Move the captions to the top of the picture"),
                "Ctrl+PgUp",
                partial(self.place, "top"),
                any_,
                _ON,
            ),
            Command(
                "place_bottom",
                tr("Move the captions to the bottom of the picture"),
                "Ctrl+PgDown",
                partial(self.place, "bottom"),
                any_,
                _ON,
            ),
            Command(
                "place_usual",
                tr("Put the captions where the house style places them"),
                "Ctrl+Shift+F10",
                partial(self.place, ""),
                any_,
                _ON,
            ),
        ]

    def _nudges(self, any_: Callable[[], str]) -> Iterator[Command]:
        """In and out times by a frame, alone and with the neighbour."""
        for edge, step, key, alone, along in _NUDGES:
            name = f"caption_{edge}_{'earlier' if step < 0 else 'later'}"
            yield Command(name, alone, f"Ctrl+Shift+{key}", partial(self.nudge, edge, step, False), any_)
            yield Command(f"{name}_along", along, f"Ctrl+{key}", partial(self.nudge, edge, step, True), any_)

    def _time_commands(self, any_: Callable[[], str], sound: Callable[[], str]) -> list[Command]:
        return [
            *self._nudges(any_),
            Command(
                "tap_in", tr("The caption comes in at the playhead"), "Alt+I", partial(self.tap, "in"), sound
            ),
            Command(
                "tap_out",
                tr("The caption goes out at the playhead, on to the next"),
                "Alt+O",
                partial(self.tap, "out"),
                sound,
            ),
            Command(
                "close_gaps",
                tr("Close short gaps between the captions"),
                "Alt+C",
                partial(self.gaps, True),
                any_,
                _ON,
            ),
            Command(
                "open_gaps",
                tr("Open the gaps that are too small"),
                "Ctrl+Shift+F9",
                partial(self.gaps, False),
                any_,
                _ON,
            ),
        ]

    # -- text -------------------------------------------------------------------------

    def edit_text(self) -> None:
        """Edit the text where it stands."""
        self.desk.go("captions")
        self.sheet.text_wanted.emit()

    def split(self) -> None:
        """Split at the chosen word, or a text of its own in the middle."""
        caption, word = self.caption, self.sheet.word
        if word is None:
            self.step(lambda project: shape.split_text(project, caption.id, 0.5), tr("Split a caption"))
            return
        shown = self.sheet.words_of(caption)
        if word is shown[0]:
            raise DubrelError(
                tr("Choose the word that begins the new caption: Left and Right go from word to word.")
            )
        self.step(lambda project: shape.split_caption(project, caption.id, word.id), tr("Split a caption"))

    def split_at_playhead(self) -> None:
        """Split where the playhead is."""
        ms = self.desk.player.position
        caption = next((one for one in self.sheet.captions if one.start_ms < ms < one.end_ms), None)
        if caption is None:
            raise DubrelError(tr("The playhead is in no caption. Move it into one."))
        project = self.project
        if not caption.words:
            share = (ms - caption.start_ms) / (caption.end_ms - caption.start_ms)
            made = shape.split_text(project, caption.id, share)
        else:
            word = shape.word_at_time(project, caption, ms)
            if word is None:
                raise DubrelError(tr("A caption of one word cannot be split. Choose a longer one."))
            made = shape.split_caption(project, caption.id, word.id)
        self.apply(made, tr("Split a caption"), base=project)

    def join(self, step: int) -> None:
        """Join with a neighbour, or all that are selected with each other."""
        ids = self.sheet.concerned
        project = base = self.project
        place = self.sheet.current
        if len(ids) > 1:
            for _ in ids[1:]:
                project = shape.join_caption(project, ids[0], 1)
            place -= len(ids) - 1
        else:
            project = shape.join_caption(project, self.caption.id, step)
            place -= step < 0
        self.apply(project, tr("Join captions"), base=base)
        self.sheet.choose(place, seek=False)

    def break_here(self) -> None:
        """Break the line before the chosen word."""
        word = self.sheet.word
        assert word is not None
        self.step(lambda project: shape.break_line(project, self.caption.id, word.id), tr("Break a line"))

    def move(self, edge: str, step: int) -> None:
        """Move a word over an edge."""
        self.step(
            lambda project: shape.move_words(project, self.caption.id, edge, step),
            tr("Move a word to a neighbour"),
        )

    def hide_word(self) -> None:
        """Hide the chosen word in this caption."""
        word = self.sheet.word
        assert word is not None
        self.step(
            lambda project: shape.hide_words(project, self.caption.id, [word.id]),
            tr("Hide a word in a caption"),
        )

    def show_hidden(self) -> None:
        """Show all words again."""
        one = self.caption
        self.step(
            lambda project: shape.hide_words(project, one.id, one.hidden, False),
            tr("Show all words of a caption"),
        )

    def query(self) -> None:
        """Add a query beside the words of the caption."""
        history = self.session.history
        words = [word.id for word in self.sheet.words_of(self.caption)]
        text = self.ask.line(tr("Query"), tr("What do you want to ask about this caption?"))
        if text:
            self.step(
                lambda project: with_note(project, QUERY, text, words, SETTINGS.read().name)[0],
                tr("Add a query"),
                within=history,
            )

    def insert(self) -> None:
        """Insert a caption with a text of its own."""
        history, ms = self.session.history, self.desk.player.position
        text = self.ask.line(tr("Insert a caption"), tr("Its text; / begins a line"))
        if text:
            lines = "\n".join(line.strip() for line in text.split("/"))
            self.step(
                lambda project: shape.insert_caption(project, ms, lines)[0],
                tr("Insert a caption"),
                within=history,
            )
            self.sheet.choose_at(ms)

    def delete(self) -> None:
        """Delete the captions."""
        ids = self.sheet.concerned
        self.step(lambda project: shape.delete_captions(project, ids), tr("Delete captions"))
        self.desk.say(
            tr("Deleted: {captions}. The words stay in the transcript.").format(
                captions=counted(len(ids), "caption")
            )
        )

    # -- times ------------------------------------------------------------------------

    def nudge(self, edge: str, step: int, along: bool) -> None:
        """Move an edge by a frame or 10 ms; a run of presses is one step."""
        one = self.caption.id
        self.session.step(
            lambda project: times.nudge(project, one, edge, step, along=along),
            tr("Nudge a caption"),
            key=f"nudge-{one}-{edge}-{along}",
        )

    def tap(self, edge: str) -> None:
        """Time the caption while it plays."""
        caption, ms = self.caption, self.desk.player.position
        tapped = times.tap_in if edge == "in" else times.tap_out
        self.step(
            lambda project: tapped(project, caption.id, ms),
            tr("{edge} time at the playhead").format(edge=edge.capitalize()),
        )
        if edge == "out" and self.sheet.current + 1 < len(self.sheet.captions):
            self.sheet.choose(self.sheet.current + 1, seek=False)

    def gaps(self, close: bool) -> None:
        """Close or open the gaps of the selection, or of all."""
        some = self.sheet.selected or None
        project = self.project
        made = (times.close_gaps if close else times.open_gaps)(project, some)
        if made is project:
            self.desk.say(tr("There is no such gap. Select other captions."))
        else:
            self.apply(made, tr("Close gaps") if close else tr("Open gaps"), base=project)

    # -- marks ------------------------------------------------------------------------

    def tick(self) -> None:
        """Tick off; the next one that is not done follows where one is ticked alone."""
        ids = self.sheet.concerned
        done = not all(one.done for one in self.sheet.captions if one.id in ids)
        self.step(
            lambda project: shape.set_done(project, ids, done),
            tr("Tick captions") if done else tr("Untick captions"),
        )
        if done and len(ids) == 1:
            self.sheet.next_where(lambda one: not one.done)

    def next_not_done(self) -> None:
        """Go to the next caption that is not done."""
        if not self.sheet.next_where(lambda one: not one.done):
            self.desk.say(tr("Every caption is done."))

    def release(self) -> None:
        """The captions may be set again as any others."""
        self.step(lambda project: shape.let_go(project, self.sheet.concerned), tr("Unlock manual changes"))

    def place(self, level: str) -> None:
        """Put the captions at the top, at the bottom, or where the style has them."""
        track = self.project.captions
        assert track is not None
        usual = named_place(track.rules.place)
        text = settings_of(named_place(f"{level} {usual.side}")) if level else ""
        self.step(lambda project: shape.set_place(project, self.sheet.concerned, text), tr("Place captions"))

    def dragged(self, caption_id: int, x: float, y: float) -> None:
        """Put a caption where it was dragged on the picture."""
        place = settings_of(Place(x, y, "centre", "middle"))
        self.step(lambda project: shape.set_place(project, [caption_id], place), tr("Place captions"))

    def place_now(self) -> str:
        """Where the chosen caption stands, in words."""
        track, caption = self.project.captions, self.sheet.caption
        return tr(placed(caption, track.rules).name) if track and caption else ""
