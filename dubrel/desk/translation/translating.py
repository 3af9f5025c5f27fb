"""Translations that the machine makes: begun, gone on with, made again.

From a file too, and by translators that the user adds.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_name
from dubrel.base.value import replace
from dubrel.desk.shell.core.background import aside, beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.translation.findings import TranslationFindings
from dubrel.desk.translation.questions import TranslationQuestions
from dubrel.edits.translation.track import begin_track, mirrored, translated_tracks
from dubrel.edits.words.terms import merged
from dubrel.model import Agreed, HouseStyle, Project
from dubrel.project.tracks import with_captions
from dubrel.user.settings import SETTINGS

if TYPE_CHECKING:
    from pathlib import Path

    from dubrel.jobs.machinery.events import Event
    from dubrel.translation.pairs import Pair, Task

_ON = ("translation",)


class Translating:
    """Starts translating, and applies what comes of it."""

    def __init__(
        self,
        desk: Desk,
        ask: TranslationQuestions,
        findings: TranslationFindings,
        show: Callable[[int], object],
    ) -> None:
        self.desk, self.session, self.ask, self.findings, self._show = desk, desk.session, ask, findings, show
        self.track_id = 0  # into which sentences are being translated
        self.session.changed.connect(self._cancel_where_removed)
        self.engines: dict[int, str] = {}  # by which a track was translated last
        self.pair: Callable[[], Pair | None] = lambda: None  # the chosen one

    def commands(self) -> list[Command]:
        """Translate the rest, again, what changed; translators; a file."""
        track, free = self.no_track, self._translating
        return [
            Command(
                "translate_rest",
                tr("Translate what is not translated yet"),
                "Ctrl+Shift+G",
                self.rest,
                first(track, free),
            ),
            Command(
                "translate_again",
                tr("Translate the sentence again"),
                "Alt+G",
                self.again,
                first(track, self._no_pair, free),
                _ON,
            ),
            Command(
                "translate_changed",
                tr("Translate again what has changed in the original"),
                "Ctrl+G",
                self.changed,
                first(track, free),
            ),
            Command(
                "translation_file",
                tr("Replace the translation by captions of a file"),
                "",
                self.file,
                first(track, free),
            ),
            Command("add_translator_folder", tr("Add a translation model folder"), "", self.add_folder),
            Command(
                "add_translator_service", tr("Add a translation service elsewhere"), "", self.add_service
            ),
            Command(
                "remove_translator",
                tr("Remove a translator that was added"),
                "",
                self.remove_translator,
                self._none_added,
            ),
        ]

    # -- why not ------------------------------------------------------------------------

    def no_track(self) -> str:
        """Why nothing can be done with a translation."""
        reason = self.desk.without_captions()
        if not reason and self.findings.track is None:
            others = translated_tracks(self.session.project)
            do = tr("Choose one in the table and press Enter.") if others else tr("Begin one in Translation.")
            return tr("No translation is open. {do}").format(do=do)
        return reason

    def _no_pair(self) -> str:
        return "" if self.pair() else tr("No sentence is chosen. Choose one in Translation.")

    def _translating(self) -> str:
        if self.desk.jobs.runs("translate"):
            return tr("Sentences are being translated already. Wait until that is done, or cancel it first.")
        return self.desk.still_transcribing()

    def _none_added(self) -> str:
        return "" if SETTINGS.read().translators else tr("No translator has been added.")

    # -- translating --------------------------------------------------------------------

    def begin(self, language: str, engine: str, style: HouseStyle | None) -> None:
        """Begin a translation, by a translator or by hand."""
        reason = self._translating()
        if reason and engine:
            self.desk.say(reason)
            return
        history, track_id = self.session.history, 0

        def begun(project: Project) -> Project:
            nonlocal track_id
            project, track_id = begin_track(project, language, style)
            return project if engine else mirrored(project, track_id)

        if not engine:
            self.session.step(begun, tr("Begin {language}").format(language=tr(language_name(language))))
            self._show(track_id)
            return
        draft = begun(self.session.project)
        tasks = self._missing(draft, track_id)
        if not self.may_send(engine, language, [task.text for task in tasks]):
            return
        self.session.step(
            begun,
            tr("Translate into {language}").format(language=tr(language_name(language))),
            within=history,
        )
        self._show(track_id)
        self._start(track_id, engine, tasks)

    def _missing(self, project: Project, track_id: int) -> tuple[Task, ...]:
        from dubrel.translation.choosing import missing_tasks  # late: the window opens without it

        track = project.track(track_id)
        return beside(lambda: missing_tasks(project, track)) if track else ()

    def _engine(self) -> str:
        """By which the open track is translated: the one that did it before, or the best."""
        from dubrel.translation.choosing import offers  # late: as above

        track = self.findings.track
        if track is None:
            return ""
        known = self.engines.get(track.id)
        if known:
            return known
        source = self.session.project.transcript.language
        usable = [
            one for one in offers(source, track.language, SETTINGS.read().translators) if not one.why_not
        ]
        if not usable[0].name:
            raise DubrelError(
                tr(
                    "Nothing here translates from {source} into {language}. Add a model folder or a "
                    "service, or write the translation by hand."
                ).format(source=tr(language_name(source)), language=tr(language_name(track.language)))
            )
        return usable[0].name

    def rest(self) -> None:
        """Translate what has no translation yet."""
        track = self.findings.track
        assert track is not None
        tasks = self._missing(self.session.project, track.id)
        if not tasks:
            self.desk.say(tr("Everything is translated."))
            return
        self._go_on(self._engine(), tasks, (), tr("Translate the rest"))

    def again(self) -> None:
        """Translate the chosen sentence again; what a person did with it goes."""
        pair = self.pair()
        if pair is not None:
            self._pairs_again([pair], tr("Translate again"))

    def changed(self) -> None:
        """Translate again every sentence whose original has changed."""
        from dubrel.translation.choosing import changed_pairs  # late: as above
        from dubrel.translation.pairs import pairs_of

        project, track = self.session.project, self.findings.track
        assert track is not None
        pairs = beside(lambda: changed_pairs(project, track, pairs_of(project, track)))
        if not pairs:
            self.desk.say(tr("The original has not changed since it was translated."))
            return
        if self._may_go(
            pairs, tr("{sentences} of the original changed").format(sentences=counted(len(pairs), "sentence"))
        ):
            self._pairs_again(pairs, tr("Translate what has changed"))

    def between(self, start_ms: int, end_ms: int) -> None:
        """Translate what is said between two times, again where it is translated already."""
        from dubrel.translation.pairs import pairs_of  # late: as above

        project, track = self.session.project, self.findings.track
        if track is None:
            raise DubrelError(tr("No translation is open. Begin one, or open one of the table."))
        found = beside(lambda: pairs_of(project, track))
        pairs = [one for one in found if not one.is_orphan and start_ms <= one.start_ms < end_ms]
        if not pairs:
            self.desk.say(tr("Nothing is said between in and out."))
            return
        if self._may_go(
            pairs, tr("{sentences} between in and out").format(sentences=counted(len(pairs), "sentence"))
        ):
            self._pairs_again(pairs, tr("Translate a passage"))

    def _may_go(self, pairs: Sequence[Pair], what: str) -> bool:
        """Whether translations may be made again; asked where a person has worked on some."""
        hands = sum(pair.approved or pair.edited for pair in pairs)
        question = tr(
            "{what}; {translations} of them you approved or edited. Translate all of them again?"
        ).format(what=what, translations=counted(hands, "translation"))
        return not hands or self.desk.ask.yes(question, tr("Translate again"))

    def _pairs_again(self, pairs: Sequence[Pair], label: str) -> None:
        from dubrel.translation.choosing import agreed_over, tasks_of  # late: as above

        track = self.findings.track
        assert track is not None
        tasks = tasks_of(self.session.project, track, pairs)
        gone = [one.id for pair in pairs if pair.is_orphan for one in pair.captions]
        if not tasks:
            self.session.step(lambda project: with_captions(project, track.id, dict.fromkeys(gone)), label)
            return
        self._go_on(self._engine(), tasks, agreed_over(pairs), label, gone)

    def _go_on(
        self,
        engine: str,
        tasks: Sequence[Task],
        over: tuple[Agreed, ...],
        label: str,
        gone: Sequence[int] = (),
    ) -> None:
        """Translate, as a step; captions of which nothing of the original is left go with it."""
        track, history = self.findings.track, self.session.history
        if track is None or not self.may_send(engine, track.language, [task.text for task in tasks]):
            return

        def begun(project: Project) -> Project:  # the step that undo takes back
            return replace(with_captions(project, track.id, dict.fromkeys(gone)))

        self.session.step(begun, label, within=history)
        self._start(track.id, engine, tuple(tasks), over, remembered=not over)

    def _start(
        self,
        track_id: int,
        engine: str,
        tasks: tuple[Task, ...],
        over: tuple[Agreed, ...] = (),
        remembered: bool = True,
    ) -> None:
        from dubrel.jobs.translating import Order  # late: as above
        from dubrel.translation.choosing import approved_pairs, way_back
        from dubrel.translation.memory import memory_path
        from dubrel.translation.pairs import pairs_of

        project = self.session.project
        track = project.track(track_id)
        if track is None:
            raise DubrelError(tr("That translation was removed in the meantime. Begin it again."))
        self.engines[track_id] = engine
        source = project.transcript.language
        known = beside(lambda: approved_pairs(pairs_of(project, track))) if remembered else ()
        order = Order(
            track_id,
            tasks,
            source,
            track.language,
            engine,
            way_back(source, track.language, SETTINGS.read().translators),
            merged(project.terms, self.desk.known_terms()),
            str(memory_path()) if remembered else "",
            known,
            over,
        )
        self.track_id = track_id
        languages = (source, track.language)
        take = partial(self._take, track_id, languages)
        self.desk.jobs.start("translate", order, mark=self.session.history.mark(), take=take)

    def _cancel_where_removed(self, _change: object) -> None:
        """A track that is gone (removed, undone, of another version) is translated no further."""
        if self.desk.jobs.runs("translate") and self.session.project.track(self.track_id) is None:
            self.desk.jobs.cancel("translate")
            self.desk.say(tr("The translation was removed; translating has stopped."))

    def _take(self, track_id: int, languages: tuple[str, str], event: Event) -> None:
        from dubrel.jobs.machinery.events import SentencesTranslated, SentencesWeighed  # late: as above
        from dubrel.jobs.machinery.fold import arrival

        running = self.desk.jobs.running("translate")
        if running is None or running.history is not self.session.history:
            return
        if isinstance(event, SentencesTranslated):
            self.desk.jobs.arrive("translate", arrival(event, self.session.project.next_id))
        elif isinstance(event, SentencesWeighed):
            from dubrel.translation.known import remember

            if self.findings.track_id == track_id:
                self.findings.weighed(event.found)
            aside(partial(remember, event.found, languages))

    def may_send(self, engine: str, language: str, texts: Sequence[str]) -> bool:
        """Whether text may go to a translator.

        To one elsewhere only with consent, for a price that was shown.
        """
        if not engine.startswith("remote:"):
            return True
        from dubrel.base.http_client import unsafe  # late: as above
        from dubrel.translation.translators.remote import RemoteTranslator, consent_name

        address = engine.partition(":")[2]
        source = self.session.project.transcript.language
        try:
            price = beside(lambda: RemoteTranslator(address, source, language).offer().price(texts))
        except DubrelError as error:
            self.desk.say(str(error))
            return False
        settings, name = SETTINGS.read(), consent_name(address)
        question = tr("Translating {sentences} there costs {price}.").format(
            sentences=counted(len(texts), "sentence"), price=price
        )
        if name not in settings.consented:
            warning = f" {said}" if (said := unsafe(address)) else ""
            question = tr(
                "The text would leave this machine and go to {address}.{warning} {question}"
            ).format(address=address, warning=warning, question=question)
        if not self.desk.ask.yes(question, tr("Send")):
            return False
        SETTINGS.write(settings.with_consent(name))
        return True

    # -- from a file, translators -------------------------------------------------------

    def begin_from_file(self, language: str, style: HouseStyle | None) -> None:
        """Begin a translation with the captions of a file."""
        path = self.ask.translation_file()
        if path is not None:
            base = self.session.project
            project, track_id = begin_track(base, language, style)
            self._paired(
                base,
                project,
                track_id,
                path,
                tr("Begin {language} from a file").format(language=tr(language_name(language))),
            )
            self._show(track_id)

    def file(self) -> None:
        """Replace the open translation by the captions of a file."""
        path = self.ask.translation_file()
        if path is not None and self.findings.track is not None:
            base = self.session.project
            self._paired(base, base, self.findings.track_id, path, tr("Import a translation"))

    def _paired(self, base: Project, project: Project, track_id: int, path: Path, label: str) -> None:
        from dubrel.translation.fromfile import paired_file  # late: as above

        paired, said = beside(lambda: paired_file(project, track_id, path))
        self.session.apply(paired.project, label, base=base)
        self.desk.say(" ".join(said))

    def add_folder(self) -> None:
        """Add a folder with a model, tried with a sentence."""
        where = self.ask.translator_folder()
        if where is None:
            return
        from dubrel.translation.translators.neural import languages_of, tried  # late: as above

        pair = languages_of(str(where))
        beside(partial(tried, str(where)))
        self._add(f"folder:{where}")
        one, other = (tr(language_name(tag)) for tag in pair)
        self.desk.say(
            tr("“{name}” translates from {one} to {other}.").format(name=where.name, one=one, other=other)
        )

    def add_service(self) -> None:
        """Add a service elsewhere."""
        given = self.ask.translator_address()
        if given is None:
            return
        from dubrel.base.http_client import checked_address
        from dubrel.user.keys import keep_key  # late: as above

        address, key = checked_address(given[0]), given[1]
        if key:
            beside(partial(keep_key, address, key))
        self._add(f"remote:{address}")

    def _add(self, name: str) -> None:
        settings = SETTINGS.read()
        if name not in settings.translators:
            SETTINGS.write(replace(settings, translators=(*settings.translators, name)))
        if self.findings.track is None:
            self._show(0)

    def remove_translator(self) -> None:
        """Take a translator off the list; nothing on the disk is touched."""
        settings = SETTINGS.read()
        names = list(settings.translators)
        name = self.desk.ask.one_of(tr("Remove a translator"), tr("Which one"), names, tr("Remove"))
        if name:
            kept = tuple(one for one in names if one != name)
            SETTINGS.write(replace(settings, translators=kept))
            if self.findings.track is None:
                self._show(0)
