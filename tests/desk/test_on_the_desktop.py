"""The application among others: several files, one window a project, a display, menu, shell, manual."""

import configparser
import gzip
import os
import re
import shutil
import subprocess
import sys
import threading
import time
import zipfile

import make_appimage
import make_deb
import make_flatpak
import pytest
import wheels
from conftest import DEMO

from dubrel.base.errors import DubrelError
from dubrel.cli import COMMANDS, main
from dubrel.desk.application import _need_display
from dubrel.desk.shell.frame.oneinstance import OneInstance, raised_elsewhere
from dubrel.desktopentry import DESKTOP_ID, install, remove


@pytest.fixture
def runtime(monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path))
    return tmp_path


def test_of_several_projects_the_first_is_opened_and_recordings_are_queued(window, tmp_path, monkeypatch):
    first, second, sound = tmp_path / "one.dubrel", tmp_path / "two.dubrel", tmp_path / "talk.opus"
    for path in (first, second):
        shutil.copy(DEMO / "slow-water-7.dubrel", path)
    shutil.copy(DEMO / "slow-water-7.opus", sound)
    queued = []
    window.desk.many_dropped.connect(queued.append)
    monkeypatch.setattr(window.rooms["intake"], "enqueue", lambda paths: None)
    assert window.filing.open_many([first, sound, second])
    assert window.session.path == first and queued == [[sound]]
    assert window.message.text() == "A window holds one project. Not opened: “two.dubrel”."


def test_words_that_are_no_files_are_named(capsys, tmp_path):
    there = tmp_path / "a.srt"
    there.write_text("")
    assert main([str(there), "-x"]) == 2
    assert "There is no option “-x”" in capsys.readouterr().err
    assert main([str(there), "nonsense"]) == 2
    assert "“nonsense” is not a file that can be opened" in capsys.readouterr().err
    assert main(["transcibe"]) == 2
    assert "Did you mean “transcribe”?" in capsys.readouterr().err


def test_a_project_that_is_open_brings_its_window_to_the_front(qtbot, runtime):
    one, other = OneInstance(None), DEMO / "heron-film.dubrel"
    path = DEMO / "slow-water-7.dubrel"
    assert not raised_elsewhere(path)
    one.listen(path)
    answers = []
    with qtbot.waitSignal(one.wanted):
        asking = threading.Thread(target=lambda: answers.append(raised_elsewhere(path)))
        asking.start()
    asking.join(5)
    assert answers == [True] and not raised_elsewhere(other)
    one.listen(None)
    assert not raised_elsewhere(path) and list(runtime.iterdir()) == []


def test_what_a_killed_window_left_keeps_nobody_from_opening(qtbot, runtime):
    path = DEMO / "slow-water-7.dubrel"
    gone = OneInstance(None)
    gone.listen(path)
    gone.line.close()  # as after a kill: the address stays, nobody answers
    assert not raised_elsewhere(path)
    fresh = OneInstance(None)
    fresh.listen(path)
    answers = []
    with qtbot.waitSignal(fresh.wanted):
        threading.Thread(target=lambda: answers.append(raised_elsewhere(path))).start()
    fresh.close()


def test_the_window_that_had_a_project_first_stays_the_one_that_is_raised(qtbot, runtime):
    first, later = OneInstance(None), OneInstance(None)
    path = DEMO / "slow-water-7.dubrel"
    first.listen(path)
    later.listen(path)
    later.close()
    with qtbot.waitSignal(first.wanted):
        threading.Thread(target=raised_elsewhere, args=(path,)).start()
    first.close()


def test_a_second_start_with_the_same_project_ends_at_once(runtime, tmp_path):
    """Two real processes: the first has the project open, the second only raises it."""
    path = tmp_path / "a.dubrel"
    shutil.copy(DEMO / "slow-water-7.dubrel", path)
    places = {f"XDG_{one}_HOME": str(tmp_path / one) for one in ("CONFIG", "DATA", "STATE", "CACHE")}
    around = {**os.environ, **places, "QT_QPA_PLATFORM": "offscreen"}
    command = [sys.executable, "-m", "dubrel", str(path)]
    first = subprocess.Popen(command, env=around, stderr=subprocess.DEVNULL)
    try:
        until = time.monotonic() + 60
        while not list(runtime.glob("dubrel-*")) and time.monotonic() < until:
            time.sleep(0.1)
        second = subprocess.run(command, env=around, capture_output=True, timeout=60, check=False)
        assert second.returncode == 0 and first.poll() is None
    finally:
        first.kill()
        first.wait()


_ASKS = """
import os, subprocess, sys, time
from pathlib import Path
from jeepney import DBusAddress, new_method_call
from jeepney.bus_messages import message_bus
from jeepney.io.blocking import open_dbus_connection
bus, runtime = open_dbus_connection(bus="SESSION"), Path(sys.argv[1])
there = DBusAddress("/org/dubrel/Dubrel", "org.dubrel.Dubrel", "org.freedesktop.Application")

def until(true):
    end = time.monotonic() + 60
    while not true() and time.monotonic() < end:
        time.sleep(0.1)
    return true()

def ask(member, *files):
    places = ([Path(one).as_uri() for one in files], {})
    signature, values = ("asa{sv}", places) if files else ("a{sv}", ({},))
    reply = bus.send_and_get_reply(new_method_call(there, member, signature, values))
    return reply.body

def owned():
    return bus.send_and_get_reply(message_bus.NameHasOwner("org.dubrel.Dubrel")).body[0]

quiet = subprocess.DEVNULL
first = subprocess.Popen([sys.executable, "-m", "dubrel"], stdout=quiet, stderr=quiet)
print(until(owned))
for path, windows in ((sys.argv[2], 1), (sys.argv[2], 1), (sys.argv[3], 2), (sys.argv[3], 2)):
    ask("Open", path)
    print(until(lambda: len(list(runtime.glob("dubrel-*"))) == windows))
first.kill()
first.wait()
print(until(owned), ask("Activate"))
os.kill(bus.send_and_get_reply(message_bus.GetConnectionUnixProcessID("org.dubrel.Dubrel")).body[0], 9)
"""


def test_a_desktop_asks_over_the_bus_and_each_project_has_one_window(runtime, tmp_path):
    """Nothing is open: the window takes the file; another file gets a window; the name goes on to that."""
    paths = [tmp_path / "a one.dubrel", tmp_path / "b.dubrel"]
    for path in paths:
        shutil.copy(DEMO / "heron-film.dubrel", path)
    places = {f"XDG_{one}_HOME": str(tmp_path / one) for one in ("CONFIG", "DATA", "STATE", "CACHE")}
    around = {**os.environ, **places, "QT_QPA_PLATFORM": "offscreen"}
    command = ["dbus-run-session", "--", sys.executable, "-c", _ASKS, str(runtime), *map(str, paths)]
    ran = subprocess.run(command, env=around, capture_output=True, text=True, timeout=120, check=False)
    assert ran.stdout.splitlines() == ["True"] * 5 + ["True ()"]


@pytest.mark.parametrize("shown", [":987", "unix:987.0"])
def test_a_display_that_does_not_answer_is_said(monkeypatch, shown):
    monkeypatch.delenv("QT_QPA_PLATFORM", raising=False)
    monkeypatch.delenv("WAYLAND_DISPLAY", raising=False)
    monkeypatch.setenv("DISPLAY", shown)
    with pytest.raises(DubrelError, match=f"The display “{re.escape(shown)}” does not answer"):
        _need_display()


def test_a_wayland_display_that_is_gone_is_said(monkeypatch, tmp_path):
    monkeypatch.delenv("QT_QPA_PLATFORM", raising=False)
    monkeypatch.delenv("DISPLAY", raising=False)
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path))
    monkeypatch.setenv("WAYLAND_DISPLAY", "wayland-7")
    with pytest.raises(DubrelError, match="“wayland-7” does not answer"):
        _need_display()


def test_the_icon_and_what_a_project_is_told_by_are_installed(tmp_path):
    done = install(tmp_path)
    sizes = {path.parent.parent.name for path in done if path.suffix == ".png"}
    assert {"16x16", "32x32", "48x48", "128x128", "256x256"} <= sizes
    entry = (tmp_path / "applications" / "org.dubrel.Dubrel.desktop").read_text()
    assert "%F" in entry
    assert sorted(remove(tmp_path)) == sorted(done)


def test_a_project_is_told_by_its_content(tmp_path):
    install(tmp_path)
    subprocess.run(["update-mime-database", str(tmp_path / "mime")], check=True, capture_output=True)
    nameless = tmp_path / "nameless"
    shutil.copy(DEMO / "slow-water-7.dubrel", nameless)
    code = (
        "from PySide6.QtCore import QMimeDatabase as D; import sys;"
        "print(D().mimeTypeForFile(sys.argv[1]).name())"
    )
    around = {**os.environ, "XDG_DATA_HOME": str(tmp_path)}
    told = subprocess.run(
        [sys.executable, "-c", code, str(nameless)], env=around, capture_output=True, text=True, check=True
    )
    assert told.stdout.strip() == "application/x-dubrel"


def test_shells_and_the_manual_know_every_command(tmp_path):
    texts = make_deb.completions()
    for place, text in texts.items():
        assert all(name in text for name in COMMANDS), place
    script = tmp_path / "dubrel"
    script.write_text(texts["bash-completion/completions/dubrel"])
    ask = f"source {script}; COMP_WORDS=(dubrel transc); COMP_CWORD=1; _shtab_dubrel; echo ${{COMPREPLY[@]}}"
    found = subprocess.run(["bash", "-c", ask], capture_output=True, text=True, check=True)
    assert found.stdout.split() == ["transcribe"]
    page = make_deb.manual_page("0.1.0")
    assert page.startswith(".TH DUBREL") and all(f"dubrel {name}" in page for name in COMMANDS)


def test_the_package_has_what_policy_wants(tmp_path):
    make_deb.write_policy(tmp_path, "0.1.0")
    doc = tmp_path / "usr" / "share" / "doc" / "dubrel"
    assert (doc / "copyright").read_text().startswith("Format: https://www.debian.org/doc/packaging")
    assert gzip.decompress((doc / "changelog.gz").read_bytes()).startswith(b"dubrel (0.1.0)")


def test_the_manifest_of_flatpak_is_whole_and_installs_without_a_network(tmp_path):
    import yaml

    make_flatpak.write_manifest(tmp_path)
    made = yaml.safe_load((tmp_path / f"{DESKTOP_ID}.yml").read_text())
    assert made["app-id"] == DESKTOP_ID and made["runtime-version"] and made["command"] == "dubrel"
    steps = made["modules"][0]["build-commands"]
    assert "--no-index" in steps[0] and "wheels/*.whl" in steps[0]
    assert not any("filesystem=home" in one or "filesystem=host" in one for one in made["finish-args"])
    entry = (tmp_path / "share" / "applications" / f"{DESKTOP_ID}.desktop").read_text()
    assert "Exec=dubrel %F" in entry and f"Icon={DESKTOP_ID}" in entry
    service = (tmp_path / "share" / "dbus-1" / "services" / f"{DESKTOP_ID}.service").read_text()
    assert service == f"[D-BUS Service]\nName={DESKTOP_ID}\nExec=/app/bin/dubrel\n"


def test_an_appimage_shows_its_entry_and_icon_and_is_started_by_a_script(tmp_path):
    make_appimage.desktop(tmp_path)
    entry = configparser.ConfigParser(interpolation=None)
    entry.read(tmp_path / f"{DESKTOP_ID}.desktop")
    assert (tmp_path / f"{entry['Desktop Entry']['Icon']}.png").stat().st_size > 1000
    assert os.access(tmp_path / "AppRun", os.X_OK)
    assert "dbusactivatable" not in entry["Desktop Entry"] and not list(tmp_path.rglob("*.service"))
    assert subprocess.run(["sh", "-n", tmp_path / "AppRun"], check=False).returncode == 0


def test_what_is_never_loaded_of_qt_is_left_out_of_the_package(tmp_path):
    wheel = tmp_path / "pyside6_addons-6-py3-none-any.whl"
    kept = (
        "PySide6/QtMultimedia.abi3.so",
        "PySide6/Qt/lib/libQt6Multimedia.so.6",
        "PySide6/Qt/lib/libavcodec.so",
    )
    gone = (
        "PySide6/QtWebEngineCore.abi3.so",
        "PySide6/Qt/lib/libQt6WebEngineCore.so.6",
        "PySide6/Qt/qml/a.qml",
    )
    record = "x.dist-info/RECORD"
    with zipfile.ZipFile(wheel, "w") as file:
        for name in (*kept, *gone):
            file.writestr(name, "x" * 100)
        file.writestr(record, "".join(f"{name},,100\n" for name in (*kept, *gone)))
    wheels.slim(wheel)
    with zipfile.ZipFile(wheel) as file:
        assert sorted(file.namelist()) == sorted((*kept, record))
        assert [row.split(",")[0] for row in file.read(record).decode().splitlines()] == list(kept)
    assert [path.name for path in tmp_path.iterdir()] == [wheel.name]
