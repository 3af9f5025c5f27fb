"""Play the demo through by ear: what a real screen reader says, step by step, as Markdown.

Needs Debian's orca, speech-dispatcher, xdotool, openbox, xvfb, at-spi2-core and
dbus; run it as ``.venv/bin/python tools/listen.py > docs/accessibility.md``.
"""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
from datetime import datetime
from pathlib import Path

ROOT = Path(__file__).parent.parent
SPEECHD = 'LogLevel 1\nAddModule "dummy" "sd_dummy" ""\nDefaultModule dummy\n'
STEPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("Go to Wording and down two turns", ("ctrl+3", "Down", "Down", "Down", "Down", "Down")),
    ("The next doubtful word, and the one after it", ("F8", "F8")),
    ("Accept it", ("F9",)),
    ("Correct a word by typing", ("End", "x", "BackSpace")),
    ("Mark the turn as proofed", ("ctrl+Return",)),
    ("Round the panes", ("ctrl+Tab", "ctrl+Tab", "ctrl+Tab", "Down")),
    ("Go to Captions, to the next one to fix, and fix it", ("ctrl+5", "F8", "alt+f")),
    ("Move between captions", ("Down", "Down")),
    ("Go to Translation and approve two", ("ctrl+6", "Down", "F5", "F5")),
    ("Go to Release", ("ctrl+7", "Tab", "Tab")),
    ("Find a command", ("ctrl+k", "Escape")),
)
_SAID = re.compile(r"(\d\d):(\d\d):(\d\d)\.(\d+) - SPEECH OUTPUT: '(.*?)'\s*(?:\{|$)", re.MULTILINE)
_KEYS = ("left control", "left alt", "left shift", "control", "backspace", "return", "layered pane")
_WAIT_S = 3.0


def session(log: Path, around: dict[str, str]) -> list[tuple[str, list[str]]]:
    """Start everything, press the keys, and gather what is said after each step."""
    reader = subprocess.Popen(
        ["orca", "--replace", f"--debug-file={log}"], env=around, stderr=subprocess.DEVNULL
    )
    time.sleep(5)
    begun = [("The demo opens", datetime.now())]
    window = subprocess.Popen([sys.executable, "-m", "dubrel", "demo"], env=around, stderr=subprocess.DEVNULL)
    try:
        time.sleep(15)
        for what, keys in STEPS:
            begun.append((f"{what} ({', '.join(keys)})", datetime.now()))
            for key in keys:
                subprocess.run(["xdotool", "key", key], env=around, check=False)
                time.sleep(_WAIT_S)
        time.sleep(10)
    finally:
        window.kill()
        reader.terminate()  # what it has said is in its file then
        time.sleep(3)
        reader.kill()
    spoken = said(log.read_text(errors="replace"))
    ends = [when for _, when in begun[1:]] + [datetime.max]
    return [
        (what, [text for when, text in spoken if start <= when < end])
        for (what, start), end in zip(begun, ends)
    ]


def said(text: str) -> list[tuple[datetime, str]]:
    """What was said when, without the names of keys."""
    today, found = datetime.now(), []
    for hours, minutes, seconds, rest, words in _SAID.findall(text):
        when = today.replace(hour=int(hours), minute=int(minutes), second=int(seconds), microsecond=int(rest))
        if words.strip() and words.strip().lower() not in _KEYS:
            found.append((when, words.strip()))
    return found


def main() -> None:
    """Run within a desktop of its own, and write what was heard."""
    if "DUBREL_LISTENING" not in os.environ:
        command = ["dbus-run-session", "--", "xvfb-run", "-a", "-s", "-screen 0 1280x800x24", sys.executable]
        around = {**os.environ, "DUBREL_LISTENING": "1"}
        raise SystemExit(subprocess.run([*command, __file__], env=around, check=False).returncode)
    folder = Path(tempfile.mkdtemp())
    around = {**os.environ, "QT_QPA_PLATFORM": "xcb", "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1"}
    around |= {f"XDG_{name}_HOME": str(folder / name) for name in ("CONFIG", "DATA", "STATE", "CACHE")}
    (folder / "CONFIG" / "speech-dispatcher").mkdir(parents=True)
    (folder / "CONFIG" / "speech-dispatcher" / "speechd.conf").write_text(SPEECHD)
    helpers = [
        subprocess.Popen(command, env=around, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL)
        for command in (["/usr/libexec/at-spi-bus-launcher", "--launch-immediately"], ["openbox"])
    ]
    time.sleep(2)
    try:
        for what, said in session(folder / "orca.log", around):
            print(f"**{what}**\n")
            print("\n".join(f"> {one}  " for one in said) or "> (nothing)")
            print()
    finally:
        for one in helpers:
            one.kill()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
