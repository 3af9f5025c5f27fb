"""Places on the sheet: by turn and letter, and by the ids that they are held by."""

from __future__ import annotations

from bisect import bisect_right

from dubrel.base.value import Value
from dubrel.desk.shell.core.session import Session
from dubrel.model import Turn
from dubrel.project.index import turn_of, turn_place, turn_with


class Spot(Value, order=True):
    """A place in the transcript: which turn, and which character of what it shows."""

    turn: int
    place: int


class Held(Value):
    """A spot by ids: it stays in its word whatever is done elsewhere.

    ``inside`` is where in the word; ``shift`` whether a space that parts no
    words yet stands before it.
    """

    turn: int
    place: int
    word: int | None
    inside: int
    shift: int


class HeldSpots:
    """The caret, the other end of the selection, and a space that parts no words yet ("pending").

    Each is held by the ids of its turn and word: it stays there whatever becomes of the others.
    """

    def __init__(self, session: Session) -> None:
        self._session = session
        self._known: dict[str, tuple[object, Held | None, Spot | None]] = {}

    def clear(self) -> None:
        """Hold none any more."""
        self._known.clear()

    def put(self, name: str, spot: Spot | None) -> None:
        """Hold a spot by the word it stands in or behind; with ``None`` there is none."""
        turns, held = self._session.project.transcript.turns, None
        if spot is not None and 0 <= spot.turn < len(turns):
            turn = turns[spot.turn]
            pending = self.get("pending") if name != "pending" else None
            shift = int(pending is not None and pending.turn == spot.turn and spot.place > pending.place)
            at = bisect_right(turn.offsets, spot.place - shift) - 1
            word = turn.words[at].id if at >= 0 else None
            inside = spot.place - shift - turn.offsets[at] if at >= 0 else 0
            held = Held(turn.id, spot.place, word, inside, shift)
        self._known[name] = (self._session.project.transcript.turns, held, spot)

    def get(self, name: str) -> Spot | None:
        """Where a spot is now."""
        turns, held, spot = self._known.get(name, (None, None, None))
        if turns is not self._session.project.transcript.turns:
            spot = self._found(name, held, spot)
            self._known[name] = (self._session.project.transcript.turns, held, spot)
        return spot

    def _found(self, name: str, held: Held | None, spot: Spot | None) -> Spot | None:
        """Where a spot is after the turns became others."""
        project = self._session.project
        if held is None:
            return self.inside(spot) if spot is not None else None
        turn = turn_of(project, held.word) if held.word is not None else None
        if turn is not None and held.word is not None:
            shift = held.shift if self._pending_in(turn, name) else 0
            word = turn.index_of[held.word]
            room = len(turn.words[word].text)
            return Spot(turn_place(project, turn.id), turn.offsets[word] + min(held.inside, room) + shift)
        if name == "pending":
            return None
        turn = turn_with(project, held.turn)
        if turn is not None:
            return self.inside(Spot(turn_place(project, turn.id), held.place))
        return self.inside(spot) if spot is not None else None

    def _pending_in(self, turn: Turn, name: str) -> bool:
        held = self._known.get("pending", (None, None, None))[1]
        return name != "pending" and held is not None and held.turn == turn.id

    def inside(self, spot: Spot) -> Spot:
        """The nearest spot that there is."""
        turns, pending = self._session.project.transcript.turns, self.get("pending")
        if not turns:
            return Spot(0, 0)
        turn = min(spot.turn, len(turns) - 1)
        room = len(turns[turn].text) + (pending is not None and pending.turn == turn)
        return Spot(turn, min(spot.place, room))
