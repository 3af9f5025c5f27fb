"""The application on the desktop: menu entry, file types, icon, AppStream data.

Put in place and taken away again.
"""

from __future__ import annotations

import os
import shutil
import sys
from pathlib import Path

from dubrel import __version__
from dubrel.base.files import write_text

DESKTOP_ID = "org.dubrel.Dubrel"
ICONS = Path(__file__).parent / "assets" / "icons" / "app"
_TYPES = (
    "application/x-dubrel",
    "application/x-subrip",
    "text/vtt",
    "audio/mpeg",
    "audio/ogg",
    "audio/wav",
    "audio/flac",
    "audio/mp4",
    "video/mp4",
    "video/x-matroska",
    "video/webm",
    "video/quicktime",
)
_ENTRY = """[Desktop Entry]
Type=Application
Name=Dubrel
Comment=Transcribe, align, caption, translate and publish recordings on your own machine
Exec={command} %F
Icon={id}
Terminal=false
Categories=AudioVideo;AudioVideoEditing;
MimeType={types};
StartupWMClass=dubrel
DBusActivatable=true
"""
_SERVICE = """[D-BUS Service]
Name={id}
Exec={command}
"""
_MIME = """<?xml version="1.0" encoding="UTF-8"?>
<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">
  <mime-type type="application/x-dubrel">
    <comment>Dubrel project</comment>
    <magic priority="60"><match type="string" value="PK\\003\\004" offset="0">
      <match type="string" value="project.json" offset="30"/></match></magic>
    <glob pattern="*.dubrel"/>
    <icon name="{id}"/>
  </mime-type>
</mime-info>
"""
_METAINFO = """<?xml version="1.0" encoding="UTF-8"?>
<component type="desktop-application">
  <id>{id}</id>
  <metadata_license>MIT</metadata_license>
  <project_license>MIT</project_license>
  <name>Dubrel</name>
  <summary>Transcribe, caption, translate and publish recordings</summary>
  <description><p>Dubrel turns speech into text with the time of every word, lets you correct it on
  a page that shows the sound under each line, sets captions by reading-speed rules, translates them and
  writes every deliverable. Everything runs on your own machine.</p></description>
  <launchable type="desktop-id">{id}.desktop</launchable>
  <provides><mediatype>application/x-dubrel</mediatype></provides>
  <releases><release version="{version}" date="2026-11-26"/></releases>
  <content_rating type="oars-1.1"/>
</component>
"""
_ICON = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 128 128">
<rect x="12" y="8" width="104" height="112" rx="6" fill="#fbf8f1" stroke="#cfc7b6" stroke-width="3"/>
<path d="M28 34h72M28 50h56" stroke="#22201c" stroke-width="7" stroke-linecap="round"/>
<path d="M28 82v8M38 74v24M48 66v40M58 78v16M68 70v32M78 80v12M88 74v24M98 82v8"
  stroke="#a89f8d" stroke-width="5" stroke-linecap="round"/>
<path d="M63 60v52" stroke="#c4412b" stroke-width="4"/></svg>
"""


def files(root: Path) -> dict[Path, str]:
    """What belongs on the desktop, and what stands in it.

    Parameters
    ----------
    root : Path
        Such as ``~/.local/share``.
    """
    from html import escape  # late: the window only asks for the names; the XML library's brings the network

    command = f'"{escape(_command(), quote=False)}"'
    names = {"id": DESKTOP_ID, "version": __version__, "types": ";".join(_TYPES), "command": command}
    return {
        root / "applications" / f"{DESKTOP_ID}.desktop": _ENTRY.format(**names),
        root / "dbus-1" / "services" / f"{DESKTOP_ID}.service": _SERVICE.format(**names),
        root / "mime" / "packages" / f"{DESKTOP_ID}.xml": _MIME.format(**names),
        root / "metainfo" / f"{DESKTOP_ID}.metainfo.xml": _METAINFO.format(**names),
        root / "icons" / "hicolor" / "scalable" / "apps" / f"{DESKTOP_ID}.svg": _ICON,
    }


def icons_in(root: Path) -> dict[Path, Path]:
    """Where the icon goes in each size, and from where."""
    return {
        root / "icons" / "hicolor" / f"{one.stem}x{one.stem}" / "apps" / f"{DESKTOP_ID}.png": one
        for one in ICONS.glob("*.png")
    }


def _command() -> str:
    """The application as it runs here."""
    beside = Path(sys.executable).with_name("dubrel")
    return str(beside) if beside.exists() else shutil.which("dubrel") or str(beside)


def data_home() -> Path:
    """Where a user's own entries are kept."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def install(root: Path | None = None) -> list[Path]:
    """Put the application on the desktop; the files that were written.

    Raises
    ------
    DubrelError
        If they cannot be written.
    """
    root = root or data_home()
    made = files(root)
    for path, text in made.items():
        path.parent.mkdir(parents=True, exist_ok=True)
        write_text(path, text)
    icons = icons_in(root)
    for path, source in icons.items():
        path.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(source, path)
    _tell(root)
    return [*made, *icons]


def remove(root: Path | None = None) -> list[Path]:
    """Take the application off the desktop; the files that went."""
    root = root or data_home()
    gone = [path for path in (*files(root), *icons_in(root)) if path.exists()]
    for path in gone:
        path.unlink()
    if gone:
        _tell(root)
    return gone


def _tell(root: Path) -> None:
    """Let the desktop know, where its programs are there."""
    import subprocess  # late: as above

    for program, folder in (("update-mime-database", "mime"), ("update-desktop-database", "applications")):
        if shutil.which(program) and (root / folder).is_dir():
            subprocess.run([program, str(root / folder)], capture_output=True, timeout=30, check=False)
    if shutil.which("dbus-send") and os.environ.get("DBUS_SESSION_BUS_ADDRESS"):
        call = ["--dest=org.freedesktop.DBus", "/", "org.freedesktop.DBus.ReloadConfig"]
        subprocess.run(["dbus-send", "--session", *call], capture_output=True, timeout=30, check=False)
