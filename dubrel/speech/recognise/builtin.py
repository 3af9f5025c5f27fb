"""The built-in recogniser: a small English model that comes inside its package."""

from __future__ import annotations

from importlib.util import find_spec
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.speech.recognise.onnxmodel import EncoderDecoder
from dubrel.speech.recognise.recogniser import Engine


class BuiltinRecogniser(EncoderDecoder):
    """Transcribes English."""

    name = "builtin"
    languages: tuple[str, ...] = ("en",)

    def __init__(self) -> None:
        super().__init__(builtin_folder())


def builtin_folder() -> Path:
    """Where the model is; the package itself is not loaded.

    Raises
    ------
    EngineError
        If the package is not there.
    """
    found = find_spec("moonshine_voice")
    if found is None or not found.origin:
        raise EngineError(tr("The built-in recogniser is missing. Run ./run once to set Dubrel up again."))
    return Path(found.origin).parent / "assets" / "tiny-en"


ENGINE = Engine(lambda where: BuiltinRecogniser(), tr("the built-in recogniser"), BuiltinRecogniser.languages)
