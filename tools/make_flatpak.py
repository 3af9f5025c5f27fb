"""Write what Flatpak builds from: ``.venv/bin/python tools/make_flatpak.py [FOLDER]``.

The folder gets the manifest, the wheels and the sources; ``flatpak-builder`` makes
the package of it without asking the network: ``flatpak-builder build org.dubrel.Dubrel.yml``.
"""

from __future__ import annotations

import shutil
import sys
import tempfile
from pathlib import Path

from desktopfiles import write_desktop
from wheels import ROOT, fetch_wheels

sys.path.insert(0, str(ROOT))
from dubrel.desktopentry import DESKTOP_ID

RUNTIMES = {11: "23.08", 12: "24.08", 13: "25.08"}
"""The runtime that has a Python of this minor version, for which the wheels are."""
MANIFEST = f"""# Made by tools/make_flatpak.py.
app-id: {DESKTOP_ID}
runtime: org.freedesktop.Platform
runtime-version: '{RUNTIMES.get(sys.version_info.minor, "")}'
sdk: org.freedesktop.Sdk
command: dubrel
finish-args:
  - --socket=wayland
  - --socket=fallback-x11
  - --share=ipc
  - --device=dri
  - --socket=pulseaudio
  - --filesystem=xdg-videos
  - --filesystem=xdg-music
  - --filesystem=xdg-documents
  - --talk-name=org.freedesktop.Notifications
  - --talk-name=org.freedesktop.secrets
  # For addresses that are opened and services that are added; nothing is sent without either.
  - --share=network
modules:
  - name: dubrel
    buildsystem: simple
    build-commands:
      - pip3 install --no-index --no-deps --prefix=/app wheels/*.whl
      - cp -r dubrel demo /app/lib/python3.{sys.version_info.minor}/site-packages/
      - cp -r share /app/
      - install -Dm755 dubrel.sh /app/bin/dubrel
    sources:
      - type: dir
        path: .
        skip: [.flatpak-builder, build]
"""
START = """#!/bin/sh
exec python3 -m dubrel "$@"
"""


def main() -> None:
    """Put manifest, wheels and sources into a folder."""
    out = Path(sys.argv[1] if len(sys.argv) > 1 else "flatpak").resolve()
    out.mkdir(parents=True, exist_ok=True)
    ignored = shutil.ignore_patterns("__pycache__", "*.pyc")
    for name in ("dubrel", "demo"):
        shutil.copytree(ROOT / name, out / name, ignore=ignored, dirs_exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        fetch_wheels(out / "wheels", Path(folder))
    write_manifest(out)


def write_manifest(out: Path) -> None:
    """The manifest, what starts the application, and what the desktop shows of it."""
    (out / f"{DESKTOP_ID}.yml").write_text(MANIFEST)
    (out / "dubrel.sh").write_text(START)
    write_desktop(out / "share", "/app/bin/dubrel")


if __name__ == "__main__":
    main()
