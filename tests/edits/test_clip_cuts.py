"""Clips as cuts of their own: made with room, trimmed word by word, joined, kept."""

from __future__ import annotations

from fractions import Fraction
from random import Random

import pytest
from conftest import words
from random_projects import any_project
from samples import boat_project

from dubrel.base.errors import DubrelError
from dubrel.base.timecode import frames_to_ms, ms_to_frames
from dubrel.base.value import replace
from dubrel.edits.cuts.clips import clip_trimmed, clips_joined, clips_of, said_in, with_clip, with_clip_once
from dubrel.edits.cuts.cutting import cut_project
from dubrel.edits.cuts.trimming import length_of, with_whole
from dubrel.edits.notes import CHAPTER, with_note
from dubrel.model import Media
from dubrel.store.projectfile import read_project, save


def boat(rate=None):
    media = Media("boat.wav", "/nowhere/boat.wav", "", 40_000, frame_rate=rate, channels=1, width=640)
    return replace(boat_project(), media=media if rate else replace(media, width=0))


def clip_from(project, first, last, name="Clip"):
    """A clip from one word to another, by their texts."""
    found = words(project)
    start = next(word for word in found if word.text == first)
    end = next(word for word in found if word.text == last and word.end_ms > start.start_ms)
    return with_clip(project, name, [(start.start_ms, end.end_ms)])


def middle(word):
    return (word.start_ms + word.end_ms) // 2


@pytest.mark.parametrize("rate", [None, Fraction(25), Fraction(30000, 1001)])
def test_a_clip_holds_its_words_and_no_other(rate):
    project = boat(rate)
    made, clip_id = clip_from(project, "Tobiah,", "away?")
    clip = made.cut(clip_id)
    assert said_in(made, clip) == "Tobiah, what did you find when the water went away?"
    assert clips_of(made) == [clip]
    if rate is not None:
        for one in clip.passages:
            assert frames_to_ms(ms_to_frames(one.start_ms, rate), rate) == one.start_ms


def test_in_any_project_a_clip_of_any_words_holds_them_all():
    chance = Random(27)
    tried = 0
    while tried < 60:
        project = any_project(chance)
        said = sorted(words(project), key=lambda word: word.start_ms)
        if len(said) < 4:
            continue
        tried += 1
        first = chance.randrange(len(said) - 3)
        some = said[first : first + chance.randint(2, 40)]
        start, end = some[0].start_ms, max(word.end_ms for word in some)
        if end - start < 200:
            continue
        made, clip_id = with_clip(project, "Some", [(start, end)])
        [passage] = made.cut(clip_id).passages
        length = length_of(project)
        missing = [
            w for w in some if not passage.start_ms <= middle(w) < passage.end_ms and w.end_ms <= length
        ]
        assert missing == []


def test_the_name_of_a_clip_that_is_taken_gets_a_number():
    project, first = clip_from(boat(), "Mostly", "tired.", "Mostly oak")
    project, second = clip_from(project, "We", "storm.", "Mostly oak")
    assert [project.cut(one).name for one in (first, second)] == ["Mostly oak", "Mostly oak 2"]


def test_a_clip_that_is_there_already_stays_one():
    project, first = clip_from(boat(), "Mostly", "tired.", "Mostly oak")
    words_of = [word for word in words(project) if word.text in ("Mostly", "tired.")]
    span = (words_of[0].start_ms, words_of[1].end_ms)
    assert with_clip_once(project, "Another name", [span]) == (project, first)
    assert len(with_clip_once(project, "More", [(span[0], span[1] + 3000)])[0].cuts) == 2


def test_trimming_goes_word_by_word_and_stops_at_the_last_one():
    project, clip = clip_from(boat(), "Mostly", "tired.")
    project = clip_trimmed(project, clip, "in", 1)
    assert said_in(project, project.cut(clip)) == "oak, and most of it tired."
    project = clip_trimmed(project, clip, "out", 1)
    assert said_in(project, project.cut(clip)) == "oak, and most of it tired. We"
    project = clip_trimmed(clip_trimmed(project, clip, "out", -1), clip, "out", -1)
    assert said_in(project, project.cut(clip)) == "oak, and most of it"
    project = clip_trimmed(clip_trimmed(project, clip, "in", -1), clip, "in", -1)
    assert said_in(project, project.cut(clip)) == "away? Mostly oak, and most of it"


def test_trimming_keeps_a_word():
    project, clip = clip_from(boat(), "Mostly", "Mostly")
    with pytest.raises(DubrelError, match="at least one word"):
        clip_trimmed(project, clip, "in", 1)
    with pytest.raises(DubrelError, match="at least one word"):
        clip_trimmed(project, clip, "out", -1)


def test_a_clip_at_the_very_start_and_one_at_the_very_end():
    project = boat()
    said = words(project)
    first = with_clip(project, "First", [(0, said[2].end_ms)])[0].cuts[0]
    assert first.passages[0].start_ms == 0
    made, clip_id = with_clip(project, "Last", [(said[-3].start_ms, said[-1].end_ms)])
    assert made.cut(clip_id).passages[0].end_ms <= 40_000
    with pytest.raises(DubrelError, match="no word there"):
        clip_trimmed(made, clip_id, "out", 1)


def test_a_clip_of_nothing_is_refused():
    with pytest.raises(DubrelError, match="nothing to make a clip of"):
        with_clip(boat(), "Nothing", [(50_000, 60_000)])


def test_joined_clips_play_one_after_the_other():
    project, one = clip_from(boat(), "Nobody", "years,")
    project, other = clip_from(project, "Mostly", "tired.")
    project, _ = with_whole(project)
    joined, both = clips_joined(project, [one, other], "Both")
    assert [cut.name for cut in joined.cuts] == ["The cut", "Both"]
    assert said_in(joined, joined.cut(both)).startswith("Nobody had opened")
    assert said_in(joined, joined.cut(both)).endswith("most of it tired.")
    assert joined.cut(both).clip
    made = cut_project(joined, joined.cut(both))
    assert [word.text for word in words(made)][-6:] == ["oak,", "and", "most", "of", "it", "tired."]
    with pytest.raises(DubrelError, match="only one clip"):
        clips_joined(project, [one], "One")


def test_passages_that_touch_become_one():
    project = boat()
    said = words(project)
    spans = [(said[3].start_ms, said[6].end_ms), (said[6].start_ms, said[9].end_ms)]
    made, clip = with_clip(project, "Both", spans)
    assert len(made.cut(clip).passages) == 1


def test_a_clip_has_no_chapters_and_the_cut_of_an_hour_has(tmp_path):
    project = boat()
    project = with_note(project, CHAPTER, "The storm", [words(project)[20].id])[0]
    made, clip = with_clip(project, "Storm", [(0, 30_000)])
    assert [one.kind for one in cut_project(made, made.cut(clip)).notes] == []
    cut = replace(made.cut(clip), clip=False)
    assert [one.kind for one in cut_project(made, cut).notes] == [CHAPTER]


def test_clips_are_kept_in_the_file(tmp_path):
    project, _ = clip_from(boat(), "Mostly", "tired.")
    project = with_whole(project)[0]
    save(project, tmp_path / "boat.dubrel")
    assert read_project(tmp_path / "boat.dubrel").project.cuts == project.cuts
    assert [one.clip for one in project.cuts] == [True, False]
