"""RTTM, the plain scoring format of who speaks when: one passage a line."""

from __future__ import annotations

from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.timecode import LATEST_MS
from dubrel.edits.speakers.assigning import speaker_passages
from dubrel.formats.shared.common import read_text
from dubrel.formats.shared.form import TRANSCRIPT, Content, Form, of_project
from dubrel.model import Project, SpeakerPassage


def write(project: Project) -> str:
    """One turn a line; white space in names becomes an underscore."""
    name = "_".join((project.media.name if project.media else project.title).split()) or "recording"
    rows = [
        f"SPEAKER {name} 1 {one.start_ms / 1000:.3f} {max(0, one.end_ms - one.start_ms) / 1000:.3f} "
        f"<NA> <NA> {'_'.join(one.speaker.split())} <NA> <NA>"
        for one in speaker_passages(project)
    ]
    return "\n".join(rows) + ("\n" if rows else "")


def read_passages(path: Path) -> tuple[list[SpeakerPassage], list[str]]:
    """Who speaks when, in order, and what could not be read as it stood.

    Raises
    ------
    FormatError
        If no line says who speaks.
    """
    text, warnings = read_text(path)
    found, warned = [], list(warnings)
    for number, line in enumerate(text.split("\n"), 1):
        fields = line.split()
        if not fields or fields[0] != "SPEAKER":
            continue
        try:
            start, length = round(float(fields[3]) * 1000), round(float(fields[4]) * 1000)
            name = fields[7].replace("_", " ")
        except (ValueError, IndexError, OverflowError):
            warned.append(tr("Line {number} is not a speaker line; it was left out.").format(number=number))
            continue
        if length <= 0 or start < 0 or start + length > LATEST_MS:
            warned.append(tr("Line {number} has an impossible time; it was left out.").format(number=number))
            continue
        found.append(SpeakerPassage(start, start + length, name))
    if not found:
        raise FormatError(tr("“{path}” names no speakers with times. Choose an RTTM file.").format(path=path))
    return sorted(found, key=lambda one: one.start_ms), warned


def _agrees(content: Content, path: Path) -> bool:
    """Passages and who speaks in them."""
    wanted = [one for one in speaker_passages(content.project) if one.end_ms > one.start_ms]
    if not wanted:
        return True
    found = [(one.start_ms, one.end_ms, one.speaker) for one in read_passages(path)[0]]
    spelt = [(one.start_ms, one.end_ms, " ".join(one.speaker.replace("_", " ").split())) for one in wanted]
    return sorted(found) == sorted(spelt)


FORM = Form(
    id="rttm",
    label="Who speaks when",
    suffixes=(".rttm",),
    group=TRANSCRIPT,
    write=of_project(write),
    agrees=_agrees,
    each_track=False,
    seed=b"SPEAKER a 1 1.0 2.0 <NA> <NA> Ann <NA> <NA>\nSPEAKER a 1 3.5 1.0 <NA> <NA> Ben_X <NA> <NA>\n",
)
