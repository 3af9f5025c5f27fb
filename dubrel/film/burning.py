"""Burn captions into a film: decoded, drawn over only where a caption stands, encoded; the sound is copied.

The picture of a caption is drawn once and turned into the planes of the film;
each frame under it gets a blend within the caption's box alone.
"""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.errors import MediaError
from dubrel.captions.motion import WordTimes, presence, state_at
from dubrel.captions.places import Place
from dubrel.film.copiedsound import SoundTracks, origin_s
from dubrel.film.drawing import draw_caption
from dubrel.film.moving import MovingCaption, even
from dubrel.model import Look

_UNSAID, _LIMITED, _FULL = 2, 1, 2  # of a colour space; ranges of a picture
QUALITIES = {"high": 17, "usual": 20, "small": 25}
"""Constant rate factors of x264."""
CROPS = {"": None, "upright": Fraction(9, 16), "square": Fraction(1)}
_REPORT = 12  # frames between two reports


@dataclass(frozen=True)
class Shown:
    """What is shown for a while.

    Attributes
    ----------
    start_ms, end_ms : int
    lines : tuple of str
    look : Look
    place : Place
    rtl : bool
    pieces : tuple of tuple of (str, str)
    times : WordTimes
        When its words are spoken; nothing where they do not move.
    """

    start_ms: int
    end_ms: int
    lines: tuple[str, ...]
    look: Look
    place: Place
    rtl: bool = False
    pieces: tuple[tuple[tuple[str, str], ...], ...] = ()
    times: WordTimes = ()


@dataclass(frozen=True)
class Stamp:
    """A drawn caption as planes: what to keep of the picture (0 to 256), and what to add to it."""

    box: tuple[int, int, int, int]  # left, top, right, bottom; even
    keeps: tuple[np.ndarray, np.ndarray, np.ndarray]
    adds: tuple[np.ndarray, np.ndarray, np.ndarray]


def burn(
    source: Path,
    target: Path,
    shown: Sequence[Shown],
    *,
    crf: int = 20,
    from_ms: int = 0,
    to_ms: int = 0,
    crop: str = "",
) -> Iterator[float]:
    """Write a film with captions in its picture; yields how far it is, 0 to 1.

    Parameters
    ----------
    from_ms, to_ms : int
        The passage that is wished; 0 and 0 for all.
    crop : {"", "upright", "square"}
        The middle of the picture in another shape.

    Raises
    ------
    MediaError
        If the film cannot be read, or the new one not be written.
    """
    import av

    try:
        with av.open(str(source)) as film:
            first = next(film.decode(video=0), None)
        if first is None:
            raise MediaError("The film has no picture that can be decoded. Choose another one.")
        cut = Shape(first, turns_of(first), CROPS[crop])
        with av.open(str(source)) as film, av.open(str(target), "w", format=container_format(target)) as out:
            yield from _burned(film, out, cut, shown, crf, from_ms, to_ms)
    except (av.FFmpegError, OSError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise MediaError(
            f"The film “{target.name}” could not be written: {reason}. Free some space and try again."
        ) from error


def still(source: Path, shown: Sequence[Shown], at_ms: int, crop: str = "") -> bytes:
    """The frame of a film at a time with its caption, as PNG.

    Raises
    ------
    MediaError
        If the film cannot be read.
    """
    import av

    try:
        with av.open(str(source)) as film:
            zero = round(origin_s(film) * 1_000_000)
            film.seek(zero + at_ms * 1000, backward=True)
            frame = None
            for frame in film.decode(video=0):
                if frame.time is not None and frame.time * 1000 - zero / 1000 >= at_ms - 20:
                    break
            if frame is None:
                raise MediaError(f"“{source.name}” has no picture that can be decoded. Choose another one.")
            cut = Shape(frame, turns_of(frame), CROPS[crop])
            stamp = Stamps(shown, cut.width, cut.height).at(at_ms)
            return png_of(cut.frame(frame, stamp))
    except (av.FFmpegError, OSError) as error:
        raise MediaError(f"“{source.name}” cannot be read. Check the file, or choose another one.") from error


def png_of(frame: Any) -> bytes:
    """A frame as PNG."""
    file = io.BytesIO()
    frame.to_image().save(file, "PNG", compress_level=1)
    return file.getvalue()


def frame_ms(picture: Any) -> float:
    """How long a frame of a film stands."""
    return float(1000 / (picture.average_rate or 25))


def turns_of(frame: Any) -> int:
    """By how many quarters a frame is to be turned."""
    return round((getattr(frame, "rotation", 0) or 0) / 90) % 4


def container_format(target: Path) -> str:
    """What kind of file is written under a name."""
    return "matroska" if ".mkv" in target.name else "mp4"


def _burned(
    film: Any, out: Any, cut: Shape, shown: Sequence[Shown], crf: int, from_ms: int, to_ms: int
) -> Iterator[float]:
    picture = film.streams.video[0]
    picture.thread_type = "AUTO"
    zero = origin_s(film)
    if from_ms:
        film.seek(round(zero * 1_000_000) + from_ms * 1000, backward=True)
    encoder = encoder_of(out, picture, cut, crf)
    sound = SoundTracks(film, out, from_ms, to_ms)
    length = (to_ms or float(film.duration or 0) / 1000) - from_ms
    stamps, count = Stamps(shown, cut.width, cut.height, frame_ms(picture)), 0
    for packet in film.demux(picture, *sound.streams):
        if packet.stream is not picture:
            sound.take(packet)
            continue
        for frame in packet.decode():
            if frame.pts is None:
                continue
            ms = float(frame.pts * frame.time_base - zero) * 1000
            if ms < from_ms - 0.5 or (to_ms and ms >= to_ms):
                continue
            made = cut.frame(frame, stamps.at(ms))
            made.pts = frame.pts - round((zero + Fraction(from_ms, 1000)) / frame.time_base)
            made.time_base = frame.time_base
            made.pict_type = 0
            for done in encoder.encode(made):
                out.mux(done)
            count += 1
            if count % _REPORT == 0:
                yield min(1.0, (ms - from_ms) / max(1.0, length))
    if not count:
        raise MediaError("The passage lies beyond the end of the film. Choose another one.")
    for done in encoder.encode(None):
        out.mux(done)
    sound.finish()
    yield 1.0


def encoder_of(out: Any, picture: Any, cut: Shape, crf: int) -> Any:
    """An encoder for the frames at the times that they have, with the colours of the film."""
    made = out.add_stream(
        "libx264", rate=picture.average_rate or Fraction(25), options={"crf": str(crf), "preset": "veryfast"}
    )
    made.width, made.height, made.pix_fmt = cut.width, cut.height, "yuv420p"
    made.time_base = made.codec_context.time_base = picture.time_base
    for name in ("color_primaries", "color_trc", "colorspace"):
        value = getattr(picture.codec_context, name, None)
        if value not in (None, 0, _UNSAID):
            setattr(made.codec_context, name, value)
    made.codec_context.color_range = _LIMITED
    return made


class Shape:
    """Frames upright, in the wished shape, with even sides."""

    def __init__(self, first: Any, turns: int, shape: Fraction | None) -> None:
        self.turns = turns
        width, height = (first.height, first.width) if turns % 2 else (first.width, first.height)
        self._from = (width, height)
        if shape is not None:
            width, height = min(width, int(height * shape)), min(height, int(width / shape))
        self.width, self.height = width // 2 * 2, height // 2 * 2
        self.left, self.top = (self._from[0] - self.width) // 4 * 2, (self._from[1] - self.height) // 4 * 2
        self.same = turns == 0 and (self.width, self.height) == (first.width, first.height)

    def frame(self, frame: Any, stamp: Stamp | None) -> Any:
        """A frame with a caption on it; the very same one where nothing is to be done."""
        import av

        if frame.color_range == _FULL:  # what plays films takes them for limited unless it looks
            frame = frame.reformat(format="yuv420p", src_color_range=_FULL, dst_color_range=_LIMITED)
        elif frame.format.name != "yuv420p":
            frame = frame.reformat(format="yuv420p")
        if self.same and stamp is None:
            return frame
        if self.same and stamp is not None:
            frame.make_writable()  # the decoder may still look at what it gave
            blend([_plane(frame, nth) for nth in range(3)], stamp)
            return frame
        planes = [self._shaped(_plane(frame, nth), nth) for nth in range(3)]
        if stamp is not None:
            blend(planes, stamp)
        whole = np.concatenate([np.ascontiguousarray(one).reshape(-1) for one in planes])
        made = av.VideoFrame.from_ndarray(whole.reshape(self.height * 3 // 2, self.width), format="yuv420p")
        made.color_range = frame.color_range
        return made

    def _shaped(self, plane: np.ndarray, nth: int) -> np.ndarray:
        plane = np.rot90(plane, self.turns)
        half = 2 if nth else 1
        top, left = self.top // half, self.left // half
        return plane[top : top + self.height // half, left : left + self.width // half].copy()


def _plane(frame: Any, nth: int) -> np.ndarray:
    plane = frame.planes[nth]
    rows = np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)
    return rows[: plane.height, : plane.width]


def blend(planes: list[np.ndarray], stamp: Stamp) -> None:
    """Put a drawn caption over the planes of a picture, in place."""
    left, top, right, bottom = stamp.box
    for nth, (plane, keep, add) in enumerate(zip(planes, stamp.keeps, stamp.adds)):
        half = 2 if nth else 1
        part = plane[top // half : bottom // half, left // half : right // half]
        part[...] = ((part.astype(np.uint16) * keep + add) >> 8).astype(np.uint8)


class Stamps:
    """The caption at a time, drawn when it is first needed, and again where it moves.

    Parameters
    ----------
    shown : sequence of Shown
    width, height : int
        Of the picture.
    frame_ms : float
        How long a frame stands.
    """

    def __init__(self, shown: Sequence[Shown], width: int, height: int, frame_ms: float = 40.0) -> None:
        self._shown = sorted(shown, key=lambda one: one.start_ms)
        self._size, self._frame_ms = (width, height), frame_ms
        self._at, self._made = 0, dict[int, Stamp | MovingStamp | None]()

    def at(self, ms: float) -> Stamp | None:
        """The stamp of the caption that is shown at a time; times only grow."""
        shown = self._shown
        while self._at < len(shown) and shown[self._at].end_ms <= ms + 0.5:
            self._made.pop(self._at, None)
            self._at += 1
        if self._at >= len(shown) or shown[self._at].start_ms > ms + 0.5:
            return None
        one = shown[self._at]
        if self._at not in self._made:
            moves = one.look.motion.moves and one.lines
            self._made[self._at] = (
                MovingStamp(one, *self._size, self._frame_ms) if moves else stamp_of(one, *self._size)
            )
        made = self._made[self._at]
        return made.at(ms) if isinstance(made, MovingStamp) else made


class MovingStamp:
    """A caption that moves, as planes of which only what changes is made again."""

    def __init__(self, shown: Shown, width: int, height: int, frame_ms: float) -> None:
        self._shown, self._size, self._frame_ms = shown, (width, height), frame_ms
        self._caption = moving_caption(shown, width, height)
        high, wide = self._caption.pixels.shape[:2]
        self._box = even_box(self._caption.x, self._caption.y, wide, high, width, height)
        left, top, right, bottom = self._box
        self._canvas = np.zeros((max(0, bottom - top), max(0, right - left), 4), np.uint8)
        self._planes = planes_of(self._canvas, height)

    def at(self, ms: float) -> Stamp | None:
        """The stamp at a time."""
        left, top, right, bottom = self._box
        if right <= left or bottom <= top:
            return None
        one, motion = self._shown, self._shown.look.motion
        changed = self._caption.draw(state_at(one.times, motion, ms + 0.5))
        if changed is not None:
            self._take(changed)
        seen, below = presence(motion, one.start_ms, one.end_ms, ms, self._frame_ms)
        keeps, adds = self._planes
        if seen >= 1 and not below:
            return Stamp(self._box, keeps, adds)
        down = min(even(below * self._caption.rise), even(self._size[1] - bottom))
        down = max(0, down)
        paler = [256 - ((256 - keep.astype(np.uint32)) * round(seen * 256) >> 8) for keep in keeps]
        less = [(add.astype(np.uint32) * round(seen * 256) >> 8).astype(np.uint16) for add in adds]
        kept = [keep.astype(np.uint16) for keep in paler]
        box = (left, top + down, right, bottom + down)
        return Stamp(box, (kept[0], kept[1], kept[2]), (less[0], less[1], less[2]))

    def _take(self, changed: tuple[int, int, int, int]) -> None:
        """Make the planes of a part of the caption again."""
        left, top, right, bottom = self._box
        x, y = self._caption.x - left, self._caption.y - top
        pixels = self._caption.pixels
        low, high = max(0, changed[0]), min(changed[2], right - left - x)
        first, last = max(0, changed[1]), min(changed[3], bottom - top - y)
        if high <= low or last <= first:
            return
        self._canvas[y + first : y + last, x + low : x + high] = pixels[first:last, low:high]
        rows = slice((y + first) // 2 * 2, min(bottom - top, -(-(y + last) // 2) * 2))
        columns = slice((x + low) // 2 * 2, min(right - left, -(-(x + high) // 2) * 2))
        keeps, adds = planes_of(self._canvas[rows, columns], self._size[1])
        half = (slice(rows.start // 2, rows.stop // 2), slice(columns.start // 2, columns.stop // 2))
        for nth, (keep, add) in enumerate(zip(keeps, adds)):
            place = half if nth else (rows, columns)
            self._planes[0][nth][place], self._planes[1][nth][place] = keep, add


def moving_caption(shown: Shown, width: int, height: int) -> MovingCaption:
    """A caption that moves, for a picture of a size."""
    return MovingCaption(
        shown.lines, shown.look, shown.place, width, height, rtl=shown.rtl, pieces=shown.pieces
    )


def even_box(x: int, y: int, wide: int, high: int, width: int, height: int) -> tuple[int, int, int, int]:
    """The part of a picture that a caption covers, on even pixels."""
    right, bottom = min(width, -(-(x + wide) // 2) * 2), min(height, -(-(y + high) // 2) * 2)
    return x // 2 * 2, y // 2 * 2, right, bottom


def stamp_of(shown: Shown, width: int, height: int) -> Stamp | None:
    """A caption drawn for a picture of a size, as planes (BT.601 or 709 by the height, limited range)."""
    drawn = draw_caption(
        shown.lines, shown.look, shown.place, width, height, rtl=shown.rtl, pieces=shown.pieces
    )
    high, wide = drawn.pixels.shape[:2]
    left, top, right, bottom = box = even_box(drawn.x, drawn.y, wide, high, width, height)
    if right <= left or bottom <= top:
        return None
    canvas = np.zeros((bottom - top, right - left, 4), np.uint8)
    y, x = drawn.y - top, drawn.x - left
    part = drawn.pixels[: canvas.shape[0] - y, : canvas.shape[1] - x]
    canvas[y : y + part.shape[0], x : x + part.shape[1]] = part
    return Stamp(box, *planes_of(canvas, height))


Planes = tuple[np.ndarray, np.ndarray, np.ndarray]


def planes_of(canvas: np.ndarray, height: int) -> tuple[Planes, Planes]:
    """What to keep of a picture under a drawing, and what to add to it.

    Parameters
    ----------
    canvas : ndarray of uint8, shape (even, even, 4)
    height : int
        Of the picture, by which its colours are understood.
    """
    colours = canvas.astype(np.float32)
    alpha = colours[..., 3] / 255
    red, green, blue = (colours[..., nth] for nth in range(3))
    kr, kb = (0.2126, 0.0722) if height >= 720 else (0.299, 0.114)
    luma = kr * red + (1 - kr - kb) * green + kb * blue
    planes = (
        16 + luma * 219 / 255,
        128 + (blue - luma) / (2 * (1 - kb)) * 224 / 255,
        128 + (red - luma) / (2 * (1 - kr)) * 224 / 255,
    )
    small = _halved(alpha)
    keeps, adds = [], []
    for nth, plane in enumerate(planes):
        weight = alpha if nth == 0 else small
        value = plane * alpha if nth == 0 else _halved(plane * alpha)
        keep = np.round((1 - weight) * 256).astype(np.uint16)
        keeps.append(keep)
        adds.append(np.round(value * 256).clip(0, 65535 - 255 * keep.astype(np.int64)).astype(np.uint16))
    return (keeps[0], keeps[1], keeps[2]), (adds[0], adds[1], adds[2])


def _halved(plane: np.ndarray) -> np.ndarray:
    """The means of two by two."""
    rows = plane[::2] + plane[1::2]
    return (rows[:, ::2] + rows[:, 1::2]) / 4
