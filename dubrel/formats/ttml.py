"""TTML captions, the text profile of IMSC 1.1 (W3C): written here, read through a library with STL and SCC."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from html import escape
from pathlib import Path
from typing import Any

from dubrel.edits.captiontext import shown_captions
from dubrel.errors import FormatError
from dubrel.formats.common import Reading, cue_of, in_order, reading_of
from dubrel.formats.oddities import Oddities
from dubrel.model import Caption, Cue, Look, Project
from dubrel.timecode import format_clock

_NAMES = (
    'xmlns="http://www.w3.org/ns/ttml" xmlns:ttp="http://www.w3.org/ns/ttml#parameter" '
    'xmlns:tts="http://www.w3.org/ns/ttml#styling" xmlns:ttm="http://www.w3.org/ns/ttml#metadata"'
)
_PROFILE = "http://www.w3.org/ns/ttml/profile/imsc1.1/text"
_REGIONS = {"top": "before", "middle": "center", "bottom": "after"}
_BAD = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")


def write(project: Project) -> str:
    """The caption track as TTML: times, lines, who speaks, place (top, middle, bottom), look, language."""
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
        f'<ttm:agent xml:id="{_id(one.id)}" type="person"><ttm:name type="full">{_safe(one.name)}</ttm:name></ttm:agent>'
        for one in agents
    )
    regions = "".join(
        f'<region xml:id="{name}" tts:origin="10% 10%" tts:extent="80% 80%" tts:displayAlign="{align}" tts:textAlign="center"/>'
        for name, align in _REGIONS.items()
    )
    size = f"{look.size:g}%" if look.size else "6%"
    style = (
        f'<style xml:id="s" tts:fontFamily="proportionalSansSerif" tts:color="{look.colour}" tts:fontSize="100%" '
        f'tts:backgroundColor="{look.ground}{round(look.opacity * 255):02X}"/>'
    )
    by_name = {one.name: _id(one.id) for one in agents}
    body = "\n".join(_paragraph(caption, text, by_name) for caption, text in shown_captions(project, track))
    return (
        f'<?xml version="1.0" encoding="UTF-8"?>\n<tt {_NAMES} ttp:profile="{_PROFILE}" ttp:timeBase="media" '
        f'ttp:cellResolution="32 15" xml:lang="{escape(language, True)}"{frames}>\n<head><metadata><ttm:title>{_safe(project.title)}</ttm:title>'
        f"{head}<!-- letters {size} of the picture --></metadata><styling>{style}</styling><layout>{regions}</layout></head>\n"
        f'<body style="s"><div>\n{body}\n</div></body>\n</tt>\n'
    )


def _id(speaker: str) -> str:
    return "p" + re.sub(r"\W", "_", speaker)


def _paragraph(caption: Caption, text: Any, agents: dict[str, str]) -> str:
    start, end = (format_clock(ms) for ms in (caption.start_ms, caption.end_ms))
    lines = []
    for nth, line in enumerate(text.lines):
        pieces = text.pieces[nth] if text.pieces else ((line, ""),)
        lines.append("".join(_piece(part, style) for part, style in pieces))
    region = level_of(caption.place)
    speaker = agents.get(text.speakers[0]) if text.speakers else None
    who = f' ttm:agent="{speaker}"' if speaker else ""
    way = ' tts:direction="rtl" tts:unicodeBidi="embed"' if text.rtl else ""
    return f'<p begin="{start}" end="{end}" region="{region}"{who}{way}>{"<br/>".join(lines)}</p>'


def level_of(place: str) -> str:
    """Top, middle or bottom, by the cue settings of WebVTT."""
    found = re.search(r"\bline:(-?\d+(?:\.\d+)?)(%?)", place)
    if not found:
        return "bottom"
    value = float(found.group(1))
    share = value if found.group(2) else (value * 6 if value >= 0 else 100 + value * 6)
    return "top" if share < 35 else "middle" if share < 65 else "bottom"


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


# -- reading: TTML, STL and SCC ----------------------------------------------------------------


def read(path: Path, names: Collection[str] = ()) -> Reading:
    """Read TTML or IMSC captions, EBU STL, or SCC.

    Raises
    ------
    FormatError
        If the file cannot be read, or has no caption.
    """
    cues, said, language = _cues(path)
    return reading_of(path, cues, said, names, language)


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The cues of a file, and what is odd."""
    cues, said, _ = _cues(path)
    return cues, said


def _cues(path: Path) -> tuple[list[Cue], list[str], str]:
    model = _model(path)
    odd = Oddities()
    found = [cue for cue in _walk(model, odd) if cue is not None]
    language = (model.get_lang() or "") if model is not None else ""
    return in_order(found, odd), odd.sentences(), language[:40]


def _model(path: Path) -> Any:
    import logging
    import xml.etree.ElementTree as et

    logging.getLogger("ttconv").setLevel(logging.CRITICAL)
    suffix = path.suffix.lower()
    try:
        if path.stat().st_size > 32 << 20:
            raise FormatError(f"“{path.name}” is larger than any caption file. Choose another file.")
        if suffix == ".stl":
            from ttconv.stl import reader as stl

            with path.open("rb") as file:
                return stl.to_model(file)
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
            f"“{path.name}” is no readable caption file: {type(error).__name__}. Export it again."
        ) from error


def _walk(model: Any, odd: Oddities) -> Iterator[Cue | None]:
    """Each time at which something is shown, with its lines."""
    from ttconv.isd import ISD

    times = ISD.significant_times(model) if model is not None else []
    if not times:
        return
    shown: list[tuple[int, tuple[str, ...]]] = []
    for offset in times:
        isd = ISD.from_model(model, offset)
        lines = tuple(line for region in isd.iter_regions() for line in _lines(region)) if isd else ()
        shown.append((round(offset * 1000), lines))
    for nth, ((start, lines), (end, _)) in enumerate(zip(shown, [*shown[1:], (shown[-1][0] + 2000, ())])):
        if lines and end > start:
            yield cue_of((start, end), list(lines), nth + 1, odd)


def _lines(region: Any) -> list[str]:
    from ttconv import model as m

    lines = [""]

    def walk(element: Any) -> None:
        if isinstance(element, m.Br):
            lines.append("")
        elif isinstance(element, m.Text):
            lines[-1] += element.get_text()
        else:
            if isinstance(element, m.P) and lines[-1]:
                lines.append("")
            for child in element:
                walk(child)

    walk(region)
    return [" ".join(line.split()) for line in lines if line.strip()]
