"""CTM, the plain word scoring format: recording, channel, start, length, word, confidence."""

from __future__ import annotations

from pathlib import Path

from dubrel.edits.intake import add_heard
from dubrel.errors import FormatError
from dubrel.formats.common import Reading, read_text
from dubrel.model import HeardWord, Project


def write(project: Project) -> str:
    """One word a line; confidence is one minus doubt."""
    name = "_".join((project.media.name if project.media else project.title).split()) or "recording"
    rows = [
        f"{name} 1 {word.start_ms / 1000:.3f} {(word.end_ms - word.start_ms) / 1000:.3f} "
        f"{word.text} {1 - word.doubt:.3f}"
        for turn in project.transcript.turns
        for word in turn.words
        if not word.struck
    ]
    return "\n".join(rows) + ("\n" if rows else "")


def read(path: Path) -> Reading:
    """Read words in order of time.

    Raises
    ------
    FormatError
        If a line is not in the form, or there are none.
    """
    text, warnings = read_text(path)
    heard = []
    for number, line in enumerate(text.split("\n"), 1):
        if not line.strip() or line.startswith(";;"):
            continue
        fields = line.split()
        try:
            start, length = round(float(fields[2]) * 1000), round(float(fields[3]) * 1000)
            doubt = 1 - float(fields[5]) if len(fields) > 5 else 0.0
            heard.append(HeardWord(fields[4], start, start + length, min(1.0, max(0.0, round(doubt, 3)))))
        except (ValueError, IndexError):
            raise FormatError(
                f"“{path}”, line {number}: not a CTM word line. Correct or remove it."
            ) from None
    if not heard:
        raise FormatError(f"“{path}” holds no words.")
    heard.sort(key=lambda word: word.start_ms)
    return Reading(add_heard(Project(title=path.stem), heard), tuple(warnings))
