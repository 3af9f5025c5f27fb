"""What engines and files give before it becomes part of a project."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TypeVar

from dubrel.base.text import gap
from dubrel.base.value import Value, field, replace
from dubrel.model.transcript import Timing, Word


class RecognisedWord(Value):
    """A word as an engine or a file gives it, before it has an id."""

    text: str
    start_ms: int
    end_ms: int
    doubt: float = 0.0
    timing: Timing = Timing.ALIGNED
    also: str | None = None
    sure: float = 1.0
    spaced: bool = False
    verse: bool = False

    def with_id(self, word_id: int) -> Word:
        """The word of a transcript that it becomes."""
        known = (self.text, self.start_ms, self.end_ms, self.doubt, self.timing)
        rest = {"also": self.also, "sure": self.sure, "spaced": self.spaced, "verse": self.verse}
        return Word(word_id, *known, **rest)  # type: ignore[arg-type]

    def later(self, ms: int) -> RecognisedWord:
        """The same word some milliseconds later."""
        return replace(self, start_ms=self.start_ms + ms, end_ms=self.end_ms + ms)


_W = TypeVar("_W", Word, RecognisedWord)


def opening(word: _W, before: str, verse: bool = True) -> _W:
    """A word that begins a line, or does not; where its script puts no space a line end needs one.

    Parameters
    ----------
    word : Word or RecognisedWord
    before : str
        The word before it; empty for none.
    verse : bool
    """
    if word.verse == verse:
        return word
    unspaced = bool(before) and not gap(before, word.text)
    return replace(word, verse=verse, spaced=verse if unspaced else word.spaced)


class RecognisedTurn(Value):
    """Words that one speaker says, with the speaker's id if it is known."""

    words: tuple[RecognisedWord, ...]
    speaker: str | None = None


class Cue(Value):
    """One timed text of a caption file.

    Attributes
    ----------
    start_ms, end_ms : int
    lines : tuple of str
    speaker : str or None
        The name of who speaks, in the first line at least.
    changes : dict of int to (str or None)
        Lines in which another person begins to speak, by their place, with the
        name where it is known.
    dashed : tuple of int
        Lines before which a dash stood.
    named : tuple of int
        Lines before which a name stood in the text.
    place : str
        See :attr:`dubrel.model.Caption.place`.
    styles : dict of (int, int) to str
        Styles of words, by line and place in it.
    begins : dict of (int, int) to int
        When words begin, where the file says it, in milliseconds.
    verse : bool
        Its lines are lines of a song.
    """

    start_ms: int
    end_ms: int
    lines: tuple[str, ...]
    speaker: str | None = None
    changes: Mapping[int, str | None] = field(default_factory=dict)
    dashed: tuple[int, ...] = ()
    named: tuple[int, ...] = ()
    place: str = ""
    styles: Mapping[tuple[int, int], str] = field(default_factory=dict)
    begins: Mapping[tuple[int, int], int] = field(default_factory=dict)
    verse: bool = False

    def __hash__(self) -> int:
        return hash((self.start_ms, self.end_ms, self.lines))


class SpeakerPassage(Value):
    """Somebody speaks from one time to another."""

    start_ms: int
    end_ms: int
    speaker: str


class SoundSpot(Value):
    """A passage in which something is heard that nobody says.

    Attributes
    ----------
    start_ms, end_ms : int
    name : str
        What it is, in English.
    sureness : float
        0 to 1.
    """

    start_ms: int
    end_ms: int
    name: str
    sureness: float
