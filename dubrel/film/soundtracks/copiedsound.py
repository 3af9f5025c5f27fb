"""The sound of a recording into another file.

Copied where the form can hold it, re-encoded where it cannot.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from dubrel.media.probe import origin_s

COPIED = ("aac", "mp3", "mp3float", "opus", "flac", "alac", "ac3", "eac3")
"""What an MP4 holds and players of all kinds play."""


class SoundTracks:
    """Every sound track of a recording, each with its place in a new file.

    Parameters
    ----------
    source, out : av containers
    from_ms, to_ms : int
        The passage that is wished; 0 and 0 for all.

    Attributes
    ----------
    streams : list
        Those of the source.
    """

    def __init__(self, source: Any, out: Any, from_ms: int = 0, to_ms: int = 0) -> None:
        self.streams = list(source.streams.audio)
        self._out, self._from, self._to = out, from_ms, to_ms
        self._zero = origin_s(source)
        self._targets: dict[int, Any] = {}
        for stream in self.streams:
            copied = stream.codec_context.name in COPIED
            rate = stream.codec_context.sample_rate or 48_000
            target = out.add_stream_from_template(stream) if copied else out.add_stream("aac", rate=rate)
            if language := stream.metadata.get("language"):
                target.metadata["language"] = language
            self._targets[stream.index] = target

    def take(self, packet: Any) -> None:
        """Write what a packet of the source holds."""
        stream, target = packet.stream, self._targets[packet.stream.index]
        if stream.codec_context.name not in COPIED:
            for frame in packet.decode():
                if frame.pts is not None and self._wished(frame.pts * frame.time_base):
                    frame.pts -= round(self._shift() / frame.time_base)
                    for made in target.encode(frame):
                        self._out.mux(made)
            return
        if packet.dts is None or packet.pts is None or not self._wished(packet.pts * packet.time_base):
            return
        shift = round(self._shift() / packet.time_base)
        packet.pts, packet.dts, packet.stream = packet.pts - shift, packet.dts - shift, target
        self._out.mux(packet)

    def finish(self) -> None:
        """Write what the encoders still hold."""
        for stream in self.streams:
            if stream.codec_context.name not in COPIED:
                for made in self._targets[stream.index].encode(None):
                    self._out.mux(made)

    def _shift(self) -> Fraction:
        return self._zero + Fraction(self._from, 1000)

    def _wished(self, at_s: Fraction) -> bool:
        ms = float(at_s - self._zero) * 1000
        begun = not self._from or ms >= self._from - 0.5  # what primes a decoder stands before zero
        return begun and (not self._to or ms < self._to)
