"""What is written reads back; what others wrote is read as well as can be."""

import json

import pytest
from conftest import spoken, words
from recordings import caption_lines

from dubrel.base.errors import DubrelError, FormatError
from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard, set_turns
from dubrel.edits.speakers.assigning import speaker_passages
from dubrel.edits.speakers.voices import add_speaker, give_turn
from dubrel.formats.register import read_file
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker, Timing
from dubrel.release.onefile import write_checked, written
from dubrel.store.projectfile import open_project, save


def captioned(boards, name="Tobiah & <Co>"):
    project, speaker = add_speaker(boards, name)
    project = give_turn(project, project.transcript.turns[0].id, speaker)
    return set_again(project, DEFAULT_STYLE)


def shown(project):
    return [(one.start_ms, one.end_ms, caption_lines(project, one)) for one in project.captions.captions]


@pytest.mark.parametrize("suffix", [".srt", ".vtt"])
def test_captions_read_back_to_the_millisecond(boards, tmp_path, suffix):
    project = captioned(boards)
    path = tmp_path / f"naïve “name” {suffix}"
    write_checked(project, path)
    again = read_file(path).project
    assert shown(again) == shown(project)


def test_webvtt_names_who_speaks(boards, tmp_path):
    text = written(captioned(boards), ".vtt")
    assert text.startswith("WEBVTT\n\n")
    assert "<v Tobiah &amp; &lt;Co&gt;>Mostly oak," in text
    path = tmp_path / "voices.vtt"
    path.write_text(text)
    project = read_file(path).project
    assert project.transcript.speakers[0].name == "Tobiah & <Co>"


@pytest.mark.parametrize("suffix", [".json", ".ctm"])
def test_words_read_back_with_their_times(boards, tmp_path, suffix):
    path = tmp_path / f"words{suffix}"
    write_checked(boards, path)
    again = read_file(path).project
    assert [(w.text, w.start_ms, w.end_ms) for w in words(again)] == [
        (w.text, w.start_ms, w.end_ms) for w in words(boards)
    ]


def test_the_json_form_is_the_documented_one(boards):
    project = captioned(boards)
    value = json.loads(written(project, ".json"))
    who = project.transcript.speakers[0].id
    assert value["dubrel"] == 1 and value["language"] == "en"
    assert value["speakers"] == [{"id": who, "name": "Tobiah & <Co>"}]
    word = value["turns"][0]["words"][0]
    assert word == {"text": "Mostly", "start_ms": 1000, "end_ms": 1440, "doubt": 0.0}
    assert value["turns"][0]["speaker"] == who


def test_plain_text_has_names_and_paragraphs(boards):
    text = written(captioned(boards, "Tobiah"), ".txt")
    assert text.startswith("Tobiah: Mostly oak, and most of it tired.\n\nThe bottom boards")


def read_srt(tmp_path, data):
    path = tmp_path / "odd.srt"
    path.write_bytes(data if isinstance(data, bytes) else data.encode())
    return read_file(path)


def test_srt_of_another_program(tmp_path):
    data = (
        "\ufeff1\r\n00:00:01,000 --> 00:00:02,500 X1:40 X2:600\r\n<i>Hello</i> {\\an8}there\r\n-"
        " again\r\n\r\n\r\n2\r\n0:00:03.5 --> 0:00:05.25\r\nNo hours in full\r\n3\r\n00:00:04,000 -->"
        " 00:00:03,000\r\nBackwards\r\n\r\nx\r\n00:00:09,000 --> 00:61:00,000,9\r\nlost\r\n"
    )
    reading = read_srt(tmp_path, data)
    assert shown(reading.project) == [
        (1000, 2500, ["Hello there", "- again"]),
        (3500, 5250, ["No hours in full"]),
        (4000, 5000, ["Backwards", "x", "00:00:09,000 --> 00:61:00,000,9", "lost"]),
    ]
    assert reading.warnings == (
        "Fractions of fewer than three digits were read as parts of a second, as 1,500 for 1,5.",
        "1 caption begins before the one before is out; kept as it is.",
        "Line 15: looks like times but cannot be read; kept as text.",
        "Line 11: the caption ended before it began; it was given one second.",
        "Not kept, because Dubrel has no place for it: coordinates after times (1).",
    )
    first = reading.project.captions.captions[0]
    assert first.place == "line:0" and first.styled == ((words(reading.project)[0].id, "i"),)


@pytest.mark.parametrize("encoding", ["utf-16", "cp1252", "utf-8-sig"])
def test_srt_in_other_encodings(tmp_path, encoding):
    text = "1\n00:00:01,000 --> 00:00:04,000\nDéjà vu, garçon: où est la forêt près de l'hôtel?\n"
    reading = read_srt(tmp_path, text.encode(encoding))
    assert shown(reading.project)[0][2] == ["Déjà vu, garçon: où est la forêt près de l'hôtel?"]


def test_captions_out_of_order_and_below_zero(tmp_path):
    reading = read_srt(
        tmp_path, "1\n00:00:05,000 --> 00:00:06,000\nb\n\n2\n-00:00:01,000 --> 00:00:01,000\na\n"
    )
    assert [start for start, _, _ in shown(reading.project)] == [0, 5000]
    assert len(reading.warnings) == 2


def test_words_of_a_caption_file_are_marked_as_spread(tmp_path):
    reading = read_srt(tmp_path, "1\n00:00:01,000 --> 00:00:02,000\nab abcd\nab\n")
    assert [(w.text, w.start_ms, w.end_ms) for w in words(reading.project)] == [
        ("ab", 1000, 1250),
        ("abcd", 1250, 1750),
        ("ab", 1750, 2000),
    ]
    assert {word.timing for word in words(reading.project)} == {Timing.SPREAD}


def test_webvtt_of_another_program(tmp_path):
    path = tmp_path / "odd.vtt"
    path.write_text(
        "WEBVTT - made elsewhere\nX-TIMESTAMP-MAP=LOCAL:00:00:00.000\n\nSTYLE\n::cue { color: red }\n\n"
        "NOTE a --> b\nnot a cue\n\nfirst\n00:01.000 --> 00:02.000 align:start position:10%\n"
        "<v.loud Ann>Fish &amp; <c.x>chips</c> <00:01.500>now\n\n099:00:00.000 --> 099:00:01.000\nlate\n"
    )
    project = read_file(path).project
    assert shown(project) == [
        (1000, 2000, ["Fish & chips now"]),
        (356_400_000, 356_401_000, ["late"]),
    ]
    assert project.transcript.speakers[0].name == "Ann"


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("empty.srt", b"", "holds no captions"),
        ("binary.srt", b"\0\1\2\3" * 50, "not a text file"),
        ("prose.vtt", b"WEBVTT\n\njust prose\n", "holds no captions"),
        ("broken.json", b'{"dubrel": 1, "turns": [', "not a Dubrel transcript"),
        ("other.json", b'{"hello": 1}', "not a Dubrel transcript"),
        ("newer.json", b'{"dubrel": 9}', "newer version of Dubrel"),
        ("odd.ctm", b"a 1 x y word\n", "holds no words"),
        ("what.xyz", b"?", "cannot be read"),
    ],
)
def test_bad_files_get_one_clear_sentence(tmp_path, name, data, said):
    path = tmp_path / name
    path.write_bytes(data)
    with pytest.raises(FormatError, match=said) as caught:
        read_file(path)
    assert name in str(caught.value) and "\n" not in str(caught.value)


def test_a_missing_file_and_an_empty_project(tmp_path):
    with pytest.raises(FormatError, match="cannot be read"):
        read_file(tmp_path / "gone.srt")
    with pytest.raises(FormatError, match="no words yet"):
        written(Project(), ".srt")
    with pytest.raises(FormatError, match="cannot be written"):
        written(add_heard(Project(), spoken("a b.")), ".doc")


def test_a_folder_that_cannot_be_written_loses_nothing(boards, tmp_path):
    with pytest.raises(DubrelError, match="does not exist"):
        write_checked(boards, tmp_path / "nowhere" / "a.srt")
    (tmp_path / "taken.srt").mkdir()
    with pytest.raises(DubrelError, match="was not written"):
        write_checked(boards, tmp_path / "taken.srt")
    assert [one.name for one in tmp_path.iterdir()] == ["taken.srt"]


def test_right_to_left_text_comes_through(tmp_path):
    project = set_again(add_heard(Project(), spoken("שלום לכולם, ברוכים הבאים.")), DEFAULT_STYLE)
    path = tmp_path / "he.srt"
    write_checked(project, path)
    assert shown(read_file(path).project)[0][2] == ["שלום לכולם, ברוכים הבאים."]


# -- who speaks, in the text of captions ---------------------------------------------------

NAMED = """1
00:00:01,000 --> 00:00:03,000
ISOLDE: Where were you?
TOBIAH: In the reeds.

2
00:00:03,500 --> 00:00:05,000
All winter, you know: it was cold.

3
00:00:06,000 --> 00:00:07,000
- Really?
- Yes: really.
"""


def spoken_by(project):
    return [(project.transcript.name_of(turn.words[0].id), turn.text) for turn in project.transcript.turns]


def test_names_and_dashes_in_captions_say_who_speaks(tmp_path):
    path = tmp_path / "named.srt"
    path.write_text(NAMED)
    project = read_file(path).project
    assert spoken_by(project) == [
        ("ISOLDE", "Where were you?"),
        ("TOBIAH", "In the reeds."),
        ("TOBIAH", "All winter, you know: it was cold."),
        ("", "Really?"),
        ("", "Yes: really."),
    ]
    captions = project.captions.captions
    assert len(captions) == 3 and len(captions[2].dashed) == 2
    assert caption_lines(project, captions[2]) == ["– Really?", "– Yes: really."]


@pytest.mark.parametrize(
    "text, name",
    [
        ("Remember: the tide turns at six.", ""),
        ("REMEMBER: the tide turns at six.", ""),
        ("http://example.org is not a name.", ""),
        ("12:30 is not a name either.", ""),
    ],
)
def test_what_stands_once_before_a_colon_stays_text(tmp_path, text, name):
    path = tmp_path / "one.srt"
    path.write_text(f"1\n00:00:01,000 --> 00:00:03,000\n{text}\n")
    assert spoken_by(read_file(path).project)[0][0] == name


@pytest.mark.parametrize("suffix", [".srt", ".vtt"])
def test_names_and_dashes_go_out_and_come_back(tmp_path, suffix):
    people = [Speaker("s1", "Isolde Marsh"), Speaker("s2", "Tobiah")]
    said = spoken("Is it oak? Yes. So we make a pattern. Good.")
    turns = [
        RecognisedTurn(tuple(said[a:b]), who)
        for a, b, who in ((0, 3, "s1"), (3, 4, "s2"), (4, 9, "s1"), (9, 10, "s2"))
    ]
    project = set_turns(Project(), turns, people, "en")
    for rules in ({"dashes": True}, {"names": "change"}, {"names": "always", "dashes": True}):
        style = replace(DEFAULT_STYLE, **rules)
        path = tmp_path / f"out{suffix}"
        write_checked(set_again(project, style), path)
        again = read_file(path).project
        assert [word.text for word in words(again)] == [word.text for word in words(project)]
        if suffix == ".vtt" or "names" in rules:
            assert spoken_by(again) == spoken_by(project)
    assert "– " not in path.read_text()


def test_voice_tags_of_two_people_in_one_cue(tmp_path):
    path = tmp_path / "two.vtt"
    path.write_text("WEBVTT\n\n00:01.000 --> 00:03.000\n<v Ann>Oak?</v>\n<v Ben>Oak.</v>\n")
    project = read_file(path).project
    assert spoken_by(project) == [("Ann", "Oak?"), ("Ben", "Oak.")]
    assert "<v Ann>Oak?</v>\n<v Ben>Oak.</v>" in written(project, ".vtt")


def test_roles_and_overlaps_are_kept(tmp_path):
    people = [Speaker("s1", "Isolde", "host"), Speaker("s2", "Tobiah")]
    said = spoken("Is it oak?")
    said[1] = replace(said[1], also="s2")
    project = set_turns(Project(), [RecognisedTurn(tuple(said), "s1")], people, "en")
    write_checked(project, tmp_path / "o.json")
    again = read_file(tmp_path / "o.json").project
    assert again.transcript.speakers == tuple(people) and [w.also for w in words(again)] == [None, "s2", None]
    save(project, tmp_path / "o.dubrel")
    assert open_project(tmp_path / "o.dubrel").transcript == project.transcript
    assert [(one.start_ms, one.speaker) for one in speaker_passages(project)] == [
        (said[0].start_ms, "Isolde"),
        (said[1].start_ms, "Tobiah"),
    ]


_MANY = 25_000  # words of 600 letters each


def test_a_transcript_of_more_than_16_mb_is_read_back(tmp_path):
    """Times, doubts and names: more than any text file may have."""
    word = "narrowboat" * 60
    heard = [RecognisedWord(word, 900 * k, 900 * k + 700, 0.123) for k in range(_MANY)]
    project = add_heard(Project(title="Long"), heard)
    path = tmp_path / "long.json"
    write_checked(project, path)
    assert path.stat().st_size > 16 << 20
    again = read_file(path).project
    assert again.transcript.word_count == _MANY
    assert words(again)[-1].end_ms == heard[-1].end_ms
