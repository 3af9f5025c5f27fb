"""A table of what was released: each file, when, by which kit, from which state of its project."""

from __future__ import annotations

import csv
import hashlib
import io
from collections.abc import Sequence
from pathlib import Path

from dubrel.release.series.releasedepisode import ReleasedEpisode

COLUMNS = ("episode", "title", "file", "sha256", "released", "kit", "state")


def release_table(episodes: Sequence[ReleasedEpisode], folder: Path) -> str:
    """The table as CSV (RFC 4180)."""
    out = io.StringIO()
    rows = csv.writer(out)
    rows.writerow(COLUMNS)
    for one in episodes:
        for name in one.files:
            release = one.release
            mark = _sum_of(folder / one.folder / name)
            path = f"{one.folder}/{name}"
            rows.writerow([one.number, one.title, path, mark, release.at, release.kit, release.digest])
    return out.getvalue()


def _sum_of(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
