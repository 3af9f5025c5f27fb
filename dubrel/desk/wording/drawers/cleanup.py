"""Clean up: fillers, repeats, false starts, figures, capitals, quotes; shown, then done as one step."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from dubrel.base.catalogue import counted, tr
from dubrel.base.value import replace
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.wording.drawerpage import DrawerPage
from dubrel.desk.wording.rows import Row
from dubrel.edits.words import cleaning, figures
from dubrel.edits.words.cleaning import Proposal, cleaned_up
from dubrel.edits.words.striking import fillers as struck_fillers
from dubrel.edits.words.striking import is_verbatim, reading
from dubrel.media.cache import is_read, sound_path
from dubrel.model import Project
from dubrel.user.settings import SETTINGS

_KINDS: dict[str, tuple[str, Callable[[Project], list[Proposal]]]] = {
    "fillers": (tr("Fillers"), lambda project: cleaning.fillers(project, SETTINGS.read().own_fillers)),
    "repeats": (tr("Repeats and false starts"), cleaning.repeats),
    "stops": (tr("Capitals and full stops"), cleaning.capitals_and_stops),
    "quotes": (tr("Quotes and dashes"), cleaning.quotes_and_dashes),
    "words": (tr("Figures as words"), figures.figures_as_words),
    "figures": (tr("Words as figures"), figures.words_as_figures),
}
_SURE = 0.5


class CleanUpPage(DrawerPage):
    """Proposes and does."""

    id, name = "cleanup", tr("Clean up")
    nothing = tr("Nothing of this kind is left.")

    def __init__(self, desk: Desk, sheet: TypingSheet) -> None:
        super().__init__(desk, sheet)

    def fill_top(self) -> None:
        """The kind, and what can be done."""
        kinds = {one: text for one, (text, _) in _KINDS.items()}
        self.kind = self.choice(tr("What to clean up"), kinds, self._changed)
        self.top.addWidget(self.summary)
        self.top.addStretch(1)
        self.none = self.act(tr("Tick none"), lambda: self.list.tick_all(False))
        self.every = self.act(tr("Tick all"), lambda: self.list.tick_all(True))
        self.delete = self.act(tr("Delete ticked"), lambda: self.clean(delete=True))
        self.strike = self.act(tr("Strike ticked"), lambda: self.clean(), True)

    def _changed(self) -> None:
        self.list.show_rows([])
        self.refresh()

    def rows(self, project: Project) -> Sequence[Row]:
        """The proposals of the chosen kind."""
        known = {(row.words, row.text): row.ticked for row in self.list.rows}
        found = []
        for one in self._proposals(project):
            ids = tuple(word.id for word in one.words)
            becomes = "" if one.becomes is None else " ".join(text for text in one.becomes if text)
            row = self.row_of(
                ids,
                becomes=becomes,
                ticked=one.sure >= _SURE,
                note=tr(one.kind) if one.becomes is None else "",
                of=one,
            )
            if row is not None:
                ticked = known.get((row.words, row.text), row.ticked)
                found.append(replace(row, ticked=ticked))
        return found

    def _proposals(self, project: Project) -> list[Proposal]:
        """What the chosen kind finds; of repeats, the sound says which were really said twice."""
        kind, recording = self.kind.currentData(), self.session.recording
        if kind != "repeats" or recording is None or not is_read(recording):
            return _KINDS[kind][1](project)

        def listen() -> list[Proposal]:
            from dubrel.finding.repeatsound import sound_alike
            from dubrel.media.sound import samples_in

            return cleaning.repeats(project, sound_alike(samples_in(sound_path(recording))))

        return beside(listen)

    def say_how_many(self) -> None:
        """How many are ticked, and how many are struck already."""
        rows, ticked = self.list.rows, len(self.list.ticked())
        goes = not rows or rows[0].becomes == ""
        self.strike.setText(tr("Strike ticked") if goes else tr("Replace ticked"))
        self.delete.setVisible(goes)
        for one in (self.strike, self.delete):
            one.setEnabled(ticked > 0)
        for one in (self.none, self.every):
            one.setEnabled(bool(rows))
        said = tr("{ticked} of {rows} ticked").format(ticked=ticked, rows=len(rows)) if rows else ""
        struck = len(struck_fillers(self.session.project)) if goes else 0
        if struck:
            shown = "shown" if is_verbatim(self.session.project) else "struck"
            said = ", ".join(
                part
                for part in (said, tr("{struck} {shown} already").format(struck=struck, shown=shown))
                if part
            )
        self.summary.setText(said)
        for one in (self.none, self.every, self.delete, self.strike):
            one.setEnabled(bool(self.list.rows))

    def clean(self, *, delete: bool = False) -> None:
        """Do what is ticked, as one step."""
        chosen = [row.of for row in self.list.ticked()]
        if not chosen:
            self.desk.say(tr("Nothing is ticked.") if self.list.rows else self.why_empty())
            return
        what = self.kind.currentText().lower()
        act = tr("Delete") if delete else tr("Strike") if chosen[0].becomes is None else tr("Clean up")
        self.session.step(lambda project: cleaned_up(project, chosen, delete=delete), f"{act} {what}")
        self.desk.say(f"{act}: {counted(len(chosen), 'place')}.")
        self.refresh()

    def switch_reading(self) -> None:
        """Show the words verbatim, or clean."""
        project = self.session.project
        if not struck_fillers(project):
            self.desk.say(tr("No fillers are struck yet. Clean up strikes them first."))
            return
        verbatim = not is_verbatim(project)
        label = tr("Read verbatim") if verbatim else tr("Read clean")
        self.session.apply(reading(project, verbatim), label, base=project)
        self.desk.say(tr("Verbatim: fillers are shown.") if verbatim else tr("Clean: fillers are struck."))
