"""Run a job in a process of its own and listen to it."""

from __future__ import annotations

import atexit
import contextlib
import logging
import multiprocessing
import os
import signal
from collections.abc import Callable, Iterator
from importlib import import_module
from multiprocessing.connection import Connection
from pathlib import Path
from queue import SimpleQueue
from threading import Thread
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.helper import end_with_parent
from dubrel.jobs.machinery.events import Event, Failed, Finished
from dubrel.user.log import set_up_log

_STOP_S = 0.5
WENT_WRONG = tr("Something went wrong inside Dubrel. What was done so far is kept; the log has the details.")


_JOBS = {
    "read": "dubrel.jobs.transcribing.transcribe:read_recording",
    "transcribe": "dubrel.jobs.transcribing.transcribe:transcribe",
    "passage": "dubrel.jobs.transcribing.transcribe:transcribe",
    "file": "dubrel.jobs.wholefile:transcribe_to_file",
    "compare": "dubrel.jobs.transcribing.secondreading:read_again",
    "live": "dubrel.jobs.transcribing.live:transcribe_live",
    "survey": "dubrel.jobs.survey:look_over",
    "speakers": "dubrel.jobs.diarising:find_speakers",
    "shots": "dubrel.jobs.pictures:find_pictures",
    "sounds": "dubrel.jobs.soundfinding:find_sounds",
    "clips": "dubrel.jobs.cuts.clipsound:listen_for_clips",
    "cameras": "dubrel.jobs.cuts.camerafinding:find_cameras",
    "shown": "dubrel.jobs.cuts.camerafaces:find_shown",
    "faces": "dubrel.jobs.cuts.facefollowing:follow_faces",
    "release-clips": "dubrel.jobs.cuts.clipreleases:release_clips",
    "align": "dubrel.jobs.alignscript:align_script",
    "audit": "dubrel.jobs.timingaudit:audit_captions",
    "film": "dubrel.jobs.filming:make_film",
    "conform": "dubrel.jobs.cuts.conforming:conform_to_file",
    "fetch": "dubrel.jobs.addresses.fetching:fetch",
    "handover": "dubrel.jobs.handing:hand_over",
    "speak": "dubrel.jobs.voice.speaking:speak_lines",
    "translate": "dubrel.jobs.translating:translate",
    "series": "dubrel.jobs.series.running:run_series",
    "series-machines": "dubrel.jobs.machines.cluster:run_on_machines",
    "forget-run": "dubrel.jobs.machines.cluster:forget_run",
    "release-series": "dubrel.jobs.series.running:release_series",
}


def job_named(name: str, *args: Any) -> Iterator[Event]:
    """The events of a job by its name; only what it needs is loaded, and only now."""
    module, _, function = _JOBS[name].partition(":")
    job: Callable[..., Iterator[Event]] = getattr(import_module(module), function)
    return job(*args)


class Job:
    """A job in a worker process.

    Parameters
    ----------
    name : str
        See :func:`job_named`.
    *args
        Given to the job; must be picklable.
    """

    def __init__(self, name: str, *args: Any) -> None:
        context = multiprocessing.get_context("spawn")
        self._ours, theirs = context.Pipe(duplex=False)
        self.process = context.Process(target=_work, args=(theirs, name, args, os.getpid()), daemon=False)
        self.process.start()
        atexit.register(self._kill)
        theirs.close()
        self.running = True

    def events(self) -> list[Event]:
        """What the job has said since the last call; never waits."""
        found: list[Event] = []
        while self.running and self._ours.poll():
            try:
                event = self._ours.recv()
            except (EOFError, OSError):
                event = Failed(
                    tr("The work stopped unexpectedly. What was done so far is kept; start it again.")
                )
            found.append(event)
            if isinstance(event, Failed | Finished):
                self._end()
                Thread(target=self._see_off, daemon=True).start()  # nobody waits until it is gone
        return found

    def cancel(self) -> list[Event]:
        """Stop the job now; what it said before is returned, and nothing more comes."""
        found = self.events()
        if self.running:
            self._kill()
            self._end()
            self._see_off()
        return found

    def pause(self) -> None:
        """Let the job and its helpers stand still; nothing is lost."""
        self._signal(signal.SIGSTOP)

    def go_on(self) -> None:
        """Let a paused job run again."""
        self._signal(signal.SIGCONT)

    def _signal(self, which: signal.Signals) -> None:
        for pid in self.family():
            with contextlib.suppress(ProcessLookupError):  # it ended just now
                os.kill(pid, which)

    def family(self) -> list[int]:
        """The job and its helpers; nothing where it has ended."""
        own = self.process.pid
        if own is None or not self.process.is_alive():
            return []
        try:
            children = Path(f"/proc/{own}/task/{own}/children").read_text().split()
        except OSError:
            return []
        return [own, *map(int, children)]

    def _kill(self) -> None:
        """The application ends: so does its job (a daemon would do so by itself, but may have no workers)."""
        helpers = self.family()[1:]
        self.process.kill()  # its workers end with it; a paused job would not hear a kinder signal
        for pid in helpers:
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, signal.SIGCONT)  # one that stands still would not notice

    def _end(self) -> None:
        atexit.unregister(self._kill)
        self.running = False
        self._ours.close()

    def _see_off(self) -> None:
        self.process.join(_STOP_S)
        if self.process.is_alive():
            self.process.kill()
            self.process.join()


class ThreadJob:
    """A job in a thread of this process, for what is short or would be dear to send to another one.

    Parameters
    ----------
    steps : iterator of Event
        Ends between two events when it is cancelled.
    """

    def __init__(self, steps: Iterator[Event]) -> None:
        self._said: SimpleQueue[Event] = SimpleQueue()
        self._cancelled = False
        self.running = True
        Thread(target=self._run, args=(steps,), daemon=True).start()

    def _run(self, steps: Iterator[Event]) -> None:
        last: Event = Finished()
        try:
            for event in steps:
                if self._cancelled:
                    return
                self._said.put(event)
        except DubrelError as error:
            last = Failed(str(error))
        except Exception:
            logging.exception("a job in a thread")
            last = Failed(WENT_WRONG)
        self._said.put(last)

    def events(self) -> list[Event]:
        """What the job has said since the last call; never waits."""
        found: list[Event] = []
        while self.running and not self._said.empty():
            event = self._said.get()
            found.append(event)
            self.running = not isinstance(event, Failed | Finished)
        return found

    def cancel(self) -> list[Event]:
        """Stop the job at its next event; what it said before is returned."""
        found = self.events()
        self._cancelled, self.running = True, False
        return found


def _work(pipe: Connection, name: str, args: tuple[Any, ...], parent: int) -> None:
    end_with_parent(parent)
    set_up_log()
    try:
        for event in job_named(name, *args):
            pipe.send(event)
        pipe.send(Finished())
    except DubrelError as error:
        pipe.send(Failed(str(error)))
    except BrokenPipeError:
        return
    except Exception:
        logging.exception("job %s", name)
        pipe.send(Failed(WENT_WRONG))
