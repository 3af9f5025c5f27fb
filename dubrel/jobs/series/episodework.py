"""Take an episode through what is missing: words, speakers, captions, translations."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_name
from dubrel.base.value import Value, replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.speakers.voices import rename_speaker
from dubrel.edits.translation.track import begin_track, translated_tracks
from dubrel.finding.termspots import with_sure_terms
from dubrel.formats.scripts.script import Piece, read_script
from dubrel.jobs.alignscript import align_script
from dubrel.jobs.diarising import find_speakers, question, speaker_bounds
from dubrel.jobs.machinery.events import Event, Progress, SpeakersFound, Warning_
from dubrel.jobs.machinery.fold import fold
from dubrel.jobs.transcribing.crew import Crew
from dubrel.jobs.transcribing.transcribe import transcribe
from dubrel.jobs.translating import Order, translate
from dubrel.media.fingerprint import seen
from dubrel.media.probe import probe
from dubrel.model import HouseStyle, Look, Project, Term, Transcript
from dubrel.model.choices import Choices
from dubrel.project.tracks import with_track
from dubrel.store.seriesfile import PROJECT, Series, Voice
from dubrel.translation.choosing import missing_tasks
from dubrel.user.voices import KeptVoice, names_of

_SCRIPTS = (".txt", ".md", ".docx", ".odt")
_SHARES = {"words": 0.7, "speakers": 0.15, "captions": 0.02, "translations": 0.13}


AUTO = Choices(speakers="auto")
"""How a recording is transcribed where nothing else is said."""


class Wishes(Value):
    """What every episode is to have.

    Attributes
    ----------
    choices : Choices
        How a recording is transcribed.
    languages : tuple of str
        Into which it is translated.
    terms : tuple of Term
        What is put in where it is surely meant, in what is newly transcribed.
    voices : tuple of Voice
        By which speakers get their names.
    styles : tuple of (str, HouseStyle)
        By language; with no language that of all others.
    look : Look or None
    """

    choices: Choices = AUTO
    languages: tuple[str, ...] = ()
    terms: tuple[Term, ...] = ()
    voices: tuple[Voice, ...] = ()
    styles: tuple[tuple[str, HouseStyle], ...] = ()
    look: Look | None = None

    def style_for(self, language: str) -> HouseStyle | None:
        """The house style of a language; ``None`` for the usual one."""
        return Series("", styles=self.styles).style_for(language)


def wishes_of(series: Series, choices: Choices | None = None) -> Wishes:
    """What a series wishes of its episodes."""
    return Wishes(
        choices or AUTO,
        series.languages,
        series.terms,
        series.voices,
        series.styles,
        series.look[1] if series.look else None,
    )


def begun(path: Path) -> Project:
    """The project of a recording of which nothing is known yet.

    Raises
    ------
    MediaError
        If it cannot be read.
    """
    return Project(title=path.stem, media=seen(probe(path), path))


def script_beside(path: Path) -> Path | None:
    """The script of a recording: a text of its name that lies beside it."""
    return next((one for suffix in _SCRIPTS if (one := path.with_suffix(suffix)).is_file()), None)


def script_of(path: Path) -> list[Piece] | None:
    """What is said in a recording by the script beside it; ``None`` where there is none.

    Raises
    ------
    FormatError
        If it cannot be read.
    """
    found = script_beside(path) if path.suffix.lower() != PROJECT else None
    return read_script(found) if found is not None else None


def missing_in(project: Project, wishes: Wishes) -> list[str]:
    """What an episode lacks: some of ``words``, ``speakers``, ``captions``, ``translations``."""
    transcript, media = project.transcript, project.media
    found = []
    if not transcript.word_count:
        found.append("words")
    alone = all(turn.speaker is None for turn in transcript.turns)
    if alone and wishes.choices.speakers != "off" and media is not None:
        found.append("speakers")
    if not any(track.spoken and track.captions for track in project.tracks):
        found.append("captions")
    if set(wishes.languages) - {track.language for track in translated_tracks(project)}:
        found.append("translations")
    return found


def bring_on(
    project: Project, wishes: Wishes, script: Sequence[Piece] | None = None, crew: Crew | None = None
) -> Iterator[Event | Project]:
    """Do what an episode lacks; the project is given after each stage, so that it can be kept.

    Parameters
    ----------
    project : Project
        With its recording where it is.
    wishes : Wishes
    script : sequence of Piece, optional
        What is said in it, to be aligned in place of transcribing.
    crew : Crew, optional
        Who transcribes in place of processes here.

    Raises
    ------
    DubrelError
        If there are no words and none can be got.
    """
    stages, done = missing_in(project, wishes), 0.0
    whole = sum(_SHARES[one] for one in stages)
    for stage in stages:
        share = _SHARES[stage] / whole
        for said in _stage(stage, project, wishes, script, crew):
            if isinstance(said, Project):
                project = said
            elif isinstance(said, Progress):
                yield replace(said, fraction=min(1.0, done + share * said.fraction), left_s=None)
            else:
                yield said
        done += share
        yield project


def _stage(
    stage: str, project: Project, wishes: Wishes, script: Sequence[Piece] | None, crew: Crew | None
) -> Iterator[Event | Project]:
    if stage == "words":
        yield from _with_words(project, wishes, script, crew)
    elif stage == "speakers":
        yield from _with_speakers(project, wishes)
    elif stage == "captions":
        yield _with_captions(project, wishes)
    else:
        yield from _with_translations(project, wishes)


def _with_words(
    project: Project, wishes: Wishes, script: Sequence[Piece] | None, crew: Crew | None
) -> Iterator[Event | Project]:
    media, choices = project.media, wishes.choices
    if media is None:
        raise DubrelError(
            tr("“{title}” has neither words nor a recording. Open it and add one.").format(
                title=project.title
            )
        )
    project = replace(project, transcript=Transcript(choices.language or "en"))
    if script is not None:
        events = align_script(media, script, choices.language, crew)
    else:
        events = transcribe(media, choices, crew)
    for event in events:
        project = fold(project, event)
        if isinstance(event, Progress | Warning_):
            yield event
    if not project.transcript.word_count:
        raise DubrelError(
            tr("No speech was found in “{name}”. Take it out of the series.").format(name=media.name)
        )
    yield with_sure_terms(project, wishes.terms) if wishes.terms else project


def _with_speakers(project: Project, wishes: Wishes) -> Iterator[Event | Project]:
    media, speakers = project.media, wishes.choices.speakers
    if media is None or wishes.choices.apart:
        return
    if any(turn.speaker is not None for turn in project.transcript.turns):
        return  # the script said it
    prints: tuple[tuple[float, ...], ...] = ()
    for event in find_speakers(media, question(project, bool(wishes.voices)), *speaker_bounds(speakers)):
        project = fold(project, event)
        if isinstance(event, SpeakersFound):
            prints = event.prints
        elif isinstance(event, Progress | Warning_):
            yield event
    people = project.transcript.speakers
    known = [KeptVoice(*one) for one in wishes.voices]
    for place, name in names_of(prints[: len(people)], known).items():
        project = rename_speaker(project, people[place].id, name)
    yield project


def _with_captions(project: Project, wishes: Wishes) -> Project:
    style = wishes.style_for(project.transcript.language) or DEFAULT_STYLE
    made = set_again(project, style)
    track = made.captions
    if wishes.look is None or track is None:
        return made
    return with_track(made, replace(track, look=wishes.look))


def _with_translations(project: Project, wishes: Wishes) -> Iterator[Event | Project]:
    present = {track.language for track in translated_tracks(project)}
    missing = [one for one in wishes.languages if one not in present]
    for nth, language in enumerate(missing):
        try:
            for said in _translated(project, language, wishes):
                if isinstance(said, Project):
                    project = said
                elif isinstance(said, Progress):
                    yield replace(said, fraction=(nth + said.fraction) / len(missing))
                else:
                    yield said
        except DubrelError as error:
            yield Warning_(
                tr("Not translated into {language}: {error}").format(
                    language=tr(language_name(language)), error=error
                )
            )
        yield project


def _translated(project: Project, language: str, wishes: Wishes) -> Iterator[Event | Project]:
    source = project.transcript.language
    made, track_id = begin_track(project, language, wishes.style_for(language))
    track = made.track(track_id)
    assert track is not None
    order = Order(track_id, missing_tasks(made, track), source, language, "auto", terms=made.terms)
    for event in translate(order):
        made = fold(made, event)
        if isinstance(event, Progress | Warning_):
            yield event
    yield replace(made, active=project.active or made.active)


def project_path(path: Path) -> Path:
    """Where the project of an episode is, or is to be."""
    return path if path.suffix.lower() == PROJECT else path.with_suffix(PROJECT)
