"""Scripts as people write them: tables, tracked changes, hidden and crossed-out words, notes, boxes."""

import io
import zipfile

import pytest
from conftest import DEMO

from dubrel.cli import main
from dubrel.formats.scripts.script import Kind, Piece, read_script, understand

W = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"'
STYLES = f"""<w:styles {W}>
<w:style w:styleId="berschrift1"><w:name w:val="heading 1"/></w:style>
<w:style w:styleId="Mine"><w:name w:val="Act"/><w:basedOn w:val="berschrift1"/></w:style>
<w:style w:styleId="Secret"><w:name w:val="Secret"/><w:rPr><w:vanish/></w:rPr></w:style>
<w:style w:styleId="Loop"><w:name w:val="Loop"/><w:basedOn w:val="Loop"/></w:style>
</w:styles>"""
NOTES = f"""<w:footnotes {W}>
<w:footnote w:id="2"><w:p><w:r><w:t>Check the year.</w:t></w:r></w:p></w:footnote>
</w:footnotes>"""
OD = " ".join(
    f'xmlns:{prefix}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"'
    for prefix, name in [
        ("office", "office"),
        ("t", "text"),
        ("b", "table"),
        ("style", "style"),
        ("draw", "drawing"),
    ]
)
AUTOMATIC = """<office:automatic-styles>
<style:style style:name="Hid" style:family="text"><style:text-properties t:display="none"/></style:style>
<style:style style:name="Cut" style:family="text">
<style:text-properties style:text-line-through-style="solid"/></style:style>
<style:style style:name="P1" style:family="paragraph" style:parent-style-name="Title"/>
</office:automatic-styles>"""


def said(text):
    """A run of text."""
    return f'<w:r><w:t xml:space="preserve">{text}</w:t></w:r>'


def para(*parts, style=""):
    """A paragraph."""
    properties = f'<w:pPr><w:pStyle w:val="{style}"/></w:pPr>' if style else ""
    return f"<w:p>{properties}{''.join(parts)}</w:p>"


def cells(*texts):
    """A row of a table."""
    return "<w:tr>" + "".join(f"<w:tc>{para(said(text))}</w:tc>" for text in texts) + "</w:tr>"


def packed(tmp_path, name, parts):
    """An archive of some files."""
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w") as archive:
        for inside, text in parts.items():
            archive.writestr(inside, text)
    path = tmp_path / name
    path.write_bytes(data.getvalue())
    return path


def of_docx(tmp_path, body):
    """The lines that a Word document's body speaks, as (kind, speaker, text)."""
    parts = {
        "word/document.xml": f"<w:document {W}><w:body>{body}</w:body></w:document>",
        "word/styles.xml": STYLES,
        "word/footnotes.xml": NOTES,
    }
    return read_script(packed(tmp_path, "a.docx", parts))


def of_odt(tmp_path, body):
    """The same of an OpenDocument text."""
    text = f"<office:body><office:text>{body}</office:text></office:body>"
    content = f"<office:document-content {OD}>{AUTOMATIC}{text}</office:document-content>"
    return read_script(packed(tmp_path, "a.odt", {"content.xml": content}))


def of_markdown(tmp_path, text):
    """The same of Markdown."""
    path = tmp_path / "a.md"
    path.write_text(text, encoding="utf-8")
    return read_script(path)


def speech(text, speaker=""):
    """A piece that is spoken."""
    return Piece(Kind.SPEECH, text, speaker)


DOCX = {
    "inserted": (
        para(
            said("We "),
            f"<w:ins>{said('really ')}</w:ins>",
            "<w:del><w:r><w:delText>never </w:delText></w:r></w:del>",
            said("go."),
        ),
        [speech("We really go.")],
    ),
    "moved": (
        para(
            f"<w:moveFrom>{said('Old place. ')}</w:moveFrom>",
            said("Stay. "),
            f"<w:moveTo>{said('New place.')}</w:moveTo>",
        ),
        [speech("Stay. New place.")],
    ),
    "a paragraph whose end was deleted": (
        "<w:p><w:pPr><w:rPr><w:del/></w:rPr></w:pPr>" + said("One ") + "</w:p>" + para(said("sentence.")),
        [speech("One sentence.")],
    ),
    "a link": (
        para(said("See "), f"<w:hyperlink>{said('the yard')}</w:hyperlink>", said(".")),
        [speech("See the yard.")],
    ),
    "a control in a line": (
        para(
            said("Dear "),
            f"<w:sdt><w:sdtPr><w:t>no</w:t></w:sdtPr><w:sdtContent>{said('Wren')}</w:sdtContent></w:sdt>",
            said("!"),
        ),
        [speech("Dear Wren!")],
    ),
    "a control around blocks": (
        f"<w:sdt><w:sdtContent>{para(said('Inside.'))}</w:sdtContent></w:sdt>" + para(said("Outside.")),
        [speech("Inside."), speech("Outside.")],
    ),
    "hidden": (
        para(said("Said. "), "<w:r><w:rPr><w:vanish/></w:rPr><w:t>Unsaid.</w:t></w:r>"),
        [speech("Said.")],
    ),
    "hidden by a style, shown again": (
        para(
            '<w:r><w:rPr><w:rStyle w:val="Secret"/></w:rPr><w:t>Unsaid. </w:t></w:r>',
            '<w:r><w:rPr><w:rStyle w:val="Secret"/><w:vanish w:val="0"/></w:rPr><w:t>Said.</w:t></w:r>',
        ),
        [speech("Said.")],
    ),
    "crossed out": (
        para(said("Yes. "), "<w:r><w:rPr><w:strike/></w:rPr><w:t>No.</w:t></w:r>"),
        [speech("Yes.")],
    ),
    "a field": (
        para(
            '<w:r><w:fldChar w:fldCharType="begin"/></w:r><w:r><w:instrText>DATE</w:instrText></w:r>',
            '<w:r><w:fldChar w:fldCharType="separate"/></w:r>',
            said("Monday"),
            '<w:r><w:fldChar w:fldCharType="end"/></w:r>',
        ),
        [speech("Monday")],
    ),
    "a note": (
        para(said("In 1881."), '<w:r><w:footnoteReference w:id="2"/></w:r>'),
        [speech("In 1881."), Piece(Kind.DIRECTION, "Check the year.")],
    ),
    "headings by their own names": (
        para(said("Part one"), style="berschrift1")
        + para(said("Part two"), style="Mine")
        + para(said("Said."), style="Loop"),
        [Piece(Kind.HEADING, "Part one"), Piece(Kind.HEADING, "Part two"), speech("Said.")],
    ),
    "a table of names and words": (
        f"<w:tbl>{cells('Time', 'Who', 'Text')}{cells('00:01', 'Ann', 'Hello.')}"
        f"{cells('00:04', '', 'And you?')}{cells('00:09', 'Ben', 'Fine.')}</w:tbl>",
        [speech("Hello.", "Ann"), speech("And you?", "Ann"), speech("Fine.", "Ben")],
    ),
    "a table of words alone": (
        f"<w:tbl>{cells('The first of them came in early.')}{cells('The second came late.')}</w:tbl>",
        [speech("The first of them came in early."), speech("The second came late.")],
    ),
    "a row that was deleted": (
        "<w:tbl>"
        + cells("Ann", "Hello.")
        + cells("Ben", "Fine.").replace("<w:tr>", "<w:tr><w:trPr><w:del/></w:trPr>")
        + "</w:tbl>",
        [speech("Hello.", "Ann")],
    ),
    "a text box, once": (
        para(
            said("Before."),
            "<w:r><AlternateContent><Choice><w:txbxContent>"
            + para(said("Boxed."))
            + "</w:txbxContent></Choice>"
            "<Fallback><w:txbxContent>"
            + para(said("Boxed."))
            + "</w:txbxContent></Fallback></AlternateContent></w:r>",
        ),
        [speech("Before."), speech("Boxed.")],
    ),
    "a break in a line": (para(said("One"), "<w:r><w:br/></w:r>", said("line.")), [speech("One line.")]),
    "a tab behind a name": (
        para(said("Ann"), "<w:r><w:tab/></w:r>", said("Hello."))
        + para(said("Ann"), "<w:r><w:tab/></w:r>", said("Again.")),
        [speech("Hello.", "Ann"), speech("Again.", "Ann")],
    ),
    "names above in capitals": (
        para(said("ANN"))
        + para(said("Hello."))
        + para(said("BEN"))
        + para(said("Yes."))
        + para(said("ANN"))
        + para(said("(smiles)"))
        + para(said("Good."))
        + para(said("BEN"))
        + para(said("Bye.")),
        [
            speech("Hello.", "ANN"),
            speech("Yes.", "BEN"),
            Piece(Kind.DIRECTION, "smiles"),
            speech("Good.", "ANN"),
            speech("Bye.", "BEN"),
        ],
    ),
}


@pytest.mark.parametrize("case", DOCX)
def test_word_documents(tmp_path, case):
    body, wanted = DOCX[case]
    assert of_docx(tmp_path, body) == wanted


ODT = {
    "tracked changes": (
        "<t:tracked-changes><t:changed-region><t:deletion><t:p>never</t:p></t:deletion>"
        '</t:changed-region></t:tracked-changes><t:p>We <t:change-start t:change-id="c"/>really'
        '<t:change-end t:change-id="c"/> go.</t:p>',
        [speech("We really go.")],
    ),
    "a table": (
        "<b:table><b:table-header-rows><b:table-row><b:table-cell><t:p>Who</t:p></b:table-cell>"
        "<b:table-cell><t:p>Text</t:p></b:table-cell></b:table-row></b:table-header-rows>"
        "<b:table-row><b:table-cell><t:p>Ann</t:p></b:table-cell><b:table-cell><t:p>Hello.</t:p>"
        "</b:table-cell></b:table-row></b:table>",
        [speech("Hello.", "Ann")],
    ),
    "a list in a section": (
        "<t:section><t:list><t:list-item><t:p>First.</t:p></t:list-item><t:list-item>"
        "<t:p>Second.</t:p></t:list-item></t:list></t:section>",
        [speech("First."), speech("Second.")],
    ),
    "hidden and crossed out": (
        '<t:p>Said. <t:span t:style-name="Hid">Unsaid.</t:span><t:span t:style-name="Cut">No.'
        '</t:span></t:p><t:section t:display="none"><t:p>Gone.</t:p></t:section>',
        [speech("Said.")],
    ),
    "notes and remarks": (
        "<t:p>In 1881.<t:note><t:note-citation>1</t:note-citation><t:note-body><t:p>Check.</t:p>"
        "</t:note-body></t:note><office:annotation><t:p>Really?</t:p></office:annotation></t:p>",
        [speech("In 1881."), Piece(Kind.DIRECTION, "Check.")],
    ),
    "fields, links and spaces": (
        '<t:p>On <t:date>Monday</t:date>,<t:s t:c="3"/><t:a>the\n   yard</t:a>.</t:p>',
        [speech("On Monday, the yard.")],
    ),
    "headings": (
        '<t:h t:outline-level="1">Part one</t:h><t:p t:style-name="P1">The Heron</t:p><t:p>Said.</t:p>',
        [Piece(Kind.HEADING, "Part one"), Piece(Kind.HEADING, "The Heron"), speech("Said.")],
    ),
    "a frame": (
        "<t:p>Before.<draw:frame><draw:text-box><t:p>Boxed.</t:p></draw:text-box></draw:frame></t:p>",
        [speech("Before."), speech("Boxed.")],
    ),
    "readings above signs": (
        "<t:p><t:ruby><t:ruby-base>水門</t:ruby-base><t:ruby-text>すいもん</t:ruby-text></t:ruby>です。</t:p>",
        [speech("水門です。")],
    ),
}


@pytest.mark.parametrize("case", ODT)
def test_opendocument_texts(tmp_path, case):
    body, wanted = ODT[case]
    assert of_odt(tmp_path, body) == wanted


MARKDOWN = {
    "a head of data": ("---\ntitle: The Heron\nauthor: Ann\n---\n\nHello.\n", [speech("Hello.")]),
    "an underlined heading": (
        "The Heron\n=========\n\nHello.\n",
        [Piece(Kind.HEADING, "The Heron"), speech("Hello.")],
    ),
    "names in bold": (
        "**Ann:** Hello\nall of *you*.\n\n**Ben**: Yes.\n",
        [speech("Hello all of you.", "Ann"), speech("Yes.", "Ben")],
    ),
    "links, pictures, code": (
        'See [the yard](http://example.test "t") ![a hull](h.png) and `oakum`.\n',
        [speech("See the yard and oakum.")],
    ),
    "crossed out": ("Yes ~~no~~ and <del>never</del> go.\n", [speech("Yes and go.")]),
    "tags and entities": (
        "One<br>line &amp; <b>more</b><!-- no -->.\n\n<div>Boxed.</div>\n",
        [speech("One line & more."), speech("Boxed.")],
    ),
    "a table": (
        "| Who | Text |\n|---|---|\n| Ann | Hello. |\n| Ben | *Yes*. |\n",
        [speech("Hello.", "Ann"), speech("Yes.", "Ben")],
    ),
    "a note": (
        "In 1881.[^1] Then.\n\n[^1]: Check the year.\n",
        [speech("In 1881. Then."), Piece(Kind.DIRECTION, "Check the year.")],
    ),
    "lists and quotes": (
        "- First.\n- Second.\n\n> Quoted.\n",
        [speech("First."), speech("Second."), speech("Quoted.")],
    ),
    "a year that begins a line": ("1986. That was the year.\n", [speech("1986. That was the year.")]),
    "escapes": (r"Five \* six\_seven." + "\n", [speech("Five * six_seven.")]),
    "indented": (
        "Ann: Hello.\n\n    Set in from the side.\n",
        [speech("Hello.", "Ann"), speech("Set in from the side.", "Ann")],
    ),
    "fenced": ("```\nnot spoken\n```\n\nSpoken.\n", [speech("Spoken.")]),
}


@pytest.mark.parametrize("case", MARKDOWN)
def test_markdown(tmp_path, case):
    text, wanted = MARKDOWN[case]
    assert of_markdown(tmp_path, text) == wanted


def test_plain_text_with_times_and_names():
    text = (
        "[00:00:01] Ann: Hello.\n00:00:04.500 --> 00:00:06.000\nBen 00:04\nYes.\n\n"
        "Ann [0:09]\nGood,\nand you?\n\nBen (01:00:09)\nFine.\n"
    )
    assert understand(text) == [
        speech("Hello.", "Ann"),
        speech("Yes.", "Ben"),
        speech("Good, and you?", "Ann"),
        speech("Fine.", "Ben"),
    ]


def test_headings_that_come_once_are_no_names():
    assert understand("PART ONE\nIt begins.\n\nPART TWO\nIt ends.\n") == [
        Piece(Kind.HEADING, "PART ONE"),
        speech("It begins."),
        Piece(Kind.HEADING, "PART TWO"),
        speech("It ends."),
    ]


@pytest.mark.parametrize("name", ["a.docx", "a.odt"])
def test_archives_without_a_document_get_one_sentence(tmp_path, name):
    path = packed(tmp_path, name, {"other.xml": "<a/>"})
    with pytest.raises(Exception, match=f"is not a readable {name[1:]} document"):
        read_script(path)


def test_a_name_in_bold_at_the_start_of_paragraphs(tmp_path):
    bold = '<w:r><w:rPr><w:b/></w:rPr><w:t xml:space="preserve">Ann </w:t></w:r>'
    body = para(bold, said("Hello.")) + para(bold, said("Again."))
    assert of_docx(tmp_path, body) == [speech("Hello.", "Ann"), speech("Again.", "Ann")]
    once = para(bold.replace("Ann", "Not"), said("like that.")) + para(said("Plain."))
    assert of_docx(tmp_path, once) == [speech("Not like that."), speech("Plain.")]


@pytest.mark.parametrize("suffix", ["docx", "odt", "md", "txt"])
def test_what_was_released_is_read_as_a_script_with_its_people(tmp_path, suffix):
    path = tmp_path / f"heron.{suffix}"
    assert main(["convert", str(DEMO / "heron-film.dubrel"), str(path)]) == 0
    spoken = [piece for piece in read_script(path) if piece.kind is Kind.SPEECH and piece.speaker]
    assert [piece.speaker for piece in spoken[:4]] == ["Isolde", "Tobiah", "Isolde", "Tobiah"]
    assert spoken[0].text.startswith("Early in the morning the yard is quiet.")


def test_tags_without_end_take_no_time_and_what_stands_before_them_is_read(tmp_path):
    text = "Spoken.\n\n<div>Boxed <!-- no --> again <script>x()</script>.\n\n" + "<div>" + "<!--" * 60_000
    assert of_markdown(tmp_path, text) == [speech("Spoken."), speech("Boxed again .")]


def test_a_time_that_is_said_at_the_start_of_a_line_stays():
    assert understand("10:30 was the train.\n\nAnn: Yes.\n") == [
        speech("10:30 was the train."),
        speech("Yes.", "Ann"),
    ]
    assert understand("0:05 Hello.\n\n0:09 Goodbye.\n") == [speech("Hello."), speech("Goodbye.")]
    assert understand("[10:30] Hello.\n00:01:05 - Ann: Yes.\n") == [speech("Hello."), speech("Yes.", "Ann")]


def test_a_row_of_a_table_with_one_filled_cell_loses_nothing(tmp_path):
    body = f"<w:tbl>{cells('Ann', 'Hello.')}{cells('Part one', '')}{cells('Ben', 'Fine.')}</w:tbl>"
    said = [piece.text for piece in of_docx(tmp_path, body)]
    assert said == ["Hello.", "Part one", "Fine."]
