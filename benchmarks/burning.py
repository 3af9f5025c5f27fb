"""Burning captions in, still and moving, against the same decode and encode without any, in turns; memory."""

from __future__ import annotations

import resource
import tempfile
import time
from pathlib import Path

from common import DEMO, report

from dubrel.base.value import replace
from dubrel.film.burning import burn
from dubrel.model import Motion
from dubrel.release.films import shown_of
from dubrel.store.projectfile import read_project


def main() -> None:
    """The demo film, three times each."""
    project = read_project(DEMO / "heron-film.dubrel").project
    track = project.captions
    assert track is not None
    shown = list(shown_of(project, track))
    motion = Motion(
        "word", colour="#F6E27A", box="#0F5E5A", larger=10, dimmed=0.3, entrance="rise", leaving="fade"
    )
    moving = list(shown_of(project, replace(track, look=replace(track.look, motion=motion))))
    folder = Path(tempfile.mkdtemp())
    spent: dict[str, list[float]] = {"with": [], "without": [], "moving": []}
    for _ in range(3):
        for name, captions in (("without", []), ("with", shown), ("moving", moving)):
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
        moving_s=best["moving"],
        moving=best["moving"] / best["without"],
        peak_mb=resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024,
    )


if __name__ == "__main__":
    main()
