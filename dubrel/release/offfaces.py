"""Captions of a film that stand clear of its faces, as the film will be: cropped, turned, from any camera."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.value import replace
from dubrel.captions.places import Place, named_place
from dubrel.film.framereader import FrameReader
from dubrel.film.reshaping import Shape, Wished, turns_of
from dubrel.film.stamps import Shown, stamp_of
from dubrel.finding.faces import Face, FaceFinder

_LONG = 384  # pixels of the longer side: faces are found as well in a small picture
_SAMPLES = (0.1, 0.5, 0.9)  # of the time that a caption stands
_SHORT_MS = 1200
_NEAR_MS = 1500  # a caption that follows another so soon stands where that does, if it can
_TOUCHES = 0.02  # of a face's area that a caption may cover

Box = tuple[float, float, float, float]


def clear_of_faces(
    source: Path, shown: Sequence[Shown], wished: Wished | None = None, from_ms: int = 0, to_ms: int = 0
) -> Iterator[float | list[Shown]]:
    """Move captions that would cover a face, but for those that were placed by hand.

    Parameters
    ----------
    source : Path
        The film.
    shown : sequence of Shown
        In order of time.
    wished : Wished, optional
        The shape of what is made.
    from_ms, to_ms : int
        The passage that is made; 0 and 0 for all.

    Yields
    ------
    float or list of Shown
        How far it is, 0 to 1; at the end the captions.

    Raises
    ------
    MediaError, EngineError
    """
    import av

    finder, found = FaceFinder(), list[Shown]()
    try:
        with av.open(str(source)) as film:
            first = next(film.decode(video=0), None)
        if first is None:
            raise MediaError(
                tr("“{name}” has no picture that can be decoded. Choose another one.").format(
                    name=source.name
                )
            )
        shape = Shape(first, turns_of(first), wished)
        with av.open(str(source)) as film:
            rate = Fraction(film.streams.video[0].average_rate or 25)
            frames = FrameReader(film, rate)
            for nth, one in enumerate(shown):
                inside = one.end_ms > from_ms and (not to_ms or one.start_ms < to_ms)
                if one.lines and not one.fixed and inside:
                    faces = list(_faces(frames, shape, finder, one))
                    before = found[-1] if found else None
                    near = before if before and one.start_ms - before.end_ms <= _NEAR_MS else None
                    one = _placed(one, near, faces, shape)
                found.append(one)
                yield (nth + 1) / len(shown)
    except (av.FFmpegError, OSError) as error:
        raise MediaError(
            tr("“{name}” cannot be read. Check the file, or choose another one.").format(name=source.name)
        ) from error
    yield found


def _faces(frames: FrameReader, shape: Shape, finder: FaceFinder, shown: Shown) -> Iterator[Box]:
    """The faces that are seen while a caption stands, in pixels of what is made."""
    long = shown.end_ms - shown.start_ms
    times = [shown.start_ms + long * share for share in ((0.5,) if long < _SHORT_MS else _SAMPLES)]
    wanted = [Fraction(round(ms), 1000) for ms in times]
    for ms, frame in zip(times, frames.at_times(wanted)):
        for face in finder.faces(_small(shape.frame(frame, None, ms))):
            yield _box(face, shape)


def _small(frame: Any) -> Any:
    scale = _LONG / max(frame.width, frame.height)
    wide, high = (max(2, round(side * scale) // 2 * 2) for side in (frame.width, frame.height))
    return frame.reformat(wide, high, format="rgb24").to_ndarray()


def _box(face: Face, shape: Shape) -> Box:
    wide, high = face.width * shape.width / 100, face.height * shape.height / 100
    x, y = face.x * shape.width / 100, face.y * shape.height / 100
    return x - wide / 2, y - high / 2, x + wide / 2, y + high / 2


def _placed(shown: Shown, before: Shown | None, faces: Sequence[Box], shape: Shape) -> Shown:
    """A caption where it covers no face, or as little as can be: where it was set before all else."""
    side = shown.place.side
    places = [shown.place, named_place(f"top {side}"), named_place(f"bottom {side}")]
    if before is not None and before.place.level == "top" and shown.place.level != "top":
        places.insert(0, before.place)  # it does not jump to and fro
    covered = [(_covered(shown, place, faces, shape), nth) for nth, place in enumerate(places)]
    _, nth = min(covered)
    clear = next((place for (share, _), place in zip(covered, places) if share <= _TOUCHES), places[nth])
    return shown if clear == shown.place else replace(shown, place=clear)


def _covered(shown: Shown, place: Place, faces: Sequence[Box], shape: Shape) -> float:
    """The largest share of a face that a caption covers."""
    if not faces:
        return 0.0
    stamp = stamp_of(replace(shown, place=place), shape.width, shape.height)
    if stamp is None:
        return 0.0
    left, top, right, bottom = stamp.box
    shares = [0.0]
    for a, b, c, d in faces:
        wide, high = min(right, c) - max(left, a), min(bottom, d) - max(top, b)
        shares.append(max(0.0, wide) * max(0.0, high) / max(1.0, (c - a) * (d - b)))
    return max(shares)
