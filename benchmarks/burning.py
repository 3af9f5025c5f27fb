"""Burning captions in, against the same decode and encode without any; memory; both in turns."""

from __future__ import annotations

import resource
import tempfile
import time
from pathlib import Path

from common import DEMO, report

from dubrel.captions.places import placed
from dubrel.film.burning import Shown, burn
from dubrel.project.captiontext import look_of, shown_captions
from dubrel.store.projectfile import read_project


def main() -> None:
    """The demo film, three times each."""
    project = read_project(DEMO / "heron-film.dubrel").project
    track = project.captions
    assert track is not None
    shown = [
        Shown(one.start_ms, one.end_ms, text.lines, look_of(project, track, one), placed(one, track.rules))
        for one, text in shown_captions(project, track)
    ]
    folder = Path(tempfile.mkdtemp())
    spent: dict[str, list[float]] = {"with": [], "without": []}
    for _ in range(3):
        for name, captions in (("without", []), ("with", shown)):
            began = time.perf_counter()
            for _share in burn(DEMO / "heron-film.mp4", folder / f"{name}.mp4", captions):
                pass
            spent[name].append(time.perf_counter() - began)
    best = {name: min(times) for name, times in spent.items()}
    report(
        "burning",
        without_s=best["without"],
        with_s=best["with"],
        ratio=best["with"] / best["without"],
        peak_mb=resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024,
    )


if __name__ == "__main__":
    main()
