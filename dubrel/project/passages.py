"""Two values of a project word by word: the passages in which they differ."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.value import Value
from dubrel.model import Project, Word, text_of_words

_AROUND = 4  # words shown before and after
_JOINED = 2  # passages with so few words between them are one


class Passage(Value):
    """A place where two values differ.

    Attributes
    ----------
    start_ms : int
    before, after : str
        What the one and the other value say; empty for nothing.
    lead, trail : str
        The words around, which both have.
    """

    start_ms: int
    before: str
    after: str
    lead: str = ""
    trail: str = ""


def passages(old: Project, new: Project) -> list[Passage]:
    """Where two values say something else, in order.

    Words are known again by their ids, others by what they say.
    """
    from difflib import SequenceMatcher  # late: the window opens without it

    before, after = _words(old), _words(new)
    ids = {word.id: word.text for word in before}
    shared = {word.id for word in after if ids.get(word.id) == word.text}
    matcher = SequenceMatcher(None, _keys(before, shared), _keys(after, shared))
    found: list[list[int]] = []
    for kind, a, b, c, d in matcher.get_opcodes():
        if kind == "equal":
            continue
        if found and a - found[-1][1] <= _JOINED:
            found[-1][1], found[-1][3] = b, d
        else:
            found.append([a, b, c, d])
    return [_passage(before, after, *one) for one in found]


def _words(project: Project) -> list[Word]:
    return [word for turn in project.transcript.turns for word in turn.words]


def _keys(words: Sequence[Word], shared: set[int]) -> list[object]:
    return [word.id if word.id in shared else word.text for word in words]


def _passage(before: Sequence[Word], after: Sequence[Word], a: int, b: int, c: int, d: int) -> Passage:
    place = before[a:b] or after[c:d]
    return Passage(
        place[0].start_ms,
        _said(before[a:b]),
        _said(after[c:d]),
        _said(before[max(0, a - _AROUND) : a]),
        _said(before[b : b + _AROUND]),
    )


def _said(words: Sequence[Word]) -> str:
    return text_of_words(list(words))
