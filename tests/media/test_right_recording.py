"""A recording is what its bytes are: never what a project claims, never one with the same beginning."""

import os
import shutil
import struct
import subprocess
import sys

import numpy as np
import pytest
from conftest import ROOT, words
from PySide6.QtTest import QTest
from recordings import tune, write_wav

from dubrel.base.errors import DubrelError, MediaError
from dubrel.base.folders import cache_root
from dubrel.base.value import replace
from dubrel.media.cache import cache_folder, is_read, sound_path
from dubrel.media.fingerprint import content_digest, is_same_recording, sampled_digest, seen
from dubrel.media.probe import probe
from dubrel.media.sound import RATE, read_sound, samples_of
from dubrel.model import Media
from dubrel.store.projectfile import find_media, open_project, save


def two_takes(folder):
    """Two recordings of one size with the same head, middle and tail."""
    first = np.zeros(60 * RATE)
    first[::500] = 0.3
    second = first.copy()
    second[15 * RATE : 18 * RATE : 7] = -0.4
    return write_wav(folder / "a.wav", first), write_wav(folder / "b.wav", second)


def test_two_takes_with_the_same_beginning_and_end_are_two(tmp_path):
    a, b = two_takes(tmp_path)
    assert a.stat().st_size == b.stat().st_size and sampled_digest(a) == sampled_digest(b)
    assert content_digest(a) != content_digest(b)
    known = seen(probe(a), a)
    assert is_same_recording(known, a) and not is_same_recording(known, b)
    for path in (a, b):
        list(read_sound(probe(path)))
    assert sound_path(probe(a)) != sound_path(probe(b))
    assert not np.array_equal(samples_of(probe(a)), samples_of(probe(b)))


def test_another_recording_at_the_same_path_is_read_anew(tmp_path):
    a, b = two_takes(tmp_path)
    media = probe(a)
    list(read_sound(media))
    before = samples_of(media).copy()
    times = a.stat()
    a.write_bytes(b.read_bytes())
    os.utime(a, ns=(times.st_atime_ns, times.st_mtime_ns))  # the same size, the same time of change
    assert not is_read(media)
    list(read_sound(media))
    assert not np.array_equal(samples_of(media), before)


def test_what_a_project_claims_names_no_folder(tmp_path):
    path, _ = two_takes(tmp_path)
    media = replace(probe(path), fingerprint=str(tmp_path / "anywhere"))
    assert cache_folder(media).parent == cache_root()
    assert not (tmp_path / "anywhere").exists()


@pytest.mark.parametrize("claimed", ["/any/folder", "../../x", "AB" * 16, "ab" * 31, "", "g" * 64, 7])
def test_only_a_digest_is_taken_for_one(boards, tmp_path, claimed):
    import json
    import zipfile

    from recordings import to_json

    path, kept = tmp_path / "p.dubrel", "0f" * 32
    media = Media("a.wav", str(tmp_path / "a.wav"), kept, 1000)
    value = to_json(replace(boards, media=media))
    value["media"]["fingerprint"] = claimed
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps(value))
    assert open_project(path).media.fingerprint == ""
    save(replace(boards, media=media), path)
    assert open_project(path).media.fingerprint == kept


def test_a_project_knows_its_recording_by_its_whole_content(window, qtbot, tmp_path, film):
    path = tmp_path / "film.mp4"
    shutil.copy(film, path)
    window.filing.open_path(path)
    qtbot.waitUntil(lambda: window.session.seen is not None)
    window.session.save(tmp_path / "film.dubrel")
    assert not window.session.dirty
    media = open_project(tmp_path / "film.dubrel").media
    assert media.fingerprint == content_digest(path) and media.size == path.stat().st_size


def test_another_recording_at_the_projects_path_is_said(window, qtbot, tmp_path, boards):
    a, b = two_takes(tmp_path)
    project = tmp_path / "p.dubrel"
    save(replace(boards, media=seen(probe(a), a)), project)
    window.filing.open_path(project)
    qtbot.waitUntil(lambda: window.session.seen is not None)
    assert "another recording" not in window.message.toolTip()
    shutil.copy(b, a)
    window.filing.open_path(project)
    qtbot.waitUntil(lambda: "its content differs" in window.message.toolTip())
    window.show_room("intake")
    assert window.intake.find_button.isVisible() and "its content differs" in window.intake.problem.text()
    known = open_project(project).media.fingerprint
    window.filing.save()
    assert open_project(project).media.fingerprint == known  # still the one that it was made with
    asked = []
    window.dialogs.yes = lambda question, go="": asked.append(question) or True
    window.dialogs.recording = lambda name: a
    window.commands.run("find_media")
    assert "is not the same recording" in asked[0]
    qtbot.waitUntil(lambda: window.session.seen is not None)
    window.filing.save()
    assert open_project(project).media.fingerprint == content_digest(b)


def test_digests_of_earlier_versions_are_still_known(tmp_path):
    a, _ = two_takes(tmp_path)
    old = replace(probe(a), fingerprint=sampled_digest(a), size=0)
    assert is_same_recording(old, a)
    assert not is_same_recording(replace(old, fingerprint="0" * 32), a)


def test_what_no_user_would_choose_is_not_opened_unasked(tmp_path, boards):
    good = write_wav(tmp_path / "a.wav", np.zeros(RATE))
    os.mkfifo(tmp_path / "pipe.wav")
    (tmp_path / "secret.txt").write_text("x")
    (tmp_path / "link.wav").symlink_to(tmp_path / "secret.txt")
    (tmp_path / "round.wav").symlink_to(tmp_path / "round.wav")
    (tmp_path / "fine.wav").symlink_to(good)
    media = Media("a.wav", str(good), "", 1000)
    assert find_media(media, None) == good
    assert find_media(replace(media, path=str(tmp_path / "fine.wav")), None) == good
    for path in (
        "/etc/passwd",
        "/dev/zero",
        "http://127.0.0.1/a.wav",
        "/proc/self/mem.wav",
        "a\0b.wav",
        "x" * 5000,
    ):
        assert find_media(replace(media, path=path), None) is None
    for name in ("pipe.wav", "secret.txt", "link.wav", "round.wav"):
        assert find_media(replace(media, path=str(tmp_path / name)), None) is None
        assert find_media(replace(media, path="/none", relative=name), tmp_path / "p.dubrel") is None


def test_a_path_that_is_no_recording_is_said(window, tmp_path, boards):
    path = tmp_path / "p.dubrel"
    save(replace(boards, media=Media("passwd", "/etc/passwd", "", 1000)), path)
    window.filing.open_path(path)
    assert "so it was not opened" in window.message.toolTip() and window.session.media_path is None
    assert words(window.session.project)


# -- media that cannot be right ---------------------------------------------------------


def test_a_rate_that_cannot_be_is_refused(tmp_path):
    path = write_wav(tmp_path / "a.wav", np.zeros(4 * RATE))
    data = bytearray(path.read_bytes())
    data[24:28] = struct.pack("<I", 1)
    path.write_bytes(data)
    with pytest.raises(MediaError, match="says that its sound has 1 samples a second, which is impossible"):
        probe(path)


@pytest.mark.parametrize("claimed", [0, 100, 20_000, 0xFFFFFFFF])
def test_a_header_that_is_too_short_hides_no_sound(tmp_path, claimed):
    sound = tune(5) / 32768
    path = write_wav(tmp_path / "a.wav", sound)
    data = bytearray(path.read_bytes())
    at = data.index(b"data")
    data[at + 4 : at + 8] = struct.pack("<I", claimed)
    path.write_bytes(data)
    list(read_sound(probe(path)))
    assert len(samples_of(probe(path))) == pytest.approx(5 * RATE, abs=400)


def test_what_follows_the_sound_is_not_played(tmp_path):
    path = write_wav(tmp_path / "a.wav", tune(2) / 32768)
    with path.open("ab") as file:
        file.write(b"LIST" + struct.pack("<I", 20_000) + b"INFO" + bytes(19_996))
    list(read_sound(probe(path)))
    assert len(samples_of(probe(path))) == pytest.approx(2 * RATE, abs=10)


def test_a_name_that_is_no_text(window, tmp_path, qtbot):
    path = os.fsencode(tmp_path) + b"/caf\xe9 \xff.wav"
    shutil.move(write_wav(tmp_path / "a.wav", tune(2) / 32768), path)
    path = next(tmp_path.glob("caf*"))
    media = probe(path)
    assert media.name == "caf\ufffd \ufffd.wav"
    list(read_sound(media))
    window.filing.open_path(path)
    assert window.session.recording is not None
    project = tmp_path / "p.dubrel"
    window.session.save(project)
    assert open_project(project).media.path == str(path)
    assert find_media(open_project(project).media, project) == path
    assert (
        subprocess.run(
            [sys.executable, "-m", "dubrel", "transcribe", str(path), "-o", str(tmp_path / "x.srt")],
            cwd=ROOT,
            capture_output=True,
            check=False,
        ).returncode
        == 2
    )  # nobody speaks in it


def test_a_pipe_is_refused_and_not_waited_for(tmp_path):
    os.mkfifo(tmp_path / "pipe.wav")
    with pytest.raises(MediaError, match="is not a file"):
        probe(tmp_path / "pipe.wav")
    os.mkfifo(tmp_path / "pipe.dubrel")
    with pytest.raises(DubrelError, match="is not a file"):
        open_project(tmp_path / "pipe.dubrel")


def test_two_processes_read_the_same_recording_at_once(tmp_path):
    path = write_wav(tmp_path / "a.wav", tune(40) / 32768)
    code = (
        "import sys; from pathlib import Path; from dubrel.media.probe import probe\n"
        "from dubrel.media.sound import read_sound, samples_of\n"
        "for _ in range(4): list(read_sound(probe(Path(sys.argv[1]))))\n"
        "print(len(samples_of(probe(Path(sys.argv[1])))))"
    )
    both = [
        subprocess.Popen([sys.executable, "-c", code, str(path)], cwd=ROOT, stdout=subprocess.PIPE, text=True)
        for _ in range(2)
    ]
    assert [one.communicate(timeout=60)[0].strip() for one in both] == [str(40 * RATE)] * 2
    assert not list(cache_folder(probe(path)).glob("*.part*"))


def test_what_another_process_has_just_read_stays_while_it_is_read_again(tmp_path):
    media = probe(write_wav(tmp_path / "a.wav", tune(5) / 32768))
    ours = read_sound(media)  # it was not read when this began, ...
    list(read_sound(media))  # ... and another process was quicker
    (cache_folder(media) / "made-of-it").touch()
    next(ours)
    assert is_read(media) and len(samples_of(media)) == 5 * RATE
    assert not (cache_folder(media) / "made-of-it").exists()
    list(ours)
    assert is_read(media)


def test_a_cache_that_cannot_be_made_is_one_sentence(tmp_path, monkeypatch):
    path = write_wav(tmp_path / "a.wav", tune(1) / 32768)
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("DUBREL_CACHE", str(tmp_path / "file" / "cache"))
    with pytest.raises(MediaError, match=r"cache .* cannot be written: a folder of its path is a file"):
        list(read_sound(probe(path)))


def test_cached_sound_is_private(tmp_path, monkeypatch):
    monkeypatch.setenv("DUBREL_CACHE", str(tmp_path / "made" / "on the way" / "cache"))
    path = write_wav(tmp_path / "a.wav", tune(1) / 32768)
    list(read_sound(probe(path)))
    folder = cache_folder(probe(path))
    made = (folder, cache_root(), cache_root().parent, cache_root().parent.parent)
    assert {one.stat().st_mode & 0o777 for one in made} == {0o700}
    assert {one.stat().st_mode & 0o777 for one in folder.iterdir()} == {0o600}


def test_a_recording_that_was_found_from_the_project_is_found_again_after_saving(
    window, tmp_path, boards, monkeypatch
):
    """The absolute path of the one who made it is of no use here; only the relative one finds it."""
    path, _ = two_takes(tmp_path)
    project = tmp_path / "p.dubrel"
    for stale in ("a.wav", "/nowhere/a.wav"):
        save(replace(boards, media=Media("a.wav", stale, "", 60_000, "a.wav")), project)
        monkeypatch.chdir("/")
        window.filing.open_path(project)
        assert window.session.media_path == path
        window.session.save(project)
        assert open_project(project).media.relative == "a.wav"
        (tmp_path / "deep").mkdir(exist_ok=True)
        window.session.save(tmp_path / "deep" / "q.dubrel")
        assert open_project(tmp_path / "deep" / "q.dubrel").media.relative == "../a.wav"
        window.filing.open_path(tmp_path / "deep" / "q.dubrel")
        assert window.session.media_path == path


def test_a_recording_that_is_not_there_keeps_its_link(window, tmp_path, boards):
    project = tmp_path / "p.dubrel"
    save(replace(boards, media=Media("a.wav", "/nowhere/a.wav", "", 60_000, "sound/a.wav")), project)
    window.filing.open_path(project)
    window.session.save(project)
    assert open_project(project).media.relative == "sound/a.wav"


def test_a_project_written_elsewhere_by_the_command_line_finds_its_recording(tmp_path, boards):
    from dubrel.cli import main

    path, _ = two_takes(tmp_path)
    save(replace(boards, media=Media("a.wav", "a.wav", "", 60_000, "a.wav")), tmp_path / "p.dubrel")
    (tmp_path / "deep").mkdir()
    assert main(["convert", str(tmp_path / "p.dubrel"), str(tmp_path / "deep" / "q.dubrel")]) == 0
    found = open_project(tmp_path / "deep" / "q.dubrel").media
    assert find_media(found, tmp_path / "deep" / "q.dubrel") == path


def test_a_recording_that_moved_is_played_where_it_is_now(window, qtbot, tmp_path, boards, monkeypatch):
    path, _ = two_takes(tmp_path)
    project = tmp_path / "p.dubrel"
    save(replace(boards, media=seen(probe(path), path)), project)
    moved = tmp_path / "moved.wav"
    path.rename(moved)
    window.filing.open_path(project)
    assert window.session.media_path is None
    sources = []
    monkeypatch.setattr(window.player, "set_source", sources.append)
    window.dialogs.recording = lambda name: moved
    window.commands.run("find_media")
    assert window.session.media_path == moved and sources == [moved]
    qtbot.waitUntil(lambda: window.session.seen is not None)
    window.filing.save()
    QTest.keyClicks(window.sheet, "x ")
    window.commands.run("undo")
    assert sources == [moved]


@pytest.mark.parametrize(
    "text",
    [
        "#EXTM3U\n#EXTINF:10,\nhttp://127.0.0.1:9/a.ts\n",
        "ffconcat version 1.0\nfile '/etc/passwd'\n",
        "[playlist]\nFile1=/etc/passwd\n" * 2,
    ],
)
def test_a_list_of_other_places_is_no_recording_whatever_its_name(tmp_path, text):
    path = tmp_path / "a.wav"
    path.write_text(text)
    assert find_media(Media("a.wav", str(path), "", 1000), None) is None
    with pytest.raises(MediaError, match="is not a sound or video file"):
        probe(path)


def test_another_recording_is_transcribed_only_if_it_is_to_be_the_projects(window, qtbot, tmp_path, boards):
    a, b = two_takes(tmp_path)
    project = tmp_path / "p.dubrel"
    save(replace(boards, media=seen(probe(a), a)), project)
    shutil.copy(b, a)
    window.filing.open_path(project)
    qtbot.waitUntil(lambda: window.session.is_another)
    qtbot.waitUntil(lambda: not window.jobs.busy)
    asked = []
    window.dialogs.yes = lambda question, go="": asked.append(go) or False
    window.commands.run("transcribe")
    assert asked == ["Use it"] and not window.jobs.runs("transcribe") and window.session.is_another
    window.dialogs.yes = lambda question, go="": asked.append(go) or go == "Use it"
    window.commands.run("transcribe")
    assert asked[1:] == ["Use it", "Transcribe again"] and not window.session.is_another
    qtbot.waitUntil(lambda: window.session.seen is not None)
    window.session.save(project)
    assert open_project(project).media.fingerprint == content_digest(b)
