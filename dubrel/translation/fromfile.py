"""A translation that exists already: captions of a file, paired with ours."""

from __future__ import annotations

from pathlib import Path

from dubrel.errors import EngineError, FormatError
from dubrel.formats import srt, webvtt
from dubrel.model import Project
from dubrel.text import counted, detect_language, language_name
from dubrel.translation.languages import base
from dubrel.translation.meaning import can_weigh
from dubrel.translation.pairing import Paired, pair_cues

_READERS = {".srt": srt.read_cues, ".vtt": webvtt.read_cues}


def paired_file(project: Project, track_id: int, path: Path) -> tuple[Paired, list[str]]:
    """The captions of a file as a translated track, and what there is to say about it.

    Raises
    ------
    FormatError
        If the file cannot be read, or has no captions.
    """
    reader = _READERS.get(path.suffix.lower())
    if reader is None:
        raise FormatError(f"“{path.name}” is no caption file. Choose an .srt or .vtt file.")
    cues, said = reader(path)
    track = project.track(track_id)
    assert track is not None
    if not any(cue.lines for cue in cues):
        raise FormatError(f"“{path.name}” has no captions. Choose another file.")
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
    if found and base(found) != base(track.language):
        said = [*said, f"It is written in {language_name(found)}, not in {language_name(track.language)}."]
    if paired.course.kind == "shift":
        said = [*said, f"Its times were {abs(paired.course.shift_ms) / 1000:.1f} s off and are right now."]
    elif paired.course.kind == "drift":
        said = [*said, "Its times drifted and are right now."]
    if paired.unpaired:
        said = [*said, f"{counted(paired.unpaired, 'caption')} had nothing of the original to stand beside."]
    return paired, [f"{counted(len(cues), 'caption')} from “{path.name}”.", *said]
