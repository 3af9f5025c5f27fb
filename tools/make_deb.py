"""Build a Debian package: ``.venv/bin/python tools/make_deb.py [FOLDER]``.

It holds the sources and a wheel of every package that the application needs, so
that installing it asks nothing of the network: the environment is made of the
wheels when the package is configured, for the Python that built it.
"""

from __future__ import annotations

import gzip
import re
import shutil
import subprocess
import sys
import tempfile
import tomllib
from pathlib import Path

from desktopfiles import write_desktop
from wheels import fetch_wheels

ROOT = Path(__file__).parent.parent
PYTHON = f"{sys.version_info.major}.{sys.version_info.minor}"
FOLLOWING = f"{sys.version_info.major}.{sys.version_info.minor + 1}"
CONTROL = """Package: dubrel
Version: {version}
Architecture: {architecture}
Maintainer: Dubrel <dubrel@dubrel.example>
Depends: {depends}
Recommends: fonts-noto-core, fonts-noto-cjk, apertium, apertium-eng-spa, hunspell-en-gb, wordnet-base
Section: video
Priority: optional
Description: Transcribe, caption, translate and publish recordings
 Turns speech into text with the time of every word, sets captions, translates
 them and writes every deliverable, on your own machine.
"""
POSTINST = """#!/bin/sh
set -e
if [ "$1" = configure ]; then
    python3 -m venv /var/lib/dubrel/env
    /var/lib/dubrel/env/bin/python -m pip install -q --no-index --no-deps \\
        --find-links /usr/lib/dubrel/wheels /usr/lib/dubrel/wheels/*.whl
    site=$(/var/lib/dubrel/env/bin/python -c 'import site; print(site.getsitepackages()[0])')
    echo /usr/lib/dubrel > "$site/dubrel.pth"
    rm -f /usr/lib/dubrel/wheels/*.whl
fi
"""
PRERM = """#!/bin/sh
set -e
rm -rf /var/lib/dubrel
find /usr/lib/dubrel -name __pycache__ -type d -exec rm -rf {} +
"""
START = """#!/bin/sh
exec /var/lib/dubrel/env/bin/python -m dubrel "$@"
"""


def main() -> None:
    """Put the files in their places and pack them."""
    out = Path(sys.argv[1] if len(sys.argv) > 1 else ".").resolve()
    version = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["version"]
    architecture = subprocess.run(
        ["dpkg", "--print-architecture"], check=True, capture_output=True, text=True
    ).stdout.strip()
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder) / "dubrel"
        place = tree / "usr" / "lib" / "dubrel"
        ignored = shutil.ignore_patterns("__pycache__", "*.pyc")
        shutil.copytree(ROOT / "dubrel", place / "dubrel", ignore=ignored)
        shutil.copytree(ROOT / "demo", place / "demo", ignore=ignored)
        for name in ("LICENSE", "THIRD_PARTY.md", "README.md", "CHANGELOG.md"):
            shutil.copy(ROOT / name, place / name)
        fetch_wheels(place / "wheels", Path(folder))
        _program(tree / "usr" / "bin" / "dubrel", START)
        write_desktop(tree / "usr" / "share")
        _manual(tree, version)
        write_policy(tree, version)
        control = CONTROL.format(version=version, architecture=architecture, depends=depends())
        (tree / "DEBIAN").mkdir()
        (tree / "DEBIAN" / "control").write_text(control)
        _program(tree / "DEBIAN" / "postinst", POSTINST)
        _program(tree / "DEBIAN" / "prerm", PRERM)
        target = out / f"dubrel_{version}_{architecture}.deb"
        subprocess.run(
            ["dpkg-deb", "--build", "-Zxz", "-z4", "--root-owner-group", str(tree), str(target)], check=True
        )


def depends() -> str:
    """The Debian packages that it needs: this Python, and the libraries that ./run installs too."""
    setup = (ROOT / "tools" / "setup.sh").read_text()
    found = re.search(r'^QT_LIBRARIES="([^"]*)"', setup, re.MULTILINE)
    assert found is not None
    python = [f"python3 (>= {PYTHON})", f"python3 (<< {FOLLOWING})", "python3-venv"]
    return ", ".join([*python, *found.group(1).split(), "espeak-ng", "fontconfig", "libfribidi0"])


def _program(path: Path, text: str) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(text)
    path.chmod(0o755)


def _manual(tree: Path, version: str) -> None:
    """The manual page and what shells complete, made from the parser of the command line."""
    share = tree / "usr" / "share"
    page = share / "man" / "man1" / "dubrel.1.gz"
    page.parent.mkdir(parents=True)
    page.write_bytes(gzip.compress(manual_page(version).encode(), mtime=0))
    for name, text in completions().items():
        path = share / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text)


def manual_page(version: str) -> str:
    """The manual page, in the form of man(7)."""
    from argparse_manpage.manpage import Manpage  # type: ignore[import-untyped]

    from dubrel.cli import parser

    found = parser()
    found.man_short_description = "transcribe, caption, translate and publish recordings"  # type: ignore[attr-defined]
    page = str(Manpage(found, format="single-commands-section"))
    return page.replace('"Generated Python Manual"', f'"Dubrel {version}"')


def completions() -> dict[str, str]:
    """What each shell completes, by its place under /usr/share."""
    import shtab  # type: ignore[import-untyped]

    from dubrel.cli import parser

    places = {
        "bash": "bash-completion/completions/dubrel",
        "zsh": "zsh/vendor-completions/_dubrel",
        "fish": "fish/vendor_completions.d/dubrel.fish",
    }
    return {place: shtab.complete(parser(), shell) for shell, place in places.items()}


def write_policy(tree: Path, version: str) -> None:
    """What Debian's policy wants beside a program: copyright and changelog."""
    folder = tree / "usr" / "share" / "doc" / "dubrel"
    folder.mkdir(parents=True)
    licence = (ROOT / "LICENSE").read_text().rstrip()
    rows = "\n".join(f" {line}" if line.strip() else " ." for line in licence.splitlines())
    (folder / "copyright").write_text(
        "Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/\n"
        "Upstream-Name: Dubrel\n\nFiles: *\nCopyright: the developers of Dubrel\nLicense: Expat\n"
        f"{rows}\n\nFiles: usr/lib/dubrel/wheels/*\nCopyright: their authors\nLicense: various\n"
        " See /usr/lib/dubrel/THIRD_PARTY.md.\n"
    )
    entry = f"dubrel ({version}) unstable; urgency=medium\n\n  * See /usr/lib/dubrel/CHANGELOG.md.\n\n"
    entry += " -- Dubrel <dubrel@dubrel.example>  Thu, 26 Nov 2026 12:00:00 +0000\n"
    (folder / "changelog.gz").write_bytes(gzip.compress(entry.encode(), mtime=0))


if __name__ == "__main__":
    main()
