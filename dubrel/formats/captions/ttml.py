"""TTML captions, the text profile of IMSC 1.1 (W3C): written here, written and read."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from html import escape
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.base.value import replace
from dubrel.captions.motion import coming
from dubrel.edits.translation.track import begin_track
from dubrel.formats.captions.cuestyle import dressed
from dubrel.formats.captions.ttmlread import document_in
from dubrel.formats.shared.common import Reading, in_order, reading_of
from dubrel.formats.shared.form import caption_form
from dubrel.formats.shared.inline import key_of_settings
from dubrel.formats.shared.losses import Cannot, all_but
from dubrel.formats.shared.oddities import Oddities
from dubrel.model import Caption, Cue, Look, Motion, Project
from dubrel.project.captiontext import CaptionText, look_of, pieces_of, shown_captions, word_times

_NAMES = (
    'xmlns="http://www.w3.org/ns/ttml" xmlns:ttp="http://www.w3.org/ns/ttml#parameter" '
    'xmlns:tts="http://www.w3.org/ns/ttml#styling" xmlns:ttm="http://www.w3.org/ns/ttml#metadata"'
)
_PROFILE = "http://www.w3.org/ns/ttml/profile/imsc1.1/text"
_ROWS, _COLUMNS = ("after", "center", "before"), ("left", "center", "right")  # as on a number pad
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
        f' tts:fontSize="100%"/><style xml:id="box" tts:backgroundColor="{look.ground}{alpha:02X}"/>'
    )
    by_name = {one.name: _id(one.id) for one in agents}
    body = "\n".join(
        _paragraph(caption, text, by_name, _begins(project, caption, text))
        for caption, text in shown_captions(project, track)
    )
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
        f'tts:displayAlign="{_ROWS[row]}" tts:textAlign="{_COLUMNS[column]}"/>'
    )


def _begins(project: Project, caption: Caption, text: CaptionText) -> list[list[tuple[str, str, int]]]:
    """For each line its words with their styles, and how many milliseconds into the caption each comes.

    Nothing where all come at once.
    """
    track = project.captions
    motion = look_of(project, track, caption).motion if track else Motion()
    times = word_times(project, caption, text) if motion.words != "all" else ()
    if not times:
        return []
    comes = iter(coming(times, motion, caption.start_ms))
    return [
        [(word, style, next(comes) - caption.start_ms) for word, style in pieces]
        for pieces in pieces_of(project, caption, text)
    ]


def _paragraph(
    caption: Caption, text: CaptionText, agents: dict[str, str], begins: list[list[tuple[str, str, int]]]
) -> str:
    start, end = (format_clock(ms) for ms in (caption.start_ms, caption.end_ms))
    several = len(set(text.speakers)) > 1
    lines = []
    for nth, line in enumerate(text.lines):
        pieces = text.pieces[nth] if text.pieces else ((line, ""),)
        said = "".join(_piece(part, style) for part, style in pieces)
        if begins:
            said = "".join(_piece(part, style, ms) for part, style, ms in begins[nth])
        agent = agents.get(text.speakers[nth]) if several else None
        lines.append(f'<span ttm:agent="{agent}">{said}</span>' if agent else said)
    speaker = agents.get(text.speakers[0]) if text.speakers and not several else None
    who = f' ttm:agent="{speaker}"' if speaker else ""
    way = ' tts:direction="rtl" tts:unicodeBidi="embed"' if text.rtl else ""
    region = f"place{key_of_settings(caption.place)}"
    said = f'<span style="box">{"<br/>".join(lines)}</span>'
    return f'<p begin="{start}" end="{end}" region="{region}"{who}{way}>{said}</p>'


def _piece(text: str, style: str, begin_ms: int = 0) -> str:
    looks = {
        "i": 'tts:fontStyle="italic"',
        "b": 'tts:fontWeight="bold"',
        "u": 'tts:textDecoration="underline"',
    }
    made = " ".join(looks[one] for one in style if one in looks)
    if begin_ms:
        made = f'begin="{begin_ms / 1000:.3f}s" {made}'.rstrip()
    return f"<span {made}>{_safe(text)}</span>" if made else _safe(text)


def _safe(text: str) -> str:
    return escape(_BAD.sub("�", text), quote=False)


# -- reading -------------------------------------------------------------------------------


def read(path: Path, names: Collection[str] = ()) -> Reading:
    """Read TTML or IMSC captions.

    Raises
    ------
    FormatError
        If the file cannot be read, or has no caption.
    """
    odd = Oddities()
    found = document_in(path, odd)
    original, *others = found.languages or [found.language]
    cues, looks = in_order(found.cues(odd, original), odd), found.looks(odd)
    translations = [(language, found.cues(odd, language)) for language in others]
    reading = reading_of(path, cues, odd.sentences(), names, original[:40])
    project = dressed(reading.project, looks)
    for language, said in translations:
        project = _with_translation(project, language, said)
    return replace(reading, project=project)


def _with_translation(project: Project, language: str, cues: Sequence[Cue]) -> Project:
    from dubrel.edits.translation.pairing import pair_cues  # late: arrays

    project, track_id = begin_track(project, language[:40])
    return pair_cues(project, track_id, cues).project


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The cues of a file in its first language, and what is odd."""
    odd = Oddities()
    found = document_in(path, odd)
    original, *others = found.languages or [found.language]
    for language in others:
        odd.left_out(tr("captions in another language"), len(found.cues(odd, language)))
    return in_order(found.cues(odd, original), odd), odd.sentences()


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
