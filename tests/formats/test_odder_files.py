"""More oddities of caption files and tables that were seen: what is said is read, or said with its line."""

import pytest

from dubrel.formats.register import read_file
from dubrel.release.onefile import write_checked


def read(tmp_path, name, text):
    """A file, and its captions as in time and lines."""
    path = tmp_path / name
    path.write_bytes(text.encode() if isinstance(text, str) else text)
    found = read_file(path)
    words = {word.id: word.text for turn in found.project.transcript.turns for word in turn.words}
    shown = [(one.start_ms, " ".join(words[k] for k in one.words)) for one in found.project.captions.captions]
    return shown, " ".join(found.warnings)


A, B = "00:00:01,000 --> 00:00:02,000", "00:00:03,000 --> 00:00:04,000"
TWO = [(1000, "Oak."), (3000, "Elm.")]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (f"1\n\n{A}\nOak.\n\n2\n\n{B}\nElm.\n", ""),
        (f"1\n\n\n{A}\nOak.\n2\n\n\n{B}\nElm.\n", ""),
        (f"1\n{A}\nOak.\n\n2\n{B}\nElm.\n".replace("\n", "\r\r\n"), ""),
        (f"1\n{A.replace('-->', '--&gt;')}\nOak.\n\n2\n{B.replace('-->', '--&gt;')}\nElm.\n", ""),
        (f"1\n{A} Oak.\n\n2\n{B} Elm.\n", "Lines 2 and 5: text after the times; read as the first line."),
    ],
)
def test_subrip_files_whose_lines_are_not_where_they_belong(tmp_path, text, said):
    shown, warned = read(tmp_path, "a.srt", text)
    assert shown == TWO and warned == said


def test_a_caption_that_is_a_number_stays_one(tmp_path):
    shown, _ = read(tmp_path, "a.srt", f"1\n{A}\n10\n\n2\n{B}\n1999\n")
    assert shown == [(1000, "10"), (3000, "1999")]


def test_several_codes_in_one_brace(tmp_path):
    path = tmp_path / "a.srt"
    path.write_text(f"1\n{A}\n{{\\an8\\i1}}Oak{{\\i0}} and {{\\b1\\fs20}}elm\n")
    found = read_file(path)
    [caption] = found.project.captions.captions
    assert caption.place == "line:0" and [style for _, style in caption.styled] == ["i", "b"]
    assert "codes in braces (1)" in found.warnings[0]


@pytest.mark.parametrize(
    "text",
    [
        "Start Time,End Time,Text\n00:00:01.000,00:00:02.000,Oak.\n00:00:03.000,00:00:04.000,Elm.\n",
        "TC In\tTC Out\tDialogue\n00:00:01:00\t00:00:02:00\tOak.\n00:00:03:00\t00:00:04:00\tElm.\n",
        "start_ms;end_ms;text\n1000;2000;Oak.\n3000;4000;Elm.\n",
        "sep=;\nstart;end;text\n1;2;Oak.\n3;4;Elm.\n",
        "Timecode In,Timecode Out,Subtitle\n0:01,0:02,Oak.\n0:03,0:04,Elm.\n",
    ],
)
def test_tables_by_whatever_their_columns_are_called(tmp_path, text):
    assert read(tmp_path, "a.csv", text)[0] == TWO


def test_frames_in_a_table_are_counted_and_said(tmp_path):
    shown, said = read(tmp_path, "a.csv", "start,end,text\n00:00:01:12,00:00:02:00,Oak.\n")
    assert shown == [(1480, "Oak.")] and said == "Times count frames; they were read as 25 a second."
    shown, said = read(tmp_path, "b.csv", "start,end,text\n00:00:01:15,00:00:02:29,Oak.\n")
    assert shown == [(1500, "Oak.")] and "30 a second" in said


def test_a_comma_that_nobody_put_in_quotes_stays_in_the_text(tmp_path):
    text = "start,end,text,speaker\n1,2,Oak, elm, and ash.,Ann\n3,4,Elm.,Ann\n"
    shown, said = read(tmp_path, "a.csv", text)
    assert shown == [(1000, "Oak, elm, and ash."), (3000, "Elm.")]
    assert said == "Line 2: more cells than columns; read as commas of the text."


def test_spaces_that_a_script_does_not_ask_for_go_through_the_json_form(tmp_path):
    path, again = tmp_path / "a.srt", tmp_path / "b.json"
    path.write_text(f"1\n{A}\nเรือ ไม้ เก่า\n\n2\n{B}\n船は 白い です\n", encoding="utf-8")
    project = read_file(path).project
    write_checked(project, again)
    wanted = [turn.text for turn in project.transcript.turns]
    assert wanted[0].startswith("เรือ ไม้ เก่า")
    assert [turn.text for turn in read_file(again).project.transcript.turns] == wanted


def test_a_time_inside_a_line_of_a_song_parts_what_stands_close(tmp_path):
    path = tmp_path / "a.lrc"
    path.write_text("[0:29.00]You can see the mark.[0:05.00]Nobody heard the bell.\n[0:40.00]End.\n")
    first = read_file(path).project.transcript.turns[0].text
    assert first.startswith("You can see the mark. Nobody heard the bell.")
