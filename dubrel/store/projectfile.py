"""The .dubrel file: a zip with ``project.json`` and earlier saved states, documented in docs/formats.md."""

from __future__ import annotations

import os.path
import zipfile
import zlib
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, BinaryIO

from dubrel.base.catalogue import tr
from dubrel.base.errors import ProjectError
from dubrel.base.files import cause_of, write_atomically
from dubrel.base.gc_pause import nothing_collected
from dubrel.base.jsontext import MOST_BYTES, parse_json
from dubrel.base.value import Value, replace
from dubrel.edits.notes import anchored
from dubrel.media.probe import SUFFIXES, is_text
from dubrel.model import Cameras, Media, Project
from dubrel.store.projectjson import VERSION, rows_of, to_text
from dubrel.store.validating import project_of
from dubrel.store.versions import carried_over, thinned, unpacked, version_names, write_versions

MEMBER = "project.json"
_SYSTEM = ("/etc", "/proc", "/sys", "/dev", "/run", "/boot")
_DAMAGED: tuple[type[Exception], ...] = (
    *(zipfile.BadZipFile, zlib.error, KeyError, ValueError, EOFError, TypeError, NotImplementedError),
    *(AttributeError, IndexError, RuntimeError, OverflowError),  # an encrypted member, odd rows
)


class Opened(Value):
    """What was read from a project file.

    Attributes
    ----------
    project : Project
    fixed : tuple of str
        What was fixed while reading, one sentence each.
    """

    project: Project
    fixed: tuple[str, ...] = ()


def save(project: Project, path: Path, earlier: Sequence[Path] = (), merged: Sequence[Path] = ()) -> Project:
    """Write a project file; the state that stood in it is kept among its versions.

    Parameters
    ----------
    project : Project
    path : Path
    earlier : sequence of Path, optional
        Other files that the project was in until now: their states and versions go along.
    merged : sequence of Path, optional
        Files of which something was merged: what they hold now is kept as the latest version.

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
        project = replace(project, media=_linked_from(project.media, path.parent))
    if any(one.media for one in project.cameras.all):
        project = replace(project, cameras=_cameras_from(project.cameras, path.parent))
    data = to_text(project).encode()
    versions = carried_over(path, data)
    others = [version for one in earlier for version in carried_over(one, data)]
    others += [version for one in merged for version in carried_over(one, data, datetime.now(UTC))]
    if others:
        versions = thinned(sorted({**dict(others), **dict(versions)}.items(), reverse=True))

    def write(file: BinaryIO) -> None:
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr(MEMBER, data)
            write_versions(archive, versions)

    def verify(temporary: Path) -> None:
        with zipfile.ZipFile(temporary) as archive:
            if archive.read(MEMBER) != data or archive.testzip() is not None:
                raise ProjectError(
                    tr("“{path}” does not hold what was written. Check the disk and save again.").format(
                        path=path
                    )
                )

    write_atomically(path, write, verify)
    return project


def _linked_from(media: Media, folder: Path) -> Media:
    """The recording with its path from a folder.

    As it was where the recording is not at its absolute path.
    """
    source = Path(media.path)
    try:
        there = source.is_absolute() and source.exists()
    except (OSError, ValueError):
        there = False
    if media.relative and not there:
        return media
    return replace(media, relative=os.path.relpath(source.resolve() if there else source, folder.resolve()))


def _cameras_from(cameras: Cameras, folder: Path) -> Cameras:
    """The same of the films of cameras."""
    linked = tuple(
        replace(one, media=_linked_from(one.media, folder)) if one.media else one for one in cameras.all
    )
    return replace(cameras, all=linked) if linked != cameras.all else cameras


def open_project(path: Path) -> Project:
    """Read a project file; see :func:`read_project`."""
    return read_project(path).project


def read_project(path: Path) -> Opened:
    """Read a project file.

    What does not fit together is fixed as well as can be, and said.

    Raises
    ------
    ProjectError
        If it is missing, damaged, or of a newer version.
    """
    return project_in(read_member(path, MEMBER), path)


def read_member(path: Path, name: str) -> bytes:
    """A member of a project file, never more than a project can hold.

    Raises
    ------
    ProjectError
        If it is missing, damaged or too large.
    """
    try:
        if path.exists() and not path.is_file():
            raise ProjectError(tr("“{path}” is not a file. Open a project file.").format(path=path))
        with zipfile.ZipFile(path) as archive, archive.open(name) as member:
            data = member.read(MOST_BYTES + 1)
    except FileNotFoundError as error:
        raise ProjectError(tr("“{path}” does not exist. Check the path.").format(path=path)) from error
    except _DAMAGED as error:
        raise _damaged(path) from error
    except OSError as error:
        raise ProjectError(
            tr("“{path}” cannot be read: {strerror}. Check the file.").format(
                path=path, strerror=cause_of(error) if error.errno else tr("it is damaged")
            )
        ) from error
    if len(data) > MOST_BYTES:
        raise ProjectError(
            tr(
                "“{path}” is larger than a project can be; nothing was changed. Open an earlier copy of it."
            ).format(path=path)
        )
    return data


def _damaged(path: Path) -> ProjectError:
    return ProjectError(
        tr(
            "“{path}” is damaged, or is not a Dubrel project; nothing was changed. Open an earlier "
            "copy of it."
        ).format(path=path)
    )


def project_in(data: bytes, path: Path) -> Opened:
    """The project that a ``project.json`` describes.

    Raises
    ------
    ProjectError
        If it is not a project, or of a newer version.
    """
    try:
        value = parse_json(data)
        version = value["version"]
        if isinstance(version, bool) or not isinstance(version, int) or version < 1:
            raise ValueError("no version")
        if version > VERSION:
            raise ProjectError(
                tr(
                    "“{path}” was saved by a newer version of Dubrel (form {version}). Update Dubrel "
                    "to open it."
                ).format(path=path, version=version)
            )
        return from_json(value)
    except _DAMAGED as error:
        raise _damaged(path) from error


def from_json(value: dict[str, Any]) -> Opened:
    """The project that plain values describe, in the form of this or an earlier version."""
    with nothing_collected():
        rows, said = rows_of(value)
        project, fixed = project_of(rows)
    return Opened(anchored(project) if value["version"] == 1 else project, (*said, *fixed))


def find_media(media: Media, project_path: Path | None) -> Path | None:
    """Where a linked recording is now: by its relative path, then by its absolute one.

    A path in a project may say anything; only what a user would choose as a
    recording is found: see :func:`is_plain_recording`.
    """
    candidates = []
    if project_path is not None and media.relative:
        candidates.append(project_path.parent / media.relative)
    candidates.append(Path(media.path))
    return next((path.resolve() for path in candidates if is_plain_recording(path)), None)


def cameras_found(project: Project, project_path: Path | None) -> Project:
    """The project with the films of its cameras where they are now; as they were where they are not."""
    found = []
    for one in project.cameras.all:
        there = find_media(one.media, project_path) if one.media else None
        if one.media is not None and there is not None and str(there) != one.media.path:
            one = replace(one, media=replace(one.media, path=str(there)))
        found.append(one)
    if tuple(found) == project.cameras.all:
        return project
    return replace(project, cameras=replace(project.cameras, all=tuple(found)))


def is_plain_recording(path: Path) -> bool:
    """Whether a file may be opened unasked.

    A file by the name of a recording, outside the system's folders.
    """
    try:
        real = path.resolve()
        return (
            real.is_file()
            and real.suffix.lower() in SUFFIXES
            and not any(real.is_relative_to(folder) for folder in _SYSTEM)
            and not is_text(real)
        )
    except (OSError, ValueError, RuntimeError):  # a name that cannot be, a link that goes round
        return False


def read_version(path: Path, name: str) -> Opened:
    """An earlier saved state in a project file.

    Raises
    ------
    ProjectError
        If it is missing or damaged.
    """
    try:
        return project_in(unpacked(read_member(path, name)), path)
    except ValueError as error:
        raise ProjectError(
            tr("That version in “{path}” is damaged. Choose another one.").format(path=path)
        ) from error


def latest_version(path: Path) -> tuple[str, Opened] | None:
    """The latest version in a project file that can be read, with its name.

    For a file whose present state cannot.
    """
    for name in version_names(path):
        try:
            return name, read_version(path, name)
        except ProjectError:
            continue
    return None
