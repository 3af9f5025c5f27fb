"""Times to the millisecond, lengths to the grapheme."""

from fractions import Fraction

import pytest

from dubrel.base.text import bare_word, ends_sentence, grapheme_count, graphemes, initial, is_rtl, reads_rtl
from dubrel.base.timecode import (
    format_clock,
    frames_to_ms,
    ms_to_frames,
    parse_clock,
    parse_rate,
    snap_to_frame,
)


def test_an_hour_at_2997_does_not_drift():
    rate = parse_rate("29.97")
    assert rate == Fraction(30000, 1001)
    assert frames_to_ms(107_892, rate) == 3_599_996
    for frame in (0, 1, 17, 1800, 107_892, 2_589_408):
        assert ms_to_frames(frames_to_ms(frame, rate), rate) == frame


@pytest.mark.parametrize("rate", ["23.976", "24", "25", "29.97", "30", "50", "59.94"])
def test_a_snapped_time_stays_where_it_is(rate):
    exact = parse_rate(rate)
    for ms in (0, 41, 999, 3_600_001):
        once = snap_to_frame(ms, exact)
        assert snap_to_frame(once, exact) == once
        assert abs(once - ms) <= 1000 / exact / 2 + 1


@pytest.mark.parametrize("ms", [0, 1, 999, 59_999, 60_000, 3_599_999, 360_000_000])
def test_a_clock_reads_back(ms):
    assert parse_clock(format_clock(ms)) == ms
    assert parse_clock(format_clock(ms, mark=",")) == ms


def test_odd_clocks():
    assert parse_clock("1:02.5") == 62_500
    assert parse_clock(" 00:00:01,2 ") == 1200
    assert parse_clock("-00:00:01,200") == -1200
    assert parse_clock("00:00:01.0004999") == 1000
    for wrong in ("", "12", "a:b", "1:2:3:4", "00:00:00:12"):
        with pytest.raises(ValueError):
            parse_clock(wrong)


@pytest.mark.parametrize(
    ("text", "count"),
    [
        ("plain", 5),
        ("e\u0301te\u0301", 3),
        ("नमस्ते", 3),
        ("🏴󠁧󠁢󠁷󠁬󠁳󠁿 ahoy", 6),
        ("👩🏽‍🔧", 1),
        ("שלום", 4),
        ("日本語", 3),
        ("한국어", 3),
        ("", 0),
    ],
)
def test_a_reader_counts_graphemes(text, count):
    assert grapheme_count(text) == count
    assert len(graphemes(text)) == count


def test_sentence_ends():
    assert all(ends_sentence(word) for word in ("gone.", "What?", "no!”", "end…", "是。", "کیا؟"))
    assert not any(ends_sentence(word) for word in ("Mr.", "e.g.", "3.5", "J.", "gone,", "", "—"))
    assert ends_sentence("I.")


def test_words_compare_without_dress():
    assert bare_word("“Heron’s,") == bare_word("herons")
    assert bare_word("—") == ""


def test_direction_and_initials():
    assert is_rtl("he") and is_rtl("ar-EG") and not is_rtl("en")
    assert reads_rtl("20 שלום, boat", "en") and reads_rtl("(مرحبا)", "en") and reads_rtl("", "he")
    assert not reads_rtl("boat שלום", "he") and not reads_rtl("1984", "en") and reads_rtl("1984", "fa")
    assert initial("élodie") == "É"
    assert initial("  ") == "?"
