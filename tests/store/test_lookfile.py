"""Looks as files: shared as they are, refused in a sentence, and those of earlier projects."""

from __future__ import annotations

import json

import numpy as np
import pytest
from samples import boat_project

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.captions.looks import LOOKS
from dubrel.captions.places import named_place
from dubrel.edits.captions.looks import with_look
from dubrel.film.drawing import contrast, draw_caption
from dubrel.model import Look, Motion
from dubrel.store.lookfile import look_to_json, read_look, write_look
from dubrel.store.projectfile import read_project, save
from dubrel.store.values import Values
from dubrel.user.looks import all_looks, forget_look, keep_look, name_of


@pytest.mark.parametrize("name", LOOKS)
def test_a_look_goes_through_a_file(name, tmp_path):
    write_look(name, LOOKS[name], tmp_path / "look.json")
    assert read_look(tmp_path / "look.json") == (name, LOOKS[name])


@pytest.mark.parametrize(
    "change",
    [
        {"dubrel_look": 2},
        {"name": ""},
        {"colour": "red"},
        {"shape": "round"},
        {"motion": {"words": "backwards"}},
        {"motion": {"speed": 3}},
        {"motion": {"larger": 9000}},
        {"motion": []},
        {"size": True},
    ],
)
def test_what_is_no_look_is_refused_in_a_sentence(change, tmp_path):
    (tmp_path / "look.json").write_text(json.dumps(look_to_json("Ours", Look()) | change))
    with pytest.raises(DubrelError, match=r"“look\.json”: .*\. "):
        read_look(tmp_path / "look.json")


def test_what_is_left_out_is_as_usual(tmp_path):
    (tmp_path / "look.json").write_text('{"dubrel_look": 1, "name": "Red", "motion": {"colour": "#FF0000"}}')
    assert read_look(tmp_path / "look.json") == ("Red", Look(motion=Motion(colour="#FF0000")))


def test_files_from_before_words_moved_keep_the_colour_of_the_spoken_word():
    values = Values({}, keeps=False)
    found = values.look({"font": "Inter", "spoken": "#FFEE00"})
    assert found == Look(motion=Motion(colour="#FFEE00"))
    assert not any(values.wrong.values())
    assert Values({}, keeps=False).look({"spoken": ""}) == Look()


def test_a_moving_look_is_kept_in_the_project_and_by_speaker(tmp_path):
    project = with_look(boat_project(), LOOKS["Three at a time"])
    project = with_look(project, LOOKS["Blue box"], "s1")
    save(project, tmp_path / "boat.dubrel")
    track = read_project(tmp_path / "boat.dubrel").project.captions
    assert (track.look, track.looks) == (LOOKS["Three at a time"], (("s1", LOOKS["Blue box"]),))


def test_own_looks_are_kept_and_forgotten():
    ours = replace(LOOKS["Lit word"], size=9.0)
    keep_look("Ours", ours)
    assert all_looks()["Ours"] == ours
    assert name_of(ours) == "Ours"
    forget_look("Ours")
    assert name_of(ours) == ""
    with pytest.raises(DubrelError, match="ships with Dubrel"):
        keep_look("Still", ours)


@pytest.mark.parametrize("name", LOOKS)
@pytest.mark.parametrize("grey", [0, 128, 255])
def test_looks_that_ship_stand_out_from_any_picture_at_a_phones_size(name, grey):
    look = LOOKS[name]
    frame = np.full((640, 360, 3), grey, np.uint8)  # upright, as small as a phone shows it
    drawn = draw_caption(["and it still rings"], look, named_place("bottom centre"), 360, 640)
    assert contrast(drawn, look, frame) >= 4.5
    marked = replace(look, colour=look.motion.colour or look.colour)
    if look.motion.box:
        marked = replace(marked, box="line", ground=look.motion.box, opacity=1.0, outline=0)
    assert contrast(drawn, marked, frame) >= 4.5
    letters = drawn.pixels.shape[0] / 640
    assert letters >= 0.05
