"""What is said in all episodes of a series, as an SQLite index (FTS5) that follows what changes."""

from __future__ import annotations

import hashlib
import json
import re
import sqlite3
import zlib
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path

from dubrel.base.errors import DubrelError, ProjectError
from dubrel.base.files import private_folder
from dubrel.base.folders import cache_root
from dubrel.edits.speakers.voices import shown_name
from dubrel.edits.translation.track import translated_tracks
from dubrel.jobs.series.standing import Standing, standing_in
from dubrel.model import Project
from dubrel.project.captiontext import shown_captions
from dubrel.project.sentences import sentences_of
from dubrel.store.projectfile import read_project

_VERSION = 1
_PAGE = 512  # sentences that are packed together
_WAIT_S = 5.0
_SPARE = 0.2  # of the file: more room than that is given back
_UNSPACED = re.compile(
    "([\u0e00-\u0eff\u1000-\u109f\u1780-\u17ff\u3040-\u30ff\u3400-\u4dbf\u4e00-\u9fff\uf900-\ufaff])"
)
_TABLES = """
CREATE TABLE episode (
    id INTEGER PRIMARY KEY, path TEXT UNIQUE, changed INTEGER, size INTEGER, standing TEXT, problem TEXT
);
CREATE TABLE page (id INTEGER PRIMARY KEY, episode INTEGER, body BLOB);
CREATE INDEX page_of ON page (episode);
CREATE VIRTUAL TABLE words USING fts5 (
    text, content='', columnsize=0, tokenize='unicode61 remove_diacritics 2'
);
"""


Row = tuple[int, str, int, str, str]
"""A key, language, when it starts, who says it, what is said."""


@dataclass(frozen=True)
class EpisodeRow:
    """An episode as the index knows it.

    Attributes
    ----------
    path : str
    standing : Standing or None
        Nothing where it cannot be read.
    problem : str
        Why not.
    """

    path: str
    standing: Standing | None
    problem: str


@dataclass(frozen=True)
class Said:
    """A sentence, or a caption of a translation, that was found.

    Attributes
    ----------
    path : str
        Of the episode.
    start_ms : int
    speaker, language, text : str
    """

    path: str
    start_ms: int
    speaker: str
    language: str
    text: str


class SeriesIndex:
    """The index of a series; made again where it is damaged, for all in it can be.

    Parameters
    ----------
    series : Path
        The file of the series.

    Raises
    ------
    DubrelError
        If it cannot be opened.
    """

    def __init__(self, series: Path) -> None:
        name = hashlib.sha256(str(series.resolve()).encode("utf-8", "surrogateescape")).hexdigest()[:24]
        for folder in (cache_root(), cache_root() / "series"):
            private_folder(folder)
        self._file = cache_root() / "series" / f"{name}.sqlite"
        try:
            self._open()
        except sqlite3.OperationalError as error:
            raise DubrelError(
                f"The index of “{series.name}” is in use elsewhere. Try again later."
            ) from error

    def _open(self) -> None:
        try:
            self._base = self._connected()
        except sqlite3.DatabaseError as error:
            if isinstance(error, sqlite3.OperationalError):
                raise
            self._file.unlink(missing_ok=True)
            self._base = self._connected()

    def _connected(self) -> sqlite3.Connection:
        base = sqlite3.connect(self._file, timeout=_WAIT_S)
        [(version,)] = base.execute("PRAGMA user_version")
        [(whole,)] = base.execute("PRAGMA quick_check(1)")
        if whole != "ok":
            base.close()
            raise sqlite3.DatabaseError(whole)
        if version != _VERSION:
            for (name,) in list(
                base.execute("SELECT name FROM sqlite_master WHERE name IN ('episode', 'page', 'words')")
            ):
                base.execute(f"DROP TABLE {name}")
            base.executescript(_TABLES)
            base.execute(f"PRAGMA user_version = {_VERSION}")
            base.commit()
        return base

    def close(self) -> None:
        """Let the file go."""
        self._base.close()

    # -- brought up to date ------------------------------------------------------------------

    def update(self, paths: Sequence[Path], languages: Sequence[str] = ()) -> Iterator[float]:
        """Read what changed since the last time; yields how far it is, 0 to 1.

        Parameters
        ----------
        paths : sequence of Path
            Of all episodes; what is no longer among them is forgotten.
        languages : sequence of str
            Those into which every episode is to be translated.
        """
        there = {str(path) for path in paths}
        for episode, path in list(self._base.execute("SELECT id, path FROM episode")):
            if path not in there:
                self._forget(episode)
        for nth, path in enumerate(paths):
            with self._base:
                self._take(path, languages)
            yield (nth + 1) / len(paths)
        [(free,)] = self._base.execute("PRAGMA freelist_count")
        [(whole,)] = self._base.execute("PRAGMA page_count")
        if free > _SPARE * whole:
            self._base.execute("VACUUM")

    def _forget(self, episode: int) -> None:
        with self._base:
            self._say(episode, set())
            self._base.execute("DELETE FROM episode WHERE id = ?", (episode,))

    def _take(self, path: Path, languages: Sequence[str]) -> None:
        try:
            found = path.stat()
            stamp = (found.st_mtime_ns, found.st_size)
        except OSError:
            stamp = (0, 0)
        key = json.dumps(list(languages))
        row = self._base.execute(
            "SELECT id, changed, size, problem FROM episode WHERE path = ?", (str(path),)
        ).fetchone()
        if row is not None and row[1:3] == (stamp[0] ^ _number_of(key), stamp[1]) and stamp != (0, 0):
            return
        project, problem = _read(path)
        standing = json.dumps(asdict(standing_in(project, languages))) if project is not None else ""
        self._base.execute(
            "INSERT INTO episode (path, changed, size, standing, problem) VALUES (?, ?, ?, ?, ?)"
            " ON CONFLICT (path) DO UPDATE SET changed = excluded.changed, size = excluded.size,"
            " standing = excluded.standing, problem = excluded.problem",
            (str(path), stamp[0] ^ _number_of(key), stamp[1], standing, problem),
        )
        [(episode,)] = self._base.execute("SELECT id FROM episode WHERE path = ?", (str(path),))
        self._say(episode, set(_rows(project)) if project is not None else set())

    def _say(self, episode: int, now: set[Row]) -> None:
        """Exchange what is another; pages in which all is the same are not touched."""
        pages = {
            number: _unpacked(body)
            for number, body in self._base.execute("SELECT id, body FROM page WHERE episode = ?", (episode,))
        }
        before = {row for rows in pages.values() for row in rows if row is not None}
        new = sorted(now - before, key=lambda row: row[2], reverse=True)
        for number, rows in pages.items():
            if all(row is None or row in now for row in rows):
                continue
            for place, row in enumerate(rows):
                if row is not None and row not in now:
                    self._forget_words(number * _PAGE + place, row)
                    rows[place] = None
                if rows[place] is None and new:
                    rows[place] = self._words_of(number * _PAGE + place, new.pop())
            if any(row is not None for row in rows):
                self._base.execute("UPDATE page SET body = ? WHERE id = ?", (_packed(rows), number))
            else:
                self._base.execute("DELETE FROM page WHERE id = ?", (number,))
        while new:
            number = self._base.execute("INSERT INTO page (episode) VALUES (?)", (episode,)).lastrowid or 0
            some = [new.pop() for _ in range(min(_PAGE, len(new)))]
            rows = [self._words_of(number * _PAGE + place, row) for place, row in enumerate(some)]
            self._base.execute("UPDATE page SET body = ? WHERE id = ?", (_packed(rows), number))

    def _words_of(self, number: int, row: Row) -> Row | None:
        self._base.execute("INSERT INTO words (rowid, text) VALUES (?, ?)", (number, spaced(row[4])))
        return row

    def _forget_words(self, number: int, row: Row) -> None:
        self._base.execute(
            "INSERT INTO words (words, rowid, text) VALUES ('delete', ?, ?)", (number, spaced(row[4]))
        )

    # -- asked ---------------------------------------------------------------------------------

    def episodes(self) -> list[EpisodeRow]:
        """How each episode stands."""
        rows = self._base.execute("SELECT path, standing, problem FROM episode ORDER BY id")
        return [EpisodeRow(path, _standing(text) if text else None, problem) for path, text, problem in rows]

    def find(self, text: str, *, speaker: str = "", language: str = "", most: int = 100) -> list[Said]:
        """Where something is said, as it is written, capitals and accents aside, in order.

        Parameters
        ----------
        text : str
            Words that follow each other; the last may be a beginning.
        speaker, language : str, optional
            By whom, and in which language (BCP 47 tag).
        """
        words = re.findall(r"\w+", spaced(text))
        if not words:
            return []
        phrase = '"' + " ".join(words) + '"' + ("*" if not text.endswith(" ") else "")
        order = {episode: nth for nth, (episode,) in enumerate(self._base.execute("SELECT id FROM episode"))}
        paths = dict(self._base.execute("SELECT id, path FROM episode"))
        found = list[tuple[int, Said]]()
        page, rows, episode = -1, list[Row | None](), 0
        for (number,) in self._base.execute(
            "SELECT rowid FROM words WHERE words MATCH ? ORDER BY rowid", (phrase,)
        ):
            if number // _PAGE != page:
                page = number // _PAGE
                [(episode, body)] = self._base.execute("SELECT episode, body FROM page WHERE id = ?", (page,))
                rows = _unpacked(body)
            row = rows[number % _PAGE]
            if row is None or (speaker and row[3].casefold() != speaker.casefold()):
                continue
            if language and row[1] != language:
                continue
            found.append((order[episode], Said(paths[episode], row[2], row[3], row[1], row[4])))
            if len(found) == most:
                break
        return [one for _, one in sorted(found, key=lambda pair: (pair[0], pair[1].start_ms))]


def _number_of(text: str) -> int:
    """A number that a text always has."""
    return int.from_bytes(hashlib.sha256(text.encode()).digest()[:6])


def spaced(text: str) -> str:
    """A text with spaces between the signs of scripts that write none between words."""
    return _UNSPACED.sub(r" \1 ", text)


def _read(path: Path) -> tuple[Project | None, str]:
    """The project of an episode; why there is none."""
    if path.suffix.lower() != ".dubrel":
        there = path.is_file()
        return (
            None,
            "" if there else f"“{path.name}” is not there. Put it there again, or take it off the list.",
        )
    try:
        return read_project(path).project, ""
    except ProjectError as error:
        return None, str(error)


def _standing(text: str) -> Standing:
    value = json.loads(text)
    lists = {name: tuple(value[name]) for name in ("todo", "speakers", "terms", "languages")}
    return Standing(**{**value, **lists})


def _rows(project: Project) -> Iterator[Row]:
    """Sentences, and captions of translations: a key, language, start, who, what."""
    language = project.transcript.language
    names = {one.id: shown_name(project, one.id) for one in project.transcript.speakers}
    for one in sentences_of(project):
        yield one.words[0], language, one.start_ms, names.get(one.speaker or "", ""), one.text
    for track in translated_tracks(project):
        for caption, text in shown_captions(project, track):
            yield caption.id, track.language, caption.start_ms, "", " ".join(text.lines)


def _packed(rows: Sequence[Row | None]) -> bytes:
    return zlib.compress(json.dumps(rows, ensure_ascii=False, separators=(",", ":")).encode(), 9)


def _unpacked(body: bytes) -> list[Row | None]:
    return [
        None if row is None else (row[0], row[1], row[2], row[3], row[4])
        for row in json.loads(zlib.decompress(body))
    ]
