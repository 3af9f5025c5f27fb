"""The crop follows who speaks: on made films of people whose places are known."""

from __future__ import annotations

import numpy as np
import pytest
from drawnfaces import film, picture

from dubrel.base.value import replace
from dubrel.edits.framing import followed, framed
from dubrel.edits.intake import set_turns
from dubrel.finding.faces import FaceFinder
from dubrel.finding.whoisseen import HOLD_MS
from dubrel.jobs.cuts.facefollowing import follow_faces
from dubrel.jobs.machinery.events import CropFound, Progress, Warning_
from dubrel.media.probe import probe
from dubrel.model import FrameKey, Project, RecognisedTurn, RecognisedWord, Speaker


def conversation(path, spans, shots=()):
    """A project of a film in which people speak in turn: who, from when to when, in seconds."""
    turns = [
        RecognisedTurn((RecognisedWord("word", round(a * 1000), round(b * 1000)),), who)
        for who, a, b in spans
    ]
    people = [Speaker(one, one) for one in dict.fromkeys(who for who, _, _ in spans)]
    project = set_turns(Project(title="Talk"), turns, people, "en")
    return replace(project, media=replace(probe(path), shots=shots))


def found(project, *span):
    events = list(follow_faces(project, *span))
    [crop] = [one for one in events if isinstance(one, CropFound)]
    return crop.keys, [one.message for one in events if isinstance(one, Warning_)], events


def wave(second, on):
    """An open mouth that moves while somebody speaks."""
    return 0.5 + 0.5 * np.sin(second * 21) if on else 0.0


def test_faces_are_found_where_they_were_drawn():
    finder = FaceFinder()
    for places in ((25.0,), (20.0, 75.0), (15.0, 50.0, 85.0), ()):
        seen = sorted(face.x for face in finder.faces(picture([(x, 0.3) for x in places])))
        assert seen == pytest.approx(places, abs=2.0)


def test_twenty_faces_are_as_many():
    small = np.concatenate([picture([(10 + 20 * nth, 0.2) for nth in range(5)])[90:250] for _ in range(4)])
    assert len(FaceFinder().faces(small)) == 20


def test_one_face_is_followed_and_the_crop_is_calm(tmp_path):
    path = film(
        tmp_path / "one.mp4", 12, lambda s: [(25.0 if s < 5 else 25 + min(50, 25 * (s - 5)), wave(s, True))]
    )
    keys, said, events = found(conversation(path, [("a", 0.2, 11.5)]))
    assert said == []
    assert [one.fraction for one in events if isinstance(one, Progress)] == sorted(
        one.fraction for one in events if isinstance(one, Progress)
    )
    assert keys[0].x == pytest.approx(25, abs=2)
    assert keys[-1].x == pytest.approx(75, abs=6)
    assert all(key.pans for key in keys[1:])
    assert all(b.ms - a.ms >= HOLD_MS for a, b in zip(keys, keys[1:]))


def test_of_two_who_speaks_is_seen(tmp_path):
    spans = [("a", 0.0, 4.0), ("b", 4.2, 8.4), ("a", 8.6, 12.0)]

    def people(second):
        talks = next((who for who, start, end in spans if start <= second < end), "")
        return [(25.0, wave(second, talks == "a")), (75.0, wave(second, talks == "b"))]

    keys, _, _ = found(conversation(film(tmp_path / "two.mp4", 12, people), spans))
    assert [key.x > 50 for key in keys] == [False, True, False]
    assert [abs(key.ms - ms) <= 600 for key, ms in zip(keys, (0, 4200, 8600))] == [True] * 3


def test_a_quick_word_in_between_moves_nothing(tmp_path):
    spans = [("a", 0.0, 5.0), ("b", 5.0, 5.6), ("a", 5.6, 10.0)]

    def people(second):
        talks = next((who for who, start, end in spans if start <= second < end), "")
        return [(25.0, wave(second, talks == "a")), (75.0, wave(second, talks == "b"))]

    keys, _, _ = found(conversation(film(tmp_path / "word.mp4", 10, people), spans))
    assert [key.x > 50 for key in keys] == [False]


def test_at_a_shot_change_it_is_there_at_once(tmp_path):
    path = film(tmp_path / "shots.mp4", 8, lambda s: [(20.0 if s < 4 else 80.0, wave(s, True))])
    keys, _, _ = found(conversation(path, [("a", 0.0, 8.0)], shots=(4000,)))
    assert [(key.ms, round(key.x / 20), key.pans) for key in keys] == [(0, 1, False), (4000, 4, False)]


def test_a_film_without_a_face_is_said_and_stays_as_it_is(tmp_path):
    path = film(tmp_path / "none.mp4", 3, lambda s: [])
    project = conversation(path, [("a", 0.0, 3.0)])
    keys, said, _ = found(project)
    assert keys == ()
    assert said == ["No face was found in the picture. The crop stays where it is."]
    assert followed(project, 0, 3000, keys) is project


def test_only_the_passage_is_looked_at_and_after_it_the_crop_is_where_it_was(tmp_path):
    path = film(tmp_path / "part.mp4", 8, lambda s: [(30.0, wave(s, True))])
    project = framed(conversation(path, [("a", 0.0, 8.0)]), 0, 90.0)
    keys, _, _ = found(project, 3000, 6000)
    made = followed(project, 3000, 6000, keys)
    assert [made.framing.at(ms)[0] for ms in (0, 2900)] == [90.0, 90.0]
    assert made.framing.at(4500)[0] == pytest.approx(30, abs=2)
    assert made.framing.at(6000)[0] == 90.0
    assert all(isinstance(key, FrameKey) and 3000 <= key.ms < 6000 for key in keys)
