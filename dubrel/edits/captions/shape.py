"""What hands do to captions: split, join, move words over, break lines, hide words, insert, delete, place."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.text import graphemes, tidied, tokens
from dubrel.base.timecode import snap_to_frame
from dubrel.base.value import replace
from dubrel.captions.setting.textlines import best_text
from dubrel.model import Caption, CaptionTrack, Project, Word
from dubrel.project.captiontext import rows_of
from dubrel.project.index import (
    caption_with,
    index_of,
    place_in,
    translations_of,
    turn_place,
    word_with,
    words_with,
)
from dubrel.project.tracks import holding, with_captions, with_sources

SHORTEST_MS = 100  # what an edge that is moved always leaves of a caption


def found_in(project: Project, caption_id: int) -> tuple[CaptionTrack, Caption, int]:
    """The active track, the caption of an id in it, and its place.

    Raises
    ------
    DubrelError
        If it is not there.
    """
    track = project.captions
    caption = caption_with(project, track.id, caption_id) if track else None
    if track is None or caption is None:
        raise DubrelError(tr("That caption is gone. Choose another one."))
    return track, caption, place_in(track.captions, caption)


def neighbour(project: Project, caption_id: int, step: int) -> Caption | None:
    """The caption before (-1) or after (1) another one."""
    track, _, place = found_in(project, caption_id)
    return track.captions[place + step] if 0 <= place + step < len(track.captions) else None


def _gap(project: Project, track: CaptionTrack) -> int:
    return track.style.least_gap(project.frame_rate)


def _snapped(project: Project, ms: int) -> int:
    return snap_to_frame(ms, project.frame_rate)


def _lines(project: Project, track: CaptionTrack, caption: Caption) -> Caption:
    """A caption with the best lines for its words; as they are where the words do not fit."""
    from dubrel.captions.setting.breaking import (
        best_lines,  # late: arrays, which opening a window does without
    )

    words = [word for row in rows_of(project, replace(caption, breaks=())) for word in row]
    breaks = best_lines(words, track.rules, track.language) if words and not caption.dashed else None
    if breaks is None:
        kept = tuple(one for one in caption.breaks if one in caption.words[1:])
        return caption if kept == caption.breaks else replace(caption, breaks=kept)
    return replace(caption, breaks=tuple(words[at].id for at in breaks))


def _parted(caption: Caption, words: Sequence[int], **others: object) -> Caption:
    """A caption with some of its words, and the marks that belong to those."""
    own = set(words)
    marks = {
        name: tuple(one for one in getattr(caption, name) if one in own)
        for name in ("breaks", "named", "dashed", "hidden")
    }
    styled = tuple(pair for pair in caption.styled if pair[0] in own)
    if len(marks["dashed"]) == 1:  # one of two people has left
        marks["dashed"] = ()
    if len(marks["hidden"]) == len(own):
        marks["hidden"] = ()
    made = replace(caption, words=tuple(words), styled=styled, **marks, **others)
    return made


# -- split and join ------------------------------------------------------------------------


def split_caption(project: Project, caption_id: int, word_id: int) -> Project:
    """Begin another caption with a word.

    Raises
    ------
    DubrelError
        If the word is the first that shows, or not in the caption.
    """
    track, caption, _ = found_in(project, caption_id)
    at = caption.words.index(word_id) if word_id in caption.words else 0
    first, second = caption.words[:at], caption.words[at:]
    word = word_with(project, word_id)
    if word is None or not any(not one.struck for one in words_with(project, first)):
        raise DubrelError(tr("There is nothing before that word to split off. Choose a later one."))
    _require_room(project, track, caption)
    wished = _snapped(project, word.start_ms)
    low, high = (
        caption.start_ms + SHORTEST_MS,
        max(caption.start_ms + SHORTEST_MS, caption.end_ms - SHORTEST_MS),
    )
    start = min(max(wished, low), high)
    end = max(caption.start_ms + 1, _snapped(project, start - _gap(project, track)))
    new_id = project.next_id
    one = holding(_parted(caption, first, end_ms=min(end, start)), "break")
    other = holding(_parted(caption, second, id=new_id, start_ms=start, done=False), "break")
    return _split_into(project, track, one, other)


def _require_room(project: Project, track: CaptionTrack, caption: Caption) -> None:
    if caption.end_ms - caption.start_ms < 2 * SHORTEST_MS + _gap(project, track) + 50:
        raise DubrelError(tr("The caption is too short to be split. Lengthen it first."))


def split_text(project: Project, caption_id: int, share: float) -> Project:
    """Split a caption with a text of its own near a share of its time, at a space or a line's end.

    Raises
    ------
    DubrelError
        If its text is one word.
    """
    track, caption, _ = found_in(project, caption_id)
    places = [nth for nth, sign in enumerate(caption.text) if sign.isspace()]
    if not places:
        raise DubrelError(tr("One word cannot be split. Choose a longer caption."))
    _require_room(project, track, caption)
    at = min(places, key=lambda nth: abs(nth - share * len(caption.text)))
    middle = _snapped(project, caption.start_ms + round((caption.end_ms - caption.start_ms) * share))
    middle = min(
        max(middle, caption.start_ms + SHORTEST_MS), max(caption.start_ms + 1, caption.end_ms - SHORTEST_MS)
    )
    end = max(caption.start_ms + 1, _snapped(project, middle - _gap(project, track)))
    parted = round(len(caption.of) * at / len(caption.text))
    said = tokens(caption.said)
    one = holding(replace(caption, text=caption.text[:at].strip(), end_ms=min(end, middle)), "break")
    other = replace(
        one,
        id=project.next_id,
        text=caption.text[at:].strip(),
        start_ms=middle,
        end_ms=caption.end_ms,
        of=caption.of[parted:],
        said=" ".join(said[parted:]),
    )
    one = replace(one, of=caption.of[:parted], said=" ".join(said[:parted]))
    return _split_into(project, track, one, other)


def _split_into(project: Project, track: CaptionTrack, one: Caption, other: Caption) -> Project:
    if one.words:
        one, other = _lines(project, track, one), _lines(project, track, other)
    made = with_captions(replace(project, next_id=project.next_id + 1), track.id, {one.id: one}, [other])
    for theirs, translation in list(translations_of(project, one.id)):
        whole = replace(translation, sources=(*translation.sources, other.id))
        made = with_captions(made, theirs.id, {translation.id: whole})
    if track.translates is not None:  # each part translates what its own words do
        return with_sources(made, track.translates, (*one.of, *other.of))
    return with_sources(made, track.id, (*one.words, *other.words))


def join_caption(project: Project, caption_id: int, step: int) -> Project:
    """Join a caption with the one before (-1) or after (1).

    Raises
    ------
    DubrelError
        If there is none, or only one of both has words of the transcript.
    """
    track, caption, _ = found_in(project, caption_id)
    other = neighbour(project, caption_id, step)
    if other is None:
        raise DubrelError(tr("There is no caption there to join with. Choose another one."))
    first, second = (other, caption) if step < 0 else (caption, other)
    if bool(first.words) != bool(second.words):
        raise DubrelError(
            tr("A caption with a text of its own cannot be joined with spoken words. Move its times instead.")
        )
    whole = replace(
        first,
        end_ms=max(first.end_ms, second.end_ms),
        words=in_order(project, first.words + second.words),
        breaks=(*first.breaks, *second.words[:1], *second.breaks),
        named=(
            (*first.named, *second.named)
            if first.dashed or second.dashed or _two(first, second)
            else first.named
        ),
        dashed=(*first.dashed, *second.dashed),
        text="\n".join(one.text for one in (first, second) if one.text),
        sources=tuple(dict.fromkeys((*first.sources, *second.sources))),
        styled=(*first.styled, *second.styled),
        hidden=(*first.hidden, *second.hidden),
        place=first.place or second.place,
        done=False,
        of=(*first.of, *second.of),
        said=" ".join(filter(None, (first.said, second.said))),
    )
    if whole.of:
        whole = replace(whole, text=best_text(whole.text, track.rules, track.language))
    whole = holding(whole, "break", *second.held)
    made = with_captions(project, track.id, {first.id: _lines(project, track, whole), second.id: None})
    for theirs, translation in list(translations_of(project, second.id)):
        now = caption_with(made, theirs.id, translation.id) or translation
        sources = tuple(dict.fromkeys((*now.sources, first.id)))
        made = with_captions(made, theirs.id, {now.id: replace(now, sources=sources)})
    if track.translates is not None:
        return with_sources(made, track.translates, whole.of)
    return with_sources(made, track.id, whole.words)


def in_order(project: Project, words: Sequence[int]) -> tuple[int, ...]:
    """Words as they follow each other in the transcript: captions may have been moved past each other."""
    index = index_of(project)

    def place(word: int) -> tuple[int, int]:
        turn = index.turns[index.turn_of[word]]
        return turn_place(project, turn.id), turn.index_of[word]

    return tuple(sorted((one for one in words if one in index.turn_of), key=place))


def _two(first: Caption, second: Caption) -> bool:
    return bool(first.named and second.named)


def move_words(project: Project, caption_id: int, edge: str, step: int) -> Project:
    """Move a word over an edge of a caption.

    Parameters
    ----------
    edge : {"in", "out"}
    step : int
        -1: the word at the edge goes to, or comes from, the left; 1: the right.

    Raises
    ------
    DubrelError
        If there is no neighbour, or a caption would have no word left.
    """
    other = neighbour(project, caption_id, -1 if edge == "in" else 1)
    track, caption, _ = found_in(project, caption_id)
    if other is None or not caption.words or not other.words:
        raise DubrelError(tr("There is no caption with words at that edge. Choose another one."))
    left, right = (other, caption) if edge == "in" else (caption, other)
    giver = right if step < 0 else left
    shown = [word.id for row in rows_of(project, giver) for word in row]
    if len(shown) < 2:
        raise DubrelError(tr("That is its only word. Join the captions instead."))
    if step < 0:
        at = giver.words.index(shown[1])
        over, rest = giver.words[:at], giver.words[at:]
        words = {left.id: in_order(project, left.words + over), right.id: rest}
    else:
        at = giver.words.index(shown[-1])
        over, rest = giver.words[at:], giver.words[:at]
        words = {left.id: rest, right.id: in_order(project, over + right.words)}
    first = word_with(project, words[right.id][0])
    assert first is not None
    start, end = _border(project, track, left, right, first.start_ms)
    whole = _united(left, right)
    made = {
        left.id: _with_words(whole, left, words[left.id], left.start_ms, end),
        right.id: _with_words(whole, right, words[right.id], start, right.end_ms),
    }
    lined: dict[int, Caption | None] = {one: _lines(project, track, new) for one, new in made.items()}
    return with_sources(with_captions(project, track.id, lined), track.id, over)


def _with_words(whole: Caption, own: Caption, words: Sequence[int], start: int, end: int) -> Caption:
    """One of two captions with other words: their marks come from both, the rest is its own."""
    kept = {"start_ms": start, "end_ms": end, "held": own.held, "place": own.place, "done": False}
    return holding(_parted(replace(whole, id=own.id), words, **kept), "break")


def _border(
    project: Project, track: CaptionTrack, left: Caption, right: Caption, wished: int
) -> tuple[int, int]:
    """When the right of two captions comes in, and the left one goes out, near a wished time.

    Where both leave no room between them (they overlap, or are too short), as they are.
    """
    low, high = left.start_ms + SHORTEST_MS, right.end_ms - SHORTEST_MS
    if low > high:
        return right.start_ms, left.end_ms
    start = min(max(_snapped(project, wished), low), high)
    return start, min(start, max(left.start_ms + 1, _snapped(project, start - _gap(project, track))))


def _united(left: Caption, right: Caption) -> Caption:
    """All marks of two captions, for taking some of them."""
    names = ("words", "breaks", "named", "dashed", "styled", "hidden")
    return replace(left, **{name: getattr(left, name) + getattr(right, name) for name in names})


# -- lines and text ------------------------------------------------------------------------


def break_line(project: Project, caption_id: int, word_id: int) -> Project:
    """Begin a line with a word, or join the lines where one begins there.

    With as many lines as the house style allows, the nearest other break goes.

    Raises
    ------
    DubrelError
        If the word is the first of the caption.
    """
    track, caption, _ = found_in(project, caption_id)
    shown = [word.id for row in rows_of(project, caption) for word in row]
    if word_id not in shown[1:]:
        raise DubrelError(tr("A line cannot be broken before the first word. Choose a later one."))
    breaks = [one for one in caption.breaks if one in shown]
    if word_id in breaks:
        breaks.remove(word_id)
    else:
        if len(breaks) + 1 >= max(2, track.rules.max_lines):
            breaks.remove(min(breaks, key=lambda one: abs(shown.index(one) - shown.index(word_id))))
        breaks = sorted([*breaks, word_id], key=shown.index)
    made = holding(replace(caption, breaks=tuple(breaks)), "lines")
    return with_captions(project, track.id, {caption.id: made})


def hide_words(project: Project, caption_id: int, word_ids: Collection[int], hidden: bool = True) -> Project:
    """Show a shorter text than what is said: some words do not show in this caption.

    Raises
    ------
    DubrelError
        If no word would be left.
    """
    track, caption, _ = found_in(project, caption_id)
    if hidden:
        now = tuple(one for one in caption.words if one in caption.hidden or one in word_ids)
    else:
        now = tuple(one for one in caption.hidden if one not in word_ids)
    left = [word for word in words_with(project, caption.words) if not word.struck and word.id not in now]
    if not left:
        raise DubrelError(tr("A caption needs a word that shows. Delete the caption instead."))
    made = _lines(project, track, replace(caption, hidden=now))
    return with_captions(project, track.id, {caption.id: holding(made, "text")})


def write_text(project: Project, caption_id: int, text: str) -> Project:
    """Give a caption that has no words of the transcript another text.

    Raises
    ------
    DubrelError
        If it is empty, or the caption has words.
    """
    track, caption, _ = found_in(project, caption_id)
    lines = [tidied(line) for line in text.split("\n")]
    text = "\n".join(line for line in lines if line)
    if caption.words:
        raise DubrelError(tr("This caption shows what is said. Correct the words instead."))
    if not text:
        raise DubrelError(tr("A caption needs a text. Write one, or delete the caption."))
    return with_captions(project, track.id, {caption.id: holding(replace(caption, text=text), "text")})


def insert_caption(project: Project, ms: int, text: str, end_ms: int | None = None) -> tuple[Project, int]:
    """Add a caption with a text of its own where no other stands.

    Returns
    -------
    project : Project
    caption_id : int

    Raises
    ------
    DubrelError
        If there is no track, no text, or no room.
    """
    track = project.captions
    if track is None:
        raise DubrelError(tr("There are no captions yet. Set them first."))
    if not text.strip():
        raise DubrelError(tr("A caption needs a text. Write one."))
    gap = _gap(project, track)
    before = max((one.end_ms for one in track.captions if one.start_ms <= ms), default=None)
    after = min((one.start_ms for one in track.captions if one.start_ms > ms), default=None)
    start = _snapped(project, ms if before is None else max(ms, before + gap))
    wished = max(track.rules.min_ms, track.rules.least_ms(len(graphemes(text)), len(tokens(text))))
    end = _snapped(project, end_ms if end_ms is not None else start + wished)
    if after is not None:
        end = min(end, _snapped(project, after - gap))
    if end - start < SHORTEST_MS:
        raise DubrelError(tr("There is no room for a caption there. Move the playhead into a gap."))
    made = Caption(project.next_id, start, end, text=text.strip(), held=("times", "text"))
    return with_captions(replace(project, next_id=project.next_id + 1), track.id, {}, [made]), made.id


def delete_captions(project: Project, caption_ids: Collection[int]) -> Project:
    """Take captions out; their words stay in the transcript."""
    track = project.captions
    return with_captions(project, track.id, dict.fromkeys(caption_ids)) if track else project


def set_done(project: Project, caption_ids: Collection[int], done: bool) -> Project:
    """Tick captions as done, or untick them."""
    return _each(project, caption_ids, lambda one: replace(one, done=done))


def let_go(project: Project, caption_ids: Collection[int]) -> Project:
    """The captions may be set again as any others."""
    return _each(project, caption_ids, lambda one: replace(one, held=()))


def set_place(project: Project, caption_ids: Collection[int], place: str) -> Project:
    """Put captions at a place (cue settings of WebVTT), or with nothing where the style has them."""

    def moved(one: Caption) -> Caption:
        held = tuple(what for what in one.held if what != "place")
        made = replace(one, place=place, held=held)
        return holding(made, "place") if place else made

    return _each(project, caption_ids, moved)


def _each(project: Project, caption_ids: Collection[int], change: Callable[[Caption], Caption]) -> Project:
    track = project.captions
    if track is None:
        return project
    changed = {}
    for one in caption_ids:
        caption = caption_with(project, track.id, one)
        if caption is not None and (made := change(caption)) != caption:
            changed[one] = made
    return with_captions(project, track.id, changed)


def word_at_time(project: Project, caption: Caption, ms: int) -> Word | None:
    """The word of a caption that is nearest to begin at a time, but not the first that shows."""
    shown = [word for row in rows_of(project, caption) for word in row]
    return min(shown[1:], key=lambda word: abs(word.start_ms - ms), default=None)
