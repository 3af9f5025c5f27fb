"""What the user should know at the end of a transcription."""

from __future__ import annotations

from collections.abc import Iterator

from dubrel.jobs.crew import Part
from dubrel.jobs.events import Event, Warning_
from dubrel.model import Timing
from dubrel.speech.listener import HeardChunk
from dubrel.timecode import format_clock


class Tally:
    """Counts what the user should know at the end of a transcription."""

    def __init__(self) -> None:
        self._uneven = 0
        self._dropped: list[int] = []

    def count(self, part: Part, found: HeardChunk) -> None:
        """Take in what came of a part."""
        self._uneven += any(word.timing is Timing.SPREAD for word in found.words)
        if found.dropped:
            self._dropped.append(part.chunk.start_ms)

    def warnings(self) -> Iterator[Event]:
        """What should be said."""
        if self._uneven:
            yield Warning_(
                f"{self._uneven} stretches could not be lined up with the sound; their words are marked."
            )
        if self._dropped:
            first = format_clock(self._dropped[0], digits=0)
            yield Warning_(
                f"{len(self._dropped)} stretches gave text that nobody can have said, the first at {first}; "
                "it was left out and what is left there is marked as doubtful."
            )
