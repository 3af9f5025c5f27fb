"""Write the tables of all commands, forms and modules: ``.venv/bin/python tools/guide_tables.py``."""

from __future__ import annotations

import argparse
import ast
import os
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
GUIDE = ROOT / "docs" / "guide"
KEYS, FORMS, TREE = GUIDE / "keys.md", GUIDE / "forms.md", ROOT / "docs" / "tree.md"
OPTIONS, CHECKS = GUIDE / "options.md", GUIDE / "checks.md"
_KEYS_HEAD = """# All keys

Made from the commands by `tools/guide_tables.py`.

Ctrl+K finds any of them by name; F2 there changes its keys.
"""
_FORMS_HEAD = """# All forms of file

Made from the forms by `tools/guide_tables.py`.

What a form cannot hold of your project is said before it is written.
"""
_TREE_HEAD = """# Every module

Made from the first sentences of the modules by `tools/guide_tables.py`.
"""


def keys_page(groups) -> str:
    """The page: a table for each group of the menu, commands with keys first."""
    parts = [_KEYS_HEAD]
    for group in groups:
        rows = sorted(group.commands, key=lambda one: not one.keys)
        lines = [f"| {one.text} | {one.keys.replace('|', chr(92) + '|')} |" for one in rows]
        parts.append("\n".join([f"## {group.name}", "", "| command | keys |", "|---|---|", *lines, ""]))
    return "\n".join(parts)


def forms_page() -> str:
    """The page: a table for each group of deliverables, with the forms that are only read."""
    from dubrel.formats.register import FORMS as FILES
    from dubrel.formats.shared.form import GROUPS
    from dubrel.release.forms import FORMS as WRITTEN

    forms = {**FILES, **WRITTEN}
    parts = [_FORMS_HEAD]
    for group in GROUPS:
        lines = [
            f"| {one.label} | {', '.join(one.suffixes) or 'that of the recording'} "
            f"| {'yes' if one.read else ''} | {'yes' if one.id in WRITTEN else ''} "
            f"| {'every language' if one.each_track and one.id in WRITTEN else ''} "
            f"| {f'`{one.id}`' if one.id in WRITTEN else ''} |"
            for one in forms.values()
            if one.group == group
        ]
        head = ["| form | suffix | read | written | one for | in a kit |", "|---|---|---|---|---|---|"]
        parts.append("\n".join([f"## {group}", "", *head, *lines, ""]))
    return "\n".join(parts)


def tree_page() -> str:
    """The page: each folder with its modules and their first sentences."""
    parts = [_TREE_HEAD]
    for init in sorted((ROOT / "dubrel").rglob("__init__.py")):
        folder = init.parent
        rows = [
            f"| `{one.stem}` | {first_sentence(one)} |"
            for one in sorted(folder.glob("*.py"))
            if one.stem not in ("__init__", "__main__")
        ]
        name = folder.relative_to(ROOT)
        table = ["", "| module | |", "|---|---|", *rows] if rows else []
        parts.append("\n".join([f"## `{name}`", "", first_sentence(init), *table, ""]))
    return "\n".join(parts)


_OPTIONS_HEAD = """# All options of the command line

Made from the commands by `tools/guide_tables.py`.

`dubrel COMMAND --help` shows them too.
"""
_CHECKS_HEAD = """# All checks

Made from the checks by `tools/guide_tables.py`.

What must hold is counted under “to fix”; the rest is advice.
"""


def options_page() -> str:
    """The page: each command with what it takes."""
    from dubrel.cli import parser

    [commands] = [one for one in parser()._actions if isinstance(one, argparse._SubParsersAction)]
    helps = {one.dest: one.help for one in commands._choices_actions}
    parts = [_OPTIONS_HEAD]
    for name, command in commands.choices.items():
        rows = [
            f"| {_called(one)} | {(one.help or '').replace('|', ' or ')} |"
            for one in command._actions
            if "--help" not in one.option_strings
        ]
        head = [f"## `dubrel {name}`", "", f"{helps[name]}.".capitalize(), ""]
        parts.append("\n".join([*head, *(["| | |", "|---|---|", *rows, ""] if rows else [])]))
    return "\n".join(parts)


def _called(action: argparse.Action) -> str:
    """How an option is written, with what stands behind it."""
    value = action.metavar or (action.dest.upper() if action.nargs != 0 else "")
    if not action.option_strings:
        return f"`{str(action.metavar or action.dest).lower()}`"
    text = " or ".join(action.option_strings)
    return f"`{text} {value}`".replace("|", "\\|") if action.nargs != 0 else f"`{text}`"


def checks_page() -> str:
    """The page: checks of captions, and those of translations."""
    from dubrel.captions.checks import RULES
    from dubrel.translation.checks import CHECKS as DOUBTS
    from dubrel.translation.checks import MUST

    rules = [
        f"| {one.label} | {'must hold' if one.must else 'advice'} | {one.fixed_by or 'by hand'} |"
        for one in RULES.values()
    ]
    doubts = [
        f"| {one.label} | {'must be looked at' if one.weight >= MUST else 'advice'} | {one.weight} |"
        for one in DOUBTS.values()
    ]
    return "\n".join(
        [
            *(_CHECKS_HEAD, "## Captions", "", "| check | | fixed by setting |", "|---|---|---|", *rules, ""),
            *("## Translations", "", "| check | | how pressing, 0 to 100 |", "|---|---|---|", *doubts, ""),
        ]
    )


def first_sentence(path: Path) -> str:
    """The first paragraph of a module's docstring, in one line."""
    said = ast.get_docstring(ast.parse(path.read_text())) or ""
    return " ".join(said.split("\n\n")[0].split()).replace("|", "\\|")


def main() -> None:
    """Make a window, and write what its commands are."""
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.passes import make_rooms
    from dubrel.desk.shell.frame.window import MainWindow
    from dubrel.desk.shell.kit.theme import DAY, load_fonts

    FORMS.write_text(forms_page())
    TREE.write_text(tree_page())
    OPTIONS.write_text(options_page())
    CHECKS.write_text(checks_page())
    app = QApplication([])
    load_fonts()
    window = MainWindow(DAY, make_rooms)
    KEYS.write_text(keys_page(window.commands.groups))
    sys.stdout.flush()
    del app
    os._exit(0)


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    for name in ("DATA", "CONFIG", "STATE"):  # no keys of one's own
        os.environ[f"XDG_{name}_HOME"] = tempfile.mkdtemp()
    main()
