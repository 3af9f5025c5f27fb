"""The page of Release: a kit as a docket, what is not ready, and how a deliverable will begin."""

from __future__ import annotations

from datetime import date
from functools import partial
from pathlib import Path

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QMenu,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import counted, shipped, tr
from dubrel.base.errors import DubrelError
from dubrel.base.timecode import format_length
from dubrel.base.value import replace
from dubrel.desk.release.docket import Docket
from dubrel.desk.release.ofcut import OfCut
from dubrel.desk.release.optionfields import FIELDS
from dubrel.desk.release.panel import ReleasePanel
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.buttonrow import ButtonRow
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.paperpage import PaperPage
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.sentence import Blank, Sentence
from dubrel.desk.shell.kit.theme import Space, Theme, text_font
from dubrel.desk.shell.kit.widgets import button, label, show_menu
from dubrel.edits.notes import CLIP, notes_in_order, span_of
from dubrel.formats.shared.document import CHOICES, options_from
from dubrel.formats.shared.form import GROUPS
from dubrel.model import Project
from dubrel.release.forms import FORMS, why_not
from dubrel.release.kits import KITS, Item, Kit, Planned, all_kits, named, plan, wants_recording, with_item
from dubrel.release.preview import Preview, preview_in
from dubrel.release.readiness import not_ready
from dubrel.release.source import EXTRA, Source
from dubrel.release.spokenlines import VOICE_LABELS
from dubrel.user.settings import SETTINGS

_WAIT_MS = 150
_TEXT_PARTS: list[str | Blank] = [
    Blank("names", tr("Names"), words=CHOICES["names"]),
    ",",
    Blank("times", tr("Times"), words=CHOICES["times"]),
    Blank("clock", tr("How times are written"), words=CHOICES["clock"]),
    ";",
    Blank("notes", tr("Notes"), words=CHOICES["notes"]),
    ",",
    Blank("doubts", tr("Doubtful words"), words=CHOICES["doubts"]),
    ",",
    Blank("struck", tr("Struck words"), words=CHOICES["struck"]),
    ",",
    Blank("reading", tr("Fillers"), words=CHOICES["reading"]),
    ",",
    Blank("sounds", tr("Sound descriptions"), words=CHOICES["sounds"]),
    ";",
    Blank("headings", tr("Chapters"), words=CHOICES["headings"]),
    ",",
    Blank("title", tr("Title"), words=CHOICES["title"]),
    ",",
    Blank("numbers", tr("Numbering"), words=CHOICES["numbers"]),
    ";",
    Blank("page", tr("Page size"), words=CHOICES["page"]),
    ",",
    Blank("font", tr("Font"), words=CHOICES["font"]),
    ",",
    Blank("size", tr("Size of the letters"), words=CHOICES["size"]),
    ".",
]


def _coloured(page: str, theme: Theme) -> str:
    """A page of paper in the colours of the desk."""
    head, end, body = page.partition("</style>")
    for paper, ours in (
        ("#6b645a", theme.quiet),
        ("#b26b00", theme.look),
        ("#cfc7b6", theme.hairline),
        ("#1f1c18", theme.ink),
        ("background:#fff", ""),
    ):
        head = head.replace(paper, ours)
    return head + end + body


@guarded
class ReleasePage(PaperPage):
    """A page of paper about deliverables.

    Signals
    -------
    write_wanted()
    going(str)
        A pass where something is still to do.
    wanted(str)
        A command.
    """

    write_wanted = Signal()
    going = Signal(str)
    wanted = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__(tr("Sheet: release"))
        self.desk, self.session = desk, desk.session
        self.kit: Kit = next(iter(all_kits().values()))
        self.plan: list[Planned] = []
        self.of = OfCut(desk)
        self.of.changed.connect(self.refresh)
        self._previewing = Background(self, until=self.session.opened, newest=True)
        self._checking = Background(self, until=self.session.opened, newest=True, slow=True)
        desk.stopping += [self._previewing.close, self._checking.close]
        self._checked_for: object = None
        self.panel = ReleasePanel()
        self.panel.write_wanted.connect(self.write_wanted)
        self.panel.going.connect(self.going)
        self.panel.choosing.connect(self._choose)
        self.panel.pattern.textEdited.connect(self._pattern_typed)
        self.folder, self.zip, self.report = self.panel.folder, self.panel.zip, self.panel.report
        self.state = self.panel.state
        both = self.beside(34)
        self.box.addLayout(both)
        both.addLayout(self._left(), 5)
        both.addLayout(self._right(), 6)
        self._wait = QTimer(self, singleShot=True, interval=_WAIT_MS)
        self._wait.timeout.connect(self._ask_for_preview)
        self.session.opened.connect(self.reset)
        self.fill_kits(self.kit.name)
        self.reset()

    # -- parts --------------------------------------------------------------------------

    def _left(self) -> QVBoxLayout:
        box = QVBoxLayout()
        box.setSpacing(Space.APART)
        self.whats = QComboBox()
        self.whats.setAccessibleName(tr("What is released"))
        self.whats.activated.connect(lambda _index: self.of.choose(self.whats.currentData()))
        box.addWidget(self.whats)
        top = QHBoxLayout()
        self.kits = QComboBox()
        self.kits.setAccessibleName(tr("Kit"))
        self.kits.activated.connect(lambda _index: self.show_kit(all_kits()[self.kits.currentData()]))
        self.more = button(tr("Kit"))
        self.more.setMenu(self._kit_menu())
        top.addWidget(self.kits, 1)
        top.addWidget(self.more)
        box.addLayout(top)
        self.docket = Docket(self.desk.theme)
        self.docket.currentRowChanged.connect(lambda _row: self._chosen())
        self.docket.removed.connect(self._remove)
        box.addWidget(self.docket)
        row = QHBoxLayout()
        self.add, self.remove = button(tr("Add")), button(tr("Remove"))
        self.add.clicked.connect(self._show_forms)
        self.remove.clicked.connect(lambda: self._remove(self.docket.currentRow()))
        for one in (self.add, self.remove):
            row.addWidget(one)
        row.addStretch(1)
        box.addLayout(row)
        self.options = QWidget()
        options = QVBoxLayout(self.options)
        options.setContentsMargins(0, Space.TIGHT, 0, 0)
        self.sentence = Sentence(_TEXT_PARTS, small=True)
        self.sentence.changed.connect(self.set_option)
        options.addWidget(self.sentence)
        box.addWidget(self.options)
        box.addWidget(self._choices())
        box.addStretch(1)
        return box

    def _right(self) -> QVBoxLayout:
        box = QVBoxLayout()
        box.setSpacing(Space.NEAR)
        self.shown = label("", "section")
        box.addWidget(self.shown)
        self.lost = label("", "look")
        self.lost.setWordWrap(True)
        self.lost.hide()
        box.addWidget(self.lost)
        self.preview = QTextBrowser()
        self.preview.setObjectName("preview")
        self.preview.setAccessibleName(tr("Preview of the file"))
        self.preview.setOpenLinks(False)
        face = text_font(15)
        self.preview.setStyleSheet(f'font-family: "{face.family()}"; font-size: 15px;')
        fixed(self.preview.setMinimumHeight, 300)
        box.addWidget(self.preview, 1)
        return box

    def _choices(self) -> ButtonRow:
        """What else can be chosen: languages, masked words, who speaks.

        For films and pages, how they are made.
        """
        self.choices: dict[str, QComboBox] = {}
        for name, said, rows, _ in FIELDS:
            made = self.choices[name] = QComboBox()
            made.setAccessibleName(said)
            if not rows:  # filled later, with other rows each time; it makes the list at once, which is slow
                made.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
            for text, value in rows:
                made.addItem(text, value)
            made.activated.connect(partial(self._combo, made, name))
        return ButtonRow(list(self.choices.values()), 2)

    def _kit_menu(self) -> QMenu:
        menu = QMenu(self)
        for text, name in (
            (tr("Keep this kit as…"), "keep_kit"),
            (tr("Delete this kit"), "delete_kit"),
            (tr("Import a kit…"), "import_kit"),
            (tr("Export this kit…"), "export_kit"),
        ):
            menu.addAction(text, partial(self.wanted.emit, name))
        return menu

    # -- the kit ------------------------------------------------------------------------

    def fill_kits(self, chosen: str) -> None:
        """List the kits."""
        self.kits.clear()
        for name in all_kits():
            self.kits.addItem(shipped(name, KITS), name)
        self.kits.setCurrentIndex(self.kits.findData(chosen))

    def show_kit(self, kit: Kit) -> None:
        """Work with a kit."""
        self.kit = kit
        self.kits.setCurrentIndex(self.kits.findData(kit.name))
        self.panel.pattern.setText(kit.pattern)
        self._renew()

    @property
    def _project(self) -> Project:
        """What is released, its recording where it really is; an empty one while a cut is being made."""
        return self.of.project() or Project(self.session.project.title)

    def _renew(self) -> None:
        """Plan anew, and show it."""
        try:
            self.plan = plan(self._project, self.kit, SETTINGS.read().masked_words)
        except DubrelError as error:
            self.plan = []
            self.show_report(str(error))
        self.docket.fill(self.kit.items, self.plan)
        self.panel.example.setText(
            tr("{files}, such as “{name}”").format(
                files=counted(len(self.plan), "file"), name=self.plan[0].name
            )
            if self.plan
            else tr("Nothing to write yet.")
        )
        self._chosen()

    def _pattern_typed(self, text: str) -> None:
        self.kit = replace(self.kit, pattern=text or "{title}")
        self._renew()

    def _show_forms(self) -> None:
        menu = QMenu(self)
        there = {one.form for one in self.kit.items}
        for group in GROUPS:
            inner = menu.addMenu(group)
            for form in FORMS.values():
                if form.group == group:
                    action = inner.addAction(tr(form.label), partial(self.toggle, form.id))
                    action.setCheckable(True)
                    action.setChecked(form.id in there)
        show_menu(menu, self.add.mapToGlobal(self.add.rect().bottomLeft()))

    def toggle(self, form: str) -> None:
        """Put a form in, or take it out."""
        self.kit = with_item(self.kit, form)
        self._renew()
        self.docket.setCurrentRow(len(self.kit.items) - 1)

    def _remove(self, row: int) -> None:
        if 0 <= row < len(self.kit.items):
            self.kit = replace(
                self.kit, items=tuple(one for nth, one in enumerate(self.kit.items) if nth != row)
            )
            self._renew()

    # -- one deliverable ----------------------------------------------------------------

    @property
    def item(self) -> Item | None:
        """The chosen item."""
        row = self.docket.currentRow()
        return self.kit.items[row] if 0 <= row < len(self.kit.items) else None

    def planned(self) -> Planned | None:
        """The first file of the chosen item."""
        item = self.item
        same = (
            one
            for one in self.plan
            if item and one.form.id == item.form and one.source.values == item.options
        )
        return next(same, None)

    def _chosen(self) -> None:
        item = self.item
        form = FORMS[item.form] if item else None
        self.options.setVisible(bool(form and form.text))
        asked = [name for name, _, _, wanted in FIELDS if form is not None and wanted(form)]
        for name, combo in self.choices.items():
            combo.setVisible(name in asked)
        self._list_speakers()
        self._list_clips()
        self._list_voices()
        if item is not None:
            if form and form.text:
                own = {name: value for name, value in item.options.items() if name not in EXTRA}
                self.sentence.show_values(options_from(own))
            for name, combo in self.choices.items():
                combo.setCurrentIndex(max(0, combo.findData(item.options.get(name, ""))))
        self._wait.start()

    def _list_speakers(self) -> None:
        people = self.session.project.transcript.speakers
        who = self.choices["speaker"]
        who.clear()
        who.addItem(tr("Everybody"), "")
        for one in people:
            who.addItem(tr("Only {name}").format(name=one.name or tr("Speaker")), one.id)

    def _list_voices(self) -> None:
        voice = self.choices["voice"]
        voice.clear()
        for name, text in VOICE_LABELS.items():
            voice.addItem(tr("By {voice}").format(voice=text), "" if name == "auto" else name)
        for name in SETTINGS.read().voices:
            own = Path(name.partition(":")[2]).name
            voice.addItem(tr("By {voice}").format(voice=f"“{own}”"), name)

    def _list_clips(self) -> None:
        project = self.session.project
        combo = self.choices["stretch"]
        combo.clear()
        combo.addItem(tr("Whole film"), "")
        for note in notes_in_order(project, (CLIP,)):
            start, end = span_of(project, note)
            combo.addItem(
                tr("Clip: {text}").format(text=note.text)
                if note.text
                else tr("Clip {start}").format(start=format_length(start)),
                f"{start}-{end}",
            )

    def _list_cuts(self) -> None:
        """The recording and its cuts, where there are any."""
        cuts = self.session.project.cuts
        self.whats.clear()
        shown = tr(", from its cameras") if self.of.rendered_cut is not None and not self.of.cut_id else ""
        self.whats.addItem(tr("Of the whole recording{shown}").format(shown=shown), 0)
        for one in cuts:
            said = tr("Of “{name}”, {length}").format(name=one.name, length=format_length(one.length_ms))
            self.whats.addItem(said, one.id)
        self.whats.setCurrentIndex(max(0, self.whats.findData(self.of.cut_id)))
        self.whats.setVisible(bool(cuts or shown))

    def _combo(self, combo: QComboBox, name: str, _index: int) -> None:
        self.set_option(name, combo.currentData())

    def set_option(self, name: str, value: object) -> None:
        """Set an option of the form that is chosen."""
        item = self.item
        if item is None:
            return
        options = {**item.options, name: str(value)}
        if not value:
            options.pop(name)
        items = tuple(Item(one.form, options) if one is item else one for one in self.kit.items)
        self.kit = replace(self.kit, items=items)
        self._renew()

    # -- preview and what is not ready ----------------------------------------------------

    def _ask_for_preview(self) -> None:
        planned, item = self.planned(), self.item
        if planned is None:
            why = why_not(FORMS[item.form], self._project) if item else tr("Add a deliverable to the kit.")
            self.shown.setText("")
            self._say_lost("")
            self.preview.setPlainText(why)
            return
        self.shown.setText(planned.name)
        source = planned.source
        track = replace(source.track, captions=()) if source.track is not None else None
        bare = Source(Project(), track, source.values, source.masked_words)
        work = partial(self.desk.apart, preview_in, source.original, planned.form.id, planned.name, bare)
        self._previewing.ask(work, self._show_preview, self._show_no_preview)

    def _say_lost(self, text: str) -> None:
        self.lost.setText(text)
        self.lost.setVisible(bool(text))

    @property
    def busy(self) -> bool:
        """Whether a preview is being made."""
        return self._wait.isActive() or self._previewing.busy

    def _show_preview(self, found: Preview) -> None:
        self._say_lost(found.lost)
        if found.rich:
            self.preview.setHtml(_coloured(found.text, self.desk.theme))
        else:
            self.preview.setPlainText(found.text)

    def _show_no_preview(self, error: Exception) -> None:
        if not isinstance(error, DubrelError):
            raise error
        self._say_lost("")
        self.preview.setPlainText(str(error))

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.docket.set_theme(theme)
        self._wait.start()

    # -- around ---------------------------------------------------------------------------

    def reset(self) -> None:
        """Propose a folder: the user's own, or one beside the project or its recording."""
        media, own = self.session.project.media, SETTINGS.read().release_folder
        beside = self.session.path or (Path(media.path) if media else Path.home() / "x")
        folder = Path(own) if own else beside.parent
        title = named("{title}", self.session.project, FORMS["text"], None, 1, date.today())
        self.folder.setText(str(folder / f"{title} release"))
        self.show_report("")
        self.show_state(False)
        self.docket.written = {}
        self.show_kit(self.kit)

    def refresh(self) -> None:
        """Show how the files will begin, and what is not ready."""
        project = self.session.project
        self._list_cuts()
        self._renew()
        if wants_recording(self.kit) and self.of.rendered_cut is not None:
            self.of.make_recording()
        self.panel.show_before(project.releases)
        if self._checked_for is not project:
            self._checked_for = project
            self._checking.ask(lambda: self.desk.apart(not_ready, project), self.panel.show_unready)

    def show_state(self, changed: bool) -> None:
        """Say whether the project is another since the files were written."""
        self.panel.say(
            "state", tr("The project has changed since these files were written.") if changed else ""
        )

    def show_report(self, text: str) -> None:
        """Say what was written and what was not."""
        self.panel.say("report", text)

    def _choose(self) -> None:
        found = self.desk.ask.folder(tr("Folder for the deliverables"), self.folder.text())
        if found is not None:
            self.folder.setText(str(found))
