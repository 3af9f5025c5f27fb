"""What a look over a recording finds before it is transcribed."""

from __future__ import annotations

from enum import IntEnum

from dubrel.base.value import Value


class Kind(IntEnum):
    """What is heard most in a step of a survey."""

    SILENCE = 0
    SPEECH = 1
    MUSIC = 2
    OTHER = 3


class Survey(Value):
    """Levels and kinds of sound of a recording.

    Attributes
    ----------
    kinds : bytes
        A :class:`Kind` for each step, in order of time.
    step_ms : int
        Length of a step.
    speech_db : float or None
        Level of the speech, in dB below full scale; None where there is none.
    floor_db : float
        Level of the quietest tenth: the noise floor.
    clipped_s : int
        Seconds in which the sound is cut off at full scale.
    channels_apart : bool or None
        Whether the channels carry different people; None where there is one, or tracks.
    transcribing_s : float
        A guess how long transcribing will take on this machine.
    """

    kinds: bytes
    step_ms: int
    speech_db: float | None
    floor_db: float
    clipped_s: int
    channels_apart: bool | None
    transcribing_s: float

    def share(self, kind: Kind) -> float:
        """The share of the time, 0 to 1, in which a kind is heard."""
        return self.kinds.count(kind) / len(self.kinds) if self.kinds else 0.0
