"""Every form of deliverable with every option, on the demo, other scripts and hostile words."""

import json
import zipfile
from datetime import date
from xml.etree import ElementTree

import pytest
from conftest import DEMO, ROOT, spoken
from hypothesis import given, settings
from hypothesis import strategies as st

from dubrel.base.errors import DubrelError, FormatError
from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.desktopentry import install, remove
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.edits.notes import with_note
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.track import begin_track
from dubrel.formats.captions import captiontable, lrc, scc, ttml, webvtt
from dubrel.formats.register import read_file
from dubrel.formats.shared.document import CHOICES, TextOptions, document_of, options_from
from dubrel.formats.texts.docx import as_docx
from dubrel.formats.texts.shownotes import answers_read, queries_csv
from dubrel.formats.texts.textdocument import as_html, as_markdown, as_text, text_of_html
from dubrel.model import Look, Project, RecognisedTurn, Speaker
from dubrel.release.forms import FORMS
from dubrel.release.kits import (
    KITS,
    Item,
    Kit,
    all_kits,
    keep_kit,
    kit_from,
    kit_json,
    kit_named,
    kits_folder,
    loses,
    named,
    plan,
)
from dubrel.release.readiness import not_ready
from dubrel.release.writing import Outcome, digest_of, existing, pack, recorded, write_all, write_one
from dubrel.store.locks import claim
from dubrel.store.projectfile import read_project, save
from dubrel.translation.choosing import missing_tasks

HOSTILE = "Say </script><b>&amp; --> <v Bob> {\\an8} ]]> =1+1 | `x` *y* [z] # ~ \\ “quoted” </textarea>."


def sample(text, language="en", people=("Isolde", "Tobiah")):
    """A captioned project in a language, with notes of each kind."""
    words = spoken(text, pace=40)
    half = len(words) // 2
    turns = [RecognisedTurn(tuple(words[:half]), "s0"), RecognisedTurn(tuple(words[half:]), "s1")]
    speakers = [Speaker(f"s{k}", name) for k, name in enumerate(people)]
    project = set_again(set_turns(Project(title="Sample"), turns, speakers, language), None)
    ids = [word.id for turn in project.transcript.turns for word in turn.words]
    for kind, place in (("Chapter", 0), ("Show note", 1), ("Query", 2), ("Clip", 3)):
        project, _ = with_note(project, kind, f"{kind} here", ids[place : place + 2])
    return project


SAMPLES = {
    "hostile": sample(HOSTILE + " " + HOSTILE),
    "hebrew": sample(
        "ברוכים השבים למים איטיים. השבוע אנחנו במספנה, שם הסירה יצאה. מה מצאת כשהמים התנקזו?",
        "he",
        ("טוביה", "איזולדה"),
    ),
    "japanese": sample(
        "今日はとても良い天気です。 船に乗って運河をゆっくり進みます。 水は冷たいです。",
        "ja",
        ("健二", "美香"),
    ),
}


@pytest.fixture(scope="module")
def podcast():
    return read_project(DEMO / "slow-water-7.dubrel").project


def bilingual(project):
    """A project with a translation that says the same backwards."""
    project, track_id = begin_track(project, "pt")
    tasks = missing_tasks(project, project.track(track_id))
    return with_translations(
        project, track_id, [task.made(" ".join(reversed(task.text.split()))) for task in tasks]
    )


# -- every form ------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", SAMPLES)
def test_every_text_form_is_written_and_reads_back_as_it_was(name, tmp_path):
    project = bilingual(SAMPLES[name])
    for planned in plan(project, KITS["Everything"]):
        outcome = write_one(planned, tmp_path)
        if (name, planned.form.id) == ("japanese", "stl"):  # its “Portuguese” is written in Japanese
            assert outcome.problem.startswith("EBU STL has no letters for this language.")
            continue
        assert outcome.problem == "", (planned.form.id, outcome.problem)
        assert (tmp_path / planned.name).stat().st_size > 0


OPTION_CASES = [(name, value) for name, choices in CHOICES.items() for value, _ in choices]


@pytest.mark.parametrize("form", ["text", "markdown", "docx", "odt", "html", "pdf"])
def test_every_option_of_every_text_form_reads_back(form, tmp_path, podcast):
    """By itself; of PDF, which takes longer, each together with one of every other."""
    short = replace(podcast, transcript=replace(podcast.transcript, turns=podcast.transcript.turns[:5]))
    cases = [{name: value} for name, value in OPTION_CASES]
    if form == "pdf":
        most = max(map(len, CHOICES.values()))
        cases = [{name: row[nth % len(row)][0] for name, row in CHOICES.items()} for nth in range(most)]
    for options in cases:
        [planned] = plan(short, Kit("One", "{title}", (Item(form, options),)))
        assert write_one(planned, tmp_path).problem == "", (form, options)


def test_the_options_say_what_they_say(podcast):
    def text(**options):
        return as_text(document_of(podcast, options_from(options)))

    assert text(names="never").count("Isolde:") == 0 and text(names="initials").count("\n\nI: ") > 1
    assert "[00:01:00]" not in text() and text(times="30", clock="seconds").count(" s]") >= 5
    assert text(times="turn", clock="clock").count("00:00:03") == 1
    assert "[1] " in text(notes="footnotes") and "[Show note: " in text(notes="inline")
    assert text(headings="no").count("== ") == 0 and text().count("== ") == 1
    assert text(title="no").startswith("Isolde: Welcome")
    assert "1  Isolde: " in text(numbers="paragraphs")
    assert text(doubts="marked").count("?cocking") + text(doubts="marked").count("?") > text().count("?")


def test_an_option_that_there_is_not_is_refused():
    with pytest.raises(FormatError, match="no option “colour”"):
        options_from({"colour": "red"})
    with pytest.raises(FormatError, match="cannot be “often”"):
        options_from({"times": "often"})
    assert options_from({"times": "45"}).times == "45"


def test_two_footnotes_at_one_word_are_two_numbers(tmp_path):
    document = document_of(SAMPLES["japanese"], options_from({"notes": "footnotes"}))
    assert ">1</a></sup><sup>, </sup><sup><a href=#note2>2<" in as_html(document)
    path = tmp_path / "a.docx"
    path.write_bytes(as_docx(document))
    import docx

    marks = "//w:footnoteReference/@w:id | //w:t[../w:rPr/w:vertAlign]/text()"
    assert docx.Document(str(path)).element.body.xpath(marks)[:3] == ["1", ",", "2"]


def test_titles_that_are_read_from_the_right_are_set_so(tmp_path):
    import docx

    project = replace(SAMPLES["hebrew"], title="מים איטיים", subtitle="Slow water")
    notes = tuple(replace(one, text="פרק") if one.kind == "Chapter" else one for one in project.notes)
    document = document_of(replace(project, notes=notes), TextOptions())
    page = as_html(document)
    assert "<h1 dir=rtl>" in page and "<p class=sub>" in page and "<h2 dir=rtl>" in page
    path = tmp_path / "a.docx"
    path.write_bytes(as_docx(document))
    rows = docx.Document(str(path)).paragraphs
    told = {one.text: bool(one._p.xpath("./w:pPr/w:bidi")) for one in rows}
    assert told["מים איטיים"] and not told["Slow water"] and told["פרק"]
    assert all(one.alignment is None for one in rows)  # in a paragraph from the right, “right” means left


def test_hostile_words_stay_words_in_a_page():
    project = SAMPLES["hostile"]
    document = document_of(project, TextOptions())
    page = as_html(document)
    assert "<script" not in page and "</script><b>" not in page and HOSTILE.split()[1] in text_of_html(page)
    assert "\\<v" in as_markdown(document)
    [planned] = plan(project, Kit("Page", "{title}", (Item("page"),)))
    web = planned.form.written(planned.source).decode()
    assert (
        web.count("</script>") == 2 and "<v Bob>" not in web and "http" not in web.replace("http-equiv", "")
    )


# -- captions ----------------------------------------------------------------------------------------


def test_ttml_is_sound_xml_with_places_speakers_and_language(podcast, tmp_path):
    path = tmp_path / "a.ttml"
    path.write_text(ttml.write(podcast), encoding="utf-8")
    root = ElementTree.parse(path).getroot()
    assert root.attrib["{http://www.w3.org/XML/1998/namespace}lang"] == "en"
    assert len(root.findall(".//{http://www.w3.org/ns/ttml}p")) == len(podcast.captions.captions)
    project = read_file(path).project
    assert [one.start_ms for one in project.captions.captions] == [
        one.start_ms for one in podcast.captions.captions
    ]
    assert project.transcript.language == "en"
    assert [one.name for one in project.transcript.speakers] == ["Isolde", "Tobiah", "Alasdair"]


def test_ttml_brings_places_styles_speakers_and_words_that_look_like_tags_back(tmp_path):
    project = sample(HOSTILE + " She said so. Then it rained all day.")
    first, *middle, last = project.captions.captions
    places = ("line:0 position:10% align:left", "line:50%,center")
    captions = (
        replace(first, place=places[0], styled=((first.words[0], "i"),)),
        *middle,
        replace(last, place=places[1]),
    )
    project = replace(project, tracks=(replace(project.captions, captions=captions),))
    path = tmp_path / "a.ttml"
    path.write_text(ttml.write(project), encoding="utf-8")
    again = read_file(path).project
    assert [one.place for one in again.captions.captions] == [one.place for one in captions]
    found = again.captions.captions[0]
    assert [style for _, style in found.styled] == ["i"]
    assert by_speaker(again) == by_speaker(project)


def by_speaker(project):
    """What each person says."""
    return {
        one.name: " ".join(turn.text for turn in project.transcript.turns if turn.speaker == one.id)
        for one in project.transcript.speakers
    }


def test_the_look_of_captions_goes_through_the_forms_that_can_hold_it(tmp_path, podcast):
    look = Look(
        colour="#FFEE00", ground="#102030", opacity=0.5, weight=700, slanted=True, font="Gentium Plus"
    )
    speaker = podcast.transcript.speakers[1].id
    own = Look(colour="#00FFFF")
    track = replace(podcast.captions, look=look, looks=((speaker, own),))
    project = replace(podcast, tracks=(track, *podcast.tracks[1:]))
    for suffix, form in ((".vtt", webvtt), (".ttml", ttml)):
        path = tmp_path / f"a{suffix}"
        path.write_text(form.write(project), encoding="utf-8")
        again = read_file(path).project
        found = again.captions.look
        assert (found.colour, found.ground, found.opacity) == ("#FFEE00", "#102030", 0.5)
        if suffix == ".vtt":
            assert found == look
            [(who, other)] = again.captions.looks
            names = {one.id: one.name for one in again.transcript.speakers}
            assert names[who] == "Tobiah" and other == own
    reading = read_file(path.with_suffix(".vtt"))
    assert reading.warnings == ()


def test_damaged_caption_files_of_other_forms_are_one_sentence(tmp_path):
    for suffix in (".ttml", ".stl", ".scc", ".dfxp", ".csv"):
        path = tmp_path / f"bad{suffix}"
        path.write_bytes(b"\x00\x01 nothing of the kind <tt>")
        with pytest.raises(DubrelError) as error:
            read_file(path)
        assert str(error.value).count("\n") == 0 and "bad" in str(error.value)


def test_scc_is_read(tmp_path):
    path = tmp_path / "a.scc"
    path.write_text(
        "Scenarist_SCC V1.0\n\n00:00:01:00\t9420 9420 94ae 94ae 9470 9470 c8e5 ecec ef80 942f"
        " 942f\n\n00:00:03:00\t942c 942c\n"
    )
    [cue] = scc.read_cues(path)[0]
    assert cue.lines == ("Hello",) and 900 < cue.start_ms < 1700


def test_sung_words_keep_their_times_and_stanzas(tmp_path):
    path = tmp_path / "a.lrc"
    path.write_text(
        "[ti:Song]\n[offset:+500]\n[00:10.00]First"
        " line\n[00:12.50]Second\n[00:14.00]\n[00:20.00][00:30.00]Chorus\n"
    )
    cues, _ = lrc.read_cues(path)
    assert [(one.start_ms, one.lines[0]) for one in cues] == [
        (9500, "First line"),
        (12000, "Second"),
        (19500, "Chorus"),
        (29500, "Chorus"),
    ]
    assert cues[1].end_ms == 13500


def test_a_table_keeps_times_speakers_and_no_formula(tmp_path, podcast):
    path = tmp_path / "a.csv"
    path.write_text(captiontable.write_csv(podcast))
    cues, said = captiontable.read_cues(path)
    assert said == [] and cues[0].speaker == "Isolde"
    assert len(cues) == len(podcast.captions.captions)
    assert "\n=1+1" not in captiontable.write_csv(SAMPLES["hostile"]).replace(",", "\n")


def test_what_a_form_cannot_hold_is_said_before_writing(podcast):
    first, second, *rest = podcast.captions.captions
    captions = (replace(first, place="line:10%"), replace(second, place="line:0"), *rest)
    project = replace(podcast, tracks=(replace(podcast.captions, captions=captions), *podcast.tracks[1:]))
    kit = Kit("Some", "{title}", (Item("srt"), Item("webvtt"), Item("lrc")))
    assert [loses(one) for one in plan(project, kit)] == [
        "SubRip has no room for the exact place of 1 caption and who speaks.",
        "",
        "LRC, for sung words has no room for the place of 2 captions and who speaks.",
    ]
    [hostile] = plan(SAMPLES["hostile"], Kit("Some", "{title}", (Item("srt"),)))
    assert "words that look like tags in" in loses(hostile)


# -- kits, names, writing ------------------------------------------------------------------------------


@given(st.text(max_size=400), st.text(max_size=60))
@settings(max_examples=60, deadline=None)
def test_any_title_and_pattern_give_a_name_that_a_file_can_have(title, pattern):
    name = named(pattern, Project(title), FORMS["srt"], None, 1, date(2026, 1, 2))
    assert (
        name
        and len(name.encode()) <= 140
        and not set(name) & set('/\\:*?"<>|\0')
        and name.strip(" .") == name
    )


def test_titles_that_no_file_can_have_and_two_of_one_name(tmp_path, podcast):
    for title, name in (("A/B: C", "A-B- C"), ("...", "Untitled"), ("x" * 300, "x" * 140), ("", "Untitled")):
        assert (
            named("{title}", replace(podcast, title=title), FORMS["srt"], None, 1, date(2026, 1, 2)) == name
        )
    kit = Kit("Same", "{title}", (Item("html"), Item("notes-html"), Item("page")))
    assert [one.name for one in plan(podcast, kit)] == [
        "Slow Water 7.html",
        "Slow Water 7 2.html",
        "Slow Water 7 3.html",
    ]


def test_a_kit_goes_through_its_file_and_a_wrong_one_is_refused(tmp_path):
    kit = Kit("Mine", "{date} {title}", (Item("docx", {"times": "30", "track": "all"}), Item("srt")))
    path = tmp_path / "mine.json"
    path.write_text(kit_json(kit))
    found = kit_named(str(path))
    assert (found.name, found.pattern, [(i.form, dict(i.options)) for i in found.items]) == (
        kit.name,
        kit.pattern,
        [(i.form, dict(i.options)) for i in kit.items],
    )
    keep_kit(kit)
    assert kit_named("Mine").name == "Mine"
    for value in (
        [],
        {"dubrel_kit": 2},
        {"dubrel_kit": 1, "name": "x", "deliverables": [{"form": "magic"}]},
        {"dubrel_kit": 1, "deliverables": 3},
        *(
            {"dubrel_kit": 1, "name": "x", "deliverables": [{"form": "film", "options": {name: "odd"}}]}
            for name in ("masks", "quality", "crop", "media", "times")
        ),
    ):
        with pytest.raises(FormatError):
            kit_from(value)
    with pytest.raises(FormatError, match="no kit “Nothing”"):
        kit_named("Nothing")


def test_one_file_that_cannot_be_written_does_not_keep_the_others_back(tmp_path, podcast):
    files = plan(podcast, KITS["Captions for the web"])
    (tmp_path / files[0].name).mkdir()
    outcomes = list(write_all(files, tmp_path))
    assert outcomes[0].problem and all(one.path for one in outcomes[1:])
    assert existing(files, tmp_path) == [one.name for one in files]


def test_an_archive_holds_every_file_with_its_checksum(tmp_path, podcast):
    outcomes = list(write_all(plan(podcast, KITS["Captions for the web"]), tmp_path / "out"))
    archive = pack(outcomes, tmp_path / "out", tmp_path / "out.zip")
    with zipfile.ZipFile(archive) as found:
        names = set(found.namelist())
        sums = json.loads(found.read("files.json"))
    assert names == {*(one.name for one in outcomes), "SHA256SUMS", "files.json"} and len(sums) == len(
        outcomes
    )
    assert not (tmp_path / "out").exists()


def test_the_record_stays_with_the_project_and_tells_a_change(tmp_path, podcast):
    made = recorded(podcast, "Kit", [Outcome("a.srt", "/x/a.srt")])
    path = tmp_path / "a.dubrel"
    save(made, path)
    [one] = read_project(path).project.releases
    assert one.files == ("a.srt",) and one.digest == digest_of(podcast) == digest_of(made)
    assert digest_of(replace(podcast, title="Other")) != one.digest
    assert recorded(podcast, "Kit", [Outcome("a.srt", "", "full")]) is podcast


def test_what_is_not_ready_is_a_list_to_go_to(podcast):
    found = {one.room: one.text for one in not_ready(podcast)}
    assert set(found) == {"wording", "captions", "translation"} and found["captions"] == "1 caption to fix"
    assert not_ready(Project())[-1].room == "captions"


def test_answers_to_queries_are_read_back_in(tmp_path, podcast):
    path = tmp_path / "queries.csv"
    text = queries_csv(podcast)
    path.write_text(text.rstrip("\r\n") + "It is 1881\r\n" if text.rstrip("\r\n").endswith(",") else text)
    project, count = answers_read(podcast, path)
    assert count == 1 and [one.answer for one in project.notes if one.kind == "Query"] == ["It is 1881"]
    assert answers_read(project, path) == (project, 0)
    path.write_text("nothing,of,the,kind")
    with pytest.raises(FormatError, match="not a list of queries"):
        answers_read(podcast, path)


# -- the command line, the desktop -------------------------------------------------------------------------


def test_many_projects_are_released_by_a_kit_from_the_command_line(tmp_path, capsys):
    for name in ("slow-water-7", "heron-film"):
        save(read_project(DEMO / f"{name}.dubrel").project, tmp_path / f"{name}.dubrel")
    projects = [str(tmp_path / f"{name}.dubrel") for name in ("slow-water-7", "heron-film")]
    kit = tmp_path / "kit.json"
    kit.write_text(
        kit_json(Kit("Small", "{title} {language}", (Item("srt", {"track": "all"}), Item("text"))))
    )
    assert (
        main(["release", *projects, "-o", str(tmp_path / "out"), "--kit", str(kit), "--json", "--quiet"]) == 0
    )
    found = json.loads(capsys.readouterr().out)
    assert [len(one["files"]) for one in found] == [3, 2] and found[0]["not_ready"]
    assert read_project(tmp_path / "slow-water-7.dubrel").project.releases[-1].kit == "Small"
    assert main(["release", projects[0], "-o", str(tmp_path / "o2"), "--kit", "No such kit"]) == 2


def test_projects_whose_names_differ_behind_a_dot_have_an_archive_each(tmp_path, capsys, podcast):
    projects = [tmp_path / f"slow.{part}.dubrel" for part in ("one", "two")]
    for path in projects:
        save(podcast, path)
    kit = tmp_path / "kit.json"
    kit.write_text(kit_json(Kit("Small", "{title}", (Item("text"),))))
    rest = ["-o", str(tmp_path / "out"), "--kit", str(kit), "--zip", "--quiet"]
    assert main(["release", *map(str, projects), *rest]) == 0
    assert sorted(one.name for one in (tmp_path / "out").iterdir()) == ["slow.one.zip", "slow.two.zip"]


def test_a_project_that_is_open_in_a_window_is_released_without_touching_it(tmp_path, capsys, podcast):
    path = tmp_path / "a.dubrel"
    save(podcast, path)
    before = path.read_bytes()
    owned = claim(path)
    assert main(["release", str(path), "-o", str(tmp_path / "out"), "--quiet", "--json"]) == 2
    [found] = json.loads(capsys.readouterr().out)
    assert len(found["files"]) == 4 and "is open in a window" in found["problems"][0]
    assert main(["convert", str(DEMO / "slow-water-7.dubrel"), str(path)]) == 2
    assert "a.dubrel” is open in a window. Close it there" in capsys.readouterr().err
    assert path.read_bytes() == before
    owned.give_up()
    assert main(["release", str(path), "-o", str(tmp_path / "out"), "--quiet"]) == 0
    assert len(read_project(path).project.releases) == 1


def test_the_package_needs_what_the_lock_has_and_nothing_of_the_tests():
    import make_deb
    import wheels

    rows = [one.split("==")[0] for one in (ROOT / "requirements.lock").read_text().split() if "==" in one]
    locked = {wheels.canonicalize_name(one) for one in rows}
    needed = wheels.needed()
    assert needed <= locked and "pyside6-essentials" in needed and "libglib2.0-0" in make_deb.depends()
    assert not needed & {"pytest", "hypothesis", "mypy", "ruff"}


def test_the_package_has_whatever_the_application_imports():
    import ast
    import sys
    from importlib import metadata

    import wheels

    optional = {
        "dask",
        "distributed",
        "piper",
    }  # several machines; voices of a folder: asked for where they are used
    given, needed, missing = metadata.packages_distributions(), wheels.needed(), set()
    for path in (ROOT / "dubrel").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            names = [one.name for one in node.names] if isinstance(node, ast.Import) else []
            if isinstance(node, ast.ImportFrom) and node.module and not node.level:
                names = [node.module]
            for top in {name.partition(".")[0] for name in names}:
                if top in sys.stdlib_module_names or top in optional or top == "dubrel":
                    continue
                if not {wheels.canonicalize_name(one) for one in given.get(top, [])} & needed:
                    missing.add(top)
    assert missing == set()


def test_the_application_is_put_on_the_desktop_and_taken_away(tmp_path):
    made = install(tmp_path)
    assert all(path.is_file() for path in made)
    entry = next(path for path in made if path.suffix == ".desktop").read_text()
    assert "Exec=" in entry and "application/x-dubrel" in entry
    for path in made:
        if path.suffix in (".xml", ".svg"):
            ElementTree.parse(path)
    assert sorted(remove(tmp_path)) == sorted(made) and remove(tmp_path) == []


def test_of_two_kits_with_one_name_that_which_ships_is_meant():
    own = Kit("Everything", "{title}", (Item("text"),))
    clash = kits_folder() / "mine.json"
    clash.parent.mkdir(parents=True)
    clash.write_text(kit_json(own))
    keep_kit(Kit("Mine", "{title}", (Item("text"),)))
    (kits_folder() / "zz.json").write_text(kit_json(Kit("Mine", "{title}", (Item("srt"),))))
    assert all_kits()["Everything"] == KITS["Everything"]
    assert [one.form for one in kit_named("Mine").items] == ["text"]
    assert kit_named(str(clash)) == own
