"""What is said in all episodes of a series, as an SQLite index (FTS5) that follows what changes."""

from __future__ import annotations

import hashlib
import json
import re
import sqlite3
import zlib
from collections.abc import Iterable, Iterator, Sequence
from itertools import islice
from pathlib import Path

from dubrel.base.catalogue import Message, tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import private_folder
from dubrel.base.folders import cache_root
from dubrel.base.value import Value, asdict
from dubrel.edits.speakers.voices import shown_name
from dubrel.edits.translation.track import translated_tracks
from dubrel.jobs.series.episodefile import read_episode, recording_of, trace_of_recording
from dubrel.jobs.series.standing import Standing, standing_in
from dubrel.model import Project
from dubrel.project.captiontext import shown_captions
from dubrel.project.sentences import sentences_of

_VERSION = 5
_PAGE = 512  # sentences that are packed together
_WAIT_S = 5.0
_MOST_PAGES = 64  # that are unpacked at a time
SIGNATURE = 16  # bytes
_SPARE = 0.2  # of the file: more room than that is given back
_UNSPACED = re.compile(
    "([\u0e00-\u0eff\u1000-\u109f\u1780-\u17ff\u3040-\u30ff\u3400-\u4dbf\u4e00-\u9fff\uf900-\ufaff])"
)
_TABLES = """
CREATE TABLE episode (
    id INTEGER PRIMARY KEY, path TEXT UNIQUE, changed INTEGER, size INTEGER, standing TEXT, problem TEXT,
    recording TEXT, trace BLOB
);
CREATE TABLE page (id INTEGER PRIMARY KEY, episode INTEGER, body BLOB);
CREATE INDEX page_of ON page (episode);
CREATE TABLE meaning (page INTEGER PRIMARY KEY, body BLOB);
CREATE VIRTUAL TABLE words USING fts5 (
    text, content='', columnsize=0, tokenize='unicode61 remove_diacritics 2'
);
"""


Row = tuple[int, str, int, str, str]
"""A key, language, when it starts, who says it, what is said."""


class Wanted(Value):
    """Whose sentences are wanted.

    Attributes
    ----------
    speaker, language : str
        By whom, and in which language (BCP 47 tag); empty for any.
    """

    speaker: str = ""
    language: str = ""

    def takes(self, row: Row) -> bool:
        """Whether a sentence is one of them."""
        if self.speaker and row[3].casefold() != self.speaker.casefold():
            return False
        return not self.language or row[1] == self.language


ANYBODY = Wanted()


class EpisodeRow(Value):
    """An episode as the index knows it.

    Attributes
    ----------
    path : str
    standing : Standing or None
        Nothing where it cannot be read.
    problem : str
        Why not.
    recording : str
        Where its recording is; empty where it is not found.
    trace : bytes
        How loud it is over time, 0 to 100 each; empty where it has not been read.
    """

    path: str
    standing: Standing | None
    problem: str
    recording: str = ""
    trace: bytes = b""


class Said(Value):
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
        self.file = cache_root() / "series" / f"{name}.sqlite"
        self._known: dict[str, tuple[tuple[str, str, str, str, bytes], EpisodeRow]] = {}  # as they were read
        try:
            self._open()
        except sqlite3.OperationalError as error:
            raise DubrelError(
                tr("The index of “{name}” is in use elsewhere. Try again later.").format(name=series.name)
            ) from error

    def _open(self) -> None:
        try:
            self._base = self._connected()
        except sqlite3.DatabaseError as error:
            if isinstance(error, sqlite3.OperationalError):
                raise
            for end in ("", "-wal", "-shm"):
                Path(f"{self.file}{end}").unlink(missing_ok=True)
            self._base = self._connected()
        self._inode = self.file.stat().st_ino

    def _connected(self) -> sqlite3.Connection:
        base = sqlite3.connect(self.file, timeout=_WAIT_S)
        base.execute("PRAGMA journal_mode = WAL")  # what is asked need not wait for what is read in
        [(version,)] = base.execute("PRAGMA user_version")
        [(whole,)] = base.execute("PRAGMA quick_check(1)")
        if whole != "ok":
            base.close()
            raise sqlite3.DatabaseError(whole)
        if version != _VERSION:
            asked = "SELECT name FROM sqlite_master WHERE name IN ('episode', 'page', 'words', 'meaning')"
            for (name,) in list(base.execute(asked)):
                base.execute(f"DROP TABLE {name}")
            base.executescript(_TABLES)
            base.execute(f"PRAGMA user_version = {_VERSION}")
            base.commit()
        return base

    @property
    def stands(self) -> bool:
        """Whether the file is still the one that was opened: another window may have made it again."""
        try:
            return self.file.stat().st_ino == self._inode
        except OSError:
            return False

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

        Raises
        ------
        DubrelError
            If another program keeps the index to itself, or it cannot be written.
        """
        try:
            yield from self._updated(paths, languages)
        except sqlite3.OperationalError as error:
            raise DubrelError(
                tr("The index of the series cannot be written: {error}. Try again later.").format(error=error)
            ) from error

    def _updated(self, paths: Sequence[Path], languages: Sequence[str]) -> Iterator[float]:
        there = {str(path) for path in paths}
        for episode, path in list(self._base.execute("SELECT id, path FROM episode")):
            if path not in there:
                self._forget(episode)
        for nth, path in enumerate(paths):
            self._take(path, languages)
            yield (nth + 1) / len(paths)
        [(free,)] = self._base.execute("PRAGMA freelist_count")
        [(whole,)] = self._base.execute("PRAGMA page_count")
        if free > _SPARE * whole:
            self._base.execute("VACUUM")

    def _forget(self, episode: int) -> None:
        with self._base:
            self._base.execute("BEGIN IMMEDIATE")
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
            self._look_for_trace(row[0], path)
            return
        project, problem = read_episode(path)
        standing = _json(standing_in(project, languages)) if project is not None else ""
        recording = recording_of(project, path)
        trace = trace_of_recording(recording)
        values = (stamp[0] ^ _number_of(key), stamp[1], standing, problem, str(recording or ""), trace)
        with self._base:
            self._base.execute("BEGIN IMMEDIATE")
            self._base.execute("INSERT OR IGNORE INTO episode (path) VALUES (?)", (str(path),))
            self._base.execute(
                "UPDATE episode SET (changed, size, standing, problem, recording, trace) = (?, ?, ?, ?, ?, ?)"
                " WHERE path = ?",
                (*values, str(path)),
            )
            [(episode,)] = self._base.execute("SELECT id FROM episode WHERE path = ?", (str(path),))
            self._say(episode, set(_rows(project)) if project is not None else set())

    def _look_for_trace(self, episode: int, path: Path) -> None:
        """Its recording may have been read since."""
        [(recording, trace)] = self._base.execute(
            "SELECT recording, trace FROM episode WHERE id = ?", (episode,)
        )
        if not trace and recording and (found := trace_of_recording(Path(recording))):
            with self._base:
                self._base.execute("UPDATE episode SET trace = ? WHERE id = ?", (found, episode))

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
            others = list[int]()
            for place, row in enumerate(rows):
                if row is None or row not in now:
                    others.append(place)
                if row is not None and row not in now:
                    self._forget_words(number * _PAGE + place, row)
                    rows[place] = None
                if rows[place] is None and new:
                    rows[place] = self._words_of(number * _PAGE + place, new.pop())
            if any(row is not None for row in rows):
                self._base.execute("UPDATE page SET body = ? WHERE id = ?", (_packed(rows), number))
                self._forget_meaning(number, others)
            else:
                self._base.execute("DELETE FROM page WHERE id = ?", (number,))
                self._base.execute("DELETE FROM meaning WHERE page = ?", (number,))
        while new:
            number = self._base.execute("INSERT INTO page (episode) VALUES (?)", (episode,)).lastrowid or 0
            some = [new.pop() for _ in range(min(_PAGE, len(new)))]
            rows = [self._words_of(number * _PAGE + place, row) for place, row in enumerate(some)]
            self._base.execute("UPDATE page SET body = ? WHERE id = ?", (_packed(rows), number))

    def _forget_meaning(self, number: int, places: Sequence[int]) -> None:
        """Of sentences that are others now what they mean is not known."""
        found = self._base.execute("SELECT body FROM meaning WHERE page = ?", (number,)).fetchone()
        if found is not None:
            body = bytearray(found[0])
            for place in places:
                body[place * SIGNATURE : (place + 1) * SIGNATURE] = bytes(SIGNATURE)
            self._base.execute("UPDATE meaning SET body = ? WHERE page = ?", (bytes(body), number))

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
        asked = "SELECT path, standing, problem, recording, trace FROM episode ORDER BY id"
        found, known = list[EpisodeRow](), self._known
        self._known = {}
        for row in self._base.execute(asked):
            kept = known.get(row[0])
            if kept is None or kept[0] != row:
                kept = (row, EpisodeRow(row[0], _standing(row[1]) if row[1] else None, *row[2:]))
            self._known[row[0]] = kept
            found.append(kept[1])
        return found

    def find(self, text: str, wanted: Wanted = ANYBODY, most: int = 100) -> list[Said]:
        """Where something is said, as it is written, capitals and accents aside, in order.

        Parameters
        ----------
        text : str
            Words that follow each other; the last may be a beginning.
        wanted : Wanted, optional
            By whom, and in which language.
        """
        words = re.findall(r"\w+", spaced(text))
        if not words:
            return []
        phrase = '"' + " ".join(words) + '"'
        whole = list(islice(self.matching(phrase), most + 1))
        if len(whole) < most and not text.endswith(" "):  # what only begins so, if there is room for it
            whole += [one for one in islice(self.matching(f"{phrase}*"), 2 * most) if one not in whole]
        elif len(whole) > most:
            return self.in_order(self.matching(phrase), wanted, most)
        return self.in_order(sorted(whole), wanted, most)

    def matching(self, phrase: str) -> Iterator[int]:
        """The numbers of sentences that an expression of FTS5 matches."""
        asked = self._base.execute("SELECT rowid FROM words WHERE words MATCH ? ORDER BY rowid", (phrase,))
        return (number for (number,) in asked)

    def in_order(self, numbers: Iterable[int], wanted: Wanted, most: int) -> list[Said]:
        """Sentences by their numbers, by episode and time; no more than ``most`` of those that are wanted."""
        order = {episode: nth for nth, (episode,) in enumerate(self._base.execute("SELECT id FROM episode"))}
        found = list(islice(self.sentences(numbers, wanted), most))
        return [one for _, one in sorted(found, key=lambda pair: (order[pair[0]], pair[1].start_ms))]

    def sentences(self, numbers: Iterable[int], wanted: Wanted = ANYBODY) -> Iterator[tuple[int, Said]]:
        """Of some numbers the episode and the sentence, where it is wanted."""
        paths = dict(self._base.execute("SELECT id, path FROM episode"))
        pages: dict[int, tuple[int, list[bytes]]] = {}
        for number in numbers:
            page, place = divmod(number, _PAGE)
            if page not in pages:
                if len(pages) >= _MOST_PAGES:
                    pages.pop(next(iter(pages)))
                [(episode, body)] = self._base.execute("SELECT episode, body FROM page WHERE id = ?", (page,))
                pages[page] = episode, _lines(body)
            episode, rows = pages[page]
            row = _row(rows[place])
            if row is not None and wanted.takes(row):
                yield episode, Said(paths[episode], row[2], row[3], row[1], row[4])

    def vocabulary(self) -> list[str]:
        """Every word that is said, as it is indexed."""
        self._base.execute(
            "CREATE VIRTUAL TABLE IF NOT EXISTS temp.vocabulary USING fts5vocab (main, words, row)"
        )
        return [word for (word,) in self._base.execute("SELECT term FROM temp.vocabulary")]

    # -- what sentences mean ----------------------------------------------------------------

    def version(self) -> tuple[int, int]:
        """Another one where the index may have changed."""
        [(other,)] = self._base.execute("PRAGMA data_version")
        return other, self._base.total_changes

    def without_meaning(self) -> list[int]:
        """The pages in which what some sentences mean is not known."""
        asked = self._base.execute(
            "SELECT page.id, meaning.body FROM page LEFT JOIN meaning ON meaning.page = page.id"
        )
        return [page for page, body in asked if body is None or b"\0" * SIGNATURE in _cells(body)]

    def first_of(self, page: int) -> int:
        """The number of the first sentence of a page."""
        return page * _PAGE

    def texts_of(self, page: int) -> list[str]:
        """The sentences of a page; empty where there is none."""
        [(body,)] = self._base.execute("SELECT body FROM page WHERE id = ?", (page,))
        return [row[4] if row is not None else "" for row in _unpacked(body)]

    def meaning_of(self, page: int) -> bytes:
        """What is known of a page."""
        found = self._base.execute("SELECT body FROM meaning WHERE page = ?", (page,)).fetchone()
        return found[0] if found is not None else b""

    def keep_meaning(self, page: int, body: bytes) -> None:
        """Keep what the sentences of a page mean, as signatures."""
        with self._base:
            self._base.execute("INSERT OR REPLACE INTO meaning (page, body) VALUES (?, ?)", (page, body))

    def meanings(self) -> list[tuple[int, bytes]]:
        """Pages and what is known of them."""
        return list(self._base.execute("SELECT page, body FROM meaning ORDER BY page"))


def _number_of(text: str) -> int:
    """A number that a text always has."""
    return int.from_bytes(hashlib.sha256(text.encode()).digest()[:6])


def spaced(text: str) -> str:
    """A text with spaces between the signs of scripts that write none between words."""
    return _UNSPACED.sub(r" \1 ", text)


def _cells(body: bytes) -> set[bytes]:
    return {body[at : at + SIGNATURE] for at in range(0, len(body), SIGNATURE)}


def _json(standing: Standing) -> str:
    todo = [one.parts() if isinstance(one, Message) else one for one in standing.todo]
    return json.dumps({**asdict(standing), "todo": todo})


def _standing(text: str) -> Standing:
    value = json.loads(text)
    lists = {name: tuple(value[name]) for name in ("todo", "speakers", "terms", "languages", "styles")}
    lists["todo"] = tuple(map(Message.of_parts, lists["todo"]))
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
    """Rows as lines of JSON: one can be read without the others."""
    lines = (
        "" if row is None else json.dumps(row, ensure_ascii=False, separators=(",", ":")) for row in rows
    )
    return zlib.compress("\n".join(lines).encode(), 9)


def _lines(body: bytes) -> list[bytes]:
    return zlib.decompress(body).split(b"\n")


def _row(line: bytes) -> Row | None:
    if not line:
        return None
    key, language, start, who, text = json.loads(line)
    return key, language, start, who, text


def _unpacked(body: bytes) -> list[Row | None]:
    return [_row(line) for line in _lines(body)]
