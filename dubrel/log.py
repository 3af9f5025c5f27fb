"""The log file: it keeps what no user should have to read."""

from __future__ import annotations

import logging
import os
from logging.handlers import RotatingFileHandler
from pathlib import Path

from platformdirs import user_log_dir


def log_path() -> Path:
    """Where the log is; ``DUBREL_LOG`` names another file."""
    return Path(os.environ.get("DUBREL_LOG") or Path(user_log_dir("dubrel")) / "dubrel.log")


def set_up_log() -> None:
    """Log warnings and worse to the log file; without one where it cannot be written."""
    try:
        log_path().parent.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = RotatingFileHandler(
            log_path(), maxBytes=1 << 20, backupCount=2, delay=True
        )
    except OSError:
        handler = logging.NullHandler()
    form = "%(asctime)s %(levelname)s %(name)s %(message)s"
    logging.basicConfig(handlers=[handler], level=logging.WARNING, format=form)
