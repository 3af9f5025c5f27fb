"""Cut: out with pauses, fillers and what is said again; the edit goes into a list, a sound, a film."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_length
from dubrel.desk.cut.cameras.cameracutting import CameraCutting
from dubrel.desk.cut.clips.clipping import Clipping
from dubrel.desk.cut.cropping import Cropping
from dubrel.desk.cut.editing import CutEditing
from dubrel.desk.cut.exporting import CutExport
from dubrel.desk.cut.proposing import Proposing
from dubrel.desk.cut.questions import CutQuestions
from dubrel.desk.cut.striplayer import CutLayer
from dubrel.desk.sheet.meanings import Meanings
from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.shell.core.todo import ToDo
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.shell.kit.theme import Theme
from dubrel.edits.cuts.reading import CutReading, Token
from dubrel.edits.cuts.totals import KINDS, figures
from dubrel.edits.cuts.trimming import WHOLE, length_of
from dubrel.model import Cut, CutPassage
from dubrel.project.changes import Change
from dubrel.project.timeline import timeline

if TYPE_CHECKING:
    from dubrel.desk.cut.cameras.camerapage import CameraPage
    from dubrel.desk.cut.cameras.camerapanel import CameraPanel
    from dubrel.desk.cut.clips.clippage import ClipPage
    from dubrel.desk.cut.clips.clippanel import ClipPanel
    from dubrel.desk.cut.page import CutPage
    from dubrel.desk.cut.panel import CutPanel
    from dubrel.desk.cut.playing import CutPlayer


class CutRoom(Room):
    """The fourth pass."""

    id, name = "cut", tr("Cut")
    hints: tuple[tuple[str, str], ...] = (
        ("take_out", tr("take out")),
        ("put_back", tr("put back")),
        ("next_look", tr("next join")),
        ("play_cut", tr("play the cut")),
    )
    ahead = (
        "dubrel.desk.cut.page",
        "dubrel.desk.cut.panel",
        "dubrel.edits.cuts.pauses",
        "dubrel.desk.cut.clips.clippage",
        "dubrel.desk.cut.clips.clippanel",
        "dubrel.finding.clips.ranking",
        "dubrel.desk.cut.cameras.camerapage",
        "dubrel.edits.cameras.picturecut",
    )

    def __init__(self, desk: Desk, speech: SpeechLayer, meanings: Meanings) -> None:
        super().__init__(desk)
        self.session = desk.session
        self.ask = CutQuestions(desk)
        self.cut_id = 0
        self.proposing = Proposing(desk, self._proposed)
        self.editing = CutEditing(self)
        self.writing = CutExport(self)
        self._page: CutPage | None = None
        self._panel: CutPanel | None = None
        self._player: CutPlayer | None = None
        self._reading = CutReading()
        self._looked: tuple[int, tuple[int, int]] | None = None  # a join, and where one stood then
        self.clips = Clipping(self, meanings)
        self.cameras = CameraCutting(self, self.clips.close)
        self.clips.leave_others = lambda: self.cameras.set_on(False)
        self.cropping = Cropping(desk, lambda: self.clips.shown if self.clips.on else None)
        self._layer = CutLayer(speech, self._on_strip, self._offered, self._drag, self._dropped)
        self.session.opened.connect(self._opened)
        self.session.changed.connect(self._changed)
        for suffix in (".otio", ".otioz", ".edl"):
            desk.openers[suffix] = self.writing.open_list

    # -- parts -----------------------------------------------------------------------------

    @property
    def page(self) -> CutPage | ClipPage | CameraPage:
        """The cut, clips, or cameras."""
        if self.cameras.on:
            return self.cameras.page
        return self.clips.page if self.clips.on else self.cut_page

    @property
    def cut_page(self) -> CutPage:
        """Rules and sheet."""
        if self._page is None:
            from dubrel.desk.cut.page import CutPage  # late: the window opens without it

            made = self._page = CutPage(self.desk, self.proposing.rules)
            made.rules_changed.connect(self.proposing.set_rules)
            made.wanted.connect(lambda name: self.desk.commands.run(name))
            made.cut_chosen.connect(self.choose)
            made.sheet.moved.connect(self._show_here)
            made.sheet.ticked.connect(self._show_figures)
            made.sheet.out_wanted.connect(lambda: self.desk.commands.run("take_out"))
            made.sheet.back_wanted.connect(lambda: self.desk.commands.run("put_back"))
            made.sheet.seek_wanted.connect(self.desk.player.seek)
            self.desk.player.moved.connect(self._follow)
        return self._page

    @property
    def panel(self) -> CutPanel | ClipPanel | CameraPanel:
        """Figures, and the join where one stands; or what is known of a clip or a camera."""
        if self.cameras.on:
            return self.cameras.panel
        return self.clips.panel if self.clips.on else self._cut_panel()

    def other_pages(self) -> list[Callable[[], QWidget]]:
        """Clips and cameras take the place of the cut."""
        return [lambda: self.clips.page, lambda: self.cameras.page]

    def _cut_panel(self) -> CutPanel:
        if self._panel is None:
            from dubrel.desk.cut.panel import CutPanel  # late: as above

            made = self._panel = CutPanel()
            made.wanted.connect(lambda name: self.desk.commands.run(name))
            made.join_changed.connect(self.editing.set_join)
            self._show_figures()
            self._show_here()
        return self._panel

    @property
    def player(self) -> CutPlayer:
        """What plays a cut; made at the first need."""
        if self._player is None:
            from dubrel.desk.cut.playing import CutPlayer  # late: as above

            self._player = CutPlayer(self.desk)
            self._player.failed.connect(self.desk.say)
        return self._player

    @property
    def layer(self) -> CutLayer:
        """The cut over the sound."""
        return self._layer

    @property
    def cut(self) -> Cut | None:
        """The cut that is shown."""
        chosen = self.session.project.cut(self.cut_id)
        return chosen or next((one for one in self.session.project.cuts if not one.clip), None)

    @property
    def cut_or_all(self) -> Cut | None:
        """The cut that is shown; without one all of the recording, where several cameras show it."""
        project = self.session.project
        if self.cut is not None or len(project.cameras.seen) < 2:
            return self.cut
        return Cut(0, WHOLE, (CutPassage(0, length_of(project)),))

    def ticked(self) -> list:
        """What is proposed and to go."""
        return self.proposing.ticked(self._page.sheet.off if self._page else set())

    # -- shown -------------------------------------------------------------------------------

    def _on_strip(self) -> Cut | None:
        """What the strip shows: the clip that is chosen, or the cut."""
        return self.clips.shown if self.clips.on else self.cut

    def _offered(self) -> list:
        return [] if self.elsewhere else self.ticked()

    def _drag(self, place: int, edge: str, ms: int) -> None:
        """Move an edge; of a clip that is only proposed there is none yet."""
        shown = self._on_strip()
        if shown is None or not shown.id:
            return
        self.cut_id = shown.id
        self.editing.drag(place, edge, ms)

    def _dropped(self, place: int, edge: str) -> None:
        """An edge that was moved stays; where the cut is shown, its join is played."""
        if not self.elsewhere:
            self.editing.dropped(place, edge)

    @property
    def elsewhere(self) -> bool:
        """Whether clips or cameras take the place of the cut."""
        return self.clips.on or self.cameras.on

    def enter(self) -> None:
        """Read the cut, and look for what could go; or for clips, or at the cameras."""
        if self.cameras.on:
            self.cameras.refresh()
            return
        if self.clips.on:
            self.clips.refresh()
            self.clips.finding.look()
            return
        self.refresh()
        self.proposing.look()

    def leave(self) -> None:
        """The cut is played no longer."""
        if self._player is not None:
            self._player.pause()
            self.desk.player.follow(None)

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        if self._page is not None:
            self._page.set_theme(theme)

    def _opened(self) -> None:
        self.cut_id = 0
        self._reading = CutReading()
        if self._page is not None:
            self._page.sheet.off.clear()
            self._page.sheet.opened.clear()
        if self.desk.room == self.id:
            self.enter()

    def _changed(self, change: Change) -> None:
        if self.desk.room != self.id:
            return
        same = change.old.cuts is change.new.cuts
        if same and not change.turns and not change.speakers and change.old.media is change.new.media:
            return
        again = bool(change.turns) or change.old.media is not change.new.media
        if self.clips.on:
            self.clips.refresh()
            if again:
                self.clips.finding.look()
            return
        if self.cameras.on:
            return
        self.refresh()
        if again:
            self.proposing.look()
        self.desk.marked.emit()

    def _proposed(self) -> None:
        """Other things are proposed."""
        if self.desk.room == self.id and not self.elsewhere:
            self.refresh()
            self.desk.marked.emit()
        self.desk.counted.emit()

    def refresh(self) -> None:
        """Show the cut as it is."""
        self._looked = None
        project, cut, page = self.session.project, self.cut, self.cut_page
        page.sheet.show_paragraphs(self._reading.paragraphs(project, cut, self.proposing.open(cut)))
        page.show_cuts([(one.id, one.name) for one in project.cuts], cut.id if cut else 0)
        self._show_figures()

    def _show_figures(self) -> None:
        project, cut = self.session.project, self.cut
        whole, ticked = length_of(project), self.ticked()
        found = figures(cut, whole) if cut else None
        if self._page is not None:
            saves = sum(one.end_ms - one.start_ms for one in ticked)
            offered = None if self.proposing.busy else len(self.proposing.open(cut))
            self._page.show_figures(found, whole, len(ticked), saves, offered)
        if self._panel is not None:
            done = {kind: (count, ms) for kind, count, ms in found.by_kind} if found else {}
            by_kind = {}
            for kind, reasons in KINDS.items():
                some = [one for one in ticked if one.why in reasons]
                if some:
                    by_kind[kind] = (len(some), sum(one.end_ms - one.start_ms for one in some))
            self._panel.show_kinds(done, by_kind)
        self.desk.counted.emit()

    def _show_here(self) -> None:
        """What is known of where one stands."""
        if self._panel is None or self._page is None:
            return
        token, join = self._page.sheet.current(), self.editing.join_here()
        if token is None:
            self._panel.show_here("", "", None)
            return
        heading, text = _told(token)
        cut = self.cut
        media = self.session.project.media
        here = cut.passages[join] if cut and join is not None else None
        self._panel.show_here(heading, text, here, bool(media and media.has_video))

    def _follow(self, ms: int) -> None:
        if self._page is not None and self.desk.room == self.id:
            self._page.sheet.follow(ms)
            if self._panel is not None:
                cut = self.cut
                clock = timeline(cut, self.session.project.frame_rate) if cut and cut.joins else None
                self._panel.show_clock(clock.placed(ms) if clock else None)

    def choose(self, cut_id: int) -> None:
        """Show another cut."""
        self.cut_id = cut_id
        if self.cameras.on:
            self.cameras.refresh()
        elif not self.clips.on:
            self.refresh()
        self.desk.marked.emit()

    def todo(self) -> ToDo:
        """How many joins there are, or how much could go."""
        cut = next((one for one in self.session.project.cuts if not one.clip), None)
        clips = sum(one.clip for one in self.session.project.cuts)
        parts = [counted(clips, "clip")] if clips else []
        if cut is not None and cut.joins:
            saved = length_of(self.session.project) - cut.length_ms
            parts = [f"{counted(cut.joins, 'join')}, −{format_length(max(0, saved))}"]
        cameras = self.session.project.cameras
        if not parts and len(cameras.seen) > 1:
            parts = [counted(cameras.shots, "shot")]
        return ToDo(parts[0], 1.0) if parts else ToDo()

    # -- commands -----------------------------------------------------------------------------

    def commands(self) -> list[Command]:
        """What can be done here."""
        here = first(self.desk.without_words, self._not_here)
        sound = first(self.desk.without_recording, self._no_cut)
        shown = first(self.desk.without_recording, self._nothing_shown)
        edit, write = self.editing, self.writing
        on = ("cut",)
        return [
            Command(
                "take_out_ticked", tr("Take out what is ticked"), "Ctrl+Alt+W", edit.take_out_ticked, here
            ),
            Command(
                "take_out", tr("Take the selection out of the cut"), "Ctrl+Alt+X", edit.take_out, here, on
            ),
            Command("put_back", tr("Put what was taken out back"), "Ctrl+Alt+I", edit.put_back, here, on),
            Command("tick", tr("Tick the proposal, or untick it"), "Ctrl+Shift+J", edit.tick, here, on),
            Command("other_take", tr("Keep another take"), "Ctrl+F3", edit.other_take, here, on),
            Command(
                "play_proposal", tr("Play what is proposed or out"), "Ctrl+Shift+P", self.play_here, here, on
            ),
            Command("play_cut", tr("Play the cut"), "Alt+W", self.play_cut, shown, on),
            Command("play_join", tr("Play the join"), "F3", self.play_join, sound, on),
            *(
                Command(f"nudge_{edge}_{word}", text, keys, partial(edit.nudge, edge, step), here)
                for edge, word, step, text, keys in (
                    ("out", "earlier", -1, tr("End the passage before the join a frame earlier"), "Ctrl+F11"),
                    ("out", "later", 1, tr("End the passage before the join a frame later"), "Ctrl+F12"),
                    ("in", "earlier", -1, tr("Begin the passage after the join a frame earlier"), "Ctrl+F9"),
                    ("in", "later", 1, tr("Begin the passage after the join a frame later"), "Ctrl+F10"),
                )
            ),
            Command(
                "write_cut", tr("Write the cut: list, sound or film"), "Ctrl+Shift+W", write.write, shown
            ),
            Command("open_cut", tr("Open a cut list"), "", write.ask_for_list, self.desk.without_recording),
            Command(
                "conform",
                tr("The edit has changed: bring words and captions along"),
                "",
                write.conform,
                first(self.desk.without_words, self.desk.without_recording),
                words="conform",
            ),
            Command("new_cut", tr("Begin another cut"), "", edit.new_cut, self._nothing),
            Command("rename_cut", tr("Rename the cut"), "", edit.rename, self._no_cut),
            Command("delete_cut", tr("Delete the cut"), "", edit.delete, self._no_cut),
            *self.clips.commands(),
            *self.cropping.commands(),
            *self.cameras.commands(),
            Command("keep_cut_rules", tr("Keep the rules of cutting under a name"), "", edit.keep_rules),
            Command("cut_rules", tr("Choose rules of cutting"), "", edit.choose_rules),
        ]

    def _not_here(self) -> str:
        if self.elsewhere and self.desk.room == self.id:
            return self._shown_instead()
        return "" if self.desk.room == self.id else tr("Go to Cut first.")

    def _shown_instead(self) -> str:
        what = tr("Cameras are") if self.cameras.on else tr("Clips are")
        return tr("{what} shown. Go back to the cut first.").format(what=what)

    def _nothing(self) -> str:
        return "" if length_of(self.session.project) else tr("There is no recording to cut. Open one first.")

    def _nothing_shown(self) -> str:
        return "" if self.cut_or_all is not None else self._no_cut()

    def _no_cut(self) -> str:
        return "" if self.cut is not None else tr("There is no cut yet. Take something out first.")

    def look(self, step: int) -> None:
        """Go to the next join, or the one before, and play two seconds around it."""
        if self.elsewhere:
            self.desk.say(self._shown_instead())
            return
        if self.cut is None or not self.cut.joins:
            self.desk.say(tr("There is no join yet. Take something out first."))
            return
        cut, sheet = self.cut, self.cut_page.sheet
        place = self._looked[0] if self._looked is not None and self._looked[1] == sheet.caret else None
        if place is None:
            here_now = sheet.current()
            now = (here_now.start_ms + here_now.end_ms) // 2 if here_now is not None else 0
            here = (nth for nth, one in enumerate(cut.passages) if one.start_ms <= now < one.end_ms)
            inside = next(here, None)
            place = self.editing.join_here() if inside is None else inside - (step > 0)
            place = -1 if place is None else place
        place += step
        if not 0 <= place < cut.joins:
            self.desk.say(tr("That was the last join.") if step > 0 else tr("That was the first join."))
            return
        sheet.go_to(cut.passages[place].end_ms)
        token = sheet.current()
        if token is None or abs(token.start_ms - cut.passages[place].end_ms) > 1:
            sheet.go_to(cut.passages[place].end_ms - 1)  # nothing is folded there: it ends in another place
        self._looked = (place, sheet.caret)
        self.play_join()

    # -- playing -----------------------------------------------------------------------------

    def play_cut(self) -> None:
        """Play the cut from where the playhead is."""
        cut = self.cut
        if cut is None:  # all of the recording, from several cameras
            self.desk.player.toggle()
            return
        if self.desk.player.playing and self._player is not None and self._player.playing:
            self._player.pause()
            return
        clock = timeline(cut, self.session.project.frame_rate)
        at = clock.placed(self.desk.player.position)
        if not self.player.play(cut, 0 if at >= clock.length_ms - 50 else at):
            self.desk.say(tr("The cut has no sound that could be played."))

    def play_join(self) -> None:
        """Play two seconds around the join where one stands, as it will sound."""
        cut, place = self.cut, self.editing.join_here()
        if self._looked is not None and self._looked[1] == self.cut_page.sheet.caret:
            place = self._looked[0]
        if cut is None or place is None or place >= len(cut.passages):
            self.desk.say(tr("Go to a join first; F8 goes to the next one."))
            return
        from dubrel.desk.cut.playing import AROUND_MS  # late: as above

        clock = timeline(cut, self.session.project.frame_rate)
        at = clock.placements[min(place, len(clock.placements) - 1)].until_ms
        if not self.player.play(cut, max(0, at - AROUND_MS), at + AROUND_MS):
            self.desk.say(tr("The cut has no sound that could be played."))

    def play_here(self) -> None:
        """Play what is out, or proposed, where one stands, from the recording."""
        token = self.cut_page.sheet.current()
        if token is not None:
            offer = token.proposed
            span = (offer.start_ms, offer.end_ms) if offer else (token.start_ms, token.end_ms)
            self.desk.play(*span)


def _told(token: Token) -> tuple[str, str]:
    """A heading and a sentence about a token."""
    seconds = f"{(token.end_ms - token.start_ms) / 1000:.1f} s"
    offer = token.proposed
    if offer is not None:
        sure = tr(", {sure:.0%} sure").format(sure=offer.sure) if offer.sure < 1 else ""
        doubt = f"; {offer.doubt}" if offer.doubt else ""
        length = f"{(offer.end_ms - offer.start_ms) / 1000:.1f} s"
        return tr("Proposed"), tr("{why}, {length} would go{sure}{doubt}.").format(
            why=tr(offer.why).capitalize(), length=length, sure=sure, doubt=doubt
        )
    if token.kind == "pause":
        return tr("This join"), tr("{seconds} of pause {what}.").format(
            seconds=seconds,
            what=tr("are out") if token.why == "pause" else tr("are {why}").format(why=tr(token.why)),
        )
    if token.kind == "gone":
        return tr("Taken out"), f"{seconds}: {tr(token.why)}."
    return "", ""
