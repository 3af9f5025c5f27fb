"""A recogniser from a folder on the user's disk: other sizes, other languages."""

from __future__ import annotations

from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.languages import language_in_name
from dubrel.speech.recognise.onnxmodel import EncoderDecoder, read_vocabulary
from dubrel.speech.recognise.recogniser import Engine

_NEEDED = ("encoder_model", "decoder_model_merged")


class FolderRecogniser(EncoderDecoder):
    """Transcribes with the model in a folder.

    Parameters
    ----------
    where : str
        The folder. If its name ends in a language (``base-es``), that is what it transcribes.

    Raises
    ------
    EngineError
        If it holds no model that can be used.
    """

    def __init__(self, where: str) -> None:
        folder = Path(where).expanduser()
        check_folder(folder)
        language = language_in_name(folder.name)
        self.languages: tuple[str, ...] = (language,) if language else ()
        tokens = 10 if self.languages in ((), ("en",)) else 16  # other scripts need more tokens a word
        try:
            super().__init__(folder, tokens)
        except Exception as error:  # the library raises classes of its own for a damaged model
            raise EngineError(
                tr(
                    "The model in “{folder}” cannot be loaded; its files are damaged or of another "
                    "kind. Copy the model again or choose another folder."
                ).format(folder=folder)
            ) from error


def check_folder(folder: Path) -> None:
    """Say what is wrong with a model folder before anything is loaded.

    Raises
    ------
    EngineError
    """
    if not folder.is_dir():
        raise EngineError(
            tr("“{folder}” is not a folder. Choose the folder that holds the model's files.").format(
                folder=folder
            )
        )
    missing = [
        f"{name}.ort"
        for name in _NEEDED
        if not any((folder / f"{name}{suffix}").is_file() for suffix in (".ort", ".onnx"))
    ]
    if not (folder / "tokenizer.bin").is_file():
        missing.append("tokenizer.bin")
    if missing:
        raise EngineError(
            tr("“{folder}” does not hold a usable model: {listed} missing. Choose another folder.").format(
                folder=folder, listed=", ".join(missing)
            )
        )
    try:
        read_vocabulary(folder / "tokenizer.bin")
    except (ValueError, OSError) as error:
        raise EngineError(
            tr("The tokenizer in “{folder}” cannot be read ({error}). Copy the model again.").format(
                folder=folder, error=error
            )
        ) from error


ENGINE = Engine(FolderRecogniser, check=lambda where: check_folder(Path(where).expanduser()))
