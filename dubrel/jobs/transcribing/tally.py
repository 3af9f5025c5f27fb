"""What the user should know at the end of a transcription."""

from __future__ import annotations

from collections.abc import Iterator

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_clock
from dubrel.jobs.machinery.events import Event, Warning_
from dubrel.jobs.transcribing.crew import Part
from dubrel.model import Timing
from dubrel.speech.recognise.listener import RecognisedChunk


class Tally:
    """Counts what the user should know at the end of a transcription."""

    def __init__(self) -> None:
        self._uneven = 0
        self._dropped: list[int] = []
        self._music: list[int] = []

    def count(self, part: Part, found: RecognisedChunk) -> None:
        """Count what came of a part."""
        self._uneven += any(word.timing is Timing.SPREAD for word in found.words)
        if found.music:
            self._music.append(part.chunk.start_ms)
        if found.dropped:
            self._dropped.append(part.chunk.start_ms)

    def warnings(self) -> Iterator[Event]:
        """What should be said."""
        if self._uneven:
            yield Warning_(
                tr("{passages} could not be aligned with the sound; the words are marked.").format(
                    passages=counted(self._uneven, "passage")
                )
            )
        if self._dropped:
            yield Warning_(
                tr(
                    "{passages} gave text that nobody can have spoken, {dropped}. It was left out; "
                    "what remains there is marked as doubtful."
                ).format(passages=counted(len(self._dropped), "passage"), dropped=_first(self._dropped))
            )
        if self._music:
            yield Warning_(
                tr("{passages} of music gave doubtful text, {music}. It was left out.").format(
                    passages=counted(len(self._music), "passage"), music=_first(self._music)
                )
            )


def _first(starts: list[int]) -> str:
    at = format_clock(starts[0], digits=0)
    return tr("the first at {at}").format(at=at) if len(starts) > 1 else tr("at {at}").format(at=at)
