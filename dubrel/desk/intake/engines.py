"""Recognisers that the user adds, and what a service elsewhere costs before it gets anything."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.desk.intake.questions import IntakeQuestions
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.media.probe import probe
from dubrel.model import Media
from dubrel.model.choices import is_remote
from dubrel.user.settings import SETTINGS

if TYPE_CHECKING:
    from dubrel.desk.intake.page import IntakePage


class Engines:
    """Adds and removes recognisers; asks before anything leaves this machine."""

    def __init__(self, desk: Desk, ask: IntakeQuestions, page: Callable[[], IntakePage]) -> None:
        self.desk, self.ask, self.page = desk, ask, page

    def commands(self) -> list[Command]:
        """What can be done with recognisers."""
        return [
            Command("add_folder", tr("Add a recogniser from a model folder"), "", self.add_folder),
            Command("add_service", tr("Add a service elsewhere as a recogniser"), "", self.add_service),
            Command("remove_engine", tr("Remove the chosen recogniser"), "", self.remove, self._built_in),
        ]

    def _built_in(self) -> str:
        chosen = self.page().choices().engine
        if chosen == "builtin":
            return tr("The built-in recogniser cannot be removed.")
        kind = chosen.partition(":")[0]
        return "" if kind in ("folder", "remote") else tr("It belongs to its package. Uninstall that.")

    def add_folder(self) -> None:
        """Add a model folder to the recognisers."""
        folder = self.ask.model_folder()
        if folder is not None:
            self._add(f"folder:{folder}")

    def add_service(self) -> None:
        """Add a service to the recognisers."""
        given = self.ask.service_address()
        if given is None:
            return
        from dubrel.base.http_client import checked_address
        from dubrel.user.keys import keep_key, key_for  # late: the window opens without it

        address, key = given
        try:
            address = checked_address(address)
            if key:
                beside(partial(keep_key, address, key))
        except DubrelError as error:
            self.desk.say(str(error))
            self.desk.problem.emit(str(error))
            if not key_for(address):
                return
        self._add(f"remote:{address}")

    def _add(self, engine: str) -> None:
        from dubrel.speech.recognise.engines import engine_named  # late: the window opens without it

        try:
            beside(partial(engine_named, engine))
            SETTINGS.write(SETTINGS.read().with_engine(engine))
        except DubrelError as error:
            self.desk.say(str(error))
            self.desk.problem.emit(str(error))
            return
        self.desk.problem.emit("")
        self.page().fill_engines(engine)
        self.desk.go("intake")

    def remove(self) -> None:
        """Take the chosen recogniser out of the list; nothing on the disk is touched."""
        engine = self.page().choices().engine
        SETTINGS.write(SETTINGS.read().without_engine(engine))
        if is_remote(engine):
            from dubrel.user.keys import keep_key  # late: as above

            beside(partial(keep_key, engine.partition(":")[2], ""))
        self.page().fill_engines("builtin")

    def may_use(self, engine: str) -> bool:
        """Whether an engine may get the open recording: one elsewhere only with consent."""
        media = self.desk.session.project.media
        return not is_remote(engine) or bool(media and self.prices(engine, [media]))

    def prices(self, engine: str, recordings: Sequence[Media]) -> list[str]:
        """What a service asks for each recording; empty where it may not be used.

        The price is shown before anything is sent, and once for each service it
        is asked whether recordings may go there at all.
        """
        from dubrel.speech.recognise.engines import engine_named  # late: the window opens without it

        settings, lengths = SETTINGS.read(), [one.duration_ms for one in recordings]
        try:
            service = beside(partial(engine_named, engine))
            asked = [sum(lengths), *lengths]
            total, *each = beside(lambda: [service.price(one) for one in asked])  # type: ignore[union-attr]
        except DubrelError as error:
            self.desk.say(str(error))
            self.desk.problem.emit(str(error))
            return []
        what = f"“{recordings[0].name}”" if len(recordings) == 1 else counted(len(recordings), "recording")
        question = tr("Transcribing {what} elsewhere costs {total}.").format(what=what, total=total)
        if engine not in settings.consented:
            from dubrel.base.http_client import unsafe  # late: as above

            address = engine.partition(":")[2]
            warning = f" {said}" if (said := unsafe(address)) else ""
            question = tr(
                "The sound of {what} would leave this machine and go to {address}.{warning} {question}"
            ).format(what=what, address=address, warning=warning, question=question)
        if not self.desk.ask.yes(question, tr("Send")):
            return []
        SETTINGS.write(settings.with_consent(engine))
        return each

    def queue_prices(self, engine: str, recordings: list[Path]) -> list[str] | None:
        """Prices of recordings for the queue, empty for an engine here; ``None`` where they may not go.

        A recording that cannot be read has no price; the queue will say why.
        """
        if not is_remote(engine):
            return []
        found = beside(lambda: [_probed(one) for one in recordings])
        prices = self.prices(engine, [one for one in found if one is not None])
        if not prices:
            return None
        following = iter(prices)
        return [next(following) if one is not None else "" for one in found]


def _probed(path: Path) -> Media | None:
    try:
        return probe(path)
    except DubrelError:
        return None
