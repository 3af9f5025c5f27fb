"""Caption and transcript files as the programs of the world write them: kept, or said with the line."""

import json

import pytest
from conftest import words
from recordings import caption_lines

from dubrel.base.errors import FormatError
from dubrel.formats.register import read_file
from dubrel.release.onefile import write_checked, written

T1, T2, T3 = (
    "00:00:01,000 --> 00:00:02,000",
    "00:00:03,000 --> 00:00:04,000",
    "00:00:05,000 --> 00:00:06,000",
)
V1, V2, V3 = ("00:01.000 --> 00:02.000", "00:03.000 --> 00:04.000", "00:05.000 --> 00:06.000")


def read(tmp_path, suffix, data):
    path = tmp_path / f"odd{suffix}"
    path.write_bytes(data if isinstance(data, bytes) else data.encode())
    return read_file(path)


def shown(project):
    return [(one.start_ms, caption_lines(project, one)) for one in project.captions.captions]


SRT = {
    # arrows and times
    "one dash": (f"1\n{T1.replace('-->', '->')}\na\n\n2\n{T2}\nb\n", [(1000, ["a"]), (3000, ["b"])], ""),
    "three dashes": (f"1\n{T1.replace('-->', '--->')}\na\n", [(1000, ["a"])], ""),
    "a dash of print": (f"1\n{T1.replace('-->', '–>')}\na\n", [(1000, ["a"])], ""),
    "an arrow": (f"1\n{T1.replace('-->', '→')}\na\n", [(1000, ["a"])], ""),
    "no space": (f"1\n{T1.replace(' ', '')}\na\n", [(1000, ["a"])], ""),
    "spaces in times": ("1\n00 : 00 : 01 , 000 --> 00 : 00 : 02 , 000\na\n", [(1000, ["a"])], ""),
    "a mark of direction": (f"1\n\u200e{T1}\na\n\n2\n{T2}\u200e\nb\n", [(1000, ["a"]), (3000, ["b"])], ""),
    "a point": ("1\n00:00:01.250 --> 00:00:02.000\na\n", [(1250, ["a"])], ""),
    "a colon": ("1\n00:00:01:250 --> 00:00:02:000\na\n", [(1250, ["a"])], ""),
    "no hours": ("1\n00:01,000 --> 00:02,000\na\n", [(1000, ["a"])], ""),
    "no fraction": ("1\n00:00:01 --> 00:00:02\na\n", [(1000, ["a"])], ""),
    "unpadded": (
        "1\n00:00:01,5 --> 00:00:02,50\na\n\n2\n00:00:03,500 --> 00:00:04,0\nb\n",
        [(1005, ["a"]), (3500, ["b"])],
        "as milliseconds, as 1,005 for 1,5",
    ),
    "hundredths": (
        "1\n00:00:01,50 --> 00:00:02,00\na\n\n2\n00:00:03,25 --> 00:00:04,00\nb\n",
        [(1500, ["a"]), (3250, ["b"])],
        "as parts of a second",
    ),
    "coordinates": (
        f"1\n{T1}  X1:63 X2:223 Y1:43 Y2:58\na\n",
        [(1000, ["a"])],
        "coordinates after times (1)",
    ),
    "beyond reason": (
        f"1\n999:00:00,000 --> 999:00:01,000\na\n\n2\n{T2}\nb\n",
        [(3000, ["b"])],
        "Line 2: a time beyond",
    ),
    "no times at all": (
        f"1\n00:0x:01 --> 00:00:02\nlost\n\n2\n{T2}\nb\n",
        [(3000, ["b"])],
        "before the first caption",
    ),
    "times that are none": (
        f"1\n{T1}\na\n\n2\n0:0:0:3 --> 4\nb\n",
        [(1000, ["a", "2", "0:0:0:3 --> 4", "b"])],
        "Line 6: looks like times",
    ),
    # blocks
    "no blank line": (f"1\n{T1}\na\n2\n{T2}\nb\n", [(1000, ["a"]), (3000, ["b"])], ""),
    "no numbers": (f"{T1}\na\n\n{T2}\nb\n", [(1000, ["a"]), (3000, ["b"])], ""),
    "a year at the end": (f"{T1}\nin\n1984\n{T2}\nb\n", [(1000, ["in", "1984"]), (3000, ["b"])], ""),
    "a blank line inside": (
        f"1\n{T1}\na\n\nmore\n\n2\n{T2}\nb\n",
        [(1000, ["a", "more"]), (3000, ["b"])],
        "",
    ),
    "a caption without text": (f"1\n{T1}\n\n2\n{T2}\nb\n", [(3000, ["b"])], "Line 2: a caption without text"),
    "something before": (f"Made by hand\n\n1\n{T1}\na\n", [(1000, ["a"])], "Line 1: not understood"),
    "over each other": (
        "1\n00:00:01,000 --> 00:00:05,000\na\n\n2\n00:00:03,000 --> 00:00:04,000\nb\n",
        [(1000, ["a"]), (3000, ["b"])],
        "1 caption begins before",
    ),
    "old line ends": (f"1\r{T1}\ra\r\r2\r{T2}\rb\r", [(1000, ["a"]), (3000, ["b"])], ""),
    "a zero byte": (f"1\n{T1}\na\0b\n", [(1000, ["ab"])], "zero bytes"),
    "wide, unmarked": (f"1\n{T1}\nDéjà vu\n".encode("utf-16-le"), [(1000, ["Déjà vu"])], "read as UTF-16-LE"),
    "wide, the other way": (
        f"1\n{T1}\nDéjà vu\n".encode("utf-16-be"),
        [(1000, ["Déjà vu"])],
        "read as UTF-16-BE",
    ),
    # text
    "a name and a warning": (
        f"1\n{T1}\nWARNING: do not touch\n",
        [(1000, ["WARNING: do not touch"])],
        "“WARNING” may be names",
    ),
    "line break codes": (f"1\n{T1}\none\\Ntwo\\hthree\n", [(1000, ["one", "two three"])], ""),
    "italics of another form": (f"1\n{T1}\n{{y:i}}leaning\n", [(1000, ["leaning"])], ""),
    "entities": (f"1\n{T1}\nfish &amp; chips &lt;3\n", [(1000, ["fish & chips <3"])], ""),
    "a voice": (f"1\n{T1}\n<v Ann>Hello\n", [(1000, ["Hello"])], ""),
    "a class": (f"1\n{T1}\n<c.yellow>Hello</c>\n", [(1000, ["Hello"])], "colours and classes (1)"),
    "a font": (f'1\n{T1}\n<font color="#fff">Hello</font>\n', [(1000, ["Hello"])], "colours and fonts (1)"),
    "comparisons": (f"1\n{T1}\n5 < 6 and 7 > 3, <b you>\n", [(1000, ["5 < 6 and 7 > 3, <b you>"])], ""),
    "a break tag": (f"1\n{T1}\none<br/>two\n", [(1000, ["one", "two"])], ""),
    "braces that are text": (f"1\n{T1}\na {{x}} {{1}}\n", [(1000, ["a {x} {1}"])], ""),
    "a movement": (f"1\n{T1}\n{{\\move(1,2,3,4)}}a\n", [(1000, ["a"])], "codes in braces (1)"),
}


@pytest.mark.parametrize("name", SRT)
def test_subrip_as_it_comes(tmp_path, name):
    data, lines, said = SRT[name]
    reading = read(tmp_path, ".srt", data)
    assert shown(reading.project) == lines
    assert said in " ".join(reading.warnings)
    assert bool(said) == bool(reading.warnings)


VTT = {
    "a first line of one space": (
        f"WEBVTT\n\n{V1} align:start position:0%\n \nso<00:01.200><c> the</c>\n\n{V2}\nb\n",
        [(1000, ["so the"]), (3000, ["b"])],
        "",
    ),
    "no blank line between": (f"WEBVTT\n\n{V1}\na\n{V2}\nb\n", [(1000, ["a"]), (3000, ["b"])], ""),
    "numbers without a blank line": (
        f"WEBVTT\n\n1\n{V1}\na\n2\n{V2}\nb\n",
        [(1000, ["a"]), (3000, ["b"])],
        "",
    ),
    "an id like a style": (
        f"WEBVTT\n\nSTYLED 1\n{V1}\na\n\nNOTEWORTHY\n{V2}\nb\n",
        [(1000, ["a"]), (3000, ["b"])],
        "names of captions (2)",
    ),
    "an id that is a keyword": (f"WEBVTT\n\nSTYLE\n{V1}\na\n", [(1000, ["a"])], "names of captions (1)"),
    "a blank line in a caption": (
        f"WEBVTT\n\n{V1}\na\n\nmore\n\n{V2}\nb\n",
        [(1000, ["a", "more"]), (3000, ["b"])],
        "Line 6: stood after a blank line",
    ),
    "comparisons": (f"WEBVTT\n\n{V1}\n5 < 6 and 7 > 3\n", [(1000, ["5 < 6 and 7 > 3"])], ""),
    "two voices on a line": (
        f"WEBVTT\n\n{V1}\n<v Ann>Oak?</v> <v Ben>Oak.</v>\n",
        [(1000, ["Oak?", "Oak."])],
        "second speakers on a line",
    ),
    "ruby": (f"WEBVTT\n\n{V1}\n<ruby>漢<rt>kan</rt></ruby>\n", [(1000, ["漢(kan)"])], "now in brackets (1)"),
    "styles and regions": (
        f"WEBVTT\n\nSTYLE\n::cue(b) {{ color: red }}\n\nREGION\nid:x\n\n{V1} region:x\na\n",
        [(1000, ["a"])],
        "rules of style blocks (1), regions (1), settings of captions that are not known (1)",
    ),
    "no header": (f"{V1}\na\n", [(1000, ["a"])], "does not begin with WEBVTT"),
    "a caption right after the header": (f"WEBVTT\n{V1}\na\n", [(1000, ["a"])], ""),
    "commas": (f"WEBVTT\n\n{V1.replace('.', ',')}\na\n", [(1000, ["a"])], ""),
    "one digit of a fraction": ("WEBVTT\n\n00:01.5 --> 00:02.25\na\n", [(1500, ["a"])], ""),
    "prose between": (
        f"WEBVTT\n\nprose\nmore prose\n\n{V1}\na\n",
        [(1000, ["a"])],
        "Lines 3 and 4: not understood",
    ),
}


@pytest.mark.parametrize("name", VTT)
def test_webvtt_as_it_comes(tmp_path, name):
    data, lines, said = VTT[name]
    reading = read(tmp_path, ".vtt", data)
    assert shown(reading.project) == lines
    assert said in " ".join(reading.warnings)
    assert bool(said) == bool(reading.warnings)


@pytest.mark.parametrize(("suffix", "head", "mark"), [(".srt", "", ","), (".vtt", "WEBVTT\n\n", ".")])
def test_no_form_takes_a_time_that_a_project_cannot_keep(tmp_path, suffix, head, mark):
    from dubrel.store.projectfile import read_project, save

    rows = [
        f"{hour}:00:00{mark}000 --> {hour}:00:01{mark}000\n{hour} hours\n" for hour in ("99", "100", "500")
    ]
    reading = read(tmp_path, suffix, head + "\n".join(rows))
    assert shown(reading.project) == [(356_400_000, ["99 hours"])]
    assert "beyond a hundred hours; that caption was left out" in " ".join(reading.warnings)
    save(reading.project, tmp_path / "p.dubrel")
    again = read_project(tmp_path / "p.dubrel")
    assert again.fixed == () and again.project == reading.project


def test_the_language_of_the_header_is_taken(tmp_path):
    reading = read(tmp_path, ".vtt", f"WEBVTT\nKind: captions\nLanguage: cy\n\n{V1}\nMae'n oer\n")
    assert reading.project.transcript.language == "cy" and not reading.warnings


NAMED = f"1\n{T1}\nANN: Hello.\n\n2\n{T2}\nBEN: Oak?\nANN: Oak.\n\n3\n{T3}\nAnd elm: a little.\n"


def test_names_that_the_file_shows_are_taken_and_put_back(tmp_path):
    reading = read(tmp_path, ".srt", NAMED)
    turns = reading.project.transcript.turns
    assert [(reading.project.transcript.name_of(one.words[0].id), one.text) for one in turns] == [
        ("ANN", "Hello."),
        ("BEN", "Oak?"),
        ("ANN", "Oak."),
        ("ANN", "And elm: a little."),
    ]
    assert written(reading.project, ".srt") == NAMED
    assert not reading.warnings


def test_a_single_name_is_asked_about(window, tmp_path):
    path = tmp_path / "one.srt"
    path.write_text(f"1\n{T1}\nANN: Hello.\n")
    asked = []
    window.dialogs.yes = lambda question, go="": asked.append(question) or go == "Take as names"
    window.filing.open_path(path)
    assert asked == ["Before a colon in the captions: “ANN”. Is it the name of a speaker?"]
    assert [one.name for one in window.session.project.transcript.speakers] == ["ANN"]
    window.dialogs.yes = lambda question, go="": False
    window.filing.open_path(path)
    assert window.session.project.transcript.speakers == ()
    assert words(window.session.project)[0].text == "ANN:"


STYLED = f"1\n{T1}\n{{\\an8}}<i>Slow Water</i> is out\n\n2\n{T2}\nTold by\n<b>Isolde Marsh</b>\n"


@pytest.mark.parametrize("suffix", [".srt", ".vtt"])
def test_places_and_italics_go_in_and_come_out(tmp_path, suffix):
    project = read(tmp_path, ".srt", STYLED).project
    assert project.captions.captions[0].place == "line:0"
    assert written(project, ".srt") == STYLED
    path = tmp_path / f"out{suffix}"
    write_checked(project, path)
    assert written(read_file(path).project, ".srt") == STYLED
    from dubrel.store.projectfile import open_project, save

    save(project, tmp_path / "p.dubrel")
    assert open_project(tmp_path / "p.dubrel") == project


def test_webvtt_goes_in_and_comes_out_the_same(tmp_path):
    text = (
        "WEBVTT\n\nNOTE Language: en\n\nNOTE Made for the yard\n\n00:00:01.000 --> 00:00:02.000 line:10%"
        " align:start\n<v Ann>Fish &amp; <i>chips</i> &lt;3\n\nNOTE\ntwo\nlines\n\n00:00:03.000 -->"
        " 00:00:04.000\n<v Ben>Oak.\n"
    )
    reading = read(tmp_path, ".vtt", text)
    assert not reading.warnings and written(reading.project, ".vtt") == text
    assert [one.text for one in reading.project.notes] == ["Made for the yard", "two\nlines"]


def test_italics_follow_what_is_typed_around_them(window, tmp_path):
    from PySide6.QtTest import QTest

    path = tmp_path / "s.srt"
    path.write_text(STYLED)
    window.filing.open_path(path)
    window.show_room("wording")
    QTest.keyClicks(window.sheet, "Our ")
    assert "<i>" in written(window.session.project, ".srt")
    while window.session.history.depth:
        window.commands.run("undo")
    assert written(window.session.project, ".srt") == STYLED


CTM = (
    "a 1 1.0 0.5 oak 0.9\nnot a line\na 1 inf 0.5 far 0.9\na 1 2.0 0.5 elm 7\na 1 1e300 0.5 late\n;;"
    " comment\na 1 3.0 nan ash\n"
)


def test_a_bad_line_of_scoring_times_refuses_no_file(tmp_path):
    reading = read(tmp_path, ".ctm", CTM)
    assert [(one.text, one.start_ms, one.doubt) for one in words(reading.project)] == [
        ("oak", 1000, 0.1),
        ("elm", 2000, 0.0),
    ]
    assert reading.warnings == ("Lines 2, 3, 5 and 1 more: not a CTM word line; left out.",)


def test_a_transcript_with_impossible_values_is_put_right_and_said(tmp_path):
    rows = [("two words", 500, 1500, 0.1), ("back", 400, 300, 7), ("late", 10**12, 10**12, 0), ("", 1, 2, 0)]
    value = {
        "dubrel": 1,
        "speakers": [{"id": "s1", "name": "Ann"}],
        "turns": [
            {
                "speaker": "s9",
                "words": [dict(zip(("text", "start_ms", "end_ms", "doubt"), row)) for row in rows],
            }
        ],
    }
    reading = read(tmp_path, ".json", json.dumps(value))
    found = [(one.text, one.start_ms, one.end_ms, one.doubt) for one in words(reading.project)]
    assert found == [
        ("two", 500, 1000, 0.1),
        ("words", 1000, 1500, 0.1),
        ("back", 1000, 1000, 1.0),
        ("late", 360_000_000, 360_000_000, 0.0),
    ]
    assert reading.project.transcript.turns[0].speaker is None
    assert len(reading.warnings) == 4


@pytest.mark.parametrize(
    "text",
    [
        (
            '{"dubrel": 1, "speakers": [], "turns": [{"words": [{"text": "a", "start_ms": Infinity, "end_ms":'
            " 1}]}]}"
        ),
        '{"dubrel": true}',
        "[" * 100_000,
        '{"dubrel": 1, "speakers": [], "turns": {"words": 1}}',
        '{"dubrel": 1e400}',
    ],
)
def test_a_transcript_that_is_none_is_one_sentence(tmp_path, text):
    with pytest.raises(FormatError, match="is not a Dubrel transcript") as caught:
        read(tmp_path, ".json", text)
    assert "\n" not in str(caught.value)
