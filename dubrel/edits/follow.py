"""Captions follow the wording: ids that go leave their caption, new ids join it."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Collection, Sequence
from dataclasses import replace

from dubrel.model import Caption, CaptionTrack, Turn

_SLACK_MS = 10_000


def captions_near(track: CaptionTrack, start_ms: int, end_ms: int) -> range:
    """Places of the captions that could hold words of a stretch of time."""
    captions = track.captions
    low = bisect_left(captions, start_ms - _SLACK_MS, key=lambda caption: caption.start_ms)
    high = bisect_right(captions, end_ms + _SLACK_MS, key=lambda caption: caption.start_ms)
    return range(low, high)


def follow_words(
    track: CaptionTrack | None,
    turn: Turn,
    *,
    gone: Collection[int] = (),
    added: Sequence[int] = (),
    after: int | None = None,
    before: int | None = None,
) -> CaptionTrack | None:
    """Carry a change of a turn's words into the captions.

    Parameters
    ----------
    track : CaptionTrack or None
    turn : Turn
        The turn as it was, to find its captions by time.
    gone : collection of int
        Ids that are no longer in the transcript.
    added : sequence of int
        New ids, in order; they join the caption of the word ``after`` which
        they stand, or else of the word ``before`` which they stand.

    Returns
    -------
    CaptionTrack or None
        The same object where no caption changes.
    """
    if track is None or not (gone or added):
        return track
    near = captions_near(track, turn.start_ms, turn.end_ms)
    changed = [
        _carry(caption, gone, added, after, before) for caption in track.captions[near.start : near.stop]
    ]
    kept = tuple(caption for caption in changed if caption.words)
    return replace(track, captions=(*track.captions[: near.start], *kept, *track.captions[near.stop :]))


def _carry(
    caption: Caption, gone: Collection[int], added: Sequence[int], after: int | None, before: int | None
) -> Caption:
    words = list(caption.words)
    if added and after in words:
        at = words.index(after) + 1
        words[at:at] = added
    elif added and after is None and before in words:
        at = words.index(before)
        words[at:at] = added
    words = [one for one in words if one not in gone]
    if tuple(words) == caption.words:
        return caption
    breaks = tuple(one for one in _heirs(caption, words, caption.breaks) if one != words[0])
    named, dashed = _heirs(caption, words, caption.named), _heirs(caption, words, caption.dashed)
    return replace(caption, words=tuple(words), breaks=breaks, named=named, dashed=dashed)


def _heirs(caption: Caption, words: list[int], marks: tuple[int, ...]) -> tuple[int, ...]:
    """Keep each mark; where its word went, the next one that stayed takes it."""
    present, found = set(words), []
    for mark in marks:
        place = caption.words.index(mark)
        heir = next((one for one in caption.words[place:] if one in present), None)
        if heir is not None and heir not in found:
            found.append(heir)
    return tuple(found)
