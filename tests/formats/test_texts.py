"""Every form of text of one small project, sign by sign: what each option does, and what stands in a file."""

import json
import zipfile
from datetime import UTC, datetime
from fractions import Fraction
from xml.etree import ElementTree

import docx
import pytest
from conftest import spoken

from dubrel.base.value import replace
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.edits.notes import with_note
from dubrel.edits.speakers.assigning import only_speaker
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.track import begin_track
from dubrel.edits.words.masking import masked
from dubrel.film.burning import QUALITIES
from dubrel.film.reshaping import SHAPES
from dubrel.formats.shared.document import document_of, options_from, written_time
from dubrel.formats.texts.chapters import as_json, as_list, as_webvtt, chapters_of
from dubrel.formats.texts.docx import as_docx
from dubrel.formats.texts.docxnotes import texts_of_footnotes
from dubrel.formats.texts.odt import as_odt, text_of_odt
from dubrel.formats.texts.shownotes import queries_csv, show_notes
from dubrel.formats.texts.textdocument import as_html, as_markdown, as_text, text_of_html
from dubrel.model import Caption, Media, Project, RecognisedTurn, Speaker
from dubrel.release.forms import FORMS
from dubrel.release.kits import KITS, Item, Kit, plan
from dubrel.release.onefile import written
from dubrel.release.source import ALLOWED, Source
from dubrel.translation.choosing import missing_tasks


@pytest.fixture(scope="module")
def yard():
    """Two people, three turns, a struck word, a doubtful one, and a note of each kind."""
    people = [Speaker("s1", "Isolde Quill", "host"), Speaker("s2", "Tobiah", "")]
    turns, at = [], 1000
    for nth, text in enumerate(("Is it oak? It is um dry.", "Yes. Mostly oak.", "Good. Let us see it.")):
        words = [replace(one, start_ms=one.start_ms + at, end_ms=one.end_ms + at) for one in spoken(text)]
        at = words[-1].end_ms + 2000
        turns.append(RecognisedTurn(tuple(words), people[nth % 2].id))
    project = set_turns(Project("The yard", "A visit"), turns, people, "en")
    made = []
    for turn in project.transcript.turns:
        words = tuple(
            replace(one, struck=one.text == "um", doubt=0.9 if one.text == "Mostly" else 0.0)
            for one in turn.words
        )
        made.append(replace(turn, words=words))
    project = replace(project, transcript=replace(project.transcript, turns=tuple(made)))
    project = set_again(project, None)
    known = {word.text: word.id for turn in made for word in turn.words}
    for kind, text, word in (
        ("Chapter", "Oak", "Yes."),
        ("Show note", "Built in 1881", "oak."),
        ("Query", "Which oak?", "oak."),
        ("Clip", "The best of it", "Good."),
    ):
        project, _ = with_note(project, kind, text, [known[word]])
    return project


def text(project, **options):
    """The project as plain text without a title."""
    return as_text(document_of(project, options_from({"title": "no", **options})))


# -- plain text: what each option does --------------------------------------------------------------


def test_plain_text(yard):
    assert (
        as_text(document_of(yard, options_from({})))
        == "The yard\nA visit\n\nIsolde Quill: Is it oak? It is dry.\n\n== Oak\n\n"
        "Tobiah: Yes. Mostly oak.\n\nIsolde Quill: Good. Let us see it.\n"
    )


def test_names(yard):
    assert text(yard, names="never", headings="no").startswith("Is it oak? It is dry.\n\nYes.")
    assert text(yard, names="initials", headings="no").startswith("IQ: Is it oak?")
    alone = only_speaker(yard, "s1")
    assert text(alone, headings="no") == "Isolde Quill: Is it oak? It is dry.\n\nGood. Let us see it.\n"
    assert text(alone, headings="no", names="always").count("Isolde Quill: ") == 2


def test_a_single_speaker_without_a_name_is_not_named(yard):
    transcript = replace(
        yard.transcript,
        speakers=(Speaker("s1"),),
        turns=tuple(replace(turn, speaker="s1") for turn in yard.transcript.turns),
    )
    assert text(replace(yard, transcript=transcript), names="always", headings="no").startswith("Is it oak?")
    two = replace(yard.transcript, speakers=(Speaker("s1"), Speaker("s2")))
    assert text(replace(yard, transcript=two), headings="no").startswith("Speaker 1: Is it oak?")


def test_times(yard):
    starts = [turn.words[0].start_ms for turn in yard.transcript.turns]
    assert text(yard, times="turn", headings="no").startswith("00:00:02  Isolde Quill: Is it oak?")
    assert text(yard, times="turn", names="never", headings="no").startswith("00:00:02  Is it oak?")
    assert text(yard, times="sentence", headings="no").count("[00:00:") == 6
    every = text(yard, times="2", headings="no", clock="seconds")
    assert every.startswith(f"Isolde Quill: [{starts[0] / 1000:.1f} s] Is it oak?")
    assert every.count(" s]") == 5
    assert text(yard, times="300", headings="no").count("[") == 1


def test_clocks(yard):
    assert written_time(3_723_456, "clock", yard) == "01:02:03"
    assert written_time(3_723_456, "seconds", yard) == "3723.5 s"
    assert written_time(3_723_456, "timecode", yard) == "01:02:03"  # no picture, no frames
    media = Media("f.mp4", "/f.mp4", "", 9000, frame_rate=Fraction(25), width=640, height=360)
    film = replace(yard, media=media)
    assert written_time(3_723_456, "timecode", film) == "01:02:03:11"


def test_notes(yard):
    inline = text(yard, notes="inline", headings="no")
    assert "Mostly oak. [Show note: Built in 1881] [Query: Which oak?]" in inline
    assert "Good. [Clip: The best of it] Let us" in inline
    end = text(yard, notes="footnotes", headings="no")
    assert "Mostly oak. [1] [2]\n" in end and "Good. [3] Let us" in end
    assert end.endswith("\n\n[1] Show note: Built in 1881\n[2] Query: Which oak?\n[3] Clip: The best of it\n")
    only = text(yard, notes="end", kinds="Query", headings="no")
    assert only.endswith("\n\n[1] Query: Which oak?\n") and "1881" not in only


def test_an_answered_query_carries_its_answer(yard):
    notes = tuple(replace(one, answer="English") if one.kind == "Query" else one for one in yard.notes)
    assert "[Query: Which oak? (English)]" in text(replace(yard, notes=notes), notes="inline")


def test_doubtful_struck_and_numbered(yard):
    assert "Yes. ?Mostly? oak." in text(yard, doubts="marked")
    assert "It is ~um~ dry." in text(yard, struck="through")
    assert text(yard, numbers="paragraphs", headings="no").startswith("1  Isolde Quill: ")
    assert "\n\n3  Isolde Quill: " in text(yard, numbers="paragraphs", headings="no")


def test_a_sound_stands_where_it_is_heard(yard):
    captions = (*yard.captions.captions, Caption(9000, 6000, 7000, text="[a saw]"))
    track = replace(yard.captions, captions=tuple(sorted(captions, key=lambda one: one.start_ms)))
    project = replace(yard, tracks=(track,))
    assert "\n\n[a saw]\n\n" in text(project, headings="no")
    assert "saw" not in text(project, sounds="no")


def test_masked_words(yard):
    assert "Is it o**?" in text(masked(yard, ("oak",), "first letter"))
    assert "Is it ***?" in text(masked(yard, ("oak",), "stars"))


# -- Markdown and HTML -----------------------------------------------------------------------------


def test_markdown(yard):
    options = {
        "times": "turn",
        "notes": "footnotes",
        "doubts": "marked",
        "struck": "through",
        "numbers": "paragraphs",
    }
    assert (
        as_markdown(document_of(yard, options_from(options))) == "# The yard\n\n*A visit*\n\n"
        "1\\. `00:00:02` **Isolde Quill:** Is it oak? It is ~~um~~ dry.\n\n"
        "## Oak\n\n"
        f"2\\. `{written_time(yard.transcript.turns[1].start_ms, 'clock', yard)}` **Tobiah:** "
        "Yes. *Mostly* oak.[^1][^2]\n\n"
        f"3\\. `{written_time(yard.transcript.turns[2].start_ms, 'clock', yard)}` **Isolde Quill:** "
        "Good.[^3] Let us see it.\n\n"
        "[^1]: Show note: Built in 1881\n\n[^2]: Query: Which oak?\n\n[^3]: Clip: The best of it\n"
    )


@pytest.mark.parametrize(
    ("said", "written_as"),
    [
        ("*oak*", "\\*oak\\*"),
        ("# one", "\\# one"),
        ("<b>", "\\<b\\>"),
        ("a_b", "a\\_b"),
        ("`x`", "\\`x\\`"),
        ("[z](y)", "\\[z\\](y)"),
    ],
)
def test_words_that_mean_something_in_markdown_stay_words(said, written_as):
    turns = [RecognisedTurn(tuple(spoken(said)), "s1")]
    project = set_turns(Project("x"), turns, [Speaker("s1", "Ann")], "en")
    assert as_markdown(document_of(project, options_from({"title": "no"}))) == f"**Ann:** {written_as}\n"


def test_html_has_each_thing_in_its_place(yard):
    page = as_html(
        document_of(
            yard, options_from({"times": "turn", "notes": "end", "doubts": "marked", "struck": "through"})
        )
    )
    assert page.startswith("<!DOCTYPE html>\n<html lang=en><meta charset=utf-8>")
    assert "<h1>The yard</h1><p class=sub>A visit</p>" in page and "<h2>Oak</h2>" in page
    assert (
        "<p><span class=who>Isolde Quill <span class=t>00:00:02</span> </span>Is it oak? It is <s>um</s>"
        " dry.</p>" in page
    )
    assert "<mark>Mostly</mark> oak.<sup><a href=#note1>1</a></sup><sup>, </sup>" in page
    assert "<li id=note3>Clip: The best of it</li></ol>" in page
    assert "http:" not in page and "<script" not in page
    assert text_of_html(page).startswith(
        "The yard The yard A visit Isolde Quill 00:00:02 Is it oak? It is um dry. Oak"
    )


def test_page_font_and_size_reach_the_file(yard):
    page = as_html(document_of(yard, options_from({"font": "sans", "size": "14"})))
    assert "font:14pt/1.55 Inter" in page


# -- office documents ---------------------------------------------------------------------------------


def opened(yard, tmp_path, **options):
    path = tmp_path / "a.docx"
    path.write_bytes(as_docx(document_of(yard, options_from(options))))
    return docx.Document(str(path))


def test_docx_has_styles_marks_and_a_page(yard, tmp_path):
    file = opened(yard, tmp_path, page="Letter", font="sans", size="12", struck="through", notes="footnotes")
    assert file.core_properties.title == "The yard"
    assert [one.style.name for one in file.paragraphs[:4]] == ["Title", "Subtitle", "Normal", "Heading 1"]
    assert [one.text for one in file.paragraphs[:2]] == ["The yard", "A visit"]
    first = file.paragraphs[2]
    assert first.runs[0].bold and first.runs[0].text == "Isolde Quill"
    assert [run.text.strip() for run in first.runs if run.font.strike] == ["um"]
    assert round(file.sections[0].page_width.cm, 1) == 21.6
    assert file.styles["Normal"].font.name == "Inter" and file.styles["Normal"].font.size.pt == 12
    assert file.element.body.xpath("//w:footnoteReference/@w:id") == ["1", "2", "3"]
    assert file.element.body.xpath("//w:r[w:rPr/w:vertAlign]/w:t/text()") == [","]
    assert [one.strip() for one in texts_of_footnotes(file) if one] == [
        "Show note: Built in 1881",
        "Query: Which oak?",
        "Clip: The best of it",
    ]


def test_docx_says_its_language_and_who_made_it_when(yard, tmp_path):
    file = opened(yard, tmp_path)
    properties = file.core_properties
    assert (properties.author, properties.language, properties.comments) == ("Dubrel", "en", "")
    assert abs((datetime.now(UTC) - properties.created).total_seconds()) < 600
    assert file.styles.element.xpath("//w:docDefaults//w:lang/@w:val") == ["en"]


def test_docx_in_a_script_from_the_right_has_sizes_and_weights_of_its_own(yard, tmp_path):
    hebrew = replace(yard, title="חצר", transcript=replace(yard.transcript, language="he"))
    file = opened(hebrew, tmp_path, size="14")
    assert file.styles.element.xpath("//w:docDefaults//w:lang/@w:bidi") == ["he"]
    for style in file.styles.element.xpath("//w:style"):
        for name, twin in (("sz", "szCs"), ("b", "bCs"), ("i", "iCs")):
            assert style.xpath(f"./w:rPr/w:{name}/@w:val") == style.xpath(f"./w:rPr/w:{twin}/@w:val")
    [lead] = file.paragraphs[2].runs[0]._r.xpath("./w:rPr[w:b]")
    assert len(lead.xpath("./w:bCs")) == 1


def test_docx_without_a_title_begins_with_what_is_said(yard, tmp_path):
    assert opened(yard, tmp_path, title="no").paragraphs[0].text.startswith("Isolde Quill")


def test_odt_is_a_sound_package_with_real_footnotes(yard, tmp_path):
    path = tmp_path / "a.odt"
    path.write_bytes(as_odt(document_of(yard, options_from({"notes": "footnotes", "struck": "through"}))))
    with zipfile.ZipFile(path) as package:
        assert (
            package.namelist()[0] == "mimetype"
            and package.getinfo("mimetype").compress_type == zipfile.ZIP_STORED
        )
        assert package.read("mimetype") == b"application/vnd.oasis.opendocument.text"
        content = ElementTree.fromstring(package.read("content.xml"))
        for name in ("styles.xml", "meta.xml", "META-INF/manifest.xml"):
            ElementTree.fromstring(package.read(name))
    space = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"
    assert ["".join(one.itertext()) for one in content.iter(f"{space}h")] == ["Oak"]
    styles = [one.get(f"{space}style-name") for one in content.iter(f"{space}p")]
    assert styles[:3] == ["Title", "Subtitle", "Standard"]
    bodies = ["".join(one.itertext()) for one in content.iter(f"{space}note-body")]
    assert bodies == ["Show note: Built in 1881", "Query: Which oak?", "Clip: The best of it"]
    struck = [
        one.text.strip() for one in content.iter(f"{space}span") if one.get(f"{space}style-name") == "struck"
    ]
    assert struck == ["um"]
    assert text_of_odt(path).endswith("Show note: Built in 1881 Query: Which oak? Clip: The best of it")


def in_odt(document, path, name):
    """A part of an OpenDocument text."""
    path.write_bytes(as_odt(document))
    with zipfile.ZipFile(path) as package:
        return package.read(name).decode("utf-8")


@pytest.mark.parametrize(
    ("tag", "wanted"),
    [
        ("pt-BR", 'fo:language="pt" fo:country="BR"'),
        ("he", 'style:language-complex="he" style:country-complex="none"'),
        ("ja", 'style:language-asian="ja" style:country-asian="none"'),
        ("und", 'fo:language="zxx" fo:country="none"'),
    ],
)
def test_odt_says_its_language_where_its_script_looks_for_it(yard, tmp_path, tag, wanted):
    document = replace(document_of(yard, options_from({})), language=tag)
    assert wanted in in_odt(document, tmp_path / "a.odt", "styles.xml")
    said = f"<dc:language>{tag}</dc:language>" in in_odt(document, tmp_path / "a.odt", "meta.xml")
    assert said == (tag != "und")


def test_odt_sets_what_is_read_from_the_right_at_the_right_and_sizes_for_every_script(yard, tmp_path):
    hebrew = replace(yard, title="חצר", transcript=replace(yard.transcript, language="he"))
    document = document_of(hebrew, options_from({"size": "14"}))
    content = in_odt(document, tmp_path / "a.odt", "content.xml")
    assert '<text:p text:style-name="Title_rtl">חצר</text:p>' in content
    assert (
        'style:name="Title_rtl"' in content and 'style:writing-mode="rl-tb" fo:text-align="right"' in content
    )
    styles = in_odt(document, tmp_path / "a.odt", "styles.xml")
    for script in ("", "-asian", "-complex"):
        assert f'font-size{script}="14pt"' in styles and f'font-weight{script}="bold"' in styles


# -- around it -----------------------------------------------------------------------------------------


def test_show_notes(yard):
    found = as_text(show_notes(yard, options_from({})))
    clip = written_time(yard.transcript.turns[2].start_ms, "clock", yard)
    assert "== Notes\n\n" in found and "  Built in 1881\n\n== Quotes\n\n" in found
    assert f"{clip}  “Good.” The best of it" in found
    assert found.endswith("== With\n\nIsolde Quill (host), Tobiah\n")


def test_chapters_in_each_form(yard):
    [chapter] = chapters_of(yard)
    starts, ends = yard.transcript.turns[1:]
    assert chapter == (starts.start_ms, ends.end_ms, "Oak")
    rows = [(0, 61_500, "One & two"), (61_500, 3_700_000, "Three")]
    assert (
        as_webvtt(rows)
        == "WEBVTT\n\n00:00:00.000 --> 00:01:01.500\nOne &amp; two\n\n00:01:01.500 --> 01:01:40.000\nThree\n"
    )
    assert json.loads(as_json(rows))["chapters"][1] == {
        "startTime": 61.5,
        "endTime": 3700.0,
        "title": "Three",
    }
    assert as_list(rows) == "0:00 One & two\n1:01 Three\n"
    assert as_list([(0, 1, "A"), (3_600_000, 3_700_000, "B")]) == "0:00:00 A\n1:00:00 B\n"


def test_queries_are_rows_with_room_for_an_answer(yard):
    heads, row, *rest = queries_csv(yard).split("\r\n")
    assert heads == "id,time,asked at,question,answer" and rest == [""]
    assert row.split(",")[2:] == ["oak.", "Which oak?", ""]


# -- both languages, one file ----------------------------------------------------------------------------


@pytest.fixture(scope="module")
def both(yard):
    """The yard, and the same in capitals as its Portuguese."""
    project, track_id = begin_track(yard, "pt")
    tasks = missing_tasks(project, project.track(track_id))
    return with_translations(project, track_id, [task.made(task.text.upper()) for task in tasks])


def made(project, form):
    """The file of a form."""
    [planned] = plan(project, Kit("One", "{title}", (Item(form, {"track": "all"}),)))
    return planned.form.written(planned.source)


def test_facing_columns(both, tmp_path):
    page = made(both, "facing-html").decode()
    assert "<tr><th></th><th>English</th><th>Portuguese</th></tr>" in page
    assert (
        "<tr><td class=w>Tobiah</td><td lang=en>Yes. Mostly oak.</td><td lang=pt>YES. MOSTLY OAK.</td></tr>"
        in page
    )
    path = tmp_path / "a.docx"
    path.write_bytes(made(both, "facing-docx"))
    [table] = docx.Document(str(path)).tables
    assert [cell.text for cell in table.rows[2].cells] == ["Tobiah", "Yes. Mostly oak.", "YES. MOSTLY OAK."]


def test_pairs_as_memory_and_for_a_translator(both):
    memory, units = made(both, "tmx").decode(), made(both, "xliff").decode()
    assert memory.count("<tu>") + memory.count("<tu ") == units.count("<trans-unit ") == 6
    assert '<source>Is it oak?</source><target state="translated">IS IT OAK?</target>' in units
    assert 'source-language="en" target-language="pt"' in units and 'approved="no"' in units


def test_words_and_speakers_for_scoring(yard):
    rows = written(yard, ".ctm").splitlines()
    assert rows[0].split() == ["The_yard", "1", "2.000", rows[0].split()[3], "Is", "1.000"]
    assert len(rows) == 14 and not any(" um " in row for row in rows)
    assert any(row.endswith("Mostly 0.100") for row in rows)
    turns = written(yard, ".rttm").splitlines()
    assert [row.split()[7] for row in turns] == ["Isolde_Quill", "Tobiah", "Isolde_Quill"]


def test_every_form_that_ships_has_a_name_of_its_own_and_a_kit_that_holds_it():
    labels = [one.label for one in FORMS.values()]
    assert len(set(labels)) == len(labels)
    everything = {item.form for item in KITS["Everything"].items}
    assert {one for one in FORMS if FORMS[one].group != "Film and sound"} <= everything


def test_what_can_be_chosen_is_what_films_know():
    assert set(ALLOWED["quality"]) == set(QUALITIES) and set(ALLOWED["crop"]) == set(SHAPES)


def test_a_source_of_one_speaker_and_of_a_translation(both):
    track = next(one for one in both.tracks if not one.spoken)
    assert Source(both, track).project.transcript.turns[0].text.startswith("IS IT OAK?")
    alone = Source(both, None, {"speaker": "s2"}).project
    assert [turn.text for turn in alone.transcript.turns] == ["Yes. Mostly oak."]
    assert Source(both, track).language == "pt" and Source(both, None).language == "en"
