"""The forms of cut list, by suffix; how one is written, read back and compared."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.files import write_atomically
from dubrel.base.value import replace
from dubrel.edits.cameras.camerashots import camera_shots
from dubrel.formats.cutlists import edl, otio, table
from dubrel.formats.cutlists.cutlist import CutContent, CutForm, CutReading, content
from dubrel.model import Cut, CutPassage, Project
from dubrel.project.timeline import placements

CUT_FORMS: dict[str, CutForm] = {one.suffix: one for one in (otio.FORM, otio.BUNDLE, edl.FORM, table.FORM)}
"""Forms of cut list by suffix."""


def cut_form(path: Path) -> CutForm:
    """The form of a cut list.

    Raises
    ------
    FormatError
        If there is none by its suffix.
    """
    form = CUT_FORMS.get(path.suffix.lower())
    if form is None:
        raise FormatError(
            tr("“{path}” is not a cut list. Known suffixes: {listed}.").format(
                path=path, listed=", ".join(CUT_FORMS)
            )
        )
    return form


def write_cut_list(project: Project, cut: Cut, path: Path, rate: Fraction | None = None) -> list[str]:
    """Write a cut list beside its place, read it back and compare; only then does it replace what was there.

    Parameters
    ----------
    rate : Fraction, optional
        Frames a second in a list that counts them, where the recording has no picture.

    Returns
    -------
    lost : list of str
        What it cannot hold, in sentences.

    Raises
    ------
    FormatError
        If the cut is empty, or what stands in the file is not what was meant.
    """
    form = cut_form(path)
    if not cut.passages:
        raise FormatError(
            tr("“{name}” has no passages. Put something into the cut first.").format(name=cut.name)
        )
    meant = content(project, cut, rate)

    def verify(written: Path) -> None:
        found = form.read(written, project, rate)
        if not (_agrees(meant, found.passages) and (not form.cameras or _shows(meant, found))):
            raise FormatError(
                tr("What stands in “{name}” is not the cut. Write another form.").format(name=path.name)
            )

    write_atomically(path, lambda file: form.write(meant, file), verify)
    return form.loses(meant)


def _others(meant: CutContent) -> Iterator[int]:
    """Shots of other cameras than the recording's own picture."""
    own = {0, *(one.id for one in meant.project.cameras.all if one.media is None)}
    return (one.camera for one in meant.shots if one.camera not in own)


def _shows(meant: CutContent, found: CutReading) -> bool:
    """Whether the same cameras are shown, in a form that says which."""
    if found.switches is None or not meant.shots:
        return not any(_others(meant))
    cameras = replace(meant.project.cameras, switches=found.switches)
    read = camera_shots(replace(meant.project, cameras=cameras), meant.cut, meant.rate)
    return [(one.camera, one.at, one.frames) for one in read] == [
        (one.camera, one.at, one.frames) for one in meant.shots
    ]


def _going_on(rows: list[tuple[int, int, int, bool]], cameras: bool) -> list[tuple[int, int, int, bool]]:
    """Gaps that follow each other as one, and between shots of cameras passages that go on in the recording.

    Nobody can tell them apart in a list.
    """
    found = list[tuple[int, int, int, bool]]()
    for at, until, start, heard in rows:
        last = found[-1] if found else None
        if last is None or last[3] != heard:
            on = False
        elif start < 0 or last[2] < 0:
            on = start == last[2]
        else:
            on = cameras and abs(last[2] + last[1] - last[0] - start) <= 1
        if last is not None and on:
            found[-1] = (last[0], until, last[2], heard)
        else:
            found.append((at, until, start, heard))
    return found


def _agrees(meant: CutContent, found: list[CutPassage]) -> bool:
    """Whether the same plays at the same time, to half a frame."""
    near = 1000 / float(meant.rate) / 2 + 1

    def shown(cut: Cut) -> list[tuple[int, int, int, bool]]:
        places = placements(cut, meant.project.frame_rate)
        plays = [one.plays for one in cut.passages]
        rows = [
            (one.at_ms, one.until_ms, one.start_ms if how != "gap" else -1, how == "all")
            for one, how in zip(places, plays)
        ]
        while rows and rows[-1][2] < 0:  # a gap at the end is nothing in a list of events
            rows.pop()
        return _going_on(rows, bool(meant.shots))

    own, theirs = shown(meant.cut), shown(Cut(0, "", tuple(found)))
    if len(own) != len(theirs):  # what lasts no frame is nothing in a list that counts frames
        own = shown(replace(meant.cut, passages=tuple(one.passage for one in meant.events)))
    # what counts whole frames rounds each passage of a recording without a picture
    drift = 0 if meant.project.frame_rate else near * len(own)
    return len(own) == len(theirs) and all(
        abs(a[2] - b[2]) <= 2 * near
        and abs((a[1] - a[0]) - (b[1] - b[0])) <= 2 * near
        and abs(a[0] - b[0]) <= near + drift
        for a, b in zip(own, theirs)
    )


def read_cut_list(path: Path, project: Project, rate: Fraction | None = None) -> CutReading:
    """Read a cut list of the recording of a project.

    Raises
    ------
    FormatError
        If it is none, or none of this recording.
    """
    found = cut_form(path).read(path, project, rate)
    return found if found.name else dataclasses.replace(found, name=path.stem)
