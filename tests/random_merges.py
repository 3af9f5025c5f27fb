"""Two people's sessions of core verbs by chance from one value, and what becomes of them together."""

from __future__ import annotations

import traceback
from random import Random

from random_checks import check_project, check_saved, words_of
from random_core import Finding
from random_projects import any_project
from random_verbs import VERBS

from dubrel.base.errors import DubrelError
from dubrel.edits.merging.merging import Merged, merge
from dubrel.model import Project
from dubrel.project.summary import differ


def worked_on(project: Project, chance: Random, steps: int) -> Project:
    """A value after some steps of one person."""
    for _ in range(steps):
        try:
            after = chance.choice(VERBS)(project, chance)
        except DubrelError:
            continue
        project = after if words_of(after) else project
    return project


def uncaptioned(*projects: Project) -> set[int]:
    """Words that are in no caption of a track that has some: a person deleted theirs."""
    found = set[int]()
    for project in projects:
        for track in project.tracks:
            held = {word for one in track.captions for word in one.words}
            if track.spoken and track.captions:
                found |= {word.id for word in words_of(project)} - held
    return found


def run_merge(seed: int, steps: int = 12) -> tuple[Merged | None, Finding | None]:
    """One merge, with what must hold of it."""
    chance, act = Random(seed), "begin"
    try:
        base = worked_on(any_project(chance), chance, 6)
        mine, theirs = (worked_on(base, chance, chance.randint(0, steps)) for _ in range(2))
        act = "merge"
        try:
            made = merge(base, mine, theirs)
        except DubrelError:  # one of them took the sound of another file
            assert mine.media != theirs.media
            return None, None
        act = "check"
        # the numbers of words that are new on one side are others in what is made
        free = uncaptioned(base, mine, theirs, made.project)
        check_project(made.project, free)
        check_saved(made.project)
        act = "the other way round"
        other = merge(base, theirs, mine, {one.key: "theirs" for one in made.conflicts})
        assert {one.key for one in other.conflicts} == {one.key for one in made.conflicts}
        assert not differ(made.project, other.project), "another value the other way round"
        act = "with itself"
        for one in [one for one in (mine, theirs) if one.media == base.media]:
            assert merge(base, one, one).conflicts == ()
            assert not differ(merge(base, one, one).project, one), "with itself something changes"
            assert not differ(merge(base, one, base).project, one), "with what was before something changes"
            assert not differ(merge(base, base, one).project, one), "with what was before something changes"
        act = "theirs"
        whole = merge(base, mine, theirs, {one.key: "theirs" for one in made.conflicts})
        check_project(whole.project, free | uncaptioned(whole.project))
        return made, None
    except Exception as error:
        said = f"{type(error).__name__}: {error}"
        return None, Finding(seed, steps, act, said, traceback.format_exc())
