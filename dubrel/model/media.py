"""A recording that a project points to."""

from __future__ import annotations

from fractions import Fraction

from dubrel.base.value import Value


class Banner(Value):
    """Lettering low in the picture that stands still for a while.

    Attributes
    ----------
    start_ms, end_ms : int
    left, top, right, bottom : float
        In percent of the picture's width and height.
    """

    start_ms: int
    end_ms: int
    left: float
    top: float
    right: float
    bottom: float


class Media(Value):
    """A linked recording.

    Attributes
    ----------
    name : str
        File name without folder.
    path : str
        Absolute path when it was last seen.
    relative : str
        Path from the project file, or empty before the first save.
    fingerprint : str
        Digest of the whole content, by which the recording is known again;
        empty until it has been computed.
    duration_ms : int
    frame_rate : Fraction or None
        Frames a second of the picture, exact; ``None`` for sound alone.
    width, height : int
        Size of the picture, zero for sound alone.
    channels, sample_rate : int
        Of the sound; zero for a picture without sound.
    tracks : tuple of str
        Names of the sound tracks where the file has several, possibly empty ones.
    size, changed_ns : int
        Bytes of the file, and when it was changed last, as it was seen last.
    shots : tuple of int or None
        Shot changes in milliseconds, on frames; ``None`` until they have been looked for.
    banners : tuple of Banner
        Lettering in the picture, found together with the shot changes.
    timecode : str
        Of the first frame, as the file says; empty where it says none.
    sound : tuple of int
        Which sound tracks are the sound of the recording, mixed, counted from 0; empty for the first.
    """

    name: str
    path: str
    fingerprint: str
    duration_ms: int
    relative: str = ""
    frame_rate: Fraction | None = None
    width: int = 0
    height: int = 0
    channels: int = 0
    sample_rate: int = 0
    tracks: tuple[str, ...] = ()
    size: int = 0
    changed_ns: int = 0
    shots: tuple[int, ...] | None = None
    banners: tuple[Banner, ...] = ()
    timecode: str = ""
    sound: tuple[int, ...] = ()

    @property
    def has_video(self) -> bool:
        """Whether there is a picture."""
        return self.width > 0

    @property
    def separate(self) -> int:
        """How many channels or tracks can be transcribed by themselves."""
        return len(self.tracks) or self.channels

    @property
    def has_audio(self) -> bool:
        """Whether there is sound."""
        return self.channels > 0
