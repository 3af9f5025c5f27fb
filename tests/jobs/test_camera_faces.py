"""Whom each camera shows, by the faces: on made films of people who speak in turn."""

import numpy as np
import pytest
from drawnfaces import film

from dubrel.base.errors import MediaError
from dubrel.edits.cameras.gathering import with_cameras
from dubrel.edits.intake import set_turns
from dubrel.jobs.cuts.camerafaces import find_shown
from dubrel.jobs.machinery.events import Progress, ShownFound, Warning_
from dubrel.media.probe import probe
from dubrel.model import Framing, Media, Project, RecognisedTurn, RecognisedWord, Speaker

SPANS = (("a", 0.5, 3.5), ("b", 4.0, 7.0), ("a", 7.5, 10.5), ("b", 11.0, 14.0))
LATE = 2.0


def speaks(who, second):
    return any(who == one and start <= second < end for one, start, end in SPANS)


def mouth(who, second):
    return 0.5 + 0.5 * np.sin(second * 21) if speaks(who, second) else 0.0


@pytest.fixture(scope="module")
def project(tmp_path_factory):
    """A recorder, and three cameras: both people, Ben alone from the second second on, and a wall."""
    folder = tmp_path_factory.mktemp("faces")
    both = film(folder / "both.mp4", 15, lambda s: [(30.0, mouth("a", s)), (70.0, mouth("b", s))])
    near = film(folder / "ben.mp4", 12.5, lambda s: [(50.0, mouth("b", s + LATE))])
    wall = film(folder / "wall.mp4", 15, lambda s: [])
    turns = [
        RecognisedTurn((RecognisedWord("word", round(start * 1000), round(end * 1000)),), who)
        for who, start, end in SPANS
    ]
    people = [Speaker("a", "Anna"), Speaker("b", "Ben")]
    made = set_turns(
        Project(media=Media("rec.wav", "/nowhere/rec.wav", "", 15_000, channels=1)), turns, people, "en"
    )
    starts = (0.0, LATE * 1000, 0.0)
    return with_cameras(made, [(probe(one), start, 1.0) for one, start in zip((both, near, wall), starts)])


def test_each_camera_shows_whose_mouth_moves_and_one_with_all_shows_everybody(project):
    events = list(find_shown(project))
    both, near, _ = project.cameras.all
    [found] = [one.found for one in events if isinstance(one, ShownFound)]
    assert dict(found) == {both.id: (), near.id: ("b",)}
    assert [one.message for one in events if isinstance(one, Warning_)] == [
        "Whom “wall” shows cannot be told. Tick it in the booth."
    ]
    shares = [one.fraction for one in events if isinstance(one, Progress)]
    assert shares == sorted(shares)


def test_what_cannot_be_looked_for_is_said(project, tmp_path):
    from dubrel.base.value import replace

    with pytest.raises(MediaError, match="no other camera"):
        list(find_shown(Project(media=project.media)))
    gone = replace(
        project.cameras.all[0], media=replace(project.cameras.all[0].media, path=str(tmp_path / "x.mp4"))
    )
    cameras = replace(project.cameras, all=(gone, *project.cameras.all[1:]))
    with pytest.raises(MediaError, match="The film of “both” cannot be read"):
        list(find_shown(replace(project, cameras=cameras)))


def test_a_crop_follows_who_speaks_in_the_camera_that_is_shown(project):
    from dubrel.edits.cameras.switching import switched
    from dubrel.jobs.cuts.facefollowing import follow_faces
    from dubrel.jobs.machinery.events import CropFound

    both, near, _ = project.cameras.all
    made = switched(switched(project, 4000, near.id), 7500, both.id)
    [crop] = [one for one in follow_faces(made) if isinstance(one, CropFound)]
    framing = Framing(crop.keys)
    places = [framing.at(ms)[0] for ms in (3400, 4100, 7400, 10_000, 13_900)]
    assert places == pytest.approx([30, 50, 50, 30, 70], abs=3)
