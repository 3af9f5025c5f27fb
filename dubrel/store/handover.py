"""One archive for a colleague: the project, and a small file that stands in for its recording."""

from __future__ import annotations

import shutil
import zipfile
from pathlib import Path
from typing import BinaryIO

from dubrel.base.catalogue import tr
from dubrel.base.errors import ProjectError
from dubrel.base.files import cause_of, write_atomically
from dubrel.base.unfinished import work_folder
from dubrel.base.value import replace
from dubrel.model import Project
from dubrel.store.projectfile import save

SUFFIX = ".dubrel-handover"
_PIECE = 1 << 20
_MOST_MEMBERS = 8


def write_handover(
    project: Project, name: str, standin: Path | None, target: Path, versions_of: Path
) -> None:
    """Write an archive with a project and what stands in for its recording.

    Parameters
    ----------
    project : Project
    name : str
        Of the project's file in it, without a suffix.
    standin : Path or None
        A small file in place of the recording.
    target : Path
    versions_of : Path
        The project's file: its versions go along, so that what comes back can be merged.

    Raises
    ------
    DubrelError
        If it cannot be written.
    """
    with work_folder() as folder:
        file = folder / f"{name}.dubrel"
        if versions_of.is_file():
            shutil.copy(versions_of, file)  # byte for byte: what both have in common is found by that
        beside = folder / f"{name}{standin.suffix}" if standin is not None else None
        if beside is not None and standin is not None:
            shutil.copy(standin, beside)
            if project.media is not None:  # named from the project's file, wherever that is unpacked
                project = replace(project, media=replace(project.media, path=str(beside)))
        save(project, file)

        def write(out: BinaryIO) -> None:
            with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
                archive.write(file, file.name)
                if beside is not None:
                    archive.write(beside, beside.name)

        write_atomically(target, write)


def unpack_handover(path: Path) -> Path:
    """Unpack an archive beside itself, never over what is there; the project's file in it.

    Raises
    ------
    ProjectError
        If it is damaged, or no such archive.
    """
    folder, number = path.with_suffix(""), 2
    while folder.exists():
        folder, number = path.with_name(f"{path.stem} {number}"), number + 1
    try:
        with zipfile.ZipFile(path) as archive:
            names = archive.namelist()
            projects = [one for one in names if one.endswith(".dubrel")]
            if len(names) > _MOST_MEMBERS or len(projects) != 1 or any(not _is_plain(one) for one in names):
                raise ProjectError(
                    tr("“{path}” was not handed over by Dubrel. Open another file.").format(path=path)
                )
            folder.mkdir(parents=True)
            for name in names:
                with archive.open(name) as member, (folder / name).open("wb") as out:
                    shutil.copyfileobj(member, out, _PIECE)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError) as error:
        shutil.rmtree(folder, ignore_errors=True)
        raise ProjectError(tr("“{path}” is damaged. Ask for it again.").format(path=path)) from error
    except OSError as error:
        raise ProjectError(
            tr("“{path}” cannot be unpacked: {strerror}. Copy it elsewhere.").format(
                path=path, strerror=cause_of(error)
            )
        ) from error
    return folder / projects[0]


def _is_plain(name: str) -> bool:
    """Whether a name in an archive is that of a file, not a way out of the folder."""
    return bool(name) and name == Path(name).name and name not in (".", "..") and "\\" not in name
