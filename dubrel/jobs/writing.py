"""Work that needs no process of its own but must not hold the interface up: set captions, write files."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from dubrel.edits.setagain import set_again
from dubrel.errors import DubrelError
from dubrel.formats.register import write_checked
from dubrel.jobs.events import CaptionsSet, Event, NotWritten, Pace, Written
from dubrel.model import HouseStyle, Project


@dataclass(frozen=True)
class Deliverable:
    """A file to write: where, and with which options of its form."""

    path: Path
    options: Mapping[str, str]


def set_captions_of(project: Project, style: HouseStyle) -> Iterator[Event]:
    """Set the whole project into captions."""
    yield Pace().at("Setting captions", 0.0)
    yield CaptionsSet(set_again(project, style))


def write_deliverables(project: Project, wanted: Sequence[Deliverable]) -> Iterator[Event]:
    """Write files one after the other; one that cannot be written does not keep the others back.

    Yields
    ------
    Event
        Progress, and for each file ``Written`` or ``NotWritten``.
    """
    pace = Pace()
    for place, one in enumerate(wanted):
        yield pace.at(f"Writing {one.path.name}", place / len(wanted))
        try:
            one.path.parent.mkdir(parents=True, exist_ok=True)
            write_checked(project, one.path, one.options)
        except OSError as error:
            yield NotWritten(f"“{one.path.parent}” cannot be made: {error.strerror}. Choose another folder.")
        except DubrelError as error:
            yield NotWritten(str(error))
        else:
            yield Written(str(one.path))
