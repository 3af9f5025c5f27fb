"""The catalogues of the interface: whole, up to date, and with what is filled in where the English has it."""

import copy
import gettext
import json
import os
import pickle
import re
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent.parent
sys.path.insert(0, str(ROOT / "tools"))

import catalogue as tool  # noqa: E402

from dubrel.base import catalogue  # noqa: E402
from dubrel.base.languages import known_language  # noqa: E402
from dubrel.cli import main  # noqa: E402
from dubrel.edits.captions.trackchecks import check_track  # noqa: E402
from dubrel.formats.register import read_file  # noqa: E402

LANGUAGES = sorted(tool.PLURALS)
_FILLED = re.compile(r"\{[^}]*\}")


@pytest.fixture(autouse=True)
def english():
    yield
    catalogue.speak("en")


@pytest.mark.parametrize("language", LANGUAGES)
def test_a_catalogue_has_every_text_of_the_code_and_nothing_else(language):
    path = tool.LOCALE / language / "LC_MESSAGES" / "dubrel.po"
    units = [one for one in tool.pypo.pofile.parsefile(str(path)).units if not one.isheader()]
    assert {str(one.source) for one in units} == {text for text, _ in tool.texts()}
    assert [str(one.source) for one in units if not one.target] == []
    assert path.read_text().startswith(f"# {tool.NOTE}")


@pytest.mark.parametrize("language", LANGUAGES)
def test_what_the_application_reads_is_what_translators_write(language):
    assert (tool.LOCALE / language / "LC_MESSAGES" / "dubrel.mo").read_bytes() == tool.compiled(language)


@pytest.mark.parametrize("language", LANGUAGES)
def test_what_is_filled_in_is_the_same_and_edges_are_spaced_alike(language):
    read = gettext.translation("dubrel", tool.LOCALE, [language])
    wrong = []
    for text, many in tool.texts():
        said = [read.ngettext(text, many, 1), read.ngettext(text, many, 5)] if many else [read.gettext(text)]
        for one in said:
            edges = (text[:1] == " ", text[-1:] == " ") == (one[:1] == " ", one[-1:] == " ")
            if sorted(_FILLED.findall(text)) != sorted(_FILLED.findall(one)) or not edges:
                wrong.append((text, one))
    assert wrong == []


def test_a_number_has_the_noun_that_its_language_has_for_it():
    catalogue.speak("pt")
    assert [catalogue.counted(number, "caption") for number in (0, 1, 2)] == [
        "0 legenda",
        "1 legenda",
        "2 legendas",
    ]
    catalogue.speak("es")
    assert [catalogue.counted(number, "caption") for number in (0, 1, 2)] == [
        "0 subtítulos",
        "1 subtítulo",
        "2 subtítulos",
    ]


@pytest.mark.parametrize(
    ("around", "wanted"),
    [
        ({"LANG": "pt_BR.UTF-8"}, "pt"),
        ({"LANG": "de_DE.UTF-8", "LANGUAGE": "de:es:en"}, "es"),
        ({"LANG": "de_DE.UTF-8"}, "en"),
        ({"LANG": "es_MX.UTF-8", "LC_ALL": "C"}, "en"),
        ({"LC_MESSAGES": "es_ES", "LANG": "pt_PT"}, "es"),
        ({}, "en"),
    ],
)
def test_the_language_of_the_desktop_is_found_as_gettext_finds_it(monkeypatch, around, wanted):
    for name in ("LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG"):
        monkeypatch.delenv(name, raising=False)
    for name, value in around.items():
        monkeypatch.setenv(name, value)
    assert catalogue.desktop_language() == wanted


def test_a_language_that_nobody_has_is_english():
    catalogue.speak("xx")
    assert catalogue.tr("Find a command") == "Find a command" and catalogue.tr("") == ""


def seen_by(tmp_path, language, size):
    """What is cut or sticks out in a window of a size."""
    places = {f"XDG_{one}_HOME": str(tmp_path / one) for one in ("CONFIG", "DATA", "STATE", "CACHE")}
    script = [sys.executable, str(ROOT / "tests" / "longerwords.py"), language, *map(str, size)]
    done = subprocess.run(
        script, env={**os.environ, **places}, capture_output=True, text=True, timeout=240, check=True
    )
    line = next(one for one in done.stdout.splitlines() if one.startswith("FOUND "))
    return json.loads(line.removeprefix("FOUND "))


@pytest.mark.parametrize("language", ["longer", *LANGUAGES])
def test_no_word_is_cut_or_stays_english_in_another_language_nor_in_one_that_is_40_percent_longer(
    tmp_path, language
):
    assert seen_by(tmp_path, language, (1280, 800)) == []


def test_nor_where_there_is_little_room(tmp_path):
    assert seen_by(tmp_path, "longer", (1024, 600)) == []


def test_the_command_line_stays_english(tmp_path):
    around = {**os.environ, "LANG": "pt_BR.UTF-8", "LANGUAGE": "pt", "XDG_CONFIG_HOME": str(tmp_path)}
    around.pop("DUBREL_LANGUAGE", None)
    done = subprocess.run(
        [sys.executable, "-m", "dubrel", "check", str(tmp_path / "none.srt")],
        env=around, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode != 0 and "none.srt" in done.stderr
    assert "arquivo" not in done.stderr.lower()


def test_a_finding_is_english_in_a_report_and_said_in_the_language_of_the_interface(tmp_path, capsys):
    path = tmp_path / "wide.srt"
    path.write_text("1\n00:00:00,000 --> 00:00:09,000\n" + "wide " * 12 + "\n")
    project = read_file(path).project
    catalogue.speak("es")
    [found] = check_track(project, project.captions).values()
    wide = next(one for one in found if one.rule == "line length")
    assert wide.message == "line 1 has 59 characters, 42 at most"
    assert catalogue.told(wide.message) == "la línea 1 tiene 59 caracteres, como máximo 42"
    assert main(["check", str(path), "--json"]) == 1
    assert wide.message in capsys.readouterr().out


def test_a_message_goes_through_processes_and_files_as_it_is():
    said = catalogue.Message(
        "{captions} not in {language} yet",
        captions=catalogue.amount(1, "caption"),
        language=catalogue.Message("Spanish"),
    )
    assert said == "1 caption not in Spanish yet"
    ways = (pickle.loads(pickle.dumps(said)), copy.deepcopy(said))
    kept = catalogue.Message.of_parts(json.loads(json.dumps(said.parts())))
    catalogue.speak("es")
    wanted = "1 subtítulo aún no en español"
    assert [catalogue.told(one) for one in (said, *ways, kept)] == [wanted] * 4
    assert catalogue.Message.of_parts("as it is") == "as it is"
    with pytest.raises(ValueError, match="no message"):
        catalogue.Message.of_parts([1, 2])


def test_a_language_is_typed_by_its_code_or_by_its_name_in_english_or_in_the_interface():
    catalogue.speak("es")
    assert [known_language(one) for one in ("Alemán", "German", "de", "pt-BR", "alemão")] == [
        *("de", "de", "de", "pt-BR", "")
    ]
