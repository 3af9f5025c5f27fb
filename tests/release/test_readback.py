"""Every form read back: nothing is lost that was not said before, and what is wrong is found."""

import pytest
from conftest import DEMO, spoken
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from test_forms import SAMPLES

from dubrel.base.errors import FormatError
from dubrel.base.value import replace
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.edits.notes import with_note
from dubrel.film import fontfiles
from dubrel.formats.captions import captiontable, ttml, webvtt
from dubrel.formats.captions.cuestyle import looks_in
from dubrel.formats.register import read_file
from dubrel.formats.shared.inline import taken_apart
from dubrel.formats.shared.losses import differences, expected, leaves_any
from dubrel.model import Look, Project, RecognisedTurn, RecognisedWord, Speaker
from dubrel.release.forms import FORMS
from dubrel.release.kits import KITS, Item, Kit, loses, plan
from dubrel.release.onefile import write_checked, written
from dubrel.release.source import Source
from dubrel.release.writing import write_one
from dubrel.store.projectfile import read_project

SAID = (
    "Yes. oak, I 5 <i> <b>x</b> &lt; & --> {\\an8} { {y:i} -No. - ISOLDE: Isolde: (laughs) ♪ 00:00:01,000 "
    "\\N <v_Bob> NOTE STYLE WEBVTT שלום. 今日は。 é 👍 =1+1 | `x` *y* [z] # ~"
).split()
ANY = st.text(st.characters(exclude_categories=("Cs", "Cc", "Zs", "Zl", "Zp", "Cn")), min_size=1, max_size=8)
WORDS = st.one_of(st.sampled_from(SAID), ANY)
NAMES = st.sampled_from(["Isolde", "Tobiah", "", "A & B", "Dr <X>", "Ann-Marie O'Neil", "טוביה"])
PLACES = st.sampled_from(["", "", "", "line:0", "line:10%", "line:0 position:10% align:start", "line:50%"])
LOOKS = st.builds(
    Look,
    font=st.sampled_from(["Inter", "Gentium Plus"]),
    size=st.sampled_from([6.4, 5.0]),
    colour=st.sampled_from(["#FFFFFF", "#FFEE00"]),
    ground=st.sampled_from(["#0C0C0B", "#102030"]),
    opacity=st.sampled_from([0.88, 0.5, 0.0]),
    weight=st.sampled_from([400, 500, 700]),
    slanted=st.booleans(),
    outline=st.sampled_from([0.0, 4.0]),
    box=st.sampled_from(["line", "whole", "none"]),
)
PATIENT = settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))


@st.composite
def projects(draw):
    """Captions of any words, people, places, styles and looks, some at the very same times."""
    people = [
        Speaker(f"s{k}", name)
        for k, name in enumerate(draw(st.lists(NAMES, min_size=1, max_size=3, unique=True)))
    ]
    turns, at = [], 1000
    for texts in draw(st.lists(st.lists(WORDS, min_size=1, max_size=8), min_size=1, max_size=6)):
        words = []
        for text in texts:
            words.append(RecognisedWord(text, at, at + 250))
            at += 260
        at += draw(st.sampled_from([0, 100, 3000]))
        turns.append(RecognisedTurn(tuple(words), draw(st.sampled_from(people)).id))
    language = draw(st.sampled_from(["en", "he", "ja", "pt-BR"]))
    project = set_again(set_turns(Project(title="x"), turns, people, language), None)
    captions = []
    for one in project.captions.captions:
        styled = tuple(
            (word, draw(st.sampled_from(["i", "b", "u"])))
            for word in one.words
            if draw(st.integers(0, 6)) == 0
        )
        if captions and draw(st.integers(0, 5)) == 0:
            one = replace(one, start_ms=captions[-1].start_ms, end_ms=captions[-1].end_ms)
        marked = [one.words[:1] if draw(st.integers(0, 5)) == 0 else () for _ in "nd"]
        captions.append(replace(one, place=draw(PLACES), styled=styled, named=marked[0], dashed=marked[1]))
    looks = tuple((one.id, draw(LOOKS)) for one in people if draw(st.booleans()))
    track = replace(project.captions, captions=tuple(captions), look=draw(LOOKS), looks=looks)
    return replace(project, tracks=(track,))


@pytest.mark.parametrize("form", ["srt", "webvtt", "ttml", "stl", "csv", "tsv"])
def test_captions_lose_nothing_that_was_not_said_before(form, tmp_path):
    path = tmp_path / f"a{FORMS[form].suffix}"

    @given(projects())
    @PATIENT
    def check(project):
        source = Source(project)
        try:
            path.write_bytes(FORMS[form].written(source))
        except FormatError as error:
            assert form == "stl" and "no letters for this language" in str(error)
            return
        cannot = FORMS[form].cannot
        if leaves_any(project, cannot):
            found = differences(project, read_file(path).project, cannot)
            assert found - expected(source.project, cannot) == {}
        assert FORMS[form].reads_back(source, path)

    check()


@pytest.mark.parametrize("form", ["text", "markdown", "html", "odt", "docx", "lrc", "json", "ctm", "rttm"])
def test_texts_of_any_words_read_back(form, tmp_path):
    path = tmp_path / f"a{FORMS[form].suffix}"

    @given(projects())
    @settings(PATIENT, max_examples=25)
    def check(project):
        source = Source(project, None, {"times": "turn", "numbers": "paragraphs"} if FORMS[form].text else {})
        path.write_bytes(FORMS[form].written(source))
        assert FORMS[form].reads_back(source, path)

    check()


# -- what is wrong is found -------------------------------------------------------------------------


@pytest.fixture(scope="module")
def podcast():
    return read_project(DEMO / "slow-water-7.dubrel").project


def with_a_word_changed(project):
    """The project with another word in the middle."""
    turns = list(project.transcript.turns)
    half = len(turns) // 2
    words = list(turns[half].words)
    words[0] = replace(words[0], text="Otherwise")
    turns[half] = replace(turns[half], words=tuple(words))
    return replace(project, transcript=replace(project.transcript, turns=tuple(turns)))


def with_a_time_changed(project):
    """The project with a word, its caption and a chapter a tenth of a second later."""
    project = with_a_word_changed(project)
    notes = tuple(replace(one, start_ms=one.start_ms + 100, text="Another") for one in project.notes)
    return replace(project, notes=notes)


@pytest.mark.parametrize("form", [one.id for one in FORMS.values() if not one.film])
def test_a_file_that_says_something_else_is_found_out(form, tmp_path, podcast):
    """What is written from another state of the project is not taken for this one."""
    other = with_a_time_changed(podcast)
    if form in ("tmx", "xliff") or form.startswith("facing"):
        tracks = [replace(one, captions=one.captions[: len(one.captions) // 2]) for one in podcast.tracks]
        other = replace(podcast, tracks=tuple(tracks))
    if form == "rttm":
        turns = podcast.transcript.turns
        other = replace(podcast, transcript=replace(podcast.transcript, turns=turns[:-1]))
    if form == "queries":
        notes = tuple(replace(one, words=()) for one in podcast.notes)
        other = replace(podcast, notes=notes)
    kit = Kit("One", "{title}", (Item(form),))
    [right], [wrong] = plan(podcast, kit), plan(other, kit)
    path = tmp_path / f"a{FORMS[form].suffix}"
    path.write_bytes(wrong.form.written(wrong.source))
    assert not right.form.reads_back(right.source, path)
    path.write_bytes(right.form.written(right.source))
    assert right.form.reads_back(right.source, path)


@pytest.mark.parametrize("form", ["text", "markdown", "html", "docx", "odt", "pdf"])
def test_times_and_numbers_before_paragraphs_are_compared_too(form, tmp_path, podcast):
    with_times, without = (
        plan(podcast, Kit("One", "{title}", (Item(form, options),)))[0]
        for options in ({"times": "turn", "numbers": "paragraphs"}, {})
    )
    path = tmp_path / f"a{FORMS[form].suffix}"
    path.write_bytes(without.form.written(without.source))
    assert not with_times.form.reads_back(with_times.source, path)


# -- each by itself ----------------------------------------------------------------------------------


def two_people(*texts):
    """Captions said by two people in turn."""
    people = [Speaker("s1", "Isolde"), Speaker("s2", "Tobiah")]
    turns, at = [], 0
    for nth, text in enumerate(texts):
        words = [replace(one, start_ms=one.start_ms + at, end_ms=one.end_ms + at) for one in spoken(text)]
        turns.append(RecognisedTurn(tuple(words), people[nth % 2].id))
        at += 4000
    return set_again(set_turns(Project("Two"), turns, people, "en"), None)


def names_said(project):
    """Who says each turn."""
    names = {one.id: one.name for one in project.transcript.speakers}
    return [(names.get(one.speaker, ""), one.text) for one in project.transcript.turns]


@pytest.mark.parametrize("form", [webvtt.write, ttml.write, captiontable.write_csv])
def test_the_same_line_said_by_two_people_keeps_both(form, tmp_path):
    project = two_people("Yes.", "Yes.", "Yes.")
    suffix = {"webvtt": ".vtt", "ttml": ".ttml", "captiontable": ".csv"}[form.__module__.rpartition(".")[2]]
    path = tmp_path / f"a{suffix}"
    path.write_text(form(project), encoding="utf-8")
    assert names_said(read_file(path).project) == names_said(project)


def test_a_table_keeps_places_and_who_says_each_line(tmp_path):
    path = tmp_path / "a.csv"
    path.write_text(
        'start,end,speaker,text,place\n0:01,0:03,"Isolde\nTobiah","Is it oak?\nYes.",line:0\n',
        encoding="utf-8",
    )
    project = read_file(path).project
    assert names_said(project) == [("Isolde", "Is it oak?"), ("Tobiah", "Yes.")]
    assert project.captions.captions[0].place == "line:0"


def test_a_line_after_a_closed_voice_is_nobodys(tmp_path):
    path = tmp_path / "a.vtt"
    path.write_text("WEBVTT\n\n00:01.000 --> 00:03.000\n<v Isolde>Is it oak?</v>\nYes.\n")
    assert names_said(read_file(path).project) == [("Isolde", "Is it oak?"), ("", "Yes.")]


def test_a_name_in_the_text_is_none_where_the_file_says_who_speaks(tmp_path):
    path = tmp_path / "a.vtt"
    cue = "\n00:0{}.000 --> 00:0{}.900\n<v Isolde>Marmalade: {}.\n"
    path.write_text("WEBVTT\n" + cue.format(1, 1, "two jars") + cue.format(3, 3, "three"))
    project = read_file(path).project
    assert [one.name for one in project.transcript.speakers] == ["Isolde"]
    assert [one.text for one in project.transcript.turns] == ["Marmalade: two jars.", "Marmalade: three."]


def test_the_language_goes_through_webvtt_where_the_words_do_not_tell_it(tmp_path):
    project = replace(two_people("Ja."), tracks=())
    project = replace(project, transcript=replace(project.transcript, language="nl"))
    path = tmp_path / "a.vtt"
    write_checked(project, path)
    again = read_file(path)
    assert again.project.transcript.language == "nl" and again.warnings == ()
    assert "NOTE Language: nl\n" in path.read_text() and again.project.notes == ()


def test_a_brace_before_an_escaped_one_is_text():
    assert taken_apart(["{ &#123;\\an8}"]).rows[0].text == "{ {\\an8}"


def test_a_look_belongs_to_a_name_with_any_signs():
    block = '::cue(v[voice="Dr \\3c X\\3e  O\\22 Neil-Ross"]) { color: #FFEE00; }'
    assert looks_in(block)[0]['Dr <X> O"Neil-Ross'].colour == "#FFEE00"


def test_a_look_without_a_box_has_none_in_ttml(tmp_path):
    project = two_people("It is dry.")
    track = replace(project.captions, look=Look(box="none"))
    path = tmp_path / "a.ttml"
    path.write_text(ttml.write(replace(project, tracks=(track,))), encoding="utf-8")
    assert read_file(path).project.captions.look.box == "none"


def test_letters_without_a_font_are_said_and_the_page_is_written_all_the_same(tmp_path, monkeypatch):
    monkeypatch.setattr(fontfiles, "_matched", lambda *args: None)  # a machine without other fonts
    fontfiles.known_fallbacks.cache_clear()
    [planned] = plan(SAMPLES["japanese"], Kit("One", "{title}", (Item("pdf"),)))
    said = loses(planned)
    assert said.endswith("have no font on this machine and would show as boxes. Install a font for them.")
    path = tmp_path / "a.pdf"
    path.write_bytes(planned.form.written(planned.source))
    assert planned.form.reads_back(planned.source, path)
    fontfiles.known_fallbacks.cache_clear()


def test_letters_after_those_of_another_font_stay_what_they_are(tmp_path):
    from dubrel.release.pdf import letters_of_pdf

    path = tmp_path / "a.pdf"
    write_checked(two_people("今日は。", "Yes."), path, {"names": "never"})
    assert letters_of_pdf(path).endswith("今日はYes")


def test_every_script_has_a_font_after_setting_up():
    for text in ("今日は", "안녕하세요", "今天", "नमस्ते", "สวัสดี", "مرحبا", "שלום", "გამარჯობა"):
        assert fontfiles.fallbacks("Inter", text).missing == "", text


def test_a_chapter_that_looks_like_a_tag_and_one_without_a_title(tmp_path):
    project = two_people("Is it oak?", "Yes.", "It is dry.")
    words = [turn.words[0].id for turn in project.transcript.turns]
    for word, title in zip(words, ("<b>Oak</b> --> & elm", "", "Dry")):
        project, _ = with_note(project, "Chapter", title, [word])
    for form in ("chapters-vtt", "chapters-json", "chapters-txt", "page"):
        [planned] = plan(project, Kit("One", "{title}", (Item(form),)))
        assert write_one(planned, tmp_path).problem == "", form
    assert "&lt;b&gt;Oak&lt;/b&gt; --&gt; &amp; elm" in (tmp_path / "Two.vtt").read_text()


def test_nothing_is_written_of_a_project_whose_words_are_all_struck():
    project = two_people("Yes.")
    [turn] = project.transcript.turns
    words = tuple(replace(word, struck=True) for word in turn.words)
    struck = replace(project, transcript=replace(project.transcript, turns=(replace(turn, words=words),)))
    assert plan(struck, KITS["Everything"]) == []
    with pytest.raises(FormatError, match="“x\\.txt” cannot be written: Every word is struck"):
        written(struck, ".txt")


# -- one file by its suffix ----------------------------------------------------------------------------


def test_one_file_takes_the_options_of_its_form_and_refuses_others(podcast):
    text = written(podcast, ".txt", {"names": "never"})
    assert text.startswith("Welcome") and "Isolde:" not in text
    with pytest.raises(FormatError, match="cannot be “often”"):
        written(podcast, ".txt", {"names": "often"})


def test_a_suffix_that_nothing_is_written_by_and_a_translation_that_is_not_there(tmp_path, podcast):
    with pytest.raises(FormatError, match=r"Known suffixes: .*\.pdf.*\.tmx"):
        write_checked(podcast, tmp_path / "a.xyz")
    with pytest.raises(FormatError, match=r"“a\.tmx” cannot be written: There is no translation yet"):
        write_checked(two_people("Yes."), tmp_path / "a.tmx")
    for suffix in (".pdf", ".tmx", ".xlf"):
        write_checked(podcast, tmp_path / f"a{suffix}")
        assert (tmp_path / f"a{suffix}").stat().st_size > 500


def test_everything_of_the_demo_says_what_it_loses(podcast):
    said = {planned.form.id: loses(planned) for planned in plan(podcast, KITS["Everything"])}
    assert said["srt"] == "SubRip has no room for who speaks."
    assert said["webvtt"] == said["ttml"] == said["docx"] == said["pdf"] == ""
