"""Release clips by a kit, one after the other, each into a folder of its own."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.unfinished import work_folder
from dubrel.base.value import replace
from dubrel.edits.cuts.cutting import cut_project
from dubrel.jobs.cuts.cutmedia import rendered
from dubrel.jobs.machinery.events import Event, NotWritten, Written
from dubrel.jobs.releasing import released
from dubrel.model import Cut, Media, Project
from dubrel.release.kits import Kit, wants_recording

_BAD = re.compile(r'[/\\:*?"<>|\x00-\x1f\x7f]')
_LONGEST = 60


def release_clips(project: Project, clip_ids: Sequence[int], kit: Kit, folder: Path) -> Iterator[Event]:
    """Write what a kit has for each clip; one that cannot be written does not keep the others back.

    Parameters
    ----------
    project : Project
        Its recording where it really is.
    clip_ids : sequence of int
        Of clips, or of other cuts.
    folder : Path
        Each gets a folder in it, with its number and its name.

    Yields
    ------
    Event
        Progress, ``Written`` and ``NotWritten``.
    """
    clips = [one for one in map(project.cut, clip_ids) if one is not None]
    if wants_recording(kit) and not _is_there(project):
        yield NotWritten(
            tr("The recording is not where it was, so films and sound are left out. Find it in Intake first.")
        )
    for nth, clip in enumerate(clips, 1):
        try:
            with work_folder() as scratch:
                made = replace(cut_project(project, clip), releases=())
                for found in _with_recording(project, made, clip, kit, scratch):
                    if isinstance(found, Project):
                        made = found
                    else:
                        yield found
                yield from _events(released(made, kit, folder / folder_name(nth, clip.name)))
        except DubrelError as error:
            yield NotWritten(f"“{clip.name}”: {error}")


def _events(found: Iterator[Event | Project]) -> Iterator[Event]:
    return (one for one in found if not isinstance(one, Project))


def _with_recording(
    project: Project, made: Project, clip: Cut, kit: Kit, scratch: Path
) -> Iterator[Event | Project]:
    """The project of a clip with its own recording, where the kit wants one and there is one."""
    if not (_is_there(project) and wants_recording(kit)):
        return
    for found in rendered(project, clip, scratch):
        if isinstance(found, Media):
            assert made.media is not None
            yield replace(made, media=replace(made.media, path=found.path, size=found.size))
        elif not isinstance(found, Written):  # it is not kept
            yield found


def _is_there(project: Project) -> bool:
    return project.media is not None and Path(project.media.path).is_file()


def folder_name(number: int, name: str) -> str:
    """The folder of a clip: its number, so that they stand in order, and its name.

    Examples
    --------
    >>> folder_name(3, "Why you never hurry: oakum?")
    '03 Why you never hurry- oakum-'
    """
    return f"{number:02} {_BAD.sub('-', name)[:_LONGEST].strip(' .')}".strip()
