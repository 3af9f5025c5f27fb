"""Looks of captions as JSON files (``dubrel_look``), to be kept and shared."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.files import cause_of, write_text
from dubrel.base.jsontext import parse_json
from dubrel.base.value import asdict
from dubrel.model import Look
from dubrel.store.values import Values

VERSION = 1
_LONGEST = 120


def look_to_json(name: str, look: Look) -> dict[str, Any]:
    """A look as plain values."""
    return {"dubrel_look": VERSION, "name": name, **asdict(look)}


def look_from_json(value: Any) -> tuple[str, Look]:
    """A look of plain values, with its name; what is left out is as usual.

    Raises
    ------
    FormatError
        If it is not a look, or says something that no look can.
    """
    if not isinstance(value, dict) or value.get("dubrel_look") != VERSION:
        raise FormatError(tr("This is not a look of captions. Choose a file that says “dubrel_look”: 1."))
    name = value.get("name")
    if not isinstance(name, str) or not name.strip():
        raise FormatError(tr("The look has no name. Give it one in the file, as “name”."))
    rest = {key: one for key, one in value.items() if key not in ("dubrel_look", "name")}
    values = Values({}, keeps=False)
    look = values.look(rest)
    if any(values.wrong.values()):
        raise FormatError(
            tr("The look “{name}” has a value that no look can have. Check its values.").format(
                name=name[:_LONGEST]
            )
        )
    return " ".join(name.split())[:_LONGEST], look


def read_look(path: Path) -> tuple[str, Look]:
    """A look of a file, with its name.

    Raises
    ------
    FormatError
        If it cannot be read, or is not a look.
    """
    try:
        return look_from_json(parse_json(path.read_bytes()))
    except OSError as error:
        raise FormatError(
            tr("“{path}” cannot be read: {strerror}. Choose another file.").format(
                path=path, strerror=cause_of(error)
            )
        ) from error
    except FormatError as error:
        raise FormatError(f"“{path.name}”: {error}") from error


def write_look(name: str, look: Look, path: Path) -> None:
    """Write a look to be shared."""
    write_text(path, json.dumps(look_to_json(name, look), ensure_ascii=False, indent=2) + "\n")
