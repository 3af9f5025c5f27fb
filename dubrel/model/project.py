"""The project: the one value that everything reads."""

from __future__ import annotations

from dataclasses import dataclass, field

from dubrel.model.captions import CaptionTrack
from dubrel.model.media import Media
from dubrel.model.transcript import Transcript


@dataclass(frozen=True)
class Note:
    """A remark on words, for the margin and the show notes.

    Attributes
    ----------
    id : int
    start_ms : int
        Its own time, for what lies between words.
    kind, text : str
    words : tuple of int
        Ids of the words that it stands beside.
    """

    id: int
    start_ms: int
    kind: str
    text: str
    words: tuple[int, ...] = ()


@dataclass(frozen=True)
class Project:
    """A project: media, transcript, caption tracks, notes.

    Attributes
    ----------
    title, subtitle : str
    media : Media or None
    transcript : Transcript
    tracks : tuple of CaptionTrack
    active : int
        Id of the track that is worked on; 0 without tracks.
    notes : tuple of Note
    next_id : int
        The first id not yet given to a word, turn, caption, track, note or
        speaker. Ids are never used twice, not even after an undo, so it is no
        part of what a project says.
    index : object
        What :mod:`dubrel.edits.index` keeps of this value or of an earlier one;
        it travels along where a value is made from another.
    """

    title: str = "Untitled"
    subtitle: str = ""
    media: Media | None = None
    transcript: Transcript = field(default_factory=Transcript)
    tracks: tuple[CaptionTrack, ...] = ()
    active: int = 0
    notes: tuple[Note, ...] = ()
    next_id: int = field(default=1, compare=False)
    index: object = field(default=None, compare=False, repr=False)

    def track(self, track_id: int) -> CaptionTrack | None:
        """The track with an id."""
        return next((one for one in self.tracks if one.id == track_id), None)

    @property
    def captions(self) -> CaptionTrack | None:
        """The track that is worked on."""
        return self.track(self.active)
