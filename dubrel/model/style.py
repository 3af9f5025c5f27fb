"""House styles: the rules that captions keep."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache

from dubrel.base.text import grapheme_count, wide_count
from dubrel.base.timecode import rounded
from dubrel.base.value import Value, replace


class HouseStyle(Value):
    """Rules that captions keep; a caption track holds its own by value.

    Attributes
    ----------
    name : str
    max_lines : int
        Lines a caption may have.
    max_cpl : int
        Characters (graphemes) a line may have.
    single_cpl : int
        Characters a caption of one line may have before it is broken into
        two; 0 for as many as a line may have.
    max_words : int
        Words a caption may have; 0 for any number.
    max_cps : float
        Characters a second a reader can take, a line break counted as the
        space that it stands for.
    max_wpm : int
        Words a minute; 0 for no such rule. The tighter of both binds.
    wide_counts : int
        As how many characters a wide East Asian sign counts.
    speed_in : {"cps", "wpm"}
        How reading speed is shown.
    min_ms, max_ms : int
        Shortest and longest time on screen.
    gap_frames : int
        Least gap between two captions in frames of the picture.
    gap_ms : int
        The same where there is no picture.
    chain_ms : int
        A gap shorter than this is closed to the least gap.
    lead_ms : int
        How long before its first word a caption may come in.
    linger_ms : int
        How long after its last word a caption may stay.
    shot_snap_frames : int
        An in or out time this near to a shot change goes to it.
    shot_never_frames : int
        A caption that crosses a shot change stays this long on either side.
    shot_gap_frames : int
        How long before a shot change a caption that ends at it goes out.
    one_sentence : bool
        Whether no other sentence may begin in a caption in which one ends.
    shape : {"balanced", "bottom-heavy"}
        Of several lines.
    names : {"never", "change", "always"}
        When the speaker's name stands before the text.
    dashes : bool
        Whether two people may speak in one caption, each in a line with a dash.
    numbers : {"any", "figures", "words"}
        How numbers up to ten are written; checked, never changed.
    italics : bool
        Whether voices off picture (by the speaker's role) are set in italics.
    sound_brackets : str
        What stands around a sound description: its opening and its closing sign.
    sound_case : {"lower", "sentence", "upper"}
        How a sound description is written.
    place : str
        Where captions stand: ``bottom``, ``middle`` or ``top``, and ``left``,
        ``centre`` or ``right``.
    languages : tuple of (str, tuple of (str, float))
        Rules that are others in a language (BCP 47 tag).
    """

    name: str
    max_lines: int = 2
    max_cpl: int = 42
    single_cpl: int = 0
    max_words: int = 0
    max_cps: float = 20.0
    max_wpm: int = 0
    wide_counts: int = 1
    speed_in: str = "cps"
    min_ms: int = 1000
    max_ms: int = 7000
    gap_frames: int = 2
    gap_ms: int = 80
    chain_ms: int = 400
    lead_ms: int = 120
    linger_ms: int = 1500
    shot_snap_frames: int = 7
    shot_never_frames: int = 7
    shot_gap_frames: int = 2
    one_sentence: bool = False
    shape: str = "balanced"
    names: str = "never"
    dashes: bool = False
    numbers: str = "any"
    italics: bool = False
    sound_brackets: str = "[]"
    sound_case: str = "lower"
    place: str = "bottom centre"
    languages: tuple[tuple[str, tuple[tuple[str, float], ...]], ...] = ()

    def shows_name(self, changed: bool) -> bool:
        """Whether a name stands before a caption, ``changed`` where another person begins to speak."""
        return self.names == "always" or (self.names == "change" and changed)

    def least_gap(self, frame_rate: Fraction | None) -> int:
        """Least gap in milliseconds for a picture of a rate, or for sound alone."""
        if frame_rate is None:
            return self.gap_ms
        return rounded(Fraction(self.gap_frames * 1000) / frame_rate)

    def least_ms(self, length: int, words: int) -> int:
        """How long so many characters and words have to stand to be read, to the millisecond above."""
        by_signs = -(-Fraction(length * 1000) / Fraction(self.max_cps).limit_denominator(1000)).__floor__()
        by_words = -(-words * 60_000 // self.max_wpm) if self.max_wpm else 0
        return max(by_signs, by_words)

    def length(self, text: str) -> int:
        """Characters of a text as this style counts them."""
        extra = self.wide_counts - 1
        return grapheme_count(text) + (extra * wide_count(text) if extra else 0)

    def for_language(self, tag: str) -> HouseStyle:
        """The style with the rules of a language in place of the general ones."""
        return _for_language(self, tag) if self.languages else self


@lru_cache(maxsize=64)
def _for_language(style: HouseStyle, tag: str) -> HouseStyle:
    known = dict(style.languages)
    rules = dict(known.get(tag) or known.get(tag.split("-")[0], ()))
    kinds = {name: type(getattr(style, name)) for name in rules}
    return replace(style, **{name: kinds[name](value) for name, value in rules.items()})
