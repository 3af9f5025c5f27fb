"""Recordings from an address: looked at, asked about, resumed, verified, refused; a server of our own."""

import hashlib
import io
import shutil
import threading

import pytest
from conftest import DEMO
from PySide6.QtWidgets import QWidget
from recordings import is_over

from dubrel.base.errors import MediaError
from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.desk.intake.dialogs.fetch import EpisodesDialog, FetchDialog
from dubrel.jobs.addresses import fetching
from dubrel.jobs.addresses.fetching import fetch, free_name, look_at, part_of, shown_address
from dubrel.jobs.machinery.events import Progress, Written
from dubrel.standins.fileserver import StandIn

FEED = """<?xml version="1.0"?><!DOCTYPE rss [<!ENTITY x SYSTEM "file:///etc/passwd">]>
<rss version="2.0"><channel><title>Slow Water</title>
<item><title>Seven: &amp; the lock &x;</title><pubDate>Sat, 31 Jan 2026 08:00:00 +0100</pubDate>
<enclosure url="podcast.opus" length="831994" type="audio/ogg"/></item>
<item><title>No sound</title></item>
<item><title>Six</title><enclosure url="{away}" type="audio/mpeg"/></item>
</channel></rss>"""


@pytest.fixture
def server(tmp_path, monkeypatch):
    folder = tmp_path / "served"
    folder.mkdir()
    shutil.copy(DEMO / "slow-water-7.opus", folder / "podcast.opus")
    (folder / "page.html").write_text("<!DOCTYPE html><title>No recording</title>")
    (folder / "words.mp3").write_bytes(b"these are not samples at all, " * 400)
    monkeypatch.setattr(fetching, "_WAITS_S", (0.01, 1.0))
    made = StandIn(0, folder)
    threading.Thread(target=made.serve_forever, daemon=True).start()
    yield made
    made.shutdown()
    made.server_close()


@pytest.fixture
def into(tmp_path):
    found = tmp_path / "music"
    found.mkdir()
    return found


def fetched(offered, folder):
    events = list(fetch(offered, free_name(offered, folder)))
    assert any(isinstance(one, Progress) for one in events) and isinstance(events[-1], Written)
    return events[-1].path


def whole(path):
    return hashlib.sha256(open(path, "rb").read()).digest()


TRUE = hashlib.sha256((DEMO / "slow-water-7.opus").read_bytes()).digest()


def test_a_look_says_what_stands_there_and_fetches_next_to_nothing(server):
    offered = look_at(f"{server.address}/podcast.opus?token=secret")
    assert (offered.name, offered.size) == ("podcast.opus", 831_994)
    assert offered.shown == f"{server.address}/podcast.opus" and offered.near
    assert server.sent == [("podcast.opus", 0)]


@pytest.mark.parametrize("fault", ["none", "break", "short", "error", "drop"])
def test_it_comes_whole_through_every_fault_of_the_line(server, into, fault):
    offered = look_at(f"{server.address}/podcast.opus")
    server.set_fault(fault)
    if fault == "error":
        with pytest.raises(MediaError, match="answered 500"):
            fetched(offered, into)
        server.set_fault("none")
    path = fetched(offered, into)
    assert whole(path) == TRUE and [one.name for one in into.iterdir()] == ["podcast.opus"]


def test_a_look_that_breaks_off_is_said(server):
    server.set_fault("drop")
    with pytest.raises(MediaError, match="broke off"):
        look_at(f"{server.address}/podcast.opus")


def test_it_goes_on_where_it_broke_off(server, into):
    offered = look_at(f"{server.address}/podcast.opus")
    server.sent.clear()
    server.set_fault("break")
    fetched(offered, into)
    (_, first), (_, second) = server.sent
    assert first == 0 < second <= 831_994 // 2


def test_left_in_the_middle_it_goes_on_the_next_time(server, into):
    offered = look_at(f"{server.address}/podcast.opus")
    steps = fetch(offered, into / "podcast.opus")
    next(steps)
    steps.close()
    have = part_of(offered, into).stat().st_size
    server.sent.clear()
    assert 0 < have < 831_994
    path = fetched(look_at(f"{server.address}/podcast.opus"), into)
    assert whole(path) == TRUE
    assert server.sent[-1] == ("podcast.opus", have)


def test_what_changed_meanwhile_is_fetched_from_the_beginning(server, into):
    offered = look_at(f"{server.address}/podcast.opus")
    steps = fetch(offered, into / "podcast.opus")
    next(steps)
    steps.close()
    shutil.copy(DEMO / "heron-film.mp4", server.folder / "podcast.opus")
    path = fetched(look_at(f"{server.address}/podcast.opus"), into)
    assert whole(path) == hashlib.sha256((DEMO / "heron-film.mp4").read_bytes()).digest()


def test_a_server_that_cannot_go_on_sends_it_again(server, into):
    offered = look_at(f"{server.address}/podcast.opus")
    steps = fetch(offered, into / "podcast.opus")
    next(steps)
    steps.close()
    server.set_fault("whole")
    assert whole(fetched(offered, into)) == TRUE


def test_one_that_never_sends_all_is_said_and_what_came_is_kept(server, into):
    offered = look_at(f"{server.address}/podcast.opus")
    with pytest.raises(MediaError, match="could not be fetched whole"):
        list(fetch(replace(offered, size=900_000), into / "podcast.opus"))
    assert not (into / "podcast.opus").exists() and part_of(offered, into).exists()


def test_a_checksum_is_compared(server, into):
    server.digests = True
    offered = look_at(f"{server.address}/podcast.opus")
    assert offered.digest == (("sha256", TRUE.hex()),)
    fetched(offered, into)
    wrong = look_at(f"{server.address}/podcast.opus#sha256={'0' * 64}")
    with pytest.raises(MediaError, match="another checksum"):
        fetched(wrong, into)
    assert len(list(into.iterdir())) == 1 + 1  # the first, and the note of what was begun


def test_redirections_are_shown_and_bounded(server, into):
    offered = look_at(f"{server.address}/to/{server.address}/podcast.opus")
    assert offered.through == ("127.0.0.1",) and offered.address.endswith("/podcast.opus")
    assert whole(fetched(offered, into)) == TRUE
    round_and_round = f"{server.address}/to/" * 8 + f"{server.address}/podcast.opus"
    with pytest.raises(MediaError, match="redirects without end"):
        look_at(round_and_round)
    with pytest.raises(MediaError, match="“file:” addresses are not opened"):
        look_at(f"{server.address}/to/file:///etc/passwd")


@pytest.mark.parametrize(
    ("address", "said"),
    [
        ("file:///etc/passwd", "“file:” addresses are not opened"),
        ("ftp://127.0.0.1/a.mp3", "“ftp:” addresses"),
        ("podcast.opus", "That is not an address"),
        ("https://", "That is not an address"),
        ("http://127.0.0.1:0/a", "That is not an address"),
        ("http://127.0.0.1:1/a.mp3", "does not answer"),
        ("{server}/page.html", "is a page, not a recording"),
        ("{server}/gone.mp3", "has nothing there"),
    ],
)
def test_what_is_no_recording_is_one_sentence(server, address, said):
    with pytest.raises(MediaError, match=said):
        look_at(address.format(server=server.address))


def test_what_only_calls_itself_a_recording_is_not_kept(server, into):
    offered = look_at(f"{server.address}/words.mp3")
    with pytest.raises(MediaError, match=r"is not a recording\. Nothing was kept"):
        fetched(offered, into)
    assert list(into.iterdir()) == []


def test_a_feed_lists_its_episodes_and_may_not_point_into_this_network(server, into, capsys):
    (server.folder / "feed.rss").write_text(FEED.format(away=f"{server.address}/podcast.opus"))
    found = look_at(f"{server.address}/feed.rss").episodes
    assert [(one.title, one.date, one.size) for one in found] == [
        ("Seven: & the lock", "2026-01-31", 831_994),
        ("Six", "", 0),
    ]
    assert found[0].address == f"{server.address}/podcast.opus"
    with pytest.raises(MediaError, match="Type its address yourself"):
        look_at(found[1].address, typed=False)
    assert main(["fetch", f"{server.address}/feed.rss"]) == 0
    assert "Seven: & the lock" in capsys.readouterr().out


def test_a_password_is_sent_and_never_shown_kept_or_passed_on(server, into, caplog, capsys):
    address = server.address.replace("http://", "http://anna:s3cret@")
    assert shown_address(f"{address}/podcast.opus") == f"{server.address}/podcast.opus"
    out = into / "out.opus"
    assert main(["fetch", f"{address}/podcast.opus", "-o", str(out), "--yes", "--quiet"]) == 0
    assert all(one["Authorization"].startswith("Basic ") for one in server.seen)
    said = capsys.readouterr()
    assert "s3cret" not in said.out + said.err + caplog.text
    server.seen.clear()
    there = f"http://localhost:{server.server_address[1]}/podcast.opus"
    look_at(f"{address}/to/{there}")
    assert ["Authorization" in one for one in server.seen] == [True, False]


def test_nothing_is_fetched_without_being_asked(server, into, capsys, monkeypatch):
    monkeypatch.setattr("sys.stdin", io.StringIO("y"))
    assert main(["fetch", f"{server.address}/podcast.opus", "-o", str(into)]) == 2
    said = capsys.readouterr().err
    assert "0.8 MB" in said and "Nothing was fetched. Add --yes" in said
    assert list(into.iterdir()) == []


def test_a_disk_that_is_too_small_is_said_before(server, into):
    offered = replace(look_at(f"{server.address}/podcast.opus"), size=40 << 40)
    with pytest.raises(MediaError, match="Free some space"):
        list(fetch(offered, into / "podcast.opus"))


# -- in the window ---------------------------------------------------------------------------------------


def test_an_address_is_looked_at_asked_about_fetched_and_opened(window, server, into, qtbot):
    asked = []
    window.dialogs.address = lambda: f"{server.address}/podcast.opus"
    window.dialogs.fetching = lambda offered, folder: asked.append(offered) or into
    window.commands.run("open_address")
    qtbot.waitUntil(lambda: window.session.project.media is not None)
    assert window.session.media_path == into / "podcast.opus"
    assert [one.size for one in asked] == [831_994]


def test_no_is_no_and_another_project_ends_it(window, server, into, qtbot):
    window.dialogs.address = lambda: f"{server.address}/podcast.opus"
    window.commands.run("open_address")
    qtbot.waitUntil(lambda: window.message.text() == "Nothing was fetched.")
    server.pause_s = 0.1
    window.dialogs.fetching = lambda offered, folder: into
    window.commands.run("open_address")
    qtbot.waitUntil(lambda: any(".opus" in one.name or "unfinished" in one.name for one in into.iterdir()))
    fetching = window.jobs.running("fetch")
    window.filing.open_path(DEMO / "heron-film.dubrel")
    assert is_over(fetching) and not window.jobs.runs("fetch") and not (into / "podcast.opus").exists()
    assert window.session.project.media.name == "heron-film.mp4"


def test_errors_are_said_in_the_window(window, server, qtbot):
    for address, said in ((f"{server.address}/page.html", "is a page"), ("file:///etc/passwd", "“file:”")):
        window.dialogs.address = lambda address=address: address
        window.commands.run("open_address")
        qtbot.waitUntil(lambda said=said: said in window.message.text())


def test_the_dialogs_say_what_comes_and_find_an_episode(server, qtbot, tmp_path):
    owner = QWidget()
    qtbot.addWidget(owner)
    (server.folder / "feed.rss").write_text(FEED.format(away="http://example.org/six.mp3"))
    feed = look_at(f"{server.address}/feed.rss")
    dialog = EpisodesDialog(feed.episodes, owner)
    dialog.field.setText("six")
    assert [dialog.table.isRowHidden(row) for row in (0, 1)] == [True, False]
    dialog.go.click()
    assert dialog.chosen == 1
    offered = look_at(f"{server.address}/podcast.opus")
    other = FetchDialog(replace(offered, through=("a.example",)), tmp_path, lambda *_: tmp_path / "x", owner)
    assert other.about.text() == "It is on this machine or this network."
    other.other.click()
    assert other.folder == tmp_path / "x" and other.into.text() == str(tmp_path / "x")
