"""From an audit to times: put captions where they are spoken."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.value import replace
from dubrel.edits.captions.times import retimed
from dubrel.model import Audit, Course, Cue, Project
from dubrel.project.captiontext import shown_captions
from dubrel.project.index import words_with


def audit_cues(project: Project) -> tuple[list[int], list[Cue]]:
    """The captions of the active track that show something, by id and as cues, in order of time."""
    shown = sorted(shown_captions(project, project.captions), key=lambda one: one[0].start_ms)
    return [one.id for one, _ in shown], [Cue(one.start_ms, one.end_ms, text.lines) for one, text in shown]


def audited_words(project: Project, captions: Sequence[int]) -> list[int]:
    """Ids of the words that some captions of the active track show, in order."""
    by_id = {one.id: one for one in project.captions.captions} if project.captions else {}
    words = (word for one in captions for word in words_with(project, by_id[one].words))
    return [word.id for word in words if not word.struck]


def repaired(project: Project, report: Audit, captions: Sequence[int], way: str) -> Project:
    """The captions of the active track with their times fixed.

    Parameters
    ----------
    report : Audit
    captions : sequence of int
        Ids of the audited captions, in order; those that are gone are passed over.
    way : {"retime", "course"}
        Each caption where it is spoken, or only what all have in common.
    """
    cues = [Cue(one.start_ms, one.end_ms, ()) for one in report.captions]
    made = retime(cues, report) if way == "retime" else follow_course(cues, report.course)
    return retimed(project, {one: (cue.start_ms, cue.end_ms) for one, cue in zip(captions, made)})


def shift(cues: Sequence[Cue], ms: int, from_ms: int = 0) -> list[Cue]:
    """Move all cues from a time on."""
    return [
        (
            replace(cue, start_ms=max(0, cue.start_ms + ms), end_ms=max(0, cue.end_ms + ms))
            if cue.start_ms >= from_ms
            else cue
        )
        for cue in cues
    ]


def follow_course(cues: Sequence[Cue], course: Course) -> list[Cue]:
    """Undo a shift, a drift or a jump; lengths follow."""
    return [
        replace(cue, start_ms=course.corrected(cue.start_ms), end_ms=course.corrected(cue.end_ms))
        for cue in cues
    ]


def retime(cues: Sequence[Cue], report: Audit, gap_ms: int = 80) -> list[Cue]:
    """Put each caption where it is spoken; those that were not found follow the course of the rest."""
    moved = []
    for cue, audited in zip(follow_course(cues, report.course), report.captions):
        if audited.heard is not None:
            length = max(cue.end_ms - cue.start_ms, audited.heard[1] - audited.heard[0], 1)
            cue = replace(cue, start_ms=audited.heard[0], end_ms=audited.heard[0] + length)
        moved.append(cue)
    for place, following in enumerate(moved[1:]):
        cue = moved[place]
        if cue.start_ms < following.start_ms < cue.end_ms + gap_ms:
            end = max(cue.start_ms + 1, following.start_ms - gap_ms)
            moved[place] = replace(cue, end_ms=min(cue.end_ms, end))
    return moved
