"""Sentences of a transcript with their words and times: what meaning, chapters and summaries stand on."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache

from dubrel.base.text import ends_clause, ends_sentence
from dubrel.base.value import Value
from dubrel.model import Project, Turn, Word, text_of_words

_LONG = 40  # words after which a sentence without an end is cut where it may be


class Sentence(Value):
    """A sentence, or what is said between two pauses where nothing ends one.

    Attributes
    ----------
    text : str
        Without struck words.
    words : tuple of int
        Ids, struck ones too.
    turn : int
        Id of its turn.
    speaker : str or None
    start_ms, end_ms : int
    """

    text: str
    words: tuple[int, ...]
    turn: int
    speaker: str | None
    start_ms: int
    end_ms: int


def sentences_of(project: Project) -> list[Sentence]:
    """Every sentence in order; none without a word that is shown."""
    language = project.transcript.language
    return [one for turn in project.transcript.turns for one in sentences_of_turn(turn, language)]


@lru_cache(maxsize=8_000)
def _cached(_turn_id: int, turn: _Held, language: str) -> tuple[Sentence, ...]:
    return tuple(_cut(turn.turn, language))


def sentence_places(turn: Turn, language: str) -> dict[int, int]:
    """In which sentence of a turn each of its words is; made once for as long as the turn stays as it is."""
    return _places(turn.id, _Held(turn), language)


@lru_cache(maxsize=2_000)
def _places(_turn_id: int, turn: _Held, language: str) -> dict[int, int]:
    sentences = _cached(_turn_id, turn, language)
    return {word: nth for nth, one in enumerate(sentences) for word in one.words}


class _Held:
    """A turn by identity: turns are values, so what was made of one holds for as long as it lives."""

    __slots__ = ("turn",)

    def __init__(self, turn: Turn) -> None:
        self.turn = turn

    def __hash__(self) -> int:
        return id(self.turn)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Held) and other.turn is self.turn


def sentences_of_turn(turn: Turn, language: str) -> tuple[Sentence, ...]:
    """The sentences of one turn; made once for as long as the turn stays as it is."""
    return _cached(turn.id, _Held(turn), language)


def _cut(turn: Turn, language: str) -> Iterator[Sentence]:
    run: list[Word] = []
    for word in turn.words:
        run.append(word)
        long = len(run) >= _LONG and ends_clause(word.text)
        if (ends_sentence(word.text, language) and not word.struck) or long or len(run) >= 2 * _LONG:
            yield from _made(turn, run)
            run = []
    yield from _made(turn, run)


def _made(turn: Turn, run: list[Word]) -> Iterator[Sentence]:
    shown = [word for word in run if not word.struck]
    if shown:
        ids = tuple(word.id for word in run)
        end = max(word.end_ms for word in run)
        yield Sentence(text_of_words(shown), ids, turn.id, turn.speaker, run[0].start_ms, end)
