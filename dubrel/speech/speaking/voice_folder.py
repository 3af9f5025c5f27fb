"""A folder with a voice of the user's own: an ONNX model and its JSON, read by the package ``piper-tts``."""

from __future__ import annotations

import json
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.jsontext import parse_json
from dubrel.base.languages import main_tag
from dubrel.speech.speaking.engines import Said, SpeakingEngine

_MOST_BYTES = 4 << 20


class FolderVoice:
    """The voice of a folder.

    Parameters
    ----------
    where : str
        The folder.

    Raises
    ------
    EngineError
        If the package is not installed, or the folder holds no voice that it reads.
    """

    def __init__(self, where: str) -> None:
        model = _model_in(where)
        try:
            from piper import PiperVoice  # type: ignore[import-not-found]
        except ImportError as error:
            raise EngineError(
                tr("Voices of your own need the package piper-tts. Type: .venv/bin/pip install piper-tts")
            ) from error
        try:
            self._voice: Any = PiperVoice.load(model, config_path=_beside(model))
        except Exception as error:
            raise EngineError(
                tr("“{where}” holds no voice that can be read. Choose another folder.").format(where=where)
            ) from error

    def say(self, text: str, language: str) -> Said:
        """Speak a text."""
        parts, rate = [], 0
        for chunk in self._voice.synthesize(text):
            parts.append(np.asarray(chunk.audio_float_array, np.float32))
            rate = int(chunk.sample_rate)
        if not parts:
            raise EngineError(
                tr("The voice said nothing for “{text}”. Choose another voice.").format(text=text[:60])
            )
        return Said(np.concatenate(parts), rate)


def _model_in(where: str) -> Path:
    """The first model of a folder that has its JSON beside it."""
    found = [one for one in sorted(Path(where).glob("*.onnx")) if _beside(one).is_file()]
    if not found:
        raise EngineError(
            tr(
                "“{where}” holds no voice: an .onnx file with its .onnx.json beside it. Choose "
                "another folder."
            ).format(where=where)
        )
    return found[0]


def _beside(model: Path) -> Path:
    return model.with_name(f"{model.name}.json")


@lru_cache(maxsize=16)
def language_of(where: str) -> str:
    """The language of a folder's voice.

    Raises
    ------
    EngineError
        If it does not say.
    """
    try:
        value = parse_json(_beside(_model_in(where)).read_bytes()[:_MOST_BYTES])
        said = value.get("language", {}).get("code") or value["espeak"]["voice"]
        return str(said).replace("_", "-")
    except (OSError, ValueError, KeyError, TypeError, AttributeError, json.JSONDecodeError) as error:
        raise EngineError(
            tr("The voice in “{where}” does not say its language. Choose another.").format(where=where)
        ) from error


ENGINE = SpeakingEngine(
    FolderVoice,
    tr("a voice of your own"),
    lambda where, language: main_tag(language_of(where)) == main_tag(language),
)
