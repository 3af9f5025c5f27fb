"""The feed of a series: RSS 2.0 with transcripts and chapters as the open podcast forms name them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from email.utils import format_datetime
from pathlib import Path
from urllib.parse import quote
from uuid import NAMESPACE_URL, uuid5

from lxml import etree

from dubrel.base.jsontext import parse_json
from dubrel.base.timecode import format_clock
from dubrel.release.series.releasedepisode import ReleasedEpisode

_PODCAST = "https://podcastindex.org/namespace/1.0"
_ITUNES = "http://www.itunes.com/dtds/podcast-1.0.dtd"
_ATOM = "http://www.w3.org/2005/Atom"
_SOUND = {
    ".mp3": "audio/mpeg",
    ".m4a": "audio/mp4",
    ".opus": "audio/ogg",
    ".ogg": "audio/ogg",
    ".flac": "audio/flac",
    ".wav": "audio/wav",
    ".mp4": "video/mp4",
}
_TRANSCRIPTS = {
    ".vtt": "text/vtt",
    ".srt": "application/x-subrip",
    ".html": "text/html",
    ".txt": "text/plain",
}


def series_feed(title: str, episodes: Sequence[ReleasedEpisode], folder: Path, address: str = "") -> bytes:
    """The feed as XML.

    Parameters
    ----------
    folder : Path
        Where what was released is.
    address : str
        Where that folder is published; without it paths stand as they are from the feed.
    """
    names = {"podcast": _PODCAST, "itunes": _ITUNES, "atom": _ATOM}
    root = etree.Element("rss", version="2.0", nsmap=names)
    channel = etree.SubElement(root, "channel")
    _text(channel, "title", title)
    _text(channel, "link", _at("index.html", address))
    _text(channel, "description", title)
    if episodes:
        _text(channel, "language", episodes[0].language)
    if address:
        _atom_link(channel, _at("feed.xml", address))
    for one in reversed(episodes):
        _item(channel, one, title, folder, address)
    return etree.tostring(root, xml_declaration=True, encoding="utf-8", pretty_print=True)


def _atom_link(channel: etree._Element, address: str) -> None:
    etree.SubElement(channel, f"{{{_ATOM}}}link", href=address, rel="self", type="application/rss+xml")


def _item(channel: etree._Element, one: ReleasedEpisode, series: str, folder: Path, address: str) -> None:
    item = etree.SubElement(channel, "item")
    _text(item, "title", one.title)
    _text(item, "description", one.subtitle or one.title)
    mark = uuid5(NAMESPACE_URL, f"{series}/{one.name}")  # the same however often it is released
    _text(item, "guid", str(mark)).set("isPermaLink", "false")
    _text(item, "pubDate", format_datetime(_moment(one.first)))
    if one.page:
        _text(item, "link", _at(one.page, address))
    _text(item, f"{{{_ITUNES}}}duration", format_clock(one.length_ms, digits=0))
    _text(item, f"{{{_ITUNES}}}episode", str(one.number))
    sound = one.file(*_SOUND)
    if sound:
        size = (folder / sound).stat().st_size
        kind = _SOUND[Path(sound).suffix.lower()]
        etree.SubElement(item, "enclosure", url=_at(sound, address), length=str(size), type=kind)
    for name in one.files:
        _transcript(item, one, name, address)
    chapters = next((name for name in one.files if _are_chapters(folder / one.folder / name)), "")
    if chapters:
        url = _at(f"{one.folder}/{chapters}", address)
        etree.SubElement(item, f"{{{_PODCAST}}}chapters", url=url, type="application/json+chapters")


def _are_chapters(path: Path) -> bool:
    """Whether a file holds chapters as JSON."""
    if path.suffix.lower() != ".json":
        return False
    try:
        value = parse_json(path.read_bytes())
    except (OSError, ValueError):
        return False
    return isinstance(value, dict) and isinstance(value.get("chapters"), list)


def _transcript(item: etree._Element, one: ReleasedEpisode, name: str, address: str) -> None:
    suffix = Path(name).suffix.lower()
    if suffix not in _TRANSCRIPTS or "chapters" in name.lower():
        return
    url = _at(f"{one.folder}/{name}", address)
    made = etree.SubElement(item, f"{{{_PODCAST}}}transcript", url=url, type=_TRANSCRIPTS[suffix])
    words = Path(name).stem.split()
    if words and words[-1] in {said.language for said in one.sentences}:
        made.set("language", words[-1])
    if suffix in (".vtt", ".srt"):
        made.set("rel", "captions")


def _text(parent: etree._Element, name: str, text: str) -> etree._Element:
    made = etree.SubElement(parent, name)
    made.text = "".join(sign for sign in text if sign >= " " or sign in "\t\n")
    return made


def _at(path: str, address: str) -> str:
    return f"{address.rstrip('/')}/{quote(path)}" if address else quote(path)


def _moment(at: str) -> datetime:
    try:
        return datetime.strptime(at, "%Y-%m-%dT%H:%M:%SZ").replace(tzinfo=UTC)
    except ValueError:
        return datetime.fromtimestamp(0, UTC)
