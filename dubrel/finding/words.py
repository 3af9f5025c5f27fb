"""Find in the words, and replace: by text or pattern, by speaker, by doubt, in what is not proofed."""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator, Sequence
from functools import lru_cache
from itertools import accumulate
from typing import Any, NamedTuple

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.text import whole_words
from dubrel.base.value import Value
from dubrel.edits.words.casing import capital
from dubrel.edits.words.wording import replace_texts
from dubrel.model import Project, Turn, Word
from dubrel.project.index import turn_with

_PATIENCE_S = 2.0
_SAME = {"'": "['’‘]", "’": "['’‘]", "‘": "['’‘]", '"': '["“”]', "“": '["“”]', "”": '["“”]'}


class Query(Value):
    """What is looked for.

    Attributes
    ----------
    text : str
        Empty for everything that the rest allows, turn by turn.
    case, whole, pattern : bool
        Whether capitals count; whole words only; ``text`` is a regular expression.
    speaker : str or None
        Only this speaker's words; ``""`` for turns without one.
    doubt : float
        Only where a word is at least as doubtful.
    unproofed : bool
        Only in turns that are not proofed.
    within : frozenset of int or None
        Only at these words.
    """

    text: str = ""
    case: bool = False
    whole: bool = False
    pattern: bool = False
    speaker: str | None = None
    doubt: float = 0.0
    unproofed: bool = False
    within: frozenset[int] | None = None


class Found(NamedTuple):
    """A place.

    Attributes
    ----------
    of : Turn
        The turn as it was when the place was found.
    start, end : int
        Characters in the turn's text.
    text : str
        What stands there.
    becomes : str
        What it would be replaced by; see :func:`replaced`.
    """

    of: Turn
    start: int
    end: int
    text: str
    becomes: str = ""

    @property
    def turn(self) -> int:
        """Id of the turn."""
        return self.of.id

    @property
    def _span(self) -> tuple[int, int]:
        """Places of the words that it touches, from and to."""
        offsets, words = self.of.offsets, self.of.words
        first = max(0, bisect_right(offsets, self.start) - 1)
        if self.start >= offsets[first] + len(words[first].text):
            first += 1
        return first, bisect_left(offsets, self.end)

    @property
    def words(self) -> tuple[int, ...]:
        """Ids of the words that it touches."""
        first, stop = self._span
        return tuple(word.id for word in self.of.words[first:stop])

    @property
    def start_ms(self) -> int:
        """When the first of its words begins."""
        return self.of.words[self._span[0]].start_ms

    @property
    def end_ms(self) -> int:
        """When the last of its words ends."""
        first, stop = self._span
        return max(word.end_ms for word in self.of.words[first:stop])


def find(project: Project, query: Query, replacement: str | None = None) -> list[Found]:
    r"""Every place, in order.

    Parameters
    ----------
    replacement : str, optional
        What each would become: capitals follow what is replaced; in a pattern
        ``\1`` and ``\g<name>`` stand for groups.

    Raises
    ------
    DubrelError
        If the pattern cannot be understood, or takes too long.
    """
    turns = project.transcript.turns
    if not query.text:
        return [
            Found(turn, 0, len(turn.text), turn.text) for turn in turns if _allowed(query, turn, turn.words)
        ]
    pattern = _compiled(query.text, query.case, query.whole, query.pattern)
    texts = [turn.text for turn in turns]
    starts = [*accumulate((len(text) + 1 for text in texts), initial=0)]
    found, at, place, becomes = list[Found](), 0, 0, ""
    narrowed = query.speaker is not None or query.doubt or query.unproofed or query.within is not None
    for match in _matches(pattern, "\n".join(texts), query):
        start, end = match.span()
        while starts[at + 1] <= start:
            at += 1
        place = starts[at]
        if end - place > len(texts[at]) or not (text := match.group()).strip():
            continue
        if replacement is not None:
            becomes = _becomes(match, replacement, query)
        one = Found(turns[at], start - place, end - place, text, becomes)
        if not narrowed or _allowed_at(query, one):
            found.append(one)
    return found


def _matches(pattern: Any, text: str, query: Query) -> Iterator[Any]:
    if not query.pattern:
        yield from pattern.finditer(text)
        return
    try:
        yield from pattern.finditer(text, timeout=_PATIENCE_S)
    except TimeoutError as error:
        raise DubrelError(
            tr("The pattern “{text}” takes too long and was stopped. Make it more exact.").format(
                text=query.text[:60]
            )
        ) from error


@lru_cache(maxsize=16)
def _compiled(text: str, case: bool, whole: bool, pattern: bool) -> Any:
    if not pattern:
        source = "".join(_SAME.get(sign, re.escape(sign)) for sign in " ".join(text.split()) or text)
        source = whole_words(source) if whole else source
        return re.compile(source, 0 if case else re.IGNORECASE)
    import regex  # late: it can stop a pattern that never ends

    try:
        return regex.compile(whole_words(text) if whole else text, 0 if case else regex.IGNORECASE)
    except (regex.error, RecursionError) as error:
        raise DubrelError(
            tr("“{text}” is not a pattern: {error}. Correct it, or find it as text.").format(
                text=text[:60], error=error
            )
        ) from error


def _becomes(match: Any, replacement: str, query: Query) -> str:
    if query.pattern:
        import regex

        try:
            replacement = match.expand(replacement)
        except (IndexError, KeyError, ValueError, regex.error) as error:
            raise DubrelError(
                tr("“{replacement}” cannot be used here: {error}. Correct it.").format(
                    replacement=replacement[:60], error=error
                )
            ) from error
    return replacement if query.case else like(match.group(), replacement)


def like(text: str, replacement: str) -> str:
    """A replacement with the capitals of what it replaces.

    Examples
    --------
    >>> like("Boat", "ship"), like("BOAT", "ship"), like("boat", "Heron")
    ('Ship', 'SHIP', 'Heron')
    """
    letters = [sign for sign in text if sign.isalpha()]
    if len(letters) > 1 and all(sign.isupper() for sign in letters):
        return replacement.upper()
    return capital(replacement) if letters and letters[0].isupper() else replacement


def _allowed_at(query: Query, one: Found) -> bool:
    first, stop = one._span
    return _allowed(query, one.of, one.of.words[first:stop])


def _allowed(query: Query, turn: Turn, words: Sequence[Word]) -> bool:
    """Whether words of a turn are among those that are looked at."""
    if query.speaker is not None and (turn.speaker or "") != query.speaker:
        return False
    if query.unproofed and turn.proofed and not turn.reworded:
        return False
    if query.within is not None and not any(word.id in query.within for word in words):
        return False
    return not query.doubt or any(word.doubt >= query.doubt for word in words)


def replaced(project: Project, places: Iterable[Found]) -> Project:
    """The project with places replaced by what they become; times stay, captions follow.

    Places that no longer say what was found are passed over.
    """
    ranges: dict[int, list[tuple[int, int, str]]] = {}
    for one in places:
        turn = turn_with(project, one.turn)
        if turn is not None and turn.text[one.start : one.end] == one.text and one.becomes != one.text:
            ranges.setdefault(one.turn, []).append((one.start, one.end, one.becomes))
    return replace_texts(project, {turn: _apart(those) for turn, those in ranges.items()})


def _apart(ranges: Sequence[tuple[int, int, str]]) -> list[tuple[int, int, str]]:
    """Ranges without those that overlap one before."""
    found: list[tuple[int, int, str]] = []
    for one in sorted(ranges):
        if not found or one[0] >= found[-1][1]:
            found.append(one)
    return found
