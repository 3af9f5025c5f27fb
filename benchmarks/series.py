"""A series of long episodes: search over all of them as it is written, its index, and an edit taken over.

The baseline opens every episode and looks through it, as ``dubrel find`` does; it is timed on a few of them.
"""

from __future__ import annotations

import random
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from common import report

from dubrel.edits.words.wording import replace_text
from dubrel.finding.encoder import WIDTH
from dubrel.finding.words import Query, find
from dubrel.jobs.series.meaningsearch import MeaningSearch, understand
from dubrel.jobs.series.searchindex import SeriesIndex
from dubrel.jobs.series.soundsearch import SoundSearch
from dubrel.model import Project, Speaker, Transcript, Turn, Word
from dubrel.store.projectfile import open_project, save

WORDS, SAMPLE = 30_000, 5
SYLLABLES = (
    "ba",
    "den",
    "fo",
    "gir",
    "hal",
    "in",
    "ke",
    "lo",
    "mar",
    "nu",
    "per",
    "ro",
    "sil",
    "ta",
    "vo",
    "wen",
)


def vocabulary(chance: random.Random) -> list[str]:
    """Some thousand made words, of which a few are frequent."""
    return ["".join(chance.choices(SYLLABLES, k=chance.choice((1, 2, 2, 3)))) for _ in range(8000)]


def episode(chance: random.Random, known: list[str], nth: int) -> Project:
    """An episode of three hours."""
    turns, number, at = list[Turn](), 1, 0
    while number <= WORDS:
        words = list[Word]()
        for place in range(chance.randint(8, 60)):
            text = known[min(len(known) - 1, int(chance.paretovariate(0.8)) - 1)]
            text = text.capitalize() if place % 12 == 0 else text
            text += "." if place % 12 == 11 else ""
            words.append(Word(number, text, at, at + chance.randint(90, 400), round(chance.random() ** 4, 4)))
            number, at = number + 1, words[-1].end_ms + chance.choice((0, 0, 10, 20, 60, 350))
        turns.append(Turn(1_000_000 + len(turns), tuple(words), chance.choice(("a", "b", "c"))))
    people = tuple(Speaker(one, one.upper()) for one in "abc")
    return Project(f"Episode {nth}", transcript=Transcript("en", people, tuple(turns)), next_id=2_000_000)


def at_random(texts: Sequence[str]) -> np.ndarray:
    """Vectors that mean nothing."""
    made = np.random.default_rng(len(texts)).standard_normal((len(texts), WIDTH)).astype(np.float32)
    return made / np.linalg.norm(made, axis=1, keepdims=True)


def timed(act: Callable[[str], object], text: str) -> float:
    """Seconds."""
    begun = time.perf_counter()
    act(text)
    return time.perf_counter() - begun


def main() -> None:
    """Print times and sizes."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 100
    chance = random.Random(1)
    known = vocabulary(chance)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        paths = [folder / f"{nth}.dubrel" for nth in range(count)]
        for nth, path in enumerate(paths):
            save(episode(chance, known, nth), path)
        series = folder / "all.dubrel-series"
        series.write_text("{}")
        index = SeriesIndex(series)
        begun = time.perf_counter()
        list(index.update(paths))
        whole = time.perf_counter() - begun
        asked = [
            " ".join(known[chance.randrange(40)] for _ in range(k)) for k in (1, 2, 3) for _ in range(20)
        ]
        times = []
        for text in asked:
            begun = time.perf_counter()
            index.find(text)
            times.append(time.perf_counter() - begun)
        list(understand(index, at_random))  # how long the encoder takes is told by finding.py
        meant, alike = MeaningSearch(index), SoundSearch(index)
        meant.find("nothing"), alike.find("nothing")
        meanings = [timed(meant.find, f"where do they talk about {known[k]}") for k in range(10)]
        sounds = [timed(alike.find, known[k] + "n") for k in range(20, 40)]
        begun = time.perf_counter()
        for path in paths[:SAMPLE]:
            find(open_project(path), Query(asked[-1]))
        baseline = (time.perf_counter() - begun) * count / SAMPLE
        project = open_project(paths[0])
        save(replace_text(project, project.transcript.turns[5].id, 0, 0, "x"), paths[0])
        begun = time.perf_counter()
        list(index.update(paths))
        edit = time.perf_counter() - begun
        size = index._file.stat().st_size / sum(path.stat().st_size for path in paths)
        report(
            "series",
            episodes=count,
            ratio=sum(times) / len(times) / baseline,
            worst_ms=max(times) * 1000,
            middle_ms=sorted(times)[len(times) // 2] * 1000,
            meaning_ms=max(meanings) * 1000,
            sound_ms=max(sounds) * 1000,
            built_s_each=whole / count,
            edit_s=edit,
            size_share=size,
        )
        index.close()


if __name__ == "__main__":
    main()
