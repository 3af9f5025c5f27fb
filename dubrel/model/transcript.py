"""Words, turns and speakers."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum
from functools import cached_property
from itertools import accumulate

from dubrel.base.text import gap_lengths, joined
from dubrel.base.value import Value


class Timing(StrEnum):
    """Where the time of a word comes from."""

    ALIGNED = "aligned"
    """Found in the sound by forced alignment, or read from a file."""
    SPREAD = "spread"
    """Spread evenly over a passage that could not be aligned."""
    TYPED = "typed"
    """Typed by a person: shares a gap or the slot of the words it replaced."""
    UNHEARD = "unheard"
    """In the script but not in the sound: no time is invented, start and end are the same."""


class Word(Value):
    """One word with its punctuation.

    Attributes
    ----------
    id : int
        Stable for the life of the project; captions refer to it.
    text : str
        As written, without any white space.
    start_ms, end_ms : int
        In time and out time; ``start_ms <= end_ms``.
    doubt : float
        How unsure the transcribed word is, 0 to 1.
    timing : Timing
        Where the times come from.
    struck : bool
        Kept in time but left out of every deliverable.
    also : str or None
        Another speaker who speaks at the same time.
    sure : float
        How sure the machine is of who says it, 0 to 1.
    filler : bool
        A hesitation, a repeat or a false start: struck in a clean reading,
        kept in a verbatim one.
    spaced : bool
        A space stands before it although its script puts none between words.
    verse : bool
        A line of a song or a poem begins with it.
    """

    id: int
    text: str
    start_ms: int
    end_ms: int
    doubt: float = 0.0
    timing: Timing = Timing.ALIGNED
    struck: bool = False
    also: str | None = None
    sure: float = 1.0
    filler: bool = False
    spaced: bool = False
    verse: bool = False


def text_of_words(words: Sequence[Word]) -> str:
    """Words as they are written one after the other."""
    return joined([word.text for word in words], [word.spaced for word in words])


def line_starts(words: Sequence[Word], shown: Sequence[Word]) -> set[int]:
    """Ids of the shown words with which a line of a song begins: the first of each line that is shown."""
    kept = {word.id for word in shown}
    found, opens = set[int](), False
    for word in words:
        opens = opens or word.verse
        if opens and word.id in kept:
            found.add(word.id)
            opens = False
    return found


class Speaker(Value):
    """A person who speaks; ``name`` is empty until somebody gives it.

    ``role`` says what the person does here: host, guest, narrator.
    """

    id: str
    name: str = ""
    role: str = ""


class Turn(Value, dict=True):
    """One speaker's uninterrupted passage of words.

    Attributes
    ----------
    id : int
    words : tuple of Word
    speaker : str or None
    proofed : bool
        A person has checked the turn.
    confirmed : bool
        A person has said who speaks; no machine changes it.
    reworded : bool
        It was proofed, and its wording has changed since.
    """

    id: int
    words: tuple[Word, ...]
    speaker: str | None = None
    proofed: bool = False
    confirmed: bool = False
    reworded: bool = False

    @property
    def start_ms(self) -> int:
        """In time of the first word."""
        return self.words[0].start_ms if self.words else 0

    @property
    def end_ms(self) -> int:
        """Latest out time of the words."""
        return self.words[-1].end_ms if self.words else 0

    @cached_property
    def sureness(self) -> float:
        """How sure the machine is of the speaker where it is the least sure, 0 to 1."""
        return min((word.sure for word in self.words), default=1.0)

    @cached_property
    def doubts(self) -> tuple[float, ...]:
        """How doubtful its words are that are not struck, the least doubtful first."""
        return tuple(sorted(word.doubt for word in self.words if not word.struck))

    @cached_property
    def said(self) -> frozenset[int]:
        """Ids of its words that are not struck."""
        return frozenset(word.id for word in self.words if not word.struck)

    @cached_property
    def text(self) -> str:
        """The words, a space between them where their script has one."""
        return text_of_words(self.words)

    @cached_property
    def lined(self) -> str:
        """The text with a line end before each word with which a line of a song begins.

        It is as long as ``text``; a space stands in every such place.
        """
        if not any(word.verse for word in self.words[1:]):
            return self.text
        text, at = [], 0
        for offset, word in zip(self.offsets[1:], self.words[1:]):
            if word.verse and self.text[offset - 1] == " ":
                text += [self.text[at : offset - 1], "\n"]
                at = offset
        return "".join(text) + self.text[at:]

    @cached_property
    def offsets(self) -> tuple[int, ...]:
        """Where each word begins in ``text``."""
        texts = [word.text for word in self.words]
        if len(self.text) == sum(map(len, texts)) + len(texts) - 1:
            return tuple(accumulate((len(text) + 1 for text in texts[:-1]), initial=0)) if texts else ()
        gaps = [max(one, word.spaced) for one, word in zip(gap_lengths(texts), self.words)]
        return tuple(accumulate((len(a) + g for a, g in zip(texts[:-1], gaps[1:])), initial=0))

    @cached_property
    def others_ms(self) -> dict[str, int]:
        """How long each other speaker speaks at the same time."""
        found: dict[str, int] = {}
        for word in self.words:
            if word.also is not None:
                found[word.also] = found.get(word.also, 0) + word.end_ms - word.start_ms
        return found

    @cached_property
    def index_of(self) -> dict[int, int]:
        """Word id to its place in ``words``."""
        return {word.id: place for place, word in enumerate(self.words)}


class Transcript(Value, dict=True):
    """Everything that is said, in order of time."""

    language: str = "en"
    speakers: tuple[Speaker, ...] = ()
    turns: tuple[Turn, ...] = ()

    def speaker(self, speaker_id: str | None) -> Speaker | None:
        """The speaker with an id, or ``None``."""
        return next((who for who in self.speakers if who.id == speaker_id), None)

    @cached_property
    def words_by_id(self) -> dict[int, Word]:
        """Every word by its id. Grows with the whole transcript: for files, not for keystrokes."""
        return {word.id: word for turn in self.turns for word in turn.words}

    @cached_property
    def speaker_of(self) -> dict[int, str | None]:
        """The speaker's id of every word. Grows with the whole transcript, as ``words_by_id``."""
        return {word.id: turn.speaker for turn in self.turns for word in turn.words}

    def name_of(self, word_id: int) -> str:
        """The name of who says a word; empty where it is not known."""
        speaker = self.speaker(self.speaker_of.get(word_id))
        return speaker.name if speaker else ""

    @cached_property
    def word_count(self) -> int:
        """How many words there are."""
        return sum(len(turn.words) for turn in self.turns)
