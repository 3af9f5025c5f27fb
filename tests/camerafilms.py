"""Films of made cameras: every frame says by its picture which camera it is of, and which number it has."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soxr

WIDTH, HEIGHT, BITS = 128, 64, 16
RATE = 48_000
_TINTS = (60, 90, 150, 190, 220)


def frame_of(camera: int, number: int, width: int = WIDTH, height: int = HEIGHT) -> av.VideoFrame:
    """A frame whose columns are the bits of its number, and whose tint is the camera's."""
    luma = np.zeros((height, width), np.uint8)
    for bit in range(BITS):
        light = 210 if number >> bit & 1 else 40
        luma[:, bit * width // BITS : (bit + 1) * width // BITS] = light
    half = np.full(width * height // 4, _TINTS[camera], np.uint8)
    flat = np.concatenate([luma.reshape(-1), half, np.full_like(half, 128)])
    return av.VideoFrame.from_ndarray(flat.reshape(height * 3 // 2, width), format="yuv420p")


def read_frame(frame: av.VideoFrame) -> tuple[int, int]:
    """Camera and number of a frame; camera −1 for black."""
    planes = frame.to_ndarray(format="yuv420p")
    luma = planes[: frame.height].astype(float)
    tint = float(planes[frame.height : frame.height + frame.height // 4].mean())
    columns = luma[frame.height // 3 : -frame.height // 3].mean(axis=0).reshape(BITS, -1).mean(axis=1)
    number = sum(int(one > 125) << bit for bit, one in enumerate(columns))
    if luma.max() < 30:
        return -1, 0
    return int(np.argmin([abs(one - tint) for one in _TINTS])), number


def frames_in(path: Path) -> list[tuple[int, int]]:
    """What the frames of a film say, in order."""
    with av.open(str(path)) as film:
        return [read_frame(frame) for frame in film.decode(video=0)]


def camera_film(
    path: Path,
    camera: int,
    sound: np.ndarray,
    starts_s: float,
    seconds: float,
    *,
    fps: Fraction = Fraction(25),
    ppm: float = 0.0,
    size: tuple[int, int] = (WIDTH, HEIGHT),
    picture: bool = True,
) -> Path:
    """A film that ran from a moment of a sound (48 kHz, mono, floats) on, with a clock that drifts."""
    begin, end = round(starts_s * RATE), round((starts_s + seconds) * RATE)
    part = np.zeros(end - begin, np.float32)
    low, high = max(0, begin), min(len(sound), end)
    part[low - begin : high - begin] = sound[low:high]
    part += np.random.default_rng(camera).normal(0, 0.003, len(part)).astype(np.float32)
    if ppm:
        part = soxr.resample(part, RATE * (1 + ppm * 1e-6), RATE)
    with av.open(str(path), "w") as out:
        stream = None
        if picture:
            stream = out.add_stream(
                "libx264", rate=fps, options={"crf": "10", "preset": "ultrafast", "g": "20"}
            )
            stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        voice = out.add_stream("pcm_s16le", rate=RATE, layout="mono")
        if stream is not None:
            for number in range(int(seconds * fps)):
                frame = frame_of(camera, number, *size)
                frame.pts, frame.time_base = number, 1 / fps
                out.mux(stream.encode(frame))
            out.mux(stream.encode(None))
        data = (np.clip(part, -1, 1) * 32767).astype(np.int16)
        for at in range(0, len(data), 1024):
            block = av.AudioFrame.from_ndarray(data[None, at : at + 1024], format="s16", layout="mono")
            block.rate, block.pts, block.time_base = RATE, at, Fraction(1, RATE)
            out.mux(voice.encode(block))
        out.mux(voice.encode(None))
    return path


def talk_sound(samples: np.ndarray) -> np.ndarray:
    """The talk of the tests (16 kHz) at 48 kHz, as floats."""
    return soxr.resample(samples.astype(np.float32) / 32768, 16_000, RATE)


def people_film(
    path: Path, recording: Path, people, seconds: float, starts_s: float = 0.0, rate: int = 25
) -> Path:
    """A film of drawn people with the sound of a recording; ``people`` says where each is at a time of it."""
    from drawnfaces import HEIGHT as HIGH
    from drawnfaces import WIDTH as WIDE
    from drawnfaces import picture

    from dubrel.media.sound import decode_blocks

    sound = np.concatenate(list(decode_blocks(recording)))[: round((starts_s + seconds) * 16_000)]
    sound = sound[round(starts_s * 16_000) :].astype(np.int16)
    known = {}
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=rate, options={"crf": "20", "preset": "ultrafast"})
        stream.width, stream.height, stream.pix_fmt = WIDE, HIGH, "yuv420p"
        voice = out.add_stream("pcm_s16le", rate=16_000, layout="mono")
        for number in range(round(seconds * rate)):
            who = tuple((x, round(mouth)) for x, mouth in people(starts_s + number / rate))
            if who not in known:
                known[who] = picture(who)
            frame = av.VideoFrame.from_ndarray(known[who], format="rgb24")
            frame.pts, frame.time_base = number, Fraction(1, rate)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
        for at in range(0, len(sound), 1024):
            block = av.AudioFrame.from_ndarray(sound[None, at : at + 1024], format="s16", layout="mono")
            block.rate, block.pts, block.time_base = 16_000, at, Fraction(1, 16_000)
            out.mux(voice.encode(block))
        out.mux(voice.encode(None))
    return path
