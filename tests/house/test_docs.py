"""The docs name what there is: files, modules, commands and forms."""

import doctest
import importlib
import re

import guide_tables
import pytest
from conftest import DEMO, ROOT
from PySide6.QtWidgets import QLabel
from test_floors import ORDER

PAGES = sorted([ROOT / "README.md", ROOT / "CONTRIBUTING.md", *(ROOT / "docs").rglob("*.md")])
MODULES = {one.name for one in (ROOT / "dubrel").iterdir() if one.is_dir()}


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_every_file_that_a_page_links_is_there(page):
    links = re.findall(r"\]\((?!http|#)([^)#]+)", page.read_text())
    assert [one for one in links if not (page.parent / one).exists()] == []


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_every_module_and_file_that_a_page_names_is_there(page):
    """Names in backticks: ``folder.module.name`` of ours, and files of ours by their path."""
    missing = []
    for name in re.findall(r"`([a-z]+(?:[./][A-Za-z_]+)+)(?:\(.*?\))?`", page.read_text()):
        parts = re.split(r"[./]", name.removesuffix(".py"))
        parts = parts[1:] if parts[0] == "dubrel" else parts
        if not parts or parts[0] not in MODULES or name.endswith((".md", ".json")):
            continue
        if "/" in name:
            there = any((ROOT / base / name).exists() for base in ("", "dubrel"))
        else:
            there = resolves(parts)
        missing += [] if there else [name]
    assert missing == []


def resolves(parts):
    for end in range(len(parts), 0, -1):
        try:
            found = importlib.import_module(".".join(["dubrel", *parts[:end]]))
        except ModuleNotFoundError:
            continue
        for one in parts[end:]:
            if not hasattr(found, one):
                return False
            found = getattr(found, one)
        return True
    return False


def test_the_table_of_keys_is_that_of_the_commands(window):
    assert guide_tables.KEYS.read_text() == guide_tables.keys_page(window.commands.groups)


def test_the_table_of_forms_is_that_of_the_forms():
    assert guide_tables.FORMS.read_text() == guide_tables.forms_page()


def test_the_table_of_options_is_that_of_the_commands():
    assert guide_tables.OPTIONS.read_text() == guide_tables.options_page()


def test_the_table_of_checks_is_that_of_the_checks():
    assert guide_tables.CHECKS.read_text() == guide_tables.checks_page()


def test_every_setting_stands_in_the_guide(window):
    window.side_pages.show_settings()
    text = (guide_tables.GUIDE / "everywhere.md").read_text()
    rows = [
        one.text()
        for one in window.side_pages.settings.findChildren(QLabel)
        if one.property("role") == "quiet"
    ]
    named = [one for one in rows if one and len(one) < 40]
    assert len(named) > 8
    assert [one for one in named if one not in text] == []


def test_the_tree_is_that_of_the_modules():
    assert guide_tables.TREE.read_text() == guide_tables.tree_page()


def test_every_folder_stands_in_the_table_of_floors():
    text = (ROOT / "docs" / "architecture.md").read_text()
    floors = re.findall(r"^\| `(\w+)` \|", text, re.MULTILINE)
    assert floors == list(ORDER)


def test_every_picture_is_linked_from_the_readme():
    text = (ROOT / "README.md").read_text()
    pictures = sorted(one.name for one in (ROOT / "docs" / "screenshots").glob("*.png"))
    assert [one for one in pictures if f"docs/screenshots/{one}" not in text] == []


def test_the_examples_in_python_run_as_they_stand(tmp_path):
    names = {"demo": DEMO, "folder": tmp_path}
    found = doctest.testfile(str(ROOT / "docs" / "guide" / "python.md"), module_relative=False, globs=names)
    assert (found.failed, found.attempted > 10) == (0, True)


EXAMPLES = [path for path in sorted((ROOT / "dubrel").rglob("*.py")) if ">>> " in path.read_text()]


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_examples_in_docstrings_hold(path):
    parts = path.relative_to(ROOT).with_suffix("").parts
    found = doctest.testmod(importlib.import_module(".".join(parts)))
    assert (found.failed, found.attempted > 0) == (0, True)
