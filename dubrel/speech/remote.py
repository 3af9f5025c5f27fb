"""A recogniser elsewhere, over HTTP: send the recording, wait, fetch the text.

What goes wrong on the way is tried again with growing waits. The service knows
a recording by a key, so work that was broken off, even by closing the
application, goes on where it stopped. The protocol is in docs/remote.md.
"""

from __future__ import annotations

import http.client
import io
import json
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from typing import Any, TypeVar

import numpy as np

from dubrel.errors import EngineError
from dubrel.speech.recogniser import Passage

_PIECE = 1 << 18
_TRIES = 6
_FIRST_WAIT_S, _GROWTH = 0.25, 2.0
_ANSWER_S = 20
_RATE = 16_000
T = TypeVar("T")


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
        If that is no address.
    """

    def __init__(self, address: str, patience_s: float = 600, poll_s: float = 0.5) -> None:
        if not address.startswith(("http://", "https://")) or len(address.split("/")[2]) < 1:
            raise EngineError(
                f"“{address}” is not the address of a service. An address begins with http:// or https://."
            )
        self.address = address.rstrip("/")
        self._patience_s, self._poll_s = patience_s, poll_s

    def price(self, duration_ms: int) -> str:
        """What transcribing will cost; asks the service."""

        def read(value: dict[str, Any]) -> str:
            each, currency = float(value["per_minute"]), str(value["currency"])
            return f"{each * duration_ms / 60_000:.2f} {currency} ({each:g} {currency} a minute)"

        return self._asked("GET", "/price", read)

    def hear_recording(self, samples: np.ndarray, key: str) -> Iterator[float | str | Passage]:
        """Send, wait and fetch; see :class:`dubrel.speech.engines.Service`."""
        sound = as_flac(samples)
        order = json.dumps({"key": key, "size": len(sound)}).encode()
        job, received = self._asked(
            "POST", "/jobs", lambda value: (str(value["id"]), int(value["received"])), order
        )
        yield "Sending the recording"
        while received < len(sound):
            piece = sound[received : received + _PIECE]
            received = self._asked(
                "PUT", f"/jobs/{job}/sound", lambda value: int(value["received"]), piece, received
            )
            yield 0.3 * received / max(1, len(sound))
        yield from self._wait(job)
        yield from self._asked("GET", f"/jobs/{job}/text", _passages)
        self._asked("DELETE", f"/jobs/{job}", lambda value: None)

    def _wait(self, job: str) -> Iterator[float | str | Passage]:
        last, since = None, time.monotonic()
        while True:
            state, fraction = self._asked(
                "GET", f"/jobs/{job}", lambda value: (str(value["state"]), float(value["fraction"]))
            )
            if state == "done":
                return
            if state == "failed":
                self._asked("DELETE", f"/jobs/{job}", lambda value: None)
                raise EngineError(
                    f"The service at {self.address} could not transcribe the recording. Try another recogniser."
                )
            if (state, fraction) != last:
                last, since = (state, fraction), time.monotonic()
                yield "Waiting for the service" if state != "hearing" else "Transcribed elsewhere"
                yield 0.3 + 0.6 * fraction
            elif time.monotonic() - since > self._patience_s:
                raise EngineError(
                    f"The service at {self.address} has made no progress for {self._patience_s / 60:.0f} minutes. "
                    "Start again later; it goes on from where it stopped."
                )
            time.sleep(self._poll_s)

    def _asked(
        self,
        method: str,
        path: str,
        read: Callable[[Any], T],
        body: bytes | None = None,
        start: int | None = None,
    ) -> T:
        """One request, tried again where the service or the line fails."""
        wait, reason = _FIRST_WAIT_S, ""
        for attempt in range(_TRIES):
            if attempt:
                time.sleep(wait)
                wait *= _GROWTH
            request = urllib.request.Request(self.address + path, body, method=method)
            if start is not None:
                request.add_header("X-From", str(start))
            try:
                with urllib.request.urlopen(request, timeout=_ANSWER_S) as answer:
                    return read(json.loads(answer.read()))
            except urllib.error.HTTPError as error:
                if error.code < 500 and error.code not in (408, 429):
                    raise EngineError(
                        f"The service at {self.address} refused ({error.code}). Check the address."
                    ) from error
                reason = f"it answered {error.code}"
            except (OSError, http.client.HTTPException) as error:
                reason = f"the connection failed ({getattr(error, 'reason', error) or type(error).__name__})"
            except (ValueError, KeyError, TypeError):
                reason = "its answer could not be read"
        raise EngineError(
            f"The service at {self.address} cannot be used: {reason}, {_TRIES} times. "
            "What was sent is kept there; start again to go on."
        )


def _passages(value: Any) -> list[Passage]:
    found = [Passage(int(one["start_ms"]), int(one["end_ms"]), str(one["text"])) for one in value["passages"]]
    return sorted(found, key=lambda one: one.start_ms)


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
