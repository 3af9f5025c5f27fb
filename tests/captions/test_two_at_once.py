"""Two people with a microphone each who speak at once: a line of each in one caption, at their true times."""

import pytest

from dubrel.captions.styles import STYLES
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.trackchecks import check_track
from dubrel.edits.intake import set_turns
from dubrel.edits.speakers.assigning import with_overlaps
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker
from dubrel.project.captiontext import text_of

PEOPLE = [Speaker("s1", "Isolde"), Speaker("s2", "Tobiah")]


def said(text, speaker, start, end):
    words = text.split()
    step = (end - start) / len(words)
    times = [(round(start + k * step), round(start + (k + 1) * step)) for k in range(len(words))]
    return RecognisedTurn(tuple(RecognisedWord(w, a, b) for w, (a, b) in zip(words, times)), speaker)


def captioned(style, *turns):
    project = with_overlaps(set_turns(Project(), turns, PEOPLE, "en"))
    return set_again(project, STYLES[style])


def shown(project):
    track = project.captions
    return [(one.start_ms, one.end_ms, text_of(project, track, one).lines) for one in track.captions]


LONG = (
    said("I really think that we should take the boards off one at a time today.", "s1", 200, 4900),
    said("No, we should pull them all off at once and be done with the whole thing.", "s2", 300, 4800),
)


@pytest.mark.parametrize("style", ["Web", "Films", "Television"])
def test_each_line_is_shown_while_it_is_said(style):
    project = captioned(style, *LONG)
    words = {word.id: word for turn in project.transcript.turns for word in turn.words}
    for caption in project.captions.captions:
        mine = [words[one] for one in caption.words]
        assert caption.start_ms - min(one.start_ms for one in mine) < 700
        assert max(one.end_ms for one in mine) - caption.end_ms < 1300  # three lines beside two
    both = [
        lines for _, _, lines in shown(project) if len(lines) == 2 and all(one[:2] == "– " for one in lines)
    ]
    assert len(both) >= 1
    assert not [
        f for fs in check_track(project, project.captions).values() for f in fs if f.rule == "overlap"
    ]


def test_every_word_is_shown_once_and_struck_ones_go_along():
    project = captioned("Web", *LONG)
    held = [word for caption in project.captions.captions for word in caption.words]
    assert sorted(held) == sorted(word.id for turn in project.transcript.turns for word in turn.words)


def test_one_short_answer_stands_under_the_line_that_it_answers():
    project = captioned(
        "Web",
        said("Hello there everybody and welcome back to the show this week.", "s1", 200, 3100),
        said("Welcome to you all.", "s2", 1900, 3000),
        said("Now let us begin with the first board of the day.", "s1", 3300, 6000),
    )
    assert [lines for _, _, lines in shown(project)] == [
        ("Hello there everybody",),
        ("– and welcome back to the show this week.", "– Welcome to you all."),
        ("Now let us begin", "with the first board of the day."),
    ]


def test_who_only_begins_a_little_early_follows_as_before():
    project = captioned(
        "Web",
        said("We take them off one at a time, and each shows us the next.", "s1", 200, 3000),
        said("And how long does that take you, if I may ask?", "s2", 2900, 5500),
    )
    rows = shown(project)
    assert all(not line.startswith("– ") for _, _, lines in rows for line in lines)
    assert rows[1][0] - 2900 < 300
