"""From a recording to a finished project file: transcribed, set into captions, saved."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.jobs.diarising import find_speakers, question, speaker_bounds
from dubrel.jobs.machinery.events import Event, NotWritten, Pace, Progress, Warning_, Written
from dubrel.jobs.machinery.fold import fold
from dubrel.jobs.transcribing.transcribe import transcribe
from dubrel.media.fingerprint import seen
from dubrel.media.probe import probe
from dubrel.model import HouseStyle, Media, Project, Transcript
from dubrel.model.choices import AS_USUAL, Choices
from dubrel.store.journal import Journal
from dubrel.store.locks import Claim, claim
from dubrel.store.projectfile import save
from dubrel.store.recovery import discard_earlier


def transcribed_project(
    path: Path, choices: Choices = AS_USUAL, style: HouseStyle = DEFAULT_STYLE
) -> Iterator[Event | Project]:
    """Transcribe a recording and set its captions.

    Yields
    ------
    Event or Project
        Progress and warnings; at the end the project. Where the work fails or
        is interrupted after words were transcribed, the project with those comes
        before the error, so that they can be kept.

    Raises
    ------
    DubrelError
        If it cannot be read or nobody speaks in it.
    """
    media = replace(seen(probe(path), path), sound=choices.tracks)
    present = [Project(title=path.stem, media=media, transcript=Transcript(choices.language or "en"))]
    journal = Journal(Project(), kind="recording", recording=str(path.absolute()))
    taken = False  # whoever does not come back for more could not write what was given
    try:
        for event in _events(media, choices, present):
            present[0] = fold(present[0], event)
            if present[0].transcript.turns:
                journal.offer(present[0])
            if isinstance(event, Progress | Warning_):
                yield event
        yield set_again(present[0], style)
        taken = True
    except (DubrelError, KeyboardInterrupt):
        if present[0].transcript.word_count:
            yield set_again(present[0], style)
        taken = True
        raise
    finally:
        journal.close(keep=not taken)
    discard_earlier(str(path.absolute()))


def _events(media: Media, choices: Choices, present: Sequence[Project]) -> Iterator[Event]:
    """Everything that is said while a recording is transcribed and its speakers are told apart."""
    yield from transcribe(media, choices)
    if not present[0].transcript.word_count:
        text = (
            tr("No speech was found in that passage of “{name}”. Choose another passage.")
            if choices.to_ms
            else tr("No speech was found in “{name}”. Choose another recording.")
        )
        raise DubrelError(text.format(name=media.name))
    if choices.speakers != "off" and not choices.apart:
        yield from find_speakers(media, question(present[0]), *speaker_bounds(choices.speakers))


def kept(error: DubrelError) -> DubrelError:
    """An error of writing a result, with where the result is."""
    return DubrelError(
        tr(
            "{error} What was transcribed is kept: the start page shows it, and dubrel recover writes it out."
        ).format(error=error)
    )


def transcribe_to_file(path: str, choices: Choices, output: str) -> Iterator[Event]:
    """Transcribe a recording and save its project; the job of one recording of the queue.

    Yields
    ------
    Event
        Progress and warnings, and ``Written`` once the project is on the disk;
        what was transcribed before a failure is saved too. By the kit of the
        choices it is then released into a folder beside the project.
    """
    pace = Pace()
    for said in transcribed_project(Path(path), choices):
        if isinstance(said, Project):
            yield pace.at(tr("Writing"), 0.99)
            written, claimed = own_output(Path(output))
            try:
                save(said, written)
                yield Written(str(written))
                if choices.kit:
                    yield from _release(said, choices.kit, written)
            except DubrelError as error:
                raise kept(error) from error
            finally:
                claimed.give_up()
        else:
            yield said


def own_output(wished: Path) -> tuple[Path, Claim]:
    """The first free name like a wished one, claimed: nothing that came there meanwhile is written over."""
    path, number = wished, 2
    while True:
        claimed = None if path.exists() else claim(path)
        if claimed is not None:
            return path, claimed
        path, number = wished.with_name(f"{wished.stem} {number}{wished.suffix}"), number + 1


def _release(project: Project, name: str, output: Path) -> Iterator[Event]:
    """Release a project that was just saved.

    What cannot be written is a warning, for the project is there.
    """
    from dubrel.jobs.releasing import released  # late: only with a kit
    from dubrel.release.kits import kit_named

    try:
        kit = kit_named(name)
        folder = output.with_name(f"{output.stem} release")
        number = 2
        while folder.exists():
            folder, number = output.with_name(f"{output.stem} release {number}"), number + 1
        for said in released(project, kit, folder):
            if isinstance(said, Project):
                save(said, output)
            elif isinstance(said, NotWritten):
                yield Warning_(said.message)
            elif isinstance(said, Progress):
                yield said
    except DubrelError as error:
        yield Warning_(f"Not released: {error}")
