"""EBU STL: written for others, and read as others write it."""

import io

import pytest
from conftest import DEMO, spoken
from ttconv import model as m
from ttconv.stl import reader

from dubrel.base.errors import FormatError
from dubrel.base.value import replace
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.formats.captions import stl
from dubrel.formats.captions.stlletters import decoded, encoded, table_for
from dubrel.formats.register import read_file
from dubrel.model import Project, RecognisedTurn, Speaker
from dubrel.release.forms import FORMS, why_not
from dubrel.release.kits import Item, Kit, loses, plan
from dubrel.release.preview import preview_of
from dubrel.store.projectfile import read_project


@pytest.fixture(scope="module")
def podcast():
    return read_project(DEMO / "slow-water-7.dubrel").project


def elsewhere(data):
    """Times and lines as another reader of the form gives them."""
    body = reader.to_model(io.BytesIO(data)).get_body()
    found = []
    for one in body.dfs_iterator():
        if isinstance(one, m.P):
            parts = [
                "\n" if isinstance(part, m.Br) else part.get_text()
                for part in one.dfs_iterator()
                if isinstance(part, m.Br | m.Text)
            ]
            found.append((one.get_begin() * 1000, one.get_end() * 1000, "".join(parts)))
    return found


def header(**fields):
    """A header with some fields of it changed."""
    data = bytearray(b" " * 1024)
    places = {"dfc": 3, "dsc": 11, "cct": 12, "lc": 14, "tnb": 238, "mnr": 253, "tcp": 256}
    usual = {
        "dfc": "STL25.01",
        "dsc": "0",
        "cct": "00",
        "lc": "09",
        "tnb": "00001",
        "mnr": "23",
        "tcp": "0" * 8,
    }
    for name, value in {**usual, **fields}.items():
        data[places[name] : places[name] + len(value)] = value.encode()
    return bytes(data)


def block(
    field, times=((0, 0, 1, 0), (0, 0, 3, 0)), together=0, row=20, side=2, comment=0, last=255, number=1
):
    """A block of a caption."""
    return stl._TTI.pack(
        0, number, last, together, *times[0], *times[1], row, side, comment, field.ljust(112, b"\x8f")
    )


def cues(tmp_path, data):
    """What we read, and what is said of it."""
    path = tmp_path / "a.stl"
    path.write_bytes(data)
    return stl.read_cues(path)


def test_another_reader_finds_the_same_captions_at_the_same_frames(podcast):
    track = podcast.tracks[1]  # Portuguese, with accents
    project = replace(podcast, active=track.id)
    wanted = [
        (stl.frame_of(one.start_ms) * 40, stl.frame_of(one.end_ms) * 40, one.text.replace("–", "-"))
        for one in track.captions
    ]
    found = elsewhere(stl.write(project))
    assert [one[2] for one in found] == [one[2] for one in wanted]
    assert [one[0] for one in found] == [one[0] for one in wanted]
    assert sum("ã" in one[2] for one in found) > 3


def test_what_it_cannot_hold_is_said_and_the_preview_can_be_read(podcast):
    [planned] = plan(podcast, Kit("One", "{title}", (Item("stl"),)))
    assert (
        loses(planned)
        == "EBU STL has no room for who speaks and the exact times of 51 captions (it counts 25 frames a"
        " second)."
    )
    assert preview_of(planned).text.startswith("00:00:03:11  00:00:07:07\nWelcome back to Slow Water.\n")


def test_a_language_without_a_table_is_refused_in_one_sentence():
    turns = [RecognisedTurn(tuple(spoken("今日は。 水は冷たいです。")), "s1")]
    project = set_again(set_turns(Project("x"), turns, [Speaker("s1")], "ja"), None)
    with pytest.raises(FormatError, match="no letters for this language"):
        stl.write(project)
    assert plan(project, Kit("One", "{title}", (Item("stl"),))) == []
    assert (
        why_not(FORMS["stl"], project) == "EBU STL has no letters for this language. Choose TTML or WebVTT."
    )


@pytest.mark.parametrize(
    ("text", "table"),
    [("Žluťoučký kůň – “Öl” ♪ ½", 0), ("Ежик в тумане", 1), ("شكرا", 2), ("Καλημέρα", 3), ("שלום", 4)],
)
def test_each_script_has_its_table(text, table):
    assert table_for([text]) == table
    assert decoded(encoded(text, table), table) == text.replace("–", "-")


def test_spaces_beside_italics_stay(tmp_path):
    [cue], said = cues(tmp_path, header() + block(b"It \x80is\x81 dry, (\x80oak\x81)."))
    assert cue.lines == ("It is dry, (oak).",) and cue.styles == {(0, 1): "i", (0, 3): "i"} and said == []


def test_times_count_from_the_beginning_of_the_programme(tmp_path):
    data = header(tcp="10000000") + block(b"Oak.", ((10, 0, 1, 5), (10, 0, 3, 0)))
    [cue], said = cues(tmp_path, data)
    assert (cue.start_ms, cue.end_ms) == (1200, 3000)
    assert said == ["The programme begins at 10:00:00:00; times are counted from there."]
    early = header(tcp="10000000") + block(b"Oak.", ((0, 0, 1, 0), (0, 0, 3, 0)))
    assert cues(tmp_path, early)[0][0].start_ms == 1000


@pytest.mark.parametrize(
    ("code", "ms"), [("STL25.01", 1400), ("STL30.01", 1333), ("STL23.01", 1418), ("STL50.01", 1200)]
)
def test_frame_rates(tmp_path, code, ms):
    [cue], _ = cues(tmp_path, header(dfc=code) + block(b"Oak.", ((0, 0, 1, 10), (0, 0, 3, 0))))
    assert cue.start_ms == ms


def test_teletext_colours_boxes_and_double_height_are_no_letters(tmp_path):
    field = b"\x0d\x03\x0b\x0bIs it oak?\x0a\x0a\x8a\x8a\x0d\x06\x0b\x0bYes.\x0a\x0a"
    [cue], said = cues(tmp_path, header(dsc="1") + block(field))
    assert cue.lines == ("Is it oak?", "Yes.") and cue.place == ""
    assert said == ["Not kept, because Dubrel has no place for it: colours (2)."]


def test_places(tmp_path):
    data = header() + b"".join(
        block(b"Oak.", ((0, 0, at, 0), (0, 0, at, 20)), row=row, side=side, number=at)
        for at, (row, side) in enumerate([(1, 2), (11, 2), (22, 1), (22, 0), (2, 3)])
    )
    assert [one.place for one in cues(tmp_path, data)[0]] == [
        "line:0",
        "line:50%,center",
        "position:10% align:left",
        "",
        "line:0 position:90% align:right",
    ]


def test_captions_that_add_up_are_one_and_each_word_begins_when_it_came(tmp_path):
    ends = (0, 0, 6, 0)
    data = header() + b"".join(
        block(text, ((0, 0, at, 0), ends), together=at, number=at)
        for at, text in ((1, b"One"), (2, b"two"), (3, b"three"))
    )
    [cue] = cues(tmp_path, data)[0]
    assert (cue.start_ms, cue.end_ms, cue.lines) == (1000, 6000, ("One", "two", "three"))
    [turn] = read_file(tmp_path / "a.stl").project.transcript.turns
    assert [(word.start_ms, word.end_ms) for word in turn.words] == [(1000, 2000), (2000, 3000), (3000, 6000)]


def test_two_sets_that_add_up_stay_apart(tmp_path):
    data = header() + b"".join(
        block(text, ((0, 0, at, 0), (0, 0, at + 2, 0)), together=together, number=at)
        for at, text, together in ((1, b"One", 1), (2, b"two", 3), (4, b"One", 1), (5, b"two", 3))
    )
    assert [one.lines for one in cues(tmp_path, data)[0]] == [("One", "two"), ("One", "two")]


def test_long_text_goes_over_several_blocks_and_comments_are_none(tmp_path):
    text = b"Mostly oak, and most of it tired. " * 5
    data = header() + block(text[:112], last=0) + block(text[112:]) + block(b"for the editor", comment=1)
    [cue], said = cues(tmp_path, data)
    assert cue.lines == (text.decode().strip(),)
    assert said == ["Not kept, because Dubrel has no place for it: comments (1)."]


def test_a_damaged_file_is_one_sentence_or_what_can_be_read(tmp_path):
    path = tmp_path / "bad.stl"
    path.write_bytes(b"Nothing of the kind. " * 70)
    with pytest.raises(FormatError, match="no EBU STL file"):
        read_file(path)
    path.write_bytes(
        header(cct="9?", mnr="xx", lc="ZZ", tcp="ab") + block(b"It is dry today.") + b"half a block"
    )
    assert read_file(path).project.transcript.word_count == 4


@pytest.mark.parametrize(
    ("code", "ms", "said"),
    [
        ("STL25.01", 1480, False),
        ("STL29.01", 1400, False),
        ("STL30.01", 1400, False),
        ("STL50.01", 1240, False),
        ("STL60.01", 1200, False),
        ("STL77.01", 1480, True),
    ],
)
def test_frames_count_at_the_rate_that_is_named(tmp_path, code, ms, said):
    [cue], warned = cues(tmp_path, header(dfc=code) + block(b"Oak", ((0, 0, 1, 12), (0, 0, 3, 0))))
    assert cue.start_ms == ms and any("not a known frame rate" in one for one in warned) is said


def test_a_caption_before_the_programme_moves_no_other_one(tmp_path):
    times = [((9, 59, 58, 0), (9, 59, 59, 0))]
    times += [((10, 0, at, 0), (10, 0, at, 20)) for at in range(1, 15)]
    data = header(tcp="10000000") + b"".join(
        block(b"Oak", one, number=nth) for nth, one in enumerate(times, 1)
    )
    found, said = cues(tmp_path, data)
    assert [one.start_ms for one in found] == [0, *(at * 1000 for at in range(1, 15))]
    assert any("1 caption stands before the programme begins" in one for one in said)


def test_signs_of_money_and_of_numbers_are_those_of_the_table(tmp_path):
    [cue], _ = cues(tmp_path, header() + block(b"\xa4 5, \xa6 7, \xa3 9"))
    assert cue.lines == ("$ 5, # 7, £ 9",)


def test_the_header_says_when_the_first_caption_comes_in(podcast):
    data = stl.write(podcast)
    first = min(one.start_ms for one in podcast.captions.captions)
    hours, minutes, seconds, frames = (int(data[at : at + 2]) for at in range(264, 272, 2))
    found = ((hours * 60 + minutes) * 60 + seconds) * 1000 + frames * 40
    assert found == stl.frame_of(first) * 40 and data[256:264] == b"00000000"
    assert elsewhere(data)[0][0] == found
