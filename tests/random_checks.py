"""What must hold of any project, and of any step, whatever was done."""

from __future__ import annotations

import json
from collections.abc import Collection

from dubrel.base.text import tokens
from dubrel.base.value import replace
from dubrel.edits.cuts.trimming import length_of
from dubrel.model import CaptionTrack, Cut, Project, Timing, Word
from dubrel.project.captiontext import text_of
from dubrel.project.index import index_of, turn_place
from dubrel.project.queries import DOUBTFUL, doubts_in
from dubrel.project.summary import differ, summary
from dubrel.store.projectfile import from_json
from dubrel.store.projectjson import to_text


def words_of(project: Project) -> list[Word]:
    """Every word in order."""
    return [word for turn in project.transcript.turns for word in turn.words]


def check_project(project: Project, uncaptioned: Collection[int] = ()) -> None:
    """All that must hold of a value.

    Parameters
    ----------
    uncaptioned : collection of int
        Words whose captions a person deleted: they may be in none.
    """
    _check_words(project)
    _check_notes(project)
    for track in project.tracks:
        _check_track(project, track, uncaptioned)
    for cut in project.cuts:
        _check_cut(project, cut)
    _check_cameras(project)
    _check_ids(project)
    _check_index(project)


def _check_cameras(project: Project) -> None:
    cameras = project.cameras
    ids = {one.id for one in cameras.seen}
    times = [one.ms for one in cameras.switches]
    assert times == sorted(set(times)), "switches out of order"
    assert all(one.camera in ids for one in cameras.switches), "a switch to a camera that shows nothing"
    assert sum(one.media is None for one in cameras.all) <= 1, "the picture of the recording twice"
    shown = [cameras.first.id if cameras.first else 0, *(one.camera for one in cameras.switches)]
    assert all(a != b for a, b in zip(shown, shown[1:])), "a switch that changes nothing"


def _check_cut(project: Project, cut: Cut) -> None:
    assert cut.passages, "a cut of nothing"
    assert all(0 <= one.start_ms < one.end_ms for one in cut.passages), "a passage that does not last"
    assert all(one.start_ms < one.end_ms for one in cut.taken), "something taken out that does not last"
    taken = [(one.start_ms, one.end_ms) for one in cut.taken]
    assert taken == sorted(taken), "what was taken out is out of order"
    assert all(a[1] <= b[0] for a, b in zip(taken, taken[1:])), "something taken out twice"
    if cut.clip:  # several joined into one may play a passage twice
        return
    spans = sorted((one.start_ms, one.end_ms) for one in cut.passages)
    assert all(a[1] <= b[0] for a, b in zip(spans, spans[1:])), "passages over each other"
    plays = sum(b - a for a, b in spans) + sum(b - a for a, b in taken)
    latest = max(length_of(project), *(end for _, end in (*spans, *taken)))
    assert plays <= latest, "more plays and is out than there is"


def _check_words(project: Project) -> None:
    turns, every = project.transcript.turns, words_of(project)
    people = {one.id for one in project.transcript.speakers}
    assert len(people) == len(project.transcript.speakers), "a speaker twice"
    assert all(turn.words for turn in turns), "a turn without words"
    assert all(turn.speaker is None or turn.speaker in people for turn in turns), "a turn of nobody known"
    assert all(word.also is None or word.also in people for word in every), "a word with nobody known"
    assert all(word.text and tokens(word.text) == [word.text] for word in every), "white space in a word"
    assert all(0 <= word.start_ms <= word.end_ms for word in every), "a word that ends before it begins"
    starts = [word.start_ms for word in every]
    assert starts == sorted(starts), "words out of order"
    said = [{word.id for word in turn.words if not word.struck} for turn in turns]
    assert said == [turn.said for turn in turns], "what was said before"
    doubtful = sum(word.doubt >= DOUBTFUL and not word.struck for word in every)
    assert doubtful == sum(doubts_in(turn, DOUBTFUL) for turn in turns), "doubts of before"


def _check_notes(project: Project) -> None:
    there = {word.id for word in words_of(project)}
    assert all(one in there for note in project.notes for one in note.words) or not there, "a note at no word"
    assert all(note.start_ms >= 0 for note in project.notes)


def _check_track(project: Project, track: CaptionTrack, uncaptioned: Collection[int]) -> None:
    captions, words = track.captions, {word.id: word for word in words_of(project)}
    starts = [one.start_ms for one in captions]
    assert starts == sorted(starts), "captions out of order"
    assert all(0 <= one.start_ms <= one.end_ms for one in captions), "a caption that ends before it begins"
    held = [word for one in captions for word in one.words]
    of = [word for one in captions for word in one.of]
    assert len(held) == len(set(held)) and set(held) <= set(words), "a word in two captions, or gone"
    assert {w for one in captions for w in one.words or one.of} == track.held, "what was held before"
    assert len(of) == len(set(of)), "a word in two translations"
    order = {word: nth for nth, word in enumerate(words)}
    for one in captions:
        text = text_of(project, track, one)
        own = set(one.words)
        assert {
            *one.breaks,
            *one.named,
            *one.dashed,
            *one.hidden,
            *(w for w, _ in one.styled),
        } <= own, "a mark at no word"
        assert [order[w] for w in one.words] == sorted(order[w] for w in one.words), (
            "words of a caption out of order"
        )
        said = [w for w in one.words if not words[w].struck]
        assert text.lines or not said or track.translates, "a caption shows nothing though words are said"
        assert not one.said or len(one.of) == len(one.said.split()), "what was said is not what it translates"
    if track.spoken:
        assert not of, "the spoken track translates"
        missing = [w for w in words if not words[w].struck and w not in set(held) and w not in uncaptioned]
        assert not missing or not captions, f"words in no caption: {missing}"
        return
    assert not held, "a translation holds words"
    source = project.track(track.translates or 0)
    assert source is not None and source.spoken, "a translation of nothing"
    ids, homes = (
        {one.id for one in source.captions},
        {w: one.id for one in source.captions for w in one.words},
    )
    for one in captions:
        assert set(one.sources) <= ids, "a source that is gone"
        mine = tuple(dict.fromkeys(homes[w] for w in one.of if w in homes))
        assert not mine or set(one.sources) == set(mine), f"sources of before: {one.id} {one.sources} {mine}"


def _check_ids(project: Project) -> None:
    ids = [turn.id for turn in project.transcript.turns] + [word.id for word in words_of(project)]
    ids += [track.id for track in project.tracks] + [
        one.id for track in project.tracks for one in track.captions
    ]
    ids += [note.id for note in project.notes] + [cut.id for cut in project.cuts]
    ids += [camera.id for camera in project.cameras.all]
    assert len(ids) == len(set(ids)), "an id twice"
    assert max(ids, default=0) < project.next_id, "an id that will be given again"
    assert not project.tracks or project.track(project.active), "no track is worked on"


def _check_index(project: Project) -> None:
    known, fresh = index_of(project), index_of(replace(project, index=None))
    assert known.turns == fresh.turns and known.turn_of == fresh.turn_of, "a stale index of turns"
    assert set(known.tracks) == set(fresh.tracks), "a stale index of tracks"
    for track in project.tracks:
        ours, theirs = known.tracks[track.id], fresh.tracks[track.id]
        assert ours.captions == theirs.captions and ours.of_word == theirs.of_word, (
            "a stale index of captions"
        )
        sets = [{k: set(v) for k, v in one.of_source.items()} for one in (ours, theirs)]
        assert sets[0] == sets[1], "a stale index of translations"
    assert {k: set(v) for k, v in known.notes_on.items()} == {k: set(v) for k, v in fresh.notes_on.items()}
    assert all(turn_place(project, turn.id) == nth for nth, turn in enumerate(project.transcript.turns))


def check_step(old: Project, new: Project, *, retimes: bool) -> None:
    """What must hold between two values: untouched times are untouched, and what differs is said.

    Parameters
    ----------
    retimes : bool
        Whether the verb gives words other times on purpose.
    """
    if not retimes:
        before = {word.id: word for word in words_of(old)}
        for word in words_of(new):
            was = before.get(word.id)
            if was is not None and was.text == word.text and was.timing is word.timing is Timing.ALIGNED:
                same = (word.start_ms, word.end_ms) == (was.start_ms, was.end_ms)
                assert same, f"the time of “{word.text}” moved by itself"
    assert bool(summary(old, new)) == differ(old, new), "what differs is called nothing"


def check_saved(project: Project) -> None:
    """What is saved is opened equal, and nothing had to be fixed."""
    read = from_json(json.loads(to_text(project)))
    assert read.fixed == (), read.fixed
    assert plain(read.project) == plain(project), "opened otherwise than saved"


def plain(project: Project) -> Project:
    """A project as files keep it: how doubtful a word is, to four digits.

    Where a file lies is its own affair.
    """
    turns = tuple(
        replace(
            turn, words=tuple(replace(w, doubt=round(w.doubt, 4), sure=round(w.sure, 3)) for w in turn.words)
        )
        for turn in project.transcript.turns
    )
    media = replace(project.media, relative="") if project.media else None
    return replace(project, media=media, transcript=replace(project.transcript, turns=turns))
