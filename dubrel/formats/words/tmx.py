"""Translation memories as TMX 1.4 (Localization Industry Standards Association)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import FormatError
from dubrel.base.files import cause_of
from dubrel.base.text import tidied
from dubrel.formats.shared.form import BOTH, Content, Form

_LANG = "{http://www.w3.org/XML/1998/namespace}lang"
_CODES = frozenset(["bpt", "ept", "ph", "it", "ut"])
_MOST_UNITS = 2_000_000
_MOST_SIGNS = 20_000

Unit = Mapping[str, str]
"""A sentence by language (BCP 47 tag)."""


def read_tmx(path: Path) -> tuple[list[Unit], list[str]]:
    """The units of a translation memory; of a damaged one those before the damage.

    Returns
    -------
    units : list of mapping of str to str
        What each says by language; none with less than two.
    said : list of str
        What was wrong.

    Raises
    ------
    FormatError
        If it cannot be read at all, or has no unit.
    """
    from lxml import etree  # late: opening a window does without

    found: list[Unit] = []
    said, bare = [], 0
    try:
        for unit in _units(path):
            bare += len(unit) < 2
            if len(unit) >= 2:
                found.append(unit)
            if len(found) >= _MOST_UNITS:
                more = tr("“{name}” has more than {most:,} sentences; the first were read.")
                said.append(more.format(name=path.name, most=_MOST_UNITS))
                break
    except OSError as error:
        raise FormatError(
            tr("“{name}” cannot be read: {strerror}. Check the file.").format(
                name=path.name, strerror=cause_of(error)
            )
        ) from error
    except etree.XMLSyntaxError as error:
        if not found:
            raise FormatError(
                tr("“{name}” is not a translation memory in TMX: {msg}. Export it again as TMX.").format(
                    name=path.name, msg=error.msg
                )
            ) from error
        damaged = tr("“{name}” is damaged: {sentences} before the damage were read.")
        said.append(damaged.format(name=path.name, sentences=counted(len(found), "sentence")))
    if not found:
        raise FormatError(
            tr("“{name}” has no sentence in two languages. Choose another file.").format(name=path.name)
        )
    if bare:
        said.append(
            counted(
                bare,
                "sentence in one language only was left out.",
                "sentences in one language only were left out.",
            )
        )
    return found, said


def _units(path: Path) -> Iterator[Unit]:
    """Each unit, which is let go once it is read; no entity is followed and nothing fetched."""
    from lxml import etree  # late: as above

    for _, node in etree.iterparse(
        str(path), events=("end",), tag="{*}tu", resolve_entities=False, no_network=True, load_dtd=False
    ):
        yield _unit(node)
        node.clear()
        while node.getprevious() is not None:
            del node.getparent()[0]


def _unit(node: Any) -> Unit:
    found = {}
    for variant in node.iterchildren("{*}tuv"):
        language = (variant.get(_LANG) or variant.get("lang") or "").replace("_", "-")[:40]
        segment = next(variant.iterchildren("{*}seg"), None)
        text = tidied(_text(segment))[:_MOST_SIGNS] if segment is not None else ""
        if language and text:
            found[language] = text
    return found


def _text(node: Any) -> str:
    """What a segment says, without the codes of the program that it came from."""
    parts = [node.text or ""]
    for child in node:
        name = child.tag.rsplit("}", 1)[-1] if isinstance(child.tag, str) else ""
        if name and name not in _CODES:
            parts.append(_text(child))
        parts.append(child.tail or "")
    return "".join(parts)


def write_tmx(rows: Iterable[tuple[str, str]], source: str, target: str) -> bytes:
    """Sentences and their translations as TMX.

    Parameters
    ----------
    rows : iterable of (str, str)
    source, target : str
        Languages (BCP 47 tags).
    """
    from translate.storage import tmx  # late: as above

    file = tmx.tmxfile(sourcelanguage=source, targetlanguage=target)
    for one, other in rows:
        file.addtranslation(_sound(one), source, _sound(other), target)
    return bytes(file)


def _sound(text: str) -> str:
    """A text without what XML cannot hold."""
    return "".join(
        sign
        for sign in text
        if sign in "\t\n" or (sign >= " " and not "\ud800" <= sign <= "\udfff" and sign not in "\ufffe\uffff")
    )


def _write(content: Content) -> bytes:
    rows = [(one, other) for one, other, _ in content.pairs]
    return write_tmx(rows, content.original.transcript.language, content.language)


def _agrees(content: Content, path: Path) -> bool:
    tags = (content.original.transcript.language, content.language)
    found = {tuple(tidied(unit.get(tag, "")) for tag in tags) for unit in read_tmx(path)[0]}
    return all((tidied(one), tidied(other)) in found for one, other, _ in content.pairs)


FORM = Form(
    id="tmx",
    label="Translation memory (TMX)",
    suffixes=(".tmx",),
    group=BOTH,
    write=_write,
    agrees=_agrees,
    needs="translation",
)
