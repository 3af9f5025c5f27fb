"""A stand-in for a translation service: real HTTP on the loopback, the built-in translator behind it.

Run it with ``python -m dubrel.standins.translator``; it prints its address.
Faults can be switched on while it runs: ``POST /faults`` with
``{"kind": KIND, "times": N}``, where KIND is ``slow`` (answers late), ``error``
(500), ``drop`` (the connection breaks in the middle), ``garbage`` (an answer
that is not JSON), ``quota`` (402: used up), ``count`` (a sentence too few),
``order`` (the sentences in another order), ``empty`` (one of them empty),
``never`` (jobs do not go on) or ``none``.
"""

from __future__ import annotations

import json
import threading
import time
from dataclasses import dataclass, field
from typing import Any

from dubrel.standins.service import FaultyHandler, FaultyServer, serve
from dubrel.translation.translators.directions import NEURAL
from dubrel.translation.translators.engines import translator

PER_SIGN, CURRENCY = 0.00002, "EUR"
MOST_SENTENCES = 40
_WAITING_S = 0.15


@dataclass
class Job:
    """Sentences that were sent in."""

    id: str
    source: str
    target: str
    sentences: list[dict[str, Any]]
    state: str = "waiting"
    done: list[dict[str, Any]] = field(default_factory=list)


class StandIn(FaultyServer):
    """The service; ``received`` is all that was ever sent to it."""

    def __init__(self, port: int = 0) -> None:
        super().__init__(port, _Handler)
        self.jobs: dict[str, Job] = {}
        self.received: list[str] = []
        self.odd = "none"

    def begin(self, key: str, order: dict[str, Any]) -> Job:
        """The job of a key: the one that there is, or a new one."""
        with self.guard:
            if key not in self.jobs:
                job = Job(f"job{len(self.jobs) + 1}", order["source"], order["target"], order["sentences"])
                self.received += [one["text"] for one in job.sentences]
                self.jobs[key] = job
                threading.Thread(target=self._work, args=(job,), daemon=True).start()
            return self.jobs[key]

    def _work(self, job: Job) -> None:
        time.sleep(_WAITING_S)
        while self.fault == "never":
            time.sleep(0.05)
        job.state = "working"
        engine = translator("builtin", job.source, job.target)
        made = engine.translate([one["text"] for one in job.sentences])
        job.done = [{"id": one["id"], "text": text} for one, text in zip(job.sentences, made)]
        job.state = "done"


class _Handler(FaultyHandler):
    server: StandIn

    def do_GET(self) -> None:
        if self.went_wrong():
            return
        parts = self.path.strip("/").split("/")
        if parts == ["offer"]:
            self.answer(
                {
                    "pairs": [list(pair) for pair in NEURAL],
                    "per_character": PER_SIGN,
                    "currency": CURRENCY,
                    "most_sentences": MOST_SENTENCES,
                }
            )
            return
        job = next((one for one in self.server.jobs.values() if parts[1:2] == [one.id]), None)
        if parts[0] != "jobs" or job is None:
            self.answer({"error": "unknown"}, 404)
        elif parts[2:] == ["sentences"] and job.state == "done":
            self.answer({"sentences": self._as_odd_as_wanted(job.done)})
        else:
            self.answer({"state": job.state})

    def _as_odd_as_wanted(self, sentences: list[dict[str, Any]]) -> list[dict[str, Any]]:
        odd = self.server.odd
        if odd == "count":
            return sentences[:-1]
        if odd == "order":
            return sentences[::-1]
        if odd == "empty":
            return [{**sentences[0], "text": ""}, *sentences[1:]]
        return sentences

    def do_POST(self) -> None:
        body = self.body()
        if self.path == "/faults":
            self.set_fault_from(body)
        elif not self.went_wrong():
            order = json.loads(body)
            if len(order["sentences"]) > MOST_SENTENCES:
                self.answer({"error": "too many"}, 413)
                return
            self.answer({"id": self.server.begin(order["key"], order).id})


if __name__ == "__main__":
    serve(StandIn, __doc__, 8766)
