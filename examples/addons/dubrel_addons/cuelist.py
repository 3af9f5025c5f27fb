"""A cue list: one caption a line, with its times in milliseconds before it."""

from __future__ import annotations

from collections.abc import Collection
from pathlib import Path

from dubrel.formats.shared.common import Reading, read_text, reading_of
from dubrel.formats.shared.form import caption_form
from dubrel.formats.shared.losses import DRAWN, Cannot
from dubrel.model import Cue, Project
from dubrel.project.captiontext import shown_captions


def write(project: Project) -> str:
    """``from to text``, the lines of a caption parted by `` | ``."""
    return "".join(
        f"{caption.start_ms} {caption.end_ms} {' | '.join(text.lines)}\n"
        for caption, text in shown_captions(project, project.captions)
    )


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The captions, and what is odd about the file."""
    text, said = read_text(path)
    cues: list[Cue] = []
    for number, line in enumerate(text.splitlines(), 1):
        start, _, rest = line.partition(" ")
        end, _, words = rest.partition(" ")
        if start.isdecimal() and end.isdecimal() and int(start) < int(end):
            cues.append(Cue(int(start), int(end), tuple(words.split(" | "))))
        elif line.strip():
            said.append(f"Line {number} has no times; it was left out.")
    return cues, said


def read(path: Path, names: Collection[str] = ()) -> Reading:
    """The captions as a project."""
    cues, said = read_cues(path)
    return reading_of(path, cues, said, names)


FORM = caption_form(
    "cuelist",
    "Cue list",
    ".cues",
    write=write,
    read=read,
    cues=read_cues,
    cannot=Cannot("all", speakers=True, styles="biu", language=True, look=DRAWN, looks=True),
    seed=b"1000 2000 Slow water.\n3500 4000 Oak? | Elm.\n",
)
