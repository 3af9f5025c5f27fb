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
_LOOKED_AT_MS = 7000  # as long as one looks at the window first


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


Steps = Iterator[int]  # what is done, with milliseconds to wait in between


def tasks(window, path) -> Iterator[tuple[str, Callable[[], Steps]]]:  # type: ignore[no-untyped-def]
    """What a user does, one thing after the other."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    from dubrel.desk.sheet.spots import Spot

    sheet = window.rooms["wording"].sheet
    room = window.rooms["translation"]

    def once(act: Callable[[], object]) -> Callable[[], Steps]:
        def steps() -> Steps:
            act()
            yield 0

        return steps

    def keys(where: Callable[[], object], pressed: list, ms: int) -> Callable[[], Steps]:  # type: ignore[type-arg]
        def steps() -> Steps:
            for one in pressed:
                (QTest.keyClicks if isinstance(one, str) else QTest.keyClick)(where(), one)
                yield ms

        return steps

    def type_at(turn: Callable[[], int]) -> Callable[[], Steps]:
        def steps() -> Steps:
            window.show_room("wording")
            sheet.move_caret(Spot(turn(), 0))
            yield from keys(lambda: sheet, ["a", "b", " "] * 8, 15)()

        return steps

    def commands(name: str, times: int = 1) -> Callable[[], Steps]:
        def steps() -> Steps:
            for _ in range(times):
                window.commands.run(name)
                yield 30

        return steps

    def replaced() -> None:
        from dubrel.finding.words import Query, find, replaced

        project = window.session.project
        found = find(project, Query("the", whole=True), "a")[:1000]
        window.session.step(lambda value: replaced(value, found), "Replace")

    clips = window.rooms["cut"].clips

    def find_clips() -> Steps:
        window.commands.run("clips")
        for _ in range(200):
            yield 200
            if clips.page.list.rows and not clips.finding.busy:
                break

    yield "open", once(lambda: window.filing.open_path(path))
    for name in ("intake", "voices", "wording", "cut", "captions", "translation", "release"):
        yield f"first visit to {name}", once(lambda name=name: window.show_room(name))
    for name in ("wording", "captions", "release"):
        yield f"visit to {name}", once(lambda name=name: window.show_room(name))
    yield "typing at the start", type_at(lambda: 0)
    yield "typing in the middle", type_at(lambda: len(sheet.turns) // 2)
    yield "page down", keys(lambda: sheet, [Qt.Key.Key_PageDown] * 10, 15)
    yield "whole recording on the strip", commands("zoom_all")
    yield "replace 1,000 places", once(replaced)
    yield "undo that", commands("undo")
    yield "redo that", commands("redo")
    yield "translation again", once(lambda: window.show_room("translation"))
    yield "find clips", find_clips
    yield "go through clips", keys(lambda: clips.page.list, [Qt.Key.Key_Down] * 10, 15)
    yield "make a clip", commands("make_clip")
    yield "trim it", commands("clip_end_later", 5)
    yield "back to the cut", commands("clips")
    yield "open a track", once(lambda: room.show_track(window.session.project.tracks[1].id))
    yield "approve ten", commands("approve_next", 10)
    yield "twenty undone", commands("undo", 20)
    yield "another theme", commands("theme")
    yield "save", commands("save")


def watched(window, path, longest: dict[str, float], stacks: bool) -> Steps:  # type: ignore[no-untyped-def]
    """Do each thing, and note the longest gap."""
    yield _LOOKED_AT_MS
    watcher = Watcher()
    for name, act in tasks(window, path):
        watcher.take()
        yield from act()
        yield 700
        gaps = watcher.take()
        longest[name] = max((gap for gap, _ in gaps), default=0.0)
        if stacks:
            for gap, stack in gaps:
                print(f"--- {name}: {gap:.0f} ms\n{stack}", file=sys.stderr)
    watcher.stop()


def drive(steps: Steps) -> None:
    """Do one step after the other in the application's own loop.

    Another loop would be taken for a dialog that is waited for, and ``QTest.qWait`` lets no thread run.
    """
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    wait_ms = next(steps, None)
    if wait_ms is None:
        QApplication.exit()
    else:
        QTimer.singleShot(wait_ms, lambda: drive(steps))


def main() -> None:
    """Do each thing, and say for how long the interface stood still."""
    from pathlib import Path

    from PySide6.QtCore import QTimer
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
    window.prepare(load_early())
    longest = dict[str, float]()
    QTimer.singleShot(0, lambda: drive(watched(window, path, longest, args.stacks)))
    app.exec()
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
