"""``dubrel release``."""

from __future__ import annotations

import argparse
import json
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.cli.common import (
    Subcommands,
    add_between,
    add_cut,
    add_json,
    add_quiet,
    cut_of,
    listed,
    own,
    read_input,
    shown,
    warn,
    with_pictures,
)

if TYPE_CHECKING:
    from dubrel.model import Project
    from dubrel.release.kits import Kit, Planned
    from dubrel.release.writing import Outcome

COMMANDS = ("release",)
_SIDE_BY_SIDE = 2


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    release = commands.add_parser("release", help="write every deliverable of a kit")
    release.add_argument(
        "input", type=Path, nargs="+", metavar="PROJECT", help="projects, transcripts or captions"
    )
    release.add_argument(
        "-o", "--output", type=Path, required=True, metavar="FOLDER", help="where the files go"
    )
    release.add_argument(
        "--kit",
        default="Captions for the web",
        metavar="NAME|FILE",
        help=f"a kit by name, or a .json file{listed(_kit_names)}",
    )
    release.add_argument("--zip", action="store_true", help="one archive with checksums for each project")
    add_cut(release)
    add_between(release, "only that passage, as it plays by itself")
    add_json(release)
    add_quiet(release)
    release.set_defaults(run=_release)


def _kit_names() -> list[str]:
    from dubrel.release.kits import all_kits

    return list(all_kits())


def _folders(projects: list[Path], output: Path) -> list[Path]:
    """A folder for each project, by its name; a second one of the same name gets a number."""
    found: list[Path] = []
    for path in projects:
        folder, nth = output / path.stem, 2
        while folder in found:
            folder, nth = output / f"{path.stem} {nth}", nth + 1
        found.append(folder)
    return found


@dataclass
class _Done:
    project: str
    files: list[str]
    problems: list[str]
    lost: list[str]
    not_ready: list[str]


def _release(args: argparse.Namespace) -> int:
    from dubrel.release.kits import kit_named

    kit = kit_named(args.kit)
    many = len(args.input) > 1
    folders = _folders(args.input, args.output) if many else [args.output]
    with ThreadPoolExecutor(_SIDE_BY_SIDE) as pool:
        found = list(pool.map(lambda pair: _one(pair[0], pair[1], kit, args), zip(args.input, folders)))
    if args.json:
        print(json.dumps([vars(one) for one in found], ensure_ascii=False, indent=1))
    else:
        for one in found:
            for path in one.files:
                print(path)
            warn(one.problems, quiet=False)
            warn([*one.lost, *(f"Not ready: {text}." for text in one.not_ready)], args.quiet)
    return 2 if any(one.problems for one in found) else 0


def _films(plan: list[Planned], folder: Path, quiet: bool) -> Iterator[Outcome]:
    from dubrel.jobs.machinery.events import NotWritten, Written
    from dubrel.jobs.releasing import films_made
    from dubrel.release.writing import Outcome

    for event in shown(films_made([one for one in plan if one.form.film], folder), quiet):
        if isinstance(event, Written):
            yield Outcome(Path(event.path).name, event.path)
        elif isinstance(event, NotWritten):
            yield Outcome("", "", event.message)


def _one(path: Path, folder: Path, kit: Kit, args: argparse.Namespace) -> _Done:
    from dubrel.release.writing import recorded

    done = _Done(str(path), [], [], [], [])
    try:
        project = with_pictures(read_input(path, args.quiet), args.quiet)
        with tempfile.TemporaryDirectory(prefix="dubrel-") as scratch:
            made = _as_it_plays(project, kit, args, Path(scratch))
            outcomes = _written(made, path, folder, kit, args, done)
        if path.suffix.lower() == ".dubrel":
            part = args.cut or args.between
            name = f"{kit.name} ({part})" if part else kit.name
            done.problems += _record(path, recorded(project, name, outcomes))
    except DubrelError as error:
        if len(args.input) == 1:
            raise
        done.problems = [str(error)]
    return done


def _written(
    project: Project, path: Path, folder: Path, kit: Kit, args: argparse.Namespace, done: _Done
) -> list[Outcome]:
    """The files of a kit written, and what came of it."""
    from dubrel.release.kits import loses, plan
    from dubrel.release.readiness import not_ready
    from dubrel.release.writing import pack, write_all
    from dubrel.user.settings import SETTINGS

    files = plan(project, kit, SETTINGS.read().masked_words)
    if not files:
        raise DubrelError(
            f"“{path}” has nothing for the kit “{kit.name}”. Transcribe it first, or choose another kit."
        )
    done.lost = list(dict.fromkeys(filter(None, map(loses, files))))
    done.not_ready = [one.text for one in not_ready(project)]
    outcomes = list(write_all([one for one in files if not one.form.film], folder))
    outcomes += _films(files, folder, args.quiet)
    done.problems = [one.problem for one in outcomes if one.problem]
    done.files = [one.path for one in outcomes if one.path]
    if args.zip and done.files:
        beside = folder.with_name(f"{folder.name}.zip") if folder.name not in ("", "..") else None
        done.files = [str(pack(outcomes, folder, beside or folder / f"{path.stem}.zip"))]
    return outcomes


def _as_it_plays(project: Project, kit: Kit, args: argparse.Namespace, scratch: Path) -> Project:
    """The project in a cut, and as its cameras show it; its recording is made where the kit wants it."""
    from dubrel.edits.cuts.cutting import cut_project
    from dubrel.jobs.cuts.cutmedia import rendered
    from dubrel.model import Media
    from dubrel.release.cutfiles import as_the_cameras_show_it, camera_cut
    from dubrel.release.kits import wants_recording

    own_cut = cut_of(project, args)
    cut = own_cut or camera_cut(project)
    if cut is None:
        return project
    made = cut_project(project, cut) if own_cut else as_the_cameras_show_it(project)
    there = project.media is not None and Path(project.media.path).is_file()
    if not (there and wants_recording(kit)):
        return made
    for found in shown(rendered(project, cut, scratch), args.quiet):
        if isinstance(found, Media):
            assert made.media is not None
            return replace(made, media=replace(made.media, path=found.path, size=found.size))
    return made


def _record(path: Path, released: Project) -> list[str]:
    """Keep the record in the project's file, as it stands there; why not, where it is open."""
    from dubrel.store.projectfile import read_project, save

    try:
        with own(path):
            save(replace(read_project(path).project, releases=released.releases), path)
    except DubrelError as error:
        return [f"This release is not in the project's record. {error}"]
    return []
