"""TTML by the standard's rules of time and style; a library of others finds the same times."""

import json
import subprocess

import pytest
from conftest import ROOT

from dubrel.base.errors import FormatError
from dubrel.formats.captions.ttmltime import Clock, clock_of
from dubrel.formats.register import read_file

NAMES = (
    'xmlns="http://www.w3.org/ns/ttml" xmlns:tts="http://www.w3.org/ns/ttml#styling"'
    ' xmlns:ttp="http://www.w3.org/ns/ttml#parameter"'
)


def reading(tmp_path, body, names=NAMES, head="", lang="en"):
    """A file that is read."""
    path = tmp_path / "a.ttml"
    said = f' xml:lang="{lang}"' if lang else ""
    path.write_text(f"<tt {names}{said}>{head}<body>{body}</body></tt>", encoding="utf-8")
    return read_file(path)


def by_another_library(path):
    """Times and text of what a library of others shows."""
    made = subprocess.run(
        ["node", ROOT / "tools" / "readers" / "imsc.js", path], capture_output=True, text=True, check=True
    )
    found = json.loads(made.stdout)
    assert found["wrong"] == []
    return [(start, end, " ".join(text for text, _ in texts)) for start, end, texts in found["shown"]]


def shown(found):
    """Times and lines of its captions."""
    project = found.project
    words = {word.id: word.text for turn in project.transcript.turns for word in turn.words}
    return [
        (one.start_ms, one.end_ms, " ".join(words[word] for word in one.words))
        for one in project.captions.captions
    ]


STANDARD = {
    "from what is around": (
        '<div begin="10s"><p begin="1s" end="2s">Oak.</p></div>',
        [(11_000, 12_000, "Oak.")],
    ),
    "from two around": (
        '<div begin="10s"><div begin="1s"><p begin="1s" end="2s">Oak.</p></div>'
        '<div begin="5s" end="9s"><p begin="1s" end="9s">Elm.</p></div></div>',
        [(12_000, 13_000, "Oak."), (16_000, 19_000, "Elm.")],
    ),
    "one after the other": (
        '<div timeContainer="seq"><p dur="1s">Oak.</p><p begin="1s" dur="2s">Elm.</p>'
        '<p dur="1s">Ash.</p></div>',
        [(0, 1000, "Oak."), (2000, 4000, "Elm."), (4000, 5000, "Ash.")],
    ),
    "an end and a length": (
        '<div><p begin="1s" dur="9s" end="3s">Oak.</p><p begin="4s" dur="1s" end="9s">Elm.</p></div>',
        [(1000, 3000, "Oak."), (4000, 5000, "Elm.")],
    ),
    "cut by what is around": (
        '<div end="4s"><p begin="1s" end="2s">Oak.</p><p begin="3s" end="9s">Elm.</p></div>',
        [(1000, 2000, "Oak."), (3000, 4000, "Elm.")],
    ),
    "spans in turn": (
        '<div begin="1s"><p begin="1s" end="9s"><span end="3s">Oak.</span>'
        '<span begin="3s">Elm.</span></p></div>',
        [(2000, 5000, "Oak."), (5000, 10_000, "Elm.")],
    ),
}


@pytest.mark.parametrize("name", STANDARD)
def test_times_count_as_the_standard_says_and_another_library_agrees(tmp_path, name):
    body, wanted = STANDARD[name]
    found = reading(tmp_path, body)
    assert shown(found) == wanted and found.warnings == ()
    assert by_another_library(tmp_path / "a.ttml") == wanted


@pytest.mark.parametrize(
    ("text", "ms"),
    [
        ("00:00:01,500", 1500),
        ("0:00:01.5", 1500),
        ("01:05", 65_000),
        ("01:05.25", 65_250),
        ("7", 7000),
        ("7.25", 7250),
        ("00:01:00;02", 60_060),
        ("00:00:01:15", 1500),
        (" 2s ", 2000),
        ("wallclock(2008-01-01)", None),
        ("soon", None),
        ("", None),
    ],
)
def test_what_a_time_can_mean_is_read(text, ms):
    clock = Clock(30, 30_000 / 1001 if ";" in text else 30)
    found = clock.seconds(text)
    assert ms is None if found is None else abs(float(found) * 1000 - ms) < 1


def test_time_code_that_leaves_numbers_out_is_exact():
    clock = clock_of(
        {
            "timeBase": "smpte",
            "frameRate": "30",
            "frameRateMultiplier": "1000 1001",
            "dropMode": "dropNTSC",
        }
    )
    assert clock.seconds("00:10:00:00") == (600 * 30 - 18) / clock.rate
    assert round(float(clock.seconds("01:00:00:00")) * 1000) == 3_599_996
    kept = clock_of({"timeBase": "smpte", "frameRate": "30", "frameRateMultiplier": "1000 1001"})
    assert round(float(kept.seconds("01:00:00:00")) * 1000) == 3_603_600


def test_ticks_without_a_rate_count_frames(tmp_path):
    found = reading(tmp_path, '<div><p begin="25t" end="50t">Oak.</p></div>', f'{NAMES} ttp:frameRate="25"')
    assert shown(found) == [(1000, 2000, "Oak.")]


def test_odd_times_are_read_and_those_that_cannot_be_are_said_with_their_line(tmp_path):
    body = (
        '<div>\n<p begin="00:00:01,000" end="00:00:02,000">Oak.</p>\n<p begin="wallclock(2008-01-01)"'
        ' end="9s">Elm.</p>\n<p begin="00:03" end="late">Ash.</p>\n<p>Fir.</p></div>'
    )
    found = reading(tmp_path, body)
    assert shown(found) == [(1000, 2000, "Oak."), (3000, 5000, "Ash.")]
    said = " ".join(found.warnings)
    assert "Line 3: the time “wallclock(2008-01-01)” cannot be read." in said
    assert "Line 3: a caption whose in time cannot be read; left out." in said
    assert "Line 4: the time “late” cannot be read." in said
    assert "Line 4: a caption without an out time" in said
    assert "Line 5: a paragraph without times; left out." in said
    assert "Lines 2 and 4: a time is not written as the standard requires" in said


@pytest.mark.parametrize(
    "names",
    [
        'xmlns="http://www.w3.org/2006/04/ttaf1" xmlns:tts="http://www.w3.org/2006/04/ttaf1#styling"',
        'xmlns="http://www.w3.org/2006/10/ttaf1" xmlns:tts="http://www.w3.org/2006/10/ttaf1#styling"',
        'xmlns="http://www.w3.org/2006/10/ttaf1" xmlns:tts="http://www.w3.org/2006/10/ttaf1#style"',
        'xmlns:tts="http://www.w3.org/ns/ttml#styling"',
        "",
    ],
)
def test_older_names_and_none_at_all_are_read(tmp_path, names):
    found = reading(tmp_path, '<div><p begin="1s" end="2s" tts:fontStyle="italic">Oak.</p></div>', names)
    assert shown(found) == [(1000, 2000, "Oak.")]
    assert [style for _, style in found.project.captions.captions[0].styled] == ["i"]


def test_letters_by_entities_of_html_are_read(tmp_path):
    found = reading(tmp_path, '<div><p begin="1s" end="2s">Caf&eacute; &amp; oak&hellip;</p></div>')
    assert shown(found) == [(1000, 2000, "Café & oak…")]


def test_readings_above_the_line_stand_in_brackets_and_are_said(tmp_path):
    body = (
        '<div><p begin="1s" end="2s"><span tts:ruby="container"><span tts:ruby="base">船</span><span'
        ' tts:ruby="delimiter">(</span><span tts:ruby="text">ふね</span><span tts:ruby="delimiter">)</span>'
        "</span>です。</p></div>"
    )
    found = reading(tmp_path, body, lang="ja")
    turns = found.project.transcript.turns
    assert "".join(turn.text for turn in turns) == "船(ふね)です。"
    assert "readings above the line, now in brackets (1)" in found.warnings[0]


REGIONS = (
    '<head><layout><region xml:id="t" tts:origin="10% 10%" tts:extent="80% 20%"><style'
    ' tts:fontStyle="italic"/></region><region xml:id="b" tts:origin="10% 70%" tts:extent="80% 20%"'
    ' tts:displayAlign="after"/></layout></head>'
)


def test_two_regions_at_one_time_are_two_captions_with_the_style_of_their_region(tmp_path):
    body = '<div><p begin="1s" end="2s" region="t">Top.</p><p begin="1s" end="2s" region="b">Low.</p></div>'
    first, second = reading(tmp_path, body, head=REGIONS).project.captions.captions
    assert (first.place, second.place) == ("line:0", "")
    assert [style for _, style in first.styled] == ["i"] and second.styled == ()


def test_what_is_hidden_for_a_while_is_read_once_and_begins_when_it_is_seen(tmp_path):
    body = (
        '<div><p begin="1s" end="5s">Oak <span tts:visibility="hidden">and elm<set begin="1s" dur="1s"'
        ' tts:visibility="visible"/></span></p><p begin="6s" end="7s" tts:opacity="0">Gone.</p>'
        '<p begin="8s" end="12s"><set begin="1s" end="2s" tts:display="none"/>Ash.</p></div>'
    )
    found = reading(tmp_path, body)
    assert shown(found) == [
        (1000, 5000, "Oak and elm"),
        (8000, 9000, "Ash."),
        (10_000, 12_000, "Ash."),
    ]
    begins = [word.start_ms for word in found.project.transcript.turns[0].words]
    assert begins[:2] == [1000, 2000]
    assert "paragraphs that are never shown (1)" in found.warnings[-1]


def test_words_that_come_one_after_the_other_are_read_once_with_their_times(tmp_path):
    body = (
        '<div><p begin="10s" end="20s">Slow <span begin="1s">water <span begin="1s">seven.</span></span></p>'
        '<p begin="20s" end="22s">Slow</p></div>'
    )
    found = reading(tmp_path, body)
    assert shown(found) == [(10_000, 20_000, "Slow water seven."), (20_000, 22_000, "Slow")]
    assert [word.start_ms for word in found.project.transcript.turns[0].words][:3] == [10_000, 11_000, 12_000]


def test_line_feeds_that_are_preserved_break_lines(tmp_path):
    found = reading(tmp_path, '<div><p xml:space="preserve" begin="1s" end="2s">Oak.\nElm.</p></div>')
    assert len(found.project.captions.captions[0].breaks) == 1


def test_two_languages_are_an_original_and_a_translation(tmp_path):
    body = (
        '<div xml:lang="en"><p begin="1s" end="2s">The oak is sound.</p><p begin="3s" end="4s">Good.</p>'
        '</div><div xml:lang="pt"><p begin="1s" end="2s">O carvalho está são.</p><p begin="3s" end="4s">'
        "Bom.</p></div>"
    )
    project = reading(tmp_path, body).project
    original, translation = project.tracks
    assert (original.language, translation.language) == ("en", "pt")
    assert [one.text for one in translation.captions] == ["O carvalho está são.", "Bom."]
    assert [one.sources for one in translation.captions] == [(one.id,) for one in original.captions]


def test_images_and_colours_of_single_captions_are_said(tmp_path):
    body = (
        '<div><p begin="1s" end="2s">Oak.</p><p begin="2s" end="3s">Elm.</p><p begin="3s" end="4s"'
        ' tts:color="#FFFF00">Ash.</p></div><div begin="5s" end="6s"'
        ' xmlns:smpte="http://www.smpte-ra.org/schemas/2052-1/2010/smpte-tt" smpte:backgroundImage="#i"/>'
    )
    said = " ".join(reading(tmp_path, body).warnings)
    assert "colours of single captions (1)" in said and "captions that are images (1)" in said


def test_a_file_that_is_cut_short_says_where(tmp_path):
    path = tmp_path / "a.ttml"
    path.write_text(f'<tt {NAMES}><body>\n<div><p begin="1s" end="2s">Oak.</p>')
    with pytest.raises(FormatError, match="line 2 is not well-formed XML"):
        read_file(path)


def test_elements_of_html_are_what_they_are_there(tmp_path):
    body = '<div><p begin="1s" end="3s">The <i>old</i> <b>oak <a href="x">boat</a></b> <u>sank</u>.</p></div>'
    found = reading(tmp_path, body)
    assert shown(found) == [(1000, 3000, "The old oak boat sank.")]
    words = {word.id: word.text for turn in found.project.transcript.turns for word in turn.words}
    [caption] = found.project.captions.captions
    assert [(words[one], style) for one, style in caption.styled] == [
        ("old", "i"),
        ("oak", "b"),
        ("boat", "b"),
        ("sank.", "u"),
    ]


def test_three_hours_are_read_without_walking_over_all_of_them_for_each(tmp_path):
    rows = "".join(f'<p begin="{nth}s" end="{nth + 1}s">Line {nth}.</p>' for nth in range(8000))
    found = reading(tmp_path, f"<div>{rows}</div>")
    assert len(found.project.captions.captions) == 8000
