"""The built-in recogniser: a small English model that comes inside its package."""

from __future__ import annotations

import ctypes
import re

import moonshine_voice.transcriber as binding
import numpy as np
from moonshine_voice import ModelArch, Transcriber, get_model_path
from moonshine_voice.errors import check_error

from dubrel.speech.activity import FRAME

_RATE = 16_000
_PIECE = re.compile(r"\S+")


class BuiltinRecogniser:
    """Hears English; chunks are cut by us, so its own voice detection is off."""

    name = "builtin"
    languages: tuple[str, ...] = ("en",)

    def __init__(self) -> None:
        options = {"vad_threshold": "0", "return_audio_data": "false"}
        self._engine = Transcriber(get_model_path("tiny-en"), ModelArch.TINY, options=options)

    def hear(self, samples: np.ndarray) -> str:
        """The text of a chunk; see :class:`dubrel.speech.engines.Recogniser`."""
        if len(samples) < FRAME:
            return ""
        sound = np.ascontiguousarray(samples, np.float32)
        found = ctypes.POINTER(binding.TranscriptC)()
        check_error(
            self._engine._lib.moonshine_transcribe_without_streaming(
                self._engine._handle,
                sound.ctypes.data_as(ctypes.POINTER(ctypes.c_float)),
                len(sound),
                _RATE,
                0,
                ctypes.byref(found),
            )
        )
        lines = self._engine._parse_transcript(found).lines
        return " ".join(piece for line in lines for piece in _PIECE.findall(line.text))
