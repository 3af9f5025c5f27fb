"""Let a network of an ONNX file take pictures of any size: fixed sizes of inputs and outputs become names.

The form is that of protocol buffers (see :mod:`dubrel.speech.weights.onnxfile`).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

from dubrel.speech.weights.onnxfile import number_at

_GRAPH, _INPUT, _OUTPUT, _INSIDE = 7, 11, 12, 13
_TYPE, _TENSOR, _SHAPE, _SIZE = 2, 1, 2, 1
_BYTES = 2  # the kind of a field that holds bytes


def with_free_shapes(data: bytes) -> bytes:
    """The file with sizes that are free; those between its layers, which are only hints, are left out.

    Parameters
    ----------
    data : bytes
        An ONNX file.
    """
    return _changed(data, {_GRAPH: _graph})


def _graph(data: bytes) -> bytes:
    return _changed(data, {_INPUT: _value, _OUTPUT: _value, _INSIDE: None})


def _value(data: bytes) -> bytes:
    return _changed(data, {_TYPE: lambda kind: _changed(kind, {_TENSOR: _tensor})})


def _tensor(data: bytes) -> bytes:
    return _changed(data, {_SHAPE: _shape})


def _shape(data: bytes) -> bytes:
    """Each size with a name of its own instead of a number (field 2 of a size)."""
    made, nth = b"", 0
    for number, _, _ in _fields(data):
        if number == _SIZE:
            name = f"size{nth}".encode()
            made += _field(_SIZE, _field(2, name))
            nth += 1
    return made


def _changed(data: bytes, change: dict[int, Callable[[bytes], bytes] | None]) -> bytes:
    """A message with some of its fields as functions make them; without those that have none."""
    made: list[bytes] = []
    for number, kind, raw in _fields(data):
        if number not in change or kind != _BYTES:
            made += (_number(number << 3 | kind), raw)
            continue
        function = change[number]
        if function is not None:
            _, at = number_at(raw, 0)
            made.append(_field(number, function(raw[at:])))
    return b"".join(made)


def _fields(data: bytes) -> Iterator[tuple[int, int, bytes]]:
    """Number and kind of each field, and its bytes as they stand, with their length before them."""
    at = 0
    while at < len(data):
        head, start = number_at(data, at)
        kind = head & 7
        if kind == _BYTES:
            length, inner = number_at(data, start)
            end = inner + length
        elif kind == 0:
            _, end = number_at(data, start)
        else:
            end = start + (8 if kind == 1 else 4)
        yield head >> 3, kind, data[start:end]
        at = end


def _field(number: int, data: bytes) -> bytes:
    return _number(number << 3 | _BYTES) + _number(len(data)) + data


def _number(value: int) -> bytes:
    made = b""
    while value > 127:
        made += bytes([value & 127 | 128])
        value >>= 7
    return made + bytes([value])
