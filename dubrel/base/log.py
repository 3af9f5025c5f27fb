"""The log file: it keeps what no user should have to read."""

from __future__ import annotations

import logging
import os
import sys
from pathlib import Path

from platformdirs import user_log_dir

from dubrel.base.files import private_folder

_MOST = 1 << 20


def log_path() -> Path:
    """Where the log is; ``DUBREL_LOG`` names another file."""
    return Path(os.environ.get("DUBREL_LOG") or Path(user_log_dir("dubrel")) / "dubrel.log")


def set_up_log() -> None:
    """Log warnings and worse to the log file; without one where it cannot be written."""
    try:
        private_folder(log_path().parent)
        if log_path().is_file() and log_path().stat().st_size > _MOST:
            log_path().replace(log_path().with_suffix(".old.log"))
        handler: logging.Handler = logging.FileHandler(log_path(), delay=True)
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
        private_folder(log_path().parent)
        log = os.open(log_path(), os.O_WRONLY | os.O_CREAT | os.O_APPEND | os.O_CLOEXEC, 0o600)
        terminal = os.dup(2)
    except OSError:
        return
    sys.stderr = os.fdopen(terminal, "w", buffering=1, encoding="utf-8", errors="backslashreplace")
    os.dup2(log, 2)
    os.close(log)
