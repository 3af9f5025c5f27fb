"""The page of a series: every episode, and one search over all that is said; no server, no request."""

from __future__ import annotations

import base64
import hashlib
import json
from collections.abc import Sequence
from html import escape
from pathlib import Path
from urllib.parse import quote

from dubrel.base.languages import language_name
from dubrel.base.text import counted
from dubrel.base.timecode import format_length
from dubrel.release.series.releasedepisode import ReleasedEpisode

_ASSETS = Path(__file__).parent.parent.parent / "assets" / "page"
_POLICY = (
    "default-src 'none'; script-src 'sha256-{script}'; style-src 'sha256-{style}';"
    " base-uri 'none'; form-action 'none'"
)


def series_page(title: str, episodes: Sequence[ReleasedEpisode]) -> str:
    """The page, whole in one file; what a person says is escaped, data stand as JSON without any ``<``."""
    script = (_ASSETS / "series.js").read_text(encoding="utf-8")
    style = (_ASSETS / "series.css").read_text(encoding="utf-8")
    policy = _POLICY.format(script=_digest(script), style=_digest(style))
    language = episodes[0].language if episodes else "en"
    length = format_length(sum(one.length_ms for one in episodes))
    rows = "".join(_row(one) for one in episodes)
    return (
        f"<!DOCTYPE html>\n<html lang={escape(language, True)}><head><meta charset=utf-8>"
        f'<meta http-equiv=Content-Security-Policy content="{policy}">'
        f'<meta name=viewport content="width=device-width,initial-scale=1"><title>{escape(title)}</title>'
        f"<style>{style}</style></head>\n<body>\n<header><h1 dir=auto>{escape(title)}</h1>"
        f"<p>{counted(len(episodes), 'episode')}, {length}</p></header>\n"
        "<search><label for=q>Find in all episodes</label><input id=q type=search autocomplete=off>"
        "<p id=many role=status></p></search>\n<ol id=found hidden></ol>\n"
        f"<main><ol id=episodes>{rows}</ol></main>\n"
        f'<script type="application/json" id="said">{_said(episodes)}</script>\n'
        f"<script>{script}</script>\n</body></html>\n"
    )


def _digest(text: str) -> str:
    return base64.b64encode(hashlib.sha256(text.encode("utf-8")).digest()).decode()


def _row(one: ReleasedEpisode) -> str:
    title = escape(one.title)
    if one.page:
        title = f'<a href="{escape(quote(one.page), True)}">{title}</a>'
    subtitle = f"<p dir=auto>{escape(one.subtitle)}</p>" if one.subtitle else ""
    files = " ".join(
        f'<a href="{escape(quote(f"{one.folder}/{name}"), True)}">{escape(_called(one, name))}</a>'
        for name in one.files
        if f"{one.folder}/{name}" != one.page
    )
    return (
        f"<li><span class=n>{one.number:02}</span><div><h2 dir=auto>{title}</h2>{subtitle}"
        f"<p class=files>{files}</p></div><span class=t>{format_length(one.length_ms)}</span></li>"
    )


def _called(one: ReleasedEpisode, name: str) -> str:
    """What a file is called: its form, and its language where it has one in its name."""
    path = Path(name)
    last = path.stem.split()[-1:]
    tags = {said.language for said in one.sentences}
    return " ".join([path.suffix[1:].upper(), *(tag for tag in last if tag in tags)])


def _said(episodes: Sequence[ReleasedEpisode]) -> str:
    """What the search looks through."""
    names = sorted({said.who for one in episodes for said in one.sentences})
    languages = sorted({said.language for one in episodes for said in one.sentences})
    data = {
        "episodes": [{"n": one.number, "title": one.title, "page": quote(one.page)} for one in episodes],
        "names": names,
        "languages": [language_name(tag) for tag in languages],
        "tags": languages,
        "said": [
            [nth, said.start_ms // 1000, names.index(said.who), languages.index(said.language), said.text]
            for nth, one in enumerate(episodes)
            for said in one.sentences
        ],
    }
    return json.dumps(data, ensure_ascii=False, separators=(",", ":")).replace("<", "\\u003c")
