"""What differs between two values of a project, as plain JSON values, at the cost of what differs.

A sequence (turns, captions, notes) is written as a recipe: ``[start, count]``
is a run taken over from the sequence before, ``{"new": row}`` a row that is new,
``{"like": place, "head": […], "words": recipe}`` a turn that was another one.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from operator import is_
from typing import Any

from dubrel.model import CaptionTrack, Project, Turn
from dubrel.store.projectjson import (
    Rows,
    camera_row,
    caption_row,
    cut_row,
    note_row,
    project_head,
    track_head,
    turn_head,
    turn_row,
    word_row,
)

Delta = dict[str, Any]
Recipe = list[Any]


def empty_rows() -> Rows:
    """The rows of a project in which nothing is yet."""
    return {
        **project_head(Project()),
        "turns": [],
        "tracks": [],
        "notes": [],
        "cuts": [],
        "cameras": [],
        "switches": [],
    }


def delta(old: Project, new: Project) -> Delta:
    """What makes ``new`` of ``old``; what they share (the same objects) is not looked at."""
    found: Delta = {}
    before, after = project_head(old), project_head(new)
    for name, value in after.items():
        if value != before[name]:
            found[name] = value
    if old.transcript.turns is not new.transcript.turns:
        found["turns"] = _turns(old.transcript.turns, new.transcript.turns)
    if old.notes is not new.notes:
        found["notes"] = _recipe(old.notes, new.notes, _new(note_row))
    if old.tracks is not new.tracks:
        found["tracks"] = [_track(old, one) for one in new.tracks]
    if old.cuts is not new.cuts:
        found["cuts"] = [cut_row(one) for one in new.cuts]
    if old.cameras.all is not new.cameras.all:
        found["cameras"] = [camera_row(one) for one in new.cameras.all]
    if old.cameras.switches is not new.cameras.switches:
        found["switches"] = [[one.ms, one.camera] for one in new.cameras.switches]
    return found


def _turns(old: Sequence[Turn], new: Sequence[Turn]) -> Recipe:
    """A turn that changed is written as what changed in it."""
    staying = set(map(id, new))
    earlier = {turn.id: (place, turn) for place, turn in enumerate(old) if id(turn) not in staying}

    def step(turn: Turn) -> dict[str, Any]:
        if turn.id not in earlier:
            return {"new": turn_row(turn)}
        place, before = earlier[turn.id]
        words = _recipe(before.words, turn.words, lambda word: {"new": word_row(word)})
        return {"like": place, "head": turn_head(turn), "words": words}

    return _recipe(old, new, step)


def _new(row: Callable[[Any], list[Any]]) -> Callable[[Any], dict[str, Any]]:
    return lambda one: {"new": row(one)}


def _track(old: Project, track: CaptionTrack) -> dict[str, Any]:
    earlier = old.track(track.id)
    captions = earlier.captions if earlier else ()
    return {**track_head(track), "captions": _recipe(captions, track.captions, _new(caption_row))}


def _recipe(old: Sequence[Any], new: Sequence[Any], step: Callable[[Any], dict[str, Any]]) -> Recipe:
    """How the second sequence is made of the first; objects are known again by identity."""
    if len(old) == len(new):
        same = list(map(is_, old, new))
        changed = [place for place, kept in enumerate(same) if not kept] if False in same else []
        recipe: Recipe = []
        at = 0
        for place in changed:
            if place > at:
                recipe.append([at, place - at])
            recipe.append(step(new[place]))
            at = place + 1
        return [*recipe, [at, len(old) - at]] if at < len(old) else recipe
    places = {id(one): place for place, one in enumerate(old)}
    start, count = 0, 0
    recipe = []
    for one in new:
        known = places.get(id(one))
        if known is not None and count and known == start + count:
            count += 1
            continue
        if count:
            recipe.append([start, count])
        count = 0
        if known is None:
            recipe.append(step(one))
        else:
            start, count = known, 1
    return [*recipe, [start, count]] if count else recipe


def applied(rows: Rows, change: Delta) -> Rows:
    """The rows that a change makes of rows.

    Raises
    ------
    ValueError, KeyError, TypeError
        If the change does not fit.
    """
    found = {**rows, **change}
    for name in ("turns", "notes"):
        if name in change:
            found[name] = _made(rows[name], change[name])
    if "tracks" in change:
        earlier = {one["id"]: one["captions"] for one in rows["tracks"]}
        found["tracks"] = [
            {**one, "captions": _made(earlier.get(one["id"], []), one["captions"])}
            for one in change["tracks"]
        ]
    return found


def _made(old: list[Any], recipe: Recipe) -> list[Any]:
    made: list[Any] = []
    for step in recipe:
        if isinstance(step, dict):
            if "new" in step:
                made.append(step["new"])
            else:
                made.append([*step["head"], _made(old[step["like"]][4], step["words"])])
            continue
        start, count = step
        if start < 0 or count < 0 or start + count > len(old):
            raise ValueError("a step does not fit")
        made += old[start : start + count]
    return made
