"""The page of settings."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QWidget

from dubrel.base.catalogue import LANGUAGES, tr
from dubrel.base.errors import DubrelError
from dubrel.base.folders import cache_root
from dubrel.base.value import replace
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.paperpage import PaperPage
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.media.cache import cache_size, empty_cache
from dubrel.user.keys import keep_key
from dubrel.user.settings import MOST_STEP_BACK_MS, PAUSES_MS, SETTINGS, TEXT_SIZES, Settings

_DRAFT = "(draft)"  # a native reader has still to look at it
_THEMES = {
    "system": tr("As the system"),
    "day": tr("Day"),
    "night": tr("Night"),
    "day-sharp": tr("Day, high contrast"),
    "night-sharp": tr("Night, high contrast"),
}
_NAMES = 210  # pixels for the names of the rows
_STEPS = range(0, MOST_STEP_BACK_MS + 1, 500)


@guarded
class SettingsPage(PaperPage):
    """What holds for all projects.

    Signals
    -------
    changed(Settings)
    closed()
    """

    changed = Signal(object)
    closed = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__(tr("Settings"))
        self.desk, box = desk, self.box
        box.setContentsMargins(Space.PAGE, Space.FAR, Space.PAGE, Space.EDGE)
        box.setSpacing(Space.NEAR)
        box.addWidget(label(tr("Settings"), "title"))
        self._looks()
        self._wording()
        self._person()
        self._folders()
        self._machine()
        box.addStretch(1)
        row = QHBoxLayout()
        self.close_button = button(tr("Close"), primary=True)
        self.close_button.clicked.connect(self.closed)
        row.addWidget(self.close_button)
        row.addStretch(1)
        box.addLayout(row)
        self.setFocusProxy(self.theme)

    # -- rows ---------------------------------------------------------------------

    def _row(self, name: str, widget: QWidget, *others: QWidget) -> None:
        row, called, line = self.beside(24), label(name, "quiet"), QHBoxLayout()
        fixed(called.setMinimumWidth, _NAMES)
        row.addWidget(called if name else _gap())
        line.setSpacing(Space.NEAR)
        line.addWidget(widget)
        for one in others:
            line.addWidget(one)
        line.addStretch(1)
        row.addLayout(line, 1)
        self.box.addLayout(row)
        if name:
            widget.setAccessibleName(name)

    def _heading(self, text: str) -> None:
        heading = label(text, "section")
        heading.setContentsMargins(0, Space.CLOSE, 0, 0)
        self.box.addWidget(heading)

    def _looks(self) -> None:
        self._heading(tr("Look and listening"))
        self.theme, self.language, self.text_size, self.step_back, self.pause = (
            QComboBox() for _ in range(5)
        )
        for name, text in _THEMES.items():
            self.theme.addItem(text, name)
        self.language.addItem(tr("As the system"), "system")
        for code, own in LANGUAGES.items():  # in its own words, for whoever reads no other
            self.language.addItem(own if code == "en" else f"{own} {_DRAFT}", code)
        for size in TEXT_SIZES:
            self.text_size.addItem(f"{size} %", size)
        for ms in _STEPS:
            self.step_back.addItem(f"{ms / 1000:g} s" if ms else tr("Do not step back"), ms)
        for ms in PAUSES_MS:
            self.pause.addItem(f"{ms / 1000:g} s", ms)
        self._row(tr("Theme"), self.theme)
        self._row(tr("Language"), self.language, label(tr("from the next start on"), "quiet"))
        self._row(tr("Text size"), self.text_size)
        self._row(tr("Step back when playing resumes"), self.step_back)
        self._row(tr("Skipped pauses are longer than"), self.pause)
        for one in (self.theme, self.language, self.text_size, self.step_back, self.pause):
            fixed(one.setMinimumWidth, 190)
            one.activated.connect(lambda _place: self._save())

    def _folders(self) -> None:
        self._heading(tr("Folders"))
        self.recordings, self.releases = QLineEdit(), QLineEdit()
        self.recordings.setPlaceholderText(tr("The music folder"))
        self.releases.setPlaceholderText(tr("Beside the project"))
        for name, field in ((tr("New recordings"), self.recordings), (tr("Deliverables"), self.releases)):
            fixed(field.setMinimumSize, 200, 28)
            fixed(field.setMaximumWidth, 360)
            choose = button(tr("Choose"))
            choose.setAccessibleName(tr("{name}: choose a folder").format(name=name))
            choose.clicked.connect(
                lambda _checked=False, name=name, field=field: self.choose_folder(name, field)
            )
            field.editingFinished.connect(self._save)
            self._row(name, field, choose)

    def _wording(self) -> None:
        self._heading(tr("Wording"))
        self.fillers, self.masks = QLineEdit(), QLineEdit()
        self.fillers.setPlaceholderText(tr("like, right, you see"))
        self.masks.setPlaceholderText(tr("blast, damn*"))
        for name, field in ((tr("Own fillers"), self.fillers), (tr("Masked words"), self.masks)):
            fixed(field.setMinimumSize, 200, 28)
            fixed(field.setMaximumWidth, 440)
            field.editingFinished.connect(self._save)
            self._row(name, field)

    def _person(self) -> None:
        self._heading(tr("Working with others"))
        self.name = QLineEdit()
        self.name.setPlaceholderText(tr("On notes and versions"))
        fixed(self.name.setMinimumSize, 200, 28)
        fixed(self.name.setMaximumWidth, 440)
        self.name.setMaxLength(80)
        self.name.editingFinished.connect(self._save)
        self._row(tr("Your name"), self.name)

    def _machine(self) -> None:
        self._heading(tr("Recognisers"))
        self.engines = QComboBox()
        fixed(self.engines.setMinimumWidth, 200)
        self.remove_engine = button(tr("Remove"))
        self.remove_engine.clicked.connect(self._remove_engine)
        add_folder, add_service = button(tr("Add a model folder")), button(tr("Add a service"))
        add_folder.clicked.connect(lambda: self._run("add_folder"))
        add_service.clicked.connect(lambda: self._run("add_service"))
        self._row(tr("Added by you"), self.engines, self.remove_engine)
        self._row("", add_folder, add_service)
        self._heading(tr("Cache"))
        self.cache, self.empty = label(""), button(tr("Empty the cache"))
        self.empty.clicked.connect(self._empty)
        self._row(tr("Cached sound"), self.cache, self.empty)
        hint = label(
            tr("In {cache_root}. What is removed is read again when it is needed.").format(
                cache_root=cache_root()
            ),
            "quiet",
        )
        hint.setWordWrap(True)
        row = self.beside(24)
        row.addWidget(_gap())
        row.addWidget(hint, 1)
        self.box.addLayout(row)

    # -- doing ----------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what is set."""
        now = SETTINGS.read()
        self.theme.setCurrentIndex(self.theme.findData(now.theme))
        self.language.setCurrentIndex(self.language.findData(now.language))
        self.text_size.setCurrentIndex(self.text_size.findData(now.text_size))
        self.step_back.setCurrentIndex(max(0, self.step_back.findData(now.step_back_ms)))
        self.pause.setCurrentIndex(max(0, self.pause.findData(now.pause_ms)))
        self.fillers.setText(", ".join(now.own_fillers))
        self.masks.setText(", ".join(now.masked_words))
        self.name.setText(now.name)
        self.recordings.setText(now.recordings_folder)
        self.releases.setText(now.release_folder)
        self.engines.clear()
        for name in now.engines:
            self.engines.addItem(name.partition(":")[2], name)
        self.engines.setEnabled(bool(now.engines))
        self.remove_engine.setEnabled(bool(now.engines))
        if not now.engines:
            self.engines.addItem(tr("None; the built-in one is always there"))
        self.cache.setText(f"{cache_size() / 1e6:,.0f} MB")

    def _save(self) -> None:
        wanted = replace(
            SETTINGS.read(),
            theme=str(self.theme.currentData()),
            language=str(self.language.currentData()),
            text_size=int(self.text_size.currentData()),
            step_back_ms=int(self.step_back.currentData()),
            pause_ms=int(self.pause.currentData()),
            own_fillers=_listed(self.fillers.text()),
            masked_words=_listed(self.masks.text()),
            name=" ".join(self.name.text().split()),
            recordings_folder=self.recordings.text().strip(),
            release_folder=self.releases.text().strip(),
        )
        self._keep(wanted)

    def _keep(self, wanted: Settings) -> None:
        if wanted == SETTINGS.read():
            return
        try:
            SETTINGS.write(wanted)
        except DubrelError as error:
            self.desk.say(str(error))
            return
        self.changed.emit(wanted)

    def choose_folder(self, name: str, field: QLineEdit) -> None:
        """Ask for a folder, and put it into a field."""
        found = self.desk.ask.folder(name, field.text())
        if found is not None:
            field.setText(str(found))
            self._save()

    def _run(self, command: str) -> None:
        self.desk.commands.run(command)

    def _remove_engine(self) -> None:
        engine = str(self.engines.currentData())
        self._keep(SETTINGS.read().without_engine(engine))
        if engine.startswith("remote:"):
            beside(partial(keep_key, engine.partition(":")[2], ""))
        self.refresh()

    def _empty(self) -> None:
        empty_cache(self.desk.session.recording)
        self.refresh()
        self.desk.say(tr("The cache is empty: {cache_root}.").format(cache_root=Path(cache_root())))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape closes the page."""
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        else:
            super().keyPressEvent(event)


def _listed(text: str) -> tuple[str, ...]:
    """What stands between commas, each once."""
    return tuple(dict.fromkeys(" ".join(one.split()) for one in text.split(",") if one.strip()))


def _gap() -> QWidget:
    """As wide as the names of the rows."""
    made = QWidget()
    fixed(made.setFixedSize, _NAMES, 1)
    return made
