"""House styles that ship, and their JSON form."""

from __future__ import annotations

from dataclasses import asdict, fields
from pathlib import Path
from typing import Any

from dubrel.errors import FormatError
from dubrel.jsontext import parse_json
from dubrel.model import CaptionTrack, HouseStyle

VERSION = 1
DEFAULT_STYLE = HouseStyle("Two lines of 42")
STYLES = {
    style.name: style
    for style in (
        DEFAULT_STYLE,
        HouseStyle("Two lines of 42, two people with dashes", dashes=True),
        HouseStyle("Two lines of 42, names at each change", names="change"),
        HouseStyle("Two lines of 42, names always", names="always"),
    )
}
_NAMES = ("never", "change", "always")
_LEAST = {"max_lines": 1, "max_cpl": 1, "max_cps": 0.1, "max_ms": 1}


def style_of(track: CaptionTrack | None) -> HouseStyle:
    """The house style of a track; the usual one where there is none."""
    return track.style if track else DEFAULT_STYLE


def house_style(name_or_path: str) -> HouseStyle:
    """The house style that ships under a name, or the one in a JSON file.

    Raises
    ------
    FormatError
        If there is none, or the file is not in the form.
    """
    if name_or_path in STYLES:
        return STYLES[name_or_path]
    path = Path(name_or_path)
    if path.suffix.lower() == ".json":
        return read_style(path)
    known = ", ".join(f"“{known}”" for known in STYLES)
    raise FormatError(
        f"There is no house style “{name_or_path}”. Name a .json file, or one of these: {known}."
    )


def read_style(path: Path) -> HouseStyle:
    """Read a house style; what is left out is as in the default style.

    Raises
    ------
    FormatError
        If the file cannot be read or is not in the form.
    """
    try:
        value = parse_json(path.read_bytes())
    except OSError as error:
        raise FormatError(f"“{path}” cannot be read: {error.strerror}. Check the path.") from error
    except ValueError as error:
        raise FormatError(f"“{path}” is not JSON: {error}. Correct it or choose another file.") from error
    try:
        return style_from_json(value)
    except (FormatError, OverflowError) as error:
        raise FormatError(f"“{path}” is not a house style: {error}") from error


def style_to_json(style: HouseStyle) -> dict[str, Any]:
    """A house style as plain JSON values."""
    return {"dubrel_style": VERSION, **asdict(style)}


def style_from_json(value: Any) -> HouseStyle:
    """The house style that :func:`style_to_json` wrote.

    Raises
    ------
    FormatError
        If a rule is not known, is missing its name, or cannot be.
    """
    if not isinstance(value, dict) or value.get("dubrel_style") != VERSION:
        raise FormatError(f"it must say “dubrel_style”: {VERSION}.")
    rules = {name: one for name, one in value.items() if name != "dubrel_style"}
    known: dict[str, type] = {field.name: type(field.default) for field in fields(HouseStyle)}
    known["name"] = str
    for name, one in rules.items():
        if name not in known:
            raise FormatError(f"there is no rule “{name}”.")
        wanted = (int, float) if known[name] in (int, float) else (known[name],)
        if not isinstance(one, wanted) or (isinstance(one, bool) and known[name] is not bool):
            raise FormatError(f"“{name}” cannot be {one!r}.")
        if isinstance(one, int | float) and known[name] in (int, float):
            if known[name] is int and one != int(one):
                raise FormatError(f"“{name}” must be a whole number, not {one!r}.")
            if not _LEAST.get(name, 0) <= one < 1e9:
                raise FormatError(f"“{name}” cannot be {one!r}.")
    if not rules.get("name"):
        raise FormatError("it has no name.")
    style = HouseStyle(**{name: known[name](one) for name, one in rules.items()})
    if style.names not in _NAMES:
        raise FormatError(f"“names” must be one of {', '.join(_NAMES)}.")
    if style.min_ms > style.max_ms:
        raise FormatError("“min_ms” is longer than “max_ms”.")
    return style
