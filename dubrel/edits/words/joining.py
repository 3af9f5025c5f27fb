"""Join words into one, with the time of all of them."""

from __future__ import annotations

from dataclasses import replace

from dubrel.edits.words.wording import with_turns
from dubrel.model import Project, Timing
from dubrel.project.follow import rewords
from dubrel.project.index import turn_place


@rewords
def join_words(project: Project, turn_id: int, first: int, stop: int) -> Project:
    """Join some words of a turn ("boat yard" to "boatyard").

    Parameters
    ----------
    turn_id : int
    first, stop : int
        Places of the words in the turn, from and to.

    Returns
    -------
    Project
        The joined word has the first one's id and lasts from its in time to the
        last one's out time. The same object where there are fewer than two.
    """
    place = turn_place(project, turn_id)
    turn = project.transcript.turns[place]
    old = turn.words[first:stop]
    if len(old) < 2:
        return project
    timings = {word.timing for word in old}
    joined = replace(
        old[0],
        text="".join(word.text for word in old),
        end_ms=max(word.end_ms for word in old),
        doubt=0.0,
        timing=timings.pop() if len(timings) == 1 else Timing.SPREAD,
        struck=all(word.struck for word in old),
        filler=all(word.filler for word in old),
    )
    words = (*turn.words[:first], joined, *turn.words[stop:])
    return with_turns(project, place, place + 1, replace(turn, words=words))
