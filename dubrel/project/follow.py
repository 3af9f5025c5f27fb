"""Captions and notes follow the wording: ids that go leave them, new ids join the right ones.

No verb says what it did to the words; the difference between two values does.
So captions cannot drift from the wording, whatever the verb.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from functools import wraps
from typing import Concatenate, ParamSpec

from dubrel.base.value import replace
from dubrel.model import Caption, CaptionTrack, Note, Project, Turn, Word
from dubrel.project.index import (
    captions_of,
    exchanged,
    index_of,
    notes_on,
    track_index,
    turn_place,
    turn_with,
    words_with,
)
from dubrel.project.tracks import with_captions, with_notes, with_sources

P = ParamSpec("P")


def rewords(
    verb: Callable[Concatenate[Project, P], Project],
) -> Callable[Concatenate[Project, P], Project]:
    """A verb that writes, deletes, moves or strikes words: captions and notes follow what it did."""

    @wraps(verb)
    def followed(project: Project, *args: P.args, **kwargs: P.kwargs) -> Project:
        made = verb(project, *args, **kwargs)
        return made if made is project else words_followed(project, made)

    return followed


def words_followed(old: Project, new: Project) -> Project:
    """Let captions and notes follow what became of the words.

    Parameters
    ----------
    old, new : Project
        Before and after words were written, deleted, moved or unstruck; the
        captions and notes of both are those of before.

    Returns
    -------
    Project
        The same object where no caption or note changes.
    """
    gone_turns, come_turns = exchanged(old.transcript.turns, new.transcript.turns)
    if not gone_turns and not come_turns:
        return new
    before = {word.id: word for turn in gone_turns for word in turn.words}
    after = {word.id: word for turn in come_turns for word in turn.words}
    gone = [one for one in before if one not in after]
    fresh = {
        one for one, word in after.items() if one not in before or (before[one].struck and not word.struck)
    }
    lasting = {turn.id: [word for word in turn.words if word.id in fresh] for turn in come_turns}
    new = _reworded(new, gone_turns, come_turns, before)
    made = _notes_followed(old, new, gone)
    turned = [one for one, word in after.items() if one in before and before[one].struck != word.struck]
    for track in new.tracks:
        if track.spoken and track.captions:
            made = _track_followed(
                made, track, gone, [turn for turn in come_turns if lasting[turn.id]], fresh
            )
            made = _shown_again(made, track.id, turned)
    return made


def _reworded(
    project: Project, gone: Sequence[Turn], come: Sequence[Turn], before: Mapping[int, Word]
) -> Project:
    """Proofed turns whose wording is another now say so."""
    proofed = [turn for turn in come if turn.proofed and not turn.reworded]
    if not proofed:
        return project
    after = {word.id for turn in come for word in turn.words}
    lost = {turn.id for turn in gone if any(word.id not in after for word in turn.words)}
    changed = {
        turn.id: replace(turn, reworded=True)
        for turn in proofed
        if turn.id in lost or any(_says_other(before.get(word.id), word) for word in turn.words)
    }
    if not changed:
        return project
    turns = tuple(changed.get(turn.id, turn) for turn in project.transcript.turns)
    return replace(project, transcript=replace(project.transcript, turns=turns))


def _says_other(before: Word | None, after: Word) -> bool:
    return before is None or before.text != after.text or before.struck != after.struck


def _track_followed(
    project: Project, track: CaptionTrack, gone: Sequence[int], turns: Sequence[Turn], fresh: Collection[int]
) -> Project:
    held = track_index(project, track.id).of_word
    changed: dict[int, list[int]] = {}
    captions = captions_of(project, track.id, gone)
    homeless: list[int] = []

    def ids_of(caption_id: int) -> list[int]:
        if caption_id not in changed:
            captions[caption_id] = track_index(project, track.id).captions[caption_id]
            changed[caption_id] = list(captions[caption_id].words)
        return changed[caption_id]

    joined: dict[int, int] = {}
    for turn in turns:
        for place, word in enumerate(turn.words):
            if word.id not in fresh or word.id in held:
                continue
            found = _neighbour(turn, place, lambda one: joined.get(one, held.get(one)))
            if found is None:
                homeless.append(turn.id)
                break
            neighbour, home, after = found
            ids = ids_of(home)
            ids.insert(ids.index(neighbour) + after, word.id)
            joined[word.id] = home
    for caption_id in captions:
        ids_of(caption_id)
    leaving = set(gone)
    made = {
        one: _carried(captions[one], [word for word in ids if word not in leaving])
        for one, ids in changed.items()
    }
    project = with_captions(project, track.id, made)
    left = (word for caption in made.values() if caption and caption.hidden for word in caption.words)
    project = _shown_again(project, track.id, left)
    project = with_sources(project, track.id, (*gone, *joined))
    return (
        turns_set_again(_opened_up(project, track.id, homeless), track.id, homeless) if homeless else project
    )


def _opened_up(project: Project, track_id: int, turn_ids: Iterable[int]) -> Project:
    """Captions in the middle of which other turns begin are cut there, so that these have a place."""
    turns = project.transcript.turns
    for turn_id in turn_ids:
        place, homes = turn_place(project, turn_id), track_index(project, track_id).of_word
        before = next(
            (w.id for turn in reversed(turns[:place]) for w in reversed(turn.words) if w.id in homes), 0
        )
        after = next((w for turn in turns[place + 1 :] for w in turn.words if w.id in homes), None)
        if after is None or homes.get(before) != homes[after.id]:
            continue
        whole = track_index(project, track_id).captions[homes[after.id]]
        at = whole.words.index(after.id)
        middle = min(max(after.start_ms, whole.start_ms), whole.end_ms)
        first, second = _carried(whole, list(whole.words[:at])), _carried(whole, list(whole.words[at:]))
        if first is None or second is None:
            continue
        first, second = replace(first, end_ms=middle), replace(second, id=project.next_id, start_ms=middle)
        project = replace(project, next_id=project.next_id + 1)
        project = with_captions(project, track_id, {first.id: first}, [second])
        project = with_sources(project, track_id, whole.words)
        if whole.hidden:
            project = _shown_again(project, track_id, whole.words)
    return project


def _neighbour(turn: Turn, place: int, home_of: Callable[[int], int | None]) -> tuple[int, int, bool] | None:
    """The word nearest before (or else after) a place that is in a caption.

    Its id, the caption, before or not.
    """
    for at in range(place - 1, -1, -1):
        if (home := home_of(turn.words[at].id)) is not None:
            return turn.words[at].id, home, True
    for at in range(place + 1, len(turn.words)):
        if (home := home_of(turn.words[at].id)) is not None:
            return turn.words[at].id, home, False
    return None


def _carried(caption: Caption, words: list[int]) -> Caption | None:
    """A caption with other words; nothing without any."""
    if not words:
        return None
    if tuple(words) == caption.words:
        return caption
    breaks = tuple(one for one in _heirs(caption, words, caption.breaks) if one != words[0])
    named, dashed = _heirs(caption, words, caption.named), _heirs(caption, words, caption.dashed)
    staying = set(words)
    styled = tuple(one for one in caption.styled if one[0] in staying)
    hidden = tuple(one for one in caption.hidden if one in staying)
    marks = {"breaks": breaks, "named": named, "dashed": dashed, "styled": styled, "hidden": hidden}
    return replace(caption, words=tuple(words), **marks)


def _shown_again(project: Project, track_id: int, words: Iterable[int]) -> Project:
    """Hidden words show again in captions that would show nothing although something is said."""
    changed: dict[int, Caption | None] = {}
    for one in captions_of(project, track_id, words).values():
        said = [word.id for word in words_with(project, one.words) if not word.struck] if one.hidden else []
        if said and set(said) <= set(one.hidden):
            changed[one.id] = replace(one, hidden=())
    return with_captions(project, track_id, changed)


def _heirs(caption: Caption, words: list[int], marks: tuple[int, ...]) -> tuple[int, ...]:
    """Keep each mark; where its word went, the next one that stayed takes it."""
    present, found = set(words), []
    for mark in marks:
        if mark not in caption.words:
            continue
        place = caption.words.index(mark)
        heir = next((one for one in caption.words[place:] if one in present), None)
        if heir is not None and heir not in found:
            found.append(heir)
    return tuple(found)


def _notes_followed(old: Project, new: Project, gone: Sequence[int]) -> Project:
    """Notes whose words went stand beside the nearest word that stayed."""
    touched = notes_on(old, gone) if new.notes else set()
    if not touched:
        return new
    staying = index_of(new).turn_of
    changed: dict[int, Note] = {}
    for note in new.notes:
        if note.id in touched:
            kept = tuple(one for one in note.words if one in staying)
            heir = kept or tuple(_nearest(old, note.words[0], staying))
            changed[note.id] = replace(note, words=heir, moved=note.moved or not kept)
    return with_notes(new, changed)


def _nearest(old: Project, word_id: int, staying: Collection[int]) -> Iterator[int]:
    """The word nearest to one that went, of those that stayed around it."""
    turn_id = index_of(old).turn_of.get(word_id)
    turn = turn_with(old, turn_id) if turn_id is not None else None
    if turn is None:
        return
    place = turn_place(old, turn.id)
    near = old.transcript.turns[max(0, place - 1) : place + 2]
    order = [word.id for one in near for word in one.words]
    at = order.index(word_id)
    kept = [(abs(k - at), k > at, one) for k, one in enumerate(order) if one in staying]
    if kept:
        yield min(kept)[2]


def _around(track: CaptionTrack, turn: Turn, gone: Collection[int]) -> tuple[int | None, int | None]:
    """When the caption before a turn goes out, and when the one after it comes in.

    Those that go do not count.
    """
    at = bisect_left(track.captions, turn.start_ms, key=lambda one: one.start_ms)
    before = next((one for one in reversed(track.captions[:at]) if one.id not in gone), None)
    after = next((one for one in track.captions[at:] if one.id not in gone), None)
    return before.end_ms if before else None, after.start_ms if after else None


def turns_set_again(project: Project, track_id: int, turn_ids: Iterable[int]) -> Project:
    """Set some turns of a track into captions anew; all other captions stay as they are.

    Parameters
    ----------
    turn_ids : iterable of int
        Turns that are gone are passed over.
    """
    from dubrel.captions.setting.setting import (  # late: arrays, which opening a window does without
        parts_of,
        set_turns,
    )
    from dubrel.captions.setting.timing import Bounds

    track = project.track(track_id)
    turns = [turn for one in dict.fromkeys(turn_ids) if (turn := turn_with(project, one))]
    if track is None or not turns:
        return project
    next_id, come = project.next_id, list[Caption]()
    gone: dict[int, Caption] = {}
    for place, turn in sorted((turn_place(project, turn.id), turn) for turn in turns):
        gone |= captions_of(project, track_id, (word.id for word in turn.words))
        earlier = project.transcript.turns[place - 1] if place else None
        parts = parts_of(project.transcript, [turn], earlier)
        before, after = _around(track, turn, gone)
        if come:  # those of the turn before it, which are in no track yet
            before = max(before or 0, come[-1].end_ms)
        bounds = Bounds(project.frame_rate, project.shots, before, after, project.length_ms)
        for one in set_turns(parts, project.transcript, track.style, bounds):
            start = (
                one.start_ms if after is None else min(one.start_ms, after)
            )  # words without a time have no room
            end = one.end_ms if after is None else max(start, min(one.end_ms, after))
            come.append(one.draft.caption(next_id, start, end))
            next_id += 1
    mine = {word.id for turn in turns for word in turn.words}
    kept = {one.id: _carried(one, [word for word in one.words if word not in mine]) for one in gone.values()}
    project = replace(project, next_id=next_id)
    return with_sources(with_captions(project, track_id, kept, come), track_id, mine)
