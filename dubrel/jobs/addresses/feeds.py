"""Feeds (RSS 2.0, Atom): their episodes with the addresses of their recordings."""

from __future__ import annotations

import re
from email.utils import parsedate_to_datetime
from typing import Any
from urllib.parse import urljoin

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.value import Value

_MOST = 5000
_TITLE = 200
_ATOM = "{http://www.w3.org/2005/Atom}"


class FeedEpisode(Value):
    """An episode of a feed.

    Attributes
    ----------
    title, address : str
    date : str
        As ``2026-01-31``; empty where it is not said.
    size : int
        Bytes as the feed says; 0 where it does not.
    """

    title: str
    address: str
    date: str = ""
    size: int = 0


def is_feed(head: bytes) -> bool:
    """Whether a file begins as a feed does."""
    return bool(re.search(rb"<(rss|feed|rdf:RDF)[\s>]", head[:4096]))


def episodes_in(data: bytes, address: str) -> tuple[FeedEpisode, ...]:
    """The episodes of a feed, the newest first as it has them.

    Raises
    ------
    MediaError
        If it cannot be read, or has no recording.
    """
    from lxml import etree

    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, recover=True)
    root = etree.fromstring(data, parser)
    if root is None:
        raise MediaError(tr("The feed cannot be read. Give the address of the recording itself."))
    rows = [*root.iter("item"), *root.iter(f"{_ATOM}entry")][:_MOST]
    found = [one for row in rows if (one := _episode(row, address))]
    if not found:
        raise MediaError(tr("The feed has no recordings. Give the address of the recording itself."))
    return tuple(found)


def _episode(row: Any, address: str) -> FeedEpisode | None:
    enclosure = row.find("enclosure")
    if enclosure is None:
        links = row.findall(f"{_ATOM}link")
        enclosure = next((one for one in links if one.get("rel") == "enclosure"), None)
    where = (enclosure.get("url") or enclosure.get("href") or "").strip() if enclosure is not None else ""
    if not where:
        return None
    title = " ".join((row.findtext("title") or row.findtext(f"{_ATOM}title") or "").split())
    size = enclosure.get("length", "")
    said = row.findtext("pubDate") or row.findtext(f"{_ATOM}published") or ""
    return FeedEpisode(
        title[:_TITLE] or "Without a title",
        urljoin(address, where),
        _date(said.strip()),
        int(size) if size.isascii() and size.isdigit() and len(size) < 15 else 0,
    )


def _date(text: str) -> str:
    if re.match(r"\d{4}-\d{2}-\d{2}", text):
        return text[:10]
    try:
        return parsedate_to_datetime(text).date().isoformat()
    except (ValueError, TypeError, IndexError, OverflowError):
        return ""
