"""What the stand-ins of services share: real HTTP on the loopback, and faults that can be switched on.

``POST /faults`` with ``{"kind": KIND, "times": N}`` lets the next N requests go
wrong, while it runs.
"""

from __future__ import annotations

import argparse
import json
import threading
import time
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

_SLOW_S = 1.5
STAYING = ("none", "never")
"""Faults that no request uses up."""


class FaultyServer(ThreadingHTTPServer):
    """A service on the loopback; ``address`` is where it listens."""

    daemon_threads = True

    def __init__(self, port: int, handler: type[BaseHTTPRequestHandler]) -> None:
        super().__init__(("127.0.0.1", port), handler)
        self.fault, self.fault_times = "none", 0
        self.guard = threading.Lock()

    @property
    def address(self) -> str:
        """The address for ``remote:ADDRESS``."""
        return f"http://127.0.0.1:{self.server_address[1]}"

    def set_fault(self, kind: str, times: int = 1) -> None:
        """Let the next requests go wrong."""
        with self.guard:
            self.fault, self.fault_times = kind, times

    def next_fault(self) -> str:
        """The fault of this request."""
        with self.guard:
            if self.fault in STAYING:
                return "none"
            self.fault_times -= 1
            found = self.fault
            if self.fault_times <= 0:
                self.fault = "none"
            return found

    def handle_error(self, request: Any, client_address: Any) -> None:
        """A client that goes away is nothing to speak of."""


class FaultyHandler(BaseHTTPRequestHandler):
    """Answers in JSON, or goes wrong as it was told to."""

    server: Any
    protocol_version = "HTTP/1.1"

    def log_message(self, format: str, *args: Any) -> None:
        """A stand-in says nothing."""

    def body(self) -> bytes:
        """What was sent."""
        return self.rfile.read(int(self.headers.get("Content-Length", 0)))

    def set_fault_from(self, body: bytes) -> None:
        """Switch a fault on."""
        wanted = json.loads(body)
        self.server.set_fault(wanted["kind"], wanted.get("times", 1))
        self.answer({})

    def went_wrong(self) -> bool:
        """Go wrong if that is due; whether an answer was given already."""
        fault = self.server.next_fault()
        if fault == "slow":
            time.sleep(_SLOW_S)
        elif fault == "error":
            self.answer({"error": "something broke"}, 500)
        elif fault == "quota":
            self.answer({"error": "used up"}, 402)
        elif fault == "garbage":
            self.send(200, b"<html>\x00 not what was asked for")
        elif fault == "drop":
            self.send_response(200)
            self.send_header("Content-Length", "500")
            self.end_headers()
            self.wfile.write(b'{"sta')
            self.close_connection = True
        else:
            self.server.odd = fault
            return False
        return fault != "slow"

    def answer(self, value: dict[str, Any], status: int = 200) -> None:
        """Answer in JSON."""
        self.send(status, json.dumps(value).encode())

    def send(self, status: int, data: bytes) -> None:
        """Answer."""
        self.send_response(status)
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)


def serve(made: Callable[[int], FaultyServer], about: str | None, port: int) -> None:
    """Run a stand-in until it is stopped; it prints its address."""
    parser = argparse.ArgumentParser(description=about)
    parser.add_argument("--port", type=int, default=port)
    server = made(parser.parse_args().port)
    print(f"remote:{server.address}", flush=True)
    try:
        server.serve_forever()
    except KeyboardInterrupt:
        server.server_close()
