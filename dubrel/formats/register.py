"""Every form of file that is read: a new one is a file and a row. What is written stands in ``release.forms``."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass
from pathlib import Path

from dubrel.base.errors import FormatError
from dubrel.base.gc_pause import nothing_collected
from dubrel.formats import captiontable, ctm, lrc, srt, stl, transcriptjson, ttml, webvtt
from dubrel.formats.common import Reading


@dataclass(frozen=True)
class Reader:
    """How a form of file is read.

    Attributes
    ----------
    name : str
        For the eye.
    read : callable
        ``path -> Reading``; of captions ``(path, names) -> Reading``.
    captions : bool
        Whether it holds captions rather than the transcript.
    """

    name: str
    read: Callable[..., Reading]
    captions: bool = True


READERS = {
    ".srt": Reader("SubRip captions", srt.read),
    ".vtt": Reader("WebVTT captions", webvtt.read),
    ".ttml": Reader("TTML captions", ttml.read),
    ".dfxp": Reader("TTML captions", ttml.read),
    ".stl": Reader("EBU STL captions", stl.read),
    ".scc": Reader("SCC captions", ttml.read),
    ".lrc": Reader("LRC, for sung words", lrc.read),
    ".csv": Reader("Captions as a table", captiontable.read),
    ".tsv": Reader("Captions as a table, tabs", captiontable.read),
    ".json": Reader("Transcript with the times of every word", transcriptjson.read, False),
    ".ctm": Reader("Word times for scoring", ctm.read, False),
}


def read_file(path: Path, names: Collection[str] = ()) -> Reading:
    """Read a caption or transcript file by its suffix.

    Parameters
    ----------
    path : Path
    names : collection of str
        What the user says is a speaker's name where it stands before a colon in captions.

    Raises
    ------
    FormatError
        If the suffix is unknown or the file cannot be read.
    """
    reader = READERS.get(path.suffix.lower())
    if reader is None:
        raise FormatError(f"“{path}” cannot be read. Known suffixes: {', '.join(READERS)} and .dubrel.")
    with nothing_collected():
        return reader.read(path, names) if reader.captions else reader.read(path)
