"""Captions that grow or roll on the picture: words once, with the times at which they came."""

import pytest

from dubrel.formats.captions.scc import read_cues
from dubrel.formats.register import read_file

HEAD = "Scenarist_SCC V1.0\n\n"


def read(tmp_path, *lines):
    """A file of line 21 captions."""
    path = tmp_path / "a.scc"
    path.write_text(HEAD + "\n\n".join(lines) + "\n")
    return read_file(path)


def shown(found):
    """In times, and each word with its own."""
    words = {word.id: word for turn in found.project.transcript.turns for word in turn.words}
    return [
        (one.start_ms // 100, [(words[k].text, words[k].start_ms // 100) for k in one.words])
        for one in found.project.captions.captions
    ]


def test_lines_that_roll_up_are_captions_of_their_own(tmp_path):
    found = read(
        tmp_path,
        "00:00:01:00\t9425 9425 94ad 94ad 9470 9470 4f61 6b80",
        "00:00:02:00\t2061 6e64",
        "00:00:04:00\t94ad 94ad 9470 9470 456c 6d80",
        "00:00:06:00\t94ad 94ad 9470 9470 4173 6880",
        "00:00:08:00\t942c 942c",
    )
    said = [(start, [word for word, _ in words]) for start, words in shown(found)]
    assert said == [(10, ["Oak", "and"]), (40, ["Elm"]), (60, ["Ash"])]
    ends = [one.end_ms // 100 for one in found.project.captions.captions]
    assert ends == [40, 60, 80]


def test_text_that_is_painted_is_one_caption_with_times_of_its_words(tmp_path):
    found = read(
        tmp_path,
        "00:00:01:00\t9429 9429 9470 9470 4f61 6b80",
        "00:00:02:00\t2061 6e64",
        "00:00:03:00\t2045 6c6d",
        "00:00:06:00\t942c 942c",
    )
    assert shown(found) == [(10, [("Oak", 10), ("and", 20), ("Elm", 30)])]


HELLO = "9420 9420 94ae 94ae 9470 9470 c8e5 ecec ef80 942f 942f"


def test_captions_that_pop_on_and_begin_alike_stay_two(tmp_path):
    found = read(
        tmp_path,
        f"00:00:01:00\t{HELLO}",
        "00:00:03:00\t9420 9420 94ae 94ae 9470 9470 c8e5 ecec ef80 2054 ef6d 942f 942f",
        "00:00:06:00\t942c 942c",
    )
    assert [[word for word, _ in words] for _, words in shown(found)] == [["Hello"], ["Hello", "Tom"]]


def test_a_bad_word_costs_that_word(tmp_path):
    found = read(
        tmp_path,
        f"00:00:01:00\t{HELLO.replace('ecec', 'zzzz ecec')}",
        "late\t942f",
        "00:00:03:00\t942c 942c",
    )
    assert [words for _, words in shown(found)] == [[("Hello", 13)]]
    assert "Line 3: “zzzz” is not a caption code; left out." in found.warnings
    assert "Line 5: no time code and words; left out." in found.warnings


def test_the_second_channel_is_read_where_the_first_is_empty_and_said_otherwise(tmp_path):
    second = " ".join(
        f"{int(code, 16) | 0x0800:04x}" if code.startswith("94") else code for code in HELLO.split()
    )
    alone = read(tmp_path, f"00:00:01:00\t{second}", "00:00:03:00\t1c2c 1c2c")
    assert [words for _, words in shown(alone)] == [[("Hello", 13)]]
    assert "The captions are those of the second channel; the first holds none." in alone.warnings
    both = read(
        tmp_path, f"00:00:01:00\t{HELLO}", f"00:00:05:00\t{second}", "00:00:08:00\t942c 942c 1c2c 1c2c"
    )
    assert len(shown(both)) == 1
    assert any("captions of the second channel" in one for one in both.warnings)


def test_colours_and_a_file_that_is_cut_short_are_said(tmp_path):
    coloured = HELLO.replace("9470 9470", "9470 9470 91a2 91a2")
    found = read(tmp_path, f"00:00:01:00\t{coloured}", "00:00:03:00\t9420 9420 94ae 94ae 9470 9470 c8e5")
    said = " ".join(found.warnings)
    assert "changes of colour (1)" in said and "ends in the middle of a caption" in said


@pytest.mark.parametrize("sign", [";", ":", "."])
def test_time_codes_with_any_sign_before_the_frames(tmp_path, sign):
    path = tmp_path / "a.scc"
    path.write_text(f"{HEAD}00:00:01{sign}00\t{HELLO}\n\n00:00:03{sign}00\t942c 942c\n")
    [cue] = read_cues(path)[0]
    assert cue.lines == ("Hello",) and 1000 < cue.start_ms < 1500
