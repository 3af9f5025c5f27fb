"""Read the tensors of an old-style torch file, and nothing else.

Such a file is a row of pickles and raw storages. A pickle could do anything;
this reader makes ordered dictionaries and arrays of 32-bit floats and refuses
everything else, so a file can only be numbers.
"""

from __future__ import annotations

import pickle
from collections import OrderedDict
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.value import Value

_MAGIC = 0x1950A86A20F9469CFC6C


class _Storage(Value):
    key: str


class _Tensor(Value):
    storage: _Storage
    offset: int
    shape: tuple[int, ...]
    stride: tuple[int, ...]


def _tensor(storage: _Storage, offset: int, shape: Any, stride: Any, *_rest: Any) -> _Tensor:
    if not isinstance(storage, _Storage):
        raise pickle.UnpicklingError("a tensor without a storage")
    return _Tensor(storage, int(offset), tuple(shape), tuple(stride))


_FLOATS = "float storage"
_KNOWN: dict[tuple[str, str], Any] = {
    ("collections", "OrderedDict"): OrderedDict,
    ("torch._utils", "_rebuild_tensor_v2"): _tensor,
    ("torch", "FloatStorage"): _FLOATS,
}


class _Reader(pickle.Unpickler):
    def find_class(self, module: str, name: str) -> Any:
        if (module, name) not in _KNOWN:
            raise pickle.UnpicklingError(f"{module}.{name} is not a tensor")
        return _KNOWN[module, name]

    def persistent_load(self, pid: Any) -> _Storage:
        if pid[0] != "storage" or pid[1] != _FLOATS:
            raise pickle.UnpicklingError("only storages of floats are read")
        return _Storage(str(pid[2]))


def read_tensors(path: Path) -> dict[str, np.ndarray]:
    """The tensors of a file by their names.

    Returns
    -------
    dict of str to ndarray, float32

    Raises
    ------
    EngineError
        If the file is damaged or holds anything but tensors of floats.
    """
    try:
        with path.open("rb") as file:
            load: Callable[[], Any] = lambda: _Reader(file).load()  # noqa: E731
            if load() != _MAGIC:
                raise pickle.UnpicklingError("another kind of file")
            load(), load()  # version and machine
            state, keys = load(), load()
            storages = {}
            for key in keys:
                count = int(np.frombuffer(file.read(8), "<i8")[0])
                storages[str(key)] = np.frombuffer(file.read(4 * count), "<f4")
        return dict(_named(state.get("model_state", state), storages))
    except (
        pickle.UnpicklingError,
        EOFError,
        ValueError,
        KeyError,
        IndexError,
        AttributeError,
        OSError,
    ) as error:
        raise EngineError(
            tr("“{path}” cannot be read ({error}). Set Dubrel up again.").format(path=path, error=error)
        ) from error


def _named(state: dict[str, Any], storages: dict[str, np.ndarray]) -> Iterator[tuple[str, np.ndarray]]:
    for name, value in state.items():
        if isinstance(value, _Tensor):
            flat = storages[value.storage.key]
            bytes_apart = [4 * step for step in value.stride]
            last = value.offset + sum((n - 1) * step for n, step in zip(value.shape, value.stride))
            if last >= len(flat) or value.offset < 0:
                raise ValueError("a tensor outside its storage")
            yield name, np.lib.stride_tricks.as_strided(flat[value.offset :], value.shape, bytes_apart).copy()
