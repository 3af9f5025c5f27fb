"""CTM, the plain word scoring format: recording, channel, start, length, word, confidence."""

from __future__ import annotations

from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.timecode import LATEST_MS
from dubrel.edits.intake import add_heard
from dubrel.formats.shared.agreement import said
from dubrel.formats.shared.common import Reading, read_text, refuse_many
from dubrel.formats.shared.form import TRANSCRIPT, Content, Form, of_project
from dubrel.formats.shared.oddities import Oddities
from dubrel.model import Project, RecognisedWord


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

    A line that is none is left out and said.

    Raises
    ------
    FormatError
        If there are none.
    """
    text, warnings = read_text(path)
    heard, odd = list[RecognisedWord](), Oddities()
    for number, line in enumerate(text.split("\n"), 1):
        if not line.strip() or line.startswith(";;"):
            continue
        word = _word(line.split())
        if word is None:
            odd.at(number, tr("not a CTM word line; left out"))
        else:
            heard.append(word)
    if not heard:
        raise FormatError(tr("“{path}” holds no words. Choose another file.").format(path=path))
    refuse_many(path, len(heard))
    heard.sort(key=lambda word: word.start_ms)
    return Reading(add_heard(Project(title=path.stem), heard), (*warnings, *odd.sentences()))


def _word(fields: list[str]) -> RecognisedWord | None:
    try:
        start, length = (round(float(one) * 1000) for one in fields[2:4])
        doubt = round(1 - float(fields[5]), 3) if len(fields) > 5 else 0.0
        text = fields[4]
    except (ValueError, IndexError, OverflowError):
        return None
    if not 0 <= start <= LATEST_MS or not 0 <= length <= LATEST_MS or doubt != doubt:
        return None
    return RecognisedWord(text, start, start + length, min(1.0, max(0.0, doubt)))


def _agrees(content: Content, path: Path) -> bool:
    """Words and times; where two begin at once the shorter may come first, so they are compared sorted."""
    wanted, found = (
        sorted((one.start_ms, one.end_ms, one.text) for one in said(project))
        for project in (content.project, read(path).project)
    )
    return wanted == found


FORM = Form(
    id="ctm",
    label="Word times for scoring",
    suffixes=(".ctm",),
    group=TRANSCRIPT,
    write=of_project(write),
    read=lambda path, names: read(path),
    agrees=_agrees,
    seed=b"a 1 1.0 0.5 oak 0.9\na 1 1.6 0.4 elm\n;; x\na 1 2.1 0.3 ash 0.2\n",
)
