"""A film with one more sound track, nothing else re-encoded."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.base.languages import three_letters
from dubrel.film.muxing import alike, dated, fits, opened
from dubrel.film.soundtracks.cutsound import SoundTrack
from dubrel.film.soundtracks.forwardsound import Blocks
from dubrel.media.forwardtrack import RATE
from dubrel.media.probe import open_media, origin_s


def write_further_track(
    source: Path, target: Path, suffix: str, blocks: Callable[[], Blocks], language: str, title: str
) -> Iterator[float]:
    """Copy a film with one more sound track; yields how far it is, 0 to 1.

    Raises
    ------
    MediaError
        If the film cannot be read, or the file not be written.
    """
    import av

    try:
        with open_media(source) as film, opened(target, suffix, film) as out:
            streams = {one.index: alike(out, one) for one in film.streams if fits(one, suffix)}
            sound = blocks()
            first = next(sound, np.zeros((1, 0), np.float32))
            track = SoundTrack(out, "aac", RATE, "stereo" if len(first) == 2 else "mono")
            track.stream.metadata["language"] = three_letters(language)
            track.stream.metadata["title"] = title
            track.add(first, RATE)
            zero, done = origin_s(film), first.shape[1] / RATE
            length = float(Fraction(film.duration or 1, 1_000_000))
            for packet in dated(film.demux(*[film.streams[nth] for nth in streams])):
                base = packet.time_base
                at, shift = float(packet.dts * base - zero), round(zero / base)
                while done < at and (block := next(sound, None)) is not None:
                    track.add(block, RATE)
                    done += block.shape[1] / RATE
                    yield min(1.0, done / length)
                packet.stream, packet.dts = streams[packet.stream.index], packet.dts - shift
                packet.pts = packet.pts - shift if packet.pts is not None else None
                out.mux(packet)
            for block in sound:
                track.add(block, RATE)
            track.finish()
    except (av.FFmpegError, OSError, ValueError) as error:
        reason = cause_of(error)
        raise MediaError(
            tr("“{name}” could not be written: {reason}. Choose another form, or free some space.").format(
                name=target.name, reason=reason
            )
        ) from error
    yield 1.0
