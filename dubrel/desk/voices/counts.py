"""What is still to do in Voices, counted by what changed."""

from __future__ import annotations

from collections import Counter

from dubrel.desk.shell.core.session import Session
from dubrel.model import Turn
from dubrel.project.changes import Change
from dubrel.project.index import turn_with
from dubrel.project.talk import is_unsure


class VoiceCounts:
    """How many turns each speaker has, and of how many the machine is unsure who speaks."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._turns: Counter[str | None] = Counter()
        self._unsure = 0
        session.changed.connect(self._on_changed)

    def _count(self, turn: Turn, sign: int) -> None:
        self._turns[turn.speaker] += sign
        self._unsure += sign * is_unsure(turn)

    def _on_changed(self, change: Change) -> None:
        if change.old.media is not change.new.media or not change.old.transcript.turns:
            self._turns.clear()
            self._unsure = 0
            for turn in change.new.transcript.turns:
                self._count(turn, 1)
            return
        for project, sign in ((change.old, -1), (change.new, 1)):
            for turn_id in change.turns:
                found = turn_with(project, turn_id)
                if found is not None:
                    self._count(found, sign)

    def to_do(self) -> tuple[int, int, int, float]:
        """What is to do.

        Returns
        -------
        unnamed : int
            Speakers without a name who say something.
        unassigned : int
            Turns without a speaker.
        unsure : int
            Turns whose speaker the machine is unsure of.
        done : float
            Share of the turns whose speaker has a name.
        """
        people = {one.id: one.name for one in self.session.project.transcript.speakers}
        unnamed = sum(not name and self._turns[one] > 0 for one, name in people.items())
        total = sum(self._turns.values())
        assigned = sum(self._turns[one] for one in people)
        named = sum(self._turns[one] for one, name in people.items() if name)
        return unnamed, total - assigned, self._unsure, named / max(1, total)
