"""The floors of the house: who may import whom."""

import ast
import importlib
import os
import subprocess
import sys
from functools import cache
from importlib.util import find_spec

from conftest import DEMO, ROOT

PACKAGE = ROOT / "dubrel"
ORDER = (
    *("base", "model", "captions", "project", "edits", "formats", "media", "store", "user", "film"),
    *("speech", "finding", "translation", "release", "jobs", "standins", "desk", "cli"),
)
"""The floors from the ground up: each imports only what lies below it."""
FLOORS = {
    "media": {"model", "base"},
    "film": {"media", "captions", "model", "base"},
    "user": {"base", "model", "captions", "store"},
    "model": {"base"},
    "project": {"model", "base", "captions"},
    "edits": {"project", "model", "base", "captions"},
    "captions": {"model", "base"},
    "formats": {"edits", "project", "captions", "model", "base"},
}
"""Those that may import less than all that lies below."""
MOST_MODULES = 16


@cache
def import_lines(path):
    """Each import of a file: the module and, where some of it are named, their names."""
    found = []
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found += [(name.name, ()) for name in node.names]
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.append((node.module, tuple(one.name for one in node.names)))
    return tuple(found)


def imports(path):
    return [module for module, _ in import_lines(path)]


def modules():
    return sorted(path for path in PACKAGE.rglob("*.py"))


def part(path):
    return path.relative_to(PACKAGE).parts[0].removesuffix(".py")


def test_only_the_desk_imports_qt():
    guilty = [p for p in modules() if part(p) != "desk" and any(m.startswith("PySide6") for m in imports(p))]
    assert guilty == []


def test_each_floor_imports_only_what_lies_below():
    for path in modules():
        floor = part(path)
        if floor not in ORDER or floor == "cli":
            continue
        below = FLOORS.get(floor, set(ORDER[: ORDER.index(floor)])) | {floor}
        for name in imports(path):
            target = name.split(".")[1] if name.startswith("dubrel.") else ""
            if target in ORDER:
                assert target in below, f"{path} imports {name}"


def test_no_folder_is_imported_by_one_that_it_imports():
    """Folders as a whole, each by itself; what stands beside the folders counts by itself."""
    names = {dotted(path): path for path in modules()}
    edges = {}
    for path in names.values():
        for found in imported(path, names):
            here, there = folder(path), folder(names[found])
            if here != there:
                edges.setdefault(here, set()).add(there)
    refuse_circles(edges)


def test_no_folder_has_more_modules_than_one_sees_at_a_glance():
    for one in {path.parent for path in modules()}:
        count = sum(path.name != "__init__.py" for path in one.glob("*.py"))
        assert count <= MOST_MODULES, f"{one} has {count} modules"


def test_nobody_imports_the_command_line_or_the_desk():
    for path in modules():
        for name in imports(path):
            if name.startswith("dubrel.cli"):
                assert part(path) in {"cli", "__main__"}, f"{path} imports {name}"
            if name.startswith("dubrel.desk"):
                assert part(path) in {"desk", "cli"}, f"{path} imports {name}"


def dotted(path):
    """The name under which a file is imported."""
    return ".".join(("dubrel", *path.relative_to(PACKAGE).with_suffix("").parts)).removesuffix(".__init__")


def folder(path):
    """The folder of a module; a module beside the folders is one by itself."""
    return dotted(path.parent / "__init__.py") if path.parent != PACKAGE else dotted(path)


def imported(path, names):
    """The modules of ours that a file imports, late and for the type checker too."""
    found = set(imports(path))
    for module, some in import_lines(path):
        if some and module in names:
            inner = {f"{module}.{one}" for one in some}
            found |= inner & names.keys()
            if inner <= names.keys():
                found.discard(module)
    return {one for one in found if one in names and names[one] != path}


def refuse_circles(edges):
    """Fail with the circle, where there is one."""
    done, path = set(), []

    def visit(name):
        if name in path:
            raise AssertionError(" -> ".join([*path[path.index(name) :], name]))
        if name not in done:
            path.append(name)
            for one in sorted(edges.get(name, ())):
                visit(one)
            path.pop()
            done.add(name)

    for name in sorted(edges):
        visit(name)


def test_no_import_comes_round_to_where_it_began():
    """Late imports and those for the type checker count too."""
    names = {dotted(path): path for path in modules()}
    refuse_circles({name: imported(path, names) for name, path in names.items()})


def test_the_shell_knows_no_pass_by_name():
    rooms = {"intake", "voices", "wording", "captions", "translation", "release"}
    for path in (PACKAGE / "desk" / "shell").rglob("*.py"):
        for name in imports(path):
            assert name.split(".")[:2] != ["dubrel", "desk"] or name.split(".")[2] not in rooms, path


def test_the_core_loads_without_qt():
    code = (
        "import dubrel.jobs.transcribing.transcribe, dubrel.formats.register, dubrel.store.projectfile, sys; "
    )
    code += "sys.exit('PySide6' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_the_window_opens_without_what_computes():
    code = (
        "import dubrel.desk.passes, sys; sys.exit(bool({'numpy', 'scipy', 'av',"
        " 'dubrel.jobs.machinery.runner'} & set(sys.modules)))"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


FIRST_FRAME = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
import dubrel.desk.application as application

start = QApplication.exec
late = ("numpy", "scipy", "av", "HanTa", "hunspell", "onnxruntime", "lxml", "docx", "weasyprint", "PIL",
        "dubrel.speech", "dubrel.release", "dubrel.translation", "dubrel.film", "dubrel.formats")

def drawn():
    [window] = [one for one in QApplication.topLevelWidgets() if one.isVisible()]
    window.grab()
    found = {one for one in late for name in sys.modules if name == one or name.startswith(one + ".")}
    print("loaded:", *sorted(found))

def painted(*args):
    drawn()  # at once: on a busy machine timers of what comes later may be due by now
    QTimer.singleShot(0, QApplication.quit)
    return start()

QApplication.exec = staticmethod(painted)
application.run([Path(sys.argv[1])])
"""


def test_the_first_frame_of_the_demo_waits_for_nothing_that_computes(tmp_path):
    """But for the machinery of jobs, where the recording has to be read first."""
    alone = {**os.environ, "XDG_RUNTIME_DIR": str(tmp_path)}  # no other window has the demo open
    command = [sys.executable, "-c", FIRST_FRAME, str(DEMO / "slow-water-7.dubrel")]
    ran = subprocess.run(command, capture_output=True, text=True, check=False, env=alone)
    assert ran.stdout.split() == ["loaded:"], ran.stderr


def test_files_and_functions_stay_small():
    for path in modules():
        source = path.read_text()
        assert source.count("\n") <= 510, path
        for node in ast.walk(ast.parse(source)):
            if isinstance(node, ast.FunctionDef):
                assert node.end_lineno - node.lineno <= 60, f"{path}: {node.name}"


def test_benchmarks_and_tools_import_what_there_is():
    """They are run by hand only: a name that was moved would not be missed."""
    missing = []
    for folder in ("benchmarks", "tools", "demo"):
        for path in sorted((ROOT / folder).glob("*.py")):
            for node in ast.walk(ast.parse(path.read_text())):
                if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("dubrel"):
                    module = importlib.import_module(node.module)
                    missing += [
                        f"{path.name}: {node.module}.{one.name}"
                        for one in node.names
                        if not hasattr(module, one.name)
                        and not (hasattr(module, "__path__") and find_spec(f"{node.module}.{one.name}"))
                    ]
    assert missing == []


def test_distances_on_the_desk_have_the_names_of_the_theme():
    calls = {
        "setSpacing",
        "addSpacing",
        "setContentsMargins",
        "setHorizontalSpacing",
        "setVerticalSpacing",
    }
    found = []
    for path in sorted((ROOT / "dubrel" / "desk").rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Call) and getattr(node.func, "attr", "") in calls:
                numbers = [one for arg in node.args for one in ast.walk(arg) if isinstance(one, ast.Constant)]
                found += [(path.name, node.lineno, one.value) for one in numbers if one.value not in (0, 1)]
    assert found == []
