"""Where things of the user lie: the one place that asks, by the rules of the desktop (XDG)."""

from __future__ import annotations

import os
from pathlib import Path

_NAME = "dubrel"


def data_folder() -> Path:
    """What the user keeps: styles, terms, voices, kits, the queue, the memory."""
    from platformdirs import user_data_dir  # late: the window asks for few of these at its start

    return Path(user_data_dir(_NAME))


def config_folder() -> Path:
    """Settings and keys of commands."""
    from platformdirs import user_config_dir  # late: as above

    return Path(user_config_dir(_NAME))


def state_folder() -> Path:
    """Journals, locks, and what is being written."""
    from platformdirs import user_state_dir  # late: as above

    return Path(user_state_dir(_NAME))


def cache_root() -> Path:
    """What can be made again; ``DUBREL_CACHE`` names another folder."""
    from platformdirs import user_cache_dir  # late: as above

    return Path(os.environ.get("DUBREL_CACHE") or user_cache_dir(_NAME))


def log_file() -> Path:
    """The log; ``DUBREL_LOG`` names another file."""
    from platformdirs import user_log_dir  # late: as above

    return Path(os.environ.get("DUBREL_LOG") or Path(user_log_dir(_NAME)) / "dubrel.log")
