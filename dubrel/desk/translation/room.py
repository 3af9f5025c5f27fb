"""Translation: into other languages, at the same times, checked."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import Message, counted, told, tr
from dubrel.base.languages import language_name
from dubrel.captions.checks import reading_speed
from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.todo import ToDo
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.shell.kit.theme import Theme
from dubrel.desk.translation.approving import Approving
from dubrel.desk.translation.findings import TranslationFindings
from dubrel.desk.translation.questions import TranslationQuestions
from dubrel.desk.translation.remembering import Remembering
from dubrel.desk.translation.translating import Translating
from dubrel.desk.translation.weighing import Weighing
from dubrel.edits.translation.track import Standing, remove_track, spoken_track, translated_tracks
from dubrel.model import HouseStyle
from dubrel.project.changes import Change

if TYPE_CHECKING:
    from dubrel.desk.translation.page import TranslationPage
    from dubrel.desk.translation.panel import TranslationPanel
    from dubrel.desk.translation.targetfield import TargetField

_REST_MS = 60
_SHOWN = (
    ("translation", tr("the translation")),
    ("both", tr("both languages")),
    ("original", tr("the original")),
)


class TranslationRoom(Room):
    """The fifth pass."""

    id, name = "translation", tr("Translation")
    hints = (
        ("approve_next", tr("approve")),
        ("next_look", tr("next to look at")),
        ("translate_again", tr("translate again")),
    )
    ahead = (
        "dubrel.desk.translation.facingpaint",
        "dubrel.desk.translation.facing",
        "dubrel.desk.translation.overview",
        "dubrel.desk.translation.page",
        "dubrel.desk.translation.panel",
        "dubrel.desk.translation.targetfield",
    )

    def __init__(self, desk: Desk, layer: SpeechLayer) -> None:
        super().__init__(desk)
        self.session, self._layer = desk.session, layer
        self.ask = TranslationQuestions(desk)
        self.findings = TranslationFindings(desk.session)
        self.weighing = Weighing(desk, self.findings)
        self.remembering = Remembering(desk, self.ask, self.findings)
        self.translating = Translating(desk, self.ask, self.findings, self.show_track)
        self.approving = Approving(
            desk,
            self.ask,
            self.findings,
            self.remembering,
            lambda: self.page.sheet,
            self.translating.no_track,
        )
        self.translating.pair = self.approving.pair
        self._page: TranslationPage | None = None
        self._panel: TranslationPanel | None = None
        self.field: TargetField | None = None
        self._shown = "translation"
        self._standing: Standing | None = None
        self._closed = False
        self._late = QTimer(singleShot=True, interval=_REST_MS)
        self._late.timeout.connect(self._show_all)
        self.findings.counted.connect(self._soon)
        self.findings.counted.connect(desk.counted)
        self.session.changed.connect(self._on_changed)
        self.session.opened.connect(self._opened)
        self._anew = QTimer(singleShot=True, interval=0)
        self._anew.timeout.connect(self._enter_again)
        desk.stopping.append(self._close)

    def _close(self) -> None:
        """The application ends."""
        self._closed = True
        for one in (self._late, self._anew):
            one.stop()
        for part in (self.findings, self.weighing, self.remembering):
            part.close()

    # -- parts --------------------------------------------------------------------------

    @property
    def page(self) -> TranslationPage:
        """The facing pages, or all languages."""
        if self._page is None:
            from dubrel.desk.translation.page import TranslationPage  # late: the window opens without it

            self._page = TranslationPage(self.desk, self.findings)
            self._page.chosen.connect(self.show_track)
            self._page.sheet.text_wanted.connect(self.edit)
            self._page.sheet.chosen.connect(self._soon)
            self._page.overview.begun.connect(self.begin)
            self._page.overview.file_wanted.connect(self.begin_from_file)
            self._page.overview.wanted.connect(self._run)
        return self._page

    @property
    def panel(self) -> QWidget | None:
        """What is to be looked at; nothing where no track is open."""
        if self.findings.track is None:
            return None
        if self._panel is None:
            from dubrel.desk.translation.panel import TranslationPanel  # late: as above

            self._panel = TranslationPanel(self.findings, self.desk.theme)
            self._panel.wanted.connect(self._run)
            self._panel.taken.connect(self._take)
            self.remembering.found.connect(self._show_offers)
        return self._panel

    @property
    def layer(self) -> SpeechLayer:
        """Words and captions."""
        return self._layer

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        if self._page is not None:
            self._page.sheet.set_theme(theme)
        if self._panel is not None:
            self._panel.theme = theme
            self._show_all()

    def commands(self) -> list[Command]:
        """What can be done here."""
        return [
            *self.approving.commands(),
            *self.translating.commands(),
            Command(
                "languages", tr("Show all languages"), "Shift+F1", self._languages, self.desk.without_captions
            ),
            Command(
                "show_on_picture",
                tr("Show the translation, the original or both on the picture"),
                "Alt+B",
                self._show_next,
                self.translating.no_track,
            ),
            Command("remove_translation", tr("Remove a translation"), "", self._remove, self._none_to_remove),
        ]

    # -- coming and going ---------------------------------------------------------------

    def enter(self) -> None:
        """Open the only translation there is, or the table."""
        tracks = translated_tracks(self.session.project)
        if self.findings.track is None:
            self.show_track(tracks[0].id if len(tracks) == 1 else 0)
        elif self.page.shown != self.findings.track_id:
            self.page.show_track(self.findings.track_id)
        self.weighing.turn_on(True)
        self._show_picture()

    def _enter_again(self) -> None:
        """Another project is open."""
        if self.desk.room == self.id:
            self.enter()

    def leave(self) -> None:
        """The picture shows the captions that are worked on again."""
        self.weighing.turn_on(False)
        if self.field is not None:
            self.field.close_field()
        self.desk.picture().show_tracks(0, 0)

    def show_track(self, track_id: int) -> None:
        """Work on a track, or show all languages with 0."""
        before = self.findings.track_id
        if self.findings.track_id != track_id:
            self.findings.known = {}
            self.findings.look_at(track_id)
        self.page.show_track(track_id)
        self._show_picture()
        if bool(before) != bool(track_id) and self.desk.room == self.id:
            self.desk.go(self.id)  # the panel comes or goes
        self._soon()

    def _opened(self) -> None:
        self._standing = None
        if self._page is not None and self.desk.room == self.id:
            self._anew.start()

    def _on_changed(self, change: Change) -> None:
        if self._page is not None and change.tracks:
            if self.findings.track is None and self._page.currentWidget() is not self._page.overview:
                self.show_track(0)
            elif self._page.currentWidget() is self._page.overview and self.desk.room == self.id:
                self._page.overview.refresh()
        self._soon()

    # -- showing ------------------------------------------------------------------------

    def _soon(self) -> None:
        """Show what changed, once the hands rest for a moment."""
        if not self._closed and not self._late.isActive():
            self._late.start()

    def _show_all(self) -> None:
        """Counts and details as they are now."""
        track = self.findings.track
        self._standing = None if self.findings.counting else self.findings.standing
        self.desk.counted.emit()
        if track is None or self._page is None:
            return
        if self._panel is not None:
            self._panel.show_counts(self._standing)
            self._show_details()
        if (one := self._standing) is None:
            self._page.show_state("")
            return
        left = len(self.findings.weights)
        self._page.show_state(
            tr("{approved:,} of {captions:,} approved").format(approved=one.approved, captions=one.captions)
            + (tr(", {left:,} to look at").format(left=left) if left else "")
        )

    def _show_details(self) -> None:
        assert self._panel is not None
        track, caption, pair = self.findings.track, self.approving.caption, self.approving.pair()
        if track is None or pair is None:
            self._panel.show_sentence("", None, "", [])
            self.remembering.look_for("", "", False)
            return
        weighed = self.findings.known.get((pair.source, pair.target))
        doubts = [*(told(one.message) for one in self.findings.doubts_of(caption))] if caption else []
        doubts += [told(one.message) for one in self.findings.rules_of(caption)] if caption else []
        self._panel.show_sentence(
            pair.source, weighed.meaning if weighed else None, weighed.back if weighed else "", doubts[:5]
        )
        over = any(rule.rule == "speed" for one in pair.captions for rule in self.findings.rules_of(one))
        self.remembering.look_for(pair.source, pair.target, over)

    def _show_offers(self) -> None:
        if self._panel is None:
            return
        self._panel.show_offers(self.remembering.source, self.remembering.offered)
        self._panel.show_shorter(self._too_many(), self.remembering.shorter)

    def _too_many(self) -> int:
        """How many characters the chosen caption has too many."""
        caption, track = self.approving.caption, self.findings.track
        if caption is None or track is None:
            return 0
        span = caption.end_ms - caption.start_ms
        length = round(reading_speed(caption, caption.text.split("\n"), track.rules) * span / 1000)
        return max(0, length - int(track.rules.max_cps * span / 1000))

    def _show_picture(self) -> None:
        if self.desk.room != self.id:
            return
        track = self.findings.track
        source = spoken_track(self.session.project)
        ours, theirs = (source.id if source else 0), (track.id if track else 0)
        ways = {"translation": (theirs, 0), "both": (theirs, ours if theirs else 0), "original": (ours, 0)}
        self.desk.picture().show_tracks(*ways[self._shown])

    def _show_next(self) -> None:
        names = [name for name, _ in _SHOWN]
        self._shown = names[(names.index(self._shown) + 1) % len(names)]
        self._show_picture()
        self.desk.say(tr("On the picture: {shown}.").format(shown=dict(_SHOWN)[self._shown]))

    # -- to do --------------------------------------------------------------------------

    def todo(self) -> ToDo:
        """How far the open translation is, or which languages there are."""
        project = self.session.project
        tracks = translated_tracks(project)
        if not tracks:
            return ToDo(tr("not begun") if spoken_track(project) else "")
        track, one = self.findings.track, self._standing
        if track is None or one is None:
            names = ", ".join(tr(language_name(each.language)) for each in tracks[:2])
            return ToDo(names if len(tracks) < 3 else counted(len(tracks), "language"))
        left = len(self.findings.weights)
        done = one.approved / max(1, one.captions)
        if one.translated < one.whole:
            return ToDo(
                Message("{whole:,} to translate", whole=one.whole - one.translated),
                done,
                one.whole - one.translated,
            )
        if left:
            return ToDo(Message("{left:,} to look at", left=left), done, left)
        rest = one.captions - one.approved
        return ToDo(tr("{rest:,} to approve").format(rest=rest) if rest else tr("approved"), done)

    def look(self, step: int) -> None:
        """Go to what is to be looked at first, and from there to the next; or back through what is before."""
        wanted = self.findings.to_look_at
        if self.findings.track is None:
            self.desk.say(tr("No translation is open. Begin one, or open one of the table."))
            return
        if not wanted:
            self.desk.say(tr("Nothing is left to look at in this translation."))
            return
        ids = [one.id for one in wanted]
        caption = self.approving.caption
        at = ids.index(caption.id) + step if caption is not None and caption.id in ids else 0
        self.page.sheet.choose_caption(ids[at % len(ids)])

    # -- doing --------------------------------------------------------------------------

    def _run(self, name: str) -> None:
        self.desk.commands.run(name)

    def _take(self, text: str) -> None:
        self.session.refuse_if_read_only()
        self.approving.take(text)

    def edit(self) -> None:
        """Open the field of the sentence one is in."""
        if self.field is None:
            from dubrel.desk.translation.targetfield import TargetField  # late: as above

            self.field = TargetField(self.page.sheet)
        if not self.session.read_only:
            self.field.edit()

    def _languages(self) -> None:
        self.show_track(0)
        self.desk.go(self.id)

    def begin(self, language: str, engine: str, style: HouseStyle | None) -> None:
        """Begin a translation."""
        self._said(lambda: self.translating.begin(language, engine, style))

    def begin_from_file(self, language: str, style: HouseStyle | None) -> None:
        """Begin a translation with the words of a caption file."""
        self._said(lambda: self.translating.begin_from_file(language, style))

    def _said(self, work: Callable[[], object]) -> None:
        from dubrel.base.errors import DubrelError

        try:
            work()
        except DubrelError as error:
            self.desk.say(str(error))

    def _none_to_remove(self) -> str:
        return "" if translated_tracks(self.session.project) else tr("There is no translation to remove.")

    def _remove(self) -> None:
        track_id = self.findings.track_id or self.page.overview.chosen
        track = self.session.project.track(track_id)
        if track is None:
            self.desk.say(tr("Choose a language of the table first."))
            return
        name = tr(language_name(track.language))
        history = self.session.history
        if self.desk.ask.yes(
            tr("Remove the translation into {name}? This can be undone.").format(name=name), tr("Remove")
        ):
            self.session.step(
                lambda project: remove_track(project, track_id),
                tr("Remove {name}").format(name=name),
                within=history,
            )
            self.show_track(0)
