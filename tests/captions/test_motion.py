"""Which words of a moving caption are seen at a time: by their own times, on every frame."""

from __future__ import annotations

from random import Random

import pytest
from random_projects import any_project
from samples import boat_project

from dubrel.base.value import replace
from dubrel.captions.motion import EVERY, WordState, in_caption, presence, shared_out, state_at
from dubrel.edits.words.wording import replace_text
from dubrel.model import Caption, Motion
from dubrel.project.captiontext import pieces_of, shown_captions, text_of, word_times

TIMES = (((1000, 1300), (1300, 1600), (1800, 2000)), ((2000, 2400), (2500, 3000)))


@pytest.mark.parametrize(
    ("words", "ms", "shown"),
    [
        ("all", 900, 5),
        ("word", 900, 1),  # it comes in a little before its first word: never empty
        ("word", 1299, 1),
        ("word", 1300, 2),
        ("word", 1700, 2),
        ("word", 9000, 5),
        ("line", 1000, 3),
        ("line", 1999, 3),
        ("line", 2000, 5),
        ("few", 1000, 2),
        ("few", 1799, 2),
        ("few", 1800, 4),
        ("few", 2500, 5),
    ],
)
def test_words_come_when_they_are_spoken(words, ms, shown):
    assert state_at(TIMES, Motion(words=words, few=2, ruled=True), ms).shown == shown


@pytest.mark.parametrize(
    ("ms", "spoken"), [(999, -1), (1000, 0), (1300, 1), (1700, -1), (1800, 2), (3000, -1)]
)
def test_the_spoken_word_is_the_one_that_is_spoken(ms, spoken):
    assert state_at(TIMES, Motion(colour="#FFEE00"), ms).spoken == spoken
    assert state_at(TIMES, Motion(words="word"), ms).spoken == -1


def test_words_that_were_spoken_count_as_passed_only_where_they_are_dimmed():
    assert [state_at(TIMES, Motion(dimmed=0.5), ms).passed for ms in (1000, 1300, 1700, 2999, 3000)] == [
        0,
        1,
        2,
        4,
        5,
    ]
    assert state_at(TIMES, Motion(colour="#FFEE00"), 2999).passed == 0


def test_without_times_everything_is_seen():
    assert state_at((), Motion(words="word"), 100) == WordState(EVERY)
    assert state_at(TIMES, Motion(entrance="fade"), 100) == WordState(EVERY)


def test_times_stay_within_their_caption_and_in_order():
    rows = [[(500, 900), (2000, 2100), (1500, 1600)], [(9000, 9100)]]
    assert in_caption(rows, 1000, 3000) == (((1000, 1000), (2000, 2100), (2000, 2000)), ((3000, 3000),))


def test_a_caption_comes_in_and_goes_out_over_some_frames():
    motion = Motion(entrance="rise", leaving="fade", frames=4)
    seen = [presence(motion, 1000, 3000, 1000 + 40 * frame, 40) for frame in range(50)]
    assert [round(one, 2) for one, _ in seen[:5]] == [0.25, 0.5, 0.75, 1.0, 1.0]
    assert [below > 0 for _, below in seen[:4]] == [True, True, True, False]
    assert [round(one, 2) for one, _ in seen[-5:]] == [1.0, 1.0, 0.75, 0.5, 0.25]
    assert all(below == 0 for _, below in seen[4:])
    assert presence(Motion(), 0, 100, 0, 40) == (1.0, 0.0)


def test_a_short_caption_is_still_seen_whole_for_a_third_of_its_time():
    motion = Motion(entrance="fade", leaving="fade", frames=50)
    assert presence(motion, 0, 300, 150, 40)[0] == 1.0


def test_a_translation_gets_the_times_of_what_it_translates():
    said = [
        ("The", 0, 200),
        ("Heron", 200, 700),
        ("sails", 700, 1200),
        ("to", 1200, 1300),
        ("Bath", 1300, 2000),
    ]
    found = shared_out(said, ["A", "Heron", "navega", "até", "Bath"])
    assert found[1] == (200, 700)
    assert found[4] == (1300, 2000)
    assert found[2][0] == 700
    assert found[3][1] == 1300
    assert all(a <= b for a, b in found)


def test_times_that_are_shared_out_cover_what_is_said_and_never_go_back():
    chance = Random(3)
    for _ in range(300):
        at, said = 0, []
        for _ in range(chance.randint(1, 9)):
            at += chance.choice((0, 0, 300))
            said.append((chance.choice(("oak", "Heron", "7", "the", "quayside")), at, at + 250))
            at += 250
        words = [chance.choice(("Heron", "o", "carvalho", "7", "cais")) for _ in range(chance.randint(1, 9))]
        found = shared_out(said, words)
        assert len(found) == len(words)
        assert all(start <= end for start, end in found)
        assert all(one[0] <= other[0] for one, other in zip(found, found[1:]))
        assert min(start for start, _ in found) >= said[0][1]
        assert max(end for _, end in found) <= said[-1][2]


def test_in_any_project_times_and_pieces_have_one_shape():
    chance = Random(8)
    for _ in range(40):
        project = any_project(chance)
        for track in project.tracks:
            for caption, text in shown_captions(project, track):
                pieces = pieces_of(project, caption, text)
                times = word_times(project, caption, text)
                assert ["".join(word for word, _ in row) for row in pieces] == list(text.lines)
                if times:
                    assert [len(row) for row in times] == [len(row) for row in pieces]
                    flat = [span for row in times for span in row]
                    assert flat == sorted(flat, key=lambda span: span[0])
                    assert all(caption.start_ms <= a <= b <= caption.end_ms for a, b in flat)


def test_a_word_that_is_corrected_keeps_its_time():
    project = boat_project()
    caption = project.captions.captions[0]
    before = word_times(project, caption, text_of(project, project.captions, caption))
    turn = project.transcript.turns[0]
    made = replace_text(project, turn.id, 0, 7, "Greetings")
    text = text_of(made, made.captions, made.captions.captions[0])
    assert text.lines[0].startswith("Greetings")
    assert word_times(made, made.captions.captions[0], text)[0] == before[0]


def test_a_caption_without_words_does_not_move():
    project = boat_project()
    caption = Caption(999, 0, 1000, text="[music]")
    track = replace(project.captions, captions=(caption,))
    assert word_times(project, caption, text_of(project, track, caption)) == ()
