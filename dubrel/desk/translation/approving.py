"""What a person does with translations: approve, take a proposal, say that it still holds, set its lines."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from dubrel.base.catalogue import counted, tr
from dubrel.base.text import word_units
from dubrel.captions.setting.textlines import best_text
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.translation.findings import TranslationFindings
from dubrel.desk.translation.questions import TranslationQuestions
from dubrel.desk.translation.remembering import Remembering
from dubrel.edits.translation.track import approve, renewed, source_changes, write_translation
from dubrel.model import Agreed, Caption, Project

if TYPE_CHECKING:
    from dubrel.desk.translation.facing import FacingSheet
    from dubrel.edits.translation.facing import Slot
    from dubrel.translation.pairs import Pair

_ON = ("translation",)


class Approving:
    """Commands on the chosen caption of a translation."""

    def __init__(
        self,
        desk: Desk,
        ask: TranslationQuestions,
        findings: TranslationFindings,
        remembering: Remembering,
        sheet: Callable[[], FacingSheet],
        no_track: Callable[[], str],
    ) -> None:
        self.desk, self.session, self.ask, self.findings = desk, desk.session, ask, findings
        self.remembering, self._sheet, self.no_track = remembering, sheet, no_track

    def commands(self) -> list[Command]:
        """Approve, take, hold, set lines."""
        one = first(self.no_track, self.none_chosen)
        return [
            Command(
                "approve_next",
                tr("Approve the translation and go to the next"),
                "F5",
                self.approve_next,
                one,
                _ON,
            ),
            Command(
                "approve", tr("Approve the translation, or withdraw that"), "Shift+F5", self.approve, one, _ON
            ),
            Command(
                "still_holds",
                tr("The translation still holds"),
                "Alt+Y",
                self.still_holds,
                first(one, self._unchanged),
                _ON,
            ),
            *self._offer_commands(one),
            Command(
                "translation_lines",
                tr("Set the lines of the translation again"),
                "Ctrl+Shift+Y",
                self.set_lines,
                one,
                _ON,
            ),
            Command(
                "play_translated",
                tr("Play what is translated there"),
                "",
                self.play,
                first(self.desk.without_recording, self.no_track),
                _ON,
            ),
            Command(
                "glossary",
                tr("Open the glossary"),
                "Ctrl+Alt+G",
                self.glossary,
                words=tr("add, remove a term"),
            ),
            *self._memory_commands(self.no_track),
        ]

    def _offer_commands(self, one: Callable[[], str]) -> list[Command]:
        return [
            Command(
                "take_offer", tr("Accept the best offer of the memory"), "Alt+U", self.take_offer, one, _ON
            ),
            Command(
                "take_shorter",
                tr("Accept the longest of the shorter readings"),
                "Alt+L",
                self.take_shorter,
                one,
                _ON,
            ),
            Command(
                "use_everywhere",
                tr("Use the translation wherever the same is said"),
                "Ctrl+U",
                self.use_everywhere,
                one,
                _ON,
            ),
        ]

    def _memory_commands(self, track: Callable[[], str]) -> list[Command]:
        return [
            Command(
                "replace_translation",
                tr("Find and replace in original and translation"),
                "Ctrl+H",
                self.replace,
                track,
                words=tr("replace all"),
            ),
            Command(
                "import_memory",
                tr("Import a translation memory (TMX)"),
                "",
                self.remembering.import_file,
                track,
            ),
            Command(
                "export_memory",
                tr("Export the translation memory (TMX)"),
                "",
                self.remembering.export_file,
                track,
            ),
        ]

    # -- what is chosen -----------------------------------------------------------------

    @property
    def slot(self) -> Slot | None:
        """The chosen slot."""
        return self._sheet().slot if self.findings.track is not None else None

    @property
    def caption(self) -> Caption | None:
        """The chosen caption of the translation."""
        return self.slot.caption if self.slot else None

    def pair(self) -> Pair | None:
        """The sentences that the chosen slot belongs to."""
        from dubrel.translation.pairs import pair_of, pair_of_words  # late: the window opens without it

        track, slot = self.findings.track, self.slot
        if track is None or slot is None:
            return None
        if slot.caption is not None:
            return pair_of(self.session.project, track, slot.caption)
        return pair_of_words(
            self.session.project, track, (word for one in slot.sources for word in one.words)
        )

    def none_chosen(self) -> str:
        """Why nothing can be done with a caption."""
        return "" if self.caption is not None else tr("No translation is chosen. Choose one in Translation.")

    def _unchanged(self) -> str:
        track, caption = self.findings.track, self.caption
        changed = (
            track is not None and caption is not None and source_changes(self.session.project, track, caption)
        )
        return "" if changed else tr("The original has not changed since this was translated.")

    # -- approving ----------------------------------------------------------------------

    def approve_next(self) -> None:
        """Approve, and go to the next one that is not approved."""
        caption = self.caption
        if caption is not None and not caption.text.strip():
            self.desk.say(tr("There is nothing to approve yet. Write the translation first."))
            return
        if caption is not None and not caption.done:
            self._approved(caption)
        if not self._sheet().next_where(lambda slot: slot.caption is None or not slot.caption.done):
            self.desk.say(tr("Every caption of this translation is approved."))

    def approve(self) -> None:
        """Approve the chosen caption, or take that back."""
        caption, track = self.caption, self.findings.track
        if caption is None or track is None:
            return
        if caption.done:
            self.session.step(
                lambda project: approve(project, track.id, [caption.id], False), tr("Withdraw the approval")
            )
        elif not caption.text.strip():
            self.desk.say(tr("There is nothing to approve yet. Write the translation first."))
        else:
            self._approved(caption)

    def _approved(self, caption: Caption) -> None:
        """Approve; a sentence that is approved whole is remembered and filled in where it comes again."""
        track = self.findings.track
        assert track is not None
        pair, filled, others = None, 0, 0

        def approved(project: Project) -> Project:
            nonlocal pair, filled, others
            project = approve(project, track.id, [caption.id])
            if source_changes(project, track, caption):
                project = renewed(project, track.id, [caption.id])
            pair = self.pair_in(project, caption)
            if pair is not None and pair.approved:
                project, filled, others = self._filled(project, pair)
            return project

        self.session.step(approved, tr("Approve a translation"))
        said = (
            tr("Filled in at {places} where the same is said. ").format(places=counted(filled, "other place"))
            if filled
            else ""
        )
        if others:
            said += tr("{places} translate the same differently: {keys} changes them too.").format(
                places=counted(others, "other place"), keys=self.desk.commands.keys("use_everywhere")
            )
        if said:
            self.desk.say(said.strip())

    def pair_in(self, project: Project, caption: Caption) -> Pair | None:
        """A caption of the open track with what it translates; ``None`` where it is gone."""
        from dubrel.project.index import caption_with
        from dubrel.translation.pairs import pair_of  # late: as above

        track = project.track(self.findings.track_id)
        present = caption_with(project, self.findings.track_id, caption.id)
        return pair_of(project, track, present) if track and present else None

    def _alike(self, project: Project, pair: Pair) -> list[Pair]:
        """The other sentences that say the same and are translated otherwise, or not at all."""
        from dubrel.translation.pairs import pairs_of  # late: as above

        track = project.track(self.findings.track_id)
        if track is None or sum(one == pair.source for one in self.findings.sources) < 2:
            return []
        found = beside(lambda: pairs_of(project, track))
        mine = {one.id for one in pair.captions}
        return [
            one
            for one in found
            if one.source == pair.source
            and one.target != pair.target
            and not mine & {c.id for c in one.captions}
        ]

    def _filled(self, project: Project, pair: Pair) -> tuple[Project, int, int]:
        """The translation in the places that are the machine's.

        How many these are, and how many are a person's.
        """
        alike = self._alike(project, pair)
        free = [one for one in alike if not one.edited and not any(caption.done for caption in one.captions)]
        return self._put_in(project, pair, free, ()), len(free), len(alike) - len(free)

    def _put_in(self, project: Project, pair: Pair, places: list[Pair], over: tuple[Agreed, ...]) -> Project:
        from dubrel.edits.translation.placing import with_translations  # late: the window opens without it
        from dubrel.translation.cutting import Cut, cut_all  # late: arrays
        from dubrel.translation.pairs import whole_task

        track = project.track(self.findings.track_id)
        if track is None or not places:
            return project
        tasks = [whole_task(project, track, one) for one in places]
        units = tuple(word_units(pair.target))
        cuts = cut_all([Cut(task.said, units, task.edges, track.language) for task in tasks])
        found = [task.made(pair.target, cut) for task, cut in zip(tasks, cuts)]
        return with_translations(project, track.id, found, over)

    def use_everywhere(self) -> None:
        """Put the translation of the chosen sentence wherever the same is said, whoever wrote it."""
        from dubrel.translation.choosing import agreed_over  # late: as above

        pair = self.pair()
        if pair is None or not pair.target:
            return
        places = self._alike(self.session.project, pair)
        if not places:
            self.desk.say(tr("The same is said nowhere else, or translated like this already."))
            return
        over = agreed_over(places)
        self.session.step(
            lambda project: self._put_in(project, pair, places, over), tr("Use a translation everywhere")
        )
        self.desk.say(tr("Changed: {places}.").format(places=counted(len(places), "other place")))

    def still_holds(self) -> None:
        """The original changed, and the translation need not."""
        caption, track = self.caption, self.findings.track
        if caption is not None and track is not None:
            self.session.step(
                lambda project: renewed(project, track.id, [caption.id]), tr("The translation still holds")
            )

    # -- proposals ----------------------------------------------------------------------

    def take(self, text: str) -> None:
        """Put a text in place of the chosen sentence: what is offered is a whole sentence."""
        from dubrel.edits.translation.placing import with_translations  # late: the window opens without it

        pair, track = self.pair(), self.findings.track
        if pair is None or track is None or not text:
            return
        from dubrel.translation.choosing import agreed_over  # late: as above
        from dubrel.translation.cutting import Cut, cut_all
        from dubrel.translation.pairs import whole_task

        base, slot = self.session.project, self.slot
        task = whole_task(base, track, pair)
        [cut] = cut_all([Cut(task.said, tuple(word_units(text)), task.edges, track.language)])
        made = with_translations(base, track.id, [task.made(text, cut)], agreed_over([pair]))
        self.session.apply(made, tr("Accept a proposal"), base=base)
        if slot is not None:
            self._sheet().choose_at(slot.start_ms)

    def take_offer(self) -> None:
        """Take the best offer of the memory."""
        offered = self.remembering.offered
        if not offered:
            self.desk.say(tr("The memory has nothing like this sentence."))
            return
        self.take(offered[0].target)

    def take_shorter(self) -> None:
        """Take the shorter reading that changes the least."""
        texts = self.remembering.shorter
        if not texts:
            self.desk.say(tr("There is no shorter reading to propose. Shorten it by hand."))
            return
        self.take(texts[0])

    def set_lines(self) -> None:
        """Break the translation into the best lines."""
        caption, track = self.caption, self.findings.track
        if caption is None or track is None or not caption.text:
            return
        text = best_text(caption.text, track.rules, track.language)
        if text == caption.text:
            self.desk.say(tr("Its lines are the best already."))
            return
        self.session.step(
            lambda project: write_translation(project, track.id, caption.id, text), tr("Set lines")
        )

    # -- others -------------------------------------------------------------------------

    def play(self) -> None:
        """Play what the chosen slot translates."""
        if self.slot is not None:
            self.desk.play(self.slot.start_ms, self.slot.end_ms, 0)

    def glossary(self) -> None:
        """Open the glossary for the language of the open track."""
        track = self.findings.track
        self.ask.glossary(track.language if track else "pt")

    def replace(self) -> None:
        """Find and replace."""
        self.ask.replacing(self.findings.track_id)
