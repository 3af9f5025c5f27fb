"""A recogniser elsewhere, over HTTP: send the recording, wait, fetch the text.

What goes wrong on the way is tried again with growing waits. The service knows
a recording by a key, so work that was broken off, even by closing the
application, goes on where it stopped. The protocol is in docs/remote.md.
"""

from __future__ import annotations

import io
import json
import re
import time
from collections.abc import Iterator
from contextlib import suppress
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.http_client import Line, checked_address
from dubrel.base.timecode import LATEST_MS
from dubrel.speech.recognise.recogniser import Engine, Passage
from dubrel.user.keys import key_for
from dubrel.user.settings import SETTINGS

_PIECE = 1 << 18
_STALLED = 5  # pieces in a row that the service did not take
_RATE = 16_000
_JOB = re.compile(r"[A-Za-z0-9._-]{1,100}")


class RemoteRecogniser:
    """The client of a recognition service.

    Parameters
    ----------
    address : str
        ``http://…`` or ``https://…``.
    patience_s : float
        How long a job may stand still.
    poll_s : float
        How often to ask.

    Raises
    ------
    EngineError
        If that is not an address.
    """

    def __init__(self, address: str, patience_s: float = 600, poll_s: float = 0.5) -> None:
        self.address = checked_address(address)
        self._line = Line(self.address, key_for(self.address))
        self._patience_s, self._poll_s = patience_s, poll_s

    def price(self, duration_ms: int) -> str:
        """What transcribing will cost; asks the service."""

        def read(value: dict[str, Any]) -> str:
            each, currency = float(value["per_minute"]), str(value["currency"])
            if not 0 <= each < 1e6 or not 0 < len(currency) <= 10 or not currency.isprintable():
                raise ValueError("no price")
            return f"{each * duration_ms / 60_000:.2f} {currency} ({each:g} {currency} a minute)"

        return self._line.ask("GET", "/price", read)

    def hear_recording(self, samples: np.ndarray, key: str) -> Iterator[float | str | Passage]:
        """Send, wait and fetch; see :class:`dubrel.speech.recognise.recogniser.Service`.

        Raises
        ------
        EngineError
            If the user has not agreed that recordings go there: this is where bytes
            leave the machine. If the service fails for good.
        """
        if f"remote:{self.address}" not in {one.rstrip("/") for one in SETTINGS.read().consented}:
            raise EngineError(
                tr(
                    "Nothing was sent to {address}: you have not agreed to it. Transcribe it again and agree."
                ).format(address=self.address)
            )
        sound = as_flac(samples)
        order = json.dumps({"key": key, "size": len(sound)}).encode()
        job, received = self._line.ask("POST", "/jobs", lambda value: _begun(value, len(sound)), order)
        yield tr("Sending the recording")
        yield from self._send(job, sound, received)
        yield from self._wait(job)
        yield from self._line.ask("GET", f"/jobs/{job}/text", _passages)
        self._tidy_up(job)

    def _send(self, job: str, sound: bytes, received: int) -> Iterator[float]:
        stalled = 0
        while received < len(sound):
            before, piece = received, sound[received : received + _PIECE]
            received = self._line.ask(
                "PUT",
                f"/jobs/{job}/sound",
                lambda value: _received(value, len(sound)),
                piece,
                {"X-From": str(received)},
            )
            stalled = 0 if received > before else stalled + 1
            if stalled == _STALLED:
                raise EngineError(
                    tr(
                        "The service at {address} does not accept the recording. Try again later, or "
                        "another one."
                    ).format(address=self.address)
                )
            yield 0.3 * received / max(1, len(sound))

    def _tidy_up(self, job: str) -> None:
        """Let the service forget the recording; what it gave is here already, whatever it says."""
        with suppress(EngineError):
            self._line.ask("DELETE", f"/jobs/{job}", lambda value: None)

    def _wait(self, job: str) -> Iterator[float | str]:
        last, since = None, time.monotonic()
        best, states = -1.0, set[str]()
        while True:
            state, fraction = self._line.ask(
                "GET",
                f"/jobs/{job}",
                lambda value: (str(value["state"]), min(1.0, max(0.0, float(value["fraction"])))),
            )
            if state == "done":
                return
            if state == "failed":
                self._tidy_up(job)
                raise EngineError(
                    tr(
                        "The service at {address} could not transcribe the recording. Try another recogniser."
                    ).format(address=self.address)
                )
            if fraction > best or (state[:40] not in states and len(states) < 10):
                since, best = time.monotonic(), max(best, fraction)
                states.add(state[:40])
            if (state, fraction) != last:
                last = (state, fraction)
                yield tr("Waiting for the service") if state != "hearing" else tr("Transcribed elsewhere")
                yield 0.3 + 0.6 * fraction
            if time.monotonic() - since > self._patience_s:
                raise EngineError(
                    tr(
                        "The service at {address} has made no progress for {patience_s:.0f} minutes. "
                        "Start again later; it goes on from where it stopped."
                    ).format(address=self.address, patience_s=self._patience_s / 60)
                )
            time.sleep(self._poll_s)


def _begun(value: Any, size: int) -> tuple[str, int]:
    job = str(value["id"])
    if not _JOB.fullmatch(job):
        raise ValueError("no id")
    return job, _received(value, size)


def _received(value: Any, size: int) -> int:
    received = int(value["received"])
    if not 0 <= received <= size:
        raise ValueError(tr("more than there is"))
    return received


def _passages(value: Any) -> list[Passage]:
    found = [_passage(one) for one in value["passages"]]
    return sorted(found, key=lambda one: one.start_ms)


def _passage(one: Any) -> Passage:
    start, end = (min(LATEST_MS, max(0, int(one[name]))) for name in ("start_ms", "end_ms"))
    return Passage(start, max(start, end), str(one["text"]))


def as_flac(samples: np.ndarray) -> bytes:
    """The samples without loss, about half the size.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
        16 kHz, mono.
    """
    import av

    target = io.BytesIO()
    with av.open(target, "w", format="flac") as out:
        stream = out.add_stream("flac", rate=_RATE, layout="mono", format="s16")
        for start in range(0, len(samples), 4096):
            block = np.array(samples[None, start : start + 4096])
            frame = av.AudioFrame.from_ndarray(block, "s16", "mono")
            frame.rate, frame.pts = _RATE, start
            for packet in stream.encode(frame):
                out.mux(packet)
        for packet in stream.encode(None):
            out.mux(packet)
    return target.getvalue()


ENGINE = Engine(RemoteRecogniser)
