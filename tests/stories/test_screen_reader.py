"""Another program reads and writes the real window through AT-SPI, on a screen of its own."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

HERE = Path(__file__).parent.parent
SESSION = """
/usr/libexec/at-spi-bus-launcher --launch-immediately &
{python} -m dubrel demo > "$OUT" 2>&1 &
window=$!
/usr/bin/python3 {reader} "$PASS" "$PAGE"
kill $window
kill %1
"""


def read(tmp_path, name, page):
    """What a reader finds on a page of the demo."""
    script = SESSION.format(python=sys.executable, reader=HERE / "atspi_reader.py")
    places = {f"XDG_{one}_HOME": str(tmp_path / one) for one in ("CONFIG", "DATA", "STATE", "CACHE")}
    always = {"QT_QPA_PLATFORM": "xcb", "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1", "PASS": name, "PAGE": page}
    done = subprocess.run(
        ["dbus-run-session", "--", "xvfb-run", "-a", "-s", "-screen 0 1280x800x24", "bash", "-c", script],
        env={**os.environ, **places, **always, "OUT": str(tmp_path / "window.log")},
        capture_output=True,
        text=True,
        timeout=120,
    )
    lines = [line for line in done.stdout.splitlines() if line.startswith("{")]
    assert lines, done.stdout + done.stderr + (tmp_path / "window.log").read_text()
    return json.loads(lines[-1])


def test_the_sheet_is_read_word_by_word_and_written_to(tmp_path):
    found = read(tmp_path, "Wording", "Sheet: transcript")
    assert (found["role"], found["count"]) == ("list", 28)
    first = found["rows"][0]
    assert (first["name"], first["role"]) == ("Isolde, 00:00:03, proofed", "list item")
    assert first["text"].startswith("Welcome back to Slow Water.") and first["word"].strip() == "Welcome"
    assert first["acts"] == ["SetFocus", "Play", "Mark as proofed, or not", "Accept the word"]
    assert found["caret"] == 3 and found["after"] == "Well, Welcome back t"


@pytest.mark.parametrize(
    ("name", "page", "begins", "act"),
    [
        ("Captions", "Sheet: captions", "Isolde, 00:00:0", "Fix"),
        ("Translation", "Sheet: translation", "00:00:0", "Approve, or withdraw that"),
    ],
)
def test_captions_and_translations_are_read(tmp_path, name, page, begins, act):
    found = read(tmp_path, name, page)
    assert found["role"] == "list" and found["count"] > 30
    assert found["rows"][0]["name"].startswith(begins) and act in found["rows"][0]["acts"]
    assert found["rows"][0]["text"].startswith("Welcome back to Slow Water.")
