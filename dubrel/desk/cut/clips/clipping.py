"""What is done with clips: shown, made, played, trimmed, joined, released."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any, Protocol

from dubrel.base.catalogue import counted, shipped, tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.desk.cut.clips.clipfinding import ClipFinding
from dubrel.desk.sheet.meanings import Meanings
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.session import Session
from dubrel.edits.cuts import clips, trimming
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import Cut, CutPassage, Project

if TYPE_CHECKING:
    from pathlib import Path

    from dubrel.desk.cut.clips.cliplist import ClipRow
    from dubrel.desk.cut.clips.clippage import ClipPage
    from dubrel.desk.cut.clips.clippanel import ClipPanel
    from dubrel.jobs.machinery.events import Event


HINTS = (("clips", tr("back to the cut")), ("play", tr("play")), ("undo", tr("undo")))


class ClipsIn(Protocol):
    """What the view of clips knows of the pass in which it stands."""

    id: str
    desk: Desk
    session: Session
    ask: Any
    proposing: Any
    cut_id: int
    hints: tuple[tuple[str, str], ...]

    @property
    def player(self) -> Any:
        """What plays a cut."""

    def choose(self, cut_id: int) -> None:
        """Show another cut."""


class Clipping:
    """The view of clips in Cut."""

    def __init__(self, room: ClipsIn, meanings: Meanings) -> None:
        self.room, self.desk, self.session = room, room.desk, room.session
        self.finding = ClipFinding(room.desk, meanings)
        self.on = False
        self.leave_others: Callable[[], object] = lambda: None  # before clips take their place
        self._page: ClipPage | None = None
        self._panel: ClipPanel | None = None
        self._wanted, self._filling = 0, False
        self._shown: tuple[ClipRow, Cut] | None = None
        self.finding.changed.connect(self.refresh)
        self.session.opened.connect(self._opened)

    def _opened(self) -> None:
        self.on = self.finding.on = False
        self.room.hints = type(self.room).hints
        self._wanted, self._shown = 0, None
        if self._page is not None:
            self._page.list.show_rows([])
            self._page.show_rules(self.finding.rules)

    @property
    def page(self) -> ClipPage:
        """Rules and list."""
        if self._page is None:
            from dubrel.desk.cut.clips.clippage import ClipPage  # late: the window opens without it

            made = self._page = ClipPage(self.desk, self.finding.rules)
            made.rules_changed.connect(self.finding.set_rules)
            made.wanted.connect(lambda name: self.desk.commands.run(name))
            made.list.moved.connect(self._went)
            made.list.selectionModel().selectionChanged.connect(lambda *_: self._show_here())
            self.session.traced.connect(made.list.viewport().update)
        return self._page

    @property
    def panel(self) -> ClipPanel:
        """What is known of the clip that is chosen."""
        if self._panel is None:
            from dubrel.desk.cut.clips.clippanel import ClipPanel  # late: as above

            self._panel = ClipPanel()
            self._panel.wanted.connect(lambda name: self.desk.commands.run(name))
        return self._panel

    @property
    def row(self) -> ClipRow | None:
        """The current row, where clips are shown."""
        return self._page.list.row if self.on and self._page is not None else None

    @property
    def shown(self) -> Cut | None:
        """The clip of the current row, as the strip shows it; what is proposed has no id."""
        row = self.row
        if row is None:
            return None
        if row.clip_id:
            return self.session.project.cut(row.clip_id)
        if self._shown is None or self._shown[0] is not row:
            passages = tuple(CutPassage(start, end) for start, end in row.spans)
            self._shown = (row, Cut(0, row.title, passages))
        return self._shown[1]

    # -- shown -------------------------------------------------------------------------------

    def close(self) -> None:
        """Show them no longer."""
        self.on = self.finding.on = False

    def open(self) -> None:
        """Show clips, or the cut again."""
        self.on = not (self.on and self.desk.room == self.room.id)
        self.leave_others()
        self.finding.on = self.on
        self.room.hints = HINTS if self.on else type(self.room).hints
        self.desk.go(self.room.id)
        if self.on:
            self.page.list.setFocus()
            self.room.proposing.look()  # what could go from a clip

    def refresh(self) -> None:
        """List what was made and what is proposed."""
        if not self.on or self.desk.room != self.room.id:
            return
        from dubrel.desk.cut.clips.cliplist import ClipRow  # late: the window opens without it

        project = self.session.project
        made = [ClipRow.of_cut(one) for one in clips.clips_of(project) if one.passages]
        offered = [
            ClipRow(
                0,
                one.start_ms,
                one.end_ms,
                one.end_ms - one.start_ms,
                one.title,
                "; ".join(one.reasons),
                ((one.start_ms, one.end_ms),),
            )
            for one in self.finding.found
            if not any(_within(row, one.start_ms, one.end_ms) for row in made)
        ]
        wanted = self._wanted if any(row.clip_id == self._wanted for row in made) else 0
        self._wanted = 0
        self._filling = True
        self.page.list.show_rows([*made, *offered], wanted)
        self._filling = False
        self._show_here()

    def _why_empty(self) -> str:
        if reason := self.desk.without_words():
            return reason
        if self.finding.busy:
            return tr("Looking for passages worth sharing …")
        return tr(
            "No passage of that length stands by itself. Allow longer or shorter clips, or clips that "
            "need what is before them."
        )

    def _went(self) -> None:
        """Another row is the current one: the strip and the picture go to it."""
        row = self.row
        if row is not None and row.clip_id:
            self.room.cut_id = row.clip_id  # what is done to the cut is done to the clip that is chosen
        if row is not None and not self.desk.player.playing and self.session.has_recording:
            self.desk.player.seek(row.start_ms)

    def _show_here(self) -> None:
        """What is known of the row where one stands."""
        if not self.on or self._filling:
            return
        page, row = self.page, self.row
        many = len(clips.clips_of(self.session.project))
        like, busy = self.finding.like is not None, self.finding.busy
        page.show_state(self._why_empty(), busy=busy, clips=many, like=like)
        shown, project = self.shown, self.session.project
        if shown is None or row is None:
            self.panel.show_clip("", "", "", (), made=False, several=False)
        else:
            said = clips.said_in(project, shown)
            who = ", ".join(shown_name(project, one) for one in clips.speakers_in(project, shown))
            reasons = [] if row.clip_id else row.why.split("; ")
            several = len(page.list.chosen) > 1
            self.panel.show_clip(row.title, who, said, reasons, made=bool(row.clip_id), several=several)
        self.desk.marked.emit()

    # -- commands -----------------------------------------------------------------------------

    def commands(self) -> list[Command]:
        """What can be done with clips."""
        words, clip = self.desk.without_words, self._no_clip
        return [
            Command("clips", tr("Find clips, or show the cut again"), "Ctrl+Shift+K", self.open, words),
            Command("make_clip", tr("Make a clip of what is chosen"), "", self.make, self._no_row),
            Command("join_clips", tr("Make one clip of what is chosen"), "", self.join, self._no_row),
            Command("play_clip", tr("Play the clip"), "", self.play, self._no_row),
            Command(
                "more_like_this", tr("Find clips like this one, or any again"), "", self.like, self._no_list
            ),
            *(
                Command(f"clip_{name}", text, "", partial(self.trim, edge, step), clip)
                for name, edge, step, text in (
                    ("begin_earlier", "in", -1, tr("Begin the clip a word earlier")),
                    ("begin_later", "in", 1, tr("Begin the clip a word later")),
                    ("end_earlier", "out", -1, tr("End the clip a word earlier")),
                    ("end_later", "out", 1, tr("End the clip a word later")),
                )
            ),
            Command("tighten_clip", tr("Take the pauses of the clip out"), "", self.tighten, clip),
            Command("rename_clip", tr("Rename the clip"), "", self.rename, clip),
            Command("delete_clip", tr("Delete the clip"), "", self.delete, clip),
            Command("release_clips", tr("Release the clips by a kit"), "", self.release, self._no_clips),
        ]

    def _no_list(self) -> str:
        return "" if self.on and self.desk.room == self.room.id else tr("Show the clips first.")

    def _no_row(self) -> str:
        return self._no_list() or ("" if self.row else tr("There is no clip to choose yet."))

    def _no_clip(self) -> str:
        row = self.row
        return self._no_list() or ("" if row and row.clip_id else tr("Make a clip of it first."))

    def _no_clips(self) -> str:
        return "" if clips.clips_of(self.session.project) else tr("There are no clips yet. Make one first.")

    def make(self) -> None:
        """Make clips of what is chosen; open one that is made already."""
        chosen, row = self.page.list.chosen, self.row
        if row is not None and row.clip_id and len(chosen) < 2:
            self.room.choose(row.clip_id)
            self.open()
            return
        rows = [one for one in chosen if not one.clip_id] or ([row] if row and not row.clip_id else [])
        if not rows:
            self.desk.say(tr("These are clips already."))
            return
        made: list[int] = []

        def make(project: Project) -> Project:
            made.clear()
            for one in rows:
                project, clip_id = clips.with_clip(project, one.title, one.spans)
                made.append(clip_id)
            return project

        many = tr("a clip") if len(rows) == 1 else counted(len(rows), "clip")
        self._add(make, tr("Make {many}").format(many=many), made)
        self.desk.say(tr("Made: {listed}.").format(listed=", ".join(f"“{one.title}”" for one in rows[:3])))

    def join(self) -> None:
        """Make one clip of what is chosen, in its order; clips that were made become part of it."""
        rows = self.page.list.chosen
        if len(rows) < 2:
            self.desk.say(tr("Choose two or more with Ctrl or Shift and the arrow keys first."))
            return
        made: list[int] = []

        def join(project: Project) -> Project:
            parts = [one.clip_id or one.spans[0] for one in rows]
            project, clip_id = clips.clips_joined(project, parts, rows[0].title)
            made[:] = [clip_id]
            return project

        self._add(
            join, tr("Join {passages} into a clip").format(passages=counted(len(rows), "passage")), made
        )

    def _add(self, verb: Callable[[Project], Project], label: str, made: list[int]) -> None:
        """One step that makes clips; the last one is the current row then."""
        self.session.step(verb, label)
        if made:
            self._wanted = made[-1]
            self.room.cut_id = made[-1]
            self.refresh()

    def trim(self, edge: str, step: int) -> None:
        """Begin or end the clip a word earlier or later."""
        row = self.row
        if row is not None and row.clip_id:
            clip_id = row.clip_id
            self.session.step(
                lambda now: clips.clip_trimmed(now, clip_id, edge, step),
                tr("Trim the clip"),
                key=f"trim-{clip_id}-{edge}",
            )

    def tighten(self) -> None:
        """Take out of the clip what the rules of the cut find in it: pauses, fillers, what is said again."""
        from dubrel.edits.cuts.removals import still_open, without_removals  # late: as above

        shown, proposing = self.shown, self.room.proposing
        if shown is None:
            return
        if proposing.busy:
            self.desk.say(tr("Pauses are still being looked for. Try again in a moment."))
            return
        chosen = [one for one in still_open(proposing.found, shown) if one.ticked]
        inside = [one for one in chosen if _plays(shown, one.start_ms, one.end_ms)]
        if not inside:
            self.desk.say(tr("The rules of the cut find nothing to take out of this clip."))
            return
        clip_id, rules = shown.id, proposing.rules
        label = tr("Take out {passages}").format(passages=counted(len(inside), "passage"))
        self.session.step(lambda now: without_removals(now, clip_id, inside, rules), label)
        saved = shown.length_ms - (self.shown.length_ms if self.shown else 0)
        self.desk.say(
            tr("{passages} taken out of the clip: {saved:.1f} s.").format(
                passages=counted(len(inside), "passage"), saved=saved / 1000
            )
        )

    def rename(self) -> None:
        """Give the clip another name."""
        row, history = self.row, self.session.history
        name = self.room.ask.cut_name(tr("Rename the clip"), row.title) if row else None
        if row is not None and name is not None:
            clip_id = row.clip_id
            self.session.step(
                lambda now: trimming.renamed(now, clip_id, name), tr("Rename the clip"), within=history
            )

    def delete(self) -> None:
        """Delete the clips that are chosen; the recording and its words stay."""
        ids = [one.clip_id for one in self.page.list.chosen if one.clip_id]
        if not ids:
            return

        def delete(project: Project) -> Project:
            for one in ids:
                project = trimming.without_cut(project, one)
            return project

        self.session.step(delete, tr("Delete {clips}").format(clips=counted(len(ids), "clip")))
        self.desk.say(
            tr("{clips} deleted. Ctrl+Z brings back what was deleted.").format(
                clips=counted(len(ids), "clip")
            )
        )

    def like(self) -> None:
        """Find clips like the current one, or any again."""
        if self.finding.like is not None:
            self.finding.look_like(None)
            return
        row = self.row
        found = next(
            (one for one in self.finding.found if row and (one.start_ms, one.end_ms) in row.spans), None
        )
        if found is None:
            self.desk.say(tr("Choose a passage that is proposed first."))
            return
        self.finding.look_like(found)

    def play(self) -> None:
        """Play the clip, or stop."""
        shown = self.shown
        if shown is None:
            return
        if self.desk.player.playing:
            self.desk.player.pause()
            return
        if shown.id and self.room.player.play(shown, 0):
            return
        start, end = shown.passages[0].start_ms, shown.passages[-1].end_ms
        self.desk.play(start, end, 0)

    # -- releasing ------------------------------------------------------------------------------

    def release(self) -> None:
        """Write what a kit has for every clip, or for those that are chosen, each into its folder."""
        from dubrel.release.kits import KITS, all_kits, kit_named  # late: the window opens without it

        if self.desk.jobs.runs("release-clips", "film"):
            raise DubrelError(
                tr("Files are being written already. Wait until that is done, or cancel it first.")
            )
        project, history = self.session.project, self.session.history
        chosen = [one.clip_id for one in self.page.list.chosen if one.clip_id] if self.on else []
        ids = chosen if len(chosen) > 1 else [one.id for one in clips.clips_of(project)]
        names = list(all_kits())
        first = "Clip to pass on"
        kits = {shipped(one, KITS): one for one in (first, *(one for one in names if one != first))}
        said = self.room.ask.cut_choice(tr("Release the clips"), list(kits))
        name = kits[said] if said is not None else None
        folder = self.room.ask.clip_folder() if name is not None else None
        if name is None or folder is None or self.session.history is not history:
            return
        self._release(
            replace(project, media=self.session.recording, index=None), ids, kit_named(name), folder
        )

    def _release(self, project: Project, ids: list[int], kit: object, folder: Path) -> None:
        said: list[Event] = []

        def ended(whole: bool) -> None:
            from dubrel.jobs.filming import forget_unfinished  # late: the window opens without it
            from dubrel.jobs.machinery.events import NotWritten, Written

            if not whole:
                forget_unfinished(folder)
            running = self.desk.jobs.running("release-clips")
            failure = running.failure if running is not None else ""
            wrong = [one.message for one in said if isinstance(one, NotWritten)]
            count = sum(isinstance(one, Written) for one in said)
            stopped = "" if whole or failure else tr("Cancelled.")
            done = tr("{files} written into “{name}”.").format(files=counted(count, "file"), name=folder.name)
            self.desk.say(" ".join(filter(None, [failure, stopped, *wrong, done if count else ""])))

        self.desk.jobs.start("release-clips", project, ids, kit, folder, take=said.append, ended=ended)


def _plays(cut: Cut, start_ms: int, end_ms: int) -> bool:
    """Whether a cut plays all of a passage, and more before and after it."""
    return any(one.start_ms < start_ms and end_ms < one.end_ms for one in cut.passages)


def _within(row: ClipRow, start_ms: int, end_ms: int) -> bool:
    """Whether a clip plays most of a passage already."""
    shared = sum(max(0, min(end, end_ms) - max(start, start_ms)) for start, end in row.spans)
    return shared > 0.6 * (end_ms - start_ms)
