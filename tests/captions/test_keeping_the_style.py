"""Captions keep the house style wherever the speech lets them."""

import json
from fractions import Fraction

import pytest
from conftest import BOARDS, spoken
from recordings import caption_lines

from dubrel.base.errors import DubrelError
from dubrel.base.text import grapheme_count
from dubrel.base.value import replace
from dubrel.captions.checks import Shown, findings_of, reading_speed
from dubrel.captions.lengths import line_lengths
from dubrel.captions.setting.breaking import best_lines
from dubrel.captions.styles import DEFAULT_STYLE, STYLES, house_style, style_to_json
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.trackchecks import check_track
from dubrel.edits.intake import add_heard, set_turns
from dubrel.edits.speakers.assigning import give_words, merge_speakers, move_boundary
from dubrel.edits.speakers.voices import give_turn, rename_speaker
from dubrel.model import (
    Caption,
    CaptionTrack,
    HouseStyle,
    Media,
    Project,
    RecognisedTurn,
    Speaker,
    Transcript,
    Turn,
    Word,
)
from dubrel.project.captiontext import text_of
from dubrel.project.followspeakers import speakers_followed
from dubrel.project.tracks import with_track

STORY = " ".join(
    [
        BOARDS,
        (
            "She carried flour and coal for sixty years, and then she was a houseboat, and then she was"
            " forgotten."
        ),
        "Forgotten is kind. She sat in the reeds below the old mill for twenty winters.",
        (
            "So we make a pattern from thin plywood, we steam the new oak for an hour for every inch, and"
            " then we have about three minutes to bend it before it goes stiff."
        ),
    ]
)


def set_story(pace=62, rate=None):
    media = Media("x.mp4", "/x.mp4", "0", 90_000, frame_rate=rate, width=640, height=360) if rate else None
    project = add_heard(Project(media=media), spoken(STORY, pace=pace))
    return set_again(project, DEFAULT_STYLE)


@pytest.mark.parametrize("rate", [None, Fraction(25), Fraction(30000, 1001), Fraction(24000, 1001)])
@pytest.mark.parametrize("pace", [30, 62, 110])
def test_limits_of_space_and_time_hold_at_any_pace(pace, rate):
    project = set_story(pace, rate)
    found = check_track(project, project.captions)
    rules = {finding.rule for findings in found.values() for finding in findings if finding.must}
    assert rules <= ({"speed", "short"} if pace < 62 else set())


def test_every_word_is_in_exactly_one_caption_in_order():
    project = set_story()
    held = [one for caption in project.captions.captions for one in caption.words]
    assert held == [word.id for turn in project.transcript.turns for word in turn.words]


def test_times_fall_on_frames():
    rate = Fraction(30000, 1001)
    for caption in set_story(rate=rate).captions.captions:
        for ms in (caption.start_ms, caption.end_ms):
            frame = round(Fraction(ms) * rate / 1000)
            assert abs(Fraction(frame * 1000) / rate - ms) <= Fraction(1, 2)


def test_a_caption_begins_with_its_first_word_and_covers_its_last():
    project = set_story()
    words = project.transcript.words_by_id
    for caption in project.captions.captions:
        assert abs(caption.start_ms - words[caption.words[0]].start_ms) <= 90
        assert caption.end_ms >= words[caption.words[-1]].end_ms - 90


def test_sentences_end_captions_before_anything_else():
    project = set_story()
    words = project.transcript.words_by_id
    last = [words[caption.words[-1]].text for caption in project.captions.captions]
    assert sum(text[-1] in ".,?!" for text in last) >= len(last) - 2
    assert "the" not in [text.lower() for text in last]


def break_lines(texts, lines, signs):
    words = [Word(nth, text, nth * 300, nth * 300 + 300) for nth, text in enumerate(texts)]
    return best_lines(words, HouseStyle("x", max_lines=lines, max_cpl=signs), "en")


def test_both_lines_are_balanced_and_do_not_part_what_belongs_together():
    words = "The bottom boards at the stern are gone, you can put your thumb through".split()
    (place,) = break_lines(words, 2, 42)
    assert words[place - 1] == "gone,"
    top, bottom = line_lengths(words, (place,))
    assert max(top, bottom) <= 42
    words = "She has been lying in the reeds below the old mill house".split()
    (place,) = break_lines(words, 2, 42)
    assert words[place - 1].lower() not in {"the", "in", "been", "has"}


def test_what_does_not_fit_is_said_not_forced():
    assert break_lines(["word"] * 30, 2, 42) is None
    assert break_lines(["short"], 2, 42) == ()
    assert break_lines(["x" * 60], 2, 42) == ()


def test_line_length_counts_what_a_reader_sees():
    words = ["e\u0301" * 20, "नमस्ते" * 3]
    assert line_lengths(words, (1,)) == [20, 9]
    assert grapheme_count(" ".join(words)) == 30


def one_caption(text, start, end):
    return Caption(99, start, end), text.split("|")


def test_reading_speed_is_exact():
    caption, words = one_caption("twelve chars", 0, 600)
    assert reading_speed(caption, words) == 20.0
    assert findings_of(Shown(caption, tuple(words), DEFAULT_STYLE))[0].rule == "short"
    caption, words = one_caption("x" * 20 + " " + "y" * 20, 0, 2050)
    assert findings_of(Shown(caption, tuple(words), DEFAULT_STYLE)) == []
    caption, words = one_caption("x" * 20 + " " + "y" * 20, 0, 2049)
    (finding,) = findings_of(Shown(caption, tuple(words), DEFAULT_STYLE))
    assert finding.rule == "speed" and "shorten by 1 character" in finding.message


def test_every_rule_is_found():
    long_line, words = one_caption("x" * 43, 0, 3000)
    assert [f.rule for f in findings_of(Shown(long_line, tuple(words), DEFAULT_STYLE))] == ["line length"]
    caption, words = one_caption("a|b|c", 0, 8000)
    found = findings_of(Shown(caption, tuple(words), DEFAULT_STYLE))
    assert [f.rule for f in found if f.must] == ["lines", "long"]
    assert [f.rule for f in found if not f.must] == ["orphan"] * 3
    caption, words = one_caption("fine", 0, 2000)
    for start, rules in ((1990, ["overlap"]), (2079, ["gap"]), (2080, [])):
        following = Caption(1, start, start + 2000, ())
        assert [
            f.rule for f in findings_of(Shown(caption, tuple(words), DEFAULT_STYLE, following=following))
        ] == rules
    after = Caption(1, 2067, 4000, ())
    at_2997 = Shown(caption, tuple(words), DEFAULT_STYLE, following=after, rate=Fraction(30000, 1001))
    assert findings_of(at_2997) == []
    caption, words = one_caption("back", 500, 500)
    assert [f.rule for f in findings_of(Shown(caption, tuple(words), DEFAULT_STYLE))] == ["backwards"]


def test_struck_words_are_not_shown():
    turn = Turn(3, (Word(1, "so", 0, 500, struck=True), Word(2, "we", 500, 900)))
    project = Project(transcript=Transcript(turns=(turn,)))
    project = with_track(project, CaptionTrack(4, "en", DEFAULT_STYLE, (Caption(9, 0, 2000, (1, 2), (2,)),)))
    assert caption_lines(project, project.captions.captions[0]) == ["we"]


def test_a_style_that_is_not_there():
    assert house_style(DEFAULT_STYLE.name) is DEFAULT_STYLE
    with pytest.raises(DubrelError, match="no house style “Nonesuch”"):
        house_style("Nonesuch")


def test_a_style_is_kept_in_a_small_file_and_what_is_left_out_is_as_usual(tmp_path):
    path = tmp_path / "mine.json"
    for style in STYLES.values():
        path.write_text(json.dumps(style_to_json(style)))
        assert house_style(str(path)) == style
    path.write_text('{"dubrel_style": 1, "name": "Mine", "max_cpl": 37, "max_cps": 15}')
    assert house_style(str(path)) == replace(DEFAULT_STYLE, name="Mine", max_cpl=37, max_cps=15.0)


@pytest.mark.parametrize(
    ("value", "said"),
    [
        ({"name": "x"}, "dubrel_style"),
        ({"dubrel_style": 2, "name": "x"}, "dubrel_style"),
        ({"dubrel_style": 1}, "no name"),
        ({"dubrel_style": 1, "name": "x", "max_line": 2}, "no rule “max_line”"),
        ({"dubrel_style": 1, "name": "x", "max_cpl": "42"}, "“max_cpl” cannot be"),
        ({"dubrel_style": 1, "name": "x", "max_cpl": 41.5}, "whole number"),
        ({"dubrel_style": 1, "name": "x", "max_cpl": 0}, "“max_cpl” cannot be 0"),
        ({"dubrel_style": 1, "name": "x", "max_cps": float("inf")}, "Infinity is not a number"),
        ({"dubrel_style": 1, "name": "x", "dashes": 1}, "“dashes” cannot be"),
        ({"dubrel_style": 1, "name": "x", "max_lines": True}, "“max_lines” cannot be"),
        ({"dubrel_style": 1, "name": "x", "names": "often"}, "one of never"),
        ({"dubrel_style": 1, "name": "x", "min_ms": 8000}, "longer than"),
        ([], "dubrel_style"),
    ],
)
def test_a_style_with_a_rule_that_cannot_be_is_refused_by_its_name(tmp_path, value, said):
    path = tmp_path / "bad.json"
    path.write_text(json.dumps(value))
    with pytest.raises(DubrelError, match=said) as refused:
        house_style(str(path))
    assert "bad.json" in str(refused.value)


# -- who speaks --------------------------------------------------------------------------


@pytest.fixture
def exchange():
    """A question, a short answer and a long one, by two people."""
    people = [Speaker("s1", "Isolde"), Speaker("s2", "Tobiah")]
    said = spoken("Is it oak? Yes. So we make a pattern from thin plywood, and then we try it on the hull.")
    turns = [
        RecognisedTurn(tuple(said[:3]), "s1"),
        RecognisedTurn(tuple(said[3:4]), "s2"),
        RecognisedTurn(tuple(said[4:]), "s1"),
    ]
    return set_turns(Project(), turns, people, "en")


def lines_of(project):
    return [caption_lines(project, one) for one in project.captions.captions]


def styled(project, **rules):
    return set_again(project, replace(DEFAULT_STYLE, **rules))


def test_a_new_speaker_begins_a_caption_or_a_line_with_a_dash(exchange):
    assert lines_of(styled(exchange))[:2] == [["Is it oak?"], ["Yes."]]
    both = styled(exchange, dashes=True)
    assert lines_of(both)[0] == ["– Is it oak?", "– Yes."]
    first = both.captions.captions[0]
    assert len(first.dashed) == 2 and first.breaks == first.dashed[1:]
    assert lines_of(styled(exchange, dashes=True, max_lines=1))[:2] == [["Is it oak?"], ["Yes."]]


def test_names_stand_where_the_style_wants_them_and_count_as_characters(exchange):
    lines = lines_of(styled(exchange, names="change"))
    assert lines[:3] == [["Isolde: Is it oak?"], ["Tobiah: Yes."], lines[2]]
    assert lines[2][0].startswith("Isolde: So we") and not any(
        line.startswith("Isolde:") for row in lines[3:] for line in row
    )
    always = styled(exchange, names="always", max_cpl=30)
    assert all(": " in row[0] and all(len(line) <= 30 for line in row) for row in lines_of(always))
    caption = always.captions.captions[0]
    lines = text_of(always, always.captions, caption).lines
    assert reading_speed(caption, lines) > reading_speed(caption, (lines[0].removeprefix("Isolde: "),))
    renamed = rename_speaker(always, "s2", "T.")
    assert ["T.: Yes."] in lines_of(renamed)


def test_names_and_dashes_together_show_names_only(exchange):
    assert lines_of(styled(exchange, names="change", dashes=True))[0] == [
        "Isolde: Is it oak?",
        "Tobiah: Yes.",
    ]


def test_captions_follow_words_that_are_given_to_another(exchange):
    style = replace(DEFAULT_STYLE, names="change")
    project = set_again(exchange, style)
    last = project.transcript.turns[2]
    given = speakers_followed(project, give_words(project, last.id, 8, 11, "s2"))
    before, after = project.captions.captions, given.captions.captions
    assert len(after) > len(before) and after[:2] == before[:2]
    owners = given.transcript.speaker_of
    for caption in after:
        assert len({owners[one] for one in caption.words}) == 1 and caption.end_ms > caption.start_ms
    assert all(a.end_ms <= b.start_ms for a, b in zip(after, after[1:]))
    assert [one for caption in after for one in caption.words] == [
        one for caption in before for one in caption.words
    ]
    named = {given.transcript.name_of(one) for caption in after[2:] for one in caption.named}
    assert named == {"Isolde", "Tobiah"}
    assert speakers_followed(given, given) is given


def test_a_turn_that_is_given_away_takes_its_names_along_and_keeps_times(exchange):
    style = replace(DEFAULT_STYLE, names="change")
    project = set_again(exchange, style)
    given = speakers_followed(project, give_turn(project, project.transcript.turns[1].id, "s1"))
    assert lines_of(given)[1] == ["Yes."] and lines_of(given)[2][0].startswith("So we")
    times = [(one.start_ms, one.end_ms) for one in project.captions.captions]
    assert [(one.start_ms, one.end_ms) for one in given.captions.captions] == times
    merged = speakers_followed(project, merge_speakers(project, "s2", "s1"))
    assert sum(bool(one.named) for one in merged.captions.captions) == 1


def test_a_paragraph_that_goes_on_gets_no_name_when_the_turn_after_it_changes(exchange):
    style = replace(DEFAULT_STYLE, names="change")
    one, two, three = exchange.transcript.turns
    same = replace(
        exchange, transcript=replace(exchange.transcript, turns=(one, replace(two, speaker="s1"), three))
    )
    project = set_again(same, style)
    assert lines_of(project)[:2] == [["Isolde: Is it oak?"], ["Yes."]]
    given = speakers_followed(project, give_turn(project, three.id, "s2"))
    assert lines_of(given)[:2] == [["Isolde: Is it oak?"], ["Yes."]]
    assert lines_of(given)[2][0].startswith("Tobiah: So we")


def test_where_a_boundary_moves_two_people_share_a_caption_if_the_style_allows(exchange):
    style = replace(DEFAULT_STYLE, dashes=True)
    project = set_again(exchange, DEFAULT_STYLE)
    project = with_track(project, replace(project.captions, style=style))
    moved = speakers_followed(project, move_boundary(project, project.transcript.turns[1].id, -1))
    assert ["– Is it", "– oak?"] in lines_of(moved)
