"""An error inside a handler that Qt calls: the window stays, one sentence is shown."""

import ast
import importlib
import os
import subprocess
import sys

from conftest import DEMO, ROOT

DESK = ROOT / "dubrel" / "desk"
ATTACK = """
import sys
from itertools import cycle
from pathlib import Path
from PySide6.QtCore import QChildEvent, QEvent, QMimeData, QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import (QCloseEvent, QContextMenuEvent, QDragEnterEvent, QDropEvent, QFocusEvent,
                           QInputMethodEvent, QInputMethodQueryEvent, QKeyEvent, QMouseEvent, QResizeEvent,
                           QShowEvent, QWheelEvent)
from PySide6.QtWidgets import QApplication, QWidget
from dubrel.desk.shell.kit import guard

ERRORS = cycle((TypeError, IndexError, ValueError))
handlers, broken, hit, said, whole = set(), set(), set(), [], guard.watched

def breakable(name, method, instead=None):
    handlers.add(method.__qualname__)
    def handler(self, *args, **kwargs):
        if method.__qualname__ in broken:
            hit.add(method.__qualname__)
            raise next(ERRORS)(name)
        return method(self, *args, **kwargs)
    return whole(name, handler, instead)

guard.watched = breakable
from dubrel.desk.passes import make_rooms
from dubrel.desk.shell.kit.theme import DAY, load_fonts
from dubrel.desk.shell.frame.window import MainWindow

app = QApplication([])
app.setStyle("Fusion")
load_fonts()
window = MainWindow(DAY, make_rooms)
window.ask.unsaved = lambda title: "discard"
window.resize(1280, 800)
window.show()
window.filing.open_path(Path(sys.argv[1]))
for room in window.rooms:
    window.show_room(room)
    app.processEvents()
guard.errors().said.connect(said.append)

def mouse(kind, middle):
    return QMouseEvent(kind, middle, middle, Qt.MouseButton.LeftButton, Qt.MouseButton.LeftButton,
                       Qt.KeyboardModifier.NoModifier)

mime = QMimeData()

def event_for(name, widget):
    middle, plain = QPointF(widget.rect().center()), Qt.KeyboardModifier.NoModifier
    key = QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_A, plain, "a")
    return {
        "mousePressEvent": lambda: mouse(QEvent.Type.MouseButtonPress, middle),
        "mouseMoveEvent": lambda: mouse(QEvent.Type.MouseMove, middle),
        "mouseReleaseEvent": lambda: mouse(QEvent.Type.MouseButtonRelease, middle),
        "mouseDoubleClickEvent": lambda: mouse(QEvent.Type.MouseButtonDblClick, middle),
        "keyPressEvent": lambda: key,
        "event": lambda: key,
        "eventFilter": lambda: key,
        "wheelEvent": lambda: QWheelEvent(middle, middle, QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
                                          plain, Qt.ScrollPhase.NoScrollPhase, False),
        "contextMenuEvent": lambda: QContextMenuEvent(QContextMenuEvent.Reason.Keyboard, middle.toPoint(),
                                                      middle.toPoint()),
        "focusInEvent": lambda: QFocusEvent(QEvent.Type.FocusIn),
        "focusOutEvent": lambda: QFocusEvent(QEvent.Type.FocusOut),
        "inputMethodEvent": QInputMethodEvent,
        "inputMethodQuery": lambda: QInputMethodQueryEvent(Qt.InputMethodQuery.ImCursorRectangle),
        "resizeEvent": lambda: QResizeEvent(widget.size(), widget.size()),
        "showEvent": QShowEvent,
        "closeEvent": QCloseEvent,
        "childEvent": lambda: QChildEvent(QEvent.Type.ChildPolished, window.header),
        "dragEnterEvent": lambda: QDragEnterEvent(middle.toPoint(), Qt.DropAction.CopyAction, mime,
                                                  Qt.MouseButton.LeftButton, plain),
        "dropEvent": lambda: QDropEvent(middle, Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton,
                                        plain),
    }.get(name)

ours = {one for one in QApplication.allWidgets() if type(one).__module__.startswith("dubrel.desk")}
kinds = {type(one): one for one in sorted(ours, key=lambda one: one.isVisible())}  # one of each kind
known = {base.__qualname__ for one in ours for base in type(one).__mro__}
for cls, name in sorted(one.rsplit(".", 1) for one in handlers):
    broken = {f"{cls}.{name}"}
    for widget in (one for one in kinds.values() if cls in {base.__qualname__ for base in type(one).__mro__}):
        made = event_for(name, widget)
        if made is not None:
            if hasattr(widget, "viewport"):
                QApplication.sendEvent(widget.viewport(), made())
            QApplication.sendEvent(widget, made())
        if name == "setText":
            widget.setText("More")
        widget.grab()
        widget.sizeHint(), widget.minimumSizeHint()
broken = set()
window.show()
app.processEvents()
window.repaint()
assert len(said) >= len(hit) and all(one.startswith("Something went wrong") for one in said[:3])
print("missed", *sorted(one for one in handlers - hit if one.rsplit(".", 1)[0] in known))
print("alive", len(hit))
window.desk.stop()
"""


def desk_classes():
    """Every class of the desk, by module."""
    for path in sorted(DESK.rglob("*.py")):
        name = ".".join(path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")
        module = importlib.import_module(name)
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.ClassDef):
                yield getattr(module, node.name)


def test_every_override_of_a_handler_of_qt_is_guarded():
    bare = []
    for cls in desk_classes():
        qt = [base for base in cls.__mro__ if base.__module__.startswith("PySide6")]
        for name, method in vars(cls).items():
            ours = callable(method) and not name.startswith("_") and any(name in vars(base) for base in qt)
            if ours and not getattr(method, "__guarded__", False):
                bare.append(f"{cls.__module__}.{cls.__name__}.{name}")
    assert bare == []


def test_an_error_in_any_handler_is_said_and_the_window_stays(tmp_path):
    """Every handler of every widget in the window raises, in a process of its own."""
    done = subprocess.run(
        [sys.executable, "-c", ATTACK, str(DEMO / "heron-film.dubrel")],
        capture_output=True,
        text=True,
        timeout=180,
        env={**os.environ, "DUBREL_LOG": str(tmp_path / "log")},
    )
    assert done.returncode == 0, done.stderr[-3000:]
    missed, alive = done.stdout.splitlines()[-2:]
    assert missed == "missed", missed
    assert int(alive.split()[1]) > 30
