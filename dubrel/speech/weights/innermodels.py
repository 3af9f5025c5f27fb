"""Models that lie as data in the library of the recogniser's package, read without running anything of it."""

from __future__ import annotations

import ctypes
from importlib.util import find_spec
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError

_LIBRARY = "libmoonshine.so"
_NAME = "_ZN9cppannote19embedded_community1{length}{name}E"


def inner_session(name: str) -> Any:
    """A model of the library, ready to run on one thread.

    Parameters
    ----------
    name : str
        ``segmentation`` or ``embedding``.

    Raises
    ------
    EngineError
        If the library is not there or has no such model.
    """
    import onnxruntime

    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = options.inter_op_num_threads = 1
    return onnxruntime.InferenceSession(_bytes(name), options, providers=["CPUExecutionProvider"])


def _bytes(name: str) -> bytes:
    found = find_spec("moonshine_voice")
    path = Path(found.origin).parent / _LIBRARY if found and found.origin else Path(_LIBRARY)
    try:
        library = ctypes.CDLL(str(path))
        size = ctypes.c_size_t.in_dll(library, _symbol(f"{name}_ort_data_size")).value
        return (ctypes.c_char * size).in_dll(library, _symbol(f"{name}_ort_data")).raw
    except (OSError, ValueError) as error:
        raise EngineError(
            tr(
                "The {name} model of the recogniser's package is missing. Run ./run once to set "
                "Dubrel up again."
            ).format(name=name)
        ) from error


def _symbol(name: str) -> str:
    """The name as the compiler wrote it."""
    return _NAME.format(length=len(name), name=name)
