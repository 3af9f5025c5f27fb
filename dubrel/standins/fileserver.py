"""A stand-in for a server of recordings: a folder on the loopback, with feeds, pages and faults.

Run it with ``python -m dubrel.standins.fileserver``; it prints its address. Faults are switched on with
``POST /faults``, see :mod:`dubrel.standins.service`; besides those: ``break`` (the line breaks in the
middle), ``short`` (says more than it sends), ``whole`` (ignores where it should begin).
``/to/ADDRESS`` points on to another address.
"""

from __future__ import annotations

import hashlib
import re
import time
from pathlib import Path
from urllib.parse import unquote

from dubrel.standins.service import FaultyHandler, FaultyServer, serve

_PIECE = 1 << 16
_TYPES = {".rss": "application/rss+xml", ".html": "text/html; charset=utf-8", ".mp4": "video/mp4"}
_ODD = ("break", "short", "whole")


class StandIn(FaultyServer):
    """The server; ``sent`` has the first byte of every answer with a file in it."""

    def __init__(self, port: int = 0, folder: Path | None = None) -> None:
        super().__init__(port, _Handler)
        self.folder = folder or Path()
        self.sent: list[tuple[str, int]] = []
        self.seen: list[dict[str, str]] = []
        self.digests = False
        self.pause_s = 0.0
        self.odd = "none"


class _Handler(FaultyHandler):
    def do_POST(self) -> None:
        """A fault."""
        self.set_fault_from(self.body())

    def do_GET(self) -> None:
        """A file, or the part of it that is asked for."""
        self.server.odd = "none"
        self.server.seen.append(dict(self.headers))
        if self.path.startswith("/to/"):
            self.send_response(302)
            self.send_header("Location", unquote(self.path[4:]))
            self.send_header("Content-Length", "0")
            self.end_headers()
        elif not self.went_wrong():
            self._send_file()

    def _send_file(self) -> None:
        path = self.server.folder / unquote(self.path.lstrip("/").partition("?")[0])
        if not path.is_file():
            self.send(404, b"nothing here")
            return
        size, odd = path.stat().st_size, self.server.odd if self.server.odd in _ODD else ""
        tag = f'"{size}-{path.stat().st_mtime_ns}"'
        asked = re.fullmatch(r"bytes=(\d+)-", self.headers.get("Range", ""))
        same = self.headers.get("If-Range", tag) == tag
        first = int(asked[1]) if asked and same and odd != "whole" else 0
        if first >= size > 0:
            self.send(416, b"")
            return
        self.server.sent.append((path.name, first))
        self.send_response(206 if first else 200)
        self.send_header("Content-Type", _TYPES.get(path.suffix, "audio/mpeg"))
        said = size - first + (5000 if odd == "short" else 0)
        self.send_header("Content-Length", str(said))
        self.send_header("ETag", tag)
        if first:
            self.send_header("Content-Range", f"bytes {first}-{size - 1}/{size}")
        if self.server.digests:
            import base64

            value = base64.b64encode(hashlib.sha256(path.read_bytes()).digest()).decode()
            self.send_header("Repr-Digest", f"sha-256=:{value}:")
        self.end_headers()
        self._pieces(path, first, first + (size - first) // 2 if odd == "break" else size)
        self.close_connection = bool(odd) or self.close_connection

    def _pieces(self, path: Path, first: int, until: int) -> None:
        with path.open("rb") as file:
            file.seek(first)
            while first < until and (piece := file.read(min(_PIECE, until - first))):
                self.wfile.write(piece)
                first += len(piece)
                time.sleep(self.server.pause_s)


if __name__ == "__main__":
    serve(StandIn, __doc__, 8768)
