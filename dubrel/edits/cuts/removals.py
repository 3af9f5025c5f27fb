"""What is proposed to be taken out of a cut: pauses, fillers, repeats, struck words, what is said again."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from dubrel.base.value import Value, replace
from dubrel.edits.cuts.pauses import Levels, pauses
from dubrel.edits.cuts.takes import SaidAgain, said_again
from dubrel.edits.cuts.trimming import spans_of_words, taken_out, words_in
from dubrel.edits.words import cleaning
from dubrel.model import Cut, Project, TakenOut
from dubrel.model.cutrules import CutRules
from dubrel.model.cuts import Plays, Reason
from dubrel.project.timeline import timeline

_UNSURE = 0.5
_SLIVER_MS = 150  # what is left between two removals is heard as a click, not as a pause


class Removal(Value):
    """A passage that could be taken out.

    Attributes
    ----------
    start_ms, end_ms : int
        In the recording.
    why : str
    text : str
        What is said in it; empty for a pause.
    sure : float
        That it is not wanted, 0 to 1.
    doubt : str
        What speaks against it.
    again : SaidAgain or None
        The passage whose takes they are, where it is said again.
    """

    start_ms: int
    end_ms: int
    why: Reason
    text: str = ""
    sure: float = 1.0
    doubt: str = ""
    again: SaidAgain | None = None

    @property
    def ticked(self) -> bool:
        """Whether it is done unless the user says otherwise."""
        return self.sure >= _UNSURE


def removals(
    project: Project,
    rules: CutRules,
    levels: Levels | None = None,
    keep_take: Mapping[tuple[int, ...], int] | None = None,
) -> list[Removal]:
    """What could be taken out by some rules, in order of time.

    Parameters
    ----------
    levels : Levels, optional
        How loud the recording is; see :func:`dubrel.edits.cuts.pauses.pauses`.
    keep_take : mapping of tuple of int to int, optional
        Which take stays, by the words of the first one, where that is not the usual one.
    """
    found = list[Removal]()
    if rules.again:
        for one in said_again(project):
            found += _takes(one, rules, (keep_take or {}).get(one.takes[0].words, one.usual))
    gone = {word for one in found if one.ticked for word in _words_of(project, one)}
    for why, words, sure in _words_that_go(project, rules):
        if gone.isdisjoint(words):
            text = " ".join(word.text for one in words if (word := project.transcript.words_by_id.get(one)))
            spans = spans_of_words(project, words, why, rules.keep_ms)
            found += [Removal(one.start_ms, one.end_ms, why, text, sure) for one in spans]
    if rules.pauses:
        spans = pauses(
            project,
            rules.longer_ms,
            rules.becomes_ms,
            levels,
            below_db=-float(rules.quiet_db) if rules.quiet_db else None,
            keep_ms=rules.keep_ms,
            sounds=rules.sounds,
        )
        found += _outside([Removal(one.start_ms, one.end_ms, one.why) for one in spans], found)
    return sorted(found, key=lambda one: (one.start_ms, one.end_ms))


def _takes(again: SaidAgain, rules: CutRules, keep: int) -> Iterable[Removal]:
    """A removal for each take but the one that stays."""
    for nth, take in enumerate(again.takes):
        if nth == keep:
            continue
        start, end = take.start_ms, take.end_ms
        if nth < keep:  # with what stands between it and the next take
            end = again.takes[nth + 1].start_ms - rules.keep_ms
            start -= min(rules.keep_ms, start)
        else:
            start = again.takes[nth - 1].end_ms + rules.keep_ms
            end += rules.keep_ms
        if end > start:
            yield Removal(start, end, "said again", take.text, again.sure, again.doubt, again)


def _words_of(project: Project, one: Removal) -> Iterable[int]:
    return words_in(project, one.start_ms, one.end_ms)


def _words_that_go(project: Project, rules: CutRules) -> Iterable[tuple[Reason, tuple[int, ...], float]]:
    taken: set[int] = set()
    if rules.fillers:
        for one in cleaning.fillers(project):
            ids = tuple(word.id for word in one.words)
            taken.update(ids)
            yield "filler", ids, one.sure
    if rules.repeats:
        for one in cleaning.repeats(project):
            ids = tuple(word.id for word in one.words)
            if taken.isdisjoint(ids):
                taken.update(ids)
                yield ("false start" if one.kind == "false start" else "repeat"), ids, one.sure
    if rules.struck:
        run: list[int] = []
        for turn in project.transcript.turns:
            for word in turn.words:
                if word.struck:
                    run.append(word.id)
                elif run:
                    yield "struck", tuple(run), 1.0
                    run = []
        if run:
            yield "struck", tuple(run), 1.0


def _outside(found: Sequence[Removal], others: Sequence[Removal]) -> list[Removal]:
    """What of pauses lies in nothing else that is ticked."""
    made = list[Removal]()
    spans = sorted((one.start_ms, one.end_ms) for one in others if one.ticked)
    nth = 0
    for one in found:
        start = one.start_ms
        while nth and spans[nth - 1][1] > start:
            nth -= 1
        while nth < len(spans) and spans[nth][0] < one.end_ms:
            since, until = spans[nth]
            if since > start:
                made.append(replace(one, start_ms=start, end_ms=since))
            start = max(start, until)
            nth += 1
        if start < one.end_ms:
            made.append(replace(one, start_ms=start))
    return made


def without_removals(project: Project, cut_id: int, chosen: Iterable[Removal], rules: CutRules) -> Project:
    """The project with what was chosen taken out of a cut, as one step."""
    some = _without_slivers(project, chosen)
    kept_time = [one for one in some if one.why == "pause" and rules.pauses_as != "shortened"]
    gone = [one for one in some if one not in kept_time]
    project = taken_out(project, cut_id, map(_out, gone), cross_ms=rules.cross_ms)
    if kept_time:
        plays: Plays = "gap" if rules.pauses_as == "gap" else "muted"
        project = taken_out(project, cut_id, map(_out, kept_time), plays=plays)
    return project


def _without_slivers(project: Project, chosen: Iterable[Removal]) -> list[Removal]:
    """What was chosen, with the moments between two of them in which nothing is said."""
    found = list[Removal]()
    for one in sorted(chosen, key=lambda one: (one.start_ms, one.end_ms)):
        near = found and 0 < one.start_ms - found[-1].end_ms <= _SLIVER_MS
        if near and not words_in(project, found[-1].end_ms, one.start_ms):
            found[-1] = replace(found[-1], end_ms=one.start_ms)
        found.append(one)
    return found


def _out(one: Removal) -> TakenOut:
    return TakenOut(one.start_ms, one.end_ms, one.why)


def still_open(found: Iterable[Removal], cut: Cut | None) -> list[Removal]:
    """What of some removals still plays in a cut, in order."""
    if cut is None:
        return list(found)
    clock = timeline(replace(cut, passages=tuple(one for one in cut.passages if one.plays == "all")), None)
    return [one for one in found if clock.plays((one.start_ms + one.end_ms) // 2)]
