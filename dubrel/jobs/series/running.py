"""Take all episodes of a series through what is missing, one after the other, on this machine.

Each episode is claimed while it is worked on, journalled while it is transcribed, and saved after
each stage; one that fails does not keep the others back.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from dubrel.base.catalogue import counted, told, tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import write_text
from dubrel.base.value import Value, replace
from dubrel.edits.captions.trackchecks import check_track
from dubrel.jobs.machinery.events import (
    Event,
    Failed,
    Finished,
    NotWritten,
    OfEpisode,
    Progress,
    Warning_,
    Written,
)
from dubrel.jobs.releasing import released
from dubrel.jobs.series.episodework import Wishes, begun, bring_on, missing_in, project_path, script_of
from dubrel.jobs.transcribing.crew import Crew
from dubrel.model import Project
from dubrel.release.kits import Kit
from dubrel.release.readiness import not_ready
from dubrel.release.series.feed import series_feed
from dubrel.release.series.releasedepisode import ReleasedEpisode, released_episode
from dubrel.release.series.releasetable import release_table
from dubrel.release.series.seriespage import series_page
from dubrel.release.writing import digest_of
from dubrel.store.journal import Journal
from dubrel.store.locks import claim
from dubrel.store.projectfile import find_media, read_project, save


class Run(Value):
    """What is to be done.

    Attributes
    ----------
    paths : tuple of str
        Of all episodes, in order.
    wishes : Wishes
    kit : Kit or None
        By which what is ready is released.
    title : str
        Of the series.
    folder : str
        Where what is released goes, each episode in a folder of its own.
    address : str
        Where that folder is published.
    unready : bool
        Whether what is not ready is released too.
    """

    paths: tuple[str, ...]
    wishes: Wishes
    kit: Kit | None = None
    title: str = ""
    folder: str = ""
    address: str = ""
    unready: bool = False


def run_series(run: Run) -> Iterator[Event]:
    """Take each episode through what is missing, and release what is ready.

    Yields
    ------
    Event
        ``OfEpisode`` for each that is worked on, and progress over all.
    """
    for nth, name in enumerate(run.paths):
        path = Path(name)
        for said in episode_events(path, run, nth + 1):
            yield OfEpisode(name, said)
            if isinstance(said, Progress):
                share = (nth + said.fraction) / len(run.paths)
                yield Progress(f"{path.stem}: {said.stage.lower()}", share, None)
    if run.kit is not None:
        yield from write_together(run)


def release_series(run: Run) -> Iterator[Event]:
    """Release all that is ready, and write what links the episodes; nothing is transcribed."""
    for nth, name in enumerate(run.paths):
        for said in _events_of_release(Path(name), run, nth + 1):
            yield OfEpisode(name, said)
            if isinstance(said, Progress):
                yield replace(said, fraction=(nth + said.fraction) / len(run.paths))
    yield from write_together(run)


def write_together(run: Run) -> Iterator[Event]:
    """Write the page that links all released episodes, the feed, and the table of what was released.

    Raises
    ------
    DubrelError
        If one cannot be written.
    """
    folder, found = Path(run.folder), list[ReleasedEpisode]()
    for nth, name in enumerate(run.paths):
        yield Progress(tr("Writing the page of the series"), nth / max(1, len(run.paths)), None)
        try:
            project = opened(Path(name))
        except DubrelError:
            continue  # said when it was to be released
        place, stem = episode_folder(run, Path(name), nth + 1), project_path(Path(name)).stem
        one = released_episode(project, stem, nth + 1, place, folder)
        found += [one] if one is not None else []
    if not found:
        yield Warning_(tr("No episode is released yet, so there is no page of the series."))
        return
    made = {
        "index.html": series_page(run.title, found),
        "feed.xml": series_feed(run.title, found, folder, run.address).decode(),
        "released.csv": release_table(found, folder),
    }
    for name, text in made.items():
        write_text(folder / name, text)
        yield Written(str(folder / name))


def episode_folder(run: Run, path: Path, number: int) -> Path:
    """Where the files of an episode go."""
    return Path(run.folder) / f"{number:02} {project_path(path).stem}"


def _events_of_release(
    path: Path, run: Run, number: int
) -> Iterator[Progress | Written | Warning_ | Failed | Finished]:
    try:
        project = opened(path)
        if not project.transcript.word_count:
            yield Warning_(tr("It has no words yet, so it is not released."))
            return
        unready = [] if run.unready else [told(one.text) for one in not_ready(project)]
        if unready:
            yield Warning_(tr("It is not ready: {unready}.").format(unready=", ".join(unready)))
            return
        if not releasable(project, run):
            return
        with Own(project_path(path)) as own:
            own.project = opened(path)
            yield from _released(own, run, number, path)
        yield Finished()
    except DubrelError as error:
        yield Failed(str(error))


def episode_events(
    path: Path, run: Run, number: int = 1, crew: Crew | None = None
) -> Iterator[Progress | Written | Warning_ | Failed | Finished]:
    """Everything that is said while an episode is worked on; nothing where nothing is missing.

    Ends with ``Finished`` or ``Failed`` where there was something to do.
    """
    try:
        yield from _worked(path, run, number, crew)
    except DubrelError as error:
        yield Failed(str(error))


def _worked(
    path: Path, run: Run, number: int, crew: Crew | None
) -> Iterator[Progress | Written | Warning_ | Failed | Finished]:
    project = opened(path)
    if not missing_in(project, run.wishes) and not releasable(project, run):
        return
    target = project_path(path)
    with Own(target) as own:
        own.project = project = opened(path)  # as it stands now that it is ours
        for said in bring_on(project, run.wishes, script_of(path), crew):
            if isinstance(said, Project):
                own.keep(said)
            elif isinstance(said, Progress | Warning_):
                yield said
        yield from checked(own.project)
        if releasable(own.project, run):
            yield from _released(own, run, number, path)
        yield Written(str(target))
    yield Finished()


def opened(path: Path) -> Project:
    """The project of an episode with its recording where it is; a fresh one of a recording.

    Raises
    ------
    DubrelError
        If it cannot be read.
    """
    target = project_path(path)
    if not target.is_file():
        return begun(path)
    project = read_project(target).project
    found = find_media(project.media, target) if project.media else None
    if project.media is None or found is None:
        return project
    return replace(project, media=replace(project.media, path=str(found)))


def checked(project: Project) -> Iterator[Warning_]:
    """What the checks say of its captions, in a sentence."""
    broken = sum(
        any(one.must for one in found)
        for track in project.tracks
        for found in check_track(project, track).values()
    )
    if broken:
        yield Warning_(f"{counted(broken, 'caption')} to fix.")


def releasable(project: Project, run: Run) -> bool:
    """Whether a project is to be released, and is not released as it is."""
    if run.kit is None or not project.transcript.word_count or (not_ready(project) and not run.unready):
        return False
    return not project.releases or project.releases[-1].digest != digest_of(project)


def _released(own: Own, run: Run, number: int, path: Path) -> Iterator[Progress | Warning_ | Written]:
    assert run.kit is not None
    named = replace(run.kit, pattern=pattern_for(run.kit.pattern, run.title, number))
    for said in released(own.project, named, episode_folder(run, path, number)):
        if isinstance(said, Project):
            own.keep(said)
        elif isinstance(said, NotWritten):
            yield Warning_(said.message)
        elif isinstance(said, Written):
            yield said
        elif isinstance(said, Progress):
            yield replace(said, left_s=None)


def pattern_for(pattern: str, series: str, number: int) -> str:
    """A pattern of names with the title of the series and the number of the episode in it."""
    safe = series.replace("{", "(").replace("}", ")")
    return pattern.replace("{series}", safe).replace("{episode}", f"{number:02}")


class Own:
    """A project file that is ours, and what is to stand in it."""

    def __init__(self, path: Path) -> None:
        self.path, self.project = path, Project()
        self._claim = claim(path)
        if self._claim is None:
            raise DubrelError(
                tr("“{name}” is open in a window. Close it there, and run the series again.").format(
                    name=path.name
                )
            )

    def keep(self, project: Project) -> None:
        """Save a state: journalled, then written."""
        journal = Journal(self.project, self.path if self.path.is_file() else None)
        journal.offer(project)
        journal.flush()
        save(project, self.path)
        journal.close(keep=False)
        self.project = project

    def __enter__(self) -> Own:
        return self

    def __exit__(self, *_error: object) -> None:
        self.release()

    def release(self) -> None:
        """Let others have it."""
        if self._claim is not None:
            self._claim.give_up()
            self._claim = None
