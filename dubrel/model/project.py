"""The project: the one value that everything reads."""

from __future__ import annotations

from dataclasses import dataclass, field

from dubrel.model.captions import CaptionTrack
from dubrel.model.media import Media
from dubrel.model.transcript import Transcript


@dataclass(frozen=True)
class Note:
    """A remark at a time, for the margin and the show notes."""

    id: int
    start_ms: int
    kind: str
    text: str


@dataclass(frozen=True)
class Project:
    """A project: media, transcript, caption track, notes.

    ``next_id`` is the first id not yet given to a word, turn, caption or note;
    ids are never used twice.
    """

    title: str = "Untitled"
    subtitle: str = ""
    media: Media | None = None
    transcript: Transcript = field(default_factory=Transcript)
    captions: CaptionTrack | None = None
    notes: tuple[Note, ...] = ()
    next_id: int = 1
