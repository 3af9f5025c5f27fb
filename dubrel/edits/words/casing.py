"""Capitals and punctuation by one key: the word keeps its time, the capital that follows is fixed."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

from dubrel.base.text import ends_sentence
from dubrel.base.value import replace
from dubrel.edits.words.striking import words_changed
from dubrel.model import Project, Turn, Word
from dubrel.project.index import turn_place

MARKS = ".,?!:;…–—。，？！、؟،؛"
_CLOSERS = "\"'”’»)]}›』」）"
_OPENERS = "\"'“‘«([{‹『「（¿¡"
_ALWAYS = ("I", "I’m", "I'm", "I’ll", "I'll", "I’ve", "I've", "I’d", "I'd")


def cased(project: Project, ids: Sequence[int]) -> Project:
    """Change the case of words: small, Capital, CAPITALS, and small again, as the first of them says."""
    wanted = set(ids)
    words = [word for turn in project.transcript.turns for word in turn.words if word.id in wanted]
    if not words:
        return project
    step = _next_case(words)
    return words_changed(project, wanted, lambda word: _with_text(word, step(word.text)))


def _next_case(words: Sequence[Word]) -> Callable[[str], str]:
    letters = "".join(sign for word in words for sign in word.text if sign.isalpha())
    if letters and letters == letters.upper() and letters != letters.lower() and len(letters) > len(words):
        return str.lower
    if all(word.text == capital(word.text) for word in words) and letters != letters.lower():
        return str.upper
    return capital


def capital(text: str) -> str:
    """A word with its first letter as a capital; what stands before it stays.

    Examples
    --------
    >>> capital("“boat"), capital("mcAlister")
    ('“Boat', 'McAlister')
    """
    at = next((k for k, sign in enumerate(text) if sign.isalnum()), None)
    return text if at is None else text[:at] + text[at].upper() + text[at + 1 :]


def small(text: str) -> str:
    """A word with its first letter small, unless it has other capitals or is the word I."""
    bare = text.strip(MARKS + _CLOSERS + _OPENERS)
    at = next((k for k, sign in enumerate(text) if sign.isalnum()), None)
    if at is None or bare in _ALWAYS or any(sign.isupper() for sign in text[at + 1 :]):
        return text
    return text[:at] + text[at].lower() + text[at + 1 :]


def _with_text(word: Word, text: str) -> Word:
    return word if text == word.text else replace(word, text=text, doubt=0.0)


def marks_of(text: str) -> tuple[str, str, str]:
    """A word, the marks that end it, and the quotes or brackets that close behind them.

    Examples
    --------
    >>> marks_of("gone,”"), marks_of("3.5")
    (('gone', ',', '”'), ('3.5', '', ''))
    """
    bare = text.rstrip(_CLOSERS)
    closers = text[len(bare) :]
    stem = bare.rstrip(MARKS)
    return (stem, bare[len(stem) :], closers) if stem else (text, "", "")


def punctuated(project: Project, turn_id: int, place: int, mark: str, names: Collection[str] = ()) -> Project:
    """Add a mark behind a word, in place of the one that stands there; the same one again takes it away.

    Parameters
    ----------
    turn_id : int
    place : int
        Of the word in its turn.
    mark : str
        One of ``MARKS``.
    names : collection of str
        Words that keep their capital (names and terms).

    Returns
    -------
    Project
        The word after it begins with a capital where a sentence ends now, and
        no longer where one ended before; names and the word I stay as they are.
    """
    turn = project.transcript.turns[turn_place(project, turn_id)]
    word = turn.words[place]
    stem, now, closers = marks_of(word.text)
    becomes = stem + ("" if now == mark else mark) + closers
    changes = {word.id: becomes}
    _capital_after(project, turn, place, ends_sentence(word.text), ends_sentence(becomes), names, changes)
    return words_changed(project, changes, lambda one: _with_text(one, changes[one.id]))


def mark_moved(project: Project, turn_id: int, place: int, step: int, names: Collection[str] = ()) -> Project:
    """Move the mark behind a word to the next word of its turn, or with -1 to the one before."""
    turn = project.transcript.turns[turn_place(project, turn_id)]
    target = place + step
    mark = marks_of(turn.words[place].text)[1]
    if not mark or not 0 <= target < len(turn.words):
        return project
    taken = punctuated(project, turn_id, place, mark, names)
    goal = taken.transcript.turns[turn_place(taken, turn_id)].words[target].text
    if marks_of(goal)[1] == mark:
        return taken
    return punctuated(taken, turn_id, target, mark, names)


def _capital_after(
    project: Project,
    turn: Turn,
    place: int,
    ended: bool,
    ends: bool,
    names: Collection[str],
    changes: dict[int, str],
) -> None:
    if ended == ends:
        return
    if place + 1 >= len(turn.words):
        following = project.transcript.turns[turn_place(project, turn.id) + 1 :][:1]
        if ends and following:
            first = following[0].words[0]
            changes[first.id] = capital(first.text)
        return
    after = turn.words[place + 1]
    bare = after.text.strip(MARKS + _CLOSERS + _OPENERS)
    if ends:
        changes[after.id] = capital(after.text)
    elif bare not in names and not _name_elsewhere(turn, place + 1, bare):
        changes[after.id] = small(after.text)


def _name_elsewhere(turn: Turn, place: int, bare: str) -> bool:
    """Whether a word has its capital within a sentence of the turn too: it is a name then."""
    return any(
        k != place
        and other.text.strip(MARKS + _CLOSERS + _OPENERS) == bare
        and k > 0
        and not ends_sentence(turn.words[k - 1].text)
        for k, other in enumerate(turn.words)
    )
