"""The log file: it keeps what no user should have to read."""

from __future__ import annotations

import logging
import os
import sys

from dubrel.base.files import private_folder
from dubrel.base.folders import log_file

_MOST = 1 << 20


def set_up_log() -> None:
    """Log warnings and worse to the log file; without one where it cannot be written."""
    try:
        private_folder(log_file().parent)
        if log_file().is_file() and log_file().stat().st_size > _MOST:
            log_file().replace(log_file().with_suffix(".old.log"))
        handler: logging.Handler = logging.FileHandler(log_file(), delay=True)
    except OSError:
        handler = logging.NullHandler()
    form = "%(asctime)s %(levelname)s %(name)s %(message)s"
    logging.basicConfig(handlers=[handler], level=logging.WARNING, format=form)


def quiet_libraries() -> None:
    """Let what libraries print by themselves go to the log; what we say still goes to the terminal.

    Media libraries write straight to the standard error of the process, past
    everything that Python could catch.
    """
    try:
        private_folder(log_file().parent)
        log = os.open(log_file(), os.O_WRONLY | os.O_CREAT | os.O_APPEND | os.O_CLOEXEC, 0o600)
        terminal = os.dup(2)
    except OSError:
        return
    sys.stderr = os.fdopen(terminal, "w", buffering=1, encoding="utf-8", errors="backslashreplace")
    os.dup2(log, 2)
    os.close(log)
