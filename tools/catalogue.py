"""Bring the catalogues of the interface up to date: ``.venv/bin/python tools/catalogue.py``.

The texts are those that the code gives to ``tr``, ``counted``, ``Message`` and ``amount``. A new one is
added to each ``.po`` without a translation, one that is gone goes, and the ``.mo``
files, which the application reads, are made anew.
"""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

from translate.storage import pypo
from translate.tools.pocompile import POCompile

ROOT = Path(__file__).parent.parent
LOCALE = ROOT / "dubrel" / "assets" / "locale"
NOTE = "Written by somebody who is not a native speaker: it wants a native reader."
PLURALS = {"pt": "nplurals=2; plural=(n > 1);", "es": "nplurals=2; plural=(n != 1);"}
Texts = dict[tuple[str, str], list[str]]
"""Text and, for what is counted, its plural; the files that have it."""


@cache
def texts() -> Texts:
    """All texts of the interface that can be translated."""
    found: Texts = {}
    for path in sorted((ROOT / "dubrel").rglob("*.py")):
        code = path.read_text()
        if "dubrel.base.catalogue import" not in code:
            continue
        ours = (
            re.search(r"base\.catalogue import .*\b(counted|amount)\b", code) is not None
        )  # not that of files
        for text in (one for one in _in(ast.parse(code)) if ours or not one[1]):
            places = found.setdefault(text, [])
            where = str(path.relative_to(ROOT))
            if where not in places:
                places.append(where)
    for text in sorted(registered()):
        found.setdefault((text, ""), []).append("registers")
    return found


def registered() -> set[str]:
    """Labels of what is registered, which the desk gives to ``tr`` when it shows them."""
    from dubrel.base.languages import LANGUAGES
    from dubrel.captions.checks import RULES as CHECKS
    from dubrel.captions.looks import LOOKS
    from dubrel.captions.styles import RULES, STYLES
    from dubrel.edits.cuts.reading import reason_text
    from dubrel.edits.cuts.totals import KINDS as CUT_KINDS
    from dubrel.edits.notes import KINDS, phrase_of
    from dubrel.model.cutrules import PRESETS
    from dubrel.project.quality import BAND_NAMES
    from dubrel.release.forms import FORMS
    from dubrel.release.kits import KITS
    from dubrel.translation.checks import CHECKS as TRANSLATION_CHECKS

    tidied = ("filler", "repeat", "false start", "capitals and stops", "quotes and dashes", "figures")
    reasons = {one for some in CUT_KINDS.values() for one in some}
    places = set(RULES["place"].among)
    return {
        *(one.label for some in (CHECKS, RULES, TRANSLATION_CHECKS, FORMS) for one in some.values()),
        *LANGUAGES.values(),
        *STYLES,
        *PRESETS,
        *LOOKS,
        *KITS,
        *KINDS,
        *map(phrase_of, KINDS),
        *CUT_KINDS,
        *BAND_NAMES,
        *tidied,
        *reasons,
        *map(reason_text, reasons),
        *places,
    }


def _in(tree: ast.AST) -> Iterator[tuple[str, str]]:
    for node in ast.walk(tree):
        if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Name):
            continue
        said = [one.value if isinstance(one, ast.Constant) else None for one in node.args]
        if node.func.id in ("tr", "Message") and said and isinstance(said[0], str) and said[0]:
            yield said[0], ""
        elif node.func.id in ("counted", "amount") and len(said) > 1 and isinstance(said[1], str):
            many = said[2] if len(said) > 2 and isinstance(said[2], str) else said[1] + "s"
            yield "{n} " + said[1], "{n} " + many


def updated(language: str) -> pypo.pofile:
    """The catalogue of a language with the texts that there are now, translated as far as it was."""
    path = LOCALE / language / "LC_MESSAGES" / "dubrel.po"
    old = pypo.pofile.parsefile(str(path)) if path.exists() else pypo.pofile()
    known = {str(one.source): one for one in old.units if not one.isheader()}
    made = pypo.pofile()
    header = made.init_headers(
        charset="UTF-8", encoding="8bit", language=language, project_id_version="Dubrel",
        plural_forms=PLURALS[language], po_revision_date="", pot_creation_date="", x_generator="",
    )  # fmt: skip
    header.addnote(NOTE, origin="translator")
    for (text, many), places in sorted(texts().items(), key=lambda one: (one[1][0], one[0])):
        unit = pypo.pounit()
        unit.source = [text, many] if many else text
        unit.addlocations(places[0])
        if text in known:
            unit.target = known[text].target
        made.addunit(unit)
    return made


def compiled(language: str) -> bytes:
    """The catalogue as the application reads it."""
    return bytes(POCompile.convertstore(updated(language)))


def main() -> None:
    """Write the catalogues, and say what is not translated."""
    for language in PLURALS:
        folder = LOCALE / language / "LC_MESSAGES"
        folder.mkdir(parents=True, exist_ok=True)
        made = updated(language)
        (folder / "dubrel.po").write_bytes(bytes(made))
        (folder / "dubrel.mo").write_bytes(compiled(language))
        missing = [one.source for one in made.units if not one.isheader() and not one.target]
        print(
            f"{language}: {len(made.units) - 1} texts, {len(missing)} to translate",
            *missing[:400],
            sep="\n  ",
        )


if __name__ == "__main__":
    main()
