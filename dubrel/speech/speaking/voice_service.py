"""A voice elsewhere, over HTTP: a text is sent, sound comes back. The protocol is in docs/remote.md."""

from __future__ import annotations

import base64
import binascii
import io
import json
import wave
from functools import lru_cache
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.http_client import Line, checked_address
from dubrel.base.languages import main_tag
from dubrel.speech.speaking.engines import Said, SpeakingEngine
from dubrel.user.keys import key_for
from dubrel.user.settings import SETTINGS

_LEAST_RATE, _MOST_RATE = 8000, 96_000


def consent_name(address: str) -> str:
    """Under which name it is kept that texts may be sent there."""
    return f"voice:{checked_address(address)}"


class ServiceVoice:
    """The client of a voice service.

    Raises
    ------
    EngineError
        If that is not an address.
    """

    def __init__(self, address: str) -> None:
        self.address = checked_address(address)
        self._line = Line(self.address, key_for(self.address))

    def say(self, text: str, language: str) -> Said:
        """Send a text and take its sound.

        Raises
        ------
        EngineError
            If the user has not agreed that texts go there: this is where they leave the machine.
        """
        if consent_name(self.address) not in SETTINGS.read().consented:
            raise EngineError(
                tr(
                    "Nothing was sent to {address}: you have not agreed to it. Speak it again and agree."
                ).format(address=self.address)
            )
        order = json.dumps({"text": text, "language": language}).encode()
        return self._line.ask("POST", "/speech", lambda value: _said(value, len(text.split())), order)


def _said(value: dict[str, Any], count: int) -> Said:
    """The sound of an answer; ValueError where it is none."""
    try:
        with wave.open(io.BytesIO(base64.b64decode(value["sound"], validate=True))) as file:
            sound_is_right = file.getnchannels() == 1 and file.getsampwidth() == 2
            rate, data = file.getframerate(), file.readframes(file.getnframes())
    except (wave.Error, binascii.Error, EOFError) as error:
        raise ValueError("no sound") from error
    if not sound_is_right or not _LEAST_RATE <= rate <= _MOST_RATE or not data:
        raise ValueError("another form of sound")
    times = value.get("words")
    if times is not None:
        times = tuple((float(a), float(b)) for a, b in times)
        longest = len(data) / 2 / rate + 0.01
        if len(times) != count or any(not 0 <= a <= b <= longest for a, b in times):
            raise ValueError("times of other words")
    return Said(np.frombuffer(data, "<i2").astype(np.float32) / 32768, rate, times)


@lru_cache(maxsize=16)
def languages_of(address: str) -> tuple[str, ...]:
    """The languages that a service speaks; no text is sent for that."""
    line = Line(checked_address(address), key_for(checked_address(address)))
    return line.ask("GET", "/voices", lambda value: tuple(str(one) for one in value["languages"]))


ENGINE = SpeakingEngine(
    ServiceVoice,
    "a service",
    lambda where, language: main_tag(language) in {main_tag(one) for one in languages_of(where)},
)
