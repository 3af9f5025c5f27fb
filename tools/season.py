"""A made-up season for the look of a series: nine episodes at every stage, from the demo project."""

from __future__ import annotations

import shutil
from pathlib import Path

from dubrel.base.value import replace
from dubrel.demofiles import demo_folder
from dubrel.edits.words.wording import set_proofed
from dubrel.model import Project, Released, Term
from dubrel.release.writing import digest_of
from dubrel.store.projectfile import open_project, save
from dubrel.store.seriesfile import SUFFIX, Series, with_episodes, write_series

TITLES = (
    "A boat in a field",
    "What the survey said",
    "Buying rain",
    "The wrong lock",
    "Oakum and patience",
    "Steam",
    "The Heron comes out",
    "Ducks",
    "Letters from Lock Eleven",
)


def made_season(folder: Path) -> Path:
    """Write the episodes and their series into a folder; the file of the series."""
    base = open_project(demo_folder() / "slow-water-7.dubrel")
    recording = folder / "slow-water-7.opus"
    shutil.copy(demo_folder() / "slow-water-7.opus", recording)
    paths = []
    for nth, title in enumerate(TITLES):
        path = folder / f"{nth + 1:02} {title}.dubrel"
        media = base.media and replace(base.media, path=str(recording), relative=recording.name)
        save(_at_stage(replace(base, title=title, subtitle="", media=media), len(TITLES) - nth), path)
        paths.append(path)
    terms = (Term("Morwenna", ("more wenna",)), Term("sternpost", ("stern post",)), Term("the Heron"))
    series = Series("Slow Water", languages=("es",), kit="Podcast episode", terms=terms)
    series, _ = with_episodes(series, paths, folder)
    file = folder / f"Slow Water{SUFFIX}"
    write_series(series, file)
    return file


def _at_stage(project: Project, stage: int) -> Project:
    """A project that is as far as a stage: the more, the further."""
    turns = project.transcript.turns
    proofed = len(turns) if stage > 5 else len(turns) * stage // 9
    for turn in turns:
        project = set_proofed(project, turn.id, turn in turns[:proofed])
    if stage < 3:
        people = project.transcript.speakers
        nameless = tuple(replace(one, name="") for one in people[: 3 - stage])
        people = (*nameless, *people[3 - stage :])
        project = replace(project, transcript=replace(project.transcript, speakers=people))
    if stage < 5:
        project = replace(project, tracks=(), active=0)
    if stage > 7:
        at = "2026-11-20T09:00:00Z"
        digest = digest_of(project) if stage > 8 else "another"
        project = replace(project, releases=(Released(at, "Podcast episode", ("a.vtt",), digest),))
    return project
