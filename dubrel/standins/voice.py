"""A stand-in for a voice service: real HTTP on the loopback, espeak-ng behind it.

Run it with ``python -m dubrel.standins.voice``; it prints its address. Faults are switched on with
``POST /faults``, see :mod:`dubrel.standins.service`; ``times`` gives the times of too few words, ``silent``
no sound.
"""

from __future__ import annotations

import base64
import io
import json
import wave

import numpy as np

from dubrel.standins.service import FaultyHandler, FaultyServer, serve

LANGUAGES = ("en", "pt", "es", "de", "fr", "ar")


class StandIn(FaultyServer):
    """The service; ``received`` is all that was ever sent to it."""

    def __init__(self, port: int = 0) -> None:
        super().__init__(port, _Handler)
        self.received: list[str] = []
        self.odd = "none"


class _Handler(FaultyHandler):
    def do_GET(self) -> None:
        """The languages."""
        if not self.went_wrong():
            self.answer({"languages": LANGUAGES})

    def do_POST(self) -> None:
        """A text."""
        body = self.body()
        if self.path == "/faults":
            self.set_fault_from(body)
        elif not self.went_wrong():
            order = json.loads(body)
            self.server.received.append(order["text"])
            self.answer(_spoken(order["text"], order["language"], self.server.odd))


def _spoken(text: str, language: str, odd: str) -> dict[str, object]:
    from dubrel.speech.align.synthesis import RATE, speak  # late: a library of its own

    said = speak(text.split(), language)
    times = [one or (0.0, 0.0) for one in said.times]
    sound, data = said.samples[:0] if odd == "silent" else said.samples, io.BytesIO()
    with wave.open(data, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes((np.clip(sound, -1, 1) * 32767).astype("<i2").tobytes())
    return {
        "sound": base64.b64encode(data.getvalue()).decode(),
        "words": times[:-1] if odd == "times" else times,
    }


if __name__ == "__main__":
    serve(StandIn, __doc__, 8767)
