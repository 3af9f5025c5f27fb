"""Scripts that exist: names, speech, headings and stage directions of a text.

Read from plain text, Markdown, .docx, or the captions of .srt and .vtt.
"""

from __future__ import annotations

import re
import zipfile
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from dubrel.base.errors import DubrelError, FormatError
from dubrel.base.text import tidied
from dubrel.formats.shared.common import read_text

_NAME = re.compile(r"^\**([^\W\d_][\w .’'-]{0,38}?)\**\s*:\**\s+(?=\S)")
_BRACKETS = re.compile(r"^[\[(].*[\])]$")
_INSIDE = re.compile(r"\s?[\[(][^\[\]()]{0,2000}[\])]")
_MARKUP = re.compile(r"(\*\*|__|\*|_|`)(?=\S)(.{1,400}?)(?<=\S)\1")
_MOST_DOCUMENT = 24 << 20
_MOST_NAME_WORDS = 4


class Kind(StrEnum):
    """What a piece of a script is."""

    SPEECH = "speech"
    HEADING = "heading"
    DIRECTION = "direction"


@dataclass(frozen=True)
class Piece:
    """One paragraph of a script as it was understood; a user may change it."""

    kind: Kind
    text: str
    speaker: str = ""


def read_script(path: Path) -> list[Piece]:
    """Read a script from a file.

    Raises
    ------
    FormatError
        If it cannot be read, or nobody says anything in it.
    """
    suffix = path.suffix.lower()
    if suffix in (".srt", ".vtt"):
        pieces = _of_captions(path)
    elif suffix == ".docx":
        pieces = understand(_docx_text(path))
    else:
        pieces = understand(read_text(path)[0])
    if not any(piece.kind is Kind.SPEECH for piece in pieces):
        raise FormatError(
            f"“{path}” holds no text that could be spoken. Choose a script with some text in it."
        )
    return pieces


def understand(text: str) -> list[Piece]:
    r"""Take a text apart into pieces.

    A name and a colon at the start of a line begin a speech; a blank line ends
    one, and the next is by the same speaker unless it says otherwise. Lines
    with ``#`` or without any lower case letter are headings; lines in brackets
    are stage directions, and so are brackets inside a speech, which are left out.

    Examples
    --------
    >>> [(p.kind.value, p.speaker, p.text) for p in understand("# One\n\nANN: Hello (waves)\nthere.")]
    [('heading', '', 'One'), ('speech', 'ANN', 'Hello there.')]
    """
    pieces: list[Piece] = []
    speech: list[str] = []  # lines of the one that is open
    speaker, open_speech = "", False

    def close() -> None:
        if speech:
            pieces[-1] = Piece(
                Kind.SPEECH, " ".join(filter(None, (pieces[-1].text, *speech))), pieces[-1].speaker
            )
            speech.clear()

    for raw in text.split("\n"):
        line = raw.strip()
        if line and not _NAME.match(line):
            line = _MARKUP.sub(r"\2", line)
        if line and open_speech and pieces[-1].kind is Kind.SPEECH and not _begins_piece(line):
            speech.append(_speech(line))
            continue
        close()
        if not line:
            open_speech = False
        elif line.startswith("#"):
            pieces.append(Piece(Kind.HEADING, line.lstrip("# ").strip()))
            open_speech = False
        elif _BRACKETS.match(line):
            pieces.append(Piece(Kind.DIRECTION, line[1:-1].strip()))
        elif (name := _NAME.match(line)) and len(name.group(1).split()) <= _MOST_NAME_WORDS:
            speaker, open_speech = name.group(1).strip(), True
            pieces.append(Piece(Kind.SPEECH, _speech(line[name.end() :]), speaker))
        elif _is_heading(line) and not open_speech:
            pieces.append(Piece(Kind.HEADING, line))
        else:
            pieces.append(Piece(Kind.SPEECH, _speech(line), speaker))
            open_speech = True
    close()
    return [piece for piece in pieces if piece.text]


def _begins_piece(line: str) -> bool:
    """Whether a line cannot go on with the speech before it."""
    name = _NAME.match(line)
    return bool(
        line.startswith("#")
        or _BRACKETS.match(line)
        or (name and len(name.group(1).split()) <= _MOST_NAME_WORDS)
    )


def _speech(text: str) -> str:
    return tidied(_MARKUP.sub(r"\2", _INSIDE.sub("", text)))


def _is_heading(line: str) -> bool:
    letters = [sign for sign in line if sign.isalpha()]
    return len(letters) > 2 and all(sign.isupper() for sign in letters) and line[-1] not in ".,?!"


def _of_captions(path: Path) -> list[Piece]:
    from dubrel.formats.register import read_file

    project = read_file(path).project
    names = {one.id: one.name for one in project.transcript.speakers}
    return [
        Piece(Kind.SPEECH, turn.text, names.get(turn.speaker or "", "")) for turn in project.transcript.turns
    ]


def _refuse_large(path: Path) -> None:
    """Refuse a document that would unpack to more than any script."""
    if not path.is_file():
        raise FormatError(f"“{path}” cannot be read: it is not a file. Check the path.")
    with zipfile.ZipFile(path) as archive:
        if (
            sum(one.file_size for one in archive.infolist() if one.filename.endswith((".xml", ".rels")))
            > _MOST_DOCUMENT
        ):
            raise FormatError(f"“{path}” unpacks to more than a script can be. Save it as plain text.")


def _docx_text(path: Path) -> str:
    import docx

    try:
        _refuse_large(path)
        paragraphs = docx.Document(str(path)).paragraphs
    except DubrelError:
        raise
    except Exception as error:  # a parser of others that raises whatever its own parts do
        raise FormatError(
            f"“{path}” is not a readable .docx document. Save it again, or as plain text."
        ) from error
    rows = []
    for one in paragraphs:
        heading = one.style is not None and (one.style.name or "").startswith(("Heading", "Title"))
        rows.append(f"# {one.text}" if heading and one.text.strip() else one.text)
    return "\n\n".join(rows)
