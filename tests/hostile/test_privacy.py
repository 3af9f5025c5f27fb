"""No process of ours looks up a name or opens a connection that is not loopback."""

import os
import re
import subprocess
import sys

import pytest

from dubrel.privacy import forget_reports, reporting_folder

_AWAY = re.compile(r"connect\(\d+, \{sa_family=AF_INET6?.*")
_LOOPBACK = re.compile(r'inet_addr\("127\.|"::1"')
_LOOKUP = re.compile(r'openat\(.*"/etc/(hosts|resolv\.conf)"|sin6?_port=htons\(53\)')

_WINDOW = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
app = QApplication([])
again = QTimer(interval=2500)  # once would be lost while the application opens the file
again.timeout.connect(app.quit)
again.start()
from dubrel.desk.application import run
sys.exit(run([Path(sys.argv[1])]))
"""


def trace(command, tmp_path):
    """Run a command under strace; what it sent away or looked up."""
    log = tmp_path / "calls"
    env = {**os.environ, "HOME": str(tmp_path), "DUBREL_CACHE": str(tmp_path / "cache")}
    for name in ("XDG_CACHE_HOME", "ORT_DISABLE_TELEMETRY"):
        env.pop(name, None)
    calls = "trace=connect,sendto,sendmsg,openat"
    done = subprocess.run(
        ["strace", "-f", "-qq", "-s", "200", "-e", calls, "-o", str(log), *command],
        env=env,
        capture_output=True,
        text=True,
        timeout=240,
        check=False,
    )
    lines = log.read_text(errors="replace").splitlines()
    away = [one for one in lines if _AWAY.search(one) and not _LOOPBACK.search(one)]
    looked_up = [one for one in lines if _LOOKUP.search(one)]
    assert len(lines) > 50, done.stderr
    return done, away, looked_up


def test_the_check_sees_a_lookup_and_a_connection(tmp_path):
    code = "import socket\ntry: socket.getaddrinfo('example.invalid', 80)\nexcept OSError: pass\n"
    code += "s = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)\ns.connect(('192.0.2.1', 9))"
    _, away, looked_up = trace([sys.executable, "-c", code], tmp_path)
    assert away and looked_up


@pytest.mark.parametrize("what", ["transcribe", "window"])
def test_nothing_leaves_this_machine(what, scene, tmp_path):
    media, out = scene, tmp_path / "out.dubrel"
    command = {
        "transcribe": [
            "-m",
            "dubrel",
            "transcribe",
            str(media),
            "-o",
            str(out),
            "--speakers",
            "2",
            "--quiet",
        ],
        "window": ["-c", _WINDOW, str(media)],
    }[what]
    done, away, looked_up = trace([sys.executable, *command], tmp_path)
    assert done.returncode == 0, done.stderr
    assert away == [] and looked_up == []
    assert out.exists() == (what == "transcribe")
    assert not list(tmp_path.rglob("*deviceid*")) and not list(tmp_path.rglob("*.onnxruntime"))


def test_what_was_left_earlier_is_removed_and_nothing_else(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    folder = reporting_folder()
    folder.mkdir(parents=True)
    (folder / "deviceid").write_text("x")
    other = tmp_path / "Microsoft" / "other"
    other.mkdir()
    forget_reports()
    assert not folder.exists() and other.exists() and not folder.parent.exists()
    forget_reports()
