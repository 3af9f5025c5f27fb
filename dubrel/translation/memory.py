"""The translation memory: what a person approved, offered where the same or nearly the same is said.

A small SQLite file in the user's data folder; TMX goes in and out.
"""

from __future__ import annotations

import contextlib
import os
import sqlite3
import threading
import time
from collections.abc import Iterable
from difflib import SequenceMatcher
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import private_folder
from dubrel.base.folders import data_folder
from dubrel.base.languages import main_tag
from dubrel.base.text import tidied
from dubrel.base.value import Value
from dubrel.user.kept import put_aside

_TABLE = """create table if not exists sentences (
    source_language text not null, target_language text not null, source text not null, target text not null,
    project text not null default '', changed real not null default 0,
    primary key (source_language, target_language, source)
) without rowid"""
LEAST = 70
"""Percent from which on a sentence is offered."""
_MOST = 5


class Match(Value):
    """A sentence of the memory that is like another one.

    Attributes
    ----------
    percent : int
        How alike both are; 100 for the same.
    source, target : str
    project : str
        In which it was approved; empty for one that came from a file.
    """

    percent: int
    source: str
    target: str
    project: str = ""


class Memory:
    """Sentences and their translations by language.

    Parameters
    ----------
    path : Path or None
        ``None`` for one that is forgotten with the object.

    Raises
    ------
    DubrelError
        If it cannot be opened.
    """

    def __init__(self, path: Path | None = None) -> None:
        self._path = path
        self._lock = threading.Lock()  # threads ask, and one closes it while another reads
        self._lists: dict[tuple[str, str], list[tuple[str, str, str]]] = {}
        if path is not None:
            private_folder(path.parent)
            _close_to_others(path)
        try:
            self._base = self._opened()
        except sqlite3.DatabaseError as error:
            if path is None or isinstance(error, sqlite3.OperationalError):
                raise self._unusable(error) from error
            put_aside(path, tr("The translation memory"))
            self._base = self._opened()

    def _opened(self) -> sqlite3.Connection:
        base = sqlite3.connect(str(self._path or ":memory:"), timeout=5, check_same_thread=False)
        try:
            base.execute(_TABLE)
            base.execute("select count(*) from (select 1 from sentences limit 1)")
        except sqlite3.Error:
            base.close()
            raise
        return base

    def _unusable(self, error: sqlite3.Error) -> DubrelError:
        return DubrelError(
            tr("The translation memory “{path}” cannot be used: {error}. Check the file.").format(
                path=self._path, error=error
            )
        )

    def __len__(self) -> int:
        return int(self._read("select count(*) from sentences")[0][0])

    def _read(self, query: str, values: Iterable[str] = ()) -> list:
        try:
            with self._lock:
                return self._base.execute(query, tuple(values)).fetchall()
        except sqlite3.Error as error:
            raise self._unusable(error) from error

    def add(self, rows: Iterable[tuple[str, str]], source: str, target: str, project: str = "") -> int:
        """Take sentences in; the latest translation of a sentence counts. How many were new or others.

        Raises
        ------
        DubrelError
            If they cannot be written.
        """
        now, pair = time.time(), (main_tag(source), main_tag(target))
        wanted = [(*pair, _plain(one), _plain(other), project, now) for one, other in rows]
        wanted = [row for row in wanted if row[2] and row[3]]
        try:
            with self._lock, self._base:
                before = self._base.total_changes
                self._base.executemany(
                    "insert into sentences values (?, ?, ?, ?, ?, ?) on conflict do update set "
                    "target = excluded.target, project = excluded.project, changed = excluded.changed "
                    "where target != excluded.target",
                    wanted,
                )
                fresh = self._base.total_changes - before
                self._lists.pop(pair, None)
        except sqlite3.Error as error:
            raise self._unusable(error) from error
        return fresh

    def forget(self, sentence: str, source: str, target: str) -> None:
        """Take a sentence out.

        Raises
        ------
        DubrelError
            If that cannot be written.
        """
        try:
            with self._lock, self._base:
                self._base.execute(
                    "delete from sentences where source_language = ? and target_language = ? and source = ?",
                    (main_tag(source), main_tag(target), _plain(sentence)),
                )
                self._lists.pop((main_tag(source), main_tag(target)), None)
        except sqlite3.Error as error:
            raise self._unusable(error) from error

    def exact(self, sentence: str, source: str, target: str) -> str:
        """The translation of exactly this sentence; empty where there is none."""
        rows = self._read(
            "select target from sentences where source_language = ? and target_language = ? and source = ?",
            (main_tag(source), main_tag(target), _plain(sentence)),
        )
        return str(rows[0][0]) if rows else ""

    def find(self, sentence: str, source: str, target: str, most: int = _MOST) -> list[Match]:
        """What is the same or alike, the most alike first.

        Notes
        -----
        Alike is by the normalised insertion and deletion distance of the letters.
        """
        from rapidfuzz import fuzz, process  # late: only here

        rows = self.rows(source, target)
        wanted = _plain(sentence)
        near = process.extract(
            wanted, [row[0] for row in rows], scorer=fuzz.ratio, score_cutoff=LEAST, limit=most
        )
        found = []
        for text, score, place in near:
            percent = 100 if text == wanted else min(99, int(score))
            found.append(Match(percent, *rows[place]))
        return sorted(found, key=lambda one: -one.percent)

    def rows(self, source: str, target: str) -> list[tuple[str, str, str]]:
        """All sentences of two languages: the sentence, its translation, the project."""
        pair = (main_tag(source), main_tag(target))
        with self._lock:  # what is read is kept before anything else is written
            if pair not in self._lists:
                self._lists[pair] = self._base.execute(
                    "select source, target, project from sentences "
                    "where source_language = ? and target_language = ?",
                    pair,
                ).fetchall()
            return self._lists[pair]

    def pairs(self) -> list[tuple[str, str, int]]:
        """Which languages it knows, and how many sentences of each."""
        return [
            (str(one), str(other), int(count))
            for one, other, count in self._read(
                "select source_language, target_language, count(*) from sentences group by 1, 2 order by 3"
                " desc"
            )
        ]

    def close(self) -> None:
        """Let go of the file."""
        with self._lock:
            self._base.close()


def _close_to_others(path: Path) -> None:
    """Only the user may read the file: it is made so, and one of before becomes so."""
    with contextlib.suppress(OSError):  # a full disk says so itself
        os.close(os.open(path, os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, 0o600))
        path.chmod(0o600)


def memory_path() -> Path:
    """Where the user's memory is kept."""
    return data_folder() / "memory.sqlite"


def _plain(text: str) -> str:
    return tidied(text)


def marked(one: str, other: str) -> list[tuple[str, str]]:
    """The words of the second text, each run with ``=`` where the first has it too and ``+`` where not.

    Words that only the first has stand with ``-``.

    Examples
    --------
    >>> marked("the red boat", "the blue boat")
    [('=', 'the'), ('-', 'red'), ('+', 'blue'), ('=', 'boat')]
    """
    ours, theirs = one.split(), other.split()
    found: list[tuple[str, str]] = []
    for kind, a, b, c, d in SequenceMatcher(None, ours, theirs, autojunk=False).get_opcodes():
        if kind == "equal":
            found.append(("=", " ".join(theirs[c:d])))
        else:
            found += [("-", " ".join(ours[a:b]))] * (b > a) + [("+", " ".join(theirs[c:d]))] * (d > c)
    return found


def of_units(units: Iterable[object], source: str, target: str) -> list[tuple[str, str]]:
    """Sentences of a TMX file in two languages, whatever their regions.

    See :func:`dubrel.formats.words.tmx.read_tmx`.
    """
    found = []
    for unit in units:
        by_base = {main_tag(tag): text for tag, text in unit.items()}  # type: ignore[attr-defined]
        if main_tag(source) in by_base and main_tag(target) in by_base:
            found.append((by_base[main_tag(source)], by_base[main_tag(target)]))
    return found
