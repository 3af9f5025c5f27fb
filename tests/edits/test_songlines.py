"""Lines and stanzas of songs: found, kept by every edit, in every file and in captions."""

import json
import zipfile
from html.parser import HTMLParser
from itertools import accumulate
from xml.etree import ElementTree

import docx
import pypdfium2
import pytest
from conftest import words
from songs import STANZAS, lyrics, sung

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.merging.merging import merge
from dubrel.edits.words.pasting import pasted
from dubrel.edits.words.songlines import has_lines, line_starts, line_switched, set_song, without_lines
from dubrel.edits.words.striking import struck
from dubrel.edits.words.wording import join_turn, replace_text, split_turn
from dubrel.formats.register import read_file
from dubrel.formats.scripts.script import Kind, understand
from dubrel.formats.shared.document import document_of, options_from
from dubrel.formats.texts.docx import as_docx
from dubrel.formats.texts.odt import as_odt
from dubrel.formats.texts.textdocument import as_html, as_markdown, as_text
from dubrel.jobs.alignscript import _turns
from dubrel.model import Project, RecognisedWord, Transcript, Turn, Word
from dubrel.project.captiontext import shown_captions
from dubrel.release.onefile import write_checked
from dubrel.store.projectfile import open_project, save

LINES = [line for stanza in STANZAS for line in stanza]


def every(project):
    return [turn.id for turn in project.transcript.turns]


def lined(project):
    return [turn.lined for turn in project.transcript.turns]


@pytest.fixture(scope="module")
def song():
    found = lyrics(sung(), a_turn=13)
    return set_song(found, every(found))


# -- found --------------------------------------------------------------------------------------


def test_lines_and_stanzas_are_found_from_how_it_is_sung(song):
    assert lined(song) == ["\n".join(stanza) for stanza in STANZAS]


def test_nothing_that_is_said_and_no_time_changes_and_a_second_time_changes_nothing(song):
    before = lyrics(sung(), a_turn=13)
    said = [(one.id, one.text, one.start_ms, one.end_ms) for one in words(before)]
    assert [(one.id, one.text, one.start_ms, one.end_ms) for one in words(song)] == said
    assert song.transcript.turns[0].id == before.transcript.turns[0].id
    assert set_song(song, every(song)) is song


def test_lines_are_found_where_nobody_rests_from_held_notes_and_commas():
    said = sung(rest_ms=0, marks=True)
    assert line_starts(said) == [0, *accumulate(len(line.split()) for line in LINES)][:-1]


def test_stanzas_without_a_rest_come_from_lengths_that_come_back():
    found = lyrics(sung(between_ms=0))
    assert [one.count("\n") + 1 for one in lined(set_song(found, every(found)))] == [4, 4, 4]


def test_only_the_chosen_turns_and_never_two_speakers_in_one_stanza():
    said = sung()
    project = lyrics(said, a_turn=(len(said) + 1) // 2)
    first, second = project.transcript.turns
    two = replace(
        project, transcript=replace(project.transcript, turns=(first, replace(second, speaker="s2")))
    )
    assert set_song(two, [second.id]).transcript.turns[0] is first
    made = set_song(two, every(two))
    assert sum(len(turn.words) for turn in made.transcript.turns if turn.speaker == "s2") == len(second.words)


# -- by hand, and what edits keep ------------------------------------------------------------------


def test_a_line_begins_at_a_word_and_is_joined_again(song):
    turn = song.transcript.turns[0]
    made = line_switched(song, turn.id, turn.words[2].id)
    assert lined(made)[0].startswith("Slow water\nunder Alder Bridge\ngoes")
    assert line_switched(made, turn.id, turn.words[2].id) == song
    assert line_switched(song, turn.id, turn.words[0].id) is song
    plain = without_lines(song, every(song))
    assert not has_lines(plain.transcript.turns) and lined(plain)[0] == song.transcript.turns[0].text


def test_typing_in_a_line_keeps_the_lines(song):
    turn = song.transcript.turns[0]
    at = turn.lined.index("goes")
    cases = (
        (at, at, "and ", "Bridge\nand goes easy past"),  # before the first word of a line
        (at, at + 4, "runs", "Bridge\nruns easy past"),
        (at, at + 4, "", "Bridge\neasy past"),
        (at, at + 5, "", "Bridge\neasy past"),
        (at - 1, at - 1, "s", "Bridges\ngoes easy past"),  # behind the last of the line before
        (at - 1, at, "", "Bridge goes easy past"),  # the line end is deleted: one line
        (at - 7, at, "", "Alder goes easy past"),
        (at - 7, at, "Lane\nthat ", "Alder Lane\nthat goes easy past"),
    )
    for start, end, text, wanted in cases:
        made = replace_text(song, turn.id, start, end, text)
        assert wanted in lined(made)[0], text
        assert lined(made)[1:] == lined(song)[1:]


def test_line_ends_are_spaces_where_there_are_no_lines(boards):
    turn = boards.transcript.turns[0]
    made = replace_text(boards, turn.id, 0, 0, "One\ntwo ")
    assert "\n" not in made.transcript.turns[0].lined and made.transcript.turns[0].text.startswith("One two ")


def test_a_stanza_split_and_joined_is_the_same_and_a_pasted_one_has_its_lines(song):
    turn = song.transcript.turns[0]
    at = turn.lined.index("the lock")
    parts = split_turn(song, turn.id, at)
    assert lined(parts)[:2] == ["\n".join(STANZAS[0][:2]), "\n".join(STANZAS[0][2:])]
    assert lined(join_turn(parts, parts.transcript.turns[1].id)) == lined(song)
    text = "\n".join(STANZAS[0]).replace("easy", "slowly").replace("mill\n", "mill and\n")
    made = pasted(song, (turn.id, 0), (turn.id, len(turn.text)), text)
    assert lined(made)[0] == text
    kept = {one.id: one for one in words(made)}
    same = [one for one in turn.words if one.text != "easy"]
    assert all((kept[one.id].start_ms, kept[one.id].text) == (one.start_ms, one.text) for one in same)


def test_a_struck_first_word_leaves_its_line_to_the_next(song):
    second = next(one for one in words(song) if one.text == "goes")
    made = struck(song, {second.id}, True)
    text = as_text(document_of(made, options_from({"title": "no"})))
    assert text.splitlines()[1] == "easy past the mill"
    shown = set_again(made, DEFAULT_STYLE)
    rows = [one for _, said in shown_captions(shown, shown.captions) for one in said.lines]
    assert "easy past the mill" in rows


def test_in_a_script_without_spaces_lines_can_be_set_and_taken_out():
    texts = ("水門の", "そばで", "待つ")
    said = tuple(Word(nth + 1, one, nth * 500, nth * 500 + 400) for nth, one in enumerate(texts))
    project = Project(transcript=Transcript("ja", (), (Turn(9, said),)), next_id=10)
    made = line_switched(project, 9, 2)
    assert lined(made) == ["水門の\nそばで待つ"]
    assert line_switched(made, 9, 2).transcript.turns[0].text == "水門のそばで待つ"
    assert lined(replace_text(made, 9, 4, 5, "す")) == ["水門の\nすばで待つ"]


def test_both_who_work_on_a_copy_keep_their_lines(song):
    first, last = song.transcript.turns[0], song.transcript.turns[2]
    mine = line_switched(song, first.id, first.words[2].id)
    theirs = replace_text(song, last.id, 0, 2, "So")
    made = merge(song, mine, theirs)
    assert lined(made.project) == [lined(mine)[0], lined(song)[1], lined(theirs)[2]]


# -- captions -----------------------------------------------------------------------------------


def test_captions_break_where_lines_do(song):
    made = set_again(song, DEFAULT_STYLE)
    shown = [line for _, text in shown_captions(made, made.captions) for line in text.lines]
    assert shown == LINES


# -- files --------------------------------------------------------------------------------------


class Page(HTMLParser):
    """The text of a page, a line end for each ``br``."""

    def __init__(self):
        super().__init__()
        self.text = ""

    def handle_starttag(self, tag, attrs):
        self.text += {"br": "\n", "p": "\n\n"}.get(tag, "")

    def handle_data(self, data):
        self.text += data


def test_every_text_form_has_the_lines(song, tmp_path):
    document = document_of(song, options_from({"times": "turn", "doubts": "marked"}))
    stanza = "\n".join(STANZAS[1])
    assert stanza in as_text(document)
    assert "\\\n".join(STANZAS[1]) in as_markdown(document)
    page = Page()
    page.feed(as_html(document))
    assert stanza in page.text
    (tmp_path / "song.docx").write_bytes(as_docx(document))
    assert any(one.text.endswith(stanza) for one in docx.Document(str(tmp_path / "song.docx")).paragraphs)
    (tmp_path / "song.odt").write_bytes(as_odt(document))
    with zipfile.ZipFile(tmp_path / "song.odt") as archive:
        tree = ElementTree.fromstring(archive.read("content.xml"))
    breaks = [one for one in tree.iter() if one.tag.endswith("}line-break")]
    assert len(breaks) == 9


@pytest.mark.parametrize("form", ["pdf", "page"])
def test_pages_have_the_lines(song, tmp_path, form):
    suffix = {"pdf": ".pdf", "page": ".html"}[form]
    made = set_again(song, DEFAULT_STYLE)
    path = tmp_path / f"song{suffix}"
    write_checked(made, path)
    if form == "page":
        page = Page()
        page.feed(path.read_text(encoding="utf-8"))
        found = page.text
    else:
        pages = [one.get_textpage().get_text_range() for one in pypdfium2.PdfDocument(str(path))]
        found = "\n".join(pages).replace("\r\n", "\n")
    assert "\n".join(STANZAS[1]) in found


def test_kept_in_projects_transcripts_and_cuts(song, tmp_path):
    save(song, tmp_path / "song.dubrel")
    assert lined(open_project(tmp_path / "song.dubrel")) == lined(song)
    write_checked(song, tmp_path / "song.json")
    assert lined(read_file(tmp_path / "song.json").project) == lined(song)
    rows = json.loads((tmp_path / "song.json").read_text(encoding="utf-8"))["turns"][0]["words"]
    assert [row["text"] for row in rows if row.get("verse")] == [line.split()[0] for line in STANZAS[0]]


def test_sung_words_of_a_file_come_in_as_lines(song, tmp_path):
    write_checked(set_again(song, DEFAULT_STYLE), tmp_path / "song.lrc")
    found = read_file(tmp_path / "song.lrc").project
    assert [line for one in lined(found) for line in one.split("\n")] == LINES


def test_a_sheet_of_lyrics_keeps_its_lines_and_prose_flows():
    pieces = understand("\n\n".join("\n".join(stanza).capitalize() for stanza in STANZAS).title())
    assert [piece.text.count("\n") for piece in pieces if piece.kind is Kind.SPEECH] == [3, 3, 3]
    found = [
        RecognisedWord(text, nth * 400, nth * 400 + 300)
        for nth, text in enumerate(" ".join(piece.text for piece in pieces).split())
    ]
    turns, _ = _turns(pieces, found)
    begins = [word.text for word in turns[0].words if word.verse]
    assert begins == [line.split()[0].title() for line in STANZAS[0]]
    prose = understand("The hair in came out of the canal\nand nobody knew. It was\nmostly oak\nand old.")
    assert [piece.text for piece in prose] == [
        "The hair in came out of the canal and nobody knew. It was mostly oak and old."
    ]
