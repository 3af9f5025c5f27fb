"""Hand a project over: its recording made small, and both put into one archive."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.unfinished import work_folder
from dubrel.base.value import replace
from dubrel.jobs.machinery.events import Event, Pace, Written
from dubrel.media.fingerprint import seen
from dubrel.media.standin import stands_in_for, write_standin
from dubrel.model import Project
from dubrel.store.handover import write_handover


def hand_over(project: Project, recording: str, file: str, target: str) -> Iterator[Event]:
    """Write an archive for a colleague.

    Parameters
    ----------
    project : Project
    recording : str
        Where its recording is; empty where it is not there.
    file : str
        Of the project.
    target : str

    Raises
    ------
    DubrelError
        If the recording cannot be read, or the archive not be written.
    """
    pace, path, out = Pace(), Path(recording), Path(target)
    name = Path(file).stem or project.title
    if project.media is None or not recording:
        yield pace.at(tr("Packing"), 0.5)
        write_handover(project, name, None, out, Path(file))
        yield Written(target)
        return
    with work_folder() as folder:
        standin = folder / "standin.mkv"
        if stands_in_for(path):
            yield pace.at(tr("Packing"), 0.5)
            standin = path
        else:
            media = project.media
            if len(media.fingerprint) != 64:
                yield pace.at(tr("Reading the file"), 0.0)
                media = replace(seen(media, path), path=media.path)
                project = replace(project, media=media)
            for share in write_standin(path, standin, media.fingerprint):
                yield pace.at(tr("Making the recording small"), 0.95 * share)
        write_handover(project, name, standin, out, Path(file))
    yield Written(target)
