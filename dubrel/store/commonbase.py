"""The latest state that two project files have in common: what two people began with."""

from __future__ import annotations

from collections.abc import Iterator
from hashlib import sha256
from pathlib import Path

from dubrel.base.errors import ProjectError
from dubrel.store.projectfile import MEMBER, Opened, project_in, read_member
from dubrel.store.versions import unpacked, version_names


def common_state(mine: Path, theirs: Path) -> Opened | None:
    """The latest state among those of both files; ``None`` where they have none in common.

    A file holds the state that was saved last and versions of before, byte for byte as they were saved.

    Raises
    ------
    ProjectError
        If one of them cannot be read.
    """
    known = {mark for mark, _ in _states(theirs)}
    for mark, data in _states(mine):
        if mark in known:
            return project_in(data, mine)
    return None


def _states(path: Path) -> Iterator[tuple[bytes, bytes]]:
    """Each state with its digest, the latest first; damaged versions are passed over."""
    present = read_member(path, MEMBER)
    yield sha256(present).digest(), present
    for name in version_names(path):
        try:
            data = unpacked(read_member(path, name))
        except (ProjectError, ValueError):
            continue
        yield sha256(data).digest(), data
