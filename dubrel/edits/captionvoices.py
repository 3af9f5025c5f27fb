"""Captions follow the speakers: one who begins to speak begins a caption, or a line with a dash."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import groupby

from dubrel.captions.setting import Draft, draft_of, two_people
from dubrel.captions.styles import HouseStyle, style_of
from dubrel.edits.difference import difference
from dubrel.edits.follow import captions_near
from dubrel.model import Caption, Project, Turn
from dubrel.timecode import snap_to_frame

_LEAST_MS = 200


def speakers_followed(old: Project, new: Project, style: HouseStyle | None = None) -> Project:
    """Let the captions of the turns that changed hands follow.

    A caption in which another person now begins to speak is cut there (or
    becomes one of two people, where the style has those); names go where the
    style wants them. All other captions, and the times of all, stay.

    Parameters
    ----------
    old, new : Project
        Before and after turns were given, split or moved.
    style : HouseStyle, optional
        That of the captions unless another is given.
    """
    track = new.captions
    if style is None:
        style = style_of(track)
    window = difference(old.transcript.turns, new.transcript.turns)
    if track is None or not window:
        return new
    first = max(0, window.start - 1)
    turns = new.transcript.turns[first : window.new_stop + 2]
    if not turns:
        return new
    near = captions_near(track, min(one.start_ms for one in turns), max(one.end_ms for one in turns))
    maker = _Maker(new, turns, new.transcript.turns[max(0, first - 1) : first], style)
    made: list[Caption] = []
    before = track.captions[near.start - 1] if near.start else None
    for caption in track.captions[near.start : near.stop]:
        made += maker.follow(caption, made[-1] if made else before)
    old_ones = track.captions[near.start : near.stop]
    if len(made) == len(old_ones) and all(a is b for a, b in zip(made, old_ones)):
        return new
    captions = (*track.captions[: near.start], *made, *track.captions[near.stop :])
    return replace(new, captions=replace(track, captions=captions), next_id=maker.next_id)


class _Maker:
    """Makes captions of a stretch of turns anew where the speakers ask for it."""

    def __init__(
        self, project: Project, turns: Sequence[Turn], earlier: Sequence[Turn], style: HouseStyle
    ) -> None:
        self.style, self.language = style, project.transcript.language
        self.words = {word.id: word for turn in turns for word in turn.words}
        self.owners = {word.id: turn.speaker for turn in (*earlier, *turns) for word in turn.words}
        self.names = {one.id: one.name for one in project.transcript.speakers}
        self.rate: Fraction | None = project.media.frame_rate if project.media else None
        self.gap = style.gap_ms(self.rate)
        self.next_id = project.next_id

    def follow(self, caption: Caption, before: Caption | None) -> list[Caption]:
        """A caption as it is, or what it becomes."""
        if any(one not in self.words for one in caption.words):
            return [caption]
        words = [self.words[one] for one in caption.words if not self.words[one].struck]
        runs = [(who, tuple(run)) for who, run in groupby(words, lambda word: self.owners[word.id])]
        drafts: list[Draft] = []
        last = self.owners.get(before.words[-1]) if before else None
        for who, run in runs:
            drafts.append(draft_of(run, self.style, self.language, who, self._name(who, last)))
            last = who
        if len(drafts) == 2 and (both := two_people(drafts[0], drafts[1], self.style)):
            drafts = [both]
        if len(drafts) <= 1:
            return [self._kept(caption, drafts[0])] if drafts else [caption]
        return self._cut(caption, drafts)

    def _name(self, who: str | None, last: str | None) -> str:
        return self.names.get(who or "", "") if self.style.shows_name(who != last) else ""

    def _kept(self, caption: Caption, draft: Draft) -> Caption:
        """The caption with other marks, and other lines only if the marks are others."""
        made = draft.caption(caption.id, caption.start_ms, caption.end_ms)
        if (made.named, made.dashed) == (caption.named, caption.dashed):
            return caption
        return replace(caption, breaks=made.breaks, named=made.named, dashed=made.dashed)

    def _cut(self, caption: Caption, drafts: Sequence[Draft]) -> list[Caption]:
        starts = self._starts(caption, drafts)
        made = []
        for place, (draft, start, following) in enumerate(zip(drafts, starts, [*starts[1:], None])):
            end = caption.end_ms
            if following is not None:
                wished = snap_to_frame(max(following - self.gap, start + _LEAST_MS), self.rate)
                end = min(wished, following)
            made.append(draft.caption(caption.id if place == 0 else self.next_id, start, end))
            self.next_id += place > 0
        return made

    def _starts(self, caption: Caption, drafts: Sequence[Draft]) -> list[int]:
        """When each part of a caption comes: with its first word, but all within the caption's time.

        Parts are as long as can be read at all, where there is room for that.
        """
        count, span = len(drafts), caption.end_ms - caption.start_ms
        least = min(_LEAST_MS + self.gap, span // count)
        starts = [caption.start_ms]
        for place, draft in enumerate(drafts[1:], 1):
            earliest, latest = starts[-1] + least, caption.end_ms - least * (count - place)
            starts.append(snap_to_frame(min(max(draft.words[0].start_ms, earliest), latest), self.rate))
        return starts
