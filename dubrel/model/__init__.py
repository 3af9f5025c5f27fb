"""The nouns: frozen dataclasses and nothing else.

A project is one immutable value. Verbs that make the next value from one live
in ``dubrel.edits``; nothing here computes more than a look-up.
"""

from dubrel.model.captions import Caption, CaptionTrack
from dubrel.model.media import Media
from dubrel.model.project import Note, Project
from dubrel.model.transcript import Speaker, Timing, Transcript, Turn, Word

__all__ = [
    "Caption",
    "CaptionTrack",
    "Media",
    "Note",
    "Project",
    "Speaker",
    "Timing",
    "Transcript",
    "Turn",
    "Word",
]
