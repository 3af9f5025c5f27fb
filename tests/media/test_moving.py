"""Moving captions as pictures: what changes is drawn again, and comes to the same as drawing all anew."""

from __future__ import annotations

from random import Random

import av
import numpy as np
import pytest
from conftest import DEMO

from dubrel.base.value import replace
from dubrel.captions.motion import WordState, state_at
from dubrel.captions.places import named_place
from dubrel.film.burning import burn
from dubrel.film.drawing import draw_caption
from dubrel.film.moving import MovingCaption, visual_order
from dubrel.film.stamps import MovingStamp, Shown, Stamps, stamp_of
from dubrel.model import Look, Motion
from dubrel.release.films import shown_of
from dubrel.store.projectfile import read_project

LINES = ("and it still rings", "when you knock")
PIECES = tuple(tuple((" " * bool(nth) + word, "") for nth, word in enumerate(line.split())) for line in LINES)
COUNT = sum(map(len, PIECES))
MARKED = Motion("word", colour="#FF0000", box="#0000FF", larger=20, dimmed=0.5, bold=True, ruled=True)
PLACE = named_place("bottom centre")
LOOKS = (
    Look(motion=MARKED),
    Look(motion=MARKED, box="whole", slanted=True),
    Look(motion=MARKED, box="none", outline=8, shadow=6),
)


def caption(look, lines=LINES, pieces=PIECES, **how):
    return MovingCaption(lines, look, PLACE, 640, 360, pieces=pieces, **how)


@pytest.mark.parametrize("look", LOOKS)
def test_what_is_drawn_again_is_what_would_be_drawn_anew(look):
    chance, moving = Random(1), caption(look)
    for _ in range(40):
        shown = chance.randint(0, COUNT)
        spoken = chance.choice((-1, chance.randrange(COUNT)))
        state = WordState(shown, spoken if spoken < shown else -1, chance.randint(0, shown))
        moving.draw(state)
        fresh = caption(look)
        fresh.draw(state)
        assert np.array_equal(moving.pixels, fresh.pixels), state


@pytest.mark.parametrize("look", LOOKS)
def test_the_planes_of_what_changed_are_those_of_the_whole(look):
    times = tuple(
        tuple((400 * k, 400 * k + 300) for k in range(n, n + len(row)))
        for n, row in ((0, PIECES[0]), (4, PIECES[1]))
    )
    shown = Shown(0, 4000, LINES, look, PLACE, pieces=PIECES, times=times)
    moving = MovingStamp(shown, 640, 360, 40)
    for ms in range(0, 4000, 40):
        found, fresh = moving.at(ms), MovingStamp(shown, 640, 360, 40).at(ms)
        assert found.box == fresh.box
        for one, other in zip((*found.keeps, *found.adds), (*fresh.keeps, *fresh.adds)):
            assert np.array_equal(one, other), ms


def test_a_moving_caption_stands_where_the_still_one_does():
    still = draw_caption(LINES, Look(), PLACE, 640, 360)
    moving = caption(Look(motion=Motion(colour="#FF0000"))).drawn(WordState(COUNT))
    assert moving.box == still.box
    apart = np.abs(moving.pixels.astype(int) - still.pixels).max(axis=2)
    assert (apart > 60).mean() < 0.06  # letters of a word are placed by themselves: part of a pixel


def test_the_spoken_word_alone_is_red():
    moving = caption(Look(motion=Motion(colour="#FF0000")))
    for spoken, (low, high) in ((0, (0.0, 0.3)), (3, (0.65, 1.0))):
        pixels = moving.drawn(WordState(COUNT, spoken)).pixels
        red = (pixels[..., 0] > 200) & (pixels[..., 1] < 60)
        columns = np.flatnonzero(red.any(axis=0)) / pixels.shape[1]
        assert red.any()
        assert low <= columns.min()
        assert columns.max() <= high


def test_words_that_have_not_come_are_not_there_and_their_box_neither():
    pixels = caption(Look(motion=Motion("word"))).drawn(WordState(1)).pixels
    columns = np.flatnonzero(pixels[..., 3].any(axis=0)) / pixels.shape[1]
    assert columns.max() < 0.35
    assert not pixels[pixels.shape[0] // 2 + 4 :, :, 3].any()


def test_a_caption_fades_and_rises():
    moving = caption(Look(motion=Motion(entrance="rise")))
    whole, half = moving.drawn(WordState(COUNT)), moving.drawn(WordState(COUNT), 0.5, 1.0)
    assert half.y > whole.y
    assert half.pixels[..., 3].max() == pytest.approx(whole.pixels[..., 3].max() / 2, abs=1)


@pytest.mark.parametrize(
    ("words", "rtl", "order"),
    [
        ("one two three", False, [0, 1, 2]),
        ("אחת שתיים שלוש", True, [2, 1, 0]),
        ("אחת Slow Water שתיים", True, [3, 1, 2, 0]),
        ("one אחת שתיים two", False, [0, 2, 1, 3]),
        ("אחת 10 20 שתיים", True, [3, 2, 1, 0]),
        ("Water 7 – אחת", True, [3, 2, 0, 1]),
    ],
)
def test_words_stand_in_the_order_of_their_script(words, rtl, order):
    assert visual_order(words.split(), rtl) == order


def test_right_to_left_the_first_word_is_at_the_right():
    line = "הסירה כאן שוב"
    pieces = (tuple((" " * bool(nth) + word, "") for nth, word in enumerate(line.split())),)
    moving = caption(Look(motion=Motion(colour="#FF0000")), (line,), pieces, rtl=True)
    pixels = moving.drawn(WordState(3, 0)).pixels
    red = (pixels[..., 0] > 200) & (pixels[..., 1] < 60)
    assert np.flatnonzero(red.any(axis=0)).min() > 0.5 * pixels.shape[1]


def test_one_word_longer_than_the_picture_is_set_smaller():
    word = "an" + "unpronounceably" * 6
    moving = caption(Look(size=12, motion=Motion(larger=20)), (word,), (((word, ""),),))
    pixels = moving.drawn(WordState(1, 0)).pixels
    assert pixels.shape[1] <= 640


def test_in_a_film_every_word_changes_on_its_frame(tmp_path):
    project = read_project(DEMO / "heron-film.dubrel").project
    motion = Motion(box="#FF0000")
    track = replace(project.captions, look=replace(project.captions.look, motion=motion, box="none"))
    [one, *_] = [shown for shown in shown_of(project, track) if shown.start_ms > 2000]
    for _ in burn(
        DEMO / "heron-film.mp4", tmp_path / "moving.mp4", [one], from_ms=one.start_ms - 200, to_ms=one.end_ms
    ):
        pass
    seen = []
    with av.open(str(tmp_path / "moving.mp4")) as film:
        for frame in film.decode(video=0):
            picture = frame.to_ndarray(format="rgb24").astype(int)
            red = (picture[..., 0] > 170) & (picture[..., 1] < 80) & (picture[..., 2] < 80)
            ms = frame.time * 1000 + one.start_ms - 200
            wanted = state_at(one.times, motion, ms + 0.5).spoken if ms + 0.5 >= one.start_ms else -1
            seen.append(
                (wanted, red.sum() > 60, float(np.flatnonzero(red.any(axis=0)).mean()) if red.any() else -1)
            )
    assert [red for _, red, _ in seen] == [spoken >= 0 for spoken, _, _ in seen]
    places = [{round(x, 0) for spoken, red, x in seen if spoken == nth} for nth in range(3)]
    assert all(max(some) - min(some) < 8 for some in places)
    assert len({round(min(some) / 8) for some in places}) == 3


def test_moving_captions_that_cannot_move_are_there_whole():
    shown = Shown(0, 1000, ("[music]",), Look(motion=MARKED), PLACE, pieces=((("[music]", ""),),))
    stamp = Stamps([shown], 640, 360).at(100)
    still = stamp_of(replace(shown, look=Look()), 640, 360)
    assert stamp.box == still.box
    assert (stamp.adds[0] > 0).any()
