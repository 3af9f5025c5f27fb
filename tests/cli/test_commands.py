"""The command line, run as a user runs it."""

import json
import shutil
import signal
import subprocess
import sys

import pytest
from conftest import DEMO, scene_truth, truth

from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.media.probe import probe
from dubrel.project.tracks import with_track
from dubrel.release.pdf import letters_of_pdf
from dubrel.store.projectfile import open_project, read_project, save

PODCAST = str(DEMO / "slow-water-7.dubrel")


def dubrel(*args):
    command = [sys.executable, "-m", "dubrel", *map(str, args)]
    return subprocess.run(command, capture_output=True, text=True, check=False)


@pytest.fixture(scope="module")
def transcript(scene, tmp_path_factory):
    path = tmp_path_factory.mktemp("cli") / "film.json"
    done = dubrel("transcribe", scene, "-o", path)
    assert done.returncode == 0, done.stderr
    assert "Transcribing" in done.stderr and done.stdout == ""
    return path


def test_transcribe_writes_the_json_form(transcript):
    value = json.loads(transcript.read_text())
    heard = [word for turn in value["turns"] for word in turn["words"]]
    assert value["dubrel"] == 1 and 0.85 < len(heard) / len(scene_truth()) < 1.15
    assert all(word["start_ms"] <= word["end_ms"] for word in heard)


@pytest.mark.parametrize("suffix", [".srt", ".vtt", ".txt", ".ctm", ".dubrel", ".json"])
def test_convert_to_every_form(transcript, tmp_path, suffix):
    out = tmp_path / f"out{suffix}"
    assert main(["convert", str(transcript), str(out)]) == 0
    assert out.stat().st_size > 100
    if suffix == ".dubrel":
        assert open_project(out).transcript.word_count > 40


def test_captions_then_check(transcript, tmp_path, capsys):
    out = tmp_path / "film.srt"
    assert main(["captions", str(transcript), "-o", str(out)]) == 0
    status = main(["check", str(out), "--json"])
    report = json.loads(capsys.readouterr().out)
    broken = {row["rule"] for row in report["findings"] if row["must"]}
    assert status == len(broken) and broken <= {"speed"}


def test_check_finds_a_broken_rule(tmp_path, capsys):
    path = tmp_path / "bad.srt"
    path.write_text("1\n00:00:00,000 --> 00:00:01,000\n" + "x" * 50 + "\n")
    assert main(["check", str(path)]) == 1
    printed = capsys.readouterr().out
    assert "line length" in printed and "speed" in printed


def test_the_demo_project_is_half_finished():
    project = open_project(DEMO / "slow-water-7.dubrel")
    turns = project.transcript.turns
    proofed = sum(turn.proofed for turn in turns)
    assert 0 < proofed < len(turns)
    assert len(project.transcript.speakers) == 3 and all(turn.speaker for turn in turns)
    said = {text for text, _, _ in truth("slow-water-7")}
    assert sum(word.text not in said for turn in turns if turn.proofed for word in turn.words) == 0
    assert sum(word.text not in said for turn in turns for word in turn.words) > 10


@pytest.mark.parametrize(
    ("args", "said"),
    [
        (["transcribe", "no such.wav", "-o", "x.srt"], "no such.wav"),
        (["transcribe", str(DEMO / "heron-film.mp4"), "-o", "x.doc"], "cannot be written"),
        (["transcribe", str(DEMO / "heron-film.mp4"), "-o", "nowhere/x.srt"], "folder does not exist"),
        (["captions", str(DEMO / "slow-water-7.dubrel"), "-o", "x.srt", "--style", "none"], "no house style"),
        (["convert", str(DEMO / "story.py"), "x.srt"], "cannot be read"),
        (["--nonsense"], "no option"),
        (["convert", PODCAST, "x.srt", "--between", "99:00-99:10"], "“Slow Water 7” is only 2:45 long"),
        (["convert", PODCAST, "x.srt", "--between", "0:00-0:02"], "Nothing is said between 00:00:00 and"),
        (["convert", PODCAST, "x.srt", "--between", "0:10-0:20", "--cut", "A"], "cannot be combined"),
        (["release", PODCAST, "-o", "out", "--between", "9:00-9:10"], "is only 2:45 long"),
        (["release", str(DEMO / "heron-film.mp4"), "-o", "out"], "is a recording. Turn it into words first"),
        (["transcribe", str(DEMO / "heron-film.mp4"), "-o", "x.srt", "--between", "5:00-6:00"], "only 1:05"),
        (["check", PODCAST, "--report", "r.txt"], "A report is a web page or a PDF"),
        (["find", "  ", PODCAST], "Nothing to find was named"),
        (["find", "oak", PODCAST, "--sounds-like", "--most", "0"], "--most is how many"),
        (["translate", PODCAST, "--to", "xx", "-o", "x.srt"], "no language “xx”"),
        (["translate", PODCAST, "--to", "", "-o", "x.srt"], "Write --to pt"),
        (["speak", PODCAST, "-o", "x.wav", "--language", "xx"], "no language “xx”"),
        (["series", "s", "new", "--languages", "de,xx"], "no language “xx”"),
        (["series", "s", "new", "--address", "ftp://x"], "is not an address"),
        (["series", "s", "new", "--kit", "Nope"], "There is no kit"),
        (["series", "s", "new", str(DEMO / "story.py")], "neither a project nor a recording"),
        (["cameras", PODCAST, str(DEMO / "heron-film.mp4"), "-o", "x.otio", "--quiet"], "shares no sound"),
    ],
)
def test_errors_are_one_line_and_status_two(args, said, tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    assert main(args) == 2
    printed = capsys.readouterr().err
    assert said in printed and printed.count("\n") == 1 and "Traceback" not in printed
    assert list(tmp_path.iterdir()) == []


def test_who_wants_no_more_of_the_output_is_told_nothing():
    command = [sys.executable, "-m", "dubrel", "find", "e", PODCAST]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as finding:
        finding.stdout.close()
        assert finding.stderr.read() == b"" and finding.wait() == 128 + signal.SIGPIPE


def test_what_a_translation_lacks_is_translated_and_the_rest_stays(tmp_path):
    project = open_project(DEMO / "slow-water-7.dubrel")
    before = replace(project.tracks[1], captions=project.tracks[1].captions[:20])
    half, whole = tmp_path / "half.dubrel", tmp_path / "whole.dubrel"
    save(with_track(project, before), half)
    assert main(["translate", str(half), "--to", "Portuguese", "-o", str(whole), "--quiet"]) == 0
    after = open_project(whole).tracks[1]
    assert after.id == before.id and len(after.captions) > 40
    given = ["--with", str(DEMO / "slow-water-7.dubrel"), "-o", str(whole), "--quiet"]
    assert main(["translate", str(half), "--to", "pt", *given]) == 2  # it would replace what was approved
    texts = {one.id: one.text for one in after.captions}
    assert [texts.get(one.id) for one in before.captions] == [one.text for one in before.captions]


@pytest.mark.parametrize(("name", "begins"), [("r.pdf", b"%PDF-"), ("r.html", b"<!DOCTYPE html>")])
def test_a_report_for_a_client_is_a_page_or_a_pdf(tmp_path, name, begins):
    assert main(["check", PODCAST, "--report", str(tmp_path / name)]) == 1
    written = (tmp_path / name).read_bytes()
    assert written.startswith(begins)
    text = letters_of_pdf(tmp_path / name) if name.endswith("pdf") else written.decode()
    assert "SlowWater7" in text.replace(" ", "") and "housestyle" in text.replace(" ", "")


def test_an_archive_goes_into_the_folder_where_one_is(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    shutil.copy(PODCAST, "talk.dubrel")
    assert (
        main(["release", "talk.dubrel", "-o", ".", "--kit", "Captions for the web", "--zip", "--quiet"]) == 0
    )
    assert sorted(one.name for one in tmp_path.iterdir()) == ["talk.dubrel", "talk.zip"]


def test_a_passage_is_released_under_its_times(tmp_path):
    project, out = shutil.copy(PODCAST, tmp_path), tmp_path / "out"  # the release is noted in it
    kit = ["--kit", "Captions for the web", "--between", "0:10-0:40", "--quiet"]
    assert main(["release", project, "-o", str(out), *kit]) == 0
    assert "Slow Water 7 – 00-00-10 to 00-00-40 en.srt" in {one.name for one in out.iterdir()}


def test_without_a_display_one_line_says_so(monkeypatch):
    import os

    lean = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    done = subprocess.run(
        [sys.executable, "-m", "dubrel", "demo"], env=lean, capture_output=True, text=True, check=False
    )
    assert done.returncode == 2 and done.stderr.startswith("dubrel: There is no display.")
    assert done.stderr.count("\n") == 1


@pytest.mark.parametrize(
    ("args", "said"),
    [
        (["translat", "x"], "There is no command “translat”"),
        (["transcrib", "x.wav", "-o", "x.srt"], "Did you mean “transcribe”?"),
        (["Check"], "Did you mean “check”?"),
        (["nothing"], "See dubrel --help."),
        (["a.wav", "nonsense"], "“nonsense” is not a file that can be opened"),
    ],
)
def test_a_command_that_is_not_there_is_named(args, said, capsys):
    assert main(args) == 2
    printed = capsys.readouterr().err
    assert said in printed
    assert printed.count("\n") == 1


def test_a_house_style_of_ones_own_is_used_for_setting_and_checking(transcript, tmp_path, capsys):
    style, out = tmp_path / "narrow.json", tmp_path / "narrow.srt"
    style.write_text('{"dubrel_style": 1, "name": "Narrow", "max_lines": 1, "max_cpl": 24, "max_cps": 60}')
    assert main(["captions", str(transcript), "-o", str(out), "--style", str(style)]) == 0
    blocks = [block.splitlines()[2:] for block in out.read_text().strip().split("\n\n")]
    assert {len(lines) for lines in blocks} == {1}
    assert max(len(line) for [line] in blocks) <= 24
    main(["check", str(out), "--style", str(style), "--json"])
    rules = {row["rule"] for row in json.loads(capsys.readouterr().out)["findings"]}
    assert not rules & {"line length", "lines", "speed"}


def test_the_frame_rate_of_the_picture_sets_the_gaps(transcript, scene, tmp_path):
    with_film, without = tmp_path / "film.srt", tmp_path / "sound.srt"
    assert main(["captions", str(transcript), "-o", str(with_film), "--media", str(scene)]) == 0
    assert main(["captions", str(transcript), "-o", str(without)]) == 0
    times = [row.split(" --> ")[0][-3:] for row in with_film.read_text().splitlines() if " --> " in row]
    assert {int(one) % 40 for one in times} == {0}
    assert with_film.read_text() != without.read_text()


def test_clips_are_found_kept_once_and_released(capsys, tmp_path):
    for name in ("slow-water-7.dubrel", "slow-water-7.opus"):
        shutil.copy(DEMO / name, tmp_path)
    project = tmp_path / "slow-water-7.dubrel"
    common = ["clips", str(project), "--length", "8:25", "--most", "3", "--quiet"]
    assert main([*common, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)["clips"]
    assert [8000 <= one["end_ms"] - one["start_ms"] <= 25_000 for one in found] == [True] * 3
    for _ in range(2):
        assert main([*common, "--save"]) == 0
    assert [one.name for one in read_project(project).project.cuts] == [one["title"] for one in found]
    kit = tmp_path / "kit.json"
    items = [{"form": "webvtt"}, {"form": "recording-sound"}]
    kit.write_text(
        json.dumps({"dubrel_kit": 1, "name": "Small", "pattern": "{title}", "deliverables": items})
    )
    assert main([*common[:-3], "--most", "1", "--quiet", "-o", str(tmp_path / "out"), "--kit", str(kit)]) == 0
    [folder] = (tmp_path / "out").iterdir()
    assert sorted(one.suffix for one in folder.iterdir()) == [".mp3", ".vtt"]
    sound = next(folder.glob("*.mp3"))
    assert abs(probe(sound).duration_ms - (found[0]["end_ms"] - found[0]["start_ms"])) < 600
    capsys.readouterr()
    assert main(["clips", str(project), "--length", "1:2000", "--about", "ducks", "--json", "--quiet"]) == 0
    about = json.loads(capsys.readouterr().out)["clips"]
    assert about[0]["reasons"][0].startswith("near what was asked for")


def test_clips_say_what_is_wrong_in_a_sentence(capsys, tmp_path):
    project = str(DEMO / "slow-water-7.dubrel")
    for arguments, said in (
        (["--length", "5"], "is not a length"),
        (["--length", "60:20"], "is not a length"),
        (["--most", "0"], "--most is how many"),
        (["--kit", "Nope", "-o", str(tmp_path)], "There is no kit"),
    ):
        assert main(["clips", project, "--quiet", *arguments]) == 2
        assert said in capsys.readouterr().err
    assert main(["clips", project, "--quiet", "--length", "3000:3600"]) == 1
