"""A series: its file, how its episodes stand, search over all of them, checks over all."""

import json
import sqlite3
from pathlib import Path

import pytest
from conftest import spoken

from dubrel.base.errors import DubrelError, ProjectError
from dubrel.base.folders import cache_root
from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.track import begin_track
from dubrel.edits.words.wording import replace_text, set_proofed
from dubrel.jobs.series.differences import differences
from dubrel.jobs.series.searchindex import SeriesIndex, Wanted
from dubrel.jobs.series.standing import standing_in
from dubrel.model import Project, RecognisedTurn, Speaker, Term
from dubrel.store.projectfile import open_project, save
from dubrel.store.seriesfile import Series, read_series, with_episodes, write_series
from dubrel.translation.choosing import missing_tasks
from dubrel.user.styles import all_styles

TEXTS = (
    "The sternpost is oak. It is dry now.",
    "Nobody knew the Heron then. She was oak below the water, and elm above it.",
    "Café talk. 古い船があります。",
)
NAMES = ("Isolde", "Tobiah", "Tobia")


def episode(path: Path, nth: int, language: str = "en") -> Path:
    """An episode of one speaker, with a term."""
    turn = RecognisedTurn(tuple(spoken(TEXTS[nth], start=1000)), "s1")
    made = set_turns(Project(title=f"Episode {nth + 1}"), [turn], [Speaker("s1", NAMES[nth])], language)
    save(replace(made, terms=(Term(("Heron", "heron", "Kestrel")[nth]),)), path)
    return path


@pytest.fixture
def series(tmp_path):
    """Three episodes in a folder, and the series file beside it."""
    (tmp_path / "season").mkdir()
    paths = [episode(tmp_path / "season" / f"{nth + 1}.dubrel", nth) for nth in range(3)]
    made, _ = with_episodes(Series("Slow Water"), paths, tmp_path)
    write_series(made, tmp_path / "slow.dubrel-series")
    return tmp_path / "slow.dubrel-series"


@pytest.fixture
def index(series):
    made = SeriesIndex(series)
    list(made.update(read_series(series)[0].paths(series.parent)))
    yield made
    made.close()


def update(index, series):
    found = read_series(series)[0]
    list(index.update(found.paths(series.parent), found.languages))


def rows_of(index):
    """All that is in the index, with its numbers."""
    from dubrel.jobs.series.searchindex import _PAGE, _unpacked

    pages = sqlite3.connect(index.file).execute("SELECT id, body FROM page")
    rows = [(number * _PAGE + nth, row) for number, body in pages for nth, row in enumerate(_unpacked(body))]
    return {(number, row[4]) for number, row in rows if row is not None}


# -- the file -----------------------------------------------------------------------------------


def test_episodes_stand_in_order_by_their_way_from_the_series_and_each_once(series, tmp_path):
    found, said = read_series(series)
    assert said == []
    assert found.episodes == ("season/1.dubrel", "season/2.dubrel", "season/3.dubrel")
    again, twice = with_episodes(found, [tmp_path / "season" / ".." / "season" / "2.dubrel"], tmp_path)
    assert (again, [one.name for one in twice]) == (found, ["2.dubrel"])
    (tmp_path / "away").mkdir()
    far, _ = with_episodes(found, [episode(tmp_path / "away" / "4.dubrel", 0)], tmp_path / "season")
    assert far.episodes[-1] == str(tmp_path / "away" / "4.dubrel")


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("not json", "damaged, or is not a series"),
        ("[]", "is not a series"),
        ('{"dubrel_series": 7, "title": "x", "episodes": []}', "newer version of Dubrel"),
        ('{"dubrel_kit": 1}', "is not a series"),
    ],
)
def test_what_is_no_series_is_said(tmp_path, text, message):
    path = tmp_path / "x.dubrel-series"
    path.write_text(text)
    with pytest.raises(ProjectError, match=message):
        read_series(path)
    with pytest.raises(ProjectError, match="does not exist"):
        read_series(tmp_path / "none.dubrel-series")


def test_what_does_not_fit_in_a_series_is_left_out_and_said(tmp_path):
    path = tmp_path / "x.dubrel-series"
    path.write_text(
        json.dumps({"dubrel_series": 1, "title": 3, "episodes": ["a", 7, "a", "b\0"], "languages": "de"})
    )
    found, said = read_series(path)
    assert found == Series("Untitled", ("a",))
    assert said == ["3 episodes could not be understood and were left out."]


# -- how they stand -------------------------------------------------------------------------------


def test_how_an_episode_stands(tmp_path):
    project = open_project(episode(tmp_path / "1.dubrel", 1))
    fresh = standing_in(project, ["de"])
    assert fresh.passes == {
        "intake": 1.0,
        "voices": 1.0,
        "wording": 0.0,
        "cut": -1.0,
        "captions": 0.0,
        "translation": 0.0,
        "release": 0.0,
    }
    assert fresh.todo == ("1 turn not proofed", "no captions yet", "no translation into German")
    done = set_again(set_proofed(project, project.transcript.turns[0].id, True), None)
    standing = standing_in(done)
    assert (standing.passes["wording"], standing.passes["captions"], standing.passes["translation"]) == (
        1.0,
        1.0,
        1.0,
    )
    assert standing_in(Project()).todo == ("not transcribed yet",)


def test_an_episode_that_is_gone_or_newer_is_said_and_the_others_stand(index, series, tmp_path):
    (tmp_path / "season" / "1.dubrel").unlink()
    (tmp_path / "season" / "2.dubrel").write_bytes(b"no project")
    update(index, series)
    first, second, third = index.episodes()
    assert "does not exist" in first.problem
    assert "is damaged" in second.problem
    assert third.standing.title == "Episode 3"
    assert index.find("sternpost") == []
    assert len(differences(index.episodes())) >= 2


# -- search -----------------------------------------------------------------------------------------


def test_words_are_found_in_all_episodes_with_who_and_when(index, tmp_path):
    found = index.find("oak")
    assert sorted((Path(one.path).stem, one.speaker) for one in found) == [("1", "Isolde"), ("2", "Tobiah")]
    [one] = index.find("it is DRY")
    first = open_project(tmp_path / "season" / "1.dubrel").transcript.turns[0]
    assert (one.text, one.start_ms) == ("It is dry now.", first.words[4].start_ms)
    assert [one.text for one in index.find("stern")] == ["The sternpost is oak."]
    assert index.find("stern ") == []
    assert [Path(one.path).stem for one in index.find("oak", Wanted(speaker="tobiah"))] == ["2"]
    assert index.find("oak", Wanted(language="de")) == []


def test_accents_and_scripts_without_spaces(index):
    assert [one.text for one in index.find("cafe")] == ["Café talk."]
    assert [Path(one.path).stem for one in index.find("船が")] == ["3"]
    assert index.find("…") == []
    assert index.find('oak" OR "dry') == []


def test_translations_are_found_in_their_language(index, series, tmp_path):
    path = tmp_path / "season" / "1.dubrel"
    project, track_id = begin_track(set_again(open_project(path), None), "pt")
    track = project.track(track_id)
    tasks = missing_tasks(project, track)
    project = with_translations(
        project, track.id, tuple(one.made("O cadaste é de carvalho.") for one in tasks)
    )
    save(project, path)
    update(index, series)
    assert {one.language for one in index.find("carvalho")} == {"pt"}
    assert index.find("carvalho", Wanted(language="en")) == []


def test_after_an_edit_only_what_changed_is_written_again(index, series, tmp_path):
    path, before = tmp_path / "season" / "2.dubrel", rows_of(index)
    project = open_project(path)
    turn = project.transcript.turns[0]
    at = turn.text.index("elm")
    save(replace_text(project, turn.id, at, at + 3, "ash"), path)
    update(index, series)
    after = rows_of(index)
    assert [text for _, text in before - after] == ["She was oak below the water, and elm above it."]
    assert [text for _, text in after - before] == ["She was oak below the water, and ash above it."]
    assert index.find("elm") == []
    assert len(index.find("ash")) == 1


def test_an_episode_that_is_taken_off_is_found_no_more(index, series):
    found = read_series(series)[0]
    list(index.update(found.paths(series.parent)[1:]))
    assert index.find("sternpost") == []
    assert len(index.episodes()) == 2


def test_a_damaged_index_is_made_again(index, series):
    index.close()
    [file] = [one for one in (cache_root() / "series").glob("*.sqlite") if one == index.file]
    file.write_bytes(b"SQLite format 3\0" + bytes(range(256)) * 40)
    again = SeriesIndex(series)
    update(again, series)
    assert len(again.find("oak")) == 2
    again.close()


def test_an_index_in_use_elsewhere_is_said(index, series, monkeypatch):
    import dubrel.jobs.series.searchindex as module

    monkeypatch.setattr(module, "_WAIT_S", 0.1)
    other = sqlite3.connect(index.file)
    other.execute("BEGIN EXCLUSIVE")
    again = SeriesIndex(series)
    assert len(again.find("oak")) == 2, "what is known can be asked for meanwhile"
    episode(series.parent / "season" / "1.dubrel", 1)
    with pytest.raises(DubrelError, match="cannot be written: database is locked"):
        update(again, series)
    other.rollback()
    update(again, series)
    assert len(again.find("oak")) == 2
    again.close()
    other.close()


# -- checks, and by command ---------------------------------------------------------------------------


def test_one_name_in_two_spellings_and_languages_that_lack_are_said(index):
    said = differences(index.episodes(), ["de"])
    assert "One speaker, two spellings? “Tobia” in 3; “Tobiah” in 2." in said
    assert "One term, two spellings? “Heron” in 1; “heron” in 2." in said
    assert "3 episodes have no German: 1, 2, 3." in said
    assert len(said) == 3


def test_by_command(tmp_path, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "season").mkdir()
    for nth in range(2):
        episode(tmp_path / "season" / f"{nth + 1}.dubrel", nth)
    assert main(["series", "slow", "new", "--title", "Slow Water", "--languages", "de"]) == 0
    assert main(["series", "slow", "new"]) == 2
    assert "is there already" in capsys.readouterr().err
    assert main(["series", "slow.dubrel-series", "add", "season", "season/1.dubrel", "--json"]) == 0
    printed = capsys.readouterr()
    assert json.loads(printed.out)["episodes"] == ["season/1.dubrel", "season/2.dubrel"]
    assert "“1.dubrel” is in the series already." in printed.err
    assert main(["series", "slow", "status", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)["episodes"]
    assert [one["title"] for one in rows] == ["Episode 1", "Episode 2"]
    monkeypatch.chdir(tmp_path.parent)
    assert main(["series", str(tmp_path / "slow"), "find", "the", "water", "--json"]) == 0
    [one] = json.loads(capsys.readouterr().out)
    assert one["text"].startswith("She was oak")
    assert one["path"] == str(tmp_path / "season" / "2.dubrel")
    monkeypatch.chdir(tmp_path)
    assert main(["series", "slow", "find", "nothing of the kind", "--quiet"]) == 1
    assert main(["series", "slow", "check", "--quiet"]) == 1
    assert "2 episodes have no German: 1, 2." in capsys.readouterr().out
    assert main(["series", "slow", "remove", "1.dubrel", "--quiet"]) == 0
    assert read_series(tmp_path / "slow.dubrel-series")[0].episodes == ("season/2.dubrel",)
    assert main(["series", "slow", "remove", "9.dubrel"]) == 2
    assert main(["series", "slow", "add", "nowhere.dubrel"]) == 2
    assert main(["series", "slow", "find"]) == 2


def test_a_house_style_that_differs_is_said(series, index):
    found, _ = read_series(series)
    paths = found.paths(series.parent)
    for path, name in zip(paths, ("Web", "Web", "Television")):
        save(set_again(open_project(path), all_styles()[name]), path)
    update(index, series)
    said = "Captions in English by “Television”, not by “Web”: 3."
    assert said in differences(index.episodes())
    own = replace(found, styles=(("", all_styles()["Television"]),))
    assert "Captions in English by “Web”, not by “Television”: 1, 2." in differences(
        index.episodes(), (), own
    )
