"""Who speaks at the same time, where each speaker's words have times of their own."""

from __future__ import annotations

from dataclasses import replace

from dubrel.model import Project, Turn, Word

_SHARE = 0.5


def with_overlaps(project: Project) -> Project:
    """Mark the words during which somebody else says a word too, for at least half of their time.

    For recordings in which each speaker was transcribed alone: their turns overlap
    where they talk at once.

    Returns
    -------
    Project
        The same object where nobody does.
    """
    words = [
        (word.start_ms, word.end_ms, turn.speaker, word.id)
        for turn in project.transcript.turns
        if turn.speaker is not None
        for word in turn.words
    ]
    words.sort()
    others: dict[int, str] = {}
    open_words: list[tuple[int, int, str, int]] = []
    for word in words:
        open_words = [one for one in open_words if one[1] > word[0]]
        for one in open_words:
            shared = min(one[1], word[1]) - word[0]
            if one[2] == word[2]:
                continue
            for mine, other in ((word, one), (one, word)):
                if shared >= _SHARE * max(1, mine[1] - mine[0]):
                    others[mine[3]] = other[2]
        open_words.append(word)
    if not others:
        return project
    turns = tuple(_marked(turn, others) for turn in project.transcript.turns)
    return replace(project, transcript=replace(project.transcript, turns=turns))


def _marked(turn: Turn, others: dict[int, str]) -> Turn:
    if not any(word.id in others for word in turn.words):
        return turn
    words: list[Word] = [
        replace(word, also=others[word.id]) if word.id in others else word for word in turn.words
    ]
    return replace(turn, words=tuple(words))
