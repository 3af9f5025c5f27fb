"""Every time the interface stands still for longer than 50 ms while it is used, with the stack that held it.

    .venv/bin/python benchmarks/stalls.py [--words 30000] [--stacks]

A thread looks at the beat of the event loop of a real window with a long project
and two translations, while each thing that a user does is done once or more.
The baseline is the gap that 50 ms allow; the ratio is that of the longest.
"""

from __future__ import annotations

import argparse
import faulthandler
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator

from common import open_window, report
from setting import talk

ALLOWED_MS = 50.0


class Watcher:
    """Looks, from a thread, for how long the event loop does not come round."""

    def __init__(self) -> None:
        from PySide6.QtCore import QTimer

        self.beat, self.gaps = time.perf_counter(), list[tuple[float, str]]()
        self._main, self._running = threading.get_ident(), True
        self._timer = QTimer(interval=2)
        self._timer.timeout.connect(self._on_beat)
        self._timer.start()
        self._stack, self._file = "", tempfile.TemporaryFile("w+")  # noqa: SIM115
        self._thread = threading.Thread(target=self._watch, daemon=True)
        self._thread.start()

    def _on_beat(self) -> None:
        now = time.perf_counter()
        gap = (now - self.beat) * 1000
        if gap > ALLOWED_MS:
            self.gaps.append((gap, self._stack))
        self._stack, self.beat = "", now

    def _watch(self) -> None:
        while self._running:
            time.sleep(0.005)
            if not self._stack and (time.perf_counter() - self.beat) * 1000 > ALLOWED_MS * 0.8:
                self._stack = self._stack_of_main()

    def _stack_of_main(self) -> str:
        """Where the main thread is; a frame held here would let what stands in it end in this thread."""
        self._file.seek(0)
        self._file.truncate()
        faulthandler.dump_traceback(self._file, all_threads=True)
        self._file.seek(0)
        parts = self._file.read().split("\n\n")
        found = next((one for one in parts if f"{self._main:016x}" in one), "")
        return "\n".join(found.splitlines()[1:10])

    def take(self) -> list[tuple[float, str]]:
        """The gaps so far, and forget them."""
        found, self.gaps = self.gaps, []
        return found

    def stop(self) -> None:
        """Look no more."""
        self._running = False
        self._timer.stop()


def long_project(words: int):  # type: ignore[no-untyped-def]
    """A captioned project with two translations."""
    from dubrel.edits.captions.resetting import set_again
    from dubrel.edits.translation.placing import with_translations
    from dubrel.edits.translation.track import begin_track
    from dubrel.translation.choosing import missing_tasks

    project = set_again(talk(words), None)
    for language in ("pt", "es"):
        project, track_id = begin_track(project, language)
        tasks = missing_tasks(project, project.track(track_id))
        made = [task.made(" ".join(word[::-1] for word in task.text.split())) for task in tasks]
        project = with_translations(project, track_id, made)
    return project


def tasks(window, path) -> Iterator[tuple[str, Callable[[], object]]]:  # type: ignore[no-untyped-def]
    """What a user does, one thing after the other."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    from dubrel.desk.sheet.spots import Spot

    sheet = window.rooms["wording"].sheet
    room = window.rooms["translation"]

    def type_at(turn: int) -> None:
        window.show_room("wording")
        sheet.move_caret(Spot(turn, 0))
        for nth in range(24):
            QTest.keyClicks(sheet, "ab "[nth % 3])
            QTest.qWait(15)

    def commands(name: str, times: int = 1) -> None:
        for _ in range(times):
            window.commands.run(name)
            QTest.qWait(30)

    def replaced() -> None:
        from dubrel.finding.words import Query, find, replaced

        project = window.session.project
        found = find(project, Query("the", whole=True), "a")[:1000]
        window.session.step(lambda value: replaced(value, found), "Replace")

    yield "open", lambda: window.filing.open_path(path)
    for name in ("intake", "voices", "wording", "cut", "captions", "translation", "release"):
        yield f"first visit to {name}", lambda name=name: window.show_room(name)
    for name in ("wording", "captions", "release"):
        yield f"visit to {name}", lambda name=name: window.show_room(name)
    yield "typing at the start", lambda: type_at(0)
    yield "typing in the middle", lambda: type_at(len(sheet.turns) // 2)
    yield "page down", lambda: [QTest.keyClick(sheet, Qt.Key.Key_PageDown) for _ in range(10)]
    yield "whole recording on the strip", lambda: commands("zoom_all")
    yield "replace 1,000 places", replaced
    yield "undo that", lambda: commands("undo")
    yield "redo that", lambda: commands("redo")
    yield "translation again", lambda: window.show_room("translation")
    clips = window.rooms["cut"].clips

    def find_clips() -> None:
        from PySide6.QtCore import QEventLoop, QTimer

        commands("clips")
        for _ in range(200):
            loop = QEventLoop()
            QTimer.singleShot(200, loop.quit)
            loop.exec()
            if clips.page.list.rows and not clips.finding.busy:
                break

    yield "find clips", find_clips
    yield "go through clips", lambda: [QTest.keyClick(clips.page.list, Qt.Key.Key_Down) for _ in range(10)]
    yield "make a clip", lambda: commands("make_clip")
    yield "trim it", lambda: commands("clip_end_later", 5)
    yield "back to the cut", lambda: commands("clips")
    yield "open a track", lambda: room.show_track(window.session.project.tracks[1].id)
    yield "approve ten", lambda: commands("approve_next", 10)
    yield "twenty undone", lambda: commands("undo", 20)
    yield "another theme", lambda: commands("theme")
    yield "save", lambda: commands("save")


def watched(window, path, longest: dict[str, float], stacks: bool) -> None:  # type: ignore[no-untyped-def]
    """Do each thing, and note the longest gap."""
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    watcher = Watcher()
    for name, act in tasks(window, path):
        watcher.take()
        act()
        QTest.qWait(700)
        gaps = watcher.take()
        longest[name] = max((gap for gap, _ in gaps), default=0.0)
        if stacks:
            for gap, stack in gaps:
                print(f"--- {name}: {gap:.0f} ms\n{stack}", file=sys.stderr)
    watcher.stop()
    QApplication.exit()


def main() -> None:
    """Do each thing, and say for how long the interface stood still."""
    from pathlib import Path

    from PySide6.QtCore import QTimer
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.shell.core.background import load_early
    from dubrel.desk.shell.kit.theme import load_fonts
    from dubrel.store.projectfile import save

    parser = argparse.ArgumentParser()
    parser.add_argument("--words", type=int, default=30_000)
    parser.add_argument("--stacks", action="store_true", help="print where it stood")
    args = parser.parse_args()
    app = QApplication([])
    sys.setswitchinterval(0.0005)  # as the application does
    load_fonts()
    window = open_window()
    path = Path(tempfile.mkdtemp()) / "long.dubrel"
    save(long_project(args.words), path)
    load_early()
    window.prepare()
    QTest.qWait(7000)  # as long as one looks at the window first
    longest = dict[str, float]()
    QTimer.singleShot(0, lambda: watched(window, path, longest, args.stacks))
    app.exec()  # what is made ahead waits for loops within this one
    worst = max(longest.values())
    report(
        "stalls",
        ratio=worst / ALLOWED_MS,
        limit=1.0 if args.words <= 30_000 else 2.0,
        words=args.words,
        longest_ms={name: round(gap) for name, gap in longest.items()},
    )
    window.session._saved = window.session.project
    window.close()


if __name__ == "__main__":
    main()
