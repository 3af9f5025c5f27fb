"""A stand-in for a recognition service: real HTTP on the loopback, the built-in engine behind it.

Run it with ``python -m dubrel.standins.recogniser``; it prints its address.
Faults can be switched on while it runs: ``POST /faults`` with
``{"kind": KIND, "times": N}``, where KIND is ``slow`` (answers late), ``error``
(500), ``drop`` (the connection breaks in the middle), ``garbage`` (an answer
that is not JSON), ``never`` (jobs do not go on) or ``none``.
"""

from __future__ import annotations

import json
import tempfile
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from dubrel.base.errors import DubrelError
from dubrel.standins.service import FaultyHandler, FaultyServer, serve

PER_MINUTE, CURRENCY = 0.012, "EUR"
_WAITING_S = 0.6


@dataclass
class Job:
    """One recording that was sent in."""

    id: str
    size: int
    path: Path
    received: int = 0
    state: str = "uploading"
    fraction: float = 0.0
    passages: list[dict[str, Any]] = field(default_factory=list)


class StandIn(FaultyServer):
    """The service; ``address`` is where it listens."""

    def __init__(self, port: int = 0) -> None:
        super().__init__(port, _Handler)
        self.jobs: dict[str, Job] = {}
        self.folder = tempfile.TemporaryDirectory(prefix="dubrel-standin-")

    def begin(self, key: str, size: int) -> Job:
        """The job for a recording: the one that there is, or a new one."""
        with self.guard:
            if key not in self.jobs:
                name = f"job{len(self.jobs) + 1}"
                self.jobs[key] = Job(name, size, Path(self.folder.name) / f"{name}.flac")
                self.jobs[key].path.touch()
            return self.jobs[key]

    def job(self, job_id: str) -> Job | None:
        """A job by its id."""
        return next((one for one in self.jobs.values() if one.id == job_id), None)

    def drop(self, job_id: str) -> None:
        """Forget a job."""
        with self.guard:
            self.jobs = {key: one for key, one in self.jobs.items() if one.id != job_id}

    def start_hearing(self, job: Job) -> None:
        """Transcribe a recording that has come in whole."""
        job.state = "waiting"
        threading.Thread(target=self._hear, args=(job,), daemon=True).start()

    def _hear(self, job: Job) -> None:
        import numpy as np

        from dubrel.jobs.transcribing.transcribe import speech_chunks
        from dubrel.media.sound import decode_blocks, passage
        from dubrel.speech.recognise.builtin import BuiltinRecogniser
        from dubrel.speech.recognise.denoising import prepared

        time.sleep(_WAITING_S)
        try:
            samples = np.concatenate(list(decode_blocks(job.path)))
        except (DubrelError, OSError, ValueError):  # no sound in it
            job.state = "failed"
            return
        job.state = "hearing"
        hearer = BuiltinRecogniser()
        for chunk in speech_chunks(samples):
            while self.fault == "never":
                time.sleep(0.05)
            [tokens] = hearer.hear([prepared(np.array(passage(samples, chunk.start_ms, chunk.end_ms)))])
            text = " ".join(one.text for one in tokens)
            if text:
                job.passages.append({"start_ms": chunk.start_ms, "end_ms": chunk.end_ms, "text": text})
            job.fraction = min(0.99, chunk.end_ms * 16 / max(1, len(samples)))
        job.fraction, job.state = 1.0, "done"


class _Handler(FaultyHandler):
    server: StandIn

    def do_GET(self) -> None:
        if self.went_wrong():
            return
        parts = self.path.strip("/").split("/")
        if parts == ["price"]:
            self.answer({"per_minute": PER_MINUTE, "currency": CURRENCY})
        elif parts[0] == "jobs" and len(parts) >= 2 and (job := self.server.job(parts[1])):
            if parts[2:] == ["text"] and job.state == "done":
                self.answer({"passages": job.passages})
            else:
                self.answer({"state": job.state, "fraction": job.fraction, "received": job.received})
        else:
            self.answer({"error": "unknown"}, 404)

    def do_POST(self) -> None:
        body = self.body()
        if self.path == "/faults":
            self.set_fault_from(body)
        elif not self.went_wrong():
            wanted = json.loads(body)
            job = self.server.begin(wanted["key"], wanted["size"])
            self.answer({"id": job.id, "received": job.received})

    def do_PUT(self) -> None:
        parts = self.path.strip("/").split("/")
        job, start = self.server.job(parts[1]), int(self.headers["X-From"])
        body = self.body()
        if self.went_wrong() or job is None:
            return
        if job.state == "uploading" and start == job.received:
            with job.path.open("ab") as file:
                file.write(body)
            job.received += len(body)
            if job.received >= job.size:
                self.server.start_hearing(job)
        self.answer({"received": job.received})

    def do_DELETE(self) -> None:
        self.server.drop(self.path.strip("/").split("/")[1])
        self.answer({})


if __name__ == "__main__":
    serve(StandIn, __doc__, 8765)
