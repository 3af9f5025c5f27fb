"""Unsaved work: the journals whose process has exited."""

from __future__ import annotations

import fcntl
import json
import os
import shutil
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from dubrel.base.errors import DubrelError
from dubrel.base.gc_pause import nothing_collected
from dubrel.base.jsontext import MOST_BYTES, parse_json
from dubrel.base.value import Value, replace
from dubrel.model import Project
from dubrel.project.summary import Summary, is_work, summary
from dubrel.store.deltas import applied, empty_rows
from dubrel.store.journal import Meta, identity, journals_folder
from dubrel.store.projectfile import MEMBER, open_project, read_member
from dubrel.store.projectjson import Rows, rows_of
from dubrel.store.validating import Made, project_of

_MOST_LINE = 4 * MOST_BYTES


class Leftover(Value):
    """Work that was not saved.

    Attributes
    ----------
    folder : Path
        The journal that it is in.
    meta : Meta
    base, project : Project
        What stands in the project file, and what is newer.
    at : float
        When the last step was written, in seconds since the epoch.
    newer : Summary
        What the project has that its file has not.
    """

    folder: Path
    meta: Meta
    base: Project
    project: Project
    at: float
    newer: Summary

    @property
    def title(self) -> str:
        """What the project is called."""
        return self.project.title

    @property
    def path(self) -> Path | None:
        """The project file that it goes on from.

        ``None`` where there is none, or where it is another one now.
        """
        path = Path(self.meta.path)
        same = self.meta.kind == "desk" and self.meta.path and identity(path) == self.meta.base
        return path if same and self.meta.base != (0, 0) else None


def leftovers() -> list[Leftover]:
    """Everything that can be recovered, the latest first; journals without anything newer are removed."""
    found = []
    for folder in _dead():
        left = look(folder)
        if left is None:
            continue
        if _is_worth(left):
            found.append(left)
        else:
            discard(folder)
    return sorted(found, key=lambda one: one.at, reverse=True)


def unreadable() -> list[Path]:
    """Journals that nobody owns and in which nothing can be read."""
    return [folder for folder in _dead() if look(folder) is None]


def _is_worth(left: Leftover) -> bool:
    """Whether anybody would miss it: work, or a recording that was being made."""
    if left.meta.kind == "recording":
        return left.newer.new > 0
    return bool(left.meta.recording) or is_work(left.base, left.project)


def _dead() -> Iterator[Path]:
    """Journals whose application no longer lives."""
    try:
        folders = sorted(journals_folder().iterdir())
    except OSError:
        return
    for folder in folders:
        if folder.name.startswith("."):
            continue
        try:
            handle = os.open(folder / "lock", os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, 0o600)
        except OSError:
            continue
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            continue
        finally:
            os.close(handle)
        yield folder


def look(folder: Path) -> Leftover | None:
    """What is in a journal; ``None`` where nothing in it can be read."""
    meta = _meta(folder)
    try:
        with nothing_collected():
            base, project, at = _replayed(folder)
    except (OSError, ValueError, KeyError, TypeError, AttributeError, OverflowError, IndexError, DubrelError):
        return None
    project = _with_recording(project, meta)
    base = _file_now(meta) or base
    return Leftover(folder, meta, base, project, at or meta.began, summary(base, project))


def _meta(folder: Path) -> Meta:
    """What a journal belongs to; to nothing that is known where that is damaged."""
    try:
        value = parse_json((folder / "meta.json").read_bytes())
        meta = Meta(**{**value, "base": tuple(value["base"])})
        texts = (meta.kind, meta.path, meta.recording)
        sound = all(isinstance(one, str) and "\0" not in one for one in texts)
        return replace(meta, began=float(meta.began)) if sound else Meta()
    except (OSError, ValueError, KeyError, TypeError, AttributeError, OverflowError):
        return Meta()


def _file_now(meta: Meta) -> Project | None:
    """What stands in the project file, where that was saved since: what it has is not unsaved."""
    path = Path(meta.path)
    if meta.kind != "desk" or not meta.path or identity(path) in (meta.base, (0, 0)):
        return None
    try:
        return open_project(path)
    except DubrelError:
        return None


def _replayed(folder: Path) -> tuple[Project, Project, float]:
    """What stands in the file, what the steps made of it, and when the last one was."""
    rows = _base_rows(folder)
    made: Made = {}
    base, _ = project_of(rows, made)
    held, at = [rows], 0.0  # rows are known by identity: none may go before the end
    for change in _changes(folder / "log"):
        at = float(change.pop("at", at))
        rows = applied(rows, change)
        held.append(change)
    return base, project_of(rows, made)[0], at


def _base_rows(folder: Path) -> Rows:
    path = folder / "base.dubrel"
    if not path.exists():
        return empty_rows()
    return rows_of(parse_json(read_member(path, MEMBER)))[0]


def _changes(log: Path) -> Iterator[dict[str, Any]]:
    """The steps that were written whole."""
    with log.open("rb") as file:
        for line in iter(lambda: file.readline(_MOST_LINE), b""):
            checksum, _, text = line.rstrip(b"\n").partition(b" ")
            if not line.endswith(b"\n") or checksum != b"%08x" % zlib.crc32(text):
                return
            yield json.loads(text)


def _with_recording(project: Project, meta: Meta) -> Project:
    """The project with the recording that was being made for it."""
    if project.media is not None or not meta.recording:
        return project
    from dubrel.media.probe import probe

    try:
        return replace(project, media=probe(Path(meta.recording)))
    except DubrelError:
        return project


def discard_earlier(recording: str) -> None:
    """Remove what earlier attempts at a recording left: it has been transcribed to its end."""
    for folder in _dead():
        try:
            value = parse_json((folder / "meta.json").read_bytes())
            done = value["kind"] == "recording" and value["recording"] == recording
        except (OSError, ValueError, KeyError, TypeError):
            continue
        if done:
            discard(folder)


def discard(folder: Path) -> None:
    """Remove a journal: what it held is saved, or not wanted."""
    shutil.rmtree(folder, ignore_errors=True)
