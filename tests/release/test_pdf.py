"""Pages of a document, as a library reads them that had no part in writing them."""

import ctypes

import pypdfium2
import pytest
from pypdfium2 import raw
from test_forms import SAMPLES

from dubrel.base.value import replace
from dubrel.formats.shared.document import Block, Document, Run, TextOptions
from dubrel.release.pdf import as_pdf, facing_pdf, letters_of_pdf

HEBREW = Document(
    "סירת העץ",
    "פרק שביעי",
    "he",
    (
        Block("heading", (Run("המעשה בתעלה"),), rtl=True),
        Block(
            "paragraph",
            (Run("מכרו את הסירה "), Run("בקיץ ", "struck"), Run("הגדול."), Run("1", "mark", 1), Run(" אז.")),
            speaker="יונה",
            time="00:00:31",
            rtl=True,
        ),
    ),
    ("לבדוק את השנה.",),
    TextOptions(notes="footnotes", times="turn", struck="through"),
)


def opened(data, tmp_path):
    """A file of pages."""
    path = tmp_path / "a.pdf"
    path.write_bytes(data)
    return pypdfium2.PdfDocument(str(path))


def language_of(file):
    """The language of a file."""
    kept = (ctypes.c_ushort * 40)()
    raw.FPDFCatalog_GetLanguage(file, kept, ctypes.sizeof(kept))
    return bytes(kept).decode("utf-16-le").rstrip("\0")


def lines_of(file, page=0):
    """Rows of a page: text, left, right, from the top to the bottom."""
    text = file[page].get_textpage()
    boxes = [text.get_rect(nth) for nth in range(text.count_rects())]
    found = [(text.get_text_bounded(*box), *box) for box in boxes]
    return [one for one in found if one[0].strip()]


def test_pages_are_tagged_and_say_title_language_and_chapters(tmp_path):
    file = opened(as_pdf(HEBREW), tmp_path)
    assert raw.FPDFCatalog_IsTagged(file) == 1
    assert language_of(file) == "he"
    assert file.get_metadata_dict()["Title"] == "סירת העץ"
    assert [one.get_title() for one in file.get_toc()] == ["המעשה בתעלה"]


def test_what_is_read_from_the_right_stands_at_the_right_with_times_and_struck_words(tmp_path):
    file = opened(as_pdf(HEBREW), tmp_path)
    wide, _ = file[0].get_size()
    margin = 25 / 25.4 * 72
    body = [one for one in lines_of(file) if one[2] > 100]
    rightmost = {round(bottom): 0.0 for _, _, bottom, _, _ in body}
    for _, _, bottom, right, _ in body:
        rightmost[round(bottom)] = max(rightmost[round(bottom)], right)
    near = [right > wide - margin - 12 for right in rightmost.values()]
    assert near.count(True) >= 4


def test_notes_stand_at_the_foot_of_their_page(tmp_path):
    file = opened(as_pdf(HEBREW), tmp_path)
    note = next(one for one in lines_of(file) if "לבדוק" in one[0])
    text = next(one for one in lines_of(file) if "מכרו" in one[0])
    assert note[2] < 120 < text[2]
    assert file[0].get_textpage().get_text_range().count("לבדוק") == 1


def test_numbers_of_pages_are_no_part_of_the_text(tmp_path):
    blocks = tuple(Block("paragraph", (Run("Slow water. " * 60),)) for _ in range(30))
    document = Document("", "", "en", blocks, (), TextOptions(title="no"))
    file = opened(as_pdf(document), tmp_path)
    assert len(file) > 3
    assert file[1].get_textpage().get_text_range().strip().endswith("2")
    assert letters_of_pdf(tmp_path / "a.pdf") == "Slowwater" * 60 * 30


def test_what_looks_like_a_page_of_the_web_is_text_and_fetches_nothing(tmp_path):
    said = '<img src="http://127.0.0.1:9/x.png"> <script>1</script> </style> &amp;'
    document = Document(said, "", "en", (Block("paragraph", (Run(said),)),), (), TextOptions())
    file = opened(as_pdf(document), tmp_path)
    assert file[0].get_textpage().get_text_range().replace("\r\n", " ").count("<script>1</script>") == 2


@pytest.mark.parametrize("name", ["hebrew", "japanese", "hostile"])
def test_documents_of_every_kind_hold_all_their_letters(tmp_path, name):
    from dubrel.formats.shared.agreement import letters
    from dubrel.formats.shared.document import document_of

    document = document_of(SAMPLES[name], TextOptions())
    (tmp_path / "a.pdf").write_bytes(as_pdf(document))
    wanted = sorted(letters("".join(document.said)))
    assert sorted(letters(letters_of_pdf(tmp_path / "a.pdf"))) == wanted


def test_facing_columns_stand_side_by_side(tmp_path):
    rows = [("Ann", "Slow water.", "מים איטיים."), ("", "Deep.", "עמוק.")]
    file = opened(facing_pdf("Slow", ("en", "he"), ("English", "Hebrew"), rows, (False, True)), tmp_path)
    places = {text.strip(): (left, bottom) for text, left, bottom, _, _ in lines_of(file)}
    left, right = places["Slow water."], next(place for text, place in places.items() if "איטיים" in text)
    assert left[1] == pytest.approx(right[1], abs=3) and left[0] < 100 and right[0] > 400


def test_a_document_without_a_language_has_none_in_its_text(tmp_path):
    assert language_of(opened(as_pdf(replace(HEBREW, language="und")), tmp_path)) == ""
