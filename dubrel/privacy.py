"""What a library stored about this machine before it was kept from reporting."""

from __future__ import annotations

import os
import shutil
from pathlib import Path


def reporting_folder() -> Path:
    """Where onnxruntime keeps a device id and its unsent reports."""
    cache = os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache"
    return Path(cache) / "Microsoft" / "DeveloperTools" / ".onnxruntime"


def forget_reports() -> None:
    """Delete the device id and the reports, and the folders that held nothing else."""
    folder = reporting_folder()
    shutil.rmtree(folder, ignore_errors=True)
    for parent in list(folder.parents)[:2]:
        try:
            parent.rmdir()
        except OSError:  # not there, or something else is in it
            return
