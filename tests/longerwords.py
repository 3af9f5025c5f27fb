"""The window in a made-up language, 40 % longer: what is cut, sticks out or stays English, as JSON.

A process of its own: texts of modules are looked up when these are loaded. With
the code of a language as its argument, the window in that language.
"""

import gettext
import json
import os
import re
import sys
from collections.abc import Iterator
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))
os.environ["QT_QPA_PLATFORM"] = "offscreen"
MORE = 0.4
PAGES = tuple("find_words terms spelling clean_up notes chapters how_sure steps settings versions".split())
_WORD = re.compile(r"(\{[^}]*\}|<[^>]*>|\*\.\w+|%\w)|([^\W\d_]{3,})")


def longer(text: str) -> str:
    """A text whose words are longer; what is filled in, and marks, stay."""
    return _WORD.sub(lambda one: one[1] or one[2] + "ë" * max(1, round(len(one[2]) * MORE)), text)


class Longer(gettext.NullTranslations):
    """The catalogue of that language."""

    def gettext(self, message: str) -> str:
        return longer(message)

    def ngettext(self, one: str, many: str, count: int) -> str:
        return longer(one if count == 1 else many)


def problems(window, where: str) -> list[str]:
    """Buttons whose text has no room, and what sticks out of the window or of what it stands in."""
    from PySide6.QtCore import QPoint, QRect
    from PySide6.QtWidgets import QCheckBox, QPushButton, QScrollArea, QToolButton

    found = []
    for one in [
        *window.findChildren(QPushButton),
        *window.findChildren(QToolButton),
        *window.findChildren(QCheckBox),
    ]:
        if not one.isVisible() or not one.text():
            continue
        lines = one.text().replace("&", "").split("\n")
        if one.width() < max(map(one.fontMetrics().horizontalAdvance, lines)):
            found.append(f"{where}: cut: {one.text()}")
        holder = one.parentWidget()
        while holder is not None:
            if isinstance(holder, QScrollArea) or holder is window:
                inside = holder.viewport() if isinstance(holder, QScrollArea) else holder
                at = QRect(one.mapTo(inside, QPoint(0, 0)), one.size())
                if at.left() < 0 or at.right() > inside.width():
                    found.append(f"{where}: sticks out: {one.text()}")
                break
            holder = holder.parentWidget()
    return found


def said_by(widget) -> Iterator[str]:
    """All that a widget shows or tells a screen reader."""
    from PySide6.QtCore import QModelIndex, Qt
    from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QTableWidget

    yield from (widget.toolTip(), widget.accessibleName(), widget.accessibleDescription())
    if isinstance(widget, QLabel | QAbstractButton) and widget.isVisible():
        yield widget.text()
    elif isinstance(widget, QComboBox):
        yield from (widget.itemText(nth) for nth in range(widget.count()))
    elif isinstance(widget, QLineEdit):
        yield widget.placeholderText()
    elif isinstance(widget, QTableWidget):
        columns = range(widget.columnCount())
        heads = (widget.model().headerData(nth, Qt.Orientation.Horizontal) for nth in columns)
        yield from (str(one) for one in heads if one)
        rows = range(widget.model().rowCount(QModelIndex()))
        yield from (widget.item(row, nth).text() for row in rows for nth in columns if widget.item(row, nth))


def untranslated(window, where: str, data: set[str]) -> list[str]:
    """Texts with a word that the catalogue was not asked for, and that is not data."""
    from PySide6.QtWidgets import QWidget

    commands = window.desk.commands.table.values()
    texts = [text for one in window.findChildren(QWidget) for text in said_by(one)]
    texts += [text for one in commands for text in (one.text, one.why_not())]
    found = []
    for text in filter(None, texts):
        words = re.findall(r"[^\W\d_]{3,}", re.sub(r"<[^>]*>|\{[^}]*\}|/\S+", "", text))
        if any("ë" not in one and one not in data for one in words):
            found.append(f"{where}: in English: {text[:90]}")
    return found


def data_of(project: Path) -> set[str]:
    """Words that stand in a project, and those that no language has of its own."""
    from dubrel.store.projectfile import open_project
    from dubrel.store.projectjson import to_text

    words = re.findall(r"[^\W\d_]{3,}", to_text(open_project(project)))
    names = (
        "Dubrel Ctrl Alt Shift Space Return Down Tab CPS WPM LUFS dBFS kHz English Português Español draft"
    )
    offered = "easternmost signpost sternmost westernmost"  # by the spelling, for “sternpost”
    return {*words, *names.split(), *offered.split(), "opus", "vtt", "builtin", "espeak"}


def series_problems(theme) -> list[str]:
    """What is chosen on the page of a series is the same in every language."""
    from dubrel.desk.series.seriespage import SeriesPage
    from dubrel.jobs.series.overview import shared_things
    from dubrel.store.seriesfile import Series

    page = SeriesPage(theme)
    page.show_things(shared_things(Series("Slow Water")))
    page.show_people(["Isolde"])
    page.by.setCurrentIndex(1)
    return [] if page.who == "Isolde" else [f"series: said by {page.who}"]


def main(language: str, width: int, height: int) -> None:
    """Go through all passes and pages."""
    from dubrel.base import catalogue

    if language == "longer":
        catalogue._now[0] = Longer()
    else:
        catalogue.speak(language)
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.passes import make_rooms
    from dubrel.desk.shell.frame.window import MainWindow
    from dubrel.desk.shell.kit.theme import DAY, load_fonts

    app = QApplication([])
    app.setStyle("Fusion")
    load_fonts()
    window = MainWindow(DAY, make_rooms)
    window.ask.unsaved = lambda title: "discard"
    window.setMinimumSize(900, 520)
    window.resize(width, height)
    window.show()
    project = Path(__file__).parent.parent / "demo" / "slow-water-7.dubrel"
    data = data_of(project) if language == "longer" else set[str]()

    def look(where: str) -> None:
        QTest.qWait(120)
        while window.desk.jobs.busy:  # which is said in the language of the process that works
            QTest.qWait(50)
        found.extend(problems(window, where))
        if data:
            found.extend(untranslated(window, where, data))

    found: list[str] = []
    look("nothing open")
    window.filing.open_path(project)
    for room in window.rooms:
        window.show_room(room)
        look(room)
    window.show_room("wording")
    for page in PAGES:
        if page in window.commands.actions:
            window.commands.run(page)
            look(page)
    window.show_room("captions")
    window.commands.run("style")
    look("style")
    found += series_problems(DAY)
    if picture := os.environ.get("DUBREL_PICTURE"):
        window.grab().save(picture)
    window.desk.stop()
    print("FOUND", json.dumps(sorted(set(found)), ensure_ascii=False), flush=True)
    os._exit(0)


if __name__ == "__main__":
    main(sys.argv[1], int(sys.argv[2]), int(sys.argv[3]))
