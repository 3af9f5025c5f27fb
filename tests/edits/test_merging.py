"""What two people did with one project, as one: what is taken, what is asked, what must hold."""

import pytest
from conftest import spoken
from random_checks import check_project, words_of
from random_merges import run_merge

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.times import move_edge
from dubrel.edits.intake import set_turns
from dubrel.edits.merging.merging import merge
from dubrel.edits.merging.threeway import passages
from dubrel.edits.notes import with_note
from dubrel.edits.speakers.voices import add_speaker, give_turn, rename_speaker
from dubrel.edits.words.terms import with_term
from dubrel.edits.words.wording import replace_text, set_proofed, split_turn
from dubrel.model import Media, Project, RecognisedTurn, Speaker, Term

FIRST = "We found the stern post in the field."
SECOND = "It was dry oak and nobody knew it."


@pytest.fixture
def base():
    turns = [
        RecognisedTurn(tuple(spoken(FIRST, start=1000)), "s1"),
        RecognisedTurn(tuple(spoken(SECOND, start=9000)), "s2"),
    ]
    people = [Speaker("s1", "Isolde"), Speaker("s2", "")]
    return set_again(set_turns(Project(title="Steam"), turns, people, "en"), None)


def typed(project, turn, was, now):
    """The project with a word of a turn written otherwise."""
    text = project.transcript.turns[turn].text
    at = text.index(was)
    return replace_text(project, project.transcript.turns[turn].id, at, at + len(was), now)


def said(project):
    return [turn.text for turn in project.transcript.turns]


def test_what_each_alone_changed_is_there_in_either_order(base):
    mine = typed(base, 0, "field", "meadow")
    theirs = rename_speaker(typed(base, 1, "dry", "damp"), "s2", "Tobiah")
    for one, other in ((mine, theirs), (theirs, mine)):
        made = merge(base, one, other)
        assert made.conflicts == ()
        assert said(made.project) == [
            "We found the stern post in the meadow.",
            "It was damp oak and nobody knew it.",
        ]
        assert [who.name for who in made.project.transcript.speakers] == ["Isolde", "Tobiah"]
        check_project(made.project)


def test_words_beside_each_other_are_no_conflict_and_words_in_one_place_are(base):
    mine, theirs = typed(base, 0, "stern", "stem"), typed(base, 0, "post", "board")
    made = merge(base, mine, theirs)
    assert said(made.project)[0] == "We found the stem board in the field."
    assert made.conflicts == ()
    theirs = typed(base, 0, "stern post", "sternpost")
    [asked] = merge(base, mine, theirs).conflicts
    assert (asked.what, asked.before, asked.mine, asked.theirs) == (
        "the words",
        "stern post",
        "stem post",
        "sternpost",
    )
    words = [word for word in words_of(base) if word.text in ("stern", "post")]
    assert (asked.start_ms, asked.end_ms) == (words[0].start_ms, words[1].end_ms)
    assert said(merge(base, mine, theirs).project)[0] == said(mine)[0], "mine, where nothing is decided"
    decided = merge(base, mine, theirs, {asked.key: "theirs"})
    assert said(decided.project)[0] == said(theirs)[0]
    assert said(merge(base, theirs, mine, {asked.key: "mine"}).project) == said(decided.project)


def test_the_same_correction_by_both_is_no_conflict_and_stands_once(base):
    mine = typed(base, 0, "stern post", "old sternpost")
    theirs = typed(typed(base, 0, "stern post", "old sternpost"), 1, "dry", "damp")
    made = merge(base, mine, theirs)
    assert made.conflicts == ()
    assert said(made.project)[0] == "We found the old sternpost in the field."
    held = [word for one in made.project.captions.captions for word in one.words]
    assert held == [word.id for word in words_of(made.project)], "each word is in one caption"


def test_an_assigned_turn_that_the_other_split_is_assigned_in_both_parts(base):
    turn = base.transcript.turns[1]
    mine = split_turn(base, turn.id, turn.offsets[4])
    theirs, anna = add_speaker(base, "Anna")
    theirs = give_turn(theirs, turn.id, anna)
    made = merge(base, mine, theirs).project
    names = {who.id: who.name for who in made.transcript.speakers}
    assert [names[one.speaker] for one in made.transcript.turns] == ["Isolde", "Anna", "Anna"]
    assert len({one.id for one in made.transcript.turns}) == 3


def test_a_turn_assigned_to_two_people_is_asked_about(base):
    turn = base.transcript.turns[1].id
    mine, anna = add_speaker(base, "Anna")
    theirs, bert = add_speaker(base, "Bert")
    mine, theirs = give_turn(mine, turn, anna), give_turn(theirs, turn, bert)
    made = merge(base, mine, theirs)
    [asked] = made.conflicts
    assert (asked.what, asked.mine, asked.theirs) == ("who speaks", "Anna", "Bert")
    names = [who.name for who in made.project.transcript.speakers]
    assert sorted(names) == ["", "Anna", "Bert", "Isolde"], "nobody is lost"


def test_one_person_added_by_both_is_one(base):
    sides = []
    for place in range(2):
        one, anna = add_speaker(base, "Anna")
        sides.append(give_turn(one, base.transcript.turns[place].id, anna))
    made = merge(base, *sides).project
    assert [who.name for who in made.transcript.speakers].count("Anna") == 1
    assert len({turn.speaker for turn in made.transcript.turns}) == 1


def test_a_turn_that_one_proofed_and_the_other_corrected_says_so(base):
    mine = set_proofed(base, base.transcript.turns[0].id, True)
    made = merge(base, mine, typed(base, 0, "field", "meadow")).project
    assert made.transcript.turns[0].proofed
    assert made.transcript.turns[0].reworded
    assert "meadow" in made.transcript.turns[0].text


def test_a_caption_moved_by_one_holds_the_words_that_the_other_wrote(base):
    first = base.captions.captions[0]
    mine = move_edge(base, first.id, "in", first.start_ms - 100)
    theirs = typed(base, 0, "We", "Then we")
    made = merge(base, mine, theirs)
    caption = made.project.captions.captions[0]
    assert made.conflicts == ()
    assert caption.start_ms == first.start_ms - 100
    assert len(caption.words) == len(first.words) + 1


def test_notes_terms_and_the_title_of_both_are_kept(base):
    word = words_of(base)[2].id
    mine = with_term(with_note(base, "Query", "Which one?", [word])[0], Term("sternpost", ("stern post",)))
    theirs = with_term(with_note(base, "Query", "A photograph?", [word])[0], Term("sternpost", ("stempost",)))
    mine, theirs = replace(mine, title="Steam I"), replace(theirs, title="Steam II")
    made = merge(base, mine, theirs)
    assert {note.text for note in made.project.notes} == {"Which one?", "A photograph?"}
    assert set(made.project.terms[0].heard) == {"stern post", "stempost"}
    assert [(one.what, one.mine, one.theirs) for one in made.conflicts] == [
        ("the title", "Steam I", "Steam II")
    ]
    assert made.project.title == "Steam I"


def test_what_one_deleted_and_the_other_worked_on_is_asked_about_or_stays(base):
    first, _ = with_note(base, "Query", "Which one?", [words_of(base)[0].id])
    mine = replace(first, notes=())
    theirs = replace(first, notes=(replace(first.notes[0], text="Which of them?"),))
    assert merge(first, mine, theirs).project.notes == theirs.notes
    mine, theirs = typed(base, 0, " stern", ""), typed(base, 0, "stern", "stem")
    assert [one.what for one in merge(base, mine, theirs).conflicts] == ["the words"]


def test_different_recordings_are_refused(base):
    one = replace(base, media=Media("a.wav", "/a.wav", "", 20_000))
    other = replace(base, media=Media("b.wav", "/b.wav", "", 50_000))
    with pytest.raises(DubrelError, match="different recordings"):
        merge(base, one, other)


def test_passages_of_lists():
    def told(base, a, b):
        return [
            ("".join(p.a), "".join(p.b), p.by_a, p.by_b)
            for p in passages(list(base), list(a), list(b), str, str.__eq__)
        ]

    assert told("abc", "abc", "abc") == [(c, c, False, False) for c in "abc"]
    assert told("abc", "abXc", "ac") == [
        ("a", "a", False, False),
        ("b", "", False, True),
        ("X", "", True, False),
        ("c", "c", False, False),
    ]
    assert told("ab", "aXb", "aYb")[1] == ("X", "Y", True, True)
    assert told("", "X", "Y") == [("X", "Y", True, True)]
    assert told("abc", "bca", "abc")[0][2:] == (True, False), "what moved is a change"


@pytest.mark.parametrize("seed", range(25))
def test_merges_of_random_sessions_hold(seed):
    _, finding = run_merge(seed)
    assert finding is None, finding and finding.trace
