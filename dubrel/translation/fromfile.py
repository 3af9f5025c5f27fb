"""A translation that exists already: captions of a file, paired with ours."""

from __future__ import annotations

from pathlib import Path

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import EngineError, FormatError
from dubrel.base.languages import UNKNOWN, detect_language, language_in_name, language_name, main_tag
from dubrel.base.value import replace
from dubrel.edits.translation.pairing import Paired, pair_cues
from dubrel.edits.translation.track import begin_track
from dubrel.formats.register import CAPTION_READERS, read_file
from dubrel.model import Cue, Project
from dubrel.translation.meaning import can_weigh


def two_languages(first: Path, second: Path) -> tuple[Project, list[str]]:
    """Two caption files of one film as a project with a translation; what there is to say about them.

    Raises
    ------
    FormatError
        If one cannot be read, has no captions, or both are in one language.
    """
    reading = read_file(first)
    project = reading.project
    language = _language_of(first, " ".join(turn.text for turn in project.transcript.turns))
    project = replace(project, transcript=replace(project.transcript, language=language or UNKNOWN))
    cues, _ = _cues(second)
    other = _language_of(second, " ".join(line for cue in cues for line in cue.lines))
    if not other or main_tag(other) == main_tag(project.transcript.language):
        raise FormatError(
            tr(
                "“{name}” and “{name2}” are in one language, so they are not a pair. Open one of them."
            ).format(name=first.name, name2=second.name)
        )
    tracks = tuple(replace(one, language=project.transcript.language) for one in project.tracks)
    project, track_id = begin_track(replace(project, tracks=tracks), other)
    paired, said = paired_file(project, track_id, second)
    return paired.project, [*reading.warnings, *said]


def _cues(path: Path) -> tuple[list[Cue], list[str]]:
    form = CAPTION_READERS.get(path.suffix.lower())
    if form is None or form.cues is None:
        raise FormatError(
            tr("“{name}” is not a caption file. Choose one of {listed}.").format(
                name=path.name, listed=", ".join(CAPTION_READERS)
            )
        )
    return form.cues(path)


def _language_of(path: Path, text: str) -> str:
    """As the text says; where it is too short, as the file's name says."""
    return detect_language(text) or language_in_name(path.stem)


def paired_file(project: Project, track_id: int, path: Path) -> tuple[Paired, list[str]]:
    """The captions of a file as a translated track, and what there is to say about it.

    Raises
    ------
    FormatError
        If the file cannot be read, or has no captions.
    """
    cues, said = _cues(path)
    track = project.track(track_id)
    assert track is not None
    if not any(cue.lines for cue in cues):
        raise FormatError(tr("“{name}” has no captions. Choose another file.").format(name=path.name))
    source = project.transcript.language
    encode = None
    if can_weigh(source, track.language):
        from dubrel.finding.encoder import vectors_of  # late: arrays

        encode = vectors_of
    try:
        paired = pair_cues(project, track_id, cues, encode)
    except EngineError:  # no encoder: times alone count
        paired = pair_cues(project, track_id, cues)
    found = detect_language(" ".join(line for cue in cues for line in cue.lines)[:4000])
    if found and main_tag(found) != main_tag(track.language):
        said = [
            *said,
            tr("It is written in {found}, not in {language}.").format(
                found=tr(language_name(found)), language=tr(language_name(track.language))
            ),
        ]
    if paired.course.kind == "shift":
        said = [
            *said,
            tr("Its times were {by:.1f} s off and have been corrected.").format(
                by=abs(paired.course.shift_ms) / 1000
            ),
        ]
    elif paired.course.kind == "drift":
        said = [*said, tr("Its times drifted and have been corrected.")]
    if paired.unpaired:
        said = [
            *said,
            tr("{captions} had nothing of the original to stand beside.").format(
                captions=counted(paired.unpaired, "caption")
            ),
        ]
    return paired, [f"{counted(len(cues), 'caption')} from “{path.name}”.", *said]
