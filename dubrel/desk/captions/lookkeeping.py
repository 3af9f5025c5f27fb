"""Looks of captions kept, imported, exported, forgotten."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from dubrel.base.catalogue import shipped, tr
from dubrel.desk.captions.questions import CaptionQuestions
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk

if TYPE_CHECKING:
    from dubrel.desk.captions.lookpanel import LookPanel


class LookKeeping:
    """What is done with looks.

    Parameters
    ----------
    panel : callable
        The panel in which the look is shown.
    """

    def __init__(self, desk: Desk, ask: CaptionQuestions, panel: Callable[[], LookPanel]) -> None:
        self.desk, self.ask, self._panel = desk, ask, panel

    def commands(self) -> list[Command]:
        """What can be done, with the first keys."""
        captions = self.desk.without_captions
        return [
            Command("choose_look", tr("Choose a look of the captions"), "", self.choose, captions),
            Command("keep_look", tr("Keep the look under a name"), "", self.keep, captions),
            Command("import_look", tr("Import a look"), "", self.load, captions),
            Command("export_look", tr("Export the look"), "", self.write, captions),
            Command("delete_look", tr("Delete a look of your own"), "", self.forget, self._none_kept),
        ]

    def _none_kept(self) -> str:
        from dubrel.user.looks import OWN  # late: the window opens without it

        return "" if OWN.path.is_file() else tr("There are no looks of your own. Keep one first.")

    def choose(self) -> None:
        """Give the captions a look that ships, or one that was kept."""
        from dubrel.captions.looks import LOOKS  # late: the window opens without it
        from dubrel.user.looks import all_looks

        history, looks = self.desk.session.history, all_looks()
        names = {shipped(one, LOOKS): one for one in looks}
        said = self.desk.ask.one_of(tr("Look of the captions"), tr("The look"), list(names), tr("Choose"))
        name = names.get(said or "")
        if name and self.desk.session.history is history:
            self._panel().give(looks[name], tr("Look: {name}").format(name=name))

    def keep(self) -> None:
        """Keep the look that is shown."""
        from dubrel.user.looks import keep_look, name_of  # late: as above

        look = self._panel().look
        name = self.ask.line(tr("Keep the look"), tr("Name"), name_of(look))
        if name:
            keep_look(name, look)
            self._panel().refresh_names()
            self.desk.say(tr("Kept: {name}.").format(name=name))

    def load(self) -> None:
        """Take a look from a file; it is kept, and given to the captions."""
        from dubrel.captions.looks import LOOKS  # late: as above
        from dubrel.store.lookfile import read_look
        from dubrel.user.looks import keep_look

        history = self.desk.session.history
        path = self.ask.look_file()
        if path is None:
            return
        name, look = read_look(path)
        if LOOKS.get(name) != look:
            name = tr("{name}, imported").format(name=name) if name in LOOKS else name
            keep_look(name, look)
        if self.desk.session.history is history:
            self._panel().give(look, tr("Look: {name}").format(name=name))
            self._panel().refresh_names()

    def write(self) -> None:
        """Write the look that is shown to be shared."""
        from dubrel.store.lookfile import write_look  # late: as above
        from dubrel.user.looks import name_of

        look = self._panel().look
        name = name_of(look) or tr("Look")
        path = self.ask.look_file(name)
        if path is not None:
            write_look(name, look, path)
            self.desk.say(tr("“{name}” is written to {name2}.").format(name=name, name2=path.name))

    def forget(self) -> None:
        """Delete one of the user's own looks."""
        from dubrel.user.looks import OWN, forget_look  # late: as above

        own = list(OWN.read())
        name = self.desk.ask.one_of(tr("Delete a look"), tr("The look"), own, tr("Delete"))
        if name:
            forget_look(name)
            self._panel().refresh_names()
            self.desk.say(
                tr("“{name}” is no longer kept. Captions that have it keep theirs.").format(name=name)
            )
