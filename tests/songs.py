"""A song of ours with the times at which it is sung: lines, stanzas, held notes."""

from __future__ import annotations

import random
import re

from dubrel.model import Project, Transcript, Turn, Word

STANZAS = (
    (
        "Slow water under Alder Bridge",
        "goes easy past the mill",
        "the lock is shut the paint is dry",
        "the narrowboat lies still",
    ),
    (
        "We caulked her seams in winter light",
        "with hands as cold as stone",
        "and nobody believed that she",
        "would ever float alone",
    ),
    (
        "Oh carry me slow water",
        "oh carry me along",
        "the morning has no hurry",
        "the river knows the song",
    ),
)


def sung(
    stanzas: tuple[tuple[str, ...], ...] = STANZAS,
    *,
    rest_ms: int = 350,
    between_ms: int = 2600,
    marks: bool = False,
    seed: int = 1,
) -> list[Word]:
    """The words with their times: a syllable a beat, give or take; a line ends in a held note and a rest."""
    chance = random.Random(seed)
    words: list[Word] = []
    at = 1000
    for lines in stanzas:
        for line in lines:
            texts = line.split()
            if marks:
                texts[-1] += ","
            for nth, text in enumerate(texts):
                beats = len(re.findall("[aeiouy]+", text.lower())) or 1
                length = round(beats * 260 * chance.uniform(0.75, 1.3))
                length += 240 if nth == len(texts) - 1 else 0
                words.append(Word(len(words) + 1, text, at, at + length))
                at += length + chance.choice((0, 0, 20, 60))
            at += round(rest_ms * chance.uniform(0.6, 1.4))
        at += between_ms
    return words


def lyrics(words: list[Word], *, a_turn: int = 0) -> Project:
    """A project with some words, in one turn or in turns of so many words."""
    size = a_turn or len(words)
    parts = [tuple(words[at : at + size]) for at in range(0, len(words), size)]
    free = len(words) + 1
    turns = tuple(Turn(free + nth, part) for nth, part in enumerate(parts))
    return Project(title="Slow Water", transcript=Transcript("en", (), turns), next_id=free + len(turns))
