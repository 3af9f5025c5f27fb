"""Merge what two people did with a project, by the ids of everything in it.

What only one changed is taken; what both changed differently is in question, and goes to one of both.
Merging in either order gives the same value, and a value with itself gives itself.
"""

from __future__ import annotations

from collections.abc import Mapping
from hashlib import sha256
from typing import Any, Literal

from dubrel.base.catalogue import Message, counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import Value, replace
from dubrel.edits.merging.mergedcaptions import merged_tracks
from dubrel.edits.merging.mergedwords import merged_words
from dubrel.edits.merging.renumbering import Renumbering
from dubrel.edits.merging.soundness import sound
from dubrel.edits.merging.threeway import Choosing, Question, Side, changed, merged_map
from dubrel.edits.words.terms import merged as merged_terms
from dubrel.model import Cut, Note, Project, Term
from dubrel.project.follow import words_followed

Whose = Literal["mine", "theirs"]
Three = tuple[Project, Project, Project]
_OTHER: dict[Side, Side] = {"a": "b", "b": "a"}


class Conflict(Value):
    """What both changed, and differently.

    Attributes
    ----------
    key : str
        By which it is decided.
    what : str
        What kind of thing it is about.
    before, mine, theirs : str
        What was there, and what each made of it, to be read.
    start_ms, end_ms : int
        Where it is in the recording; both 0 where that says nothing.
    """

    key: str
    what: str
    before: str
    mine: str
    theirs: str
    start_ms: int
    end_ms: int


class Merged(Value):
    """What came of it.

    Attributes
    ----------
    project : Project
    conflicts : tuple of Conflict
        In order of time.
    """

    project: Project
    conflicts: tuple[Conflict, ...]


def merge(
    base: Project, mine: Project, theirs: Project, decisions: Mapping[str, Whose] | None = None
) -> Merged:
    """One value of what two people did with another.

    Parameters
    ----------
    base : Project
        What both began with.
    mine, theirs : Project
    decisions : mapping of str to {"mine", "theirs"}, optional
        Of conflicts, by their keys; what is not decided stays mine.

    Raises
    ------
    DubrelError
        If both are about different recordings.
    """
    _refuse_strangers(mine, theirs)
    if mine == theirs:
        return Merged(mine, ())
    mine_first = _order_of(mine) <= _order_of(theirs)
    a, b = (mine, theirs) if mine_first else (theirs, mine)
    own: Side = "a" if mine_first else "b"
    sides = {key: own if whose == "mine" else _OTHER[own] for key, whose in (decisions or {}).items()}
    choosing = Choosing(sides, own)
    project = replace(_merged(base, a, b, choosing), media=mine.media or theirs.media)
    return Merged(project, _conflicts(choosing.asked, mine_first))


def _conflicts(asked: list[Question], mine_first: bool) -> tuple[Conflict, ...]:
    found = {one.key: one for one in asked}
    rows = sorted(found.values(), key=lambda one: (one.start_ms, one.end_ms))
    return tuple(
        Conflict(
            one.key,
            one.what,
            one.texts[0],
            one.texts[1 if mine_first else 2],
            one.texts[2 if mine_first else 1],
            one.start_ms,
            one.end_ms,
        )
        for one in rows
    )


def _refuse_strangers(mine: Project, theirs: Project) -> None:
    one, other = mine.media, theirs.media
    if one is None or other is None:
        return
    known = one.fingerprint and len(one.fingerprint) == len(other.fingerprint)  # digests of one kind
    same = one.fingerprint == other.fingerprint if known else one.duration_ms == other.duration_ms
    if not same:
        raise DubrelError(
            tr(
                "The two are about different recordings: “{name}” and “{name2}”. Merge projects of "
                "the same recording."
            ).format(name=one.name, name2=other.name)
        )


def _order_of(project: Project) -> tuple[int, int, str]:
    """By which one of both comes first, whoever asks."""
    said = repr((project.transcript, project.tracks, project.notes, project.terms, project.cuts))
    return project.next_id, project.transcript.word_count, sha256(said.encode("utf-8", "replace")).hexdigest()


def _merged(base: Project, a: Project, b: Project, choosing: Choosing) -> Project:
    b = _apart(base, a, b)
    words = merged_words(base, a, b, choosing, max(base.next_id, a.next_id, b.next_id))
    b = Renumbering(lambda number: words.same.get(number, number)).project(b)
    followed = [
        words_followed(one, replace(one, transcript=words.transcript, next_id=words.next_id))
        for one in (base, a, b)
    ]
    base_now, a_now, b_now = followed
    next_id = max(one.next_id for one in followed)
    tracks = merged_tracks((base_now, a_now, b_now), choosing)
    three = (base, a, b)
    active = changed([one.active for one in three])
    titles, subtitles = [one.title for one in three], [one.subtitle for one in three]
    framings = [one.framing for one in three]
    places = [counted(len(one.keys), "position") for one in framings]
    pictures = [one.cameras for one in three]
    shots = [f"{counted(len(one.all), 'camera')}, {counted(one.shots, 'shot')}" for one in pictures]
    made = replace(
        a_now,
        transcript=words.transcript,
        title=choosing.decide(titles, "title", Message("the title"), titles),
        subtitle=choosing.decide(subtitles, "subtitle", Message("the subtitle"), subtitles),
        tracks=tracks,
        active=active if any(one.id == active for one in tracks) else (tracks[0].id if tracks else 0),
        notes=_notes((base_now, a_now, b_now), choosing),
        terms=_terms(three),
        releases=tuple(sorted({*a.releases, *b.releases}, key=lambda one: (one.at, one.digest)))[-50:],
        cuts=_cuts(three, choosing),
        framing=choosing.decide(framings, "framing", Message("where the crop lies"), places),
        cameras=choosing.decide(pictures, "cameras", Message("the cut of the picture"), shots),
        next_id=next_id,
        index=None,
    )
    return sound(made)


def _apart(base: Project, a: Project, b: Project) -> Project:
    """The second value with ids for its new things that the first has not given."""
    shift = max(0, a.next_id - base.next_id)
    taken = {one.id for one in a.transcript.speakers}
    known = {one.id for one in base.transcript.speakers}
    names = {one.name.casefold(): one.id for one in a.transcript.speakers if one.id not in known and one.name}
    speakers = dict[str, str]()
    for one in b.transcript.speakers:
        if one.id in known:
            continue
        if one.name and one.name.casefold() in names:
            speakers[one.id] = names[one.name.casefold()]
        elif one.id in taken:
            speakers[one.id] = _free_speaker(one.id, taken | {who.id for who in b.transcript.speakers})
            taken.add(speakers[one.id])
    first, same = base.next_id, _same_things(a, b)
    moved = Renumbering(
        lambda number: number + shift if number >= first and number not in same else number, speakers
    ).project(b)
    people = {one.id: one for one in moved.transcript.speakers}
    transcript = replace(moved.transcript, speakers=tuple(people.values()))
    return replace(moved, transcript=transcript, next_id=b.next_id + shift)


def _same_things(a: Project, b: Project) -> set[int]:
    """The ids of things that are the same on both sides: they come from a state that both had."""
    there = _things(a)
    return {number for number, one in _things(b).items() if there.get(number) == one}


def _things(project: Project) -> dict[int, object]:
    """Everything that has an id; a turn is known by its first word."""
    turns = project.transcript.turns
    captions = (one for track in project.tracks for one in track.captions)
    others: list[Any] = [*captions, *project.notes, *project.cuts, *project.cameras.all]
    return {
        **{word.id: word for turn in turns for word in turn.words},
        **{turn.id: turn.words[0].id for turn in turns if turn.words},
        **{one.id: one for one in others},
        **{track.id: (track.language, track.translates) for track in project.tracks},
    }


def _free_speaker(speaker: str, taken: set[str]) -> str:
    number = 2
    while f"{speaker}-{number}" in taken:
        number += 1
    return f"{speaker}-{number}"


def _notes(three: Three, choosing: Choosing) -> tuple[Note, ...]:
    def both(key: int, was: Note | None, one: Note, other: Note) -> Note:
        trio = (was or one, one, other)
        span = (trio[0].start_ms, trio[0].end_ms)
        texts, answers = [note.text for note in trio], [note.answer for note in trio]
        return replace(
            one,
            text=choosing.decide(texts, f"note {key}", Message("a note"), texts, span),
            answer=choosing.decide(answers, f"answer {key}", Message("an answer to a query"), answers, span),
            kind=changed([note.kind for note in trio]),
            words=changed([note.words for note in trio]),
            end_ms=changed([note.end_ms for note in trio]),
            done=one.done or other.done,
            to=changed([note.to for note in trio]),
            answered_by=changed([note.answered_by for note in trio]),
        )

    maps = [{note.id: note for note in project.notes} for project in three]
    return tuple(sorted(merged_map(maps, both).values(), key=lambda one: (one.start_ms, one.id)))


def _terms(three: Three) -> tuple[Term, ...]:
    def both(_key: str, _was: Term | None, one: Term, other: Term) -> Term:
        return merged_terms([one], [other])[0]

    return tuple(
        merged_map([{term.right: term for term in project.terms} for project in three], both).values()
    )


def _cuts(three: Three, choosing: Choosing) -> tuple[Cut, ...]:
    def both(key: int, was: Cut | None, one: Cut, other: Cut) -> Cut:
        trio = (was or one, one, other)
        names = [cut.name for cut in trio]
        name = choosing.decide(names, f"cut name {key}", Message("the name of a cut"), names)
        texts = [f"{cut.length_ms / 1000:.1f} s, {cut.joins} joins" for cut in trio]
        parts = [(cut.passages, cut.taken) for cut in trio]
        passages, taken = choosing.decide(parts, f"cut {key}", Message("the cut “{name}”", name=name), texts)
        return replace(one, name=name, passages=passages, taken=taken)

    return tuple(merged_map([{cut.id: cut for cut in project.cuts} for project in three], both).values())
