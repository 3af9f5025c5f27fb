"""The words of the interface: docs/words.md, held by what a user can come to read."""

import ast
import re

import pytest
from conftest import ROOT, made_once

from dubrel.base.text import counted

PACKAGE = ROOT / "dubrel"
NOT_OURS = {
    "hear": r"\b(hear|hears|heard|hearing)\b",
    "mend": r"\b(mend|mends|mended|mending|repair|repaired)\b",
    "line up": r"\b(line[sd]? up|lining up)\b",
    "a stretch": r"\b(a|the|this|each|every|these) stretch(es)?\b",
    "nobody's": r"nobody's|nobody’s",
    "take in": r"\btake[ns]? in\b",
    "leave it": r"\bleave it\b|^Stay$",
    "find the speakers": r"\bfind(ing)? (the speakers|who speaks)\b",
    "give a turn": r"\bgive (the|a) turn\b",
    "gladly": r"\bgladly\b",
    "put right": r"\bput(s|ting)? (it )?right\b",
    "left behind": r"\bleft behind\b",
    "all the same": r"\ball the same[.\"]",
    "read only": r"\bread only\b",
    "my own hands": r"\bown hands\b",
    "give it up": r"\b(give it|given) up\b",
    "reading the sound": r"\breading the sound\b",
    "is no": r"(?<!there )\b(is|was) no (readable|language|file|project|recording|kit|text)\b",
    "anew": r"\b(encoded|begun|began) anew\b",
    "take it away": r"\bor take (it|the ticks) away\b",
    "in its midst": r"\bin its midst\b",
}
OF_SOUND = ("hear",)  # what sounds is heard, in docstrings


def each_text():
    """Every text with a space in it, docstrings too, with where it stands and whether it is one."""
    for path in sorted(PACKAGE.rglob("*.py")):
        tree = ast.parse(path.read_text())
        docs = {
            node.body[0].value
            for node in ast.walk(tree)
            if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
            and node.body
            and isinstance(node.body[0], ast.Expr)
        }
        for node in ast.walk(tree):
            text = node.value if isinstance(node, ast.Constant) else None
            if isinstance(text, str) and " " in text.strip():
                yield path.relative_to(PACKAGE), node.lineno, text, node in docs


@pytest.fixture(scope="module")
def texts(tmp_path_factory):
    return made_once(tmp_path_factory, "texts", lambda: list(each_text()))


@pytest.mark.parametrize("word", NOT_OURS)
def test_a_word_that_is_not_ours_is_in_no_text(texts, word):
    found = [
        one for one in texts if re.search(NOT_OURS[word], one[2], re.I) and not (one[3] and word in OF_SOUND)
    ]
    assert found == []


def test_the_readme_and_the_table_of_changes_keep_to_the_words_too():
    for name in ("README.md", "CHANGELOG.md"):
        text = (ROOT / name).read_text()
        for word in ("hear", "mend", "line up", "nobody's", "leave it", "give a turn"):
            assert re.findall(NOT_OURS[word], text) == [], (name, word)


def test_numbers_agree_with_their_nouns():
    assert [counted(count, "passage") for count in (0, 1, 2, 1200)] == [
        "0 passages",
        "1 passage",
        "2 passages",
        "1,200 passages",
    ]
    assert counted(2, "person", "people") == "2 people"


def test_no_message_ends_without_saying_what_to_do(tmp_path):
    """Errors that the core raises have a second sentence, or say after a semicolon what holds."""
    lonely = []
    for path in sorted(PACKAGE.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Raise) and isinstance(node.exc, ast.Call) and node.exc.args:
                name = getattr(node.exc.func, "id", "")
                if name not in ("DubrelError", "MediaError", "EngineError", "ProjectError"):
                    continue
                text = ast.unparse(node.exc.args[0])
                if text.startswith("f'{"):  # begins with the sentence of another error
                    continue
                if text.startswith(("'", '"', "f'", 'f"')) and not re.search(
                    r"[.;:] ?[A-Za-z{]|reason", text
                ):
                    lonely.append((path.name, node.lineno, text))
    assert lonely == []
