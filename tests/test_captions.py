"""Captions keep the house style wherever the speech lets them."""

from fractions import Fraction

import pytest
from conftest import BOARDS, spoken

from dubrel.captions.breaking import break_lines, line_lengths
from dubrel.captions.checks import caption_lines, check_caption, check_track, reading_speed
from dubrel.captions.styles import DEFAULT_STYLE, house_style
from dubrel.edits.captions import set_again
from dubrel.edits.intake import add_heard
from dubrel.errors import DubrelError
from dubrel.model import Caption, Media, Project, Word
from dubrel.text import grapheme_count

STORY = " ".join(
    [
        BOARDS,
        "She carried flour and coal for sixty years, and then she was a houseboat, and then she was forgotten.",
        "Forgotten is kind. She sat in the reeds below the old mill for twenty winters.",
        "So we make a pattern from thin plywood, we steam the new oak for an hour for every inch, and then we "
        "have about three minutes to bend it before it goes stiff.",
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
    found = check_track(project.captions, project.transcript.words_by_id, DEFAULT_STYLE, rate)
    rules = {finding.rule for findings in found.values() for finding in findings}
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


def one_caption(text, start, end, breaks=()):
    words = {k: Word(k, token, start, end) for k, token in enumerate(text.split())}
    return Caption(99, start, end, tuple(words), tuple(breaks)), words


def test_reading_speed_is_exact():
    caption, words = one_caption("twelve chars", 0, 600)
    assert reading_speed(caption, words) == 20.0
    assert check_caption(caption, words, DEFAULT_STYLE)[0].rule == "short"
    caption, words = one_caption("x" * 20 + " " + "y" * 20, 0, 2050)
    assert check_caption(caption, words, DEFAULT_STYLE) == []
    caption, words = one_caption("x" * 20 + " " + "y" * 20, 0, 2049)
    (finding,) = check_caption(caption, words, DEFAULT_STYLE)
    assert finding.rule == "speed" and "shorten 1 character" in finding.message


def test_every_rule_is_found():
    long_line, words = one_caption("x" * 43, 0, 3000)
    assert [f.rule for f in check_caption(long_line, words, DEFAULT_STYLE)] == ["line length"]
    caption, words = one_caption("a b c", 0, 8000, breaks=(1, 2))
    assert [f.rule for f in check_caption(caption, words, DEFAULT_STYLE)] == ["lines", "long"]
    caption, words = one_caption("fine", 0, 2000)
    for start, rules in ((1990, ["overlap"]), (2079, ["gap"]), (2080, [])):
        following = Caption(1, start, start + 2000, ())
        assert [f.rule for f in check_caption(caption, words, DEFAULT_STYLE, following=following)] == rules
    two_frames = check_caption(
        caption, words, DEFAULT_STYLE, following=Caption(1, 2067, 4000, ()), frame_rate=Fraction(30000, 1001)
    )
    assert two_frames == []
    caption, words = one_caption("back", 500, 500)
    assert [f.rule for f in check_caption(caption, words, DEFAULT_STYLE)] == ["backwards"]


def test_struck_words_are_not_shown():
    words = {1: Word(1, "so", 0, 500, struck=True), 2: Word(2, "we", 500, 900)}
    assert caption_lines(Caption(9, 0, 2000, (1, 2), (2,)), words) == ["we"]


def test_a_style_that_is_not_there():
    assert house_style(DEFAULT_STYLE.name) is DEFAULT_STYLE
    with pytest.raises(DubrelError, match="no house style “Nonesuch”"):
        house_style("Nonesuch")
