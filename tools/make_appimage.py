"""Build an AppImage: ``.venv/bin/python tools/make_appimage.py [FOLDER]``.

It holds this Python and everything that the application needs, so that the file
runs on any desktop with a C library as new as this machine's. Without
``appimagetool`` the folder that it would pack is left, and can be run as it is.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import sysconfig
import tempfile
from pathlib import Path

from desktopfiles import write_desktop
from wheels import ROOT, fetch_wheels

sys.path.insert(0, str(ROOT))
from dubrel.desktopentry import DESKTOP_ID

PYTHON = f"python{sys.version_info.major}.{sys.version_info.minor}"
NOT_NEEDED = (
    "test",
    "idlelib",
    "turtledemo",
    "lib2to3",
    "ensurepip",
    "tkinter",
    "site-packages",
    "__pycache__",
)
RUN = """#!/bin/sh
here=$(dirname "$(readlink -f "$0")")
export PYTHONHOME="$here/usr" PYTHONNOUSERSITE=1 LD_LIBRARY_PATH="$here/usr/lib:$LD_LIBRARY_PATH"
exec "$here/usr/bin/{python}" -m dubrel "$@"
"""


def main() -> None:
    """Put a Python and the application into a folder, and pack it."""
    out = Path(sys.argv[1] if len(sys.argv) > 1 else ".").resolve()
    tree = out / "Dubrel.AppDir"
    shutil.rmtree(tree, ignore_errors=True)
    packages = _python(tree / "usr")
    with tempfile.TemporaryDirectory() as folder:
        fetch_wheels(Path(folder) / "wheels", Path(folder))
        wheels = sorted(map(str, (Path(folder) / "wheels").glob("*.whl")))
        command = [sys.executable, "-m", "pip", "install", "-q", "--no-index", "--no-deps", "--no-compile"]
        subprocess.run([*command, "--target", str(packages), *wheels], check=True)
    ignored = shutil.ignore_patterns("__pycache__", "*.pyc")
    shutil.copytree(ROOT / "dubrel", packages / "dubrel", ignore=ignored)
    shutil.copytree(ROOT / "demo", packages / "demo", ignore=ignored)
    desktop(tree)
    tool = shutil.which("appimagetool")
    if tool is None:
        print(f"{tree} is ready, and runs as {tree}/AppRun; appimagetool, which packs it, is not here.")
    else:
        subprocess.run([tool, str(tree), str(out / "Dubrel.AppImage")], check=True)


def _python(usr: Path) -> Path:
    """This Python with its library; gives where packages go."""
    base, library = Path(sys.base_prefix), Path(sysconfig.get_path("stdlib"))
    (usr / "bin").mkdir(parents=True)
    shutil.copy(base / "bin" / PYTHON, usr / "bin" / PYTHON)
    shutil.copytree(library, usr / "lib" / PYTHON, ignore=shutil.ignore_patterns(*NOT_NEEDED))
    for shared in (base / "lib").glob(f"lib{PYTHON}*.so*"):
        shutil.copy(shared, usr / "lib" / shared.name)
    packages = usr / "lib" / PYTHON / "site-packages"
    packages.mkdir()
    return packages


def desktop(tree: Path) -> None:
    """What an AppImage shows of itself: its entry, its icon, what starts it."""
    share = tree / "usr" / "share"
    write_desktop(share)
    shutil.rmtree(share / "dbus-1")  # no bus can start what lies in a file that is mounted when it runs
    entry = share / "applications" / f"{DESKTOP_ID}.desktop"
    entry.write_text(entry.read_text().replace("DBusActivatable=true\n", ""))
    shutil.copy(entry, tree / entry.name)
    largest = max((share / "icons").rglob("*.png"), key=lambda path: path.stat().st_size)
    shutil.copy(largest, tree / f"{DESKTOP_ID}.png")
    start = tree / "AppRun"
    start.write_text(RUN.format(python=PYTHON))
    start.chmod(0o755)


if __name__ == "__main__":
    main()
