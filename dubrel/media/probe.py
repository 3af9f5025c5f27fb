"""Say what a recording is: length, streams, exact frame rate."""

from __future__ import annotations

import os
import re
import stat
from fractions import Fraction
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.base.languages import known_language, language_name
from dubrel.base.timecode import rounded
from dubrel.base.value import Value
from dubrel.media.wavheader import wav_options
from dubrel.model import Media

SUFFIXES = (
    *(".wav", ".mp3", ".m4a", ".aac", ".flac", ".ogg", ".oga", ".opus", ".aiff", ".aif", ".mka", ".wma"),
    *(".mp4", ".m4v", ".mov", ".mkv", ".webm", ".avi", ".mpg"),
)
_TIMECODE = re.compile(r"\d{2}:\d{2}:\d{2}[:;.]\d{2,3}")
_TAIL_US = 10_000_000  # where the last packets of a file are looked for
_HEAD = 48  # bytes
_SYNCHRONISED = 1 << 20
_SYNC = re.compile(rb"\xff[\xe2-\xff]")
_MOST_BOXES = 1000
_LEAST_RATE, _MOST_RATE = 1000, 1_000_000


class SoundTrackFacts(Value):
    """What a file says of one of its sound tracks.

    Attributes
    ----------
    title, language : str
        Empty where it does not say; the language as a tag.
    channels : int
    """

    title: str
    language: str
    channels: int

    def said(self, number: int) -> str:
        """The track as a person calls it."""
        known = [tr(language_name(self.language))] if self.language else []
        known += [f"“{self.title}”"] if self.title else []
        known.append({1: tr("mono"), 2: tr("stereo")}.get(self.channels, counted(self.channels, "channel")))
        return tr("Track {number}: {what}").format(number=number, what=", ".join(known))


def open_media(path: Path) -> Any:
    """Open a recording for decoding.

    Raises
    ------
    MediaError
        If it is missing, empty, or no recording.
    """
    import av  # late: starting the desk does not need it

    try:
        found = path.stat()
        if not stat.S_ISREG(found.st_mode):
            raise MediaError(tr("“{path}” is not a file. Choose a recording.").format(path=path))
        if found.st_size == 0:
            raise MediaError(tr("“{path}” is empty. Choose another recording.").format(path=path))
        if is_text(path) or _is_without_frames(path):
            raise MediaError(
                tr("“{path}” is not a sound or video file that Dubrel can read. Choose another file.").format(
                    path=path
                )
            )
        options = {"protocol_whitelist": "file", **wav_options(path)}
        return av.open(str(path), options=options, metadata_errors="replace")
    except av.error.InvalidDataError as error:
        if _lacks_index(path):
            raise MediaError(
                tr(
                    "“{path}” breaks off before the index that players need: it was not copied or "
                    "recorded completely. Copy it again, or let the program that recorded it finish it."
                ).format(path=path)
            ) from error
        raise MediaError(
            tr("“{path}” is not a sound or video file that Dubrel can read. Choose another file.").format(
                path=path
            )
        ) from error
    except (OSError, ValueError) as error:
        raise MediaError(
            tr("“{path}” cannot be read: {error}. Choose another file.").format(
                path=path, error=cause_of(error)
            )
        ) from error


def origin_s(container: Any) -> Fraction:
    """The time in a container's own clock that is zero for us, in seconds."""
    return Fraction(container.start_time or 0, 1_000_000)


def _lacks_index(path: Path) -> bool:
    """Whether a file begins as MP4 or MOV and ends before its index."""
    try:
        with path.open("rb") as file:
            size, at, names = path.stat().st_size, 0, list[bytes]()
            while at + 8 <= size and len(names) < _MOST_BOXES:
                file.seek(at)
                head = file.read(16)
                length, name = int.from_bytes(head[:4], "big"), head[4:8]
                names.append(name)
                length = int.from_bytes(head[8:16], "big") if length == 1 else length
                if length < 8:
                    break
                at += length
    except OSError:
        return False
    return names[:1] == [b"ftyp"] and b"moov" not in names


def _is_without_frames(path: Path) -> bool:
    """Whether a file only calls itself MP3 or AAC: looking for its first frame, all of it would be kept."""
    if path.suffix.lower() not in (".mp3", ".mp2", ".aac"):
        return False
    with path.open("rb") as file:
        head = file.read(10)
        tagged = head[:3] == b"ID3"
        tag = sum((byte & 0x7F) << (7 * nth) for nth, byte in enumerate(head[9:5:-1])) if tagged else 0
        file.seek(tag)
        return len(found := file.read(_SYNCHRONISED)) == _SYNCHRONISED and not _SYNC.search(found)


def is_text(path: Path) -> bool:
    """Whether a file is plain text, as a list of other places to play is; no recording begins like that."""
    with path.open("rb") as file:
        head = file.read(_HEAD)
    return len(head) > 0 and all(32 <= byte < 127 or byte in b"\t\r\n" for byte in head)


def probe(path: Path) -> Media:
    """Look at a recording without decoding it all.

    Raises
    ------
    MediaError
        If it cannot be read, or holds neither sound nor picture.
    """
    path = path.absolute()
    with open_media(path) as container:
        video = picture_of(container)
        audio = container.streams.audio[0] if container.streams.audio else None
        if video is None and audio is None:
            raise MediaError(
                tr("“{path}” has neither sound nor picture. Choose another file.").format(path=path)
            )
        if audio is not None and not _LEAST_RATE <= audio.rate <= _MOST_RATE:
            raise MediaError(
                tr(
                    "“{path}” says that its sound has {rate:,} samples a second, which is impossible. "
                    "The file is damaged; choose another."
                ).format(path=path, rate=audio.rate)
            )
        found = path.stat()
        return Media(
            name=os.fsencode(path.name).decode("utf-8", "replace"),
            path=str(path),
            fingerprint="",
            duration_ms=_duration(container, audio or video),
            frame_rate=_rate(video) if video is not None else None,
            width=video.width if video is not None else 0,
            height=video.height if video is not None else 0,
            channels=audio.channels if audio is not None else 0,
            sample_rate=audio.rate if audio is not None else 0,
            tracks=_track_names(container),
            size=found.st_size,
            changed_ns=found.st_mtime_ns,
            timecode=_timecode(container),
        )


def recording_beside(path: Path, named: str = "") -> Path | None:
    """The recording in the folder of a text file: the one that it names, or one of its own name.

    ``None`` for none.
    """
    names = [Path(named).name] if named else []
    names += [path.stem + suffix for suffix in SUFFIXES]
    places = (path.parent / name for name in names)
    return next((one for one in places if one.suffix.lower() in SUFFIXES and one.is_file()), None)


def picture_of(container: Any) -> Any:
    """The stream of a film's picture, or nothing; the cover of a sound file is none."""
    return next((one for one in container.streams.video if not _is_cover(one)), None)


def sound_tracks(path: Path) -> tuple[SoundTrackFacts, ...]:
    """The sound tracks of a file, in order.

    Raises
    ------
    MediaError
        If it cannot be read.
    """
    with open_media(path) as container:
        return tuple(
            SoundTrackFacts(
                one.metadata.get("title") or one.metadata.get("name", ""),
                known_language(one.metadata.get("language", "und")),
                one.channels,
            )
            for one in container.streams.audio
        )


def _track_names(container: Any) -> tuple[str, ...]:
    """Names of the sound tracks where there are several; the first may be the mix of the others."""
    streams = container.streams.audio
    return tuple(one.metadata.get("title", "") for one in streams) if len(streams) > 1 else ()


def _is_cover(stream: Any) -> bool:
    """Whether a picture stream is only the cover of a sound file."""
    return bool(int(stream.disposition) & 0x400)


def _rate(video: Any) -> Fraction:
    rate = video.average_rate or video.guessed_rate or video.base_rate or 25
    return Fraction(rate)


def _timecode(container: Any) -> str:
    """The timecode of the first frame, as the file or one of its streams says."""
    places = [container.metadata, *(one.metadata for one in container.streams)]
    found = next((one["timecode"] for one in places if one.get("timecode")), "")
    return found if _TIMECODE.fullmatch(found) else ""


def _duration(container: Any, stream: Any) -> int:
    if container.duration and container.start_time and "matroska" in container.format.name:
        return _to_the_end(container)  # its length counts from zero, not from where it begins
    if container.duration:
        return rounded(Fraction(container.duration, 1000))
    if stream.duration and stream.time_base:
        return rounded(Fraction(stream.duration) * stream.time_base * 1000)
    return 0


def _to_the_end(container: Any) -> int:
    """Milliseconds from where a file begins to the end of its last packets."""
    start = Fraction(container.start_time, 1_000_000)
    container.seek(max(container.start_time, container.duration - _TAIL_US), backward=True)
    ends = [
        (packet.pts + (packet.duration or 0)) * packet.time_base
        for packet in container.demux(*container.streams.audio, *container.streams.video)
        if packet.pts is not None
    ]
    return (
        max(1, rounded((max(ends) - start) * 1000)) if ends else rounded(Fraction(container.duration, 1000))
    )
