"""Looks in Captions: chosen, moved, kept, shared, by speaker; the booth shows what the film will."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import DEMO

from dubrel.base.value import replace
from dubrel.captions.looks import LOOKS
from dubrel.captions.motion import state_at
from dubrel.edits.words.striking import struck
from dubrel.film.stamps import moving_caption
from dubrel.model import Motion
from dubrel.project.captiontext import text_of
from dubrel.release.films import shown_caption
from dubrel.user.looks import OWN


@pytest.fixture
def looks(window, qtbot):
    """The demo film in Captions, at its second caption."""
    window.filing.open_path(DEMO / "heron-film.dubrel")
    window.show_room("captions")
    window.player.seek(6000)
    room = window.rooms["captions"]
    return room.panel.look


def choose(panel, name):
    panel.named.setCurrentIndex(panel.named.findData(name))
    panel.named.activated.emit(panel.named.currentIndex())


def test_a_look_is_chosen_as_one_step(looks):
    before = looks.session.project.captions.look
    choose(looks, "Three at a time")
    assert looks.session.project.captions.look == LOOKS["Three at a time"]
    assert looks.moving.fields["few"].value == 3
    looks.desk.commands.run("undo")
    assert looks.session.project.captions.look == before
    assert looks.named.currentData() == "Still"


def test_a_field_that_is_changed_is_a_look_by_hand_and_can_be_kept(looks, monkeypatch):
    choose(looks, "Lit word")
    looks.moving.fields["larger"].step(5)
    assert looks.look.motion == Motion(colour="#F6E27A", larger=10)
    assert looks.named.currentText() == "By hand"
    monkeypatch.setattr(looks.desk.window.rooms["captions"].ask, "line", lambda *_: "Larger")
    looks.desk.commands.run("keep_look")
    assert OWN.read() == {"Larger": looks.look}
    assert looks.named.currentText() == "Larger"


def test_one_speaker_has_another_look(looks):
    looks.whose.setCurrentIndex(1)
    speaker = looks.whose.currentData()
    choose(looks, "Blue box")
    track = looks.session.project.captions
    assert track.looks == ((speaker, LOOKS["Blue box"]),)
    assert track.look == LOOKS["Still"]
    looks.whose.setCurrentIndex(0)
    assert looks.named.currentData() == "Still"


def test_a_look_is_shared_as_a_file(looks, monkeypatch, tmp_path):
    ask = looks.desk.window.rooms["captions"].ask
    monkeypatch.setattr(ask, "look_file", lambda *_: tmp_path / "look.json")
    choose(looks, "As it is said")
    looks.desk.commands.run("export_look")
    choose(looks, "Still")
    looks.desk.commands.run("import_look")
    assert looks.look == LOOKS["As it is said"]
    (tmp_path / "look.json").write_text("{}")
    looks.desk.commands.run("import_look")
    assert looks.look == LOOKS["As it is said"]


@pytest.mark.parametrize("name", [name for name, look in LOOKS.items() if look.motion.moves])
def test_the_booth_shows_the_pixels_of_the_film(looks, name):
    choose(looks, name)
    picture, project = looks.picture, looks.session.project
    track = project.captions
    caption = picture.caption_now()
    shown = shown_caption(project, track, caption, text_of(project, track, caption))
    for ms in (5400, 6000, 6600, 7400):
        looks.desk.player.seek(ms)
        picture.repaint()
        picture.grab()
        made = picture.drawn()
        area, ratio = picture.area, picture.devicePixelRatioF()
        size = round(area.width() * ratio), round(area.height() * ratio)
        moving = moving_caption(shown, *size)
        state = state_at(shown.times, shown.look.motion, ms + 0.5)
        assert np.array_equal(made.pixels[..., :3], moving.drawn(state).pixels[..., :3])


def test_struck_words_do_not_come(looks):
    choose(looks, "As it is said")
    project = looks.session.project
    caption = looks.picture.caption_now()
    looks.session.step(lambda now: struck(now, caption.words[:2], True), "Strike")
    looks.picture.grab()
    now = looks.picture.caption_now()
    text = text_of(looks.session.project, looks.session.project.captions, now)
    shown = shown_caption(looks.session.project, looks.session.project.captions, now, text)
    assert sum(map(len, shown.times)) == len(caption.words) - 2
    assert looks.picture.drawn() is not None
    assert project is not looks.session.project


def test_a_translation_moves_by_what_it_translates_or_not_at_all(window, qtbot):
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    project = window.session.project
    track = next(one for one in project.tracks if not one.spoken)
    moving = replace(track, look=LOOKS["As it is said"])
    some = moving.captions[:12]
    shown = [
        shown_caption(project, moving, one, text_of(project, moving, one)) for one in moving.captions[:12]
    ]
    for one, caption in zip(shown, some):
        assert bool(one.times) == bool(caption.of)
        if one.times:
            flat = [span for row in one.times for span in row]
            assert flat == sorted(flat)
            assert caption.start_ms <= flat[0][0] <= flat[-1][1] <= caption.end_ms
