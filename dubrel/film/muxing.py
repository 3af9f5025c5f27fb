"""Captions as tracks and chapters inside media files, nothing re-encoded."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.base.languages import three_letters
from dubrel.base.value import Value
from dubrel.media.probe import origin_s

_MS = Fraction(1, 1000)
_FORMATS = {
    ".mp4": "mp4",
    ".m4v": "mp4",
    ".m4a": "ipod",
    ".mkv": "matroska",
    ".mka": "matroska",
    ".mp3": "mp3",
    ".mov": "mov",
}


class CaptionStream(Value):
    """Captions of one language.

    Attributes
    ----------
    language : str
        BCP 47 tag.
    title : str
    rows : tuple of (int, int, str)
        In time, out time, text.
    """

    language: str
    title: str
    rows: tuple[tuple[int, int, str], ...]


def mux(
    source: Path,
    target: Path,
    captions: Sequence[CaptionStream] = (),
    chapters: Sequence[tuple[int, int, str]] = (),
    suffix: str = "",
) -> None:
    """Copy a media file with captions and chapters in it.

    Parameters
    ----------
    suffix : str
        Of the form that is written; that of ``target`` unless given.

    Raises
    ------
    MediaError
        If the form cannot hold that, or the file cannot be read or written.
    """
    import av

    suffix = (suffix or target.suffix).lower()
    if suffix not in _FORMATS:
        raise MediaError(
            tr("“{suffix}” files cannot hold chapters or captions. Choose MP4, M4A, MP3 or MKV.").format(
                suffix=suffix
            )
        )
    try:
        with av.open(str(source)) as film, opened(target, suffix, film) as out:
            kept = {one.index: alike(out, one) for one in film.streams if fits(one, suffix)}
            streams = [_added(out, one, suffix) for one in captions]
            if chapters:
                out.set_chapters(
                    [
                        {
                            "id": nth,
                            "start": start,
                            "end": end,
                            "time_base": _MS,
                            "metadata": {"title": title},
                        }
                        for nth, (start, end, title) in enumerate(chapters, 1)
                    ]
                )
            out.metadata.update(film.metadata)
            _copied(film, out, kept, _packets(captions, streams, suffix))
    except (av.FFmpegError, OSError, ValueError) as error:
        reason = cause_of(error)
        raise MediaError(
            tr("“{name}” could not be written: {reason}. Choose another form, or free some space.").format(
                name=target.name, reason=reason
            )
        ) from error


def _has_cover(film: Any) -> bool:
    return any(_is_cover(one) for one in film.streams)


def _is_cover(stream: Any) -> bool:
    import av

    return bool(stream.disposition & av.stream.Disposition.attached_pic)


def opened(target: Path, suffix: str, film: Any) -> Any:
    """The file that is written; sound with a cover is MP4 that says it is sound."""
    import av

    form = _FORMATS[suffix]
    if form == "ipod" and _has_cover(film):
        return av.open(str(target), "w", format="mp4", options={"brand": "M4A "})
    return av.open(str(target), "w", format=form)


def fits(stream: Any, suffix: str) -> bool:
    """Whether a stream is copied: picture, sound, cover, and captions that the form has a place for."""
    if stream.type == "subtitle":
        matroska = _FORMATS[suffix] == "matroska"
        return stream.codec_context.name in (("subrip", "ass", "webvtt") if matroska else ("mov_text",))
    return stream.type in ("video", "audio")


def alike(out: Any, stream: Any) -> Any:
    """A stream like another, with its language, title and what it is for."""
    made = out.add_stream_from_template(stream)
    for name in ("language", "title", "handler_name"):
        if name in stream.metadata:
            made.metadata[name] = stream.metadata[name]
    if "title" not in stream.metadata and "name" in stream.metadata:  # as MP4 has it
        made.metadata["title"] = stream.metadata["name"]
    made.disposition = stream.disposition
    return made


def _added(out: Any, one: CaptionStream, suffix: str) -> Any:
    stream = out.add_mux_stream("subrip" if _FORMATS[suffix] == "matroska" else "mov_text")
    stream.time_base = _MS
    stream.metadata["language"] = three_letters(one.language)
    stream.metadata["title"] = one.title
    return stream


def _packets(captions: Sequence[CaptionStream], streams: Sequence[Any], suffix: str) -> list[Any]:
    import av

    found = []
    for one, stream in zip(captions, streams):
        for start, end, text in one.rows:
            data = text.encode("utf-8")
            if _FORMATS[suffix] != "matroska":
                data = len(data).to_bytes(2, "big") + data
            packet = av.Packet(data)
            packet.stream, packet.time_base = stream, _MS
            packet.pts = packet.dts = start
            packet.duration = end - start
            found.append(packet)
    return sorted(found, key=lambda packet: packet.pts)


def _copied(film: Any, out: Any, kept: dict[int, Any], captions: list[Any]) -> None:
    waiting, zero = captions[::-1], origin_s(film)
    for packet in dated(film.demux(*[film.streams[nth] for nth in kept])):
        if _is_cover(packet.stream):
            packet.stream, packet.pts, packet.dts = kept[packet.stream.index], 0, 0
            out.mux(packet)
            continue
        now, shift = packet.dts * packet.time_base - zero, round(zero / packet.time_base)
        while waiting and waiting[-1].pts * _MS <= now:
            out.mux(waiting.pop())
        packet.stream, packet.dts = kept[packet.stream.index], packet.dts - shift
        packet.pts = packet.pts - shift if packet.pts is not None else None
        out.mux(packet)
    while waiting:
        out.mux(waiting.pop())


def dated(packets: Iterable[Any]) -> Iterator[Any]:
    """Packets with the times at which they are decoded; some files say it only from the second frame on."""
    undated: dict[int, list[Any]] = {}
    for packet in packets:
        if not packet.size:
            continue
        before = undated.setdefault(packet.stream.index, [])
        if packet.dts is None and not _is_cover(packet.stream):
            before.append(packet)
            continue
        yield from _backwards(before, packet.dts)
        before.clear()
        yield packet
    for before in undated.values():
        yield from _backwards(before, None)


def _backwards(packets: Sequence[Any], following: int | None) -> Iterator[Any]:
    """Packets without such a time, counted back from that of the one that follows."""
    if not packets:
        return
    steps = [max(1, packet.duration or 1) for packet in packets]
    at = following if following is not None else (packets[0].pts or 0) + sum(steps)
    begins = at - sum(steps)
    for packet, step in zip(packets, steps):
        packet.dts = begins if packet.pts is None else min(begins, packet.pts)
        begins += step
        yield packet


def read_captions(path: Path) -> list[CaptionStream]:
    """The caption tracks of a media file."""
    import av

    with av.open(str(path)) as film:
        tracks = {one.index: one for one in film.streams if one.type == "subtitle"}
        rows: dict[int, list[tuple[int, int, str]]] = {index: [] for index in tracks}
        for packet in film.demux(*tracks.values()) if tracks else ():
            data = bytes(packet)
            text = data[2:] if packet.stream.codec_context.name == "mov_text" else data
            if packet.pts is not None and text:
                start = round(float(packet.pts * packet.time_base) * 1000)
                length = round(float((packet.duration or 0) * packet.time_base) * 1000)
                rows[packet.stream.index].append((start, start + length, text.decode("utf-8", "replace")))
        return [
            CaptionStream(
                one.metadata.get("language", "und"),
                one.metadata.get("title") or one.metadata.get("name") or "",
                tuple(rows[index]),
            )
            for index, one in tracks.items()
        ]


def read_chapters(path: Path) -> list[str]:
    """The titles of the chapters of a media file."""
    import av

    with av.open(str(path)) as film:
        return [one["metadata"].get("title", "") for one in film.chapters()]
