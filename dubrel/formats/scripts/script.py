"""Scripts that exist: names, speech, headings and stage directions of a text.

Read from plain text, Markdown, .docx, .odt, or the captions of .srt and .vtt.
"""

from __future__ import annotations

import re
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from enum import StrEnum
from itertools import groupby
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.text import tidied, tokens
from dubrel.base.value import Value
from dubrel.formats.scripts import markdown, opendocument, worddocument
from dubrel.formats.shared.common import read_text

_NAME = re.compile(r"^\**([^\W\d_][\w .’'-]{0,38}?)\**\s*:\**\s+(?=\S)")
_BRACKETS = re.compile(r"^[\[(].*[\])]$")
_INSIDE = re.compile(r"\s?[\[(][^\[\]()]{0,2000}[\])]")
_MARKUP = re.compile(r"(\*\*|__|\*|_|`)(?=\S)(.{1,400}?)(?<=\S)\1")
_MOST_DOCUMENT = 24 << 20
_MOST_NAME_WORDS = 4
_LEAST_VERSES, _VERSE_LENGTH = 4, 56  # lines of a poem, and characters of one
_CLOCK = r"[\[(]?\d{1,3}:\d{2}(?::\d{2})?(?:[.,;:]\d{1,3})?[\])]?"
_LEADING_CLOCK = re.compile(rf"^(?:{_CLOCK}\s*[-–—>→]*\s*){{1,2}}")
_SHORT_CLOCK = re.compile(r"^\d{1,3}:\d{2}(?![\d:.,;]*\d)(?!\s*[-–—>→])")
_NAME_CLOCK = re.compile(rf"^([^\W\d_][^\t:]{{0,38}}?)\s+{_CLOCK}$")
_NAME_TAB = re.compile(r"^([^\W\d_][^\t:]{0,38}?)\s*\t\s*(?=\S)")
_DOCUMENTS = {".docx": worddocument.lines_of, ".odt": opendocument.lines_of}


class Kind(StrEnum):
    """What a piece of a script is."""

    SPEECH = "speech"
    HEADING = "heading"
    DIRECTION = "direction"


class Piece(Value):
    """One paragraph of a script as it was understood; a user may change it.

    Line ends stand in the text where it is a song or a poem.
    """

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
    elif suffix in _DOCUMENTS:
        pieces = understand(_unpacked(path, _DOCUMENTS[suffix]))
    elif suffix in (".md", ".markdown"):
        pieces = understand("\n\n".join(markdown.lines_of(read_text(path)[0])))
    else:
        pieces = understand(read_text(path)[0])
    if not any(piece.kind is Kind.SPEECH for piece in pieces):
        raise FormatError(
            tr("“{path}” holds no text that could be spoken. Choose a script with some text in it.").format(
                path=path
            )
        )
    return pieces


def understand(text: str) -> list[Piece]:
    r"""Take a text apart into pieces.

    A name and a colon at the start of a line begin a speech; a blank line ends
    one, and the next is by the same speaker unless it says otherwise. Lines
    with ``#`` or without any lower case letter are headings; lines in brackets
    are stage directions, and so are brackets inside a speech, which are left out.
    Names may also stand before a tab or a time, or in capitals above what is said,
    where they do so more than once. Times before a line are left out.

    Examples
    --------
    >>> [(p.kind.value, p.speaker, p.text) for p in understand("# One\n\nANN: Hello (waves)\nthere.")]
    [('heading', '', 'One'), ('speech', 'ANN', 'Hello there.')]
    """
    pieces: list[Piece] = []
    speech: list[str] = []  # lines of the one that is open
    speaker, open_speech = "", False
    lines = list(_with_names(_without_clocks([one.strip() for one in text.split("\n")])))
    between = "\n" if _is_verse(lines) else " "

    def close() -> None:
        if speech:
            pieces[-1] = Piece(
                Kind.SPEECH, between.join(filter(None, (pieces[-1].text, *speech))), pieces[-1].speaker
            )
            speech.clear()

    for line in lines:
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


def _is_verse(given: Sequence[str]) -> bool:
    """Whether a text without names is a song or a poem: short lines that begin with capitals, in stanzas."""
    stanzas = [list(run) for filled, run in groupby(given, bool) if filled]
    lines = [line for stanza in stanzas if len(stanza) > 1 for line in stanza]
    if len(lines) < _LEAST_VERSES or any(_NAME.match(line) for line in given):
        return False
    first = [next((sign for sign in line if sign.isalpha()), "") for line in lines]
    begun = sum(bool(sign) and not sign.islower() for sign in first)
    wide = sum(len(line) > _VERSE_LENGTH for line in lines)
    return begun >= 0.8 * len(lines) and wide <= 0.1 * len(lines)


def _without_clocks(lines: Sequence[str]) -> list[str]:
    """The lines without times before them; one like “10:30” that is said may begin a line too."""
    short = sum(_SHORT_CLOCK.match(line) is not None for line in lines)
    timed = short > 1 and short * 2 >= sum(map(bool, lines))
    return [
        line if _SHORT_CLOCK.match(line) and not timed else _LEADING_CLOCK.sub("", line) for line in lines
    ]


def _with_names(lines: Sequence[str]) -> Iterator[str]:
    """The lines, with a colon after names that are told by where they stand."""
    above = _names_above(lines)
    marks = [_NAME_CLOCK.match(line) or _NAME_TAB.match(line) for line in lines]
    known = [mark or _NAME.match(line) for line, mark in zip(lines, marks)]
    before = Counter(one.group(1).strip() for one in known if one and _is_short(one.group(1)))
    name = ""
    for line, mark in zip(lines, marks):
        if line in above:
            name = line
        elif mark and before[mark.group(1)] > 1:
            said = line[mark.end() :]
            name = "" if said else mark.group(1)
            if said:
                yield f"{mark.group(1)}: {said}"
        elif name and line and not _BRACKETS.match(line):
            yield line if _NAME.match(line) or line.startswith("#") else f"{name}: {line}"
            name = ""
        elif line or not name:
            yield line


def _names_above(lines: Sequence[str]) -> set[str]:
    """Names in capitals on lines of their own: more than once, and always with what is said below."""
    filled = [line for line in lines if line]
    places: dict[str, list[int]] = {}
    for nth, line in enumerate(filled):
        if _is_heading(line) and _is_short(line) and not re.search(r"[\d.#\[(]", line):
            places.setdefault(line, []).append(nth)
    return {
        line
        for line, many in places.items()
        if len(many) > 1 and all(one + 1 < len(filled) and not _is_heading(filled[one + 1]) for one in many)
    }


def _is_short(name: str) -> bool:
    return len(tokens(name)) <= _MOST_NAME_WORDS


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


def _unpacked(path: Path, lines_of: Callable[[Path], list[str]]) -> str:
    """The text of a document that is an archive.

    Raises
    ------
    FormatError
        If it is none, or would unpack to more than any script.
    """
    if not path.is_file():
        raise FormatError(tr("“{path}” cannot be read: it is not a file. Check the path.").format(path=path))
    try:
        with zipfile.ZipFile(path) as archive:
            trees = [one for one in archive.infolist() if one.filename.endswith((".xml", ".rels"))]
        if sum(one.file_size for one in trees) <= _MOST_DOCUMENT:
            return "\n\n".join(lines_of(path))
    except Exception as error:  # a parser of others that raises whatever its own parts do
        raise FormatError(
            tr("“{path}” is not a readable {suffix} document. Save it again, or as plain text.").format(
                path=path, suffix=path.suffix.lower()
            )
        ) from error
    raise FormatError(
        tr("“{path}” unpacks to more than a script can hold. Save it as plain text.").format(path=path)
    )
