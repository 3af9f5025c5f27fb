"""Odd and hostile files by a fixed seed: refused in one sentence or read.

``tools/fuzz.py`` runs as many as wished.
"""

import io
import json
import sys
import time
import zipfile

import fuzz
import pytest
from conftest import words
from PySide6.QtTest import QTest
from random_checks import check_project
from recordings import to_json

from dubrel.base.errors import DubrelError, ProjectError
from dubrel.base.value import replace
from dubrel.formats.register import read_file
from dubrel.formats.scripts.script import read_script
from dubrel.model import Media
from dubrel.store.projectfile import open_project, read_project, save


def test_mutated_files_of_every_form_raise_only_our_errors(tmp_path):
    for suffix, data in fuzz.files(300, seed=11):
        path = tmp_path / f"case{suffix}"
        path.write_bytes(data)
        fuzz.read_case(path)


def test_damaged_projects_are_refused_or_read(tmp_path):
    path, refused = tmp_path / "case.dubrel", 0
    for _, data in fuzz.damaged(fuzz.demo_file(), 300, seed=12):
        path.write_bytes(data)
        try:
            read_project(path)
        except DubrelError as error:
            refused += 1
            assert "\n" not in str(error)
    assert refused > 200


def test_wrong_projects_become_sound_ones_in_the_window(window, tmp_path):
    """Whatever stands in them: every room is shown, something is typed and undone, it is saved and opened."""
    errors = []
    monkey, sys.excepthook = sys.excepthook, lambda *error: errors.append(error)
    opened = 0
    try:
        for nth, data in enumerate(fuzz.wrong(fuzz.demo_value(), 25, seed=13)):
            path = tmp_path / f"{nth}.dubrel"
            path.write_bytes(data)
            if not window.filing.open_path(path):
                continue
            opened += 1
            for room in window.rooms:
                window.show_room(room)
                window.grab()
            window.show_room("wording")
            QTest.keyClicks(window.sheet, "x ")
            project = window.session.project
            check_project(project, {word.id for word in words(project)})
            window.commands.run("undo")
            window.commands.run("zoom_all")
            window.session.save(tmp_path / "saved.dubrel")
            again = read_project(tmp_path / "saved.dubrel")
            assert again.fixed == () and again.project.transcript == window.session.project.transcript
    finally:
        sys.excepthook = monkey
    assert opened > 12 and not errors


@pytest.mark.parametrize("suffix", [".srt", ".vtt", ".txt", ".ctm", ".json"])
def test_no_file_makes_a_reader_take_the_square_of_its_time(tmp_path, suffix):
    """A bound so wide that only a square can break it; made one by one, for they are large."""
    path, read = tmp_path / f"long{suffix}", 0
    for data in (data for one, data in fuzz.long_ones(40_000) if one == suffix):
        path.write_bytes(data)
        began = time.monotonic()
        fuzz.read_case(path)
        assert time.monotonic() - began < 30, data[:20]
        read += 1
    assert read > 3


def packed(path, text, **how):
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("project.json", text, **how)
    return path


def test_a_project_that_unpacks_without_end_is_refused(tmp_path):
    path = packed(tmp_path / "bomb.dubrel", b'{"version": 3, "title": "' + b" " * (200 << 20) + b'"}')
    assert path.stat().st_size < 1 << 20
    with pytest.raises(ProjectError, match="larger than a project can be"):
        open_project(path)


@pytest.mark.parametrize(
    "text",
    [
        b"[" * 100_000,
        b'{"version": 1e999}',
        b'{"version": "3"}',
        b'{"version": true}',
        b'{"version": -1}',
        b"\xff\xfe",
        b"3",
        b"",
    ],
)
def test_a_project_that_is_none_is_one_sentence(tmp_path, text):
    with pytest.raises(ProjectError, match="is damaged, or is not a Dubrel project"):
        open_project(packed(tmp_path / "p.dubrel", text))


def test_an_encrypted_project_is_refused(tmp_path, boards):
    path = tmp_path / "p.dubrel"
    save(boards, path)
    data = bytearray(path.read_bytes())
    for mark in (b"PK\x03\x04", b"PK\x01\x02"):
        data[data.index(mark) + (6 if mark[2] == 3 else 8)] |= 1
    path.write_bytes(data)
    with pytest.raises(ProjectError, match="is damaged"):
        open_project(path)


def opened_with(tmp_path, project, change):
    """What is read of a project in whose file something was changed."""
    value = to_json(project)
    change(value)
    return read_project(packed(tmp_path / "p.dubrel", json.dumps(value)))


def test_ids_that_are_given_twice_become_others(tmp_path, boards):
    ids = [word.id for word in words(boards)]
    found = opened_with(tmp_path, boards, lambda value: value["words"]["id"].__setitem__(3, ids[2]))
    assert len({word.id for word in words(found.project)}) == len(ids)
    assert max(word.id for word in words(found.project)) < found.project.next_id
    assert found.fixed == ("1 id was missing or given twice and is another now.",)


def test_impossible_times_become_the_nearest_possible(tmp_path, boards):
    def change(value):
        value["words"]["start_ms"][0] = -5
        value["words"]["end_ms"][0] = 999_999 * 3_600_000
        value["words"]["doubt"][1] = 7

    found = opened_with(tmp_path, boards, change)
    first = words(found.project)[0]
    assert (first.start_ms, first.end_ms) == (0, 360_000_000) and words(found.project)[1].doubt == 1
    assert found.fixed == (
        "2 times were impossible and are the nearest possible ones now.",
        "1 number was impossible and is the nearest possible one now.",
    )


@pytest.mark.parametrize("rate", ["1/0", "1e99999999", "0/0", "-25", "9" * 400, "nan", 25, "1/" + "0" * 9])
def test_a_frame_rate_that_cannot_be_is_none(tmp_path, boards, rate):
    media = Media("a.wav", "/tmp/a.wav", "", 1000)
    project = replace(boards, media=media)
    found = opened_with(tmp_path, project, lambda value: value["media"].__setitem__("frame_rate", rate))
    assert found.project.media.frame_rate is None and len(found.fixed) == 1


def test_what_was_fixed_is_said_on_opening(window, tmp_path, boards):
    value = to_json(boards)
    value["words"]["text"][0] = ""
    path = packed(tmp_path / "p.dubrel", json.dumps(value))
    window.filing.open_path(path)
    assert window.message.toolTip() == "1 word without a text was left out."
    assert len(words(window.session.project)) == len(words(boards)) - 1


def test_a_document_that_unpacks_without_end_or_is_damaged_is_refused(tmp_path):
    import docx

    path = tmp_path / "a.docx"
    document = docx.Document()
    document.add_paragraph("ANN: Hello there.")
    document.save(str(path))
    assert read_script(path)[0].text == "Hello there."
    whole = path.read_bytes()
    for cut in (30, len(whole) // 2, len(whole) - 5):
        path.write_bytes(whole[:cut])
        with pytest.raises(DubrelError, match="is not a readable"):
            read_script(path)
    entries = {}
    with zipfile.ZipFile(io.BytesIO(whole)) as archive:
        entries = {name: archive.read(name) for name in archive.namelist()}
    for text, said in ((b"<w:document", "is not a readable"), (b" " * (40 << 20), "unpacks to more")):
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, data in entries.items():
                archive.writestr(name, text if name == "word/document.xml" else data)
        with pytest.raises(DubrelError, match=said):
            read_script(path)


def test_a_caption_file_larger_than_any_is_refused(tmp_path):
    path = tmp_path / "large.srt"
    with path.open("wb") as file:
        file.truncate(100 << 20)
    with pytest.raises(DubrelError, match="larger than 16 MB"):
        read_file(path)
