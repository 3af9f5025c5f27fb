"""All languages of the project, and the sentence that begins another one."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import shipped, tr
from dubrel.base.languages import LANGUAGES, language_name, main_tag
from dubrel.captions.styles import STYLES
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.paperpage import PaperPage
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.sentence import Blank, Sentence
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label, plain_table
from dubrel.edits.translation.track import Standing, spoken_track, standings_of, translated_tracks
from dubrel.model import HouseStyle
from dubrel.translation.choosing import Offer, offers
from dubrel.user.settings import SETTINGS
from dubrel.user.styles import all_styles

_HEADS = (tr("Language"), tr("Translated"), tr("Approved"), tr("Original changed"), tr("House style"))
_LATIN = frozenset("ca cs cy da de en es fi fr hu it nl no pl pt ro sv tr".split())


class Wishes:
    """What the blanks of the sentence hold."""

    def __init__(self) -> None:
        self.language, self.engine, self.style = "pt", "builtin", ""


def shown_language(tag: str) -> str:
    """A language with its script where that is not its own."""
    return (
        tr("{tag} in Latin letters").format(tag=tr(language_name(tag)))
        if tag.endswith("-Latn")
        else tr(language_name(tag))
    )


@guarded
class Overview(PaperPage):
    """A table of the languages and a way to another one.

    Signals
    -------
    begun(str, str, HouseStyle or None)
        A translation is wanted: its language, the translator, the style.
    file_wanted(str, HouseStyle or None)
        The same, from a file.
    opened(int)
        A track is to be worked on.
    wanted(str)
        A command.
    """

    begun = Signal(str, str, object)
    file_wanted = Signal(str, object)
    opened = Signal(int)
    wanted = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__(tr("Sheet: languages"))
        self.desk, self.session, self.wishes = desk, desk.session, Wishes()
        self.title = label(tr("Languages of this project"), "title")
        self.box.addWidget(self.title)
        self.table = QTableWidget(0, len(_HEADS))
        plain_table(self.table, tr("Languages"), list(_HEADS))
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.cellActivated.connect(lambda row, _column: self._open(row))
        self.box.addWidget(self.table)
        self.open, self.remove = button(tr("Open")), button(tr("Remove"))
        self.open.clicked.connect(lambda: self._open(self.table.currentRow()))
        self.remove.clicked.connect(lambda: self.wanted.emit("remove_translation"))
        row = QHBoxLayout()
        row.addWidget(self.open)
        row.addWidget(self.remove)
        row.addStretch(1)
        self.box.addLayout(row)
        self.box.addSpacing(Space.WIDE)
        self.heading = label(tr("Translate into another language"), "title")
        self.box.addWidget(self.heading)
        self.place = QWidget()
        self._place_box = QVBoxLayout(self.place)
        self._place_box.setContentsMargins(0, 0, 0, 0)
        self.box.addWidget(self.place)
        self.why = label("", "look")
        self.why.setWordWrap(True)
        self.box.addWidget(self.why)
        self.begin, self.from_file = button(tr("Translate"), primary=True), button(tr("From a caption file"))
        self.add_folder, self.add_service = button(tr("Add a model folder")), button(tr("Add a service"))
        self.begin.clicked.connect(self._begin)
        self.from_file.clicked.connect(lambda: self.file_wanted.emit(self.wishes.language, self._style()))
        self.add_folder.clicked.connect(lambda: self.wanted.emit("add_translator_folder"))
        self.add_service.clicked.connect(lambda: self.wanted.emit("add_translator_service"))
        buttons = QHBoxLayout()
        for one in (self.begin, self.from_file, self.add_folder, self.add_service):
            buttons.addWidget(one)
        buttons.addStretch(1)
        self.box.addLayout(buttons)
        self.hint: QLabel = label(
            tr(
                "Sentences are translated whole and set back into captions at the times of the original. "
                "What you approved before, here or in another project, is filled in."
            ),
            "quiet",
        )
        self.hint.setWordWrap(True)
        self.box.addWidget(self.hint)
        self.box.addStretch(1)
        self.sentence: Sentence | None = None
        self.offers: list[Offer] = []
        self._tracks: list[int] = []
        self._background = Background(self, until=self.session.opened, newest=True, slow=True)
        desk.stopping.append(self._background.close)
        self.session.opened.connect(self._on_opened)

    def _on_opened(self) -> None:
        self._tracks = []
        if self.isVisible():  # else it is refreshed when it is shown
            self.refresh()

    # -- the table ---------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the tracks and the sentence as they are now."""
        project = self.session.project
        tracks = translated_tracks(project)
        self._tracks = [one.id for one in tracks]
        for widget in (self.title, self.table, self.open, self.remove):
            widget.setVisible(bool(tracks))
        self.table.setRowCount(len(tracks))
        for row, track in enumerate(tracks):
            for column, text in ((0, shown_language(track.language)), (4, shipped(track.style.name, STYLES))):
                self.table.setItem(row, column, QTableWidgetItem(text))
            for column in (1, 2, 3):
                self.table.setItem(row, column, QTableWidgetItem("…"))
        fixed(self.table.setFixedHeight, 34 + 31 * max(1, len(tracks)))
        if tracks and self.table.currentRow() < 0:
            self.table.selectRow(0)
        self._background.forget()
        if tracks:
            self._background.ask(lambda: self.desk.apart(standings_of, project), self._show_standings)
        self._compose()

    def _show_standings(self, standings: Sequence[Standing]) -> None:
        for row, one in enumerate(standings):
            share = tr("{some:,} of {all:,}").format(some=one.translated, all=one.whole)
            texts = (
                share,
                tr("{some:,} of {all:,}").format(some=one.approved, all=one.captions),
                f"{one.changed:,}" if one.changed else "–",
            )
            for column, text in enumerate(texts, 1):
                self.table.setItem(row, column, QTableWidgetItem(text))

    @property
    def chosen(self) -> int:
        """Id of the chosen track; 0 for none."""
        row = self.table.currentRow()
        return self._tracks[row] if 0 <= row < len(self._tracks) else 0

    def _open(self, row: int) -> None:
        if 0 <= row < len(self._tracks):
            self.opened.emit(self._tracks[row])

    # -- the sentence --------------------------------------------------------------------

    def languages(self) -> list[str]:
        """The languages into which it can be translated and is not yet."""
        project = self.session.project
        source = project.transcript.language
        taken = {one.language for one in translated_tracks(project)}
        found = [tag for tag in LANGUAGES if tag != main_tag(source) and tag not in taken]
        found.sort(key=language_name)
        if main_tag(source) not in _LATIN and f"{main_tag(source)}-Latn" not in taken:
            found.append(f"{main_tag(source)}-Latn")
        return found

    def _compose(self) -> None:
        """Make the sentence anew: what can be chosen depends on the language."""
        project, languages = self.session.project, self.languages()
        source, wishes = project.transcript.language, self.wishes
        if wishes.language not in languages:
            known = [tag for tag in languages if offers(source, tag)[0].name]
            wishes.language = next(iter(known or languages))
        self.offers = offers(source, wishes.language, SETTINGS.read().translators)
        if wishes.engine not in [one.name for one in self.offers]:
            wishes.engine = self.offers[0].name
        original = spoken_track(project)
        styles = list(all_styles())
        if wishes.style not in styles:
            wishes.style = original.style.name if original and original.style.name in styles else ""
        if self.sentence is not None:
            self.sentence.deleteLater()
        self.sentence = Sentence(
            [
                tr("Translate the captions from {source} into").format(source=tr(language_name(source))),
                Blank("language", tr("Language"), words=[(tag, shown_language(tag)) for tag in languages]),
                tr("with"),
                Blank("engine", tr("Translator"), words=[(one.name, one.label) for one in self.offers]),
                tr(", by the house style"),
                Blank(
                    "style",
                    tr("House style"),
                    words=[("", tr("of the original")), *((one, shipped(one, STYLES)) for one in styles)],
                ),
                ".",
            ]
        )
        self.sentence.show_values(wishes)
        self.sentence.changed.connect(self._wish)
        self._place_box.addWidget(self.sentence)
        self._say_why()

    def _wish(self, name: str, value: object) -> None:
        setattr(self.wishes, name, value)
        if name == "language":
            QTimer.singleShot(0, self._compose)  # the blank that says so is one of those that go
        else:
            self._say_why()

    def _say_why(self) -> None:
        chosen = next((one for one in self.offers if one.name == self.wishes.engine), None)
        track = spoken_track(self.session.project)
        missing = (
            ""
            if track and track.captions
            else tr("There are no captions to translate yet. Set them in Captions.")
        )
        self.why.setText(missing or (chosen.why_not if chosen else ""))
        self.why.setVisible(bool(self.why.text()))
        for one in (self.begin, self.from_file):
            one.setEnabled(not missing)
        self.begin.setText(tr("Translate") if self.wishes.engine else tr("Begin"))
        if chosen is not None and chosen.why_not:
            self.begin.setEnabled(False)

    def _style(self) -> HouseStyle | None:
        return all_styles().get(self.wishes.style)

    def _begin(self) -> None:
        self.begun.emit(self.wishes.language, self.wishes.engine, self._style())
