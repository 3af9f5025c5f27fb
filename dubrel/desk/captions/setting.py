"""Setting again, fixing and explaining, as commands: always shown before it is done."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.desk.captions.findings import Findings
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.edits.captions.trackchecks import check_one
from dubrel.model import HouseStyle, Project
from dubrel.project.index import place_in

if TYPE_CHECKING:
    from dubrel.desk.captions.editing import CaptionEditing
    from dubrel.desk.captions.questions import CaptionQuestions
    from dubrel.desk.captions.stanzas import CaptionSheet

_ON = ("caption",)


class Setting:
    """What the machine does to captions when a person asks for it."""

    def __init__(
        self, desk: Desk, ask: CaptionQuestions, findings: Findings, editing: CaptionEditing
    ) -> None:
        self.desk, self.session, self.ask = desk, desk.session, ask
        self.findings, self.editing = findings, editing

    @property
    def sheet(self) -> CaptionSheet:
        """The sheet of captions."""
        return self.editing.sheet

    def commands(self) -> list[Command]:
        """Set again, fix, explain."""
        words, captions, chosen = (
            self.desk.without_words,
            self.desk.without_captions,
            self.editing.none_chosen,
        )
        return [
            Command(
                "set_again",
                tr("Set captions again"),
                "Ctrl+Shift+R",
                self.set_again,
                words,
                _ON,
                words=tr("set captions again from the words"),
            ),
            Command("fix_caption", tr("Fix the caption"), "Alt+F", self.fix_caption, chosen, _ON),
            Command(
                "fix_all",
                tr("Fix all captions that break a rule"),
                "Ctrl+Shift+M",
                self.fix_all,
                captions,
                words=tr("fix captions"),
            ),
            Command(
                "explain",
                tr("Explain the breaks of the caption"),
                "Alt+E",
                self.explain,
                chosen,
                _ON,
                words=tr("costs of breaks"),
            ),
            *self._best_commands(),
        ]

    def _best_commands(self) -> list[Command]:
        chosen = self.editing.none_chosen
        ways = (
            ("next_best", tr("Take the next best line break"), "Alt+Down", "lines", 1),
            ("better", tr("Take the better line break again"), "Alt+Up", "lines", -1),
            ("next_best_end", tr("Take the next best end of the caption"), "Ctrl+Down", "end", 1),
            ("better_end", tr("Take the better end of the caption again"), "Ctrl+Up", "end", -1),
        )
        return [
            Command(name, text, keys, self._best(what, step), chosen, _ON)
            for name, text, keys, what, step in ways
        ]

    # -- setting ----------------------------------------------------------------------

    def set_again(self) -> None:
        """Set captions again: all, the selection, or what breaks a rule."""
        self.set_by(self.findings.style)

    def set_by(self, style: HouseStyle) -> None:
        """Set captions by a style after showing what that would change; the first time at once."""
        project = self.session.project
        track = project.captions
        if track is None or not track.captions:
            self._set_first(style)
            return
        if not track.spoken:
            raise DubrelError(
                tr("This track is a translation. Choose the track of the spoken language first.")
            )
        made = self.ask.preview(
            tr("Set captions again"),
            tr("Set captions"),
            self._scopes(),
            lambda scope, keep: self._made(style, scope, keep),
        )
        self._take(project, made, tr("Set captions"))

    def set_between(self, start_ms: int, end_ms: int) -> None:
        """Set the captions between two times again; those that a person has set stay."""
        from dubrel.edits.captions.resetting import set_again  # late: arrays

        def verb(project: Project) -> Project:
            track = project.captions
            captions = track.captions if track is not None and track.spoken else ()
            only = [one.id for one in captions if one.end_ms > start_ms and one.start_ms < end_ms]
            if not only:
                raise DubrelError(tr("There are no captions between in and out. Set captions first."))
            return set_again(project, only=only)

        self.session.step(verb, tr("Set the captions of a passage"))

    def _scopes(self) -> Sequence[tuple[str, str]]:
        scopes = [("all", tr("all captions"))]
        if chosen := self.sheet.concerned:
            scopes.append(
                (
                    "selection",
                    tr("the selection: {captions}").format(captions=counted(len(chosen), "caption")),
                )
            )
        self.findings.settle()
        if count := len(self.findings.broken):
            scopes.append(
                (
                    "broken",
                    tr("only what breaks a rule: {captions}").format(captions=counted(count, "caption")),
                )
            )
        return scopes

    def _made(self, style: HouseStyle, scope: str, keep: bool) -> Project:
        from dubrel.edits.captions.resetting import (  # late: arrays, which opening a window does without
            set_again,
            to_fix,
        )

        project = self.session.project
        only = (
            {"selection": self.sheet.concerned, "broken": to_fix(project)}.get(scope)
            if scope != "all"
            else None
        )
        return beside(lambda: set_again(project, style, only=only, keep_held=keep))

    def _set_first(self, style: HouseStyle) -> None:
        from dubrel.jobs.setting import set_captions  # late: starting the desk does not need it

        steps = set_captions(self.session.project, style)
        self.desk.jobs.start_thread("captions", steps, take=self._take_captions)

    def _take_captions(self, event: object) -> None:
        from dubrel.jobs.machinery.events import CaptionsSet
        from dubrel.jobs.machinery.fold import fold

        running = self.desk.jobs.running("captions")
        if isinstance(event, CaptionsSet) and running and running.history is self.session.history:
            self.session.step(lambda project: fold(project, event), tr("Set captions"))

    def _take(self, before: Project, made: Project | None, label: str) -> None:
        """Take what was shown, unless the project changed meanwhile."""
        if made is None or made is before:
            return
        self.editing.apply(made, label, base=before)

    # -- fixing -----------------------------------------------------------------------

    def fix_caption(self) -> None:
        """Fix the chosen caption, or the selection."""
        from dubrel.edits.captions.fixes import fix_all, fixed_one  # late: as above

        project, ids = self.session.project, self.sheet.concerned
        if len(ids) > 1:
            made, fixes = beside(lambda: fix_all(project, only=ids))
            self._say_fixed(made, project, len(fixes))
            return
        track, caption = project.captions, self.editing.caption
        assert track is not None
        broken = check_one(project, track, place_in(track.captions, caption))
        if not broken:
            self.desk.say(tr("Nothing is wrong with this caption."))
            return
        self._say_fixed(fixed_one(project, caption.id, broken), project, 1)

    def _say_fixed(self, made: Project, project: Project, count: int) -> None:
        if made is project:
            self.desk.say(
                tr("It cannot be fixed without breaking another rule. Shorten its text, or change the style.")
            )
            return
        self.editing.apply(made, tr("Fix captions"), base=project)
        self.desk.say(tr("Fixed: {captions}.").format(captions=counted(count, "caption")))

    def fix_all(self) -> None:
        """Show what fixing every caption would do, and do it."""
        from dubrel.edits.captions.fixes import fix_all  # late: as above

        project = self.session.project
        made, fixes = beside(lambda: fix_all(project))
        if not fixes:
            self.desk.say(tr("There is nothing that can be fixed without breaking another rule."))
            return
        wanted = self.ask.preview(tr("Fix all"), tr("Fix captions"), [], lambda _scope, _keep: made)
        self._take(project, wanted, tr("Fix captions"))

    # -- explaining -------------------------------------------------------------------

    def explain(self) -> None:
        """Show or hide what the breaks of the current caption cost."""
        self.sheet.explain(not self.sheet.explains)

    def _best(self, kind: str, step: int) -> Callable[[], None]:
        def take() -> None:
            from dubrel.edits.captions.explanations import next_end, next_lines  # late: as above

            caption = self.editing.caption
            choose = next_lines if kind == "lines" else next_end
            what = tr("Another line break") if kind == "lines" else tr("Another end of a caption")
            self.session.step(
                lambda project: choose(project, caption.id, step), what, key=f"{kind}-best-{caption.id}"
            )

        return take
