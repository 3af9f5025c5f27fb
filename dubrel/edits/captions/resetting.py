"""Set captions again: all of them, some, or what breaks a rule; what a person has set is kept."""

from __future__ import annotations

from bisect import bisect_right
from collections import deque
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence

from dubrel.base.value import Value, replace
from dubrel.captions.setting.chain import Part
from dubrel.captions.setting.setting import Placed, set_turns
from dubrel.captions.setting.timing import Bounds
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.trackchecks import check_track
from dubrel.model import Caption, CaptionTrack, HouseStyle, Project, Turn
from dubrel.project.captiontext import shown_captions
from dubrel.project.index import track_index, turn_of, turn_place
from dubrel.project.tracks import with_track

KEEPS = frozenset(["break", "lines", "times", "text"])
"""What, where a person has set it, keeps a whole caption as it is."""


def set_again(
    project: Project,
    style: HouseStyle | None = None,
    *,
    only: Collection[int] | None = None,
    keep_held: bool = True,
) -> Project:
    """Set words into captions of the active track, or of a first one.

    Parameters
    ----------
    style : HouseStyle, optional
        That of the track unless another is given; the track keeps it.
    only : collection of int, optional
        Ids of the captions that are set again; all of them unless given.
    keep_held : bool
        Whether captions that a person has set stay as they are. Captions with
        a text of their own always stay.

    Returns
    -------
    Project
        Captions with the same words keep their ids; places, italics and ticks
        go with the words. What translates the captions translates those that
        hold the same words.
    """
    track, transcript = project.captions, project.transcript
    if track is None or not track.spoken:
        track = next((one for one in project.tracks if one.spoken), None)
    next_id = project.next_id
    if track is None:
        track = CaptionTrack(next_id, transcript.language, DEFAULT_STYLE)
        next_id += 1
    style = style or track.style
    fixed = [one for one in track.captions if _stays(one, only, keep_held)]
    staying = {id(one) for one in fixed}
    going = [one for one in track.captions if id(one) not in staying]
    turns = project.transcript.turns if only is None else _turns_of(project, going)
    made = list(_set_around(project, style, fixed, turns))
    captions, next_id = _numbered(made, going, fixed, next_id)
    new = replace(track, language=transcript.language, style=style, captions=captions)
    if new == track:
        return project
    return sources_renewed(with_track(replace(project, next_id=next_id), new), track)


def to_fix(project: Project) -> list[int]:
    """Ids of the captions of the active track that break a rule of its house style."""
    track = project.captions
    if track is None:
        return []
    found = check_track(project, track)
    return [one for one, findings in found.items() if one and any(finding.must for finding in findings)]


def _stays(caption: Caption, only: Collection[int] | None, keep_held: bool) -> bool:
    if not caption.words or (only is not None and caption.id not in only):
        return True
    return keep_held and not KEEPS.isdisjoint(caption.held)


def _turns_of(project: Project, captions: Iterable[Caption]) -> list[Turn]:
    """The turns whose words some captions hold, in order."""
    found = {turn.id: turn for one in captions for word in one.words if (turn := turn_of(project, word))}
    return sorted(found.values(), key=lambda turn: turn_place(project, turn.id))


def _set_around(
    project: Project, style: HouseStyle, fixed: Sequence[Caption], turns: Sequence[Turn]
) -> Iterator[Placed]:
    """The words of turns that are in no caption that stays, group by group between those."""
    bounds = Bounds(project.frame_rate, project.shots, length_ms=project.length_ms)
    starts = [one.start_ms for one in fixed]
    ends = [one.end_ms for one in sorted(fixed, key=lambda one: one.end_ms)]
    taken = {word for one in fixed for word in one.words}
    parts: list[Part] = []
    group: list[Part] = []
    border = 0  # how many captions that stay begin before the group
    for part in _free_parts(project, turns, taken):
        place = bisect_right(starts, _first_ms(part))
        if group and place != border:
            parts += _between(group, starts, ends)
            group = []
        border = place
        group.append(part)
    if group:
        parts += _between(group, starts, ends)
    return iter(set_turns(parts, project.transcript, style, bounds) if parts else ())


def _first_ms(part: Part) -> int:
    return next(word.start_ms for word in part.turn.words if not word.struck)


def _between(group: Sequence[Part], starts: Sequence[int], ends: Sequence[int]) -> list[Part]:
    """The parts of a group with the times that they have between captions that stay."""
    first, last = _first_ms(group[0]), group[-1].turn.words[-1].start_ms
    before, after = bisect_right(starts, first), bisect_right(starts, last)
    out = ends[before - 1] if before else None
    into = starts[after] if after < len(starts) else None
    made = [replace(part, not_before=out) for part in group]
    return [*made[:-1], replace(made[-1], not_after=into, closed=True)]


def _free_parts(project: Project, turns: Sequence[Turn], taken: Collection[int]) -> Iterator[Part]:
    """Runs of words of each turn that are not taken, with the names that stand before them."""
    names = {one.id: one.name for one in project.transcript.speakers}
    whole = len(turns) == len(project.transcript.turns)
    before: Turn | None = None
    for turn in turns:
        if all(word.struck for word in turn.words):
            continue
        before = before if whole else _turn_before(project, turn)
        changed = before is None or turn.speaker != before.speaker
        before = turn
        for place, words in _runs(turn, taken):
            if any(not word.struck for word in words):
                part = turn if len(words) == len(turn.words) else replace(turn, words=tuple(words))
                yield Part(part, names.get(turn.speaker or "", ""), changed and place == 0)


def _turn_before(project: Project, turn: Turn) -> Turn | None:
    """The turn before another one in which something shows."""
    place = turn_place(project, turn.id)
    earlier = reversed(project.transcript.turns[max(0, place - 50) : place])
    return next((one for one in earlier if not all(word.struck for word in one.words)), None)


def _runs(turn: Turn, taken: Collection[int]) -> Iterator[tuple[int, list]]:
    if not taken:
        yield 0, list(turn.words)
        return
    run: list = []
    for place, word in enumerate(turn.words):
        if word.id not in taken:
            run.append(word)
        elif run:
            yield place - len(run), run
            run = []
    if run:
        yield len(turn.words) - len(run), run


def _numbered(
    made: Iterable[Placed], going: Sequence[Caption], fixed: Sequence[Caption], next_id: int
) -> tuple[tuple[Caption, ...], int]:
    """Captions with ids: those of before where the words are the same; with places, italics and ticks."""
    index = {word: one for one in going for word in one.words}
    by_words = {one.words: one for one in going if one.words}
    captions = list(fixed)
    for one in made:
        old = by_words.get(one.draft.held)
        caption = one.draft.caption(old.id if old else next_id, one.start_ms, one.end_ms)
        next_id += old is None
        caption = _dressed(caption, [index[word] for word in caption.words if word in index])
        captions.append(old if caption == old else caption)
    captions.sort(key=lambda one: (one.start_ms, one.end_ms))
    return tuple(captions), next_id


def _dressed(caption: Caption, before: Sequence[Caption]) -> Caption:
    """A new caption with what its words had before: their styles, and the place of most of them."""
    own = set(caption.words)
    styled = dict(caption.styled)
    for one in {id(one): one for one in before}.values():
        styled |= {word: style for word, style in one.styled if word in own}
    counts = {one.place: sum(other.place == one.place for other in before) for one in before}
    place = max(counts, key=lambda one: counts[one], default="")
    held = ("place",) if place and any("place" in one.held for one in before) else ()
    same = len({one.id for one in before}) == 1 and before[0].words == caption.words
    done = same and before[0].done
    order = tuple((word, styled[word]) for word in caption.words if word in styled)
    return replace(caption, styled=order, place=place, held=held, done=done)


def sources_renewed(project: Project, before: CaptionTrack) -> Project:
    """Translations of a track that was set again point to the captions with the same words."""
    words = {one.id: one.words for one in before.captions}
    held = track_index(project, before.id).of_word
    present = track_index(project, before.id).captions
    for track in project.tracks:
        if track.translates != before.id:
            continue
        captions = []
        for one in track.captions:
            ids = one.of or [word for source in one.sources for word in words.get(source, ())]
            own = [source for source in one.sources if source in present and not words.get(source)]
            sources = tuple(dict.fromkeys([*own, *(held[word] for word in ids if word in held)]))
            if sources or one.of or one.text.strip():  # else nothing is said, and nothing translated
                captions.append(one if sources == one.sources else replace(one, sources=sources))
        project = with_track(project, replace(track, captions=tuple(captions)))
    return project


# -- what would change ---------------------------------------------------------------------


class Exchange(Value):
    """Captions of before and what takes their place; a caption of both is in none."""

    old: tuple[Caption, ...]
    new: tuple[Caption, ...]


def exchanges(old: CaptionTrack | None, new: CaptionTrack) -> list[Exchange]:
    """Where two values of a track differ, passage by passage, in order of time."""
    before = old.captions if old else ()
    kept = {id(one) for one in before} & {id(one) for one in new.captions}
    gone = [one for one in before if id(one) not in kept]
    come = [one for one in new.captions if id(one) not in kept]
    return _in_passages(gone, come, lambda one: one.words)


def differences(one: Project, other: Project) -> list[Exchange]:
    """Where the captions of two projects differ in time or text, passage by passage."""

    def looks(project: Project) -> dict[int, tuple[int, int, tuple[str, ...]]]:
        return {
            caption.id: (caption.start_ms, caption.end_ms, text.lines)
            for caption, text in shown_captions(project, project.captions)
        }

    first, second = looks(one), looks(other)
    same = set(first.values()) & set(second.values())
    gone, come = (
        (
            [caption for caption in project.captions.captions if seen.get(caption.id, ()) not in same]
            if project.captions
            else []
        )
        for project, seen in ((one, first), (other, second))
    )
    return _in_passages(gone, come, lambda _caption: ())


def _in_passages(
    gone: list[Caption], come: list[Caption], words_of: Callable[[Caption], Sequence[int]]
) -> list[Exchange]:
    """Captions that stand at the same time, or hold the same words, together."""
    found: list[Exchange] = []
    left, right = deque(gone), deque(come)
    while left or right:
        first = min((some[0] for some in (left, right) if some), key=lambda one: one.start_ms)
        end, words = first.end_ms, set(words_of(first))
        olds, news = list[Caption](), list[Caption]()
        moved = True
        while moved:
            moved = False
            for some, into in ((left, olds), (right, news)):
                while some and (
                    some[0] is first or some[0].start_ms < end or not words.isdisjoint(words_of(some[0]))
                ):
                    one = some.popleft()
                    into.append(one)
                    words.update(words_of(one))
                    end, moved = max(end, one.end_ms), True
        found.append(Exchange(tuple(olds), tuple(news)))
    return found
