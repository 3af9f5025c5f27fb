"""The nouns: values and nothing else.

A project is one immutable value. Verbs that make the next value from one live
in ``dubrel.edits``; nothing here computes more than a look-up.
"""

from dubrel.model.audit import Audit, AuditedCaption, Course
from dubrel.model.cameras import Camera, Cameras, Switch
from dubrel.model.captions import HOLDS, Caption, CaptionTrack, Look
from dubrel.model.cuts import Cut, CutPassage, TakenOut
from dubrel.model.framing import FrameKey, Framing
from dubrel.model.media import Banner, Media
from dubrel.model.motion import Motion
from dubrel.model.project import Note, Project, Released, Term
from dubrel.model.recognised import Cue, RecognisedTurn, RecognisedWord, SoundSpot, SpeakerPassage, opening
from dubrel.model.style import HouseStyle
from dubrel.model.survey import Kind, Survey
from dubrel.model.transcript import Speaker, Timing, Transcript, Turn, Word, line_starts, text_of_words
from dubrel.model.translated import Agreed, Translated, Weighed

__all__ = [
    "HOLDS",
    "Agreed",
    "Audit",
    "AuditedCaption",
    "Banner",
    "Camera",
    "Cameras",
    "Caption",
    "CaptionTrack",
    "Course",
    "Cue",
    "Cut",
    "CutPassage",
    "FrameKey",
    "Framing",
    "HouseStyle",
    "Kind",
    "Look",
    "Media",
    "Motion",
    "Note",
    "Project",
    "RecognisedTurn",
    "RecognisedWord",
    "Released",
    "SoundSpot",
    "Speaker",
    "SpeakerPassage",
    "Survey",
    "Switch",
    "TakenOut",
    "Term",
    "Timing",
    "Transcript",
    "Translated",
    "Turn",
    "Weighed",
    "Word",
    "line_starts",
    "opening",
    "text_of_words",
]
