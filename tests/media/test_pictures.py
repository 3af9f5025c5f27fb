"""What is found in the frames of a film, and captions drawn into them."""

import json

import numpy as np
import pytest
from conftest import DEMO

from dubrel.captions.places import Place, named_place
from dubrel.cli import main
from dubrel.film.drawing import contrast, draw_caption
from dubrel.film.fontfiles import families, font_file
from dubrel.jobs.machinery.events import PicturesFound, SoundsFound
from dubrel.jobs.machinery.fold import fold
from dubrel.jobs.pictures import find_pictures
from dubrel.jobs.soundfinding import find_sounds
from dubrel.media.cache import cache_folder
from dubrel.media.probe import probe
from dubrel.model import Look, Project

TRUTH = json.loads((DEMO / "heron-film.truth.json").read_text())
WHITE_BOX = Look(colour="#FFFFFF", ground="#000000", opacity=1.0)


@pytest.fixture(scope="module")
def found():
    events = list(find_pictures(probe(DEMO / "heron-film.mp4")))
    assert [one.fraction for one in events[:-1]] == sorted(one.fraction for one in events[:-1])
    return events[-1]


def test_all_shot_changes_of_the_demo_film_and_none_in_vain(found):
    assert isinstance(found, PicturesFound) and list(found.shots) == TRUTH["cuts_ms"]


def test_the_banner_of_the_demo_film_and_none_elsewhere(found):
    (banner,) = found.banners
    start, end = TRUTH["banner_ms"]
    assert abs(banner.start_ms - start) <= 300 and abs(banner.end_ms - end) <= 300
    # it is drawn from 50 to 280 of 640 pixels, and from 276 to 320 of 360
    assert banner.left < 100 * 50 / 640 and 25 < banner.right < 100 * 290 / 640
    assert 70 < banner.top < 100 * 280 / 360 and 100 * 310 / 360 < banner.bottom < 95


def test_what_was_found_once_is_not_looked_for_again(found, monkeypatch):
    film = probe(DEMO / "heron-film.mp4")
    monkeypatch.setattr("dubrel.jobs.pictures.look_at_frames", None)
    again = list(find_pictures(film))[-1]
    assert (again.shots, again.banners) == (found.shots, found.banners)
    kept = cache_folder(film) / "pictures.json"
    monkeypatch.undo()
    text = kept.read_text()
    kept.write_text('{"version": 0}')
    began = next(one for one in find_pictures(film) if one.fraction > 0)  # it looks again
    kept.write_text(text)
    assert began.fraction < 1


def test_what_was_found_belongs_to_its_film_alone(found):
    film = Project(media=probe(DEMO / "heron-film.mp4"))
    assert fold(film, found).media.shots == found.shots
    other = Project(media=probe(DEMO / "slow-water-7.opus"))
    assert fold(other, found) is other


def test_sound_alone_has_no_shot_changes(capsys):
    assert main(["shots", str(DEMO / "slow-water-7.opus")]) == 2
    assert "has no picture" in capsys.readouterr().err


def test_music_at_the_beginning_of_the_demo_is_heard(tmp_path):
    (found,) = [one for one in find_sounds(probe(DEMO / "slow-water-7.opus")) if isinstance(one, SoundsFound)]
    assert found.spots[0].name == "music" and found.spots[0].start_ms < 1500
    assert all(one.start_ms < one.end_ms for one in found.spots)


# -- drawn ---------------------------------------------------------------------------------


def inside(drawn, width, height):
    left, top, right, bottom = drawn.box
    return left >= 0 and top >= 0 and right <= width and bottom <= height


@pytest.mark.parametrize("name", ["bottom centre", "top left", "middle right"])
def test_a_caption_stands_where_it_is_placed(name):
    drawn = draw_caption(["The mist lies", "on the canal"], Look(), named_place(name), 640, 360)
    left, top, right, bottom = drawn.box
    assert inside(drawn, 640, 360)
    middle = {"left": left == 32, "centre": abs((left + right) / 2 - 320) <= 1, "right": right == 608}
    level = {"top": top == 18, "middle": abs((top + bottom) / 2 - 180) <= 1, "bottom": bottom == 342}
    assert middle[name.split()[1]] and level[name.split()[0]]


def test_twice_the_picture_is_twice_the_caption():
    small, large = (
        draw_caption(["The mist lies"], Look(), named_place("bottom centre"), w, w * 9 // 16)
        for w in (640, 1280)
    )
    assert large.pixels.shape[1] == pytest.approx(2 * small.pixels.shape[1], rel=0.03)


def test_the_box_and_the_letters_have_their_colours():
    drawn = draw_caption(["Heron"], WHITE_BOX, named_place("bottom centre"), 640, 360)
    assert drawn.pixels[2, 2].tolist() == [0, 0, 0, 255]
    assert drawn.pixels[..., :3].max() == 255
    bare = draw_caption(["Heron"], Look(box="none"), named_place("bottom centre"), 640, 360)
    assert bare.pixels[0, 0, 3] == 0


def test_a_line_wider_than_the_picture_is_set_smaller():
    drawn = draw_caption(
        ["an extraordinarily long line " * 4], Look(), named_place("bottom centre"), 640, 360
    )
    assert inside(drawn, 640, 360)


def test_right_to_left_is_shaped_and_not_turned_round():
    hebrew = "שלום Heron"
    right = draw_caption([hebrew], Look(), named_place("bottom centre"), 640, 360, rtl=True).pixels
    left = draw_caption([hebrew], Look(), named_place("bottom centre"), 640, 360).pixels
    assert right.shape[1] == pytest.approx(left.shape[1], abs=4) and not np.array_equal(right, left)


def test_styled_words_are_drawn_otherwise():
    place = named_place("bottom centre")
    plain = draw_caption(["The mist lies"], Look(), place, 640, 360).pixels
    pieces = ((("The", ""), (" mist", "i"), (" lies", "u")),)
    styled = draw_caption(["The mist lies"], Look(), place, 640, 360, pieces=pieces).pixels
    assert styled.shape == plain.shape and not np.array_equal(styled, plain)


def test_a_font_that_is_not_there_is_said():
    drawn = draw_caption(["Heron"], Look(font="Nonesuch"), Place(), 640, 360)
    assert drawn.missing == "Nonesuch"
    assert draw_caption(["Heron"], Look(), Place(), 640, 360).missing == ""
    assert families()[0] == "Inter" and font_file("Inter", 600)[0].name == "Inter-SemiBold.otf"


def test_contrast_is_that_of_the_picture_under_the_caption():
    black, white = np.zeros((360, 640, 3), np.uint8), np.full((360, 640, 3), 255, np.uint8)
    bare = Look(box="none")
    drawn = draw_caption(["Heron"], bare, named_place("bottom centre"), 640, 360)
    assert contrast(drawn, bare, black) == pytest.approx(21.0) and contrast(
        drawn, bare, white
    ) == pytest.approx(1.0)
    boxed = draw_caption(["Heron"], WHITE_BOX, named_place("bottom centre"), 640, 360)
    assert contrast(boxed, WHITE_BOX, white) == pytest.approx(21.0)


# -- on the command line ---------------------------------------------------------------------


def test_captions_are_set_checked_fixed_and_explained_with_the_film(tmp_path, capsys):
    out, why, fixed, page = (tmp_path / name for name in ("out.srt", "why.json", "fixed.vtt", "page.html"))
    film, project = str(DEMO / "heron-film.mp4"), str(DEMO / "heron-film.dubrel")
    assert (
        main(["captions", project, "-o", str(out), "--explain", str(why), "--style", "Web", "--quiet"]) == 0
    )
    assert len(json.loads(why.read_text())["captions"]) > 10
    assert (
        main(
            [
                "check",
                str(out),
                "--media",
                film,
                "--json",
                "--quiet",
                "--fix",
                str(fixed),
                "--report",
                str(page),
            ]
        )
        == 0
    )
    after = json.loads(capsys.readouterr().out)
    assert not any(one["must"] for one in after["findings"]) and len(after["fixed"]) == 2
    assert fixed.read_text().count("line:") == 2 and "kept" in page.read_text()
