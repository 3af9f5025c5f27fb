"""A series: a small file that names its episodes, in order, and what is the same for all of them."""

from __future__ import annotations

import json
import os
from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from dubrel.base.errors import ProjectError
from dubrel.base.files import write_text
from dubrel.base.jsontext import parse_json
from dubrel.base.text import counted

SUFFIX = ".dubrel-series"
VERSION = 1
_MOST_EPISODES, _MOST_TEXT = 20_000, 4096


@dataclass(frozen=True)
class Series:
    """Episodes that belong together.

    Attributes
    ----------
    title : str
    episodes : tuple of str
        Paths of projects and recordings, from the folder of the series where they lie beside it.
    languages : tuple of str
        BCP 47 tags of the languages that each is translated into.
    kit : str
        By which each is released; empty for none.
    """

    title: str
    episodes: tuple[str, ...] = ()
    languages: tuple[str, ...] = ()
    kit: str = ""

    def paths(self, home: Path) -> list[Path]:
        """Where the episodes are, for a series file in a folder; from the root, wherever one stands."""
        root = Path(os.path.abspath(home))
        return [root / one for one in self.episodes]


def with_episodes(series: Series, paths: Iterable[Path], home: Path) -> tuple[Series, list[Path]]:
    """The series with more episodes at its end, and those that were in it already.

    Parameters
    ----------
    home : Path
        The folder of the series file.
    """
    there = {os.path.realpath(one) for one in series.paths(home)}
    found, twice = list(series.episodes), list[Path]()
    for path in paths:
        real = os.path.realpath(path)
        if real in there:
            twice.append(path)
            continue
        there.add(real)
        found.append(_from(Path(real), home))
    return replace(series, episodes=tuple(found)), twice


def _from(path: Path, home: Path) -> str:
    """A path from the folder of the series where it lies in it, else whole."""
    near = os.path.relpath(path, os.path.realpath(home))
    return str(path) if near.startswith("..") else near


def read_series(path: Path) -> tuple[Series, list[str]]:
    """Read a series file.

    Returns
    -------
    series : Series
    said : list of str
        What did not fit, and was left out.

    Raises
    ------
    ProjectError
        If it is missing, no series, or of a newer version.
    """
    try:
        value = parse_json(path.read_bytes())
    except FileNotFoundError as error:
        raise ProjectError(f"“{path}” does not exist. Check the path, or begin it with “new”.") from error
    except OSError as error:
        raise ProjectError(f"“{path}” cannot be read: {error.strerror}. Check the file.") from error
    except ValueError as error:
        raise ProjectError(f"“{path}” is damaged, or is not a series; nothing was changed.") from error
    version = value.get("dubrel_series") if isinstance(value, dict) else None
    if type(version) is not int or version < 1:
        raise ProjectError(f"“{path}” is not a series: it has no “dubrel_series”. Choose another file.")
    if version > VERSION:
        raise ProjectError(
            f"“{path}” was saved by a newer version of Dubrel (form {version}). Update Dubrel to open it."
        )
    return _understood(value)


def _understood(value: dict[str, Any]) -> tuple[Series, list[str]]:
    said = list[str]()
    episodes = _texts(value.get("episodes"))
    whole = list(dict.fromkeys(episodes))[:_MOST_EPISODES]
    given = value.get("episodes")
    lost = (len(given) if isinstance(given, list) else 0) - len(whole)
    if lost > 0 or not isinstance(given, list):
        many = counted(
            max(1, lost),
            "episode could not be understood and was",
            "episodes could not be understood and were",
        )
        said.append(f"{many} left out.")
    title, kit = value.get("title"), value.get("kit", "")
    return Series(
        title.strip() if isinstance(title, str) and title.strip() else "Untitled",
        tuple(whole),
        tuple(dict.fromkeys(_texts(value.get("languages", [])))),
        kit if isinstance(kit, str) else "",
    ), said


def _texts(value: Any) -> list[str]:
    """Of a list the texts that could be paths or names."""
    some = value if isinstance(value, list) else []
    return [
        one
        for one in some
        if isinstance(one, str) and one.strip() and "\0" not in one and len(one) <= _MOST_TEXT
    ]


def write_series(series: Series, path: Path) -> None:
    """Write a series file.

    Raises
    ------
    DubrelError
        If it cannot be written; what was there before is untouched.
    """
    value = {
        "dubrel_series": VERSION,
        "title": series.title,
        "episodes": list(series.episodes),
        "languages": list(series.languages),
        "kit": series.kit,
    }
    write_text(path, json.dumps(value, ensure_ascii=False, indent=1) + "\n")
