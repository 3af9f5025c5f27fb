"""Make a film with captions in its picture, or media with captions and chapters inside."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.base.unfinished import noted
from dubrel.base.value import replace
from dubrel.film.burning import burn
from dubrel.film.muxing import mux, read_captions, read_chapters
from dubrel.film.order import FilmOrder
from dubrel.film.soundtracks.cutsound import SOUND_CODECS
from dubrel.jobs.machinery.events import Event, Pace, Warning_, Written

_LOOKING = 0.3  # of the time, for faces


def part_of(target: Path) -> Path:
    """Where a film is written until it is whole: beside its place."""
    return target.with_name(f".{target.stem[:60]} unfinished{target.suffix}")


def bare_of(part: Path) -> Path:
    """Where a cut is written before its captions and chapters are put inside."""
    return part.with_name(f"{part.stem} bare{part.suffix}")


def forget_parts(target: Path) -> None:
    """Remove what a film that was cancelled left of itself."""
    for one in (part_of(target), bare_of(part_of(target))):
        one.unlink(missing_ok=True)


def forget_unfinished(folder: Path) -> None:
    """Remove what films that were cancelled left of themselves in a folder and those in it."""
    for one in folder.glob("*/.* unfinished*"):
        if one.is_file():
            one.unlink(missing_ok=True)


def make_film(order: FilmOrder) -> Iterator[Event]:
    """Write beside its place, read back, and only then rename.

    Raises
    ------
    MediaError
        If it cannot be written, or does not read back as it was meant.
    """
    target, pace = Path(order.target), Pace()
    if target.exists() and target.samefile(order.source):
        return  # it is there already
    part = part_of(target)
    stage = tr("Writing {name}").format(name=target.name)
    yield pace.at(stage, 0.0)
    with noted(part):
        yield from _made(order, target, part, pace, stage)
    yield Written(str(target))


def _made(order: FilmOrder, target: Path, part: Path, pace: Pace, stage: str) -> Iterator[Event]:
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        if order.kind == "inside":
            mux(Path(order.source), part, order.streams, order.chapters, target.suffix)
        else:
            looked = _LOOKING if order.off_faces else 0.0
            for placed in _placed(order) if order.off_faces else ():
                if isinstance(placed, FilmOrder):
                    order = placed
                else:
                    yield pace.at(stage, placed * looked)
            for found in _frames(order, part):
                if isinstance(found, Warning_):
                    yield found
                else:
                    yield pace.at(stage, looked + found * (0.98 - looked))
        _read_back(order, part)
        os.replace(part, target)
    except OSError as error:
        raise MediaError(
            tr("“{name}” could not be written: {strerror}. Choose another folder.").format(
                name=target.name, strerror=cause_of(error)
            )
        ) from error
    except MediaError as error:
        raise MediaError(str(error).replace(part.name, target.name)) from error
    finally:
        part.unlink(missing_ok=True)


def _placed(order: FilmOrder) -> Iterator[float | FilmOrder]:
    """The same order with captions that cover no face."""
    from dubrel.release.offfaces import clear_of_faces  # late: the network

    source = Path(order.source)
    for found in clear_of_faces(source, order.shown, order.wished, order.from_ms, order.to_ms):
        yield replace(order, shown=tuple(found)) if isinstance(found, list) else found


def _frames(order: FilmOrder, part: Path) -> Iterator[float | Warning_]:
    if order.kind in ("copy", "small"):
        from dubrel.film.recordingcopy import copied, small_sound  # late: only for pages

        yield from (copied if order.kind == "copy" else small_sound)(Path(order.source), part)
    elif order.kind in ("cut-film", "cut-sound"):
        yield from _cut_frames(order, part)
    elif order.kind == "forward":
        from dubrel.jobs.voice.forwarding import forward_written  # late: the enhancer

        yield from forward_written(order, part)
    elif order.kind == "spoken":
        from dubrel.jobs.voice.speaking import spoken_written  # late: voices

        yield from spoken_written(order, part)
    elif order.kind == "sound":
        from dubrel.film.soundfilm import film_of_sound  # late: only for sound alone

        yield from film_of_sound(Path(order.source), part, order.shown, order.names, crf=order.crf)
    else:
        yield from burn(
            Path(order.source),
            part,
            order.shown,
            crf=order.crf,
            from_ms=order.from_ms,
            to_ms=order.to_ms,
            wished=order.wished,
        )


def _cut_frames(order: FilmOrder, part: Path) -> Iterator[float]:
    """The cut, and what goes inside it put in afterwards, nothing encoded twice."""
    from dubrel.film.cutfilm import write_film  # late: only for cuts
    from dubrel.film.soundtracks.cutsound import write_sound

    suffix = Path(order.target).suffix.lower()
    inside = bool(order.streams or order.chapters)
    bare = bare_of(part) if inside else part
    with noted(bare):
        try:
            if order.kind == "cut-sound":
                yield from write_sound(Path(order.source), bare, order.parts, suffix, order.tracks)
            else:
                yield from write_film(
                    Path(order.source),
                    bare,
                    order.parts,
                    order.rate,
                    order.shown,
                    crf=order.crf,
                    shots=order.shots,
                    tracks=order.tracks,
                )
            if inside:
                mux(bare, part, order.streams, order.chapters, suffix)
        finally:
            if inside:
                bare.unlink(missing_ok=True)


def _read_back_cut(order: FilmOrder, part: Path) -> None:
    """Whether the file of a cut is as long as the cut, and has its streams."""
    import av

    with av.open(str(part)) as made, av.open(order.source) as film:
        length = order.parts[-1].until_ms * 1000
        kinds = {one.type for one in made.streams if one.type in ("video", "audio")}
        wanted = {"audio"} if film.streams.audio else set()
        wanted |= {"video"} if order.kind == "cut-film" else set()
        if kinds != wanted or abs((made.duration or 0) - length) > 150_000:
            name = Path(order.target).name
            raise MediaError(tr("“{name}” does not read back as intended. Write it again.").format(name=name))


def _read_back_spoken(order: FilmOrder, part: Path) -> None:
    """Whether the sound, or the film with a sound track more, has its streams and its length."""
    import av

    wanted, length = ["audio"], 0
    if order.source:
        with av.open(order.source) as film:
            length = film.duration or 0
            if part.suffix not in SOUND_CODECS:
                wanted += [one.type for one in film.streams if one.type in ("video", "audio")]
    with av.open(str(part)) as made:
        found = sorted(one.type for one in made.streams if one.type in ("video", "audio"))
        if found != sorted(wanted) or (made.duration or 0) < length - 700_000:
            name = Path(order.target).name
            raise MediaError(tr("“{name}” does not read back as intended. Write it again.").format(name=name))


def _read_back(order: FilmOrder, part: Path) -> None:
    """Its streams, its length, its captions and chapters; a frame with a caption in it."""
    import av

    if order.kind == "copy":
        from dubrel.film.recordingcopy import is_copy  # late: as above

        if not is_copy(Path(order.source), part):
            name = Path(order.target).name
            raise MediaError(
                tr("“{name}” does not hold what was copied. Check the disk and release it again.").format(
                    name=name
                )
            )
        return
    if order.kind == "spoken":
        _read_back_spoken(order, part)
        return
    if order.kind in ("cut-film", "cut-sound"):
        _read_back_cut(order, part)
        if order.shown and not _caption_stands(order, part):
            raise MediaError(
                tr("“{name}” shows no captions. Write it again.").format(name=Path(order.target).name)
            )
        return
    with av.open(order.source) as film, av.open(str(part)) as made:
        kinds = sorted(one.type for one in film.streams if one.type in ("video", "audio"))
        found = sorted(one.type for one in made.streams if one.type in ("video", "audio"))
        whole = order.kind != "burn" or not (order.from_ms or order.to_ms)
        own_sound = order.kind == "small" or (order.kind == "forward" and part.suffix in SOUND_CODECS)
        wanted = ["audio"] if own_sound else ["audio", "video"] if order.kind == "sound" else kinds
        begins = max(0, film.start_time or 0)  # some forms count their length from zero, others from there
        long = any(abs((film.duration or 0) - less - (made.duration or 0)) < 700_000 for less in (0, begins))
        if found[-1:] != wanted[-1:] or (order.kind == "inside" and found != wanted) or (whole and not long):
            raise MediaError(
                tr("“{name}” does not read back as intended. Release it again.").format(
                    name=Path(order.target).name
                )
            )
    if order.kind == "inside":
        rows = [len(one.rows) for one in read_captions(part)]
        titles = read_chapters(part) if order.chapters else []
        if rows != [len(one.rows) for one in order.streams] or titles != [
            title for _, _, title in order.chapters
        ]:
            raise MediaError(
                tr("“{name}” does not hold its captions or chapters. Release it again.").format(
                    name=Path(order.target).name
                )
            )
    elif order.shown and not _caption_stands(order, part):
        raise MediaError(
            tr("“{name}” shows no captions. Release it again.").format(name=Path(order.target).name)
        )


def _caption_stands(order: FilmOrder, part: Path) -> bool:
    """Whether a frame in the middle of the first caption holds what was drawn."""
    import av
    import numpy as np

    from dubrel.film.stamps import stamp_of

    end = order.to_ms or 1 << 60
    first = next(
        (one for one in order.shown if order.from_ms <= one.start_ms and one.end_ms <= end and one.lines),
        None,
    )
    if first is None:
        return True
    middle = (first.start_ms + first.end_ms) / 2000 - order.from_ms / 1000
    with av.open(str(part)) as film:
        film.seek(int(max(0.0, middle) * 1_000_000), backward=True)
        for frame in film.decode(video=0):
            if frame.time is not None and frame.time >= middle - 0.05:
                stamp = stamp_of(first, frame.width, frame.height)
                if stamp is None:
                    return True
                left, top, right, bottom = stamp.box
                luma = frame.to_ndarray(format="gray")[top:bottom, left:right].astype(float)
                opaque = stamp.keeps[0] < 60
                meant = stamp.adds[0] / 256
                return not opaque.any() or bool(np.abs(luma - meant)[opaque].mean() < 60)
    return True
