"""The project file: nothing is lost, whatever happens to the disk."""

import errno
import json
import os
import shutil
import zipfile
from fractions import Fraction
from pathlib import Path

import pytest
from conftest import words
from recordings import to_json

from dubrel.base.errors import DubrelError, ProjectError
from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.speakers.voices import add_speaker, give_turn
from dubrel.model import Media, Note, Project, Timing
from dubrel.store.projectfile import find_media, from_json, open_project, read_project, save
from dubrel.store.projectjson import VERSION


@pytest.fixture
def full(boards):
    """A project in which every kind of thing occurs."""
    project, speaker = add_speaker(boards, "Isolde “of the yard”")
    turn = project.transcript.turns[0]
    project = give_turn(project, turn.id, speaker)
    changed = replace(turn.words[0], doubt=0.25, timing=Timing.SPREAD, struck=True)
    turn = replace(project.transcript.turns[0], words=(changed, *turn.words[1:]), proofed=True)
    turns = (turn, *project.transcript.turns[1:])
    project = replace(project, transcript=replace(project.transcript, turns=turns, language="en-GB"))
    project = set_again(project, DEFAULT_STYLE)
    media = Media("é 1.mp4", "/far/é 1.mp4", "ab" * 16, 5000, "", Fraction(30000, 1001), 640, 360, 2, 48_000)
    note = Note(project.next_id, 1200, "Query", "Who?")
    return replace(project, media=media, notes=(note,), subtitle="Part", next_id=project.next_id + 1)


def test_everything_comes_back_equal(full, tmp_path):
    path = tmp_path / "a project.dubrel"
    written = save(full, path)
    assert open_project(path) == written
    assert replace(written, media=replace(written.media, relative="")) == full


def test_the_file_is_a_zip_with_documented_json(full, tmp_path):
    path = tmp_path / "p.dubrel"
    save(full, path)
    value = json.loads(zipfile.ZipFile(path).read("project.json"))
    assert value["version"] == VERSION
    assert value["media"]["frame_rate"] == "30000/1001"
    assert from_json(to_json(full)).project == full


def test_a_recording_is_found_where_both_moved(full, tmp_path):
    (tmp_path / "a").mkdir()
    recording = tmp_path / "a" / "sound.wav"
    recording.write_bytes(b"\0x" * 50)
    media = replace(full.media, path=str(recording), name="sound.wav")
    saved = save(replace(full, media=media), tmp_path / "a" / "p.dubrel")
    assert find_media(saved.media, tmp_path / "a" / "p.dubrel") == recording
    shutil.move(tmp_path / "a", tmp_path / "b")
    moved = open_project(tmp_path / "b" / "p.dubrel")
    assert find_media(moved.media, tmp_path / "b" / "p.dubrel") == tmp_path / "b" / "sound.wav"
    os.unlink(tmp_path / "b" / "sound.wav")
    assert find_media(moved.media, tmp_path / "b" / "p.dubrel") is None


def test_a_newer_version_is_refused(full, tmp_path):
    path = tmp_path / "p.dubrel"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps({**to_json(full), "version": VERSION + 1}))
    with pytest.raises(ProjectError, match="newer version of Dubrel"):
        open_project(path)


@pytest.mark.parametrize("keep", [0, 1, 30, 0.5, 0.95])
def test_a_truncated_file_is_refused_in_one_sentence(full, tmp_path, keep):
    path = tmp_path / "p.dubrel"
    save(full, path)
    data = path.read_bytes()
    path.write_bytes(data[: keep if keep >= 1 else int(len(data) * keep)])
    with pytest.raises(ProjectError, match=r"damaged.*nothing was changed") as caught:
        open_project(path)
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize("part", ["words", "turns"])
def test_a_file_without_words_or_turns_is_refused(full, tmp_path, part):
    path = tmp_path / "p.dubrel"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps({**to_json(full), part: 7}))
    with pytest.raises(ProjectError, match="damaged"):
        open_project(path)


@pytest.mark.parametrize(
    "part", ["title", "subtitle", "next_id", "language", "speakers", "tracks", "active", "notes"]
)
def test_a_file_without_another_part_is_read_and_it_is_said(full, tmp_path, part):
    path = tmp_path / "p.dubrel"
    value = to_json(full)
    del value[part]
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps(value))
    found = read_project(path)
    assert [one.text for one in words(found.project)] == [one.text for one in words(full)]
    assert found.fixed[0] == f"Missing or of another type, and left out: {part}."


def test_a_missing_file(tmp_path):
    with pytest.raises(ProjectError, match="does not exist"):
        open_project(tmp_path / "gone.dubrel")


def test_a_full_disk_keeps_the_old_file(full, tmp_path, monkeypatch):
    path = tmp_path / "p.dubrel"
    save(Project(title="old"), path)

    def full_disk(handle):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, "fsync", full_disk)
    with pytest.raises(DubrelError, match="disk is full"):
        save(full, path)
    monkeypatch.undo()
    assert open_project(path).title == "old"
    assert [one.name for one in tmp_path.iterdir()] == ["p.dubrel"]


def test_a_really_full_disk(full, tmp_path):
    """/dev/full stands for a disk without room: the write itself fails."""
    from dubrel.base.files import write_atomically

    with pytest.raises(DubrelError, match="disk is full"):
        write_atomically(tmp_path / "x", lambda file: Path("/dev/full").write_bytes(b"x"))
    assert list(tmp_path.iterdir()) == []


VERSION_1 = {
    "version": 1,
    "title": "Boards",
    "subtitle": "",
    "next_id": 30,
    "media": None,
    "language": "en",
    "speakers": [["s1", "Tobiah", "shipwright"]],
    "turns": [[1, 2, "s1", True, True], [2, 1, None, False]],
    "words": {
        "id": [11, 12, 13],
        "text": ["Mostly", "oak.", "Tired."],
        "start_ms": [1000, 1500, 3000],
        "end_ms": [1400, 2000, 3500],
        "doubt": [0.0, 0.2, 0.4],
        "timing": ["aligned", "aligned", "typed"],
        "struck": [12],
    },
    "captions": {
        "language": "en",
        "style": "Two lines of 42, names at each change",
        "captions": [[21, 1000, 2000, [11, 12], [12], [11]], [22, 3000, 4000, [13], []]],
    },
    "notes": [[25, 1500, "Query", "Which oak?"]],
}


def test_a_project_of_version_1_opens_with_one_track_and_its_notes_on_words(tmp_path):
    path = tmp_path / "old.dubrel"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps(VERSION_1))
    project = open_project(path)
    [track] = project.tracks
    assert project.active == track.id == 30 and project.next_id == 31
    assert track.style == replace(DEFAULT_STYLE, name="Two lines of 42, names at each change", names="change")
    assert track.translates is None
    first, second = track.captions
    assert (first.words, first.breaks, first.named, first.dashed) == ((11, 12), (12,), (11,), ())
    assert (second.id, second.start_ms, second.end_ms, second.words) == (22, 3000, 4000, (13,))
    assert [one.words for one in project.notes] == [(12,)]
    assert project.transcript.turns[0].confirmed and not project.transcript.turns[1].confirmed
    save(project, path)
    assert open_project(path) == project
