"""A series is run through what is missing and released as one: real sound, real files, read by others."""

import csv
import hashlib
import json
import subprocess
import sys
from pathlib import Path
from urllib.parse import unquote
from xml.etree import ElementTree

import numpy as np
import pytest
from conftest import DEMO, ROOT
from episodes import episode
from recordings import part_of

from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.words.wording import set_proofed
from dubrel.jobs.machinery.events import Failed, Finished, OfEpisode
from dubrel.jobs.series.episodework import Wishes, missing_in, wishes_of
from dubrel.jobs.series.orders import run_of
from dubrel.jobs.series.running import Run, run_series
from dubrel.media.probe import probe
from dubrel.media.sound import read_sound, samples_of
from dubrel.model import Look, Term
from dubrel.model.choices import Choices
from dubrel.release.kits import KITS, kit_json
from dubrel.speech.speakers.second_print import person_prints
from dubrel.store.locks import claim
from dubrel.store.projectfile import open_project, save
from dubrel.store.seriesfile import Series, read_series, with_episodes, write_series
from dubrel.user.styles import all_styles

PODCAST = "{https://podcastindex.org/namespace/1.0}"


def done(events):
    """What became of each episode, by its name: the last thing that was said."""
    return {Path(one.path).stem: one.said for one in events if isinstance(one, OfEpisode)}


@pytest.fixture
def season(tmp_path):
    """A recording with a script, a recording without, a project without captions; and the series."""
    part_of(DEMO / "slow-water-7.opus", tmp_path / "script.wav", 6)
    part_of(DEMO / "slow-water-7.opus", tmp_path / "talk.wav", 12)
    words = open_project(DEMO / "slow-water-7.dubrel").transcript.turns[0].text.split()
    (tmp_path / "script.txt").write_text(" ".join(words[:12]))
    episode(tmp_path / "words.dubrel", 0)
    names = ("script.wav", "talk.wav", "words.dubrel")
    series, _ = with_episodes(Series("Slow Water"), [tmp_path / name for name in names], tmp_path)
    style = all_styles()["Television"]
    series = replace(
        series,
        languages=("pt",),
        kit="Podcast episode",
        pattern="{series} {episode} {title} {form} {language}",
        styles=(("", style),),
        look=("Large", Look(size=9.0)),
        terms=(Term("Morwenna"),),
    )
    write_series(series, tmp_path / "slow.dubrel-series")
    return tmp_path / "slow.dubrel-series"


def test_every_episode_gets_what_it_lacks_and_nothing_twice(season):
    series, home = read_series(season)[0], season.parent
    run = replace(run_of(series, season, Choices(speakers="off")), kit=None)
    said = list(run_series(run))
    assert {name: type(last) for name, last in done(said).items()} == dict.fromkeys(
        ("script", "talk", "words"), Finished
    )
    for path in series.paths(home):
        project = open_project(path)
        assert missing_in(project, run.wishes) == [], path
        assert [track.language for track in project.tracks] == ["en", "pt"]
        assert project.tracks[0].style.name == "Television"
        assert project.tracks[0].look.size == 9.0
    script = open_project(home / "script.dubrel").transcript.turns
    expected = (home / "script.txt").read_text()
    assert " ".join(turn.text for turn in script) == expected, "the script, aligned"
    stamps = {path: path.stat().st_mtime_ns for path in series.paths(home)}
    assert done(run_series(run)) == {}, "nothing is missing any more"
    assert {path: path.stat().st_mtime_ns for path in series.paths(home)} == stamps


def test_one_that_fails_or_is_open_elsewhere_does_not_keep_the_others_back(season):
    home = season.parent
    (home / "talk.wav").unlink()
    held = claim(home / "words.dubrel")
    series = replace(read_series(season)[0], languages=())
    said = done(run_series(replace(run_of(series, season, Choices(speakers="off")), kit=None)))
    held.give_up()
    assert isinstance(said["talk"], Failed)
    assert "is open in a window" in said["words"].message
    assert isinstance(said["script"], Finished)


def test_speakers_get_the_names_of_voices_that_the_series_knows(tmp_path):
    path = part_of(DEMO / "slow-water-7.opus", tmp_path / "talk.wav", 17)
    media = probe(path)
    list(read_sound(media))
    turns = [turn.words for turn in open_project(DEMO / "slow-water-7.dubrel").transcript.turns[:2]]
    said = [(word, who) for who in (0, 1) for word in turns[who] if word.end_ms < 17_000]
    words, voices = zip(*said, strict=True)
    prints = person_prints(np.array(samples_of(media)), words, np.array(voices))
    wishes = Wishes(Choices(speakers="auto"), voices=(("Isolde", tuple(prints[0].tolist())),))
    list(run_series(Run((str(path),), wishes)))
    speakers = open_project(path.with_suffix(".dubrel")).transcript.speakers
    assert [who.name for who in speakers] == ["Isolde", ""]


# -- released as one ------------------------------------------------------------------------------


@pytest.fixture
def released(tmp_path, capsys):
    """Two ready episodes and one that is not, released by command."""
    for nth in range(3):
        path = episode(tmp_path / f"part {nth + 1}.dubrel", nth)
        project = set_again(open_project(path), None)
        if nth < 2:
            project = set_proofed(project, project.transcript.turns[0].id, True)
        save(project, path)
    kit = {"dubrel_kit": 1, "name": "Ours", "pattern": "{title} {form} {language}"}
    kit["deliverables"] = [{"form": form} for form in ("webvtt", "page", "json")]
    (tmp_path / "kit.json").write_text(json.dumps(kit))
    names = [str(tmp_path / f"part {nth}.dubrel") for nth in (1, 2, 3)]
    series = str(tmp_path / "slow.dubrel-series")
    assert (
        main(["series", series, "new", *names, "--title", "Slow <Water>", "--kit", "kit.json", "--quiet"])
        == 0
    )
    out = tmp_path / "out"
    more = ("-o", str(out), "--address", "https://example.org/slow/", "--json")
    capsys.readouterr()
    assert main(["series", series, "release", *more]) == 0
    return out, json.loads(capsys.readouterr().out)


def test_what_is_ready_is_released_and_what_is_not_is_named(released):
    out, report = released
    assert sorted(one.name for one in out.iterdir()) == [
        "01 part 1",
        "02 part 2",
        "feed.xml",
        "index.html",
        "released.csv",
    ]
    assert [one for one in report if "said" in one] == [
        {"episode": "part 3", "said": "It is not ready: 1 turn not proofed."}
    ]


def test_the_table_has_every_file_with_its_checksum(released):
    out, _ = released
    rows = list(csv.DictReader((out / "released.csv").open(newline="")))
    assert {row["episode"] for row in rows} == {"1", "2"}
    for row in rows:
        assert hashlib.sha256((out / row["file"]).read_bytes()).hexdigest() == row["sha256"]
        assert row["kit"] == "Ours"


def test_the_feed_names_transcripts_that_are_there(released):
    out, _ = released
    items = ElementTree.parse(out / "feed.xml").getroot().findall("channel/item")
    assert [one.findtext("title") for one in items] == ["Part 2", "Part 1"], "the latest first"
    assert len({one.findtext("guid") for one in items}) == 2
    for item in items:
        found = item.findall(f"{PODCAST}transcript")
        assert [one.get("type") for one in found] == ["text/vtt", "text/html"]
        for one in found:
            path = unquote(one.get("url").removeprefix("https://example.org/slow/"))
            assert (out / path).is_file(), path


def test_a_second_release_keeps_the_guids_and_writes_only_what_changed(released, tmp_path):
    out, _ = released
    path = tmp_path / "part 1.dubrel"
    before = {one: one.stat().st_mtime_ns for one in out.rglob("*.vtt")}
    guids = [one.text for one in ElementTree.parse(out / "feed.xml").iter("guid")]
    save(replace(open_project(path), subtitle="Changed"), path)
    series = str(tmp_path / "slow.dubrel-series")
    assert main(["series", series, "release", "-o", str(out), "--quiet"]) == 0
    changed = {one.parent.name for one, at in before.items() if one.stat().st_mtime_ns != at}
    assert changed == {"01 part 1"}
    assert [one.text for one in ElementTree.parse(out / "feed.xml").iter("guid")] == guids


def in_browser(page, wide, scripts, picture):
    """What scripts in a page find, in a real browser engine; and what it asked for."""
    done = subprocess.run(
        [
            sys.executable,
            str(ROOT / "tests" / "page_in_browser.py"),
            str(page),
            str(wide),
            "800",
            str(picture),
        ],
        input=json.dumps(scripts),
        capture_output=True,
        text=True,
        timeout=100,
    )
    line = next(one for one in done.stdout.splitlines() if one.startswith("ANSWERS"))
    return json.loads(line.removeprefix("ANSWERS "))


TYPE = (
    "(() => {{ const q = document.getElementById('q');"
    " q.value = {}; q.dispatchEvent(new Event('input')); return 0; }})()"
)
SEEN = """JSON.stringify([
  document.getElementById('many').textContent,
  [...document.querySelectorAll('#found li')].map(one => one.innerText),
  [...document.querySelectorAll('#found a')].map(one => one.getAttribute('href')),
  document.getElementById('episodes').hidden,
  document.documentElement.scrollWidth <= innerWidth])"""


@pytest.mark.parametrize("wide", [1280, 390])
def test_the_page_finds_over_all_episodes_in_a_browser_and_asks_nothing_of_anybody(released, tmp_path, wide):
    out, _ = released
    text = (out / "index.html").read_text()
    assert "Slow &lt;Water&gt;" in text
    assert "<Water>" not in text
    steps = [
        TYPE.format("'STERN pos'"),
        500,
        SEEN,
        TYPE.format("'nowhere'"),
        500,
        SEEN,
        TYPE.format("''"),
        500,
        SEEN,
    ]
    found = in_browser(out / "index.html", wide, steps, tmp_path / f"{wide}.png")
    seen = [json.loads(one) for one in found["answers"] if str(one).startswith("[")]
    many, rows, links, hidden, fits = seen[0]
    assert (many, hidden, fits) == ("2 places", True, True)
    assert rows == [
        "01 Part 1 · 0:01 · Isolde\n\nWe found the stern post.",
        "02 Part 2 · 0:01 · Tobiah\n\nIsolde knew the stern post from a photograph.",
    ]
    assert all(unquote(link).partition("#t=")[2] == "1" for link in links)
    assert all((out / unquote(link).partition("#")[0]).is_file() for link in links)
    assert seen[1][:2] == ["Nothing found.", []]
    assert (seen[2][0], seen[2][3]) == ("", False)
    assert [one for one in found["requests"] if not one.endswith("/index.html")] == []


def test_a_series_without_a_kit_is_not_released(tmp_path, capsys):
    series = str(tmp_path / "slow.dubrel-series")
    assert main(["series", series, "new", str(episode(tmp_path / "1.dubrel", 0)), "--quiet"]) == 0
    assert main(["series", series, "release"]) == 2
    assert "no kit" in capsys.readouterr().err
    kit = tmp_path / "mine.json"
    kit.write_text(kit_json(KITS["Captions for the web"]))
    assert main(["series", series, "set", "--kit", kit.name, "--quiet"]) == 0
    kit.unlink()
    assert main(["series", series, "run"]) == 2
    assert "There is no kit “mine.json”" in capsys.readouterr().err
    assert wishes_of(read_series(Path(series))[0]).languages == ()
