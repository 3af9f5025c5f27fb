"""Sessions of core verbs by chance, with arrivals, undo, files, crashes and recoveries in between."""

from __future__ import annotations

import traceback
from dataclasses import dataclass, field
from pathlib import Path
from random import Random

from random_checks import check_project, check_saved, check_step, plain, words_of
from random_projects import any_project, any_style
from random_verbs import RETIMING, VERBS, heard_more

from dubrel.base.errors import DubrelError
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.translation.facing import Facing, Slot
from dubrel.jobs.machinery.events import CaptionsSet, Recognised, SentencesTranslated, SpeakersFound
from dubrel.jobs.machinery.fold import arrival
from dubrel.model import Caption, Project
from dubrel.project.changes import change_between
from dubrel.project.history import History
from dubrel.translation.choosing import missing_tasks


@dataclass
class Finding:
    """Something that did not hold."""

    seed: int
    step: int
    verb: str
    error: str
    trace: str = ""


@dataclass
class CoreSession:
    """One session.

    Attributes
    ----------
    seed : int
    steps : int
    folder : Path or None
        For journals; without one nothing is killed and recovered.
    """

    seed: int
    steps: int = 100
    folder: Path | None = None
    done: int = 0
    findings: list[Finding] = field(default_factory=list)

    def run(self) -> list[Finding]:
        """Do it; what did not hold. The first finding ends the session."""
        chance = Random(self.seed)
        self.verb, step = "begin", 0
        try:
            project = any_project(chance)
            check_project(project)
            self.history, self.first = History(project), project
            self.facing: dict[int, tuple[Project, Facing]] = {}
            self.uncaptioned: set[int] = set()
            self.aside: Project = project  # what a job began with, and where
            self.mark, self.latest = self.history.mark(), words_of(project)[-1].end_ms
            for step in range(self.steps):
                self._step(chance, step)
            self.verb = "undo to the first value"
            self._undo_all()
        except Exception as error:
            self.findings.append(
                Finding(
                    self.seed, step, self.verb, f"{type(error).__name__}: {error}", traceback.format_exc()
                )
            )
        return self.findings

    def _step(self, chance: Random, step: int) -> None:
        luck, history = chance.random(), self.history
        old = history.present
        self.verb = "arrival"
        if luck < 0.06:
            self._arrive(chance)
        elif luck < 0.10:
            self.verb = "undo"
            history.undo()
        elif luck < 0.12:
            self.verb = "redo"
            history.redo()
        elif luck < 0.15:
            self.verb, self.aside, self.mark = "begin a job", old, history.mark()
        else:
            act = chance.choice(VERBS)
            self.verb = act.__name__
            try:
                new = act(old, chance) if words_of(old) else old
            except DubrelError:
                return
            self._note_uncaptioned(old, new, act.__name__)
            if words_of(new):
                history.apply(new, act.__name__)
                check_step(old, new, retimes=act.__name__ in RETIMING)
                self.done += 1
        self.latest = max([self.latest, *(word.end_ms for word in words_of(history.present))])
        check_project(history.present, self.uncaptioned)
        self._check_facing(history.present)
        if step % 10 == 0:
            check_saved(history.present)
        if self.folder is not None and step % 40 == 39:
            self.verb = "kill and recover"
            self._killed()

    def _check_facing(self, project: Project) -> None:
        """What stands beside what, kept up by each change, is what is found anew."""
        for track in project.tracks:
            if track.spoken:
                continue
            before, facing = self.facing.get(track.id, (None, Facing()))
            if before is None or before.track(track.id) is None:
                kept = facing.slots(project, track)
            else:
                kept = facing.renewed(change_between(before, project), track)
            anew = Facing().slots(project, track)
            assert [(one.caption, one.sources) for one in kept] == [
                (one.caption, one.sources) for one in anew
            ]
            assert [facing.place_of(one.id) for one in kept] == list(range(len(anew)))
            self.facing[track.id] = (project, facing)

    def _note_uncaptioned(self, old: Project, new: Project, verb: str) -> None:
        """Words whose captions a person deleted may be in none from then on, whatever is undone."""
        if verb in ("delete_captions", "take_text", "hand_in_translation"):
            self.uncaptioned |= {word.id for word in words_of(new)}

    def _arrive(self, chance: Random) -> None:
        """What a job brings that began with an earlier value."""
        project, base = self.history.present, self.aside
        kind = chance.choice(("words", "speakers", "captions", "translations"))
        if not self.history.holds(self.mark):
            return  # what it began with was undone: it was cancelled
        if kind == "words":
            event = Recognised(heard_more(self.latest))
        elif kind == "speakers":
            ids = tuple(word.id for word in words_of(base))
            labels = tuple(chance.randrange(2) for _ in ids)
            event = SpeakersFound(ids, labels, tuple(0.5 for _ in ids), tuple(-1 for _ in ids))
        elif kind == "captions":
            if base.tracks and base.captions is not None and not base.captions.spoken:
                return
            event = CaptionsSet(set_again(base, any_style(chance)))
            if project.transcript.turns and base.transcript.turns and base is not project:
                there = {word.id for word in words_of(base)}
                if not there & {word.id for word in words_of(project)}:
                    return  # another text was taken in meanwhile: such a job is cancelled
            self.history.apply(arrival(event, project.next_id)(project), "Set captions")
            return
        else:
            tracks = [one for one in base.tracks if not one.spoken]
            if not tracks:
                return
            track = chance.choice(tracks)
            found = tuple(task.made("Uma frase nova.") for task in missing_tasks(base, track))
            event = SentencesTranslated(track.id, found)
        self.history.amend(arrival(event, project.next_id), self.mark)

    def _undo_all(self) -> None:
        history = self.history
        while history.undo() is not None:
            check_project(history.present, self.uncaptioned)
        while history.redo() is not None:
            check_project(history.present, self.uncaptioned)

    def _killed(self) -> None:
        """Put the present into a journal, kill it, recover: both say the same."""
        from dubrel.store.journal import Journal
        from dubrel.store.recovery import look

        journal = Journal(Project(), None)
        journal.offer(self.history.earlier()[0])
        journal.offer(self.history.present)
        assert journal.flush(), "the journal could not be written"
        folder = journal.folder
        assert folder is not None
        left = look(folder)
        journal.close()
        assert left is not None and plain(left.project) == plain(self.history.present), "recovered otherwise"


def run_core(seeds: range, steps: int, folder: Path | None = None) -> tuple[int, list[Finding]]:
    """Sessions one after the other: how many verbs were done, and what did not hold."""
    done, found = 0, list[Finding]()
    for seed in seeds:
        session = CoreSession(seed, steps, folder)
        found += session.run()
        done += session.done
    return done, found


def _pair(slot: Slot) -> tuple[Caption | None, tuple[Caption, ...]]:
    return slot.caption, slot.sources
