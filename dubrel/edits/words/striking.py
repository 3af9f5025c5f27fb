"""Strike words, and choose between the clean and the verbatim reading of the same words."""

from __future__ import annotations

from collections.abc import Callable, Collection

from dubrel.base.value import replace
from dubrel.model import Project, Word
from dubrel.project.follow import rewords
from dubrel.project.followspeakers import speakers_followed
from dubrel.project.index import index_of, turn_place


def words_changed(project: Project, ids: Collection[int], change: Callable[[Word], Word]) -> Project:
    """The project with some words changed in place; captions and notes follow.

    Parameters
    ----------
    project : Project
    ids : collection of int
        Ids of words; those that are gone are passed over.
    change : callable
        Word to word; the same object where it stays.

    Returns
    -------
    Project
        The same object where nothing changes.
    """
    return speakers_followed(project, _changed(project, ids, change))


@rewords
def _changed(project: Project, ids: Collection[int], change: Callable[[Word], Word]) -> Project:
    index = index_of(project)
    touched: set[int] = {index.turn_of[one] for one in ids if one in index.turn_of}
    if not touched:
        return project
    wanted = set(ids)
    turns = list(project.transcript.turns)
    for turn_id in touched:
        place = turn_place(project, turn_id)
        turn = turns[place]
        words = tuple(change(word) if word.id in wanted else word for word in turn.words)
        if any(a is not b for a, b in zip(words, turn.words)):
            turns[place] = replace(turn, words=words)
    if all(a is b for a, b in zip(turns, project.transcript.turns)):
        return project
    return replace(project, transcript=replace(project.transcript, turns=tuple(turns)))


def struck(project: Project, ids: Collection[int], on: bool, *, filler: bool = False) -> Project:
    """Strike words, or take that back; they keep their time and their place in the captions.

    Parameters
    ----------
    ids : collection of int
    on : bool
    filler : bool
        They are struck in a clean reading only.
    """

    def change(word: Word) -> Word:
        kept = filler if on else False
        return word if word.struck == on and word.filler == kept else replace(word, struck=on, filler=kept)

    return words_changed(project, ids, change)


def all_struck(project: Project, ids: Collection[int]) -> bool:
    """Whether every one of some words is struck: striking them again takes it back."""
    index = index_of(project)
    turns = {turn for one in ids if (turn := index.turn_of.get(one)) is not None}
    found = [word for one in turns for word in index.turns[one].words if word.id in ids]
    return bool(found) and all(word.struck for word in found)


def fillers(project: Project) -> list[int]:
    """Ids of the words that a clean reading leaves out and a verbatim one keeps."""
    return [word.id for word in _fillers(project)]


def _fillers(project: Project) -> list[Word]:
    return [word for turn in project.transcript.turns for word in turn.words if word.filler]


def is_verbatim(project: Project) -> bool:
    """Whether fillers are shown: some are, and none is struck."""
    known = _fillers(project)
    return bool(known) and not any(word.struck for word in known)


def reading(project: Project, verbatim: bool) -> Project:
    """The same words read verbatim (fillers kept) or clean (fillers struck).

    Words that were struck for another reason stay struck either way.
    """

    def change(word: Word) -> Word:
        return replace(word, struck=not verbatim) if word.filler and word.struck == verbatim else word

    return words_changed(project, set(fillers(project)), change)
