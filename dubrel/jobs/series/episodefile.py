"""An episode as it is in its file: its project, its recording, how loud it is over time."""

from __future__ import annotations

from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import ProjectError
from dubrel.media.cache import peaks_at
from dubrel.model import Project
from dubrel.store.projectfile import find_media, read_project
from dubrel.store.seriesfile import PROJECT


def recording_of(project: Project | None, path: Path) -> Path | None:
    """Where the recording of an episode is."""
    if path.suffix.lower() != PROJECT:
        return path if path.is_file() else None
    return find_media(project.media, path) if project is not None and project.media else None


def trace_of_recording(path: Path | None) -> bytes:
    """How loud a recording is over time, 0 to 100 each; empty where it has not been read yet."""
    peaks = peaks_at(path) if path is not None else None
    if peaks is None:
        return b""
    from dubrel.media.peaks import Peaks  # late: the list of episodes is shown without it
    from dubrel.user.recents import trace_of

    try:
        loaded = Peaks.load(peaks)
    except (OSError, ValueError):
        return b""
    return bytes(trace_of(loaded, loaded.duration_ms))


def read_episode(path: Path) -> tuple[Project | None, str]:
    """The project of an episode; why there is none."""
    if path.suffix.lower() != PROJECT:
        there = path.is_file()
        return (
            None,
            ""
            if there
            else tr("“{name}” is not there. Put it there again, or take it off the list.").format(
                name=path.name
            ),
        )
    try:
        return read_project(path).project, ""
    except ProjectError as error:
        return None, str(error)
