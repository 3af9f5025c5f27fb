"""What was found out about translations, kept in the cache: it is found out once for each pair of texts."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Sequence
from hashlib import blake2b
from pathlib import Path

from dubrel.base.files import private_folder
from dubrel.base.folders import cache_root
from dubrel.model import Weighed

_TABLE = (
    "create table if not exists weighed (key blob primary key, meaning real, back text not null) without"
    " rowid"
)
_PIECE = 500


def known_path() -> Path:
    """Where it is kept."""
    return cache_root() / "translations" / "known.sqlite"


def recalled(pairs: Sequence[tuple[str, str]], languages: tuple[str, str]) -> list[Weighed]:
    """What is known of originals and their translations; nothing where the cache cannot be read."""
    if not known_path().is_file():
        return []
    keys = {_key(pair, languages): pair for pair in pairs}
    found = []
    try:
        base = sqlite3.connect(f"file:{known_path()}?mode=ro", uri=True, timeout=1)
        try:
            order = list(keys)
            for at in range(0, len(order), _PIECE):
                some = order[at : at + _PIECE]
                marks = ",".join("?" * len(some))
                rows = base.execute(f"select key, meaning, back from weighed where key in ({marks})", some)
                found += [Weighed(*keys[bytes(key)], meaning, str(back)) for key, meaning, back in rows]
        finally:
            base.close()
    except sqlite3.Error:
        return []
    return found


def remember(found: Iterable[Weighed], languages: tuple[str, str]) -> None:
    """Keep what was found out; a cache that cannot be written is done without."""
    rows = [(_key((one.source, one.target), languages), one.meaning, one.back) for one in found]
    try:
        private_folder(known_path().parent)
        base = sqlite3.connect(known_path(), timeout=2)
        try:
            with base:
                base.execute(_TABLE)
                base.executemany("insert or replace into weighed values (?, ?, ?)", rows)
        finally:
            base.close()
    except (sqlite3.Error, OSError):
        return


def _key(pair: tuple[str, str], languages: tuple[str, str]) -> bytes:
    text = "\0".join((*languages, *pair))
    return blake2b(text.encode("utf-8", "surrogatepass"), digest_size=16).digest()
