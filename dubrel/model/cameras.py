"""Cameras that ran beside the recording, which of them is shown when, and by what rules."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from fractions import Fraction

from dubrel.base.value import Value
from dubrel.model.media import Media


class Camera(Value):
    """A camera of the event that the recording is of.

    Attributes
    ----------
    id : int
    name : str
    media : Media or None
        Its film; ``None`` for the picture of the recording itself.
    starts_ms : float
        When its first moment is, in time of the recording; below zero where it ran before.
    rate : float
        Milliseconds of the recording in one of the camera's clock.
    shows : tuple of str
        Ids of the speakers whom it shows; none for everybody, from afar.
    """

    id: int
    name: str
    media: Media | None = None
    starts_ms: float = 0.0
    rate: float = 1.0
    shows: tuple[str, ...] = ()

    @property
    def seen(self) -> bool:
        """Whether it has a picture; else it is a recorder."""
        return self.media is None or self.media.has_video

    def own_ms(self, ms: float) -> float:
        """A time of the recording on the camera's own clock."""
        return (ms - self.starts_ms) / self.rate

    @property
    def ends_ms(self) -> float:
        """When its last moment is, in time of the recording."""
        return self.starts_ms + (self.media.duration_ms if self.media else 0) * self.rate


class Switch(Value):
    """From when on which camera is shown.

    Attributes
    ----------
    ms : int
        In time of the recording, on a frame.
    camera : int
        Its id.
    """

    ms: int
    camera: int


class Cameras(Value):
    """All cameras, and the cut of the picture.

    Attributes
    ----------
    all : tuple of Camera
    switches : tuple of Switch
        In order of time, no two at the same; until the first of them the first camera is shown.
    """

    all: tuple[Camera, ...] = ()
    switches: tuple[Switch, ...] = ()

    def camera(self, camera_id: int) -> Camera | None:
        """The camera with an id."""
        return next((one for one in self.all if one.id == camera_id), None)

    def at(self, ms: float) -> Camera | None:
        """Which camera is to be shown at a time of the recording.

        Examples
        --------
        >>> wide, near = Camera(1, "Wide"), Camera(2, "Near")
        >>> cameras = Cameras((wide, near), (Switch(2000, 2), Switch(5000, 1)))
        >>> [cameras.at(ms).name for ms in (0, 1999, 2000, 6000)]
        ['Wide', 'Wide', 'Near', 'Wide']
        """
        nth = bisect_right(self.switches, ms, key=lambda one: one.ms) - 1
        return self.camera(self.switches[nth].camera) if nth >= 0 else self.first

    @property
    def seen(self) -> tuple[Camera, ...]:
        """Those with a picture."""
        return tuple(one for one in self.all if one.seen)

    @property
    def first(self) -> Camera | None:
        """What is shown before anything is said."""
        return next((one for one in self.all if one.seen), None)

    @property
    def shots(self) -> int:
        """How many shots the switches make of the whole recording."""
        return len(self.switches) + (not self.switches or self.switches[0].ms > 0)

    def shot_changes(self, own: Sequence[int]) -> tuple[int, ...]:
        """When the picture changes: between cameras, and within what is shown of the recording's own."""
        shown = (ms for ms in own if (camera := self.at(ms)) is not None and camera.media is None)
        return tuple(sorted({*shown, *(one.ms for one in self.switches)} - {0}))

    @property
    def frame_rate(self) -> Fraction | None:
        """Frames a second of the first camera that has a picture of its own."""
        rates = (one.media.frame_rate for one in self.all if one.media is not None)
        return next((one for one in rates if one is not None), None)


class CameraRules(Value):
    """Which camera is shown when.

    Attributes
    ----------
    shortest_ms : int
        No shot is shorter.
    wide_ms : int
        After so long without it the picture from afar is shown; 0 for never.
    ahead_ms : int
        How long before a voice the picture changes to who speaks, where a pause has the room.
    laughter : bool
        Whether laughter and applause show everybody.
    quick : bool
        Whether a quick exchange does.
    """

    shortest_ms: int = 2000
    wide_ms: int = 40_000
    ahead_ms: int = 200
    laughter: bool = True
    quick: bool = True
