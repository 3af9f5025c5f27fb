"""Menu entry, file types, AppStream data and icons, as all packages put them under ``share``."""

from __future__ import annotations

import shutil
import sys
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from dubrel.desktopentry import files, icons_in  # noqa: E402


def write_desktop(share: Path, binary: str = "/usr/bin/dubrel") -> None:
    """Write them; the entry starts the program by its name, the bus by where it is."""
    for path, text in files(share).items():
        path.parent.mkdir(parents=True, exist_ok=True)
        start = f"Exec={binary}" if path.suffix == ".service" else "Exec=dubrel %F"
        lines = [start if line.startswith("Exec=") else line for line in text.splitlines()]
        path.write_text("\n".join(lines) + "\n")
    for path, source in icons_in(share).items():
        path.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(source, path)
