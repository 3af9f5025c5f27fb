"""Captions and caption tracks."""

from __future__ import annotations

from functools import cached_property
from itertools import chain
from operator import attrgetter, sub

from dubrel.base.value import Value, field
from dubrel.model.motion import Motion
from dubrel.model.style import HouseStyle


class Look(Value):
    """How captions look on the picture.

    Attributes
    ----------
    font : str
        Family.
    size : float
        Height of the letters in percent of the picture's height.
    colour, ground : str
        Of the letters and of the box behind them, as ``#RRGGBB``.
    opacity : float
        Of the box, 0 to 1.
    weight : int
        400 is regular, 600 semibold, 700 bold.
    slanted : bool
        Set in italics.
    outline : float
        Width of the line around the letters in percent of their size.
    outline_colour : str
    shadow : float
        How far it falls to the right and down, in percent of the letters' size.
    box : {"line", "whole", "none"}
        Behind each line, behind the whole caption, or not at all.
    padding : float
        Around the letters in the box, in percent of their size.
    spacing : float
        From line to line, times the height of the letters.
    motion : Motion
        How its words come, and what becomes of the one that is being spoken.
    """

    font: str = "Inter"
    size: float = 6.4
    colour: str = "#FFFFFF"
    ground: str = "#0C0C0B"
    opacity: float = 0.88
    weight: int = 500
    slanted: bool = False
    outline: float = 0.0
    outline_colour: str = "#000000"
    shadow: float = 0.0
    box: str = "line"
    padding: float = 22.0
    spacing: float = 1.3
    motion: Motion = field(default_factory=Motion)


class Caption(Value):
    r"""What is shown together for a while.

    A caption of the spoken language holds word ids and no text of its own, so
    that wording and captions cannot drift apart. Where nothing is said (a
    sound description), and in a translated track, it has a text of its own.
    Either way its text is got by :func:`dubrel.project.captiontext.text_of`.

    Attributes
    ----------
    id : int
        Stable for the life of the project.
    start_ms, end_ms : int
        In time and out time on screen.
    words : tuple of int
        Ids of its words, in order; empty where it has a text of its own.
    breaks : tuple of int
        Ids of the words that begin a new line (never the first word).
    named : tuple of int
        Ids of the words before which the speaker's name stands.
    dashed : tuple of int
        Ids of the words before which a dash stands: another person speaks.
    text : str
        Its own text, lines parted by ``\n``.
    sources : tuple of int
        Ids of the captions that it translates.
    place : str
        Where it stands where that is not the usual place: cue settings of WebVTT (W3C).
    styled : tuple of (int, str)
        Ids of words that are set otherwise, with some of ``b``, ``i``, ``u``.
    held : tuple of str
        What a person has set, so that no machine changes it: some of ``HOLDS``.
    hidden : tuple of int
        Ids of its words that this caption alone does not show: a shorter text
        than what is said.
    done : bool
        A person has ticked it off; of a translation: approved it.
    of : tuple of int
        Ids of the words that it translates, where it is a translation.
    said : str
        Those words as they were when it was translated, parted by spaces.
    """

    id: int
    start_ms: int
    end_ms: int
    words: tuple[int, ...] = ()
    breaks: tuple[int, ...] = ()
    named: tuple[int, ...] = ()
    dashed: tuple[int, ...] = ()
    text: str = ""
    sources: tuple[int, ...] = ()
    place: str = ""
    styled: tuple[tuple[int, str], ...] = ()
    held: tuple[str, ...] = ()
    hidden: tuple[int, ...] = ()
    done: bool = False
    of: tuple[int, ...] = ()
    said: str = ""


HOLDS = ("break", "lines", "times", "place", "text")
"""What can be held of a caption: which words it has, its lines, its times, where it stands, its text."""


class CaptionTrack(Value, dict=True):
    """Captions in one language by one house style, in order of time.

    Attributes
    ----------
    id : int
    language : str
        BCP 47 tag; the direction of writing follows from it.
    style : HouseStyle
        By value: a style that is changed or lost elsewhere stays here as it was.
    captions : tuple of Caption
    look : Look
    translates : int or None
        Id of the track that it translates; ``None`` for the spoken language.
    looks : tuple of (str, Look)
        Looks of some speakers, by their ids, in place of that of the track.
    """

    id: int
    language: str
    style: HouseStyle
    captions: tuple[Caption, ...] = ()
    look: Look = field(default_factory=Look)
    translates: int | None = None
    looks: tuple[tuple[str, Look], ...] = ()

    @cached_property
    def longest_ms(self) -> int:
        """How long the longest caption is."""
        ends, starts = map(attrgetter("end_ms"), self.captions), map(attrgetter("start_ms"), self.captions)
        return max(map(sub, ends, starts), default=0)  # at the speed of C: asked after each step of a drag

    @cached_property
    def held(self) -> frozenset[int]:
        """Ids of all words that its captions show, or stand for."""
        return frozenset(chain.from_iterable(one.words or one.of for one in self.captions))

    @cached_property
    def rules(self) -> HouseStyle:
        """The rules of its style in its language; asked for each caption."""
        return self.style.for_language(self.language)

    @property
    def spoken(self) -> bool:
        """Whether its captions hold the words of the transcript."""
        return self.translates is None
