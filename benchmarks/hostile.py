"""Wrong projects opened in the real window: every room shown, words typed, undone, saved, opened again.

Prints how many of them were read, and how many ended in anything but a sentence.
The readers have ``tools/fuzz.py``.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "tools"))


def main() -> None:
    """Open three hundred."""
    for name in ("CACHE", "CONFIG", "DATA", "STATE"):
        os.environ[f"XDG_{name}_HOME"] = tempfile.mkdtemp(prefix="dubrel-hostile-")
    import fuzz
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.passes import make_rooms
    from dubrel.desk.shell.frame.window import MainWindow
    from dubrel.desk.shell.kit.theme import DAY, load_fonts
    from dubrel.store.projectfile import read_project

    app = QApplication([])
    load_fonts()
    window = MainWindow(DAY, make_rooms)
    window.ask.unsaved = lambda title: "discard"
    window.ask.yes = lambda question, go="": True
    window.show()
    said: list[str] = []
    window.desk.said.connect(said.append)
    errors: list[object] = []
    sys.excepthook = lambda *error: errors.append(error)
    folder, opened, longest = Path(tempfile.mkdtemp()), 0, 0.0
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 300
    for nth, data in enumerate(fuzz.wrong(fuzz.demo_value(), count, seed=5)):
        path = folder / f"{nth}.dubrel"
        path.write_bytes(data)
        began = time.monotonic()
        if window.filing.open_path(path):
            opened += 1
            for room in window.rooms:
                window.show_room(room)
                window.grab()
            window.show_room("wording")
            QTest.keyClicks(window.rooms["wording"].sheet, "x ")  # type: ignore[attr-defined]
            app.processEvents()
            window.commands.run("undo")
            window.session.save(folder / "saved.dubrel")
            if read_project(folder / "saved.dubrel").fixed:
                errors.append(f"{path}: does not read back as sound")
        longest = max(longest, time.monotonic() - began)
    wrong = [one for one in said if "went wrong" in one]
    print(
        f"{count} wrong projects: {opened} read, {count - opened} refused in a sentence, longest"
        f" {longest:.1f} s"
    )
    print(f"uncaught: {len(errors)}, sentences about a step not taken: {len(wrong)}")
    window.desk.stop()
    os._exit(bool(errors or wrong))


if __name__ == "__main__":
    main()
