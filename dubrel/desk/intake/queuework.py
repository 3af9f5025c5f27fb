"""The queue seen from the window: starts a job for each recording and takes what it says."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.desk.shell.lanes import Lanes
from dubrel.errors import DubrelError
from dubrel.jobs.choices import Choices
from dubrel.jobs.events import Failed, Finished, Progress, Warning_, Written
from dubrel.jobs.queue import Item, Queue, State, free_output, load_queue, queue_path, save_queue

if TYPE_CHECKING:
    from dubrel.jobs.runner import Job

_POLL_MS = 150
QUEUE_ACTS = {
    "open": "Open the project of the recording",
    "pause": "Pause the recording, or resume",
    "earlier": "Transcribe the recording earlier",
    "later": "Transcribe the recording later",
    "remove": "Remove the recording from the queue",
    "settings": "Transcribe the recording as chosen above",
}


class QueueWork(QObject):
    """Transcribes the recordings of the queue.

    Signals
    -------
    changed()
        A recording or its state is another.
    progressed(int)
        The recording with this id is further.
    failed(str)
        The queue could not be kept.
    """

    changed = Signal()
    progressed = Signal(int)
    failed = Signal(str)

    def __init__(self, lanes: Lanes) -> None:
        super().__init__()
        self.queue = load_queue() if queue_path().exists() else Queue()
        self.progress: dict[int, Progress] = {}
        self._lanes = lanes
        self._jobs: dict[int, Job] = {}
        self._timer = QTimer(self, interval=_POLL_MS)
        self._timer.timeout.connect(self._poll)
        if self.queue.next_to_run() is not None:
            self._timer.start()

    def add(self, paths: Sequence[Path], choices: Choices, prices: Sequence[str] = ()) -> None:
        """Put recordings at the end."""
        self._set(self.queue.add(paths, choices, prices))

    def can_change(self, item_id: int) -> bool:
        """Whether a recording can still get other choices: it waits, is paused or failed."""
        item = self.queue.item(item_id)
        return item is not None and item.state not in (State.DONE, State.RUNNING)

    def change_choices(self, item_id: int, choices: Choices, price: str) -> None:
        """Give a recording other choices; one that was paused in its midst begins anew."""
        if self.can_change(item_id):
            job = self._jobs.pop(item_id, None)
            if job is not None:
                job.cancel()
            self.progress.pop(item_id, None)
            self._set(self.queue.change(item_id, choices=choices, price=price))

    def pause_or_go_on(self, item_id: int) -> None:
        """Let a recording wait until it is wanted again, or let it go on; a failed one is tried again."""
        item = self.queue.item(item_id)
        if item is None or item.state is State.DONE:
            return
        if item.state in (State.PAUSED, State.FAILED):
            self._set(self.queue.change(item_id, state=State.WAITING, reason=""))
            return
        if item_id in self._jobs:
            self._jobs[item_id].pause()
        self._set(self.queue.change(item_id, state=State.PAUSED))

    def remove(self, item_id: int) -> None:
        """Take a recording out; if it is being transcribed, that ends. What was written stays."""
        job = self._jobs.pop(item_id, None)
        if job is not None:
            job.cancel()
        self.progress.pop(item_id, None)
        self._set(self.queue.remove(item_id))

    def move(self, item_id: int, by: int) -> None:
        """Let a recording be transcribed earlier or later."""
        self._set(self.queue.move(item_id, by))

    def stop(self) -> None:
        """End what runs; it waits again at the next start."""
        for job in self._jobs.values():
            job.cancel()
        self._jobs.clear()
        self._timer.stop()

    @property
    def left(self) -> int:
        """How many recordings are still to be transcribed."""
        return sum(one.state in (State.WAITING, State.RUNNING) for one in self.queue.items)

    def _set(self, queue: Queue) -> None:
        self.queue = queue
        try:
            save_queue(queue)
        except DubrelError as error:
            self.failed.emit(str(error))
        self.changed.emit()
        self._timer.start()

    def _poll(self) -> None:
        for item_id in list(self._jobs):
            for event in self._jobs[item_id].events():
                self._take(item_id, event)
        following = self.queue.next_to_run()
        if following is not None and not self._lanes.runs("transcribe", "live", "align"):
            self._start(following)
        elif following is None and not self._jobs:
            self._timer.stop()

    def _start(self, item: Item) -> None:
        from dubrel.jobs.runner import Job  # late: starting the desk does not need it

        if item.id in self._jobs:
            self._jobs[item.id].go_on()
            self._set(self.queue.change(item.id, state=State.RUNNING))
            return
        path = Path(item.path)
        if not os.access(path.parent, os.W_OK):
            reason = (
                f"The project cannot be written to “{path.parent}”. Copy the recording to another folder."
            )
            self._set(self.queue.change(item.id, state=State.FAILED, reason=reason))
            return
        output = str(free_output(path))
        self._jobs[item.id] = Job("file", item.path, item.choices, output)
        self._set(self.queue.change(item.id, state=State.RUNNING, reason="", output=output))

    def _take(self, item_id: int, event: object) -> None:
        if isinstance(event, Progress):
            self.progress[item_id] = event
            self.progressed.emit(item_id)
        elif isinstance(event, Warning_):
            self._set(self.queue.change(item_id, reason=event.message))
        elif isinstance(event, Written):
            self._set(self.queue.change(item_id, output=event.path))
        elif isinstance(event, Failed | Finished):
            self._jobs.pop(item_id, None)
            self.progress.pop(item_id, None)
            if isinstance(event, Failed):
                item = self.queue.item(item_id)
                saved = _saved(item)
                self._set(self.queue.change(item_id, state=State.FAILED, reason=event.message + saved))
            else:
                self._set(self.queue.change(item_id, state=State.DONE))


def _saved(item: Item | None) -> str:
    """Where what was transcribed before a failure is, if anything was."""
    if item is None or not item.output or not Path(item.output).exists():
        return ""
    return f" What was transcribed so far is in “{Path(item.output).name}”."
