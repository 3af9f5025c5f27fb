"""Write the files of a kit, read each back, keep a record; into a folder or as one archive with checksums."""

from __future__ import annotations

import hashlib
import json
import zipfile
from collections.abc import Callable, Iterator, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import IO

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError, FormatError
from dubrel.base.files import cause_of, write_atomically
from dubrel.base.unfinished import work_folder
from dubrel.base.value import Value, replace
from dubrel.formats.shared.form import Form
from dubrel.model import Project, Released
from dubrel.release.kits import Planned
from dubrel.release.source import Source
from dubrel.store.projectjson import to_text


class Outcome(Value):
    """What became of a file.

    Attributes
    ----------
    name : str
    path : str
        Where it stands; empty where it could not be written.
    problem : str
        Why not.
    """

    name: str
    path: str = ""
    problem: str = ""


def write_one(planned: Planned, folder: Path) -> Outcome:
    """Write a file, if it can be; why not is said in the outcome."""
    path = folder / planned.name
    try:
        folder.mkdir(parents=True, exist_ok=True)
        put(planned.form, planned.source, path)
    except OSError as error:
        return Outcome(
            planned.name, "", f"“{folder}” cannot be written: {cause_of(error)}. Choose another folder."
        )
    except DubrelError as error:
        return Outcome(planned.name, "", str(error))
    return Outcome(planned.name, str(path))


def put(form: Form, source: Source, path: Path) -> None:
    """Write a file beside its place, read it back by a reader of its own, and only then put it there.

    Raises
    ------
    FormatError
        If what stands in the file is not what was meant.
    DubrelError
        If it cannot be written.
    """
    data = form.written(source)

    def verify(temporary: Path) -> None:
        if temporary.read_bytes() != data:
            raise FormatError(
                tr("“{path}” does not hold what was written. Check the disk and release it again.").format(
                    path=path
                )
            )
        with work_folder() as apart:  # readers go by the suffix
            readable = apart / f"file{form.suffix}"
            readable.write_bytes(data)
            if not _agrees(form, source, readable, path):
                raise FormatError(
                    tr("“{path}” does not read back as it was written. Please report this file.").format(
                        path=path
                    )
                )

    write_atomically(path, lambda file: file.write(data), verify, through_link=False)


def _agrees(form: Form, source: Source, readable: Path, path: Path) -> bool:
    """Whether a file reads back as it was meant; what its reader says is said of the file itself."""
    try:
        return form.reads_back(source, readable)
    except FormatError as error:
        raise FormatError(str(error).replace(str(readable), str(path))) from error


def write_all(
    plan: Sequence[Planned], folder: Path, progress: Callable[[str, float], object] = lambda name, share: None
) -> Iterator[Outcome]:
    """Write files one after the other; one that cannot be written does not keep the others back."""
    for nth, planned in enumerate(plan):
        progress(planned.name, nth / max(1, len(plan)))
        yield write_one(planned, folder)


def existing(plan: Sequence[Planned], folder: Path) -> list[str]:
    """The names of files that would be replaced."""
    return [one.name for one in plan if _replaces(one, folder / one.name)]


def _replaces(planned: Planned, path: Path) -> bool:
    """Whether a file stands there already; the recording itself stays where it is."""
    media = planned.source.original.media if planned.form.film == "copy" else None
    itself = media is not None and path.exists() and Path(media.path).exists() and path.samefile(media.path)
    return path.exists() and not itself


def pack(outcomes: Sequence[Outcome], folder: Path, archive: Path) -> Path:
    """Files as one archive with their checksums (SHA-256) and a list; the files themselves go.

    Raises
    ------
    DubrelError
        If it cannot be written.
    """
    written = [one for one in outcomes if one.path]
    sums = {one.name: _sum_of(Path(one.path)) for one in written}

    def write(file: IO[bytes]) -> None:
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as target:
            for one in written:
                target.write(one.path, one.name)
            target.writestr("SHA256SUMS", "".join(f"{value}  {name}\n" for name, value in sums.items()))
            target.writestr("files.json", json.dumps(sums, ensure_ascii=False, indent=1) + "\n")

    def verify(temporary: Path) -> None:
        with zipfile.ZipFile(temporary) as target:
            if any(hashlib.sha256(target.read(name)).hexdigest() != value for name, value in sums.items()):
                raise FormatError(
                    tr(
                        "“{archive}” does not hold what was written. Check the disk and release it again."
                    ).format(archive=archive)
                )

    write_atomically(archive, write, verify, through_link=False)
    for one in written:
        Path(one.path).unlink(missing_ok=True)
    if folder != archive.parent:
        with_nothing = folder.is_dir() and not any(folder.iterdir())
        if with_nothing:
            folder.rmdir()
    return archive


def _sum_of(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def digest_of(project: Project) -> str:
    """Of what a project says, without its record of releases and wherever its recording lies."""
    text = to_text(replace(project, releases=(), next_id=1, media=None))
    name = project.media.name if project.media else ""
    return hashlib.blake2b(f"{name}\n{text}".encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()


def recorded(
    project: Project, kit: str, outcomes: Sequence[Outcome], when: datetime | None = None, digest: str = ""
) -> Project:
    """The project with a release in its record: when, by which kit, which files, from which state."""
    files = tuple(one.name for one in outcomes if one.path)
    if not files:
        return project
    at = (when or datetime.now(UTC)).strftime("%Y-%m-%dT%H:%M:%SZ")
    one = Released(at, kit, files, digest or digest_of(project))
    return replace(project, releases=(*project.releases, one)[-50:])
