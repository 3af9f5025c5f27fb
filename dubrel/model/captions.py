"""Captions and caption tracks."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Caption:
    """A run of words shown together.

    A caption of the spoken language holds word ids and no text of its own, so
    that wording and captions cannot drift apart.

    Attributes
    ----------
    id : int
        Stable for the life of the project.
    start_ms, end_ms : int
        In time and out time on screen.
    words : tuple of int
        Ids of its words, in order.
    breaks : tuple of int
        Ids of the words that begin a new line (never the first word).
    named : tuple of int
        Ids of the words before which the speaker's name stands.
    dashed : tuple of int
        Ids of the words before which a dash stands: another person speaks.
    """

    id: int
    start_ms: int
    end_ms: int
    words: tuple[int, ...]
    breaks: tuple[int, ...] = ()
    named: tuple[int, ...] = ()
    dashed: tuple[int, ...] = ()


@dataclass(frozen=True)
class CaptionTrack:
    """Captions in one language by one house style, in order of time."""

    language: str
    style: str
    captions: tuple[Caption, ...] = ()
