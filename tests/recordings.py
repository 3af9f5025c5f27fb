"""Recordings made for tests: several microphones, files of one speaker each."""

from __future__ import annotations

import json
import wave
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from pathlib import Path

import av
import numpy as np
from conftest import DEMO

from dubrel.media.sound import RATE, decode_blocks
from dubrel.store.projectjson import to_text


@dataclass(frozen=True)
class TrueWord:
    """A word and when it is said, in seconds."""

    text: str
    start: float
    end: float


@dataclass(frozen=True)
class TrueTurn:
    """Who says what."""

    speaker: str
    words: tuple[TrueWord, ...]


@dataclass(frozen=True)
class Microphones:
    """One row of samples for each speaker, and who says what when."""

    names: list[str]
    samples: np.ndarray
    turns: list[TrueTurn]


@lru_cache(maxsize=4)
def microphones(
    count: int = 8, bleed_db: float = -18.0, gains: tuple[float, ...] = (1.0, 0.5, 0.8)
) -> Microphones:
    """The first turns of the demo podcast, each speaker with a microphone that also hears the others."""
    rows = json.loads((DEMO / "slow-water-7.truth.json").read_text())["turns"][:count]
    turns = [
        TrueTurn(row["speaker"], tuple(TrueWord(text, a / 1000, b / 1000) for text, a, b in row["words"]))
        for row in rows
    ]
    end = round((turns[-1].words[-1].end + 2) * RATE)
    mix = np.concatenate(list(decode_blocks(DEMO / "slow-water-7.opus")))[:end].astype(np.float32) / 32768
    names = list(dict.fromkeys(turn.speaker for turn in turns))
    alone = np.zeros((len(names), len(mix)), np.float32)
    for turn in turns:
        begin, stop = round(turn.words[0].start * RATE), round(turn.words[-1].end * RATE)
        alone[names.index(turn.speaker), begin:stop] = mix[begin:stop]
    bleed = 10 ** (bleed_db / 20)
    heard = alone + bleed * (alone.sum(axis=0) - alone)
    noise = np.random.default_rng(8).standard_normal(heard.shape).astype(np.float32) * 0.0008
    return Microphones(names, heard * np.array(gains[: len(names)])[:, None] + noise, turns)


def cut_short(source: Path, target: Path, seconds: float) -> Path:
    """The beginning of a film, its packets as they are."""
    with av.open(str(source)) as was, av.open(str(target), "w") as out:
        streams = {
            s.index: out.add_stream_from_template(s) for s in (was.streams.video[0], was.streams.audio[0])
        }
        for packet in was.demux(*(was.streams[index] for index in streams)):
            if packet.dts is not None and packet.dts * packet.time_base < seconds:
                packet.stream = streams[packet.stream.index]
                out.mux(packet)
    return target


def tune(seconds: int) -> np.ndarray:
    """Plucked tones in any order, shape (n,), int16: music in which nobody speaks."""
    random = np.random.default_rng(3)
    out, at = np.zeros(seconds * RATE), 0
    while at < len(out):
        end = min(len(out), at + int(random.choice([0.2, 0.4, 0.6, 1.2]) * RATE))
        time = np.arange(end - at) / RATE
        pitch = random.choice([220, 247, 262, 294, 330, 349, 392, 440, 494, 523])
        for partial in range(1, 5):
            out[at:end] += np.exp(-3 * time) * np.sin(2 * np.pi * pitch * partial * time) / partial
        at = end
    return (out / np.abs(out).max() * 16000).astype(np.int16)


def write_wav(path: Path, samples: np.ndarray, rate: int = RATE) -> Path:
    """Write float samples, shape (channels, n) or (n,), as 16-bit WAV."""
    rows = np.atleast_2d(samples)
    with wave.open(str(path), "wb") as file:
        file.setnchannels(len(rows))
        file.setsampwidth(2)
        file.setframerate(rate)
        file.writeframes((np.clip(rows.T, -1, 1) * 32767).astype("<i2").tobytes())
    return path


def caption_lines(project, caption):
    """The lines of a caption of the active track as they show."""
    from dubrel.project.captiontext import text_of

    return list(text_of(project, project.captions, caption).lines)


class Held:
    """A job that stands still until it is cancelled, and says what it is given."""

    def __init__(self, *said):
        self.running, self.said = True, list(said)

    def events(self):
        said, self.said = self.said, []
        return said

    def cancel(self):
        self.running = False
        return self.events()


def hold(window, kind, *said, take=lambda event: None, ended=lambda whole: None, mark=None):
    """Let a job stand still in a lane of a window."""
    held = Held(*said)
    window.jobs.begin(kind, held, mark, take, ended, None)
    return held


def is_over(running) -> bool:
    """Whether a job that was cancelled is gone, with all that it had said."""
    from PySide6.QtWidgets import QApplication  # late: most tests need no window

    QApplication.processEvents()
    return not running.job.process.is_alive() and not running.job.events()


def to_json(project) -> dict:
    """What stands in the file of a project, as plain values."""
    return json.loads(to_text(project))


SOUND = {
    "a.wav": ("wav", "pcm_s16le", "s16"),
    "a.mp3": ("mp3", "libmp3lame", "fltp"),
    "a.m4a": ("ipod", "aac", "fltp"),
    "a.aac": ("adts", "aac", "fltp"),
    "a.flac": ("flac", "flac", "s16"),
    "a.ogg": ("ogg", "libopus", "fltp"),
    "a.opus": ("ogg", "libopus", "fltp"),
    "a.aiff": ("aiff", "pcm_s16be", "s16"),
}


def tone(seconds, rate, channels):
    """A click at every full second over a quiet tone."""
    t = np.arange(int(seconds * rate)) / rate
    wave = 0.05 * np.sin(2 * np.pi * 330 * t)
    wave[(t % 1.0 < 0.01) & (t > 0.5)] = 0.9
    return np.repeat(wave[None, :], channels, axis=0).astype(np.float32)


def write_media(
    path, *, seconds=3.2, rate=48_000, layout="mono", video=None, sound=True, form=None, codec=None
):
    known = SOUND.get(path.name, (form, codec, "fltp"))
    with av.open(str(path), "w", format=form or known[0]) as container:
        pictures = None
        if video is not None:
            pictures = container.add_stream(video[0], rate=Fraction(video[1]))
            pictures.width, pictures.height, pictures.pix_fmt = 64, 48, "yuv420p"
        stream = container.add_stream(codec or known[1], rate=rate, layout=layout) if sound else None
        if pictures is not None:
            for nth in range(int(seconds * Fraction(video[1]))):
                frame = av.VideoFrame.from_ndarray(np.full((48, 64, 3), nth % 255, np.uint8), format="rgb24")
                frame.pts, frame.time_base = nth, 1 / Fraction(video[1])
                container.mux(pictures.encode(frame))
            container.mux(pictures.encode(None))
        if stream is not None:
            encode(container, stream, tone(seconds, rate, stream.channels), rate, layout)
    return path


def encode(container, stream, data, rate, layout):
    resampler = av.AudioResampler(format=stream.format.name, layout=layout, rate=rate, frame_size=1024)
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(data), format="fltp", layout=layout)
    frame.rate = rate
    for part in [*resampler.resample(frame), *resampler.resample(None)]:
        container.mux(stream.encode(part))
    container.mux(stream.encode(None))


def part_of(source: Path, target: Path, seconds: float) -> Path:
    """The beginning of a recording as WAV."""
    with av.open(str(source)) as given, av.open(str(target), "w") as out:
        stream = out.add_stream("pcm_s16le", rate=16_000, layout="mono")
        resampler = av.AudioResampler("s16", "mono", 16_000)
        for frame in given.decode(audio=0):
            if frame.time is not None and frame.time >= seconds:
                break
            for made in resampler.resample(frame):
                out.mux(stream.encode(made))
        out.mux(stream.encode(None))
    return target
