"""What is kept for the user between two starts: small private JSON files.

A damaged one is put aside under another name and said once; nothing is thrown away.
"""

from __future__ import annotations

import contextlib
import json
import logging
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from dubrel.base.files import private_folder, write_text
from dubrel.base.jsontext import parse_json

T = TypeVar("T")
_unsaid: list[str] = []


def keep_json(path: Path, value: Any) -> None:
    """Keep plain values in a file of the user's own, whose folder is made if need be.

    Raises
    ------
    DubrelError
        If it cannot be written.
    """
    with contextlib.suppress(OSError):  # said by writing, with the file's name
        private_folder(path.parent)
    write_text(path, json.dumps(value, indent=1), private=True)


def kept_json(path: Path, understand: Callable[[Any], T], what: str) -> T | None:
    """What is kept in a file; ``None`` where there is none or it is damaged.

    Parameters
    ----------
    path : Path
    understand : callable
        Makes what is meant of the plain values; raises ``ValueError``, ``KeyError``,
        ``TypeError``, ``AttributeError``, ``IndexError`` or ``OverflowError`` where they are not in the form.
    what : str
        What the file holds, for the sentence about a damaged one ("The queue").
    """
    try:
        return understand(parse_json(path.read_bytes()))
    except FileNotFoundError:
        return None
    except OSError as error:
        _unsaid.append(f"{what} cannot be read from “{path}”: {error.strerror}. Check the file.")
    except (ValueError, KeyError, TypeError, AttributeError, IndexError, OverflowError):
        logging.warning("damaged: %s", path, exc_info=True)
        put_aside(path, what)
    return None


def put_aside(path: Path, what: str) -> None:
    """Rename a damaged file, and say so once."""
    number, free = 2, path.with_name(f"{path.stem} damaged{path.suffix}")
    while free.exists():
        free, number = path.with_name(f"{path.stem} damaged {number}{path.suffix}"), number + 1
    try:
        path.rename(free)
        _unsaid.append(f"{what} could not be read and began anew. The damaged file is kept as “{free}”.")
    except OSError:
        _unsaid.append(f"{what} could not be read from “{path}”. Look at the file, or delete it.")


def unsaid() -> list[str]:
    """What is to be said about damaged files, each once."""
    found = list(dict.fromkeys(_unsaid))
    _unsaid.clear()
    return found
