"""A scripted session killed at random moments: what is lost, and whether every file opens.

Edits, words that arrive as from a running transcription, saving; killed by
SIGKILL or SIGTERM. Each value writes what the project says into a pipe; what is
recovered must be no older than one second.

    python benchmarks/killed.py [200]
"""

from __future__ import annotations

import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).parent.parent

SESSION = """
import os, sys, time, random, hashlib
sys.path[:0] = ["tests", "benchmarks"]
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
from pathlib import Path
from PySide6.QtWidgets import QApplication
from PySide6.QtTest import QTest
from common import wait
from conftest import spoken
from dubrel.desk.passes import make_rooms
from dubrel.desk.shell.kit.theme import DAY, load_fonts
from dubrel.desk.shell.frame.window import MainWindow
from dubrel.desk.sheet.spots import Spot
from dubrel.jobs.machinery.events import Recognised
from dubrel.jobs.machinery.fold import arrival
from dubrel.store.journal import Journal
app = QApplication([])
load_fonts()
window = MainWindow(DAY, make_rooms)
window.show()
path, chance = Path(sys.argv[1]), random.Random(int(sys.argv[2]))
window.filing.open_path(path)
window.show_room("wording")
sheet = window.rooms["wording"].sheet
def tell(project):
    text = " ".join(word.text for turn in project.transcript.turns for word in turn.words)
    print(time.time(), hashlib.sha256(text.encode()).hexdigest(), flush=True)
offer = Journal.offer
def told(journal, project):  # before it can be written: no state is recovered that was not told
    tell(project)
    offer(journal, project)
Journal.offer = told
tell(window.session.project)
while True:
    luck = chance.random()
    if luck < 0.7:
        turn = chance.randrange(len(sheet.turns))
        sheet.move_caret(Spot(turn, 0))
        QTest.keyClicks(sheet, chance.choice(("so ", "x ", "well, ")))
    elif luck < 0.85:
        last = max(word.end_ms for turn in window.session.project.transcript.turns for word in turn.words)
        event = Recognised(tuple(spoken("And some more. Then others.", start=last + 3000)))
        window.session.amend(arrival(event, window.session.project.next_id))
    elif luck < 0.92:
        window.commands.run("undo")
    else:
        window.session.save(path)
    app.processEvents()
    wait(chance.choice((5, 30, 80)))
"""


def said(project) -> str:  # type: ignore[no-untyped-def]
    """What a project says, as the session tells it."""
    import hashlib

    text = " ".join(word.text for turn in project.transcript.turns for word in turn.words)
    return hashlib.sha256(text.encode()).hexdigest()


def killed_once(nth: int, seed: int) -> float:
    """Run a session, kill it, recover; how many seconds of work were lost."""
    from dubrel.store.projectfile import open_project
    from dubrel.store.recovery import discard, leftovers

    chance, path = random.Random(seed * 1000 + nth), Path(tempfile.mkdtemp()) / "p.dubrel"
    path.write_bytes((ROOT / "demo" / "heron-film.dubrel").read_bytes())
    session = subprocess.Popen(
        [sys.executable, "-c", SESSION, str(path), str(nth)],
        cwd=ROOT,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    assert session.stdout is not None
    lines = [session.stdout.readline()]
    time.sleep(chance.uniform(0.0, 3.0))
    killed = time.time()
    session.send_signal(chance.choice((signal.SIGKILL, signal.SIGTERM)))
    lines += session.stdout.read().splitlines()
    session.wait()
    steps = [(float(one.split()[0]), one.split()[1]) for one in lines if len(one.split()) == 2]
    found = leftovers()
    present = said(found[0].project if found else open_project(path))
    open_project(path)
    for one in found:
        discard(one.folder)
    held = [at for at, text in steps if text == present]
    assert held, "what was recovered is not a state that there was"
    newer = [at for at, _ in steps if at > max(held)]
    return killed - min(newer) if newer else 0.0


def main() -> None:
    """Kill as often as wished."""
    os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp(prefix="dubrel-killed-")
    os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp(prefix="dubrel-killed-")
    times = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    lost = [killed_once(nth, 1) for nth in range(times)]
    figures = {
        "kills": times,
        "worst_lost_s": round(max(lost), 3),
        "over_a_second": sum(one > 1 for one in lost),
    }
    print(json.dumps({"benchmark": "killed", **figures}))


if __name__ == "__main__":
    main()
