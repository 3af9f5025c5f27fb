"""The projects that were worked on last: where they are, how they stand, what they look like."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import Message
from dubrel.base.value import Value, asdict, part_names, replace
from dubrel.model import Project
from dubrel.store.projectjson import to_text
from dubrel.user.kept import Kept

MOST = 12
_COLUMNS, _FINER = 240, 16


class Recent(Value):
    """A project as it was when it was saved or opened last.

    Attributes
    ----------
    path, title, subtitle : str
    at : float
        When it was worked on, in seconds since the epoch.
    length_ms : int
    to_do : tuple of str
        What was still to do ("14 doubts").
    trace : tuple of int
        How loud it is over time, 0 to 100.
    proofed : tuple of (int, int)
        Passages that a person has checked, in thousandths of the length.
    digest, released : str
        Of what the project says, and of what it said when its deliverables
        were written; empty for never.
    released_at : float
    """

    path: str
    title: str
    subtitle: str = ""
    at: float = 0.0
    length_ms: int = 0
    to_do: tuple[str, ...] = ()
    trace: tuple[int, ...] = ()
    proofed: tuple[tuple[int, int], ...] = ()
    digest: str = ""
    released: str = ""
    released_at: float = 0.0


def _understood(value: Any) -> list[Recent]:
    names = part_names(Recent)
    return [_recent({name: row[name] for name in names if name in row}) for row in value]


def _recent(row: dict[str, Any]) -> Recent:
    one = Recent(**row)
    texts = (one.path, one.title, one.subtitle, one.digest, one.released)
    if not all(isinstance(text, str) for text in texts):
        raise TypeError("a text is none")
    trace = tuple(min(100, max(0, int(level))) for level in one.trace[:_COLUMNS])
    proofed = tuple((int(a), int(b)) for a, b in one.proofed)
    one = replace(one, at=float(one.at), released_at=float(one.released_at), length_ms=int(one.length_ms))
    return replace(one, trace=trace, proofed=proofed, to_do=tuple(map(Message.of_parts, one.to_do)))


def _plain(rows: list[Recent]) -> list[dict[str, Any]]:
    parts = [[said.parts() if isinstance(said, Message) else said for said in one.to_do] for one in rows]
    return [{**asdict(one), "to_do": some} for one, some in zip(rows, parts, strict=True)]


RECENTS = Kept[list[Recent]]("recent.json", Message("The list of recent projects"), _understood, _plain, list)


def recents() -> list[Recent]:
    """The projects that were worked on last and are still there, the latest first."""
    return [one for one in RECENTS.read() if Path(one.path).is_file()]


def digest(project: Project) -> str:
    """Of what a project says, wherever its recording is, and whatever was released of it."""
    text = to_text(replace(project, media=None, active=0, releases=()))
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def remember(
    project: Project,
    path: Path,
    to_do: Sequence[str],
    trace: Sequence[int] = (),
    *,
    released: tuple[Project, float] | None = None,
) -> None:
    """Put a project at the top.

    Parameters
    ----------
    project : Project
        As it stands in its file.
    path : Path
    to_do : sequence of str
    trace : sequence of int
        Empty to keep the one that is known.
    released : tuple of (Project, float), optional
        The value of which deliverables were written, and when.

    Raises
    ------
    DubrelError
        If the list cannot be written.
    """
    name, now = str(path.resolve()), time.time()
    known = RECENTS.read()
    before = next((one for one in known if one.path == name), Recent(name, ""))
    said = digest(project)
    turns, media = project.transcript.turns, project.media
    length = media.duration_ms if media else turns[-1].end_ms if turns else 0
    made = Recent(
        name,
        project.title,
        project.subtitle,
        now,
        length,
        tuple(to_do),
        tuple(trace) or before.trace,
        _proofed(project, length),
        said,
        digest(released[0]) if released else before.released,
        released[1] if released else before.released_at,
    )
    rows = [made, *(one for one in known if one.path != name)][:MOST]
    RECENTS.write(rows)


def _proofed(project: Project, length_ms: int) -> tuple[tuple[int, int], ...]:
    """Proofed passages; those that touch are one."""
    found: list[list[int]] = []
    before = False
    for turn in project.transcript.turns:
        if turn.proofed and length_ms:
            start, end = (min(1000, ms * 1000 // length_ms) for ms in (turn.start_ms, turn.end_ms))
            if before:
                found[-1][1] = max(end, found[-1][1])
            else:
                found.append([start, end])
        before = turn.proofed
    return tuple((a, b) for a, b in found)


def trace_of(peaks: Any, length_ms: int) -> list[int]:
    """How loud a recording is over time, for :attr:`Recent.trace`.

    ``peaks`` as in :mod:`dubrel.media.peaks`.
    """
    columns = peaks.columns(0, max(1, length_ms), _COLUMNS * _FINER)
    levels = abs(columns).max(axis=1).reshape(_COLUMNS, _FINER).mean(axis=1)
    top = max(float(levels.max()), 1e-6)
    return [round(100 * float(level) / top) for level in levels]
