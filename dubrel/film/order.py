"""What film is to be made, as it is given to the process that makes it."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction

from dubrel.film.cutsound import CutPart
from dubrel.film.muxing import CaptionStream
from dubrel.film.reshaping import Wished
from dubrel.film.stamps import Shown


@dataclass(frozen=True)
class FilmOrder:
    """What is to be made.

    Attributes
    ----------
    kind : {"burn", "inside", "sound", "copy", "small", "cut-film", "cut-sound"}
    source, target : str
        Files.
    shown, names : tuple of Shown
        For a film with captions in its picture; the names are for one of sound alone.
    streams : tuple of CaptionStream
    chapters : tuple of (int, int, str)
    crf, from_ms, to_ms : int
    wished : Wished
        The shape of the picture.
    parts : tuple of CutPart
        What plays of the source, of a cut.
    rate : Fraction
        Frames a second of the picture, of a cut.
    """

    kind: str
    source: str
    target: str
    shown: tuple[Shown, ...] = ()
    streams: tuple[CaptionStream, ...] = ()
    chapters: tuple[tuple[int, int, str], ...] = ()
    names: tuple[Shown, ...] = ()
    crf: int = 20
    from_ms: int = 0
    to_ms: int = 0
    wished: Wished = field(default_factory=Wished)
    parts: tuple[CutPart, ...] = ()
    rate: Fraction = Fraction(25)
