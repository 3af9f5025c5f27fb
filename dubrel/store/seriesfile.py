"""A series: a small file that names its episodes, in order, and what is the same for all of them."""

from __future__ import annotations

import json
import os
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import FormatError, ProjectError
from dubrel.base.files import cause_of, write_text
from dubrel.base.jsontext import parse_json
from dubrel.base.value import Value, replace
from dubrel.captions.styles import style_from_json, style_to_json
from dubrel.media.probe import SUFFIXES
from dubrel.model import HouseStyle, Look, Term
from dubrel.store.lookfile import look_from_json, look_to_json
from dubrel.store.projectjson import term_row
from dubrel.store.values import Values

SUFFIX = ".dubrel-series"
PROJECT = ".dubrel"
VERSION = 2
_MOST_EPISODES, _MOST_TEXT, _MOST_PRINT = 20_000, 4096, 4096

Voice = tuple[str, tuple[float, ...]]
"""A name and the voice print that belongs to it."""


class Series(Value):
    """Episodes that belong together.

    Attributes
    ----------
    title : str
    episodes : tuple of str
        Paths of projects and recordings, from the folder of the series where they lie beside it.
    languages : tuple of str
        BCP 47 tags of the languages that each is translated into.
    kit : str
        By which each is released, by name or in a file; empty for none.
    pattern : str
        By which their files are named, in place of that of the kit.
    terms : tuple of Term
        Names and terms that are the same in all.
    voices : tuple of (str, tuple of float)
        Voices that are known in all: names and voice prints.
    styles : tuple of (str, HouseStyle)
        House styles by language; with no language that of all others.
    look : tuple of (str, Look) or None
        How captions look in all, with its name.
    watched : str
        A folder in which new episodes arrive; empty for none.
    address : str
        Where what is released is published; empty for nowhere yet.
    """

    title: str
    episodes: tuple[str, ...] = ()
    languages: tuple[str, ...] = ()
    kit: str = ""
    pattern: str = ""
    terms: tuple[Term, ...] = ()
    voices: tuple[Voice, ...] = ()
    styles: tuple[tuple[str, HouseStyle], ...] = ()
    look: tuple[str, Look] | None = None
    watched: str = ""
    address: str = ""

    def paths(self, home: Path) -> list[Path]:
        """Where the episodes are, for a series file in a folder; from the root, wherever one stands.

        Of a recording that has been transcribed it is the project beside it.
        """
        root = Path(os.path.abspath(home))
        return [_settled(root / one) for one in self.episodes]

    def style_for(self, language: str) -> HouseStyle | None:
        """The house style of a language; ``None`` where the series says nothing of it."""
        known = dict(self.styles)
        return known.get(language) or known.get(language.split("-")[0]) or known.get("")


def _settled(path: Path) -> Path:
    if path.suffix.lower() == PROJECT:
        return path
    made = path.with_suffix(PROJECT)
    return made if made.is_file() else path


def with_episodes(series: Series, paths: Iterable[Path], home: Path) -> tuple[Series, list[Path]]:
    """The series with more episodes at its end, and those that were in it already.

    Parameters
    ----------
    home : Path
        The folder of the series file.
    """
    root = Path(os.path.abspath(home))
    there = {os.path.realpath(one) for one in series.paths(home)}
    there |= {os.path.realpath(root / one) for one in series.episodes}
    found, twice = list(series.episodes), list[Path]()
    for path in paths:
        names = {os.path.realpath(path), os.path.realpath(_settled(path))}
        if names & there:
            twice.append(path)
            continue
        there |= names
        found.append(_from(Path(os.path.realpath(path)), home))
    return replace(series, episodes=tuple(found)), twice


def without_episodes(series: Series, paths: Iterable[Path], home: Path) -> Series:
    """The series without some episodes, wherever their files are; the files stay."""
    gone = {str(one) for one in paths}
    kept = zip(series.episodes, series.paths(home))
    return replace(series, episodes=tuple(one for one, path in kept if str(path) not in gone))


def moved_episode(series: Series, path: Path, by: int, home: Path) -> Series:
    """The series with an episode earlier (below zero) or later."""
    rows, paths = list(series.episodes), series.paths(home)
    if path not in paths:
        return series
    place = paths.index(path)
    rows.insert(min(max(0, place + by), len(rows) - 1), rows.pop(place))
    return replace(series, episodes=tuple(rows))


def arrived(series: Series, home: Path) -> list[Path]:
    """What lies in the watched folder and is not an episode yet: projects, and recordings without one."""
    if not series.watched:
        return []
    folder = Path(os.path.abspath(home)) / series.watched
    try:
        there = sorted(one for one in folder.iterdir() if can_be_episode(one))
    except OSError:
        return []
    new = with_episodes(Series(""), there, home)[0]
    whole = with_episodes(series, new.paths(home), home)[0]
    return whole.paths(home)[len(series.episodes) :]


def can_be_episode(path: Path) -> bool:
    """Whether a file is a project or a recording by its name, and none that is being written."""
    return path.suffix.lower() in {PROJECT, *SUFFIXES} and not path.name.startswith(".") and path.is_file()


def in_folder(path: Path, home: Path) -> str:
    """A folder or file as it stands in the series: from its own folder where it lies in it, else whole."""
    return _from(Path(os.path.realpath(path)), home)


def _from(path: Path, home: Path) -> str:
    """A path from the folder of the series where it lies in it, else whole."""
    near = os.path.relpath(path, os.path.realpath(home))
    return str(path) if near.startswith("..") else near


# -- the file ----------------------------------------------------------------------------------


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
        raise ProjectError(
            tr("“{path}” does not exist. Check the path, or begin it with “new”.").format(path=path)
        ) from error
    except OSError as error:
        raise ProjectError(
            tr("“{path}” cannot be read: {strerror}. Check the file.").format(
                path=path, strerror=cause_of(error)
            )
        ) from error
    except ValueError as error:
        raise ProjectError(
            tr("“{path}” is damaged, or is not a series; nothing was changed.").format(path=path)
        ) from error
    version = value.get("dubrel_series") if isinstance(value, dict) else None
    if type(version) is not int or version < 1:
        raise ProjectError(
            tr("“{path}” is not a series: it has no “dubrel_series”. Choose another file.").format(path=path)
        )
    if version > VERSION:
        raise ProjectError(
            tr(
                "“{path}” was saved by a newer version of Dubrel (form {version}). Update Dubrel to open it."
            ).format(path=path, version=version)
        )
    return _understood(value)


def _understood(value: dict[str, Any]) -> tuple[Series, list[str]]:
    said = list[str]()
    episodes = _texts(value.get("episodes"))
    whole = list(dict.fromkeys(episodes))[:_MOST_EPISODES]
    given = value.get("episodes")
    lost = (len(given) if isinstance(given, list) else 0) - len(whole)
    if lost > 0 or not isinstance(given, list):
        said.append(
            counted(
                max(1, lost),
                "episode could not be understood and was left out.",
                "episodes could not be understood and were left out.",
            )
        )
    title = value.get("title")
    values = Values({}, keeps=False)
    series = Series(
        title.strip() if isinstance(title, str) and title.strip() else "Untitled",
        tuple(whole),
        tuple(dict.fromkeys(_texts(value.get("languages", [])))),
        values.text(value.get("kit", "")),
        values.text(value.get("pattern", "")),
        terms=values.terms(value.get("terms", [])),
        voices=_voices(value.get("voices", []), values),
        styles=_styles(value.get("styles", {}), values),
        look=_look(value.get("look"), values),
        watched=values.path(value.get("watched", "")),
        address=values.text(value.get("address", "")),
    )
    if wrong := sum(values.wrong.values()):
        said.append(
            counted(
                wrong,
                "part of what is the same for all could not be understood and was left out.",
                "parts of what is the same for all could not be understood and were left out.",
            )
        )
    return series, said


def _voices(value: Any, values: Values) -> tuple[Voice, ...]:
    found: dict[str, tuple[float, ...]] = {}
    for one in value if isinstance(value, list) else [None]:
        name = one.get("name") if isinstance(one, dict) else None
        print_ = one.get("print") if isinstance(one, dict) else None
        sound = isinstance(print_, list) and 0 < len(print_) <= _MOST_PRINT
        if not isinstance(name, str) or not name.strip() or not sound:
            values.wrong["row"] += 1
            continue
        assert isinstance(print_, list)
        found[values.text(name.strip(), most=200)] = tuple(values.number(n, -1, 1, 0.0) for n in print_)
    return tuple(found.items())


def _styles(value: Any, values: Values) -> tuple[tuple[str, HouseStyle], ...]:
    found = list[tuple[str, HouseStyle]]()
    for tag, one in value.items() if isinstance(value, dict) else [("", None)]:
        try:
            found.append((values.text(tag, most=40), style_from_json(one)))
        except FormatError:
            values.wrong["row"] += 1
    return tuple(found)


def _look(value: Any, values: Values) -> tuple[str, Look] | None:
    if value is None:
        return None
    try:
        return look_from_json(value)
    except FormatError:
        values.wrong["row"] += 1
        return None


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
    value: dict[str, Any] = {
        "dubrel_series": VERSION,
        "title": series.title,
        "episodes": list(series.episodes),
        "languages": list(series.languages),
        "kit": series.kit,
        "pattern": series.pattern,
        "watched": series.watched,
        "address": series.address,
        "terms": [term_row(one) for one in series.terms],
        "voices": [{"name": name, "print": list(print_)} for name, print_ in series.voices],
        "styles": {tag: style_to_json(style) for tag, style in series.styles},
    }
    if series.look is not None:
        value["look"] = look_to_json(*series.look)
    write_text(path, json.dumps(value, ensure_ascii=False, indent=1) + "\n")
