"""Editing a cut: out, back, joins moved, takes chosen; every act is one step."""

from __future__ import annotations

from collections.abc import Callable

from dubrel.base.catalogue import counted, shipped, tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.desk.cut.view import CutView
from dubrel.edits.cuts import trimming
from dubrel.edits.cuts.trimming import length_of, spans_of_words, with_whole
from dubrel.model import Project, TakenOut
from dubrel.project.history import History

_BESIDE_MS = 300  # a word so near to a join stands at it


class CutEditing:
    """What hands do to the cut that is shown."""

    def __init__(self, room: CutView) -> None:
        self.room, self.session, self.desk = room, room.session, room.desk

    def _step(
        self,
        verb: Callable[[Project, int], Project],
        label: str,
        *,
        key: str | None = None,
        within: History | None = None,
        wanted: int | None = None,
    ) -> None:
        """One step on the cut that is shown, or on one that was asked about; the first one makes it."""
        if wanted is None:
            wanted = self.room.cut.id if self.room.cut else 0

        def done(project: Project) -> Project:
            cut_id = wanted
            if project.cut(cut_id) is None:
                if wanted:
                    raise DubrelError(tr("That cut is gone. Choose another one."))
                project, cut_id = with_whole(project)
            return verb(project, cut_id)

        self.session.step(done, label, key=key, within=within)

    # -- out and back ----------------------------------------------------------------------

    def take_out_ticked(self) -> None:
        """Take out what is proposed and ticked, as one step."""
        from dubrel.edits.cuts.removals import without_removals  # late: the window opens without it

        chosen, rules = self.room.ticked(), self.room.proposing.rules
        if not chosen:
            self.desk.say(tr("Nothing is ticked. Tick proposals with Alt+Shift+K, or change the rules."))
            return
        many = counted(len(chosen), "passage")
        self._step(
            lambda now, cut: without_removals(now, cut, chosen, rules),
            tr("Take out {many}").format(many=many),
        )
        self.desk.say(tr("{many} taken out.").format(many=many))

    def take_out(self) -> None:
        """Take the selected words, or what is proposed where one stands, out of the cut."""
        sheet, rules = self.room.cut_page.sheet, self.room.proposing.rules
        words = sheet.selected_words()
        offers = [token.proposed for _, token in sheet.selected() if token.proposed]
        if not words and not offers:
            self.desk.say(tr("Select words that are in the cut."))
            return
        if sheet.anchor == sheet.caret and offers:
            spans = [TakenOut(one.start_ms, one.end_ms, one.why) for one in offers[:1]]
        else:
            spans = spans_of_words(self.session.project, words, "by hand", rules.keep_ms)
        self._step(
            lambda now, cut: trimming.taken_out(now, cut, spans, cross_ms=rules.cross_ms),
            tr("Take out {words}").format(words=counted(len(words), "word"))
            if words
            else tr("Take out a pause"),
        )

    def put_back(self) -> None:
        """Put what was taken out in the selection back."""
        sheet = self.room.cut_page.sheet
        spans = [
            (token.start_ms, token.end_ms)
            for _, token in sheet.selected()
            if token.proposed is None and token.kind != "word"
        ]
        if not spans:
            self.desk.say(tr("Go to something that was taken out."))
            return

        def back(project: Project, cut_id: int) -> Project:
            for start, end in spans:
                project = trimming.put_back(project, cut_id, start, end)
            return project

        self._step(back, tr("Put back {passages}").format(passages=counted(len(spans), "passage")))

    def tick(self) -> None:
        """Tick or untick what is proposed in the selection."""
        self.room.cut_page.sheet.tick()

    def other_take(self) -> None:
        """Keep another take of the passage where one stands."""
        token = self.room.cut_page.sheet.current()
        again = token.proposed.again if token is not None and token.proposed else None
        if again is None:
            self.desk.say(tr("Go to a passage that is said again."))
            return
        names = [
            tr("Take {nth}: {text}{what}").format(
                nth=nth, text=take.text[:60], what="…" if len(take.text) > 60 else ""
            )
            for nth, take in enumerate(again.takes, 1)
        ]
        history = self.session.history
        chosen = self.room.ask.cut_choice(tr("Which take stays?"), names)
        if chosen is not None and self.session.history is history:
            self.room.proposing.keep(again.takes[0].words, names.index(chosen))

    # -- joins --------------------------------------------------------------------------------

    def join_here(self) -> int | None:
        """The place of the passage that ends at the join where one stands, or beside which one does."""
        cut, token = self.room.cut, self.room.cut_page.sheet.current()
        if cut is None or token is None or not cut.joins:
            return None
        if token.kind == "word":
            middle = (token.start_ms + token.end_ms) // 2
            for place, one in enumerate(cut.passages):
                if one.start_ms <= middle < one.end_ms:
                    after = place if one.end_ms - token.end_ms <= _BESIDE_MS else None
                    before = place - 1 if token.start_ms - one.start_ms <= _BESIDE_MS else None
                    found = after if before is None else before
                    return found if found is not None and 0 <= found < cut.joins else None
            return None
        ms = token.start_ms if token.proposed is None else -1
        near = (place for place, one in enumerate(cut.passages[:-1]) if abs(one.end_ms - ms) <= 1)
        return next(near, None)

    def drag(self, place: int, edge: str, ms: int) -> None:
        """Move an edge of a passage."""
        self._step(
            lambda now, cut: trimming.edge_moved(now, cut, place, edge, ms),
            tr("Move a join"),
            key=f"join-{place}-{edge}",
        )

    def dropped(self, place: int, edge: str) -> None:
        """Play the join that was moved."""
        cut = self.room.cut
        if cut is not None and cut.joins and self.session.has_recording:
            self.room.cut_page.sheet.go_to(cut.passages[place if edge == "out" else max(0, place - 1)].end_ms)
            self.room.play_join()

    def nudge(self, edge: str, step: int) -> None:
        """Move the end before the join, or the start after it, by a frame."""
        place = self.join_here()
        if place is None:
            self.desk.say(tr("Go to a join first; F8 goes to the next one."))
            return
        at = place if edge == "out" else place + 1
        key = f"nudge-{at}-{edge}"
        self._step(lambda now, cut: trimming.nudged(now, cut, at, edge, step), tr("Nudge a join"), key=key)

    def set_join(self, name: str, value: object) -> None:
        """Give the join where one stands another cross-fade, or its sound a lead."""
        place = self.join_here()
        if place is not None and isinstance(value, int):
            how = {name: value}
            self._step(
                lambda now, cut: trimming.join_set(now, cut, [place], **how), tr("Set a join"), key=name
            )

    # -- cuts and rules ----------------------------------------------------------------------------

    def new_cut(self) -> None:
        """Begin another cut of the whole."""
        history = self.session.history
        name = self.room.ask.cut_name(tr("Another cut"), trimming.WHOLE)
        if name is None:
            return
        if not length_of(self.session.project):
            return
        made: list[int] = []

        def begin(project: Project) -> Project:
            project, cut_id = with_whole(project, name)
            made[:] = [cut_id]
            return project

        self.session.step(begin, tr("Begin a cut"), within=history)
        self.room.choose(made[0])

    def rename(self) -> None:
        """Give the cut another name."""
        cut, history = self.room.cut, self.session.history
        name = self.room.ask.cut_name(tr("Rename the cut"), cut.name) if cut else None
        if cut is not None and name is not None:
            self._step(
                lambda now, cut_id: trimming.renamed(now, cut_id, name),
                tr("Rename the cut"),
                within=history,
                wanted=cut.id,
            )

    def delete(self) -> None:
        """Delete the cut; the recording and its words stay."""
        cut = self.room.cut
        if cut is not None:
            self.session.step(
                lambda now: trimming.without_cut(now, cut.id), tr("Delete “{name}”").format(name=cut.name)
            )
            self.desk.say(tr("“{name}” deleted. Ctrl+Z brings it back.").format(name=cut.name))

    def keep_rules(self) -> None:
        """Keep the rules under a name."""
        from dubrel.user.cutrules import keep_rules  # late: as above

        name = self.room.ask.cut_name(tr("Keep the rules of cutting"), self.room.proposing.rules.name)
        if name is not None:
            rules = replace(self.room.proposing.rules, name=name)
            keep_rules(rules)
            self.room.proposing.rules = rules
            self.desk.say(tr("Kept: {name}.").format(name=name))

    def choose_rules(self) -> None:
        """Take rules that ship, or those kept earlier."""
        from dubrel.model.cutrules import PRESETS  # late: as above
        from dubrel.user.cutrules import all_rules

        rules = {shipped(name, PRESETS): one for name, one in all_rules().items()}
        chosen = self.room.ask.cut_choice(tr("Rules of cutting"), list(rules))
        if chosen in rules:
            self.room.cut_page.show_rules(rules[chosen])
