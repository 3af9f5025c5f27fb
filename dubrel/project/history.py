"""Undo and redo without limit over immutable values, and what arrives by itself meanwhile.

What arrives (words that are still being transcribed) is not a step of its own:
undoing a person's edit does not undo it. It is applied to the present at once
and noted; an earlier value gets it when it is brought back. So an arrival costs
the same however many edits were made, and edits cost no copies of what arrived.
"""

from __future__ import annotations

from collections.abc import Callable

from dubrel.base.value import Value, replace
from dubrel.model import Project

Arrival = Callable[[Project], Project]


class _Step(Value):
    """A value before or after the present, and the label of the step between."""

    value: Project
    label: str
    key: str | None
    seen: int  # how many arrivals there had been when the value was put aside
    before: object = None  # where the caret was before the step, and after it
    after: object = None


class Mark:
    """Where something began that goes on arriving; see :meth:`History.mark`."""

    def __init__(self, depth: int) -> None:
        self.depth = depth
        self.lost = False


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
        self._future: list[_Step] = []
        self._arrivals: list[tuple[Mark, Arrival]] = []
        self._marks: list[Mark] = []
        self.place: object = None  # where the caret belongs after the last undo or redo

    def apply(self, project: Project, label: str, key: str | None = None, before: object = None) -> None:
        """Make ``project`` the present value as one step.

        Steps that follow each other with the same ``key`` (letters of one
        word, ticks of one slider) count as one. ``before`` is where the caret
        is now: undo puts it there again.
        """
        if project is self.present:
            return
        same = key is not None and self._past and self._past[-1].key == key and not self._future
        if not same:
            self._past.append(_Step(self.present, label, key, len(self._arrivals), before))
        self._future.clear()
        for mark in self._marks:
            mark.lost = mark.lost or mark.depth > self.depth - (not same)
        self._marks = [mark for mark in self._marks if not mark.lost]
        self.present = project

    def undo(self) -> str | None:
        """Go back one step; its label, or ``None`` at the beginning."""
        return self._go(self._past, self._future)

    def redo(self) -> str | None:
        """Go forward one step; its label, or ``None`` at the end."""
        return self._go(self._future, self._past)

    def _go(self, source: list[_Step], target: list[_Step]) -> str | None:
        if not source:
            return None
        step = source.pop()
        target.append(replace(step, value=self.present, seen=len(self._arrivals)))
        self.present = self._brought_up(step, self.present.next_id)
        self.place = step.before if source is self._past else step.after
        return step.label

    def landed(self, place: object) -> None:
        """Say where the caret went with the last step: redo puts it there again."""
        if self._past:
            self._past[-1] = replace(self._past[-1], after=place)

    def _brought_up(self, step: _Step, next_id: int) -> Project:
        """A value with what arrived since it was put aside; ids that were given are not given again."""
        value = step.value
        if value.next_id < next_id:
            value = replace(value, next_id=next_id)
        for mark, arrival in self._arrivals[step.seen :]:
            if mark.depth <= self.depth and not mark.lost:
                value = arrival(value)
        return value

    def seal(self) -> None:
        """Let the next step stand alone, whatever its key."""
        if self._past and self._past[-1].key is not None:
            self._past[-1] = replace(self._past[-1], key=None)

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
        """What redo would do again."""
        return self._future[-1].label if self._future else None

    def labels(self) -> tuple[list[str], list[str]]:
        """What was done, the first first; and what was undone, the next to redo first."""
        return [one.label for one in self._past], [one.label for one in reversed(self._future)]

    def mark(self) -> Mark:
        """Remember the present as where something begins that will go on arriving."""
        made = Mark(self.depth)
        self._marks.append(made)
        return made

    def holds(self, mark: Mark) -> bool:
        """Whether the present comes after a mark: what arrives there is seen."""
        return not mark.lost and mark.depth <= self.depth

    def amend(self, arrival: Arrival, mark: Mark | None = None) -> None:
        """Apply a background change.

        Parameters
        ----------
        arrival : callable
            ``Project -> Project``; must give new things the same ids in every value.
        mark : Mark, optional
            Where its work began: only values from there on get it. Without
            one, every value gets it.
        """
        mark = mark or Mark(0)
        if mark.lost:
            return
        if self._past or self._future:
            self._arrivals.append((mark, arrival))
        if mark.depth <= self.depth:
            self.present = arrival(self.present)

    def earlier(self) -> list[Project]:
        """The present and the values that undo and redo would bring back, as they were put aside."""
        return [*(step.value for step in (*self._past, *self._future)), self.present]
