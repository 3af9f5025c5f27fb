"""Readers and writers by suffix."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from dubrel.captions.styles import DEFAULT_STYLE, HouseStyle
from dubrel.edits.captions import set_again
from dubrel.errors import FormatError
from dubrel.files import write_text
from dubrel.formats import ctm, plaintext, rttm, srt, transcriptjson, webvtt
from dubrel.formats.common import Reading, shown_captions
from dubrel.model import Project

READERS: dict[str, Callable[[Path], Reading]] = {
    ".srt": srt.read,
    ".vtt": webvtt.read,
    ".ctm": ctm.read,
    ".json": transcriptjson.read,
}
WRITERS: dict[str, Callable[[Project], str]] = {
    ".srt": srt.write,
    ".vtt": webvtt.write,
    ".ctm": ctm.write,
    ".json": transcriptjson.write,
    ".txt": plaintext.write,
    ".rttm": rttm.write,
}
_CUES = {".srt": srt.read_cues, ".vtt": webvtt.read_cues}


def read_file(path: Path) -> Reading:
    """Read a caption or transcript file by its suffix.

    Raises
    ------
    FormatError
        If the suffix is unknown or the file cannot be read.
    """
    reader = READERS.get(path.suffix.lower())
    if reader is None:
        raise FormatError(f"“{path}” cannot be read: known are {', '.join(READERS)} and .dubrel.")
    return reader(path)


def written(project: Project, suffix: str, style: HouseStyle = DEFAULT_STYLE) -> str:
    """The text of a deliverable; captions are set first where there are none.

    Raises
    ------
    FormatError
        If the suffix is unknown, or there is nothing to write.
    """
    writer = WRITERS.get(suffix.lower())
    if writer is None:
        raise FormatError(f"“{suffix}” cannot be written: known are {', '.join(WRITERS)} and .dubrel.")
    if not project.transcript.word_count:
        raise FormatError(f"“{project.title}” has no words yet. Transcribe the recording first.")
    if suffix.lower() in _CUES and project.captions is None:
        project = set_again(project, style)
    return writer(project)


def write_checked(project: Project, path: Path, style: HouseStyle = DEFAULT_STYLE) -> None:
    """Write a deliverable, read it back, and compare before calling it done.

    Raises
    ------
    FormatError
        If what stands in the file is not what was meant.
    DubrelError
        If it cannot be written.
    """
    suffix = path.suffix.lower()
    if suffix in _CUES and project.captions is None:
        project = set_again(project, style)
    text = written(project, suffix, style)
    write_text(path, text)
    again = path.read_text(encoding="utf-8")
    if again != text:
        raise FormatError(f"“{path}” does not hold what was written. Check the disk and write it again.")
    if not _reads_back(project, path):
        raise FormatError(f"“{path}” does not read back as it was written. Please report this file.")


def _reads_back(project: Project, path: Path) -> bool:
    """Whether a file says what was meant: captions line by line, transcripts word by word."""
    suffix = path.suffix.lower()
    if suffix in _CUES:
        lines = [line for cue in _CUES[suffix](path)[0] for line in cue.lines]
        return lines == [line for caption in shown_captions(project) for line in caption.lines]
    reader = READERS.get(suffix)
    return reader is None or _spoken(reader(path).project) == _spoken_struck_out(project)


def _spoken(project: Project) -> list[str]:
    return [word.text for turn in project.transcript.turns for word in turn.words]


def _spoken_struck_out(project: Project) -> list[str]:
    words = [word for turn in project.transcript.turns for word in turn.words if not word.struck]
    return [word.text for word in words]
