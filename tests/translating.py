"""The room of Translation with a project, and its translation as the engine gives it."""

from functools import lru_cache

from samples import boat_project

from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.track import begin_track
from dubrel.translation.choosing import missing_tasks
from dubrel.translation.cutting import Cut, cut_all
from dubrel.translation.preparing import translate_all
from dubrel.translation.translators.engines import translator


def idle(window, qtbot):
    qtbot.waitUntil(lambda: not window.desk.jobs.busy)


def translated(room, window, qtbot, real=False):
    """The project with its translation: by a real job, or as the engine gave it once."""
    if real:
        room.page.overview.begin.click()
        idle(window, qtbot)
    else:
        project, track_id = begin_track(window.session.project, "pt")
        tasks, known = missing_tasks(project, project.track(track_id)), sentences()
        cuts = cut_all([Cut(one.said, tuple(known[one.text].split()), one.edges, "pt") for one in tasks])
        found = [one.made(known[one.text], cut) for one, cut in zip(tasks, cuts)]
        window.session.apply(
            with_translations(project, track_id, found),
            "Translate into Portuguese",
            base=window.session.project,
        )
        room.show_track(track_id)
    room.findings.settle()
    return room.findings.track


@lru_cache(maxsize=1)
def sentences():
    """What the built-in engine makes of the sentences of the project."""
    project, track_id = begin_track(boat_project(), "pt")
    said = [one.text for one in missing_tasks(project, project.track(track_id))]
    return dict(zip(said, translate_all(translator("auto", "en", "pt"), said)))


def texts(room):
    return [one.text for one in room.findings.track.captions]
