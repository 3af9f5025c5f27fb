"""Captions follow the speakers: one who begins to speak begins a caption, or a line with a dash."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from dubrel.base.timecode import snap_to_frame
from dubrel.base.value import replace
from dubrel.captions.setting.drafts import Draft, draft_of, two_people
from dubrel.model import Caption, CaptionTrack, Project, Turn, Word
from dubrel.project.index import (
    captions_of,
    exchanged,
    place_in,
    track_index,
    translations_of,
    turn_of,
    turn_place,
    words_with,
)
from dubrel.project.tracks import with_captions, with_sources

_LEAST_MS = 200


def speakers_followed(old: Project, new: Project) -> Project:
    """Let the captions of the turns that changed hands follow.

    A caption in which another person now begins to speak is cut there (or
    becomes one of two people, where the style has those); names go where the
    style wants them. All other captions, and the times of all, stay.

    Parameters
    ----------
    old, new : Project
        Before and after turns were given, split or moved.
    """
    _, come = exchanged(old.transcript.turns, new.transcript.turns)
    places = {place for turn in come for place in _with_next(new, turn)}
    turns = [new.transcript.turns[place] for place in sorted(places)]
    for track in new.tracks:
        if turns and track.spoken and track.captions:
            new = _track_followed(new, track, turns)
    return new


def _with_next(project: Project, turn: Turn) -> range:
    """The place of a turn, and of the one after it: whether that begins with a name may be another."""
    place = turn_place(project, turn.id)
    return range(place, min(place + 2, len(project.transcript.turns)))


def _track_followed(project: Project, track: CaptionTrack, turns: Sequence[Turn]) -> Project:
    maker = _Maker(project, track)
    near = captions_of(project, track.id, (word.id for turn in turns for word in turn.words))
    changed: dict[int, Caption | None] = {}
    come: list[Caption] = []
    for caption in sorted(near.values(), key=lambda one: one.start_ms):
        place = place_in(track.captions, caption)
        before = track.captions[place - 1] if place else None
        first, *others = maker.follow(caption, before)
        if first is not caption:
            changed[caption.id] = first
        come += others
    project = replace(project, next_id=maker.next_id)
    made = with_captions(project, track.id, changed, come)
    return _heirs_translated(made, track.id, maker.born)


def _heirs_translated(project: Project, track_id: int, born: dict[int, int]) -> Project:
    """What translates a caption that was cut translates its parts."""
    index, words = track_index(project, track_id), list[int]()
    for part, whole in born.items():
        words += (*index.captions[part].words, *index.captions[whole].words)
        for track, one in list(translations_of(project, whole)):
            changed = {one.id: replace(one, sources=(*one.sources, part))}
            project = with_captions(project, track.id, changed)
    return with_sources(project, track_id, words) if born else project


def _dressed_as(part: Caption, whole: Caption) -> Caption:
    """A part of a caption with what a person gave the whole.

    Place, styles, hidden words, what is held, the tick.
    """
    own = set(part.words)
    styled = tuple(one for one in whole.styled if one[0] in own)
    hidden = tuple(one for one in whole.hidden if one in own)
    breaks = (
        tuple(one for one in whole.breaks if one in part.words[1:]) if "lines" in whole.held else part.breaks
    )
    return replace(
        part, breaks=breaks, place=whole.place, styled=styled, held=whole.held, hidden=hidden, done=whole.done
    )


class _Maker:
    """Makes captions of a track anew where the speakers ask for it."""

    def __init__(self, project: Project, track: CaptionTrack) -> None:
        self.project, self.style, self.language = project, track.style, track.language
        self.names = {one.id: one.name for one in project.transcript.speakers}
        self.rate = project.frame_rate
        self.gap = self.style.least_gap(self.rate)
        self.next_id = project.next_id
        self.born: dict[int, int] = {}

    def follow(self, caption: Caption, before: Caption | None) -> list[Caption]:
        """A caption as it is, or what it becomes."""
        words = words_with(self.project, caption.words)
        if caption.hidden:  # what does not show goes along with what does
            words = [replace(one, struck=True) if one.id in caption.hidden else one for one in words]
        runs = self._runs(words)
        drafts: list[Draft] = []
        last = self._owner(before.words[-1]) if before and before.words else None
        for who, run in runs:
            drafts.append(draft_of(run, self.style, self.language, who, self._name(who, last)))
            last = who
        if len(drafts) == 2 and (both := two_people(drafts[0], drafts[1], self.style)):
            drafts = [both]
        if len(drafts) <= 1:
            return [self._kept(caption, drafts[0])] if drafts else [caption]
        return self._cut(caption, drafts)

    def _owner(self, word_id: int) -> str | None:
        turn = turn_of(self.project, word_id)
        return turn.speaker if turn else None

    def _runs(self, words: Sequence[Word]) -> list[tuple[str | None, list[Word]]]:
        """Words by who says them; struck ones go with those before them. None where nothing shows."""
        shown = [word for word in words if not word.struck]
        if not shown:
            return []
        owner, owned = self._owner(shown[0].id), []
        for word in words:
            owner = owner if word.struck else self._owner(word.id)
            owned.append((owner, word))
        return [(who, [word for _, word in run]) for who, run in groupby(owned, lambda one: one[0])]

    def _name(self, who: str | None, last: str | None) -> str:
        return self.names.get(who or "", "") if self.style.shows_name(who != last) else ""

    def _kept(self, caption: Caption, draft: Draft) -> Caption:
        """The caption with other marks, and other lines only if the marks are others."""
        made = draft.caption(caption.id, caption.start_ms, caption.end_ms)
        if (made.named, made.dashed) == (caption.named, caption.dashed):
            return caption
        by_hand = "lines" in caption.held and not made.dashed
        breaks = caption.breaks if by_hand else made.breaks
        return replace(caption, breaks=breaks, named=made.named, dashed=made.dashed)

    def _cut(self, caption: Caption, drafts: Sequence[Draft]) -> list[Caption]:
        starts = self._starts(caption, drafts)
        made = []
        for place, (draft, start, following) in enumerate(zip(drafts, starts, [*starts[1:], None])):
            end = caption.end_ms
            if following is not None:
                wished = snap_to_frame(max(following - self.gap, start + _LEAST_MS), self.rate)
                end = min(wished, following)
            one = draft.caption(caption.id if place == 0 else self.next_id, start, end)
            made.append(_dressed_as(one, caption))
            if place:
                self.born[self.next_id] = caption.id
                self.next_id += 1
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
            start = snap_to_frame(min(max(draft.words[0].start_ms, earliest), latest), self.rate)
            starts.append(min(max(start, starts[-1]), caption.end_ms))  # a frame may lie past its end
        return starts
