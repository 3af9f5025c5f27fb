"""What is proposed to be taken out, kept up beside the interface."""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QTimer

from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.desk import Desk
from dubrel.model import Cut, Project
from dubrel.model.cutrules import PRESETS, CutRules

if TYPE_CHECKING:
    from dubrel.edits.cuts.removals import Removal

_WAIT_MS = 250


class Proposing:
    """Finds what could go by the rules, for the present project.

    Parameters
    ----------
    desk : Desk
    told : callable
        Called when something else is proposed.
    """

    def __init__(self, desk: Desk, told: Callable[[], object]) -> None:
        self.desk, self.session, self._told = desk, desk.session, told
        self.rules: CutRules = next(iter(PRESETS.values()))
        self.found: list[Removal] = []
        self.keep_take: dict[tuple[int, ...], int] = {}
        self._levels: tuple[object, Any] | None = None
        self._background = Background(desk, until=desk.session.opened, newest=True, slow=True)
        desk.stopping.append(self._background.close)
        self._wait = QTimer(desk, singleShot=True, interval=_WAIT_MS)
        self._wait.timeout.connect(self._ask)
        desk.session.opened.connect(self._opened)
        desk.session.sound_ready.connect(self._sound_ready)
        self._open_for: tuple[object, object] = (None, None)
        self._open: list[Removal] = []

    @property
    def busy(self) -> bool:
        """Whether proposals are being looked for."""
        return self._background.busy or self._wait.isActive()

    def _opened(self) -> None:
        self.found, self._levels, self.keep_take = [], None, {}
        self._wait.stop()

    def _sound_ready(self) -> None:
        self._levels = None
        if self.desk.room == "cut":
            self.look()

    def set_rules(self, rules: CutRules) -> None:
        """Look again by other rules."""
        self.rules = rules
        self.look()

    def keep(self, first: tuple[int, ...], take: int) -> None:
        """Another take of a passage is to stay."""
        self.keep_take = {**self.keep_take, first: take}
        self.look()

    def look(self) -> None:
        """Look for what could go, a moment from now."""
        self._wait.start()

    def _ask(self) -> None:
        project, rules, keep = self.session.project, self.rules, dict(self.keep_take)
        media, known, before = self.session.recording, self._levels, self.found

        def work() -> tuple[Any, list[Removal]]:
            from dubrel.edits.cuts.removals import removals  # late: the window opens without it
            from dubrel.jobs.cuts.cutmedia import levels_of

            levels = known[1] if known is not None and known[0] == media else None
            if levels is None and media is not None:
                levels = levels_of(media)
            return levels, _known(self.desk.apart(removals, project, rules, levels, keep), before)

        self._background.ask(work, lambda found: self._take(media, project, found))

    def _take(self, media: object, project: Project, found: tuple[Any, list[Removal]]) -> None:
        levels, self.found = found
        if levels is not None:
            self._levels = (media, levels)
        if self.session.project.transcript is not project.transcript:
            self.look()  # words changed meanwhile: what was found may be of words that are gone
        self._told()

    def open(self, cut: Cut | None) -> list[Removal]:
        """What is proposed and still plays in a cut."""
        from dubrel.edits.cuts.removals import still_open  # late: as above

        key = (self.found, cut)
        if self._open_for[0] is not key[0] or self._open_for[1] is not key[1]:
            self._open_for, self._open = key, still_open(self.found, cut)
        return self._open

    def ticked(self, off: Collection[tuple[int, int]]) -> list[Removal]:
        """Of what is proposed what is to go: the user unticked some, and ticked some that are in doubt."""
        return [one for one in self._open if one.ticked != ((one.start_ms, one.end_ms) in off)]


def _known(found: list[Removal], before: list[Removal]) -> list[Removal]:
    """What was found, the same objects as before where it is the same: whoever compares is done at once.

    A passage that is said again knows all its takes; to compare those takes its time, here in a thread.
    """
    there = {(one.start_ms, one.end_ms): one for one in before}
    same = ((one, there.get((one.start_ms, one.end_ms))) for one in found)
    return [old if old is not None and old == one else one for one, old in same]
