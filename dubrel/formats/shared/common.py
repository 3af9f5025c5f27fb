"""What readers and writers of text formats share."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Collection, Sequence
from pathlib import Path

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import FormatError
from dubrel.base.files import cause_of
from dubrel.base.languages import UNKNOWN, detect_language
from dubrel.base.text import tokens
from dubrel.base.value import Value
from dubrel.edits.intake import from_cues
from dubrel.formats.shared.encodings import ASSUMPTION, best_encoding, called, lines_with_bad_bytes
from dubrel.formats.shared.inline import settings_of_key, taken_apart
from dubrel.formats.shared.names import names_in, with_speakers
from dubrel.formats.shared.oddities import Oddities
from dubrel.model import Cue, Project

MOST_BYTES = 16 << 20
MOST_WORDS = 600_000  # some sixty hours of speech
_MOST_LINES, _MOST_SPACES = 1_500_000, 3_000_000
_ARROWS = dict.fromkeys((".srt", ".vtt"), tr(": no line with two times and an arrow was found"))


class Reading(Value):
    """What a reader found.

    Attributes
    ----------
    project : Project
    warnings : tuple of str
        One sentence each about what could not be read as it stood.
    doubtful : tuple of str
        What stands before a colon and may be the name of a speaker; it was left in the text.
    recording : str
        Name of the recording that the file says it belongs to; empty where it says none.
    encoding : str
        In which the file was read, where that was only found out; empty otherwise.
    """

    project: Project
    warnings: tuple[str, ...] = ()
    doubtful: tuple[str, ...] = ()
    recording: str = ""
    encoding: str = ""


def reading_of(
    path: Path,
    cues: Sequence[Cue],
    warnings: Sequence[str],
    names: Collection[str] = (),
    language: str = "",
) -> Reading:
    """The cues of a caption file as a project.

    Parameters
    ----------
    path : Path
    cues : sequence of Cue
    warnings : sequence of str
    names : collection of str
        What the user says is a speaker's name.
    language : str
        As the file says; else it is told from the text.

    Raises
    ------
    FormatError
        If there are none.
    """
    if not cues:
        raise FormatError(
            tr("“{path}” holds no captions{suffix}. Choose another file.").format(
                path=path, suffix=_ARROWS.get(path.suffix.lower(), "")
            )
        )
    refuse_many(path, sum(line.count(" ") + 1 for cue in cues for line in cue.lines))
    sure, doubtful = names_in(cues)
    cues = with_speakers(cues, sure, names)
    doubtful = [one for one in doubtful if one not in names]
    said = list(warnings)
    if doubtful:
        shown = ", ".join(f"“{one}”" for one in doubtful[:5])
        said.append(tr("{shown} may be names of speakers; they were left in the text.").format(shown=shown))
    project = from_cues(Project(title=path.stem), cues, language or _language(cues))
    return Reading(project, tuple(said), tuple(doubtful))


def cue_of(
    times: tuple[int, int], body: Sequence[str], line: int, odd: Oddities, place: str = ""
) -> Cue | None:
    """A cue of what stands under a time line; ``None`` where nothing does.

    Parameters
    ----------
    times : tuple of int
        In time and out time in milliseconds, as they stand.
    body : sequence of str
    line : int
        The number of the time line, for what is odd.
    odd : Oddities
    place : str
        Cue settings.
    """
    found = taken_apart(body)
    for what, count in found.dropped.items():
        odd.left_out(what, count)
    if not found.rows:
        odd.at(line, tr("a caption without text; left out"))
        return None
    start, end = times
    if start < 0:
        odd.at(line, tr("a time below zero was set to zero"))
        start, end = 0, max(0, end)
    if end <= start:
        odd.at(line, tr("the caption ended before it began; it was given one second"))
        end = start + 1000
    speaker, changes = found.rows[0].voice or None, dict[int, str | None]()
    before = speaker
    for nth, row in enumerate(found.rows[1:], 1):
        if row.voice is not None and (row.voice or None) != before:
            before = changes[nth] = row.voice or None
    styles = {
        (nth, at): style
        for nth, row in enumerate(found.rows)
        if any(row.styles)
        for at, style in enumerate(row.word_styles())
        if style
    }
    place = place or settings_of_key(found.place if found.place != 2 else 0)
    texts = tuple(row.text for row in found.rows)
    begins = {
        (nth, at): ms
        for nth, row in enumerate(found.rows)
        for at, ms in row.word_begins().items()
        if start <= ms < end
    }
    return Cue(start, end, texts, speaker, changes, place=place, styles=styles, begins=begins)


_HELD = re.compile("(?<=\\S)[\u00a0\u2007\u202f](?=\\S)")


def in_order(cues: list[Cue], odd: Oddities) -> list[Cue]:
    """The cues as they are; said where they are out of order or over each other."""
    lines = [line for one in cues for line in one.lines if not line.isascii()]
    held = sum(len(_HELD.findall(line)) - len(_HELD.findall("".join(tokens(line)))) for line in lines)
    odd.left_out(tr("no-break spaces between two words"), held)
    if any(late.start_ms < early.start_ms for early, late in zip(cues, cues[1:])):
        odd.say(tr("The captions were out of order; they were sorted by time."))
        cues = sorted(cues, key=lambda one: one.start_ms)
    over = sum(late.start_ms < early.end_ms for early, late in zip(cues, cues[1:]))
    if over:
        odd.say(
            counted(
                over,
                "caption begins before the one before is out; kept as it is.",
                "captions begin before the one before is out; kept as they are.",
            )
        )
    return cues


def read_text(path: Path) -> tuple[str, list[str]]:
    r"""Read a text file whatever its encoding and line ends.

    Returns
    -------
    text : str
        Without byte order mark, lines ended by ``\n``.
    warnings : list of str

    Raises
    ------
    FormatError
        If the file cannot be read, is not a text or larger than any caption file.
    """
    data = read_bytes(path)
    warnings: list[str] = []
    text = _decode(data, path, warnings).lstrip("\ufeff")
    if "\0" in text:
        text = text.replace("\0", "")
        warnings.append(tr("“{name}” holds zero bytes; they were left out.").format(name=path.name))
    text = text.replace("\r\r\n", "\n").replace("\r\n", "\n").replace("\r", "\n")
    if text.count("\n") > _MOST_LINES or text.count(" ") > _MOST_SPACES:
        raise FormatError(
            tr("“{path}” holds more lines or words than any recording. Choose another file.").format(
                path=path
            )
        )
    return text, warnings


def refuse_many(path: Path, words: int) -> None:
    """Refuse more words than any recording holds.

    Raises
    ------
    FormatError
    """
    if words > MOST_WORDS:
        raise FormatError(
            tr("“{path}” holds more than {most_words:,} words. Split it into several files.").format(
                path=path, most_words=MOST_WORDS
            )
        )


def read_bytes(path: Path, most: int = MOST_BYTES) -> bytes:
    """A file that is no larger than any text that Dubrel reads.

    Raises
    ------
    FormatError
        If it cannot be read, is not a file, or is larger.
    """
    try:
        if path.exists() and not path.is_file():
            raise FormatError(
                tr("“{path}” cannot be read: it is not a file. Check the path.").format(path=path)
            )
        with path.open("rb") as file:
            data = file.read(most + 1)
    except (OSError, ValueError) as error:
        said = cause_of(error) if isinstance(error, OSError) else tr("its name cannot be")
        raise FormatError(
            tr("“{path}” cannot be read: {said}. Check the path.").format(path=path, said=said)
        ) from error
    if len(data) > most:
        raise FormatError(
            tr("“{path}” is larger than {most} MB, so it is not a text that Dubrel reads.").format(
                path=path, most=most >> 20
            )
        )
    return data


def _decode(data: bytes, path: Path, warnings: list[str]) -> str:
    assumption = ASSUMPTION.get()
    wished = assumption.wished if assumption is not None else ""
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", errors="replace")
    if wide := _wide(data[:4096]):
        warnings.append(
            tr("“{name}” does not say its encoding; it was read as {encoding}.").format(
                name=path.name, encoding=wide.upper()
            )
        )
        return data.decode(wide, errors="replace")
    if data[:4096].count(0) > max(2, len(data[:4096]) // 50):
        raise FormatError(
            tr("“{path}” is not a text file. Choose a caption or transcript file.").format(path=path)
        )
    if wished:
        return _in_encoding(data, wished, path, warnings)
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError:
        bad = lines_with_bad_bytes(data)
        if bad is not None:
            where = (
                tr("Line {number}").format(number=bad[0])
                if len(bad) == 1
                else tr("{many:,} lines, from line {first} on").format(many=len(bad), first=bad[0])
            )
            warnings.append(tr("{where}: bytes that are not text; each is shown as “�”.").format(where=where))
            return data.decode("utf-8", errors="replace")
    else:
        if "\x1b$" not in text:
            return text
    encoding = best_encoding(data).encoding
    if assumption is not None:
        assumption.found = encoding
    warnings.append(
        tr("“{name}” is not Unicode; it was read as {encoding}.").format(
            name=path.name, encoding=called(encoding)
        )
    )
    return _in_encoding(data, encoding, path, warnings)


def _in_encoding(data: bytes, encoding: str, path: Path, warnings: list[str]) -> str:
    try:
        text = data.decode(encoding, errors="replace")
    except UnicodeError as error:  # some refuse a file that is cut short
        raise FormatError(
            tr("“{path}” cannot be read as {encoding}. Name another encoding.").format(
                path=path, encoding=encoding
            )
        ) from error
    if encoding == "cp1258":  # tones stand behind their letters
        text = unicodedata.normalize("NFC", text)
    if lost := text.count("\ufffd") - data.count("\ufffd".encode()):
        warnings.append(
            tr("{letters} could not be read as {encoding}; shown as “�”.").format(
                letters=counted(lost, "letter"), encoding=encoding
            )
        )
    return text


def _wide(sample: bytes) -> str:
    """UTF-16 without a mark, told by its zeros: every other byte of plain letters."""
    if len(sample) < 4:
        return ""
    even, odd = sample[::2].count(0) / len(sample[::2]), sample[1::2].count(0) / len(sample[1::2])
    if even < 0.05 and odd > 0.7:
        return "utf-16-le"
    return "utf-16-be" if odd < 0.05 and even > 0.7 else ""


def _language(cues: Sequence[Cue]) -> str:
    """The language of the text; unknown where it is too short to tell."""
    return detect_language(" ".join(line for cue in cues[:400] for line in cue.lines)) or UNKNOWN
