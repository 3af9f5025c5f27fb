"""TTML captions, the text profile of IMSC 1.1 (W3C): written here, read through a library with SCC."""

from __future__ import annotations

import re
from collections.abc import Collection
from dataclasses import replace
from html import escape
from pathlib import Path
from typing import Any

from dubrel.base.errors import FormatError
from dubrel.base.timecode import format_clock
from dubrel.formats.captions.cuestyle import dressed
from dubrel.formats.captions.ttmlmodel import COLUMNS, ROWS, cues_of_model, look_of_model
from dubrel.formats.shared.common import Reading, in_order, reading_of
from dubrel.formats.shared.form import caption_form
from dubrel.formats.shared.inline import key_of_settings
from dubrel.formats.shared.losses import Cannot, all_but
from dubrel.formats.shared.oddities import Oddities
from dubrel.model import Caption, Cue, Look, Project
from dubrel.project.captiontext import shown_captions

_NAMES = (
    'xmlns="http://www.w3.org/ns/ttml" xmlns:ttp="http://www.w3.org/ns/ttml#parameter" '
    'xmlns:tts="http://www.w3.org/ns/ttml#styling" xmlns:ttm="http://www.w3.org/ns/ttml#metadata"'
)
_PROFILE = "http://www.w3.org/ns/ttml/profile/imsc1.1/text"
_XML_ID = "{http://www.w3.org/XML/1998/namespace}id"
_BAD = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")


def write(project: Project) -> str:
    """The caption track as TTML: times, lines, who speaks, place (one of nine), look, language."""
    track = project.captions
    look = track.look if track else Look()
    language = track.language if track else project.transcript.language
    rate = project.frame_rate
    frames = ""
    if rate is not None:
        nominal = round(rate)
        part = rate / nominal
        frames = f' ttp:frameRate="{nominal}" ttp:frameRateMultiplier="{part.numerator} {part.denominator}"'
    agents = [one for one in project.transcript.speakers if one.name]
    head = "".join(
        f'<ttm:agent xml:id="{_id(one.id)}" type="person"><ttm:name'
        f' type="full">{_safe(one.name)}</ttm:name></ttm:agent>'
        for one in agents
    )
    keys = {2, *(key_of_settings(one.place) for one in track.captions if one.place)} if track else {2}
    regions = "".join(map(_region, sorted(keys)))
    size = f"{look.size:g}%" if look.size else "6%"
    alpha = 0 if look.box == "none" else round(look.opacity * 255)
    style = (
        f'<style xml:id="s" tts:fontFamily="proportionalSansSerif" tts:color="{look.colour}"'
        f' tts:fontSize="100%" tts:backgroundColor="{look.ground}{alpha:02X}"/>'
    )
    by_name = {one.name: _id(one.id) for one in agents}
    body = "\n".join(_paragraph(caption, text, by_name) for caption, text in shown_captions(project, track))
    return (
        f'<?xml version="1.0" encoding="UTF-8"?>\n<tt {_NAMES} ttp:profile="{_PROFILE}" ttp:timeBase="media"'
        f' ttp:cellResolution="32 15" xml:lang="{escape(language, True)}"{frames}>\n'
        f"<head><metadata><ttm:title>{_safe(project.title)}</ttm:title>{head}"
        f"<!-- letters {size} of the picture --></metadata>"
        f"<styling>{style}</styling><layout>{regions}</layout></head>\n"
        f'<body style="s"><div>\n{body}\n</div></body>\n</tt>\n'
    )


def _id(speaker: str) -> str:
    return "p" + re.sub(r"\W", "_", speaker)


def _region(key: int) -> str:
    row, column = divmod(key - 1, 3)
    return (
        f'<region xml:id="place{key}" tts:origin="10% 10%" tts:extent="80% 80%" '
        f'tts:displayAlign="{ROWS[row]}" tts:textAlign="{COLUMNS[column]}"/>'
    )


def _paragraph(caption: Caption, text: Any, agents: dict[str, str]) -> str:
    start, end = (format_clock(ms) for ms in (caption.start_ms, caption.end_ms))
    several = len(set(text.speakers)) > 1
    lines = []
    for nth, line in enumerate(text.lines):
        pieces = text.pieces[nth] if text.pieces else ((line, ""),)
        said = "".join(_piece(part, style) for part, style in pieces)
        agent = agents.get(text.speakers[nth]) if several else None
        lines.append(f'<span ttm:agent="{agent}">{said}</span>' if agent else said)
    speaker = agents.get(text.speakers[0]) if text.speakers and not several else None
    who = f' ttm:agent="{speaker}"' if speaker else ""
    way = ' tts:direction="rtl" tts:unicodeBidi="embed"' if text.rtl else ""
    region = f"place{key_of_settings(caption.place)}"
    return f'<p begin="{start}" end="{end}" region="{region}"{who}{way}>{"<br/>".join(lines)}</p>'


def _piece(text: str, style: str) -> str:
    looks = {
        "i": 'tts:fontStyle="italic"',
        "b": 'tts:fontWeight="bold"',
        "u": 'tts:textDecoration="underline"',
    }
    made = " ".join(looks[one] for one in style if one in looks)
    return f"<span {made}>{_safe(text)}</span>" if made else _safe(text)


def _safe(text: str) -> str:
    return escape(_BAD.sub("�", text), quote=False)


# -- reading: TTML and SCC ----------------------------------------------------------------


def read(path: Path, names: Collection[str] = ()) -> Reading:
    """Read TTML or IMSC captions, or SCC.

    Raises
    ------
    FormatError
        If the file cannot be read, or has no caption.
    """
    cues, said, language, look = _cues(path)
    reading = reading_of(path, cues, said, names, language)
    return replace(reading, project=dressed(reading.project, {"": look} if look else {}))


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The cues of a file, and what is odd."""
    cues, said, _, _ = _cues(path)
    return cues, said


def _cues(path: Path) -> tuple[list[Cue], list[str], str, Look | None]:
    model = _model(path)
    odd = Oddities()
    sides = path.suffix.lower() != ".scc"  # there every line is set from the left, wherever it stands
    found = list(cues_of_model(model, odd, voices_of(path), sides))
    language = (model.get_lang() or "") if model is not None else ""
    return in_order(found, odd), odd.sentences(), language[:40], look_of_model(model)


def _model(path: Path) -> Any:
    import logging
    import xml.etree.ElementTree as et

    logging.getLogger("ttconv").setLevel(logging.CRITICAL)
    suffix = path.suffix.lower()
    try:
        if path.stat().st_size > 32 << 20:
            raise FormatError(f"“{path.name}” is larger than any caption file. Choose another file.")
        if suffix == ".scc":
            from ttconv.scc import reader as scc

            return scc.to_model(path.read_text(encoding="utf-8", errors="replace"))
        from lxml import etree
        from ttconv.imsc import reader as imsc

        # no entity is followed and nothing fetched
        tree = etree.parse(
            str(path), etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False)
        )
        plain = et.ElementTree(et.fromstring(etree.tostring(tree)))
        return imsc.to_model(plain)
    except FormatError:
        raise
    except OSError as error:
        raise FormatError(
            f"“{path.name}” cannot be read: {error.strerror or error}. Check the file."
        ) from error
    except Exception as error:  # whatever a library says of a damaged file
        raise FormatError(
            f"“{path.name}” is no readable caption file: {_why(error)}. Export it again."
        ) from error


def _why(error: Exception) -> str:
    """What a library found wrong, as a person would say it."""
    said = str(error).lower()
    if "entity" in said or "entities" in said or "amplification" in said:
        return "it is built of entities that call each other"
    line = getattr(error, "lineno", None) or (getattr(error, "position", None) or (0,))[0]
    if isinstance(error, SyntaxError):  # as the XML libraries have theirs
        return f"line {line} is not well-formed XML" if line else "it is not well-formed XML"
    return "its parts do not belong together"


def voices_of(path: Path) -> list[list[tuple[str, str]]]:
    """The lines of each paragraph with who says them; the library for TTML does not tell."""
    if path.suffix.lower() == ".scc":
        return []
    from lxml import etree

    root = etree.parse(str(path), etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False))
    names: dict[str, str] = {}
    for agent in root.iter("{*}agent"):
        name = " ".join("".join(one.itertext()) for one in agent.iterfind("{*}name"))
        names[agent.get(_XML_ID, "")] = " ".join(name.split())
    return [_voiced_lines(part, names) for part in root.iter("{*}p")]


def _voiced_lines(paragraph: Any, names: dict[str, str]) -> list[tuple[str, str]]:
    rows: list[tuple[str, str]] = [("", "")]

    def add(text: str | None, name: str) -> None:
        said, before = rows[-1]
        rows[-1] = (said + (text or ""), before or (name if text and text.strip() else ""))

    def walk(part: Any, name: str) -> None:
        name = names.get(_agent(part), name)
        add(part.text, name)
        for child in part:
            if isinstance(child.tag, str) and child.tag.endswith("}br"):
                rows.append(("", ""))
            elif isinstance(child.tag, str):
                walk(child, name)
            add(child.tail, name)

    walk(paragraph, "")
    return [(" ".join(said.split()), name) for said, name in rows if said.strip()]


def _agent(part: Any) -> str:
    return next((value for key, value in part.attrib.items() if str(key).endswith("}agent")), "")


FORM = caption_form(
    "ttml",
    "TTML (IMSC 1.1 text)",
    ".ttml",
    ".dfxp",
    write=write,
    read=read,
    cues=read_cues,
    cannot=Cannot("exact", look=all_but("colour", "ground", "opacity"), looks=True, together=True),
    seed=(
        b'<?xml version="1.0" encoding="UTF-8"?><tt xmlns="http://www.w3.org/ns/ttml" '
        b'xmlns:tts="http://www.w3.org/ns/ttml#styling" xml:lang="en"><body><div begin="1s">'
        b'<p begin="00:00:01.000" end="00:00:02.500">Slow<br/><span tts:fontStyle="italic">water.</span></p>'
        b'<p begin="3s" end="4s">Oak &amp; elm.</p></div></body></tt>'
    ),
)
