"""Change an episode in its file, as one step: claimed, journalled, saved; the state before is kept."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.model import Project
from dubrel.store.journal import Journal
from dubrel.store.locks import claim
from dubrel.store.projectfile import read_project, save


def change_episode(path: Path, verb: Callable[[Project], Project]) -> bool:
    """Change a project in its file; the state before is kept among its versions.

    Parameters
    ----------
    path : Path
    verb : callable
        ``Project -> Project``, on what the file holds now.

    Returns
    -------
    bool
        Whether anything was changed.

    Raises
    ------
    DubrelError
        If it cannot be read or written, or is open in a window.
    """
    claimed = claim(path)
    if claimed is None:
        raise DubrelError(
            tr("“{name}” is open in another window. Close it there, or change it there.").format(
                name=path.name
            )
        )
    try:
        before = read_project(path).project
        after = verb(before)
        if after is before or after == before:
            return False
        journal = Journal(before, path)
        journal.offer(after)
        journal.flush()
        save(after, path)
        journal.close(keep=False)
        return True
    finally:
        claimed.give_up()
