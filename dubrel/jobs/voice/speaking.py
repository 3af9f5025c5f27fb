"""Speak lines in the time that each has, and write them over the recording or alone."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path

import numpy as np

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.base.helper import EngineProcess
from dubrel.base.jsontext import parse_json
from dubrel.base.timecode import format_clock
from dubrel.base.value import asdict
from dubrel.film.furthertrack import write_further_track
from dubrel.film.order import FilmOrder, Speaking
from dubrel.film.soundtracks.cutsound import SOUND_CODECS
from dubrel.film.soundtracks.forwardsound import at_loudness, write_forward
from dubrel.film.soundtracks.spokensound import spoken_blocks, spoken_over
from dubrel.jobs.machinery.events import Event, LinesSpoken, Pace, Progress, Warning_
from dubrel.media.cache import spoken_folder
from dubrel.media.levelling import LOSSLESS, LOSSY
from dubrel.media.probe import probe
from dubrel.speech.speaking.engines import Said, say, voice_for
from dubrel.speech.speaking.fitting import Placed, fitted
from dubrel.speech.speaking.stretching import RATE

_SAYING = 0.7  # of the time
_MOST_TOLD = 3


def voice_samples(path: str) -> np.ndarray:
    """The sound of spoken lines, mapped from disk."""
    return np.memmap(path, np.int16, mode="r") if os.path.getsize(path) else np.zeros(0, np.int16)


def speak_lines(speaking: Speaking) -> Iterator[Event]:
    """Speak lines; what was spoken before, and has not changed, is taken from the cache.

    Yields
    ------
    Event
        Progress, then a :class:`LinesSpoken`.

    Raises
    ------
    EngineError
        If no voice speaks the language, or one fails.
    MediaError
        If the cache cannot be written.
    """
    voice = voice_for(speaking.voice, speaking.language)
    folder = spoken_folder(_digest(voice, asdict(speaking)))
    sound, told = folder / "voice-48k.i16", folder / "lines.json"
    if (found := _kept(told)) is not None and sound.is_file():
        yield LinesSpoken(str(sound), found)
        return
    process, pace, lines = EngineProcess(tr("The voice"), tr("Choose another voice.")), Pace(), []
    part = sound.with_name(f"{sound.stem}.{os.getpid()}.part")
    try:
        with open(part, "wb", opener=lambda name, flags: os.open(name, flags, 0o600)) as file:
            saying = partial(_said, process, voice, speaking.language)
            for nth, (line, samples) in enumerate(fitted(speaking.lines, saying, speaking.fastest)):
                lines.append(line)
                file.seek(2 * (line.start_ms * RATE // 1000))
                file.write(np.round(samples * 32767).astype("<i2").tobytes())
                yield pace.at(tr("Speaking"), (nth + 1) / len(speaking.lines))
        os.replace(part, sound)
        told.write_text(json.dumps([asdict(one) for one in lines]), "utf-8")
    except OSError as error:
        raise MediaError(
            tr(
                "What is spoken cannot be kept in “{folder}”: {strerror}. Free some space and try again."
            ).format(folder=folder, strerror=cause_of(error))
        ) from error
    finally:
        part.unlink(missing_ok=True)
        process.close()
    yield LinesSpoken(str(sound), tuple(lines))


def _digest(*what: object) -> str:
    return hashlib.sha256(json.dumps(what, default=str).encode()).hexdigest()[:24]


def _kept(told: Path) -> tuple[Placed, ...] | None:
    try:
        rows = parse_json(told.read_bytes())
        return tuple(Placed(**{**row, "words": tuple(map(tuple, row["words"]))}) for row in rows)
    except (OSError, ValueError, TypeError, KeyError):
        return None


def _said(process: EngineProcess, voice: str, language: str, text: str) -> Said:
    """A text at its natural pace; the same one is spoken once."""
    path = spoken_folder("said") / f"{_digest(voice, language, text)}.npz"
    try:
        with np.load(path) as kept:
            times = tuple(None if a < 0 else (float(a), float(b)) for a, b in kept["times"])
            return Said(kept["samples"].astype(np.float32) / 32768, int(kept["rate"]), times)
    except (OSError, ValueError, KeyError, EOFError):
        pass
    said = process.call(say, voice, text, language)
    part = path.with_name(f"{path.stem}.{os.getpid()}.part.npz")
    rows = np.array([one or (-1, -1) for one in said.times or ()], np.float64).reshape(-1, 2)
    samples = np.round(np.clip(said.samples, -1, 1) * 32767).astype(np.int16)
    try:
        np.savez(part, samples=samples, rate=said.rate, times=rows)
        os.replace(part, path)
    except OSError:  # it is spoken again the next time
        part.unlink(missing_ok=True)
    return said


def lines_said(lines: Sequence[Placed]) -> list[str]:
    """What has to be said of lines that are not spoken as they should be, in sentences."""
    over = [one for one in lines if one.over_ms]
    silent = [one for one in lines if one.why_not]
    said = []
    if over:
        places = ", ".join(
            tr("{clock} by {long:.1f} s").format(
                clock=format_clock(one.start_ms, digits=1), long=one.over_ms / 1000
            )
            for one in over[:_MOST_TOLD]
        )
        if len(over) > _MOST_TOLD:
            places = tr("{some} and {more} more").format(some=places, more=len(over) - _MOST_TOLD)
        said.append(
            tr(
                "{lines} too long for the time: at {places}. Shorten the text, or let it be spoken faster."
            ).format(lines=counted(len(over), "line"), places=places)
        )
    if silent:
        places = ", ".join(format_clock(one.start_ms, digits=1) for one in silent[:_MOST_TOLD])
        said.append(
            tr("{lines} with nothing that a voice can say, at {places}.").format(
                lines=counted(len(silent), "line"), places=places
            )
        )
    return said


def spoken_written(order: FilmOrder, part: Path) -> Iterator[float | Warning_]:
    """Write what a deliverable asks for; yields how far it is, 0 to 1, and what has to be said.

    Without a recording the voice is written alone.

    Raises
    ------
    MediaError, EngineError
    """
    speaking = order.speaking
    assert speaking is not None
    found: LinesSpoken | None = None
    for event in speak_lines(speaking):
        if isinstance(event, LinesSpoken):
            found = event
        elif isinstance(event, Progress):
            yield event.fraction * _SAYING
    assert found is not None
    yield from map(Warning_, lines_said(found.lines))
    source = Path(order.source)
    media = probe(source) if order.source else None
    length = media.duration_ms if media else 0
    voice, spans = voice_samples(found.path), [(one.start_ms, one.end_ms) for one in found.lines]
    blocks = partial(spoken_blocks, voice, length)
    if speaking.under_db is not None and media is not None and media.has_audio:
        under, fade = speaking.under_db, speaking.fade_ms
        blocks = partial(spoken_over, source, length, voice, spans, under, fade, order.tracks)
    suffix = Path(order.target).suffix.lower()
    _, made = at_loudness(blocks, order.loudness, LOSSLESS if suffix == ".wav" else LOSSY)
    if suffix in SOUND_CODECS:
        steps = write_forward(source, part, suffix, made, length)
    else:
        steps = write_further_track(source, part, suffix, made, speaking.language, speaking.title)
    for share in steps:
        yield _SAYING + share * (0.98 - _SAYING)
