"""How a recording is to be transcribed: what the user chooses for each."""

from __future__ import annotations

from dubrel.base.timecode import LATEST_MS
from dubrel.base.value import Value


class Choices(Value):
    """Settings of one recording.

    Attributes
    ----------
    engine : str
        See :func:`dubrel.speech.recognise.engines.engine_named`.
    language : str
        Of the speech; empty to take the engine's own.
    apart : bool
        Transcribe each channel (or each track) by itself: one microphone a speaker.
    speakers : str
        ``off``, ``auto``, or how many people speak.
    from_ms, to_ms : int
        Only what is said between two times; zeros for all of it.
    tracks : tuple of int
        The sound tracks that are mixed; empty for the first.
    kit : str
        The kit by which a recording of the queue is released when it is done; empty for none.
    """

    engine: str = "builtin"
    language: str = ""
    apart: bool = False
    speakers: str = "off"
    kit: str = ""
    tracks: tuple[int, ...] = ()
    from_ms: int = 0
    to_ms: int = 0

    @property
    def span(self) -> tuple[int, int]:
        """From when to when, without an end where none is said."""
        return self.from_ms, self.to_ms or LATEST_MS


AS_USUAL = Choices()


def is_remote(name: str) -> bool:
    """Whether an engine sends the recording away."""
    return name.partition(":")[0] == "remote"
