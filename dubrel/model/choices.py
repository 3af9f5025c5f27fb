"""How a recording is to be transcribed: what the user chooses for each."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Choices:
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
    kit : str
        The kit by which a recording of the queue is released when it is done; empty for none.
    """

    engine: str = "builtin"
    language: str = ""
    apart: bool = False
    speakers: str = "off"
    kit: str = ""


AS_USUAL = Choices()


def is_remote(name: str) -> bool:
    """Whether an engine sends the recording away."""
    return name.partition(":")[0] == "remote"
