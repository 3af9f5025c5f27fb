"""Every form of file: what it is called, how it is read, written and verified. A new one is a file and a row."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captiontext import shown_captions
from dubrel.edits.setagain import set_again
from dubrel.errors import FormatError
from dubrel.files import write_atomically
from dubrel.formats import (
    captiontable,
    ctm,
    docx,
    lrc,
    odt,
    plaintext,
    rttm,
    srt,
    textdocument,
    transcriptjson,
    ttml,
    webvtt,
)
from dubrel.formats.common import Reading
from dubrel.formats.document import Document, TextOptions, document_of
from dubrel.formats.inline import plain
from dubrel.garbage import nothing_collected
from dubrel.model import Cue, HouseStyle, Project

Options = Mapping[str, str]


@dataclass(frozen=True)
class Form:
    """A form of file.

    Attributes
    ----------
    id, suffix, name : str
        ``name`` is for the eye.
    write : callable or None
        ``(project, options) -> text``; ``None`` where it is only read.
    verify : callable
        ``(project, path, options) -> whether the file says what was meant``.
    read : callable or None
        ``path -> Reading``; ``None`` where it is only written.
    captions : bool
        Whether it holds captions rather than the transcript.
    options : mapping of str to tuple of str
        What can be chosen; the first is the default.
    """

    id: str
    suffix: str
    name: str
    write: Callable[[Project, Options], str | bytes] | None
    verify: Callable[[Project, Path, Options], bool]
    read: Callable[..., Reading] | None = None
    captions: bool = False
    options: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


def _same_lines(
    read_cues: Callable[[Path], tuple[list[Cue], list[str]]], as_read: Callable[[str], str] = str.strip
) -> Callable:
    """Captions: the cues say what the captions show, line by line, at the same times.

    ``as_read`` makes of a line what any reader of the form makes of it: SubRip cannot
    say that an angle bracket is only one.
    """

    def verify(project: Project, path: Path, options: Options) -> bool:
        cues = [(one.start_ms, one.end_ms, list(one.lines)) for one in read_cues(path)[0]]
        shown = shown_captions(project, project.captions)
        wanted = [
            (one.start_ms, one.end_ms, [*filter(None, map(as_read, text.lines))]) for one, text in shown
        ]
        return cues == [one for one in wanted if one[2]]

    return verify


def _same_words(read: Callable[[Path], Reading]) -> Callable:
    """Transcripts: the words that are not struck, in order."""

    def verify(project: Project, path: Path, options: Options) -> bool:
        turns = read(path).project.transcript.turns
        said = [word.text for turn in project.transcript.turns for word in turn.words if not word.struck]
        return [word.text for turn in turns for word in turn.words] == said

    return verify


def _same_passages(project: Project, path: Path, options: Options) -> bool:
    passages = rttm.speaker_passages(project)
    return not passages or len(rttm.read_passages(path)[0]) == sum(
        one.end_ms > one.start_ms for one in passages
    )


def _same_text(project: Project, path: Path, options: Options) -> bool:
    return path.read_text(encoding="utf-8") == plaintext.write(project, options)


def _plain(write: Callable[[Project], str]) -> Callable[[Project, Options], str]:
    return lambda project, options: write(project)


def _document(write: Callable[[Document], str | bytes]) -> Callable[[Project, Options], str | bytes]:
    return lambda project, options: write(document_of(project, TextOptions()))


def _reads(read_cues: Callable[[Path], tuple[list[Cue], list[str]]]) -> Callable:
    """As many cues as there are captions, or lines, at least."""

    def verify(project: Project, path: Path, options: Options) -> bool:
        return len(read_cues(path)[0]) >= sum(1 for _ in shown_captions(project, project.captions)) * 0.9

    return verify


def _never(project: Project, path: Path, options: Options) -> bool:
    return False


_READERS: dict[str, Callable[[Path], str]] = {
    ".docx": docx.text_of_docx,
    ".odt": odt.text_of_odt,
    ".html": lambda path: textdocument.text_of_html(path.read_text(encoding="utf-8")),
}


def _holds_words(project: Project, path: Path, options: Options) -> bool:
    """All letters of what is said, paragraph by paragraph."""
    by = _READERS.get(path.suffix.lower())
    text = by(path) if by else path.read_text(encoding="utf-8")
    letters = "".join(sign for sign in text if sign.isalnum())
    said = document_of(project, TextOptions()).said
    return all("".join(sign for sign in one if sign.isalnum()) in letters for one in said)


FORMS = {
    form.suffix: form
    for form in (
        Form(
            "srt",
            ".srt",
            "SubRip captions",
            _plain(srt.write),
            _same_lines(srt.read_cues, plain),
            srt.read,
            True,
        ),
        Form(
            "webvtt",
            ".vtt",
            "WebVTT captions with speakers",
            _plain(webvtt.write),
            _same_lines(webvtt.read_cues),
            webvtt.read,
            True,
        ),
        Form("text", ".txt", "Plain text", plaintext.write, _same_text, options=plaintext.OPTIONS),
        Form(
            "json",
            ".json",
            "Transcript with the times of every word",
            _plain(transcriptjson.write),
            _same_words(transcriptjson.read),
            transcriptjson.read,
        ),
        Form("ctm", ".ctm", "Word times for scoring", _plain(ctm.write), _same_words(ctm.read), ctm.read),
        Form("rttm", ".rttm", "Who speaks when", _plain(rttm.write), _same_passages),
        Form(
            "ttml",
            ".ttml",
            "TTML captions (IMSC 1.1 text)",
            _plain(ttml.write),
            _reads(ttml.read_cues),
            ttml.read,
            True,
        ),
        Form("dfxp", ".dfxp", "TTML captions", None, _never, ttml.read, True),
        Form("stl", ".stl", "EBU STL captions", None, _never, ttml.read, True),
        Form("scc", ".scc", "SCC captions", None, _never, ttml.read, True),
        Form("lrc", ".lrc", "LRC, for sung words", _plain(lrc.write), _reads(lrc.read_cues), lrc.read, True),
        Form(
            "csv",
            ".csv",
            "Captions as a table",
            _plain(captiontable.write_csv),
            _reads(captiontable.read_cues),
            captiontable.read,
            True,
        ),
        Form(
            "tsv",
            ".tsv",
            "Captions as a table, tabs",
            _plain(captiontable.write_tsv),
            _reads(captiontable.read_cues),
            captiontable.read,
            True,
        ),
        Form("markdown", ".md", "Markdown", _document(textdocument.as_markdown), _holds_words),
        Form("html", ".html", "HTML", _document(textdocument.as_html), _holds_words),
        Form("docx", ".docx", "DOCX", _document(docx.as_docx), _holds_words),
        Form("odt", ".odt", "ODT", _document(odt.as_odt), _holds_words),
    )
}


def form_of(path: Path, *, reading: bool) -> Form:
    """The form of a file by its suffix.

    Raises
    ------
    FormatError
        If there is none that is read (or written).
    """
    form = FORMS.get(path.suffix.lower())
    if form is None or (form.read if reading else form.write) is None:
        known = [one.suffix for one in FORMS.values() if (one.read if reading else one.write)]
        act = "read" if reading else "written"
        raise FormatError(f"“{path}” cannot be {act}. Known suffixes: {', '.join(known)} and .dubrel.")
    return form


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
    form = form_of(path, reading=True)
    assert form.read is not None
    with nothing_collected():
        return form.read(path, names) if form.captions else form.read(path)


def written(
    project: Project, suffix: str, options: Options | None = None, style: HouseStyle = DEFAULT_STYLE
) -> str:
    """The text of a deliverable; captions are set first where there are none.

    Raises
    ------
    FormatError
        If the suffix is unknown, or there is nothing to write.
    """
    data = _written(project, Path(f"x{suffix}"), options or {}, style)[1]
    return data if isinstance(data, str) else data.decode("utf-8", "replace")


def _written(
    project: Project, path: Path, options: Options, style: HouseStyle
) -> tuple[Project, str | bytes]:
    form = form_of(path, reading=False)
    for name, value in options.items():
        if value not in form.options.get(name, ()):
            raise FormatError(f"{form.name}: the option “{name}” cannot be “{value}”.")
    if not project.transcript.word_count:
        raise FormatError(f"“{project.title}” has no words yet. Transcribe the recording first.")
    if form.captions and project.captions is None:
        project = set_again(project, style)
    assert form.write is not None
    return project, form.write(project, options)


def write_checked(
    project: Project, path: Path, options: Options | None = None, style: HouseStyle = DEFAULT_STYLE
) -> None:
    """Write a deliverable beside its place, read it back and compare; only then does it replace what was there.

    Raises
    ------
    FormatError
        If what stands in the file is not what was meant.
    DubrelError
        If it cannot be written.
    """
    options = options or {}
    project, text = _written(project, path, options, style)
    data = text.encode("utf-8") if isinstance(text, str) else text

    def verify(temporary: Path) -> None:
        if temporary.read_bytes() != data:
            raise FormatError(
                f"“{path}” does not hold what was written. Check the disk and release it again."
            )
        with tempfile.TemporaryDirectory(prefix="dubrel-read-back-") as apart:  # readers go by the suffix
            readable = Path(apart) / f"file{path.suffix.lower()}"
            readable.write_bytes(data)
            if not form_of(path, reading=False).verify(project, readable, options):
                raise FormatError(f"“{path}” does not read back as it was written. Please report this file.")

    write_atomically(path, lambda file: file.write(data), verify)
