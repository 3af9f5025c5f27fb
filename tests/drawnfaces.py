"""Made pictures of people with known places: faces drawn so that a detector of faces takes them for some."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from functools import lru_cache
from pathlib import Path

import av
import numpy as np
from PIL import Image, ImageDraw, ImageFilter

WIDTH, HEIGHT = 640, 360
SIZE = 33
LOOKS = (((214, 170, 140), (60, 40, 30)), ((150, 105, 80), (20, 18, 16)), ((190, 140, 110), (30, 24, 20)))


def picture(people: Sequence[tuple[float, float]]) -> np.ndarray:
    """People at some places (percent of the width), each with an open mouth of some size, 0 to 1."""
    image = Image.new("RGB", (WIDTH, HEIGHT), (120, 130, 125))
    draw = ImageDraw.Draw(image)
    for nth, (x, mouth) in enumerate(people):
        _person(draw, x * WIDTH / 100, HEIGHT * 0.42, SIZE, mouth, *LOOKS[nth % len(LOOKS)])
    made = np.asarray(image.filter(ImageFilter.GaussianBlur(1))).astype(float)
    rows, columns = np.mgrid[0:HEIGHT, 0:WIDTH]
    for x, _ in people:
        across, down = columns - x * WIDTH / 100, rows - HEIGHT * 0.42
        inside = np.hypot(across, down) < SIZE * 1.1
        made *= (1 - 0.25 * np.clip(across / (SIZE * 1.2), -1, 1) * inside)[..., None]
    return np.clip(made, 0, 255).astype(np.uint8)


def _person(draw, x, y, r, mouth, skin, hair) -> None:
    def dark(share):
        return tuple(min(255, int(one * share)) for one in skin)

    draw.rectangle((x - 2 * r, y + 1.2 * r, x + 2 * r, HEIGHT), fill=(70, 80, 110))
    draw.ellipse((x - 0.85 * r, y - 1.25 * r, x + 0.85 * r, y + 0.6 * r), fill=hair)
    draw.rectangle((x - 0.3 * r, y + 0.6 * r, x + 0.3 * r, y + 1.3 * r), fill=dark(0.85))
    draw.ellipse((x - 0.72 * r, y - r, x + 0.72 * r, y + r), fill=skin)
    draw.pieslice((x - 0.76 * r, y - 1.1 * r, x + 0.76 * r, y + 0.3 * r), 180, 360, fill=hair)
    draw.ellipse((x - 0.7 * r, y - 0.62 * r, x + 0.7 * r, y + 0.7 * r), fill=skin)
    for side in (-1, 1):
        ex, ey = x + side * r * 0.3, y - 0.12 * r
        draw.ellipse((ex - 0.15 * r, ey - 0.08 * r, ex + 0.15 * r, ey + 0.08 * r), fill=(245, 245, 245))
        draw.ellipse((ex - 0.075 * r, ey - 0.08 * r, ex + 0.075 * r, ey + 0.08 * r), fill=(40, 30, 25))
        brow = (ex - 0.2 * r, ey - 0.2 * r, ex + 0.2 * r, ey - 0.22 * r)
        draw.line(brow, fill=hair, width=max(1, int(0.07 * r)))
    nose = [(x, y - 0.1 * r), (x - 0.1 * r, y + 0.25 * r), (x + 0.1 * r, y + 0.25 * r)]
    draw.polygon(nose, fill=dark(0.88))
    open_ = mouth * 0.12 * r
    area = (x - 0.28 * r, y + 0.42 * r - open_, x + 0.28 * r, y + 0.52 * r + open_)
    draw.ellipse(area, fill=(150, 60, 60))


People = Callable[[float], Sequence[tuple[float, float]]]


@lru_cache(maxsize=64)
def _drawn(people: tuple[tuple[float, float], ...]) -> np.ndarray:
    """A picture that is drawn once: mouths move by tenths."""
    return picture(people)


def film(path: Path, seconds: float, people: People, rate: int = 10) -> Path:
    """A film of people: where each is, and how far each mouth is open, by the second."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=rate, options={"crf": "14", "preset": "ultrafast"})
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        for nth in range(round(seconds * rate)):
            seen = tuple((round(x, 1), round(mouth, 1)) for x, mouth in people(nth / rate))
            frame = av.VideoFrame.from_ndarray(_drawn(seen), format="rgb24")
            frame.pts, frame.time_base = nth, Fraction(1, rate)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path
