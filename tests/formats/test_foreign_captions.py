"""Caption files as other programs write them: TTML, SCC, sung words and tables."""

import pytest

from dubrel.base.errors import FormatError
from dubrel.formats.captions import captiontable, lrc, scc, ttml
from dubrel.formats.register import read_file

TT = (
    '<?xml version="1.0" encoding="UTF-8"?><tt xmlns="http://www.w3.org/ns/ttml"'
    ' xmlns:tts="http://www.w3.org/ns/ttml#styling" xmlns:ttp="http://www.w3.org/ns/ttml#parameter"'
    ' xmlns:ttm="http://www.w3.org/ns/ttml#metadata" xml:lang="{lang}"'
    " {more}>{head}<body><div>{body}</div></body></tt>"
)


def tt(tmp_path, body, head="", lang="en", more="", name="a.ttml"):
    """The project of a TTML file."""
    path = tmp_path / name
    path.write_text(TT.format(body=body, head=head, lang=lang, more=more), encoding="utf-8")
    return read_file(path).project


def shown(project):
    """Times and text of its captions."""
    words = {word.id: word.text for turn in project.transcript.turns for word in turn.words}
    return [
        (one.start_ms, one.end_ms, " ".join(words[word] for word in one.words))
        for one in project.captions.captions
    ]


# -- times of TTML ----------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("begin", "end", "more", "wanted"),
    [
        ("00:00:01.500", "00:00:03", "", (1500, 3000)),
        ("1.5s", "3s", "", (1500, 3000)),
        ("1500ms", "3000ms", "", (1500, 3000)),
        ("0.025m", "0.05m", "", (1500, 3000)),
        ("00:00:01:12", "00:00:03:00", 'ttp:frameRate="24"', (1500, 3000)),
        ("36f", "72f", 'ttp:frameRate="24"', (1500, 3000)),
        ("15000000t", "30000000t", 'ttp:tickRate="10000000"', (1500, 3000)),
        ("30f", "60f", 'ttp:frameRate="30" ttp:frameRateMultiplier="1000 1001"', (1001, 2002)),
        ("01:00:00.000", "01:00:01.000", "", (3_600_000, 3_601_000)),
    ],
)
def test_every_way_to_write_a_time(tmp_path, begin, end, more, wanted):
    project = tt(tmp_path, f'<p begin="{begin}" end="{end}">Oak.</p>', more=more)
    assert shown(project) == [(*wanted, "Oak.")]


def test_lengths_and_times_of_what_is_around(tmp_path):
    project = tt(tmp_path, '<p begin="1s" dur="2s">One</p><p begin="11s" end="12s">Two</p>')
    assert shown(project) == [(1000, 3000, "One"), (11_000, 12_000, "Two")]


def test_paragraphs_that_are_never_shown_are_said(tmp_path):
    path = tmp_path / "a.ttml"
    body = (
        '<p begin="1s" end="2s">One</p><p begin="3s" end="3s">Never</p><p begin="4s" end="5s"'
        ' tts:display="none">Nor</p>'
    )
    path.write_text(TT.format(body=body, head="", lang="en", more=""), encoding="utf-8")
    reading = read_file(path)
    assert shown(reading.project) == [(1000, 2000, "One")]
    assert reading.warnings == (
        "Not kept, because Dubrel has no place for it: paragraphs that are never shown (2).",
    )


def test_spans_that_come_one_after_the_other_are_captions_of_their_own(tmp_path):
    body = (
        '<p begin="10s" end="20s"><span begin="0s" end="4s">One</span><span begin="4s"'
        ' end="10s">Two</span></p>'
    )
    assert shown(tt(tmp_path, body)) == [(10_000, 14_000, "One"), (14_000, 20_000, "Two")]


def test_paragraphs_at_the_same_time_are_lines_of_one_caption(tmp_path):
    body = (
        '<p begin="1s" end="2s">Is it oak?</p><p begin="1s" end="2s">Yes.</p><p begin="2s" end="3s">Good.</p>'
    )
    project = tt(tmp_path, body)
    assert shown(project) == [(1000, 2000, "Is it oak? Yes."), (2000, 3000, "Good.")]
    assert len(project.captions.captions[0].breaks) == 1


def test_a_caption_out_of_order_is_put_in_order_and_said(tmp_path):
    path = tmp_path / "a.ttml"
    body = '<p begin="5s" end="6s">Two</p><p begin="1s" end="2s">One</p>'
    path.write_text(TT.format(body=body, head="", lang="en", more=""), encoding="utf-8")
    reading = read_file(path)
    assert [one[2] for one in shown(reading.project)] == ["One", "Two"]
    assert "out of order" in " ".join(reading.warnings)


# -- what TTML says besides -----------------------------------------------------------------------------


def test_styles_from_the_head_and_from_around(tmp_path):
    head = (
        '<head><styling><style xml:id="quiet" tts:fontStyle="italic"/><style xml:id="loud"'
        ' tts:fontWeight="bold"/></styling></head>'
    )
    body = (
        '<p begin="1s" end="2s" style="quiet">All of it</p><p begin="3s" end="4s">Only <span'
        ' style="loud">this</span> and <span tts:textDecoration="underline">that</span></p>'
    )
    first, second = tt(tmp_path, body, head).captions.captions
    assert [style for _, style in first.styled] == ["i", "i", "i"]
    assert [style for _, style in second.styled] == ["b", "u"]


def test_places_by_regions(tmp_path):
    head = (
        '<head><layout><region xml:id="top" tts:origin="10% 5%" tts:extent="80% 20%"'
        ' tts:displayAlign="before"/><region xml:id="low" tts:origin="10% 75%" tts:extent="80% 20%"'
        ' tts:displayAlign="after"/><region xml:id="left" tts:origin="10% 75%" tts:extent="80% 20%"'
        ' tts:displayAlign="after" tts:textAlign="start"/></layout></head>'
    )
    body = "".join(
        f'<p begin="{nth}s" end="{nth}.9s" region="{name}">Oak.</p>'
        for nth, name in enumerate(("top", "low", "left"), 1)
    )
    places = [one.place for one in tt(tmp_path, body, head).captions.captions]
    assert places == ["line:0", "", "position:10% align:left"]


def test_who_speaks_by_agents_of_paragraphs_and_of_spans(tmp_path):
    head = (
        '<head><metadata><ttm:agent xml:id="a" type="person"><ttm:name'
        ' type="full">Isolde</ttm:name></ttm:agent><ttm:agent xml:id="b" type="person"><ttm:name'
        ' type="full">Tobiah</ttm:name></ttm:agent></metadata></head>'
    )
    body = (
        '<p begin="1s" end="2s" ttm:agent="a">Is it oak?</p>'
        '<p begin="3s" end="4s"><span ttm:agent="b">Yes.</span><br/><span ttm:agent="a">Yes.</span></p>'
        '<p begin="9s" end="10s">Nobody knows.</p>'
    )
    project = tt(tmp_path, body, head)
    names = {one.id: one.name for one in project.transcript.speakers} | {None: ""}
    assert [(names[one.speaker], one.text) for one in project.transcript.turns] == [
        ("Isolde", "Is it oak?"),
        ("Tobiah", "Yes."),
        ("Isolde", "Yes."),
        ("", "Nobody knows."),
    ]


def test_the_language_and_words_that_look_like_tags(tmp_path):
    project = tt(tmp_path, '<p begin="1s" end="2s">Bwrdd &lt;b&gt; &amp; derw</p>', lang="cy")
    assert project.transcript.language == "cy" and shown(project)[0][2] == "Bwrdd <b> & derw"


def test_line_breaks_and_white_space(tmp_path):
    project = tt(tmp_path, '<p begin="1s" end="2s">\n   Is it\n  oak?<br/>\n   Yes.  \n</p>')
    [caption] = project.captions.captions
    assert shown(project)[0][2] == "Is it oak? Yes." and len(caption.breaks) == 1


@pytest.mark.parametrize(
    "body", ["", '<p begin="1s" end="2s"></p>', '<p begin="1s" end="2s"><br/></p>', "<p>No time</p>"]
)
def test_a_file_without_captions_is_said(tmp_path, body):
    with pytest.raises(FormatError, match=r"a\.ttml” holds no captions\. Choose another file"):
        tt(tmp_path, body)


def test_an_entity_that_names_a_file_is_not_followed(tmp_path):
    secret = tmp_path / "secret.txt"
    secret.write_text("the key is under the mat")
    path = tmp_path / "a.ttml"
    path.write_text(
        f'<!DOCTYPE tt [<!ENTITY x SYSTEM "file://{secret}">]><tt'
        ' xmlns="http://www.w3.org/ns/ttml"><body><div><p begin="1s" end="2s">Here:'
        " &x;</p></div></body></tt>"
    )
    with pytest.raises(FormatError, match=r"a\.ttml” is not a readable caption file") as error:
        ttml.read_cues(path)
    assert "mat" not in str(error.value)


# -- SCC ----------------------------------------------------------------------------------------------


def test_scc_that_pops_on_has_times_and_lines(tmp_path):
    path = tmp_path / "a.scc"
    path.write_text(
        "Scenarist_SCC V1.0\n\n00:00:01:00\t9420 9420 94ae 94ae 9452 9452 c973 20e9 f420 efe1 6bbf 94f2 94f2"
        " d9e5 73ae 942f 942f\n\n00:00:03:00\t942c 942c\n\n"
    )
    [cue] = scc.read_cues(path)[0]
    assert cue.lines == ("Is it oak?", "Yes.")
    assert cue.start_ms < cue.end_ms <= 3100 and cue.place == ""


# -- sung words ---------------------------------------------------------------------------------------


def sung(tmp_path, text):
    """Times and lines of an LRC file."""
    path = tmp_path / "a.lrc"
    path.write_text(text, encoding="utf-8")
    return [(one.start_ms, one.end_ms, one.lines[0]) for one in lrc.read_cues(path)[0]]


@pytest.mark.parametrize(
    ("line", "ms"),
    [
        ("[00:01.5]Row", 1500),
        ("[00:01.50]Row", 1500),
        ("[00:01.500]Row", 1500),
        ("[00:01:50]Row", 1500),
        ("[100:00]Row", 6_000_000),
    ],
)
def test_times_of_sung_lines(tmp_path, line, ms):
    assert sung(tmp_path, line) == [(ms, ms + 4000, "Row")]


def test_word_times_tags_and_repeats_of_sung_lines(tmp_path):
    text = (
        "[ar:Nobody]\n[length:01:00]\n[00:01.00]<00:01.00>Row <00:01.50>the"
        " boat\n[00:05.00][00:02.00]Row\n\nnot a line\n"
    )
    assert sung(tmp_path, text) == [(1000, 2000, "Row the boat"), (2000, 5000, "Row"), (5000, 9000, "Row")]


def test_times_inside_a_line_are_those_of_its_words(tmp_path):
    path = tmp_path / "a.lrc"
    path.write_text(
        "[00:01.00]<00:01.00>Row <00:01.50>the <00:02.25>boat\n[00:04.00]Oak [00:05.00]and [00:06.00]elm\n"
        "[1:00:01.00]Late\n[00:08,500]Comma\nnot a line\n"
    )
    reading = read_file(path)
    words = [word for turn in reading.project.transcript.turns for word in turn.words]
    assert [(word.text, word.start_ms) for word in words] == [
        ("Row", 1000),
        ("the", 1500),
        ("boat", 2250),
        ("Oak", 4000),
        ("and", 5000),
        ("elm", 6000),
        ("Comma", 8500),
        ("Late", 3_601_000),
    ]
    assert "Line 5: a line without a time; left out." in reading.warnings


def test_an_offset_moves_all_and_never_below_zero(tmp_path):
    assert [one[0] for one in sung(tmp_path, "[offset:1500]\n[00:01.00]Row\n[00:04.00]Boat\n")] == [0, 2500]
    assert [one[0] for one in sung(tmp_path, "[offset:-500]\n[00:01.00]Row\n")] == [1500]


# -- tables -------------------------------------------------------------------------------------------


def table(tmp_path, text, encoding="utf-8"):
    """The cues of a table."""
    path = tmp_path / "a.csv"
    path.write_bytes(text.encode(encoding))
    return captiontable.read_cues(path)


@pytest.mark.parametrize(
    "text",
    [
        "start,end,text\n00:00:01.500,00:00:03.000,Oak.\n",
        "In;Out;Caption\n1,5;3;Oak.\n",
        "Begin\tTo\tWords\n0:01.5\t0:03\tOak.\n",
        "n,speaker,from,to,line\n1,,1.5s,3 s,Oak.\n",
        '\ufeff"start","end","text"\r\n"00:00:01,500","00:00:03,000","Oak."\r\n',
    ],
)
def test_tables_of_others(tmp_path, text):
    cues, said = table(tmp_path, text)
    assert [(one.start_ms, one.end_ms, one.lines) for one in cues] == [(1500, 3000, ("Oak.",))] and said == []


def test_rows_that_are_none_are_said_and_empty_ones_are_not(tmp_path):
    cues, said = table(tmp_path, "start,end,text\n1,2,Oak.\n,,\nx,3,Elm.\n4,5,\n6,7,Ash.\n")
    assert [one.lines for one in cues] == [("Oak.",), ("Ash.",)]
    assert said == ["Lines 4 and 5: a row without times or text; left out."]


def test_a_place_that_is_none_is_said(tmp_path):
    cues, said = table(tmp_path, "start,end,text,place\n1,2,Oak.,line:0 colour:red\n")
    assert cues[0].place == "line:0" and said == [
        "Not kept, because Dubrel has no place for it: places that are not known (1)."
    ]


def test_a_table_of_something_else_says_how_to_name_its_columns(tmp_path):
    with pytest.raises(FormatError, match=r"Name them start, end, text"):
        table(tmp_path, "colour,price\nred,3\n")


def test_several_lines_and_an_old_encoding(tmp_path):
    cues, said = table(tmp_path, 'start,end,speaker,text\n1,2,Zoë,"Is it\noak, café?"\n', "cp1252")
    assert cues[0].lines == ("Is it", "oak, café?") and cues[0].speaker == "Zoë"
    assert len(said) == 1 and said[0].startswith("“a.csv” is not Unicode; it was read as Western European")
