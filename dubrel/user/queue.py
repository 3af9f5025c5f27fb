"""Many recordings in a row: what waits, what runs, what is done; kept on disk.

The queue is a value that is replaced at each step, as a project is. One
recording is transcribed at a time: a recording uses both cores, and two at once
would only make both slow. While a service elsewhere transcribes one,
another can be transcribed here.
"""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from itertools import zip_longest
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.value import Value, asdict, part_names, replace
from dubrel.model.choices import AS_USUAL, Choices
from dubrel.user.kept import Kept


class State(StrEnum):
    """Where a recording stands."""

    WAITING = "waiting"
    PAUSED = "paused"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"


class Item(Value):
    """A recording in the queue.

    Attributes
    ----------
    id : int
    path : str
    choices : Choices
    state : State
    reason : str
        Why it failed, or a warning.
    output : str
        The project that was written.
    price : str
        What a service asks for it.
    written : bool
        The project is on the disk; what may be left is its release.
    """

    id: int
    path: str
    choices: Choices
    state: State = State.WAITING
    reason: str = ""
    output: str = ""
    price: str = ""
    written: bool = False


class Queue(Value):
    """Recordings in the order in which they are transcribed."""

    items: tuple[Item, ...] = ()
    next_id: int = 1

    def add(self, paths: Iterable[Path], choices: Choices, prices: Iterable[str] = ()) -> Queue:
        """The queue with more recordings, and their prices if they have one.

        A recording that waits or runs is not added again.
        """
        busy = {item.path for item in self.items if item.state not in (State.DONE, State.FAILED)}
        items, next_id = list(self.items), self.next_id
        for path, price in zip_longest(paths, prices, fillvalue=""):
            if str(path) not in busy:
                items.append(Item(next_id, str(path), choices, price=price))
                busy.add(str(path))
                next_id += 1
        return Queue(tuple(items), next_id)

    def item(self, item_id: int) -> Item | None:
        """The recording with an id."""
        return next((one for one in self.items if one.id == item_id), None)

    def change(self, item_id: int, **changes: object) -> Queue:
        """The queue with something changed about a recording."""
        return replace(
            self,
            items=tuple(replace(one, **changes) if one.id == item_id else one for one in self.items),
        )

    def remove(self, item_id: int) -> Queue:
        """The queue without a recording; what was written stays on the disk."""
        return replace(self, items=tuple(one for one in self.items if one.id != item_id))

    def move(self, item_id: int, by: int) -> Queue:
        """The queue with a recording earlier (below zero) or later."""
        items = list(self.items)
        place = next((k for k, one in enumerate(items) if one.id == item_id), None)
        if place is None:
            return self
        item = items.pop(place)
        items.insert(min(max(place + by, 0), len(items)), item)
        return replace(self, items=tuple(items))

    def next_to_run(self) -> Item | None:
        """What should be started now, if anything."""
        from dubrel.model.choices import is_remote

        running = [one for one in self.items if one.state is State.RUNNING]
        here = any(not is_remote(one.choices.engine) for one in running)
        elsewhere = any(is_remote(one.choices.engine) for one in running)
        for one in self.items:
            if one.state is State.WAITING and not (elsewhere if is_remote(one.choices.engine) else here):
                return one
        return None

    def after_restart(self) -> Queue:
        """The queue as it is when the application starts: what ran waits again."""
        return replace(self, items=tuple(_restarted(one) for one in self.items))


def _restarted(item: Item) -> Item:
    """A recording that ran waits again; one whose project was written already only lacks its release."""
    if item.state is not State.RUNNING:
        return item
    if not item.written or not Path(item.output).is_file():
        return replace(item, state=State.WAITING, written=False)
    reason = tr("Dubrel was closed before the release was finished. Release the project.")
    return replace(item, state=State.DONE, reason=reason)


def _understood(value: dict[str, Any]) -> Queue:
    items = tuple(_item(row) for row in value["items"])
    ids = [one.id for one in items]
    if len(set(ids)) < len(ids):
        raise ValueError("an id twice")
    return Queue(items, max([int(value["next_id"]), *(one + 1 for one in ids)]))


def _item(row: dict[str, Any]) -> Item:
    kept = dict(row["choices"])
    if isinstance(kept.get("tracks"), list):
        kept["tracks"] = tuple(one for one in kept["tracks"] if isinstance(one, int))
    choices = Choices(**kept)
    if not all(
        isinstance(getattr(choices, name), type(getattr(AS_USUAL, name))) for name in part_names(Choices)
    ):
        raise ValueError("a choice of another type")
    texts = {name: str(row[name]) for name in ("path", "reason", "output", "price")}
    written = row.get("written") is True
    return Item(int(row["id"]), choices=choices, state=State(row["state"]), written=written, **texts)


def _plain(queue: Queue) -> dict[str, Any]:
    return {"next_id": queue.next_id, "items": [asdict(one) for one in queue.items]}


QUEUE = Kept("queue.json", "The queue", _understood, _plain, Queue)


def free_output(path: Path) -> Path:
    """Where the project of a recording goes: beside it, never over a file that is there."""
    proposed, number = path.with_suffix(".dubrel"), 2
    while proposed.exists():
        proposed = path.with_name(f"{path.stem} {number}.dubrel")
        number += 1
    return proposed
