"""What film is to be made, as it is given to the process that makes it."""

from __future__ import annotations

from fractions import Fraction

from dubrel.base.value import Value, field
from dubrel.film.muxing import CaptionStream
from dubrel.film.reshaping import Wished
from dubrel.film.soundtracks.cutsound import CutPart
from dubrel.film.stamps import Shown


class FilmShot(Value):
    """Frames of a cut that come from the film of a camera.

    Attributes
    ----------
    path : str
        The film; empty for nothing but black.
    at, until : int
        The first frame of the cut, and the one after the last.
    start_s : Fraction
        When the first is on the clock of that film, in seconds.
    pace : Fraction
        Seconds of that clock in one of the recording.
    """

    path: str
    at: int
    until: int
    start_s: Fraction = Fraction(0)
    pace: Fraction = Fraction(1)


class SpokenLine(Value):
    """A text that is spoken between two times.

    Attributes
    ----------
    id : int
        Of the caption with which it begins.
    start_ms, until_ms : int
        When it begins, and when the next one does.
    text : str
    shorter : tuple of str
        What may be spoken in its place, the longest first.
    semitones, pace : float
        By how much higher, and how many times as fast, this speaker talks.
    """

    id: int
    start_ms: int
    until_ms: int
    text: str
    shorter: tuple[str, ...] = ()
    semitones: float = 0.0
    pace: float = 1.0


class Speaking(Value):
    """What is spoken, by which voice, and how it goes over the recording.

    Attributes
    ----------
    voice : str
        See :mod:`dubrel.speech.speaking.engines`.
    language, title : str
        BCP 47 tag; what the sound track is called.
    lines : tuple of SpokenLine
    fastest : float
        How many times as fast a line may be spoken at most.
    under_db : float or None
        By how much the recording goes down meanwhile; ``None`` for the voice alone.
    fade_ms : int
        In which time it does.
    """

    voice: str
    language: str
    title: str
    lines: tuple[SpokenLine, ...]
    fastest: float = 1.25
    under_db: float | None = 15.0
    fade_ms: int = 250


class FilmOrder(Value):
    """What is to be made.

    Attributes
    ----------
    kind : {"burn", "inside", "sound", "copy", "small", "forward", "spoken", "cut-film", "cut-sound"}
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
    shots : tuple of FilmShot
        Where the picture of a cut comes from several cameras.
    off_faces : bool
        Whether captions are moved that would cover a face.
    amount : float
        How far the voice is brought forward, 0 to 1.
    loudness : float or None
        LUFS; ``None`` for as loud as it is.
    speaking : Speaking or None
    tracks : tuple of int
        The sound tracks of the source that are its sound; empty for the first.
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
    shots: tuple[FilmShot, ...] = ()
    off_faces: bool = False
    amount: float = 0.0
    loudness: float | None = None
    speaking: Speaking | None = None
    tracks: tuple[int, ...] = ()
