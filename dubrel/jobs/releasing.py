"""Write the files of a kit, one after the other."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from dubrel.jobs.events import Event, NotWritten, Pace, Written
from dubrel.release.kits import Planned
from dubrel.release.writing import Outcome, pack, write_one


def release_files(plan: Sequence[Planned], folder: Path, archive: Path | None = None) -> Iterator[Event]:
    """Write files; one that cannot be written does not keep the others back.

    Yields
    ------
    Event
        Progress, and for each file ``Written`` or ``NotWritten``; with an archive it alone is ``Written``.
    """
    pace, outcomes = Pace(), list[Outcome]()
    for nth, planned in enumerate(plan):
        yield pace.at(f"Writing {planned.name}", nth / len(plan))
        outcome = write_one(planned, folder)
        outcomes.append(outcome)
        if outcome.problem:
            yield NotWritten(outcome.problem)
        elif archive is None:
            yield Written(outcome.path)
    if archive is not None and any(one.path for one in outcomes):
        yield Written(str(pack(outcomes, folder, archive)))
