"""How many words are doubtful, counted by what changed."""

from __future__ import annotations

from dubrel.desk.shell.core.follower import Follower
from dubrel.desk.shell.core.session import Session
from dubrel.project.changes import Change
from dubrel.project.index import turn_with
from dubrel.project.quality import Proofing
from dubrel.project.queries import DOUBTFUL, doubts_in


class Doubts(Follower):
    """Counts doubtful words and proofed ones, each when it changes: nothing has to wait."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.threshold = DOUBTFUL
        self.count, self.proofing = 0, Proofing()

    def set_threshold(self, threshold: float) -> None:
        """Count words as doubtful from another value on."""
        self.threshold = threshold
        self._count_all()

    def _count_all(self) -> None:
        turns = self.session.project.transcript.turns
        self.count = sum(doubts_in(turn, self.threshold) for turn in turns)
        self.proofing = Proofing()
        for turn in turns:
            self.proofing = self.proofing.with_turn(turn)
        self.counted.emit()

    def _on_changed(self, change: Change) -> None:
        if change.old.media is not change.new.media or not change.old.transcript.turns:
            self._count_all()
            return
        for project, sign in ((change.old, -1), (change.new, 1)):
            for turn_id in change.turns:
                turn = turn_with(project, turn_id)
                if turn is not None:
                    self.count += sign * doubts_in(turn, self.threshold)
                    self.proofing = self.proofing.with_turn(turn, sign)
        self.counted.emit()
