"""What is kept for the user between two starts: small private JSON files.

A damaged one is put aside under another name and said once; nothing is thrown away.
"""

from __future__ import annotations

import contextlib
import json
import logging
from collections.abc import Callable
from pathlib import Path
from typing import Any, Generic, TypeVar

from dubrel.base.catalogue import told, tr
from dubrel.base.files import cause_of, private_folder, write_text
from dubrel.base.folders import data_folder
from dubrel.base.jsontext import parse_json
from dubrel.base.value import Value

T = TypeVar("T")
_log = logging.getLogger(__name__)


class Kept(Value, Generic[T]):
    """A value that is kept in a file of its own.

    Attributes
    ----------
    name : str
        Of the file.
    what : str
        What the file holds, for the sentence about a damaged one ("The queue").
    understand : callable
        Makes the value of what stands in the file; raises ``ValueError``, ``KeyError``,
        ``TypeError``, ``AttributeError``, ``IndexError`` or ``OverflowError`` where it is not in the form.
    plain : callable
        Makes of the value what can stand in a JSON file.
    empty : callable
        Makes the value where there is no file, or a damaged one.
    folder : callable
        Where the file lies.
    """

    name: str
    what: str
    understand: Callable[[Any], T]
    plain: Callable[[T], Any]
    empty: Callable[[], T]
    folder: Callable[[], Path] = data_folder

    @property
    def path(self) -> Path:
        """Where the file is, or would be."""
        return self.folder() / self.name

    def read(self) -> T:
        """What is kept."""
        try:
            return self.understand(parse_json(self.path.read_bytes()))
        except FileNotFoundError:
            pass
        except OSError as error:
            said = tr("{what} cannot be read from “{path}”: {why}. Check the file.")
            _log.warning(said.format(what=told(self.what), path=self.path, why=cause_of(error)))
        except (ValueError, KeyError, TypeError, AttributeError, IndexError, OverflowError):
            _log.info("damaged: %s", self.path, exc_info=True)
            put_aside(self.path, self.what)
        return self.empty()

    def write(self, value: T) -> None:
        """Keep a value; the folder is made if need be.

        Raises
        ------
        DubrelError
            If it cannot be written.
        """
        with contextlib.suppress(OSError):  # said by writing, with the file's name
            private_folder(self.path.parent)
        write_text(self.path, json.dumps(self.plain(value), indent=1), private=True)


def put_aside(path: Path, what: str) -> None:
    """Rename a damaged file, and say so."""
    number, free = 2, path.with_name(f"{path.stem} damaged{path.suffix}")
    while free.exists():
        free, number = path.with_name(f"{path.stem} damaged {number}{path.suffix}"), number + 1
    try:
        path.rename(free)
        said = tr("{what} could not be read and was started afresh. The damaged file is kept as “{path}”.")
        _log.warning(said.format(what=told(what), path=free))
    except OSError:
        said = tr("{what} could not be read from “{path}”. Look at the file, or delete it.")
        _log.warning(said.format(what=told(what), path=path))


class DamageSaid(logging.Handler):
    """Shows each sentence about a damaged file once, as soon as it is found.

    Parameters
    ----------
    say : callable
        Called in whichever thread reads the file.
    """

    def __init__(self, say: Callable[[str], object]) -> None:
        super().__init__(logging.WARNING)
        self._say, self._said = say, set[str]()
        _log.addHandler(self)

    def emit(self, record: logging.LogRecord) -> None:
        """Show what a record says."""
        said = record.getMessage()
        if said not in self._said:
            self._said.add(said)
            self._say(said)

    def close(self) -> None:
        """Show nothing any more."""
        _log.removeHandler(self)
        super().close()
