"""Undo and redo without limit over immutable values."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from dubrel.model import Project


@dataclass(frozen=True)
class _Step:
    before: Project
    label: str
    key: str | None


class History:
    """The present project and the way to it and back.

    Parameters
    ----------
    project : Project
        The value to begin with.
    """

    def __init__(self, project: Project) -> None:
        self.present = project
        self._past: list[_Step] = []
        self._future: list[tuple[Project, str, str | None]] = []

    def apply(self, project: Project, label: str, key: str | None = None) -> None:
        """Make ``project`` the present value as one step.

        Steps that follow each other with the same ``key`` (letters of one
        word, ticks of one slider) count as one.
        """
        if project is self.present:
            return
        same = key is not None and self._past and self._past[-1].key == key and not self._future
        if not same:
            self._past.append(_Step(self.present, label, key))
        self._future.clear()
        self.present = project

    def undo(self) -> str | None:
        """Go back one step; its label, or ``None`` at the beginning."""
        if not self._past:
            return None
        step = self._past.pop()
        self._future.append((self.present, step.label, step.key))
        self.present = step.before
        return step.label

    def redo(self) -> str | None:
        """Go forward one step; its label, or ``None`` at the end."""
        if not self._future:
            return None
        project, label, key = self._future.pop()
        self._past.append(_Step(self.present, label, key))
        self.present = project
        return label

    def seal(self) -> None:
        """Let the next step stand alone, whatever its key."""
        if self._past and self._past[-1].key is not None:
            last = self._past[-1]
            self._past[-1] = _Step(last.before, last.label, None)

    @property
    def depth(self) -> int:
        """How many steps can be undone."""
        return len(self._past)

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._past[-1].label if self._past else None

    @property
    def redo_label(self) -> str | None:
        """What redo would bring again."""
        return self._future[-1][1] if self._future else None

    def amend(self, change: Callable[[Project], Project], since: int) -> None:
        """Apply a change to the present and to every value kept since a depth.

        For what arrives on its own while a person works (words that are still
        being heard): undoing the person's edits does not undo the hearing.

        Parameters
        ----------
        change : callable
            ``Project -> Project``; must give new things the same ids in every value.
        since : int
            ``depth`` when the arriving began.
        """
        for place in range(since, len(self._past)):
            step = self._past[place]
            self._past[place] = _Step(change(step.before), step.label, step.key)
        self._future = [(change(value), label, key) for value, label, key in self._future]
        self.present = change(self.present)

    def values_since(self, since: int) -> list[Project]:
        """The present and every value that :meth:`amend` would change."""
        past = [step.before for step in self._past[since:]]
        return [*past, *(value for value, _, _ in self._future), self.present]
