"""Write the files of a kit, one after the other; films too, where the job has a process of its own."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.jobs.filming import make_film
from dubrel.jobs.machinery.events import Event, NotWritten, Pace, Written
from dubrel.jobs.pictures import looked_at
from dubrel.model import Project
from dubrel.release.films import order_of
from dubrel.release.kits import Kit, Planned, plan
from dubrel.release.writing import Outcome, pack, recorded, write_one
from dubrel.user.settings import SETTINGS


def release_files(plan: Sequence[Planned], folder: Path, archive: Path | None = None) -> Iterator[Event]:
    """Write files; one that cannot be written does not keep the others back.

    Yields
    ------
    Event
        Progress, and for each file ``Written`` or ``NotWritten``; with an archive it alone is ``Written``.
    """
    pace, outcomes = Pace(), list[Outcome]()
    for nth, planned in enumerate(plan):
        yield pace.at(tr("Writing {name}").format(name=planned.name), nth / len(plan))
        outcome = write_one(planned, folder)
        outcomes.append(outcome)
        if outcome.problem:
            yield NotWritten(outcome.problem)
        elif archive is None:
            yield Written(outcome.path)
    if archive is not None and any(one.path for one in outcomes):
        yield Written(str(pack(outcomes, folder, archive)))


def packed(said: Sequence[Event], folder: Path, archive: Path) -> Iterator[Event]:
    """Put what was written into one archive; it alone is ``Written`` then."""
    yield Pace().at(tr("Packing {name}").format(name=archive.name), 0.0)
    outcomes = [Outcome(Path(one.path).name, one.path) for one in said if isinstance(one, Written)]
    if outcomes:
        yield Written(str(pack(outcomes, folder, archive)))


def films_made(plan: Sequence[Planned], folder: Path) -> Iterator[Event]:
    """Make the films of a plan here; one that cannot be made does not keep the others back."""
    for planned in plan:
        try:
            yield from make_film(order_of(planned, folder))
        except DubrelError as error:
            yield NotWritten(str(error))


def released(project: Project, kit: Kit, folder: Path) -> Iterator[Event | Project]:
    """Release a project by a kit, films included.

    Yields
    ------
    Event or Project
        As :func:`release_files`; at the end the project with the release in its record.
    """
    for found in looked_at(project):
        if isinstance(found, Project):
            project = found
        else:
            yield found
    files = plan(project, kit, SETTINGS.read().masked_words)
    texts = [one for one in files if not one.form.film]
    said: list[Event] = []
    for event in release_files(texts, folder):
        said.append(event)
        yield event
    for event in films_made([one for one in files if one.form.film], folder):
        said.append(event)
        yield event
    outcomes = [Outcome(Path(one.path).name, one.path) for one in said if isinstance(one, Written)]
    yield replace(project, releases=recorded(project, kit.name, outcomes).releases)
