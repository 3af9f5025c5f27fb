"""The queue seen from the window: starts a job for each recording and takes what it says."""

from __future__ import annotations

import time
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import try_writing
from dubrel.base.timecode import format_length
from dubrel.desk.shell.core.job_slots import JobSlots
from dubrel.model.choices import Choices
from dubrel.store.locks import claim
from dubrel.user.queue import QUEUE, Item, Queue, State, free_output

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Progress
    from dubrel.jobs.machinery.runner import Job
    from dubrel.store.locks import Claim

_POLL_MS = 150
QUEUE_ACTS = {
    "open": tr("Open the project of the recording"),
    "pause": tr("Pause the recording, or resume"),
    "earlier": tr("Transcribe the recording earlier"),
    "later": tr("Transcribe the recording later"),
    "remove": tr("Remove the recording from the queue"),
    "settings": tr("Transcribe the recording as chosen above"),
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

    def __init__(self, slots: JobSlots) -> None:
        super().__init__()
        self.claim: Claim | None = claim("queue")
        self.queue = self._kept()
        self._began = time.monotonic()
        self.progress: dict[int, Progress] = {}
        self._slots = slots
        self.running: dict[int, Job] = {}
        self._timer = QTimer(self, interval=_POLL_MS)
        self._timer.timeout.connect(self._poll)
        if self.claim is not None and self.queue.next_to_run() is not None:
            self._timer.start()

    def _kept(self) -> Queue:
        if not QUEUE.path.exists():
            return Queue()
        queue = QUEUE.read()
        return queue.after_restart() if self.claim is not None else queue

    def _is_ours(self) -> bool:
        """Whether this window works on the queue; it takes it over where the other one is closed."""
        if self.claim is None:
            self.claim = claim("queue")
            self.queue = self._kept()
            self.changed.emit()
        if self.claim is None:
            self.failed.emit(
                tr("Another window of Dubrel works on the queue. Change it there, or close that window.")
            )
        return self.claim is not None

    def look_again(self) -> None:
        """Show what the window that works on the queue has done."""
        if self.claim is None:
            self.queue = self._kept()
            self.changed.emit()

    def add(self, paths: Sequence[Path], choices: Choices, prices: Sequence[str] = ()) -> None:
        """Put recordings at the end."""
        if not self._is_ours():
            return
        if not self.left:
            self._began = time.monotonic()
        self._set(self.queue.add(paths, choices, prices))

    def can_change(self, item_id: int) -> bool:
        """Whether a recording can still get other choices: it waits, is paused or failed."""
        item = self.queue.item(item_id)
        return item is not None and item.state not in (State.DONE, State.RUNNING)

    def change_choices(self, item_id: int, choices: Choices, price: str) -> None:
        """Give a recording other choices; one that was paused part-way starts over."""
        if self.can_change(item_id) and self._is_ours():
            job = self.running.pop(item_id, None)
            if job is not None:
                job.cancel()
            self.progress.pop(item_id, None)
            self._set(self.queue.change(item_id, choices=choices, price=price))

    def pause_or_go_on(self, item_id: int) -> None:
        """Let a recording wait until it is wanted again, or let it go on; a failed one is tried again."""
        item = self.queue.item(item_id)
        if item is None or item.state is State.DONE or not self._is_ours():
            return
        if item.state in (State.PAUSED, State.FAILED):
            self._set(self.queue.change(item_id, state=State.WAITING, reason=""))
            return
        if item_id in self.running:
            self.running[item_id].pause()
        self._set(self.queue.change(item_id, state=State.PAUSED))

    def remove(self, item_id: int) -> None:
        """Take a recording out; if it is being transcribed, that ends. What was written stays."""
        if not self._is_ours():
            return
        job = self.running.pop(item_id, None)
        if job is not None:
            job.cancel()
        self.progress.pop(item_id, None)
        self._set(self.queue.remove(item_id))

    def move(self, item_id: int, by: int) -> None:
        """Let a recording be transcribed earlier or later."""
        if self._is_ours():
            self._set(self.queue.move(item_id, by))

    def stop(self) -> None:
        """End what runs; it waits again at the next start."""
        for job in self.running.values():
            job.cancel()
        self.running.clear()
        self._timer.stop()
        if self.claim is not None:
            self.claim.give_up()
            self.claim = None

    def doing(self) -> dict[str, str]:
        """What is being done with recordings, or waits to be; by their paths and those of their projects."""
        found: dict[str, str] = {}
        for one in self.queue.items:
            if one.state in (State.DONE, State.PAUSED):
                continue
            said = {State.WAITING: tr("waits in the queue"), State.FAILED: one.reason}.get(one.state, "")
            if one.state is State.RUNNING:
                now = self.progress.get(one.id)
                left = (
                    tr(", {left_s} left").format(left_s=format_length(round(now.left_s) * 1000))
                    if now and now.left_s
                    else ""
                )
                said = f"{now.stage.lower()}, {now.fraction:.0%}{left}" if now is not None else "transcribing"
            found[one.path] = said
            if one.output and one.state is State.RUNNING:
                found[one.output] = said
        return found

    @property
    def left(self) -> int:
        """How many recordings are still to be transcribed."""
        return sum(one.state in (State.WAITING, State.RUNNING) for one in self.queue.items)

    def _set(self, queue: Queue) -> None:
        self.queue = queue
        try:
            QUEUE.write(queue)
        except DubrelError as error:
            self.failed.emit(str(error))
        self.changed.emit()
        self._timer.start()

    def _poll(self) -> None:
        for item_id in list(self.running):
            for event in self.running[item_id].events():
                self._take(item_id, event)
        following = self.queue.next_to_run()
        if following is not None and not self._slots.runs("transcribe", "live", "align"):
            self._start(following)
        elif following is None and not self.running:
            self._timer.stop()

    def _start(self, item: Item) -> None:
        from dubrel.jobs.machinery.runner import Job  # late: starting the desk does not need it

        if item.id in self.running:
            self.running[item.id].go_on()
            self._set(self.queue.change(item.id, state=State.RUNNING))
            return
        output = free_output(Path(item.path))
        try:
            try_writing(output)
        except DubrelError as error:
            reason = tr("{error} Or copy the recording to another folder.").format(error=error)
            self._set(self.queue.change(item.id, state=State.FAILED, reason=reason))
            return
        self.running[item.id] = Job("file", item.path, item.choices, str(output))
        self._set(
            self.queue.change(item.id, state=State.RUNNING, reason="", output=str(output), written=False)
        )

    def _take(self, item_id: int, event: object) -> None:
        from dubrel.jobs.machinery.events import (  # late: the window opens without it
            Failed,
            Finished,
            Progress,
            Warning_,
            Written,
        )

        if isinstance(event, Progress):
            self.progress[item_id] = event
            self.progressed.emit(item_id)
        elif isinstance(event, Warning_):
            self._set(self.queue.change(item_id, reason=event.message))
        elif isinstance(event, Written):
            self._set(self.queue.change(item_id, output=event.path, written=True))
        elif isinstance(event, Failed | Finished):
            self.running.pop(item_id, None)
            self.progress.pop(item_id, None)
            if isinstance(event, Failed):
                item = self.queue.item(item_id)
                saved = _saved(item)
                self._set(self.queue.change(item_id, state=State.FAILED, reason=event.message + saved))
            else:
                self._set(self.queue.change(item_id, state=State.DONE))
            if not self.left:
                self._slots.done.emit(tr("The queue is done."), self._began)


def _saved(item: Item | None) -> str:
    """Where what was transcribed before a failure is, if anything was."""
    if item is None or not item.output or not Path(item.output).exists():
        return ""
    return tr(" What was transcribed so far is in “{name}”.").format(name=Path(item.output).name)
