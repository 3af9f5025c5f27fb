"""After each dialog the keys are where they were: on a real screen, under a window manager."""

import json
import os
import subprocess
import sys

from conftest import ROOT


def test_escape_leads_back_to_what_had_the_keys(tmp_path):
    places = {f"XDG_{one}_HOME": str(tmp_path / one) for one in ("CONFIG", "DATA", "STATE", "CACHE")}
    script = (
        f"openbox & sleep 1; {sys.executable} {ROOT / 'tests' / 'focus_after_dialogs.py'} {tmp_path}; kill %1"
    )
    done = subprocess.run(
        ["xvfb-run", "-a", "-s", "-screen 0 1400x900x24", "bash", "-c", script],
        env={**os.environ, **places, "QT_QPA_PLATFORM": "xcb", "PYTHONPATH": str(ROOT)},
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )
    lines = [line for line in done.stdout.splitlines() if line.startswith("{")]
    assert lines, done.stderr
    found = json.loads(lines[-1])
    kinds = {"QFileDialog", "QInputDialog", "GlossaryDialog", "MachinesDialog", "Finder", "QMenu"}
    assert set(found["shown"]) == kinds and len(found["shown"]) == 18
    assert found["moved"] == []
