"""Shot changes and lettering, found in the frames of a film in one pass."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.timecode import rounded, snap_to_frame
from dubrel.base.value import Value
from dubrel.media.probe import open_media, picture_of
from dubrel.model import Banner

_SMALL = 320  # pixels: the width at which shot changes are told
_WIDE = 640  # pixels: the width at which letters are told
_EVERY_MS = 200  # how often lettering is looked for
_CELL_W, _CELL_H = 32, 8
_STRONG = 26  # grey levels from one pixel to the next
_LEAST_EDGES, _MOST_EDGES = 0.08, 0.6
_STILL = 0.6  # share of the edges that are where they were
_LEAST_MS = 1000
_MARGIN = 2.0  # percent around letters
_LOWER = 0.4  # lettering is looked for below this share of the height


class Pictures(Value):
    """What the frames of a film show.

    Attributes
    ----------
    shots : tuple of int
        Shot changes in milliseconds, on frames.
    banners : tuple of Banner
    """

    shots: tuple[int, ...] = ()
    banners: tuple[Banner, ...] = ()


def look_at_frames(path: Path, duration_ms: int, rate: Fraction | None) -> Iterator[float | Pictures]:
    """Find shot changes and lettering.

    Yields
    ------
    float or Pictures
        How far it is, 0 to 1; at the end what was found.

    Raises
    ------
    MediaError
        If the file cannot be read or has no picture.
    """
    import av

    with open_media(path) as container:
        stream = picture_of(container)
        if stream is None:
            raise MediaError(tr("“{name}” has no picture. Choose a film.").format(name=path.name))
        stream.thread_type = "AUTO"
        zero = Fraction(container.start_time or 0, av.time_base)
        shots, letters = _Shots(), _Letters()
        try:
            for nth, frame in enumerate(container.decode(stream)):
                if frame.pts is None or frame.time_base is None:
                    continue
                ms = rounded((frame.pts * frame.time_base - zero) * 1000)
                shots.take(frame, nth, ms)
                letters.take(frame, ms)
                if nth % 25 == 0:
                    yield min(1.0, ms / max(1, duration_ms))
        except (OSError, ValueError, av.error.FFmpegError) as error:
            raise MediaError(
                tr("The picture of “{name}” cannot be read. Check the file.").format(name=path.name)
            ) from error
    found = tuple(snap_to_frame(ms, rate) for ms in shots.found)
    yield Pictures(found, tuple(letters.ended(duration_ms)))


class _Shots:
    """Tells shot changes by how much the content of two frames differs."""

    def __init__(self) -> None:
        from scenedetect.detectors import ContentDetector  # late: most work does without

        self._detector = ContentDetector(min_scene_len=8)
        self._times: dict[int, int] = {}
        self.found: list[int] = []

    def take(self, frame: Any, nth: int, ms: int) -> None:
        """Look at the next frame."""
        from scenedetect import FrameTimecode

        height = max(2, frame.height * _SMALL // max(1, frame.width)) // 2 * 2
        image = frame.reformat(width=_SMALL, height=height, format="bgr24").to_ndarray()
        self._times[nth] = ms
        for cut in self._detector.process_frame(FrameTimecode(nth, 25.0), image):
            self.found.append(self._times[cut.frame_num])
        self._times.pop(nth - 200, None)


@dataclass
class _Seen:
    """Lettering that stands still, as far as it was seen."""

    start_ms: int
    end_ms: int
    box: tuple[float, float, float, float]


@dataclass
class _Letters:
    """Tells lettering: many strong short edges of both directions side by side, which stay where they are."""

    _next_ms: int = 0
    _before: np.ndarray | None = None
    _open: list[_Seen] = field(default_factory=list)
    _done: list[_Seen] = field(default_factory=list)

    def take(self, frame: Any, ms: int) -> None:
        """Look at a frame now and then."""
        if ms < self._next_ms:
            return
        self._next_ms = ms + _EVERY_MS
        height = max(_CELL_H, frame.height * _WIDE // max(1, frame.width)) // 2 * 2
        grey = frame.reformat(width=_WIDE, height=height, format="gray").to_ndarray()[:, :_WIDE]
        top = int(height * _LOWER) // _CELL_H * _CELL_H
        step = np.diff(grey[top:].astype(np.int16), axis=1, append=0)
        step[:, -1] = 0
        signs = np.where(step > _STRONG, 1, np.where(step < -_STRONG, -1, 0)).astype(np.int8)
        boxes = (
            self._boxes(signs, top, height)
            if self._before is not None and self._before.shape == signs.shape
            else []
        )
        self._before = signs
        self._join(boxes, ms)

    def _boxes(self, signs: np.ndarray, top: int, height: int) -> list[tuple[float, float, float, float]]:
        """Where there is lettering that stood in the frame before too, in percent."""
        from scipy.ndimage import binary_dilation, find_objects, label  # late: half a second

        assert self._before is not None
        rows, columns = signs.shape[0] // _CELL_H, signs.shape[1] // _CELL_W

        def cells(values: np.ndarray) -> np.ndarray:
            cut = values[: rows * _CELL_H, : columns * _CELL_W]
            return cut.reshape(rows, _CELL_H, columns, _CELL_W).sum(axis=(1, 3))

        up, down = cells(signs > 0), cells(signs < 0)
        edges = up + down
        still = cells((signs != 0) & (signs == self._before))
        size = _CELL_W * _CELL_H
        like = (edges >= _LEAST_EDGES * size) & (edges <= _MOST_EDGES * size)
        like &= (np.minimum(up, down) >= 0.25 * edges) & (still >= _STILL * edges)
        areas, _ = label(binary_dilation(like, np.ones((3, 3))))
        found = []
        for area in find_objects(areas):
            here = np.argwhere(like[area])
            low, high = here.min(axis=0), here.max(axis=0) + 1
            y, x = area[0].start, area[1].start
            if high[1] - low[1] < 3 or len(here) < 4:
                continue
            left, right = (x + low[1]) * _CELL_W / _WIDE, (x + high[1]) * _CELL_W / _WIDE
            above, below = (top + (y + low[0]) * _CELL_H) / height, (top + (y + high[0]) * _CELL_H) / height
            found.append((100 * left, 100 * above, 100 * right, 100 * below))
        return found

    def _join(self, boxes: list[tuple[float, float, float, float]], ms: int) -> None:
        """Go on with what was seen before where it is seen again."""
        still = []
        for seen in self._open:
            again = next((box for box in boxes if _overlap(box, seen.box) > 0.5), None)
            if again is not None:
                boxes.remove(again)
                seen.box = _both(seen.box, again)
                seen.end_ms = ms
                still.append(seen)
            elif ms - seen.end_ms <= 2 * _EVERY_MS:
                still.append(seen)
            else:
                self._done.append(seen)
        self._open = still + [_Seen(max(0, ms - 2 * _EVERY_MS), ms, box) for box in boxes]

    def ended(self, duration_ms: int) -> Iterator[Banner]:
        """All lettering, in order of time, that stood long enough."""
        for one in sorted([*self._done, *self._open], key=lambda seen: seen.start_ms):
            if one.end_ms - one.start_ms >= _LEAST_MS:
                end = min(one.end_ms + _EVERY_MS, max(duration_ms, one.end_ms))
                low, high = (max(0.0, value - _MARGIN) for value in one.box[:2]), one.box[2:]
                box = (*low, *(min(100.0, value + _MARGIN) for value in high))
                yield Banner(one.start_ms, end, *(round(float(value), 1) for value in box))


def _overlap(one: tuple[float, ...], other: tuple[float, ...]) -> float:
    """Share of the smaller of two boxes that both cover."""
    width = min(one[2], other[2]) - max(one[0], other[0])
    height = min(one[3], other[3]) - max(one[1], other[1])
    areas = [(box[2] - box[0]) * (box[3] - box[1]) for box in (one, other)]
    return max(0.0, width) * max(0.0, height) / max(1e-9, min(areas))


def _both(one: tuple[float, ...], other: tuple[float, ...]) -> tuple[float, float, float, float]:
    return (min(one[0], other[0]), min(one[1], other[1]), max(one[2], other[2]), max(one[3], other[3]))
