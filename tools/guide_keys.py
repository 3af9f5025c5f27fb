"""Write the table of all commands and their keys: ``.venv/bin/python tools/guide_keys.py``."""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

GUIDE = Path(__file__).parent.parent / "docs" / "guide" / "keys.md"
HEAD = """# All keys

Made from the commands by `tools/guide_keys.py`. Ctrl+K finds any of them by name; F2 there changes its keys.
"""


def page(groups) -> str:
    """The page: a table for each group of the menu, commands with keys first."""
    parts = [HEAD]
    for group in groups:
        rows = sorted(group.commands, key=lambda one: not one.keys)
        lines = [f"| {one.text} | {one.keys.replace('|', chr(92) + '|')} |" for one in rows]
        parts.append("\n".join([f"## {group.name}", "", "| command | keys |", "|---|---|", *lines, ""]))
    return "\n".join(parts)


def main() -> None:
    """Make a window, and write what its commands are."""
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.passes import make_rooms
    from dubrel.desk.shell.theme import DAY, load_fonts
    from dubrel.desk.shell.window import MainWindow

    app = QApplication([])
    load_fonts()
    window = MainWindow(DAY, make_rooms)
    GUIDE.write_text(page(window.commands.groups))
    sys.stdout.flush()
    del app
    os._exit(0)


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    for name in ("DATA", "CONFIG", "STATE"):  # no keys of one's own
        os.environ[f"XDG_{name}_HOME"] = tempfile.mkdtemp()
    main()
