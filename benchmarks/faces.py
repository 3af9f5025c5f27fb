"""The crop that follows who speaks: how long that person is in an upright picture, on made films.

Two or three people at known places speak in turn, stand up and walk, or change with the shot. The
baseline leaves the crop in the middle.
"""

from __future__ import annotations

import random
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from common import ROOT, report

from dubrel.base.value import replace

sys.path.insert(0, str(ROOT / "tests"))
from drawnfaces import HEIGHT, WIDTH, film

from dubrel.edits.framing import followed
from dubrel.edits.intake import set_turns
from dubrel.finding.whoisseen import HOLD_MS
from dubrel.jobs.cuts.facefollowing import follow_faces
from dubrel.jobs.machinery.events import CropFound
from dubrel.media.probe import probe
from dubrel.model import Framing, Project, RecognisedTurn, RecognisedWord, Speaker

_SECONDS = 40
_HALF = 50 * HEIGHT * 9 / 16 / WIDTH  # percent: half the width of an upright picture


def scene(seed: int):  # type: ignore[no-untyped-def]
    """Who speaks when, where each is at a time, and the shot changes."""
    chance = random.Random(seed)
    count = chance.choice((2, 2, 3))
    shots = [0.0, *sorted(chance.uniform(8, 32) for _ in range(chance.choice((0, 1, 2))))]
    places = [
        sorted(chance.sample((15.0, 38.0, 62.0, 85.0), count), key=lambda _: chance.random()) for _ in shots
    ]
    spans, at, who = [], 0.0, 0
    while at < _SECONDS:
        length = chance.choice((0.8, 3.0, 5.0, 8.0))
        spans.append((who, at, min(_SECONDS, at + length)))
        at += length + 0.2
        who = chance.choice([one for one in range(count) if one != who])

    def where(second: float) -> list[float]:
        nth = max(k for k, start in enumerate(shots) if start <= second)
        return places[nth]

    def speaks(second: float) -> int:
        return next((who for who, start, end in spans if start <= second < end), -1)

    def people(second: float) -> list[tuple[float, float]]:
        talks = speaks(second)
        return [
            (x, 0.5 + 0.5 * float(np.sin(second * 21)) if nth == talks else 0.0)
            for nth, x in enumerate(where(second))
        ]

    return spans, people, where, [round(one * 1000) for one in shots[1:]]


def seen(framing: Framing, spans, where) -> float:  # type: ignore[no-untyped-def]
    """The share of the time in which who speaks is in the picture."""
    inside = whole = 0
    for who, start, end in spans:
        for ms in range(round(start * 1000), round(end * 1000), 100):
            x = min(max(framing.at(ms)[0], _HALF), 100 - _HALF)
            inside += abs(where(ms / 1000)[who] - x) <= _HALF
            whole += 1
    return inside / whole


def main(films: int = 8) -> None:
    """Measure."""
    folder, got, plain, quick, spent = Path(tempfile.mkdtemp()), 0.0, 0.0, 0, 0.0
    for seed in range(films):
        spans, people, where, shots = scene(seed)
        path = film(folder / f"{seed}.mp4", _SECONDS, people)
        turns = [
            RecognisedTurn((RecognisedWord("word", round(a * 1000), round(b * 1000)),), f"s{who}")
            for who, a, b in spans
        ]
        names = [Speaker(f"s{one}", f"s{one}") for one in range(3)]
        project = set_turns(Project(title="Talk"), turns, names, "en")
        project = replace(project, media=replace(probe(path), shots=tuple(shots)))
        began = time.perf_counter()
        [crop] = [one for one in follow_faces(project) if isinstance(one, CropFound)]
        spent += time.perf_counter() - began
        made = followed(project, crop.start_ms, crop.end_ms, crop.keys)
        keys = made.framing.keys
        quick += sum(b.pans and b.ms - a.ms < HOLD_MS for a, b in zip(keys, keys[1:]))
        got += seen(made.framing, spans, where) / films
        plain += seen(Framing(), spans, where) / films
    report(
        "faces",
        who_speaks_is_seen=got,
        in_the_middle=plain,
        pans_too_soon=quick,
        real_time=spent / (films * _SECONDS),
        films=films,
    )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 8)
