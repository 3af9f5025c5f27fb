"""The web page: one file, no outside request, with a player, text that follows, search and chapters."""

from __future__ import annotations

import base64
import hashlib
import json
import re
from collections.abc import Collection
from html import escape, unescape
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.languages import language_name
from dubrel.base.text import gap_lengths, is_rtl, reads_rtl
from dubrel.base.timecode import format_clock, format_length
from dubrel.captions.motion import coming
from dubrel.edits.speakers.voices import shown_name
from dubrel.edits.translation.track import translated_tracks
from dubrel.edits.words.masking import masked
from dubrel.formats.shared.agreement import said, utf8
from dubrel.formats.shared.form import AROUND, Form
from dubrel.formats.texts.chapters import chapters_of
from dubrel.model import Caption, Motion, Project, Word, line_starts
from dubrel.project.captiontext import CaptionText, look_of, pieces_of, shown_captions, word_times
from dubrel.release.source import Source

_ASSETS = Path(__file__).parent.parent / "assets" / "page"
_MOST_INSIDE = 48 << 20
_KINDS = {
    ".mp4": "video/mp4",
    ".m4v": "video/mp4",
    ".webm": "video/webm",
    ".mkv": "video/x-matroska",
    ".mov": "video/quicktime",
    ".mp3": "audio/mpeg",
    ".m4a": "audio/mp4",
    ".ogg": "audio/ogg",
    ".opus": "audio/ogg",
    ".wav": "audio/wav",
    ".flac": "audio/flac",
}


_POLICY = (
    "default-src 'none'; script-src 'sha256-{script}'; style-src 'sha256-{style}';"
    " media-src 'self' file: data: blob:; base-uri 'none'; form-action 'none'"
)
"""What a page may do: run its own script, wear its own style, play; nothing else."""


def _digest(text: str) -> str:
    return base64.b64encode(hashlib.sha256(text.encode("utf-8")).digest()).decode()


def web_page(source: Source) -> str:
    """A project as a page.

    Every word carries its time; what a person or a file says is escaped, and
    data for the script stand as JSON without any ``<``. The media stand inside
    the page (option ``media`` = ``inside``) or beside it.
    """
    project = source.project
    languages = languages_of(source)
    texts = "".join(_text(nth, tag, value) for nth, (tag, value) in enumerate(languages))
    script = (_ASSETS / "page.js").read_text(encoding="utf-8")
    style = (_ASSETS / "page.css").read_text(encoding="utf-8")
    title = escape(project.title)
    policy = _POLICY.format(script=_digest(script), style=_digest(style))
    return (
        f"<!DOCTYPE html>\n<html lang={escape(project.transcript.language, True)}><head><meta charset=utf-8>"
        f'<meta http-equiv=Content-Security-Policy content="{policy}">'
        f'<meta name=viewport content="width=device-width,initial-scale=1"><title>{title}</title>'
        f'<meta name=description content="{escape(project.subtitle or project.title, True)}">'
        f"<style>{style}</style></head>\n<body>\n<header><h1 dir=auto>{title}</h1>"
        + (f"<p dir=auto>{escape(project.subtitle)}</p>" if project.subtitle else "")
        + f"</header>\n{_player(source)}\n{_bar(languages)}\n{_chapters(project)}\n<main>{texts}</main>\n"
        '<script type="application/json"'
        f' id="captions">{_captions(languages)}</script>\n<script>{script}</script>\n</body></html>\n'
    )


def fragment(source: Source) -> str:
    """The page as a piece that is put into another page.

    A frame of its own, so that neither changes the other.
    """
    return (
        f'<iframe title="{escape(source.original.title, True)}" style="width:100%;height:40rem;border:0" '
        f'allow="autoplay" srcdoc="{escape(web_page(source), True)}"></iframe>\n'
    )


def page_in(text: str) -> str:
    """The page that stands in a piece."""
    found = re.search(r'srcdoc="([^"]*)"', text)
    return unescape(found.group(1)) if found else ""


def languages_of(source: Source) -> list[tuple[str, Project]]:
    """The languages of the page, the original first, with what is said in each."""
    from dubrel.translation.document import translated_project  # late: only with translations

    original = source.original
    made = [
        translated_project(original, track)
        for track in translated_tracks(original)
        if any(one.text for one in track.captions)
    ]
    masks = source.values.get("masks", "no")
    found = [source.project, *(masked(project, source.masked_words, masks) for project in made)]
    return [(one.transcript.language, one) for one in found]


def _player(source: Source) -> str:
    media = source.original.media
    if media is None:
        return ""
    path = Path(media.path)
    kind = _KINDS.get(path.suffix.lower(), "video/mp4" if media.has_video else "audio/mpeg")
    name, _ = played_beside(source)
    address = escape(_address(name), True)
    if not name:
        address = f"data:{kind};base64,{base64.b64encode(path.read_bytes()).decode()}"
    seen = media.has_video and source.values.get("media") != "sound"
    tag, end = ("video playsinline", "video") if seen else ("audio", "audio")
    return (
        f"<div class=player><div class=frame><{tag} id=media controls preload=metadata"
        f' src="{address}"></{end}><div id=shown aria-hidden=true></div></div><p id=away hidden>The'
        f" recording cannot be played: put “{escape(name or media.name)}” into the folder of this page, or"
        " open the page in another browser.</p></div>"
    )


def played_beside(source: Source) -> tuple[str, str]:
    """The file that a page plays beside it, and the form in which it is written; empty for none."""
    media, wanted = source.original.media, source.values.get("media", "")
    if media is None or (wanted == "inside" and not kept_outside(source)):
        return "", ""
    if wanted == "sound" and media.has_audio:
        return f"{Path(media.name).stem} (sound).mp3", "recording-sound"
    return media.name, "" if wanted == "apart" else "recording"


def kept_outside(source: Source) -> list[str]:
    """Why a recording that is wished inside the page cannot stand there."""
    media = source.original.media
    if source.values.get("media") != "inside" or media is None:
        return []
    path = Path(media.path)
    if not path.is_file():
        return [tr("the recording, which is not where it was")]
    most = _MOST_INSIDE >> 20
    return (
        [tr("a recording of more than {most} MB").format(most=most)]
        if path.stat().st_size > _MOST_INSIDE
        else []
    )


def _address(name: str) -> str:
    from urllib.parse import quote

    return quote(name)


def _bar(languages: list[tuple[str, Project]]) -> str:
    options = "".join(
        f"<option value={nth}>{escape(language_name(tag))}</option>" for nth, (tag, _) in enumerate(languages)
    )
    choice = f"<label>Language <select id=language>{options}</select></label>" if len(languages) > 1 else ""
    return (
        f"<nav aria-label=Tools>{choice}<label>Search <input id=search type=search autocomplete=off></label>"
        "<span id=found role=status></span><button id=theme type=button>Night</button></nav>"
    )


def _chapters(project: Project) -> str:
    chapters = chapters_of(project)
    if not chapters:
        return ""
    rows = "".join(
        f"<li><button type=button data-t={start}>{format_length(start)} {escape(title)}</button></li>"
        for start, _, title in chapters
    )
    return f"<nav aria-label=Chapters class=chapters><ol>{rows}</ol></nav>"


def _text(nth: int, tag: str, project: Project) -> str:
    before: str | None = None
    parts = []
    for turn in project.transcript.turns:
        words = [word for word in turn.words if not word.struck]
        if not words:
            continue
        name = shown_name(project, turn.speaker) if turn.speaker != before else ""
        before = turn.speaker
        way = " dir=rtl" if reads_rtl(turn.text, tag) else ""
        who = f"<b>{escape(name)}</b> " if name else ""
        clock = (
            f"<a href=#t={words[0].start_ms // 1000}"
            f" data-t={words[0].start_ms}>{format_clock(words[0].start_ms, digits=0)}</a>"
        )
        parts.append(f"<p{way}>{who}{clock} {_words(words, line_starts(turn.words, words))}</p>")
    hidden = " hidden" if nth else ""
    way = " dir=rtl" if is_rtl(tag) else ""
    return f"<article id=text{nth} lang={escape(tag, True)}{way}{hidden}>{''.join(parts)}</article>"


def _words(words: list[Word], lines: Collection[int]) -> str:
    gaps = gap_lengths([word.text for word in words])
    found = []
    for nth, word in enumerate(words):
        space = "<br>" if word.id in lines else " " if gaps[nth] or word.spaced else ""
        found.append(f"{space if nth else ''}<i data-t={word.start_ms}>{escape(word.text)}</i>")
    return "".join(found)


def _captions(languages: list[tuple[str, Project]]) -> str:
    tables = []
    for _, project in languages:
        rows: list[list[Any]] = []
        for one, text in shown_captions(project, project.captions):
            row = [one.start_ms, one.end_ms, "\n".join(text.lines)]
            rows.append([*row, *_moving(project, one, text)])
        tables.append(rows)
    return json.dumps(tables, ensure_ascii=False, separators=(",", ":")).replace("<", "\\u003c")


def _moving(project: Project, caption: Caption, text: CaptionText) -> list[Any]:
    """The words of a caption line by line, each with when it comes and is spoken, and how that shows."""
    track = project.captions
    motion = look_of(project, track, caption).motion if track else Motion()
    times = word_times(project, caption, text) if motion.by_words else ()
    if not times:
        return []
    comes = iter(coming(times, motion, caption.start_ms))
    words = [
        [[word, next(comes), *span] for (word, _), span in zip(pieces, spans)]
        for pieces, spans in zip(pieces_of(project, caption, text), times)
    ]
    how = [motion.colour, motion.box, motion.bold, motion.ruled, motion.larger, motion.dimmed]
    return [words, how]


def _agrees(source: Source, page: str) -> bool:
    """Every word with its time, chapters, and the captions on the picture, in every language."""
    from lxml import html  # late: only where it is read

    tree = html.document_fromstring(page)
    titles = [one.text_content().partition(" ")[2] for one in tree.xpath("//nav[@class='chapters']//button")]
    if titles != [title for _, _, title in chapters_of(source.project)]:
        return False
    [captions] = tree.xpath("//script[@id='captions']")
    for nth, (_, project) in enumerate(languages_of(source)):
        found = tree.xpath(f"//article[@id='text{nth}']//i")
        words = [(one.get("data-t"), one.text_content()) for one in found]
        if words != [(str(word.start_ms), word.text) for word in said(project)]:
            return False
        rows = json.loads(captions.text)[nth]
        table = [(start, end, lines.split("\n")) for start, end, lines, *_ in rows]
        shown = list(shown_captions(project, project.captions))
        if table != [(one.start_ms, one.end_ms, [*text.lines]) for one, text in shown]:
            return False
        moving = [["".join(word for word, *_ in line) for line in row[3]] for row in rows if len(row) > 3]
        if moving != [[*text.lines] for one, text in shown if _moving(project, one, text)]:
            return False
    return True


FORMS = (
    Form(
        id="page",
        label="Web page with player",
        suffixes=(".html",),
        group=AROUND,
        write=lambda source: web_page(source).encode("utf-8"),
        agrees=lambda source, path: _agrees(source, utf8(path)),
        loses=kept_outside,
        document=lambda source: source.document,
        each_track=False,
    ),
    Form(
        id="fragment",
        label="Web page, a piece to embed",
        suffixes=(".html",),
        group=AROUND,
        write=lambda source: fragment(source).encode("utf-8"),
        agrees=lambda source, path: _agrees(source, page_in(utf8(path))),
        loses=kept_outside,
        document=lambda source: source.document,
        each_track=False,
    ),
)
