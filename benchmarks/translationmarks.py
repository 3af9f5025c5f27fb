"""A correction in 30,000 words marks its translations: against the same in one turn by itself."""

from __future__ import annotations

import time

from common import report
from setting import talk

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.track import begin_track, source_changes, translations_touched
from dubrel.edits.words.wording import replace_text
from dubrel.model import Project
from dubrel.project.changes import change_between
from dubrel.project.index import index_of
from dubrel.translation.choosing import missing_tasks


def translated(project: Project):  # type: ignore[no-untyped-def]
    """The project with a track that says the same again."""
    project = set_again(project, DEFAULT_STYLE)
    project, track_id = begin_track(project, "pt")
    track = project.track(track_id)
    assert track is not None
    tasks = missing_tasks(project, track)
    return (
        with_translations(project, track_id, [task.made(task.text, task.edges) for task in tasks]),
        track_id,
    )


def mark_s(project: Project, track_id: int) -> tuple[float, int]:
    """Seconds from the new value to the marks, and how many there are."""
    turn = project.transcript.turns[len(project.transcript.turns) // 2]
    index_of(project)
    spent, marks = [], 0
    for nth in range(7):
        made = replace_text(project, turn.id, 0, len(turn.words[0].text), f"Word{nth}")
        began = time.perf_counter()
        change = change_between(project, made)
        track = made.track(track_id)
        assert track is not None
        marks = sum(
            bool(source_changes(made, track, one)) for one in translations_touched(change, track).values()
        )
        spent.append(time.perf_counter() - began)
    return sorted(spent)[3], marks


def main() -> None:
    """The long one against its own middle turn."""
    whole, track_id = translated(talk(30_000))
    long_s, marks = mark_s(whole, track_id)
    turns = whole.transcript.turns
    one = turns[len(turns) // 2]
    alone = Project(transcript=replace(whole.transcript, turns=(one,)))
    short, short_id = translated(alone)
    short_s, _ = mark_s(short, short_id)
    report(
        "translationmarks",
        words=30_000,
        marks=marks,
        ms=long_s * 1000,
        one_turn_ms=short_s * 1000,
        ratio=long_s / short_s,
    )


if __name__ == "__main__":
    main()
