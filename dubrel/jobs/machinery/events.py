"""What a running job says."""

from __future__ import annotations

import time
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from dubrel.base.value import Value
from dubrel.model import (
    Agreed,
    Audit,
    Banner,
    FrameKey,
    Media,
    Project,
    RecognisedTurn,
    RecognisedWord,
    SoundSpot,
    Speaker,
    Survey,
    Translated,
    Weighed,
)

if TYPE_CHECKING:
    from dubrel.speech.speaking.fitting import Placed


class Progress(Value):
    """How far a job is.

    Attributes
    ----------
    stage : str
        What is being done, for the eye.
    fraction : float
        Of the whole job, 0 to 1.
    left_s : float or None
        Seconds left, once it can be told.
    """

    stage: str
    fraction: float
    left_s: float | None = None


class Recognised(Value):
    """Words that follow those before them."""

    words: tuple[RecognisedWord, ...]


class RecognisedTurns(Value):
    """Turns that follow those before them, and, with the first of them, who speaks."""

    turns: tuple[RecognisedTurn, ...]
    speakers: tuple[Speaker, ...] = ()


class TurnsComplete(Value):
    """All turns of all channels are there: it can be told who speaks at the same time."""


class CaptionsSet(Value):
    """Captions were set for a value of the project; ``project`` has them."""

    project: Project


class Aligned(Value):
    """A script with times.

    Its turns, who speaks, what was transcribed besides, how many words were not heard, its language.
    """

    turns: tuple[RecognisedTurn, ...]
    speakers: tuple[Speaker, ...]
    extra: tuple[RecognisedWord, ...]
    unheard: int
    language: str = "en"


class Audited(Value):
    """What the sound says of captions.

    Attributes
    ----------
    report : Audit
    words : tuple of RecognisedWord
        The words of all captions, in order, as aligned with the sound.
    """

    report: Audit
    words: tuple[RecognisedWord, ...] = ()


class Read(Value):
    """Another reading of the recording between two times."""

    words: tuple[RecognisedWord, ...]
    start_ms: int
    end_ms: int


class LinesSpoken(Value):
    """Lines were spoken.

    Attributes
    ----------
    path : str
        Their sound: 16-bit samples at 48 kHz from the beginning of the recording.
    lines : tuple of Placed
    """

    path: str
    lines: tuple[Placed, ...]


class SpeakersFound(Value):
    """Who says each word that was asked about.

    Attributes
    ----------
    words : tuple of int
        Their ids.
    labels : tuple of int
        A speaker's number for each word.
    certainty : tuple of float
        How sure that is, 0 to 1.
    also : tuple of int
        Who speaks at the same time, or -1.
    prints : tuple of tuple of float
        By which each speaker can be known again; none unless they were asked for.
    too_many : str
        What to say where more speakers were asked for than speak, or nothing.
    """

    words: tuple[int, ...]
    labels: tuple[int, ...]
    certainty: tuple[float, ...]
    also: tuple[int, ...] = ()
    prints: tuple[tuple[float, ...], ...] = ()
    too_many: str = ""


class Written(Value):
    """A file is there."""

    path: str


class NotWritten(Value):
    """A file could not be written; why, and what to do. The others are."""

    message: str


class Surveyed(Value):
    """What a look over the recording found."""

    survey: Survey


class PicturesFound(Value):
    """Shot changes (milliseconds, on frames) and lettering in a film of a name."""

    name: str
    shots: tuple[int, ...]
    banners: tuple[Banner, ...]


class CropFound(Value):
    """Where the crop has to lie so that who speaks is seen, within a passage."""

    start_ms: int
    end_ms: int
    keys: tuple[FrameKey, ...]


class CamerasFound(Value):
    """Films of the event, when each begins in time of the recording (ms), and the pace of its clock."""

    found: tuple[tuple[Media, float, float], ...]


class ShownFound(Value):
    """Whom cameras show: ids of cameras, each with ids of speakers; none for everybody."""

    found: tuple[tuple[int, tuple[str, ...]], ...]


class SoundsFound(Value):
    """What is heard but not said, in order of time."""

    spots: tuple[SoundSpot, ...]


class SentencesTranslated(Value):
    """Sentences in the language of a track.

    ``over`` as in :func:`dubrel.edits.translation.placing.with_translations`.
    """

    track: int
    found: tuple[Translated, ...]
    over: tuple[Agreed, ...] = ()


class SentencesWeighed(Value):
    """What was found out about translations."""

    found: tuple[Weighed, ...]


class Warning_(Value):
    """Something the user should know; the job goes on."""

    message: str


class Failed(Value):
    """The job stopped; what it gave before stays."""

    message: str


class OfEpisode(Value):
    """What became of an episode of a series.

    Attributes
    ----------
    path : str
        Of the episode.
    said : Progress, Written, Warning_, Failed or Finished
    machine : str
        Where it is being done; empty for this one.
    gone : str
        The machine that it was begun on and is gone.
    """

    path: str
    said: Progress | Written | Warning_ | Failed | Finished
    machine: str = ""
    gone: str = ""


class Finished(Value):
    """The job is done."""


Event = (
    Progress
    | Recognised
    | RecognisedTurns
    | TurnsComplete
    | Aligned
    | CaptionsSet
    | Audited
    | Read
    | LinesSpoken
    | SpeakersFound
    | Surveyed
    | PicturesFound
    | CropFound
    | CamerasFound
    | ShownFound
    | SoundsFound
    | SentencesTranslated
    | SentencesWeighed
    | Written
    | NotWritten
    | Warning_
    | Failed
    | OfEpisode
    | Finished
)


@dataclass
class Pace:
    """Turns fractions into progress with the time left."""

    began: float = field(default_factory=time.monotonic)
    base: float = 0.0  # the fraction at which it began: what was done before says nothing of what is left

    def at(self, stage: str, fraction: float) -> Progress:
        """Progress now; the time left is told after the first two seconds."""
        spent = time.monotonic() - self.began
        own = (fraction - self.base) / max(1e-9, 1 - self.base)
        left = spent * (1 - own) / own if spent > 2 and own > 0.02 else None
        return Progress(stage, min(1.0, fraction), left)

    def part(self, share: float) -> float:
        """A share of what was left when it began, as a fraction of the whole."""
        return self.base + (1 - self.base) * share

    def before(self, stage: str, fraction: float, rest_s: float) -> Progress:
        """Progress of a first stage, where about so many seconds of others follow."""
        spent = time.monotonic() - self.began
        if fraction <= 0:
            return Progress(stage, 0.0, None)
        whole = spent / fraction
        left = whole - spent + rest_s if spent > 2 and fraction > 0.02 else None
        return Progress(stage, min(1.0, spent / max(1e-9, whole + rest_s)), left)
