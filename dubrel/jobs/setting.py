"""Work that needs no process of its own but must not block the interface: set captions."""

from __future__ import annotations

from collections.abc import Iterator

from dubrel.base.catalogue import tr
from dubrel.edits.captions.resetting import set_again
from dubrel.jobs.machinery.events import CaptionsSet, Event, Pace
from dubrel.model import HouseStyle, Project


def set_captions(project: Project, style: HouseStyle) -> Iterator[Event]:
    """Set the whole project into captions."""
    yield Pace().at(tr("Setting captions"), 0.0)
    yield CaptionsSet(set_again(project, style))
