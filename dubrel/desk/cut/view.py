"""What the parts of the pass Cut know of its room."""

from __future__ import annotations

from typing import Any, Protocol

from dubrel.desk.cut.proposing import Proposing
from dubrel.desk.cut.questions import CutQuestions
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.session import Session
from dubrel.model import Cut


class CutView(Protocol):
    """The cut that is shown, and how."""

    id: str
    desk: Desk
    session: Session
    ask: CutQuestions
    proposing: Proposing

    @property
    def cut_page(self) -> Any:
        """Rules and sheet."""

    @property
    def cut(self) -> Cut | None:
        """The cut that is shown."""

    @property
    def cut_or_all(self) -> Cut | None:
        """The cut that is shown, or all of the recording where several cameras show it."""

    def choose(self, cut_id: int) -> None:
        """Show another cut."""

    def ticked(self) -> list:
        """What is proposed and to go."""

    def play_join(self) -> None:
        """Play two seconds around the join where one stands."""
