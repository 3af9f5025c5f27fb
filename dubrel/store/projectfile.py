"""The .dubrel file: a zip with ``project.json``, documented in docs/formats.md.

Words are written as columns (one list of ids, one of texts, one of times), so
that three hours open in a moment and the file stays small.
"""

from __future__ import annotations

import json
import os.path
import zipfile
from dataclasses import asdict, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from dubrel.captions.styles import DEFAULT_STYLE, STYLES, style_from_json, style_to_json
from dubrel.edits.notes import anchored
from dubrel.errors import ProjectError
from dubrel.files import write_atomically
from dubrel.model import (
    Caption,
    CaptionTrack,
    Look,
    Media,
    Note,
    Project,
    Speaker,
    Timing,
    Transcript,
    Turn,
    Word,
)

VERSION = 2
_MEMBER = "project.json"


def save(project: Project, path: Path) -> Project:
    """Write a project file.

    Returns
    -------
    Project
        With the media's path from the project file filled in.

    Raises
    ------
    DubrelError
        If it cannot be written; what was there before is untouched.
    """
    if project.media:
        relative = _relative(Path(project.media.path), path.parent)
        project = replace(project, media=replace(project.media, relative=relative))
    text = json.dumps(to_json(project), ensure_ascii=False, separators=(",", ":"))

    def write(file: Any) -> None:
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr(_MEMBER, text)

    write_atomically(path, write)
    return project


def _relative(media: Path, folder: Path) -> str:
    return os.path.relpath(media.resolve(), folder.resolve())


def open_project(path: Path) -> Project:
    """Read a project file.

    Raises
    ------
    ProjectError
        If it is missing, damaged, or of a newer version.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            value = json.loads(archive.read(_MEMBER))
        version = value["version"]
    except FileNotFoundError as error:
        raise ProjectError(f"“{path}” does not exist. Check the path.") from error
    except (zipfile.BadZipFile, KeyError, ValueError, EOFError, TypeError, NotImplementedError) as error:
        raise ProjectError(
            f"“{path}” is damaged, or is not a Dubrel project; nothing was changed. Open an earlier copy of it."
        ) from error
    except OSError as error:
        raise ProjectError(f"“{path}” cannot be read: {error.strerror}. Check the file.") from error
    if version > VERSION:
        raise ProjectError(
            f"“{path}” was saved by a newer version of Dubrel (form {version}). Update Dubrel to open it."
        )
    try:
        return from_json(value)
    except (KeyError, ValueError, TypeError, IndexError, AttributeError) as error:
        raise ProjectError(
            f"“{path}” is damaged inside ({error!r}); nothing was changed. Open an earlier copy of it."
        ) from error


def find_media(media: Media, project_path: Path | None) -> Path | None:
    """Where a linked recording is now: by its relative path, then by its absolute one."""
    candidates = []
    if project_path is not None and media.relative:
        candidates.append(project_path.parent / media.relative)
    candidates.append(Path(media.path))
    return next((path.resolve() for path in candidates if path.is_file()), None)


def to_json(project: Project) -> dict[str, Any]:
    """The project as plain JSON values."""
    transcript = project.transcript
    words = [word for turn in transcript.turns for word in turn.words]
    return {
        "version": VERSION,
        "title": project.title,
        "subtitle": project.subtitle,
        "next_id": project.next_id,
        "media": _media_json(project.media),
        "language": transcript.language,
        "speakers": [[one.id, one.name, one.role] for one in transcript.speakers],
        "turns": [
            [one.id, len(one.words), one.speaker, one.proofed, one.confirmed] for one in transcript.turns
        ],
        "words": {
            "id": [word.id for word in words],
            "text": [word.text for word in words],
            "start_ms": [word.start_ms for word in words],
            "end_ms": [word.end_ms for word in words],
            "doubt": [round(word.doubt, 4) for word in words],
            "timing": [word.timing.value for word in words],
            "struck": [word.id for word in words if word.struck],
            "also": [[word.id, word.also] for word in words if word.also],
            "sure": [[word.id, round(word.sure, 3)] for word in words if word.sure < 1],
        },
        "tracks": [_track_json(one) for one in project.tracks],
        "active": project.active,
        "notes": [[one.id, one.start_ms, one.kind, one.text, list(one.words)] for one in project.notes],
    }


def _media_json(media: Media | None) -> dict[str, Any] | None:
    if media is None:
        return None
    rate = str(media.frame_rate) if media.frame_rate else None
    return {**media.__dict__, "frame_rate": rate}


def _track_json(track: CaptionTrack) -> dict[str, Any]:
    rows = [
        [
            one.id,
            one.start_ms,
            one.end_ms,
            *(list(ids) for ids in (one.words, one.breaks, one.named, one.dashed)),
            one.text,
            list(one.sources),
        ]
        for one in track.captions
    ]
    return {
        "id": track.id,
        "language": track.language,
        "style": style_to_json(track.style),
        "look": asdict(track.look),
        "translates": track.translates,
        "captions": rows,
    }


def from_json(value: dict[str, Any]) -> Project:
    """The project that :func:`to_json` wrote, or an earlier version of it."""
    earlier = value["version"] == 1
    if earlier:
        value = _from_version_1(value)
    project = Project(
        title=value["title"],
        subtitle=value["subtitle"],
        media=_media(value["media"]),
        transcript=_transcript(value),
        tracks=tuple(_track(one) for one in value["tracks"]),
        active=value["active"],
        notes=tuple(Note(row[0], row[1], row[2], row[3], tuple(row[4])) for row in value["notes"]),
        next_id=value["next_id"],
    )
    return anchored(project) if earlier else project


def _media(value: dict[str, Any] | None) -> Media | None:
    if value is None:
        return None
    rate = Fraction(value["frame_rate"]) if value["frame_rate"] else None
    return Media(**{**value, "frame_rate": rate, "tracks": tuple(value.get("tracks", ()))})


def _transcript(value: dict[str, Any]) -> Transcript:
    columns, timings = value["words"], {timing.value: timing for timing in Timing}
    struck, also, sure = set(columns["struck"]), dict(columns.get("also", ())), dict(columns.get("sure", ()))
    words = [
        Word(one, text, start, end, doubt, timings[timing], one in struck, also.get(one), sure.get(one, 1.0))
        for one, text, start, end, doubt, timing in zip(
            *(columns[name] for name in ("id", "text", "start_ms", "end_ms", "doubt", "timing")),
            strict=True,
        )
    ]
    turns, at = [], 0
    for turn_id, length, *rest in value["turns"]:  # earlier files end the row sooner
        own = words[at : at + length]
        if len(rest) > 3:  # and some say how sure the whole turn is
            own = [replace(word, sure=rest[3]) for word in own]
        turns.append(Turn(turn_id, tuple(own), *rest[:3]))
        at += length
    if at != len(words):
        raise ValueError("words without a turn")
    return Transcript(value["language"], tuple(Speaker(*row) for row in value["speakers"]), tuple(turns))


def _track(value: dict[str, Any]) -> CaptionTrack:
    captions = tuple(
        Caption(
            one, start, end, tuple(words), tuple(breaks), tuple(named), tuple(dashed), text, tuple(sources)
        )
        for one, start, end, words, breaks, named, dashed, text, sources in value["captions"]
    )
    style, look = style_from_json(value["style"]), Look(**value["look"])
    return CaptionTrack(value["id"], value["language"], style, captions, look, value["translates"])


def _from_version_1(value: dict[str, Any]) -> dict[str, Any]:
    """One track or none, its style by name; notes without words; earlier rows end sooner."""
    track, next_id = value["captions"], value["next_id"]
    tracks = []
    if track is not None:
        style = style_to_json(STYLES.get(track["style"], DEFAULT_STYLE))
        rows = [[*row, *([] for _ in range(7 - len(row))), "", []] for row in track["captions"]]
        kept = {"id": next_id, "language": track["language"], "captions": rows}
        tracks.append({**kept, "style": style, "look": {}, "translates": None})
    notes = [[*row, []] for row in value["notes"]]
    active = next_id if tracks else 0
    return {**value, "tracks": tracks, "active": active, "notes": notes, "next_id": next_id + len(tracks)}
