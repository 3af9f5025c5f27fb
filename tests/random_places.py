"""Anything in a project, by chance."""

from __future__ import annotations

from random import Random

from random_checks import words_of

from dubrel.model import Project


def any_turn(project: Project, chance: Random):
    return chance.choice(project.transcript.turns)


def any_word(project: Project, chance: Random):
    return chance.choice(any_turn(project, chance).words)


def some_ids(project: Project, chance: Random) -> list[int]:
    words = words_of(project)
    at = chance.randrange(len(words))
    return [word.id for word in words[at : at + chance.choice((1, 1, 2, 5, 20))]]


def any_range(project: Project, chance: Random):
    """Two ends, in order, in one turn or several."""
    turns = project.transcript.turns
    first = chance.randrange(len(turns))
    last = min(len(turns) - 1, first + chance.choice((0, 0, 0, 1, 3)))
    a, b = chance.randrange(len(turns[first].text) + 1), chance.randrange(len(turns[last].text) + 1)
    a, b = (min(a, b), max(a, b)) if first == last else (a, b)
    return (turns[first].id, a), (turns[last].id, b)


def any_speaker(project: Project, chance: Random) -> str:
    people = project.transcript.speakers
    return chance.choice(people).id if people else ""


def any_caption(project: Project, chance: Random):
    track = project.captions
    return chance.choice(track.captions) if track and track.captions else None
