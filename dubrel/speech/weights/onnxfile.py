"""Read what an ONNX file says of itself: enough of its wire form to find constants by name.

The form is that of protocol buffers: fields of a number and a kind, one after
the other. Nothing of the file is run here.
"""

from __future__ import annotations

from collections.abc import Iterator

_GRAPH, _NODE, _INITIALISER = 7, 1, 5
_INPUT, _OUTPUT, _NAME, _RAW = 1, 2, 8, 9


def number_at(data: bytes, at: int) -> tuple[int, int]:
    """A number of any length (seven bits in each byte), and where the next thing begins."""
    value = shift = 0
    while True:
        byte = data[at]
        at += 1
        value |= (byte & 127) << shift
        shift += 7
        if not byte & 128:
            return value, at


def _fields(data: bytes) -> Iterator[tuple[int, bytes]]:
    """Number and bytes of each field that holds bytes; others are passed over."""
    at = 0
    while at < len(data):
        key, at = number_at(data, at)
        kind = key & 7
        if kind == 0:
            _, at = number_at(data, at)
        elif kind == 2:
            length, at = number_at(data, at)
            yield key >> 3, data[at : at + length]
            at += length
        else:
            at += 8 if kind == 1 else 4


def _all(data: bytes, number: int) -> list[bytes]:
    return [value for found, value in _fields(data) if found == number]


def quantisation(model: bytes, name: str) -> tuple[bytes, bytes]:
    """The raw scale and zero point with which a tensor is made from, or into, bytes.

    Parameters
    ----------
    model : bytes
        The ONNX file.
    name : str
        Of an input or an output of the graph.

    Raises
    ------
    ValueError
        If no such step is in the graph.
    """
    [graph] = _all(model, _GRAPH)
    raw = {_all(one, _NAME)[0]: b"".join(_all(one, _RAW)) for one in _all(graph, _INITIALISER)}
    for node in _all(graph, _NODE):
        inputs, outputs = _all(node, _INPUT), _all(node, _OUTPUT)
        ends = (*inputs[:1], *outputs)
        if name.encode() in ends and len(inputs) == 3 and all(one in raw for one in inputs[1:]):
            return raw[inputs[1]], raw[inputs[2]]
    raise ValueError(f"{name} is not quantised")
