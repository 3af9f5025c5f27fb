"""A passage worked on by itself: words replaced between two times, captions and translations of it alone."""

import pytest
from conftest import DEMO, spoken
from samples import SAID, boat_project

from dubrel.cli import main
from dubrel.edits.speakers.assigning import with_overlaps
from dubrel.edits.words.passage import with_passage, words_between
from dubrel.formats.register import read_file
from dubrel.store.projectfile import open_project, save


def texts(project):
    return [(turn.speaker, turn.text) for turn in project.transcript.turns]


def test_words_between_two_times_are_replaced_and_their_neighbours_stay():
    project = boat_project()
    turn = project.transcript.turns[1]
    start, end = turn.words[1].start_ms, turn.words[-2].end_ms
    new = spoken("Entirely other words.", start=start + 100)
    made = with_passage(project, new, start, end)
    assert [one.text for one in words_between(made, start, end)] == ["Entirely", "other", "words."]
    assert made.transcript.turns[0] is project.transcript.turns[0]
    assert texts(made)[1:4] == [
        (turn.speaker, turn.words[0].text),
        (turn.speaker, "Entirely other words."),
        (turn.speaker, turn.words[-1].text),
    ]
    ids = [one.id for turn in made.transcript.turns for one in (turn, *turn.words)]
    assert len(ids) == len(set(ids)) and max(ids) < made.next_id
    shown = {word for caption in made.captions.captions for word in caption.words}
    assert shown <= {word.id for turn in made.transcript.turns for word in turn.words}


def test_over_several_speakers_the_new_words_are_nobodys():
    project = boat_project()
    first, second = project.transcript.turns[:2]
    made = with_passage(project, spoken("Yes.", start=first.start_ms + 50), first.start_ms, second.end_ms)
    assert texts(made)[0] == (None, "Yes.")
    assert texts(made)[1:] == texts(project)[2:]


def test_outside_of_what_was_asked_nothing_is_taken():
    project = boat_project()
    end = project.transcript.turns[-1].end_ms
    made = with_passage(project, spoken("Later on.", start=end + 5000), 0, 1)
    assert texts(made) == texts(project)
    assert (
        texts(with_passage(project, spoken("Later.", start=end + 1000), end + 500, end + 9000))[-1][1]
        == "Later."
    )
    assert with_overlaps(made).transcript == made.transcript


def test_a_passage_is_transcribed_on_the_clock_of_the_whole(tmp_path):
    part = tmp_path / "part.json"
    film = str(DEMO / "heron-film.mp4")
    assert main(["transcribe", film, "-o", str(part), "--between", "0:10-0:25", "--quiet"]) == 0
    words = [w for t in read_file(part).project.transcript.turns for w in t.words]
    assert len(words) > 10
    assert words[0].start_ms >= 9_900 and words[-1].end_ms <= 25_300
    import json

    truth = json.loads((DEMO / "heron-film.truth.json").read_text())
    said = [row for turn in truth["turns"] for row in turn["words"]]
    near = [min(abs(word.start_ms - start) for _, start, _ in said) for word in words]
    assert sorted(near)[len(near) // 2] < 60


def test_only_the_captions_of_a_passage_are_set_again(tmp_path):
    source, out = tmp_path / "boat.dubrel", tmp_path / "out.dubrel"
    save(boat_project(SAID), source)
    before = open_project(source)
    span = before.captions.captions[1]
    order = ["captions", str(source), "-o", str(out), "--style", "Small upright pictures", "--quiet"]
    assert main([*order, "--between", f"0:00-0:{span.start_ms / 1000:.3f}"]) == 0
    after = open_project(out).captions.captions
    kept = [one for one in before.captions.captions if one.start_ms >= span.start_ms]
    assert [one.words for one in after][-len(kept) :] == [one.words for one in kept]


@pytest.mark.parametrize("between", ["1:00", "2:00-1:00", "a-b", "-0:00"])
def test_what_is_no_passage_is_one_sentence(tmp_path, capsys, between):
    source = tmp_path / "boat.dubrel"
    save(boat_project(), source)
    assert main(["convert", str(source), str(tmp_path / "out.srt"), f"--between={between}"]) == 2
    assert "is not a passage" in capsys.readouterr().err


def test_a_passage_is_converted_as_it_plays_by_itself(tmp_path):
    source, out = tmp_path / "boat.dubrel", tmp_path / "out.srt"
    project = boat_project()
    save(project, source)
    first, second = project.captions.captions[1:3]
    clock = lambda ms: f"0:{ms / 1000:06.3f}"  # noqa: E731
    between = f"{clock(first.start_ms)}-{clock(second.end_ms)}"
    assert main(["convert", str(source), str(out), f"--between={between}"]) == 0
    captions = read_file(out).project.captions.captions
    assert captions[0].start_ms == 0 and len(captions) == 2
