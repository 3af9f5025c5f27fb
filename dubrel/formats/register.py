"""The forms of file that are read and written as they stand; one is an object at the end of its own file."""

from __future__ import annotations

from collections.abc import Collection
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.gc_pause import nothing_collected
from dubrel.base.plugins import Register
from dubrel.base.value import replace
from dubrel.formats.shared.common import Reading
from dubrel.formats.shared.encodings import ASSUMPTION, Assumption, known_encoding
from dubrel.formats.shared.form import Form

REGISTER = Register(
    "dubrel.forms",
    Form,
    {
        "srt": "dubrel.formats.captions.srt:FORM",
        "webvtt": "dubrel.formats.captions.webvtt:FORM",
        "ttml": "dubrel.formats.captions.ttml:FORM",
        "stl": "dubrel.formats.captions.stl:FORM",
        "scc": "dubrel.formats.captions.scc:FORM",
        "lrc": "dubrel.formats.captions.lrc:FORM",
        "captiontable": "dubrel.formats.captions.captiontable:FORMS",
        "textdocument": "dubrel.formats.texts.textdocument:FORMS",
        "docx": "dubrel.formats.texts.docx:FORM",
        "odt": "dubrel.formats.texts.odt:FORM",
        "transcriptjson": "dubrel.formats.words.transcriptjson:FORM",
        "ctm": "dubrel.formats.words.ctm:FORM",
        "rttm": "dubrel.formats.words.rttm:FORM",
        "bilingual": "dubrel.formats.texts.bilingual:FORMS",
        "tmx": "dubrel.formats.words.tmx:FORM",
        "shownotes": "dubrel.formats.texts.shownotes:FORMS",
        "chapters": "dubrel.formats.texts.chapters:FORMS",
    },
)
_found, PROBLEMS = REGISTER.load_all()
FORMS: dict[str, Form] = {}
"""The forms by id; of two with the same the first, and ours before others."""
READERS: dict[str, Form] = {}
"""How files are read, by suffix."""
for _form in _found:
    FORMS.setdefault(_form.id, _form)
for _form in FORMS.values():
    for _suffix in _form.suffixes if _form.read is not None else ():
        READERS.setdefault(_suffix, _form)
CAPTION_READERS = {suffix: form for suffix, form in READERS.items() if form.cues is not None}


def read_file(path: Path, names: Collection[str] = (), encoding: str = "") -> Reading:
    """Read a caption or transcript file by its suffix.

    Parameters
    ----------
    path : Path
    names : collection of str
        What the user says is a speaker's name where it stands before a colon in captions.
    encoding : str
        In which a text is written, as the user says; else it is found out.

    Raises
    ------
    FormatError
        If the suffix or the encoding is unknown, or the file cannot be read.
    """
    form = READERS.get(path.suffix.lower())
    if path.suffix.lower() in (".txt", ".md", ".docx", ".odt"):
        raise FormatError(
            tr(
                "“{path}” is a text without times. Open its recording and align the text with it, or "
                "type dubrel align."
            ).format(path=path)
        )
    if form is None or form.read is None:
        raise FormatError(
            tr("“{path}” cannot be read. Known suffixes: {listed} and .dubrel.").format(
                path=path, listed=", ".join(READERS)
            )
        )
    wished = known_encoding(encoding) if encoding else ""
    if encoding and not wished:
        raise FormatError(
            tr("“{encoding}” is not a known encoding. Name one as UTF-8 or windows-1250.").format(
                encoding=encoding
            )
        )
    assumption = Assumption(wished)
    token = ASSUMPTION.set(assumption)
    try:
        with nothing_collected():
            return replace(form.read(path, names), encoding=assumption.found)
    finally:
        ASSUMPTION.reset(token)
