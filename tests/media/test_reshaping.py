"""Films in other shapes: the part that is shown lies where it was put, or the whole stands on a ground."""

from __future__ import annotations

from fractions import Fraction
from random import Random

import av
import numpy as np
import pytest
from conftest import DEMO

from dubrel.base.value import replace
from dubrel.edits.cuts.cutting import cut_project
from dubrel.edits.cuts.trimming import with_cut
from dubrel.edits.framing import framed, key_at, panning, unframed
from dubrel.film.burning import burn, still
from dubrel.film.reshaping import Shape, Wished
from dubrel.model import CutPassage, FrameKey, Framing, Media, Project
from dubrel.model.framing import PAN_MS
from dubrel.store.projectfile import read_project, save

FILM = DEMO / "heron-film.mp4"


@pytest.fixture(scope="module")
def bars(tmp_path_factory):
    """A film of two seconds in which each column of the picture has a light of its own: black to white."""
    path = tmp_path_factory.mktemp("bars") / "bars.mp4"
    light = np.tile(np.linspace(16, 235, 640).astype(np.uint8), (360, 1))
    plain = np.full((180, 320), 128, np.uint8)
    flat = np.concatenate([one.reshape(-1) for one in (light, plain, plain)]).reshape(540, 640)
    with av.open(str(path), "w") as film:
        stream = film.add_stream("libx264", rate=25, options={"crf": "10"})
        stream.width, stream.height, stream.pix_fmt = 640, 360, "yuv420p"
        for nth in range(50):
            frame = av.VideoFrame.from_ndarray(flat, format="yuv420p")
            frame.pts = nth
            film.mux(stream.encode(frame))
        film.mux(stream.encode(None))
    return path


def middles(path):
    """Where in the picture, in percent, the middle of each frame of a film of bars was."""
    found = []
    with av.open(str(path)) as film:
        for frame in film.decode(video=0):
            light = frame.to_ndarray(format="gray").astype(float)
            found.append(100 * (light[:, light.shape[1] // 2 - 4 : light.shape[1] // 2 + 4].mean()) / 255)
    return found


def sizes(path):
    with av.open(str(path)) as film:
        return film.streams.video[0].width, film.streams.video[0].height


@pytest.mark.parametrize(
    ("name", "ground", "size"),
    [
        ("upright", "", (202, 360)),
        ("square", "", (360, 360)),
        ("portrait", "", (288, 360)),
        ("upright", "blurred", (360, 640)),
        ("square", "plain", (360, 360)),
        ("portrait", "blurred", (360, 450)),
        ("", "blurred", (640, 360)),
    ],
)
def test_a_film_has_the_shape_that_was_wished(name, ground, size, bars, tmp_path):
    for _ in burn(bars, tmp_path / "out.mp4", [], wished=Wished(name, ground), to_ms=400):
        pass
    assert sizes(tmp_path / "out.mp4") == size


def test_the_crop_lies_where_it_was_put_on_every_frame(bars, tmp_path):
    framing = Framing((FrameKey(0, 30.0), FrameKey(600, 70.0), FrameKey(1000, 20.0, pans=True)))
    for _ in burn(bars, tmp_path / "out.mp4", [], wished=Wished("upright", "", framing)):
        pass
    found = middles(tmp_path / "out.mp4")
    wanted = [framing.at(40 * nth)[0] for nth in range(50)]
    half = 50 * 202 / 640
    wanted = [min(max(one, half), 100 - half) for one in wanted]
    assert len(found) == 50
    assert max(abs(one - other) for one, other in zip(found, wanted)) < 1.5
    assert found[14] < 40 < 60 < found[15]
    assert all(one >= other - 0.6 for one, other in zip(found[25:45], found[26:45]))


def test_a_crop_never_leaves_the_picture():
    first = av.VideoFrame(641, 361, "yuv420p")
    chance = Random(2)
    for _ in range(200):
        framing = Framing((FrameKey(0, chance.uniform(0, 100), chance.uniform(0, 100)),))
        shape = Shape(
            first, chance.randrange(4), Wished(chance.choice(("upright", "square", "portrait")), "", framing)
        )
        left, top = shape.corner(0)
        width, height = (641, 361) if shape.turns % 2 == 0 else (361, 641)
        assert 0 <= left <= width - shape.width
        assert 0 <= top <= height - shape.height
        assert (left % 2, top % 2, shape.width % 2, shape.height % 2) == (0, 0, 0, 0)


def test_the_whole_picture_stands_in_the_middle_of_its_ground(bars):
    png = still(bars, [], 400, Wished("upright", "plain"))
    picture = av.open(__import__("io").BytesIO(png))
    frame = next(picture.decode(video=0)).to_ndarray(format="gray").astype(int)
    assert frame.shape == (640, 360)
    middle = frame[320]
    assert (middle[4], middle[-4]) == (pytest.approx(3, abs=8), pytest.approx(252, abs=8))
    assert frame[20].max() < 24
    assert frame[-20].max() < 24


def test_the_ground_is_blurred_and_darker(bars):
    png = still(bars, [], 400, Wished("square", "blurred"))
    frame = next(av.open(__import__("io").BytesIO(png)).decode(video=0)).to_ndarray(format="gray").astype(int)
    ground, middle = frame[10], frame[180]
    assert ground.mean() < 0.75 * middle.mean()
    assert np.abs(np.diff(ground)).max() < 12


def film(rate=Fraction(25)):
    return Project(media=Media("a.mp4", "/a.mp4", "", 60_000, frame_rate=rate, width=640, height=360))


def test_places_of_the_crop_are_kept_on_the_frame_that_is_shown():
    project = framed(framed(film(), 1015, 30.0), 5000, 70.0, pans=True)
    assert project.framing.keys == (FrameKey(1000, 30.0), FrameKey(5000, 70.0, pans=True))
    assert framed(project, 1039, 40.0).framing.keys[0] == FrameKey(1000, 40.0)
    assert framed(project, 9000, 140.0, -3.0).framing.keys[-1] == FrameKey(9000, 100.0, 0.0)
    assert key_at(project, 999) is None
    assert panning(project, 6000).framing.keys[1].pans is False
    assert unframed(project, 6000).framing.keys == (FrameKey(1000, 30.0),)
    assert unframed(project, 10) is project


def test_places_of_the_crop_are_kept_in_the_file(tmp_path):
    project = framed(framed(film(), 1000, 30.0), 5000, 70.5, 12.25, pans=True)
    save(project, tmp_path / "a.dubrel")
    assert read_project(tmp_path / "a.dubrel").project.framing == project.framing


def test_in_a_cut_the_crop_lies_where_it_does_in_the_recording():
    chance = Random(5)
    for _ in range(60):
        project = film()
        for _ in range(chance.randint(1, 8)):
            project = framed(
                project, chance.randrange(60_000), chance.uniform(0, 100), pans=chance.random() < 0.3
            )
        edges = sorted({40 * chance.randrange(1500) for _ in range(6)})
        passages = [CutPassage(a, b) for a, b in zip(edges[::2], edges[1::2])]
        chance.shuffle(passages)
        made, cut_id = with_cut(project, "Some", passages)
        cut = cut_project(made, made.cut(cut_id))
        at = 0
        for one in made.cut(cut_id).passages:
            for ms in range(one.start_ms, one.end_ms, 400):
                near = [
                    key
                    for key in project.framing.keys
                    if key.pans and key.ms < one.start_ms < key.ms + PAN_MS
                ]
                if near:
                    continue  # it begins within a movement, which begins again there
                wanted, found = project.framing.at(ms), cut.framing.at(at + ms - one.start_ms)
                assert found == pytest.approx(wanted, abs=0.6)
            at += one.end_ms - one.start_ms


def test_a_cut_of_a_recording_without_places_has_none():
    made, cut_id = with_cut(film(), "Some", [CutPassage(0, 4000), CutPassage(8000, 9000)])
    assert cut_project(made, made.cut(cut_id)).framing == Framing()


def test_a_film_is_written_in_the_shape_of_its_options(tmp_path):
    from dubrel.jobs.machinery.events import Written
    from dubrel.jobs.releasing import films_made
    from dubrel.release.kits import Item, Kit, plan

    project = read_project(DEMO / "heron-film.dubrel").project
    project = replace(project, media=replace(project.media, path=str(FILM)))
    project = framed(project, 0, 25.0)
    options = {"crop": "upright", "style": "Small upright pictures", "stretch": "2000-5200"}
    [planned] = plan(project, Kit("Clip", "{title}", (Item("film", options),)))
    found = [one for one in films_made([planned], tmp_path) if isinstance(one, Written)]
    assert sizes(found[0].path) == (202, 360)
