"""The user's own house styles: a small file each in the user's data folder."""

from __future__ import annotations

import json
import logging
import re
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import write_atomically
from dubrel.base.folders import data_folder
from dubrel.captions.styles import STYLES, read_style, style_to_json
from dubrel.model import HouseStyle


def styles_folder() -> Path:
    """Where they are kept."""
    return data_folder() / "styles"


def own_styles() -> dict[str, HouseStyle]:
    """The user's own house styles by name; a file that cannot be read is passed over and logged."""
    found = {}
    folder = styles_folder()
    for path in sorted(folder.glob("*.json")) if folder.is_dir() else []:
        try:
            style = read_style(path)
        except DubrelError as error:
            logging.getLogger(__name__).warning("%s", error)
            continue
        found[style.name] = style
    return found


def all_styles() -> dict[str, HouseStyle]:
    """The styles that ship, and the user's own; these first."""
    return own_styles() | STYLES


def keep_style(style: HouseStyle) -> Path:
    """Keep a style as one of the user's own.

    Raises
    ------
    DubrelError
        If it has the name of one that ships, or cannot be written.
    """
    if style.name in STYLES:
        raise DubrelError(
            tr("“{name}” is a style that ships with Dubrel. Give yours another name.").format(name=style.name)
        )
    path = _path_of(style.name)
    path.parent.mkdir(parents=True, exist_ok=True)
    write_style(style, path)
    return path


def forget_style(name: str) -> None:
    """Take one of the user's own styles away; tracks that use it keep their copy."""
    _path_of(name).unlink(missing_ok=True)


def write_style(style: HouseStyle, path: Path) -> None:
    """Write a house style as a JSON file."""
    text = json.dumps(style_to_json(style), ensure_ascii=False, indent=2) + "\n"
    write_atomically(path, lambda file: file.write(text.encode()))


def _path_of(name: str) -> Path:
    """The file of a style: the one that holds it now, or a new one named after it."""
    folder = styles_folder()
    for path in folder.glob("*.json") if folder.is_dir() else []:
        try:
            if read_style(path).name == name:
                return path
        except DubrelError:
            continue
    stem = re.sub(r"[^\w\- ]+", "", name).strip()[:80] or "style"
    path, nth = folder / f"{stem}.json", 2
    while path.exists():
        path, nth = folder / f"{stem} {nth}.json", nth + 1
    return path
