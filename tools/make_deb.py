"""Build a Debian package: ``.venv/bin/python tools/make_deb.py [FOLDER]``.

It holds the sources and the exact list of packages; ``dubrel`` makes its own
environment under the user's data folder when it is started first, as ./run does.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
VERSION = "0.1.0"
DEPENDS = (
    "python3 (>= 3.11), python3-venv, libegl1, libgl1, libxkbcommon0, libxkbcommon-x11-0, libdbus-1-3, libfontconfig1, "
    "libxcb-cursor0, libxcb-icccm4, libxcb-image0, libxcb-keysyms1, libxcb-randr0, libxcb-render-util0, libxcb-shape0, "
    "libxcb-xinerama0, libpulse0, libgomp1, espeak-ng"
)
CONTROL = f"""Package: dubrel
Version: {VERSION}
Architecture: amd64
Maintainer: Dubrel <dubrel@localhost>
Depends: {DEPENDS}
Recommends: apertium, apertium-eng-spa, hunspell-en-gb
Section: video
Priority: optional
Description: Transcribe, caption, translate and publish recordings
 Turns speech into text with the time of every word, sets captions, translates
 them and writes every deliverable, on your own machine.
"""
START = """#!/bin/sh
# makes the environment once, then starts the application
set -e
home="${XDG_DATA_HOME:-$HOME/.local/share}/dubrel/application"
stamp="$home/.stamp-$(sha256sum /opt/dubrel/requirements.lock | cut -c1-16)"
if [ ! -f "$stamp" ]; then
    echo "Setting up Dubrel (once, some minutes)" >&2
    python3 -m venv "$home"
    "$home/bin/python" -m pip install -q --no-deps -r /opt/dubrel/requirements.lock
    rm -f "$home"/.stamp-*
    touch "$stamp"
fi
PYTHONPATH=/opt/dubrel exec "$home/bin/python" -m dubrel "$@"
"""


def main() -> None:
    """Put the files in their places and pack them."""
    out = Path(sys.argv[1] if len(sys.argv) > 1 else ".").resolve()
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder) / "dubrel"
        place = tree / "opt" / "dubrel"
        ignored = shutil.ignore_patterns("__pycache__", "*.pyc")
        shutil.copytree(ROOT / "dubrel", place / "dubrel", ignore=ignored)
        shutil.copytree(ROOT / "demo", place / "demo", ignore=ignored)
        for name in ("requirements.lock", "LICENSE", "THIRD_PARTY.md", "README.md"):
            shutil.copy(ROOT / name, place / name)
        start = tree / "usr" / "bin" / "dubrel"
        start.parent.mkdir(parents=True)
        start.write_text(START)
        start.chmod(0o755)
        _desktop(tree)
        control = tree / "DEBIAN" / "control"
        control.parent.mkdir()
        control.write_text(CONTROL)
        target = out / f"dubrel_{VERSION}_amd64.deb"
        subprocess.run(["dpkg-deb", "--build", "--root-owner-group", str(tree), str(target)], check=True)


def _desktop(tree: Path) -> None:
    sys.path.insert(0, str(ROOT))
    from dubrel.desktopentry import files

    for path, text in files(tree / "usr" / "share").items():
        path.parent.mkdir(parents=True, exist_ok=True)
        lines = [("Exec=dubrel %f" if line.startswith("Exec=") else line) for line in text.splitlines()]
        path.write_text("\n".join(lines) + "\n")


if __name__ == "__main__":
    main()
