"""What belongs to what, by id: word to turn, word to captions, caption to translations, word to notes.

The index of a value is made from that of the value it came from, at the cost
of what differs; its maps (hash array mapped tries) share all else.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Iterator, Sequence
from itertools import compress
from operator import is_, is_not
from typing import Any, TypeVar

from immutables import Map

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import Value, kept_with
from dubrel.model import Caption, CaptionTrack, Note, Project, Turn, Word

T = TypeVar("T")
_EMPTY: Map = Map()


class TrackIndex(Value):
    """Of one track.

    Captions by id, by the word that they hold or translate, and by the caption that they translate.
    """

    captions: Map[int, Caption]
    of_word: Map[int, int]
    of_source: Map[int, tuple[int, ...]]


_NO_TRACK = TrackIndex(_EMPTY, _EMPTY, _EMPTY)


class Index(Value):
    """Of one value of a project.

    Attributes
    ----------
    turns : Map of turn id to Turn
    turn_of : Map of word id to turn id
    tracks : Map of track id to TrackIndex
    notes_on : Map of word id to ids of notes
    notes : Map of note id to Note
    """

    of: tuple[Sequence[Turn], Sequence[CaptionTrack], Sequence[Note]]
    turns: Map[int, Turn]
    turn_of: Map[int, int]
    tracks: Map[int, TrackIndex]
    notes_on: Map[int, tuple[int, ...]]
    notes: Map[int, Note]


_NOTHING = Index(((), (), ()), _EMPTY, _EMPTY, _EMPTY, _EMPTY, _EMPTY)


def exchanged(old: Sequence[T], new: Sequence[T]) -> tuple[list[T], list[T]]:
    """The objects that only the first, and those that only the second of two sequences holds.

    Compared by identity, at the speed of C; an object that only changed its
    place may be in both lists.

    Examples
    --------
    >>> a, b, c, d = "a", "b", "c", "d"
    >>> exchanged((a, b, c), (a, d, c))
    (['b'], ['d'])
    """
    if old is new:
        return [], []
    if len(old) == len(new):
        places = list(compress(range(len(old)), map(is_not, old, new)))
        return [old[place] for place in places], [new[place] for place in places]
    same = list(map(is_, old, new))
    start = same.index(False) if False in same else len(same)
    tail_room = len(same) - start
    tails = list(map(is_, reversed(old[len(old) - tail_room :]), reversed(new[len(new) - tail_room :])))
    tail = tails.index(False) if False in tails else len(tails)
    gone, come = old[start : len(old) - tail], new[start : len(new) - tail]
    before, after = set(map(id, gone)), set(map(id, come))
    return [one for one in gone if id(one) not in after], [one for one in come if id(one) not in before]


def index_of(project: Project) -> Index:
    """The index of a value; kept with it once it is made."""
    known = project.index if isinstance(project.index, Index) else _NOTHING
    turns_now, of = project.transcript.turns, known.of
    if of[0] is turns_now and of[1] is project.tracks and of[2] is project.notes:
        return known
    now = (turns_now, project.tracks, project.notes)
    turns, turn_of = _turns(known, project.transcript.turns)
    made = Index(now, turns, turn_of, _tracks(known, project.tracks), *_notes(known, project.notes))
    kept_with(project, "index", made)  # as a cached property: the value says the same as before
    return made


def _turns(known: Index, new: Sequence[Turn]) -> tuple[Map[int, Turn], Map[int, int]]:
    gone, come = exchanged(known.of[0], new)
    if not gone and not come:
        return known.turns, known.turn_of
    with known.turns.mutate() as turns, known.turn_of.mutate() as turn_of:
        staying = {(word.id, turn.id) for turn in come for word in turn.words}
        for turn in gone:
            turns.pop(turn.id, None)
            for word in turn.words:
                if (word.id, turn.id) not in staying and turn_of.get(word.id) == turn.id:
                    del turn_of[word.id]
        for turn in come:
            turns[turn.id] = turn
            for word in turn.words:
                if turn_of.get(word.id) != turn.id:
                    turn_of[word.id] = turn.id
        made = turns.finish(), turn_of.finish()
    return made


def _tracks(known: Index, new: Sequence[CaptionTrack]) -> Map[int, TrackIndex]:
    if known.of[1] is new:
        return known.tracks
    earlier = {one.id: one for one in known.of[1]}
    found = known.tracks
    for track_id in earlier.keys() - {one.id for one in new}:
        found = found.delete(track_id)
    for track in new:
        before = earlier.get(track.id)
        if before is not track:
            old = before.captions if before else ()
            found = found.set(track.id, _track(found.get(track.id, _NO_TRACK), old, track.captions))
    return found


def _track(known: TrackIndex, old: Sequence[Caption], new: Sequence[Caption]) -> TrackIndex:
    gone, come = exchanged(old, new)
    if not gone and not come:
        return known
    with (
        known.captions.mutate() as captions,
        known.of_word.mutate() as of_word,
        known.of_source.mutate() as of_source,
    ):
        for one in gone:
            captions.pop(one.id, None)
            for word in one.words or one.of:
                if of_word.get(word) == one.id:
                    del of_word[word]
            _leave(of_source, one.sources, one.id)
        for one in come:
            captions[one.id] = one
            for word in one.words or one.of:
                of_word[word] = one.id
            _join(of_source, one.sources, one.id)
        made = TrackIndex(captions.finish(), of_word.finish(), of_source.finish())
    return made


def _notes(known: Index, new: Sequence[Note]) -> tuple[Map[int, tuple[int, ...]], Map[int, Note]]:
    gone, come = exchanged(known.of[2], new)
    if not gone and not come:
        return known.notes_on, known.notes
    with known.notes_on.mutate() as on, known.notes.mutate() as notes:
        for one in gone:
            _leave(on, one.words, one.id)
            notes.pop(one.id, None)
        for one in come:
            _join(on, one.words, one.id)
            notes[one.id] = one
        made = on.finish(), notes.finish()
    return made


def _leave(lists: Any, keys: Iterable[int], value: int) -> None:
    for key in keys:
        rest = tuple(one for one in lists.get(key, ()) if one != value)
        if rest:
            lists[key] = rest
        else:
            lists.pop(key, None)


def _join(lists: Any, keys: Iterable[int], value: int) -> None:
    for key in keys:
        lists[key] = (*lists.get(key, ()), value)


# -- what is asked --------------------------------------------------------------------------


def turn_with(project: Project, turn_id: int) -> Turn | None:
    """The turn with an id."""
    return index_of(project).turns.get(turn_id)


def turn_place(project: Project, turn_id: int) -> int:
    """Where a turn stands among the turns.

    Raises
    ------
    DubrelError
        If there is no such turn.
    """
    turn = index_of(project).turns.get(turn_id)
    if turn is None:
        raise DubrelError(tr("That turn is gone. Choose another one."))
    return place_in(project.transcript.turns, turn)


def place_in(ordered: Sequence[Any], one: Any) -> int:
    """Where an object stands in a sequence in order of time (or nearly so)."""
    place = bisect_left(ordered, one.start_ms, key=lambda other: other.start_ms)
    while place < len(ordered) and ordered[place].start_ms == one.start_ms:
        if ordered[place] is one:
            return place
        place += 1
    return next(place for place, other in enumerate(ordered) if other is one)


def turn_of(project: Project, word_id: int) -> Turn | None:
    """The turn in which a word is said."""
    index = index_of(project)
    turn_id = index.turn_of.get(word_id)
    return index.turns.get(turn_id) if turn_id is not None else None


def word_with(project: Project, word_id: int) -> Word | None:
    """The word with an id."""
    turn = turn_of(project, word_id)
    return turn.words[turn.index_of[word_id]] if turn else None


def words_with(project: Project, word_ids: Iterable[int]) -> list[Word]:
    """Words by their ids, without those that are gone."""
    index, found = index_of(project), list[Word]()
    for one in word_ids:
        turn_id = index.turn_of.get(one)
        if turn_id is not None:
            turn = index.turns[turn_id]
            found.append(turn.words[turn.index_of[one]])
    return found


def name_of(project: Project, word_id: int) -> str:
    """The name of who says a word; empty where it is not known."""
    turn = turn_of(project, word_id)
    speaker = project.transcript.speaker(turn.speaker) if turn else None
    return speaker.name if speaker else ""


def track_index(project: Project, track_id: int) -> TrackIndex:
    """The index of a track; an empty one where there is none."""
    return index_of(project).tracks.get(track_id, _NO_TRACK)


def caption_with(project: Project, track_id: int, caption_id: int) -> Caption | None:
    """The caption of a track with an id."""
    return track_index(project, track_id).captions.get(caption_id)


def captions_of(project: Project, track_id: int, words: Iterable[int]) -> dict[int, Caption]:
    """The captions of a track that hold some words, by id."""
    index = track_index(project, track_id)
    ids = dict.fromkeys(index.of_word.get(one) for one in words)
    return {one: index.captions[one] for one in ids if one is not None}


def translations_of(project: Project, caption_id: int) -> Iterator[tuple[CaptionTrack, Caption]]:
    """The captions that translate a caption, with their tracks."""
    for track in project.tracks:
        index = track_index(project, track.id)
        for one in index.of_source.get(caption_id, ()):
            yield track, index.captions[one]


def note_with(project: Project, note_id: int) -> Note:
    """The note with an id."""
    return index_of(project).notes[note_id]


def notes_on(project: Project, words: Iterable[int]) -> set[int]:
    """Ids of the notes that stand beside some words."""
    found = index_of(project).notes_on
    return {note for word in words for note in found.get(word, ())}
