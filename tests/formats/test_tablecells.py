"""What looks like a formula in a table, and like a tag in Markdown, stays text."""

from dubrel.base.value import replace
from dubrel.formats.shared.document import TextOptions
from dubrel.formats.shared.tablecells import guards_said
from dubrel.formats.texts.shownotes import answers_read, queries_csv, show_notes
from dubrel.formats.texts.textdocument import as_markdown
from dubrel.formats.words.termlist import read_terms, write_terms
from dubrel.model import Note, Term


def test_what_looks_like_a_formula_is_guarded_in_every_table_and_said(tmp_path, three):
    first = three.transcript.turns[0].words[0].id
    note = Note(three.next_id, 0, "Query", "=HYPERLINK(1)", words=(first,))
    project = replace(three, notes=(note,), next_id=three.next_id + 1)
    table = queries_csv(project)
    assert "\u200b=HYPERLINK(1)" in table and ",=HYPERLINK" not in table
    path = tmp_path / "answers.csv"
    path.write_text(table.replace("\r\n", "Yes\r\n").replace("answerYes", "answer"), encoding="utf-8")
    answered, count = answers_read(project, path)
    assert count == 1 and answered.notes[0].answer == "Yes"
    terms = (Term("@oak", ("-elm",), "+note"),)
    path.write_text(write_terms(terms), encoding="utf-8")
    assert path.read_text(encoding="utf-8").count("\u200b") == 3
    [again] = read_terms(path)[0]
    assert (again.right, again.heard, again.note) == ("@oak", ("-elm",), "+note")
    assert guards_said(["=1", "Oak", "-2"]).startswith("2 texts begin like a formula")


def test_letters_of_markdown_and_html_in_notes_are_text(three):
    text = "<script>alert(1)</script> &amp; *oak* [elm](x)"
    project = replace(three, notes=(Note(three.next_id, 0, "Show note", text),), next_id=three.next_id + 1)
    written = as_markdown(show_notes(project, TextOptions()))
    assert r"\<script\>alert(1)\</script\> \&amp; \*oak\* \[elm\](x)" in written
