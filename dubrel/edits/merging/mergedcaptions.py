"""The captions of two people as one track; all three tracks are of the same words by now."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.catalogue import Message
from dubrel.base.value import replace
from dubrel.edits.merging.threeway import Choosing, Passage, Question, changed, passages
from dubrel.model import HOLDS, Caption, CaptionTrack, Project
from dubrel.project.captiontext import text_of

Three = tuple[Project, Project, Project]
_WORDS = ("words", "breaks", "named", "dashed", "hidden", "styled")
_TEXT, _TIMES = ("text", "of", "said", "sources"), ("start_ms", "end_ms")
_PARTS = {
    Message("the words"): _WORDS,
    Message("the text"): _TEXT,
    Message("the times"): _TIMES,
    Message("the place"): ("place",),
    "": ("done",),
}


def merged_tracks(three: Three, choosing: Choosing) -> tuple[CaptionTrack, ...]:
    """The tracks of both."""
    tracks = [{one.id: one for one in project.tracks} for project in three]
    found = list[CaptionTrack]()
    for key in dict.fromkeys((*tracks[1], *tracks[2])):
        was, one, other = (some.get(key) for some in tracks)
        if one is None or other is None:
            there = one or other
            assert there is not None
            if was is None or there != was:  # what one removed and the other worked on stays
                found.append(there)
        else:
            found.append(_merged(was or replace(one, captions=()), one, other, three, choosing))
    return tuple(found)


def _merged(
    was: CaptionTrack, one: CaptionTrack, other: CaptionTrack, three: Three, choosing: Choosing
) -> CaptionTrack:
    tracks = (was, one, other)
    names = [track.style.name for track in tracks]
    style = choosing.decide(
        [track.style for track in tracks],
        f"style {one.id}",
        Message("the house style of the captions"),
        names,
    )
    look = choosing.decide(
        [track.look for track in tracks],
        f"look {one.id}",
        Message("the look of the captions"),
        _looks_of(tracks),
    )
    looks = changed([track.looks for track in tracks])
    language = changed([track.language for track in tracks])
    captions = list[Caption]()
    for part in passages(was.captions, one.captions, other.captions, lambda c: c.id, Caption.__eq__):
        captions += _captions(part, tracks, three, choosing)
    return replace(one, style=style, look=look, looks=looks, language=language, captions=tuple(captions))


def _captions(
    part: Passage[Caption],
    tracks: tuple[CaptionTrack, CaptionTrack, CaptionTrack],
    three: Three,
    choosing: Choosing,
) -> Sequence[Caption]:
    if not part.by_b:
        return part.a
    if not part.by_a or part.a == part.b:
        return part.b
    before = tracks[0].captions[part.first : part.stop]
    ids = [[one.id for one in some] for some in (before, part.a, part.b)]
    if ids[0] == ids[1] == ids[2]:
        return [_caption(*trio, tracks, three, choosing) for trio in zip(before, part.a, part.b)]
    around = (*before, *part.a, *part.b)
    first = before[0].id if before else -part.first
    texts = tuple(
        " / ".join(_shown(project, track, one) for one in some)
        for project, track, some in zip(three, tracks, (before, part.a, part.b))
    )
    span = min(one.start_ms for one in around), max(one.end_ms for one in around)
    question = Question(f"captions {tracks[1].id} {first}", Message("the captions"), texts, *span)
    return part.a if choosing.side(question) == "a" else part.b


def _caption(
    was: Caption,
    one: Caption,
    other: Caption,
    tracks: tuple[CaptionTrack, CaptionTrack, CaptionTrack],
    three: Three,
    choosing: Choosing,
) -> Caption:
    """A caption that both changed: each part of it as whoever changed that has it."""
    made, trio, span = one, (was, one, other), (was.start_ms, was.end_ms)
    for what, names in _PARTS.items():
        values = [tuple(getattr(caption, name) for name in names) for caption in trio]
        texts = [_told(*row, what) for row in zip(three, tracks, trio)]
        key = f"{what} of caption {one.id}"
        chosen = (
            choosing.decide(values, key, f"{what} of a caption", texts, span) if what else changed(values)
        )
        made = replace(made, **dict(zip(names, chosen)))
    held = tuple(name for name in HOLDS if changed([name in caption.held for caption in trio]))
    return replace(made, held=held, end_ms=max(made.start_ms, made.end_ms))


def _told(project: Project, track: CaptionTrack, one: Caption, what: str) -> str:
    if what == "the times":
        return f"{one.start_ms / 1000:.3f}–{one.end_ms / 1000:.3f} s"
    return one.place or "usual" if what == "the place" else _shown(project, track, one)


def _shown(project: Project, track: CaptionTrack, one: Caption) -> str:
    return " | ".join(text_of(project, track, one).lines)


def _looks_of(tracks: Sequence[CaptionTrack]) -> list[str]:
    return [f"{track.look.font} {track.look.size:g}, {track.look.colour}" for track in tracks]
