"""What ``import dubrel`` gives: a small interface for scripts, over the same core as the application.

Every function takes and returns values; a :class:`dubrel.model.Project` is
immutable, so nothing that was opened is changed. The guide has examples
(``docs/guide/python.md``). Errors that a user can fix are
:class:`dubrel.base.errors.DubrelError`: one sentence each.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_named
from dubrel.base.value import Value, replace
from dubrel.captions.styles import DEFAULT_STYLE, house_style
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.trackchecks import check_track
from dubrel.edits.translation.track import spoken_track, track_into
from dubrel.formats.register import read_file
from dubrel.jobs.machinery.events import Event, NotWritten, Progress, Written
from dubrel.jobs.machinery.fold import fold
from dubrel.jobs.releasing import released
from dubrel.jobs.translating import Order
from dubrel.jobs.translating import translate as translating
from dubrel.jobs.wholefile import transcribed_project
from dubrel.model import Project
from dubrel.model.choices import Choices
from dubrel.project.index import caption_with
from dubrel.release.kits import kit_named
from dubrel.release.onefile import write_checked
from dubrel.store.locks import claim
from dubrel.store.projectfile import find_media, read_project
from dubrel.store.projectfile import save as save_project
from dubrel.translation.choosing import missing_tasks
from dubrel.translation.document import translated_project

Report = Callable[[str, float], object]
"""Gets what is being done, and how far it is, between 0 and 1."""


class Problem(Value):
    """A rule of the house style that a caption breaks.

    Attributes
    ----------
    start_ms, end_ms : int
        Of the caption, or of the word that is in none.
    rule : str
        Which one, like ``speed`` or ``line length``.
    message : str
        What is wrong and by how much.
    must : bool
        Whether the style is broken; advice otherwise.
    """

    start_ms: int
    end_ms: int
    rule: str
    message: str
    must: bool


def open(path: str | Path) -> Project:
    """Open a project, captions or a transcript, by its suffix.

    Raises
    ------
    DubrelError
        If it cannot be read.
    """
    path = Path(path)
    if path.suffix.lower() != ".dubrel":
        return read_file(path).project
    project = read_project(path).project
    found = find_media(project.media, path) if project.media else None
    if project.media is None or found is None:
        return project
    return replace(project, media=replace(project.media, path=str(found)))


def save(project: Project, path: str | Path) -> None:
    """Write a project file (``.dubrel``), or captions or a text by the suffix, read back before it is there.

    Raises
    ------
    DubrelError
        If it cannot be written, or is open in a window.
    """
    path = Path(path)
    if path.suffix.lower() != ".dubrel":
        write_checked(project, path)
        return
    claimed = claim(path)
    if claimed is None:
        raise DubrelError(
            tr("“{path}” is open in a window. Close it there, or choose another name.").format(path=path)
        )
    try:
        save_project(project, path)
    finally:
        claimed.give_up()


def transcribe(
    recording: str | Path,
    *,
    engine: str = "builtin",
    language: str = "",
    speakers: str = "off",
    style: str = "",
    report: Report | None = None,
) -> Project:
    """Transcribe a recording on this machine, and set its captions.

    Parameters
    ----------
    recording : path
        Any sound or film file.
    engine : str
        ``builtin``, ``folder:PATH`` of a model, or one that a package adds. A
        service elsewhere is only used from the application and the command line.
    language : str
        Of the speech, as a BCP 47 tag or an English name; empty for the engine's own.
    speakers : str
        ``off``, ``auto``, or how many people speak.
    style : str
        Name of a house style, or a file with one; empty for the usual one.
    report : callable, optional
        Gets each stage with its progress.

    Raises
    ------
    DubrelError
        If it cannot be read, or nobody speaks in it.
    """
    if engine.startswith("remote:"):
        raise DubrelError(tr("A service needs consent. Use the application, or dubrel transcribe --send."))
    rules = house_style(style) if style else DEFAULT_STYLE
    choices = Choices(engine, language_named(language), speakers=speakers)
    project = None
    with _script_left_alone():
        for said in transcribed_project(Path(recording), choices, rules):
            if isinstance(said, Project):
                project = said
            else:
                _tell(said, report)
    assert project is not None
    return project


def set_captions(project: Project, style: str = "") -> Project:
    """Set the words into captions by a house style; what was changed by hand stays.

    Parameters
    ----------
    style : str
        Name of a house style, or a file with one; empty for that of the project.
    """
    return set_again(project, house_style(style) if style else None)


def translate(
    project: Project, language: str, *, engine: str = "auto", report: Report | None = None
) -> Project:
    """Translate into another language: as one more track of captions, or what such a track lacks.

    Parameters
    ----------
    language : str
        BCP 47 tag, or an English name.
    engine : str
        ``auto``, ``builtin``, ``rules``, ``script``, ``folder:PATH``, or one that a package adds.

    Raises
    ------
    DubrelError
        If no translator knows both languages.
    """
    if engine.startswith("remote:"):
        raise DubrelError(tr("A service needs consent. Use the application, or dubrel translate --send."))
    original = spoken_track(project)
    if original is None or not original.captions:
        project = set_again(project, None)
    tag = language_named(language)
    project, track_id = track_into(project, tag)
    track = project.track(track_id)
    assert track is not None
    source = project.transcript.language
    order = Order(track_id, missing_tasks(project, track), source, tag, engine, terms=project.terms)
    return _folded(project, translating(order), report)


def in_language(project: Project, language: str) -> Project:
    """The project as a translation reads it: :func:`save` writes its captions in that language.

    Raises
    ------
    DubrelError
        If it is not translated into that language.
    """
    track = next((one for one in project.tracks if not one.spoken and one.language == language), None)
    if track is None:
        raise DubrelError(
            tr("“{title}” has no translation into “{language}”. Translate it first.").format(
                title=project.title, language=language
            )
        )
    return translated_project(project, track)


def check(project: Project) -> list[Problem]:
    """Every rule of the house style that a caption breaks, in order of time.

    Raises
    ------
    DubrelError
        If there are no captions.
    """
    track = project.captions
    if track is None:
        raise DubrelError(tr("“{title}” has no captions. Set them first.").format(title=project.title))
    found = []
    for caption_id, findings in check_track(project, track).items():
        caption = caption_with(project, track.id, caption_id)
        for one in findings:
            times = (caption.start_ms, caption.end_ms) if caption else (one.at_ms, one.at_ms)
            found.append(Problem(*times, one.rule, one.message, one.must))
    return sorted(found, key=lambda one: one.start_ms)


def release_to(
    project: Project, folder: str | Path, kit: str = "Everything", *, report: Report | None = None
) -> list[Path]:
    """Write every deliverable of a kit into a folder, each read back before it is there.

    Parameters
    ----------
    kit : str
        Name of a kit, or a file with one.

    Raises
    ------
    DubrelError
        If one cannot be written; those that could are there.
    """
    paths, failed = list[Path](), list[str]()
    with _script_left_alone():
        for said in released(project, kit_named(kit), Path(folder)):
            if isinstance(said, Written):
                paths.append(Path(said.path))
            elif isinstance(said, NotWritten):
                failed.append(said.message)
            elif not isinstance(said, Project):
                _tell(said, report)
    if failed:
        raise DubrelError(" ".join(dict.fromkeys(failed)))
    return paths


def _folded(project: Project, events: Iterable[Event], report: Report | None) -> Project:
    with _script_left_alone():
        for event in events:
            _tell(event, report)
            project = fold(project, event)
    return project


@contextmanager
def _script_left_alone() -> Iterator[None]:
    """Processes that compute do not run the caller's script again, however it is written."""
    main = sys.modules["__main__"]
    kept = {name: getattr(main, name) for name in ("__file__", "__spec__") if hasattr(main, name)}
    main.__spec__ = None
    vars(main).pop("__file__", None)
    try:
        yield
    finally:
        vars(main).update(kept)


def _tell(event: Event, report: Report | None) -> None:
    if report is not None and isinstance(event, Progress):
        report(event.stage, event.fraction)
