"""Captions stand clear of faces in the film that is made."""

from fractions import Fraction

import av
import numpy as np
import pytest
from drawnfaces import HEIGHT, WIDTH, picture

from dubrel.base.value import replace
from dubrel.captions.places import Place, named_place
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.shape import set_place
from dubrel.edits.intake import set_turns
from dubrel.film.reshaping import Wished
from dubrel.film.stamps import Shown
from dubrel.jobs.filming import make_film
from dubrel.media.probe import probe
from dubrel.model import FrameKey, Framing, Look, Project, RecognisedTurn, RecognisedWord
from dubrel.release.films import order_of
from dubrel.release.kits import Item, Kit, plan
from dubrel.release.offfaces import clear_of_faces

LOW = round(HEIGHT * 0.38)  # how far down a face is moved, so that it is where captions stand


@pytest.fixture(scope="module")
def low(tmp_path_factory):
    """Three seconds with a face low in the middle, then a wall up to the twelfth second."""
    path = tmp_path_factory.mktemp("low") / "low.mp4"
    face, wall = np.roll(picture([(50.0, 0.2)]), LOW, axis=0), picture([])
    face[:LOW] = wall[:LOW]
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=10, options={"crf": "14", "preset": "ultrafast"})
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        for nth in range(120):
            frame = av.VideoFrame.from_ndarray(face if nth < 30 else wall, format="rgb24")
            frame.pts, frame.time_base = nth, Fraction(1, 10)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def shown(start, end, place=None, fixed=False):
    text = "It is oak, and dry."
    return Shown(start, end, (text,), Look(), place or Place(), pieces=(((text, ""),),), fixed=fixed)


def placed(path, rows, wished=None):
    return [one for one in clear_of_faces(path, rows, wished) if isinstance(one, list)][-1]


def test_a_caption_that_would_cover_a_face_goes_to_the_top_and_comes_back_when_it_is_calm(low):
    rows = [shown(300, 2500), shown(3200, 4500), shown(8000, 10_000)]
    assert [one.place.level for one in placed(low, rows)] == ["top", "top", "bottom"]
    assert [(one.start_ms, one.lines) for one in placed(low, rows)] == [
        (one.start_ms, one.lines) for one in rows
    ]


def test_what_was_placed_by_hand_and_what_covers_nothing_stays(low):
    left = Place(2.0, 95.0, "left", "bottom")
    narrow = replace(shown(300, 2500, left), lines=("Oak.",), pieces=((("Oak.", ""),),))
    rows = [shown(300, 2500, fixed=True), narrow]
    assert placed(low, rows) == rows


def test_a_face_that_is_cropped_away_is_in_nobodys_way_and_one_in_the_crop_is(low):
    aside = Wished("upright", framing=Framing((FrameKey(0, 10.0),)))
    assert [one.place.level for one in placed(low, [shown(300, 2500)], aside)] == ["bottom"]
    assert [one.place.level for one in placed(low, [shown(300, 2500)], Wished("upright"))] == ["top"]


@pytest.fixture
def project(low):
    words = [
        RecognisedWord(text, 400 + nth * 400, 800 + nth * 400)
        for nth, text in enumerate("It is oak now.".split())
    ]
    made = set_turns(Project(title="Low", media=probe(low)), [RecognisedTurn(tuple(words), None)], [], "en")
    return set_again(made, None)


def light_at(path, rows):
    """How much of some rows of the picture, at 1.5 s, is as dark or as light as only a caption is."""
    with av.open(str(path)) as film:
        frame = next(one for one in film.decode(video=0) if one.time >= 1.5)
    luma = frame.to_ndarray(format="gray")[rows, 80:-80].astype(int)
    return float(((luma < 25) | (luma > 225)).mean())


@pytest.mark.parametrize(("lettering", "top"), [("", False), ("faces", True)])
def test_the_film_has_its_captions_where_they_were_put(project, tmp_path, lettering, top):
    kit = Kit("Film", "{title}", (Item("film", {"lettering": lettering} if lettering else {}),))
    [planned] = plan(project, kit, ())
    events = list(make_film(order_of(planned, tmp_path)))
    assert events
    high, low_rows = (
        light_at(tmp_path / planned.name, slice(10, 60)),
        light_at(tmp_path / planned.name, slice(-60, -10)),
    )
    assert (high > low_rows) is top


def test_a_caption_that_a_person_has_put_there_covers_the_face(project, tmp_path):
    from dubrel.captions.places import settings_of

    caption = project.captions.captions[0]
    project = set_place(project, [caption.id], settings_of(named_place("bottom centre")))
    kit = Kit("Film", "{title}", (Item("film", {"lettering": "faces"}),))
    [planned] = plan(project, kit, ())
    order = order_of(planned, tmp_path)
    assert order.off_faces
    assert order.shown[0].fixed
