"""What readers and writers of text formats share."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from dubrel.edits.intake import from_cues
from dubrel.errors import FormatError
from dubrel.formats.speech import with_speakers
from dubrel.model import Cue, Project
from dubrel.text import detect_language

_ENCODINGS = ["cp1252", "cp1250", "cp1251", "cp1253", "cp1254", "cp1255", "cp1256"]
_ENCODINGS += ["shift_jis", "gb18030", "big5", "euc_kr"]


@dataclass(frozen=True)
class Reading:
    """What a reader found.

    Attributes
    ----------
    project : Project
    warnings : tuple of str
        One sentence each about what could not be read as it stood.
    """

    project: Project
    warnings: tuple[str, ...] = ()


def reading_of(path: Path, cues: Sequence[Cue], warnings: Sequence[str]) -> Reading:
    """The cues of a caption file as a project.

    Raises
    ------
    FormatError
        If there are none.
    """
    if not cues:
        raise FormatError(f"“{path}” holds no captions: no line with two times and an arrow was found.")
    cues = with_speakers(cues)
    return Reading(from_cues(Project(title=path.stem), cues, _language(cues)), tuple(warnings))


def read_text(path: Path) -> tuple[str, list[str]]:
    """Read a text file whatever its encoding and line ends.

    Returns
    -------
    text : str
        Without byte order mark, lines ended by ``\\n``.
    warnings : list of str

    Raises
    ------
    FormatError
        If the file cannot be read or is no text.
    """
    try:
        data = path.read_bytes()
    except OSError as error:
        raise FormatError(f"“{path}” cannot be read: {error.strerror}. Check the path.") from error
    warnings: list[str] = []
    text = _decode(data, path, warnings)
    return text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n"), warnings


def _decode(data: bytes, path: Path, warnings: list[str]) -> str:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", errors="replace")
    if b"\0" in data[:4096]:
        raise FormatError(f"“{path}” is not a text file. Choose a caption or transcript file.")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        from charset_normalizer import from_bytes  # late: most files are UTF-8

    found = from_bytes(data, cp_isolation=_ENCODINGS)
    best = found.best()
    western = next((one for one in found if one.encoding == "cp1252"), None)
    if best is None or (western is not None and western.chaos <= best.chaos + 0.02):
        encoding = "cp1252"  # by far the most frequent of those that a short text could be
    else:
        encoding = best.encoding
    warnings.append(f"“{path.name}” is not UTF-8; it was read as {encoding}.")
    return data.decode(encoding, errors="replace")


def _language(cues: Sequence[Cue]) -> str:
    """The language of the text; English where it is too short to tell."""
    return detect_language(" ".join(line for cue in cues[:400] for line in cue.lines)) or "en"
