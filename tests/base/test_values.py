"""What every value is made from: equal by what it says, never changed, kept whole wherever it goes."""

import copy
import json
import pickle
from functools import cached_property

import pytest
from conftest import ROOT

from dubrel.base.value import Value, asdict, field, kept_with, part_names, replace
from dubrel.model import Project, Transcript, Turn, Word


class Place(Value):
    x: int
    y: int = 0


class Way(Value, dict=True):
    name: str
    places: tuple[Place, ...] = ()
    notes: dict = field(default_factory=dict)

    @cached_property
    def length(self):
        return sum(one.x for one in self.places)


def test_a_value_is_what_it_says():
    one, two = Place(1, 2), Place(1, 2)
    assert one == two
    assert len({one, two}) == 1
    assert one != Place(2, 2)
    assert one != (1, 2)


def test_a_value_cannot_be_changed_or_given_another_part():
    place = Place(1)
    for name in ("x", "z"):
        with pytest.raises(AttributeError):
            setattr(place, name, 5)
    with pytest.raises(AttributeError):
        del place.x
    assert place == Place(1)


def test_a_part_is_replaced_in_another_value():
    way = Way("out", (Place(3),))
    longer = replace(way, places=(*way.places, Place(4)))
    assert (way.length, longer.length) == (3, 7)
    assert longer.places[0] is way.places[0]
    with pytest.raises(TypeError):
        replace(way, height=3)


def test_the_parts_by_their_names_to_the_last():
    way = Way("out", (Place(3), Place(4, 5)), {"of": Place(6)})
    assert part_names(Way) == ("name", "places", "notes")
    assert json.loads(json.dumps(asdict(way))) == {
        "name": "out",
        "places": [{"x": 3, "y": 0}, {"x": 4, "y": 5}],
        "notes": {"of": {"x": 6, "y": 0}},
    }


def test_no_two_values_share_what_is_made_for_each():
    assert Way("a").notes is not Way("b").notes


def test_a_value_goes_to_another_process_and_back():
    word = Word(1, "Slow", 100, 400)
    turn = Turn(2, (word,))
    for went in (pickle.loads(pickle.dumps(turn)), copy.deepcopy(turn), copy.copy(turn)):
        assert went == turn
        assert went.words[0].text == "Slow"


def test_what_a_project_keeps_for_itself_is_no_part_of_what_it_says():
    project = Project(title="Slow Water", transcript=Transcript((Turn(2, (Word(1, "Slow", 0, 9),)),)))
    other = replace(project, next_id=99, by="Ana")
    kept_with(other, "index", object())
    assert other == project
    assert replace(other, title="Fast Water") != project
    assert project != "Slow Water"


def test_every_value_is_made_in_one_way():
    frozen = "@dataclass(frozen"
    assert [str(path) for path in (ROOT / "dubrel").rglob("*.py") if frozen in path.read_text()] == []
