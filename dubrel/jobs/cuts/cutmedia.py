"""Cuts that need the recording: proposals by its level, and files of sound and film."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.value import replace
from dubrel.edits.cuts.pauses import Levels
from dubrel.jobs.filming import make_film
from dubrel.jobs.machinery.events import Event, Pace
from dubrel.media.cache import is_read, peaks_path
from dubrel.media.sound import read_sound
from dubrel.model import Cut, Media, Project
from dubrel.release.cutfiles import cut_order


def levels_of(media: Media) -> Levels | None:
    """How loud a recording is, where it has been read."""
    if not is_read(media):
        return None
    return Levels.of_peaks(np.load(peaks_path(media)))


def levels_read(media: Media) -> Iterator[Event | Levels]:
    """How loud a recording is; read first unless it has been.

    Yields
    ------
    Event or Levels
        Progress; at the end the levels.

    Raises
    ------
    MediaError
        If it cannot be read.
    """
    pace = Pace()
    for fraction in () if is_read(media) else read_sound(media):
        yield pace.at(tr("Reading the file"), fraction)
    found = levels_of(media)
    if found is not None:
        yield found


def rendered(project: Project, cut: Cut, folder: Path) -> Iterator[Event | Media]:
    """The recording of a cut as a file of high quality, for what is made of it.

    Yields
    ------
    Event or Media
        Progress; at the end the recording as a project of the cut has it.
    """
    from dubrel.media.probe import probe

    target = folder / f"cut{'.mkv' if project.has_picture else '.flac'}"
    yield from make_film(cut_order(project, cut, target, crf=14))
    yield replace(probe(target), fingerprint="")
