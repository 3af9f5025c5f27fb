"""The passages of a cut: taken out, put back, their joins moved and dressed."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from fractions import Fraction

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.timecode import frame_beside, frames_to_ms, ms_to_frames, snap_to_frame
from dubrel.base.value import replace
from dubrel.model import Cut, CutPassage, Project, TakenOut
from dubrel.model.cuts import Plays, Reason
from dubrel.project.playback import merged

WHOLE = "The cut"
"""The name of the cut that is made from the whole recording."""
KEEP_MS = 40
"""Room that is left before and after each word, unless the user wishes another."""
_SHORTEST_MS = 10
_NUDGE_MS = 10

Span = tuple[int, int]


def length_of(project: Project) -> int:
    """How long the recording is; without one, until the last word or caption ends."""
    ends = [word.end_ms for turn in project.transcript.turns[-1:] for word in turn.words]
    ends += [one.end_ms for track in project.tracks for one in track.captions[-1:]]
    return project.length_ms or max(ends, default=0)


def with_cut(project: Project, name: str, passages: Iterable[CutPassage]) -> tuple[Project, int]:
    """The project with one cut more, and its id; a name that is taken gets a number."""
    names = {one.name for one in project.cuts}
    free = name
    number = 2
    while free in names:
        free, number = f"{name} {number}", number + 1
    cut = Cut(project.next_id, free, tuple(passages))
    return replace(project, cuts=(*project.cuts, cut), next_id=project.next_id + 1), cut.id


def with_whole(project: Project, name: str = WHOLE) -> tuple[Project, int]:
    """The project with a cut in which nothing is taken out yet, and its id.

    Raises
    ------
    DubrelError
        If there is nothing to cut.
    """
    length = length_of(project)
    if not length:
        raise DubrelError(tr("There is no recording to cut. Open one first."))
    return with_cut(project, name, [CutPassage(0, length)])


def without_cut(project: Project, cut_id: int) -> Project:
    """The project without a cut."""
    return replace(project, cuts=tuple(one for one in project.cuts if one.id != cut_id))


def renamed(project: Project, cut_id: int, name: str) -> Project:
    """A cut with another name.

    Raises
    ------
    DubrelError
        If the name is empty, or another cut has it.
    """
    name = " ".join(name.split())
    if not name:
        raise DubrelError(tr("A cut needs a name. Type one."))
    if any(one.name == name and one.id != cut_id for one in project.cuts):
        raise DubrelError(
            tr("Another cut is called “{name}” already. Choose another name.").format(name=name)
        )
    return with_cut_changed(project, cut_id, lambda cut: replace(cut, name=name))


def with_cut_changed(project: Project, cut_id: int, change: Callable[[Cut], Cut]) -> Project:
    """The project with a cut as a function makes it of what it was.

    Raises
    ------
    DubrelError
        If there is no such cut.
    """
    old = project.cut(cut_id)
    if old is None:
        raise DubrelError(tr("That cut is gone. Choose another one."))
    new = change(old)
    if new == old:
        return project
    new = replace(new, taken=_only_out(new))
    return replace(project, cuts=tuple(new if one is old else one for one in project.cuts))


def _only_out(cut: Cut) -> tuple[TakenOut, ...]:
    """What was taken out, less what plays."""
    plays = merged((one.start_ms, one.end_ms) for one in cut.passages)
    starts = [start for start, _ in plays]
    found = list[TakenOut]()
    for one in cut.taken:
        nth, at = max(0, bisect_right(starts, one.start_ms) - 1), one.start_ms
        while nth < len(plays) and plays[nth][0] < one.end_ms:
            start, end = plays[nth]
            if end > at:
                if start > at:
                    found.append(replace(one, start_ms=at, end_ms=start))
                at = end
            nth += 1
        if at == one.start_ms:
            found.append(one)
        elif at < one.end_ms:
            found.append(replace(one, start_ms=at))
    return tuple(found)


# -- taking out and putting back ---------------------------------------------------------------


def taken_out(
    project: Project, cut_id: int, spans: Iterable[TakenOut], *, plays: Plays | None = None, cross_ms: int = 0
) -> Project:
    """Passages of the recording taken out of a cut, wherever they play in it.

    Parameters
    ----------
    spans : iterable of TakenOut
        In time of the recording. On frames where there is a picture: never more than asked for.
    plays : {"muted", "gap"}, optional
        What their time is kept as; they go unless given.
    cross_ms : int
        The cross-fade at the joins that come about.

    Raises
    ------
    DubrelError
        If nothing would be left of the cut.
    """
    rate = project.frame_rate
    out = [one for each in spans if (one := _on_frames(each, rate))]
    out.sort(key=lambda one: one.start_ms)

    def change(cut: Cut) -> Cut:
        spans_out = merged((one.start_ms, one.end_ms) for one in out)
        passages = tuple(_joined(p for one in cut.passages for p in _less(one, spans_out, plays, cross_ms)))
        if cut.passages and not passages:
            raise DubrelError(tr("That would take out everything. Leave something in the cut."))
        if passages == cut.passages:
            return cut
        if plays is not None:
            return replace(cut, passages=passages)
        return replace(cut, passages=passages, taken=_noted(cut.taken, out))

    return with_cut_changed(project, cut_id, change)


def _on_frames(one: TakenOut, rate: Fraction | None) -> TakenOut | None:
    """A passage on frames, none of it outside; nothing where it is shorter than one."""
    start, end = max(0, one.start_ms), one.end_ms
    if rate is not None:
        first, last = ms_to_frames(start, rate), ms_to_frames(end, rate)
        first += frames_to_ms(first, rate) < start
        last -= frames_to_ms(last, rate) > end
        start, end = frames_to_ms(first, rate), frames_to_ms(last, rate)
    return replace(one, start_ms=start, end_ms=end) if end - start >= _SHORTEST_MS else None


def _less(
    passage: CutPassage, out: Sequence[Span], plays: Plays | None, cross_ms: int
) -> Iterator[CutPassage]:
    """What stays of a passage, in order, and what plays in place of what does not."""
    at = passage.start_ms
    nth = bisect_right(out, at, key=lambda span: span[1])
    while nth < len(out) and out[nth][0] < passage.end_ms:
        start, end = max(at, out[nth][0]), min(out[nth][1], passage.end_ms)
        if start > at:
            yield replace(passage, start_ms=at, end_ms=start, cross_ms=cross_ms, lead_frames=0)
        if plays is not None:
            yield CutPassage(start, end, plays=plays)
        at = end
        nth += 1
    if at < passage.end_ms:
        yield replace(passage, start_ms=at)


def _joined(passages: Iterable[CutPassage]) -> Iterator[CutPassage]:
    """Passages between which nothing is left out, as one."""
    before: CutPassage | None = None
    for one in passages:
        if before is not None and before.end_ms == one.start_ms and before.plays == one.plays:
            before = replace(one, start_ms=before.start_ms)
        else:
            if before is not None:
                yield before
            before = one
    if before is not None:
        yield before


def _noted(taken: Sequence[TakenOut], out: Sequence[TakenOut]) -> tuple[TakenOut, ...]:
    """What was taken out, in order, each moment once: what was taken out first keeps its reason."""
    found = list(taken)
    for one in out:
        start = one.start_ms
        inside = [each for each in taken if each.start_ms < one.end_ms and each.end_ms > one.start_ms]
        for each in inside:
            if each.start_ms - start >= _SHORTEST_MS:
                found.append(replace(one, start_ms=start, end_ms=each.start_ms))
            start = max(start, each.end_ms)
        if one.end_ms - start >= _SHORTEST_MS:
            found.append(replace(one, start_ms=start))
    return tuple(sorted(found, key=lambda one: one.start_ms))


def put_back(project: Project, cut_id: int, start_ms: int, end_ms: int) -> Project:
    """A passage of the recording that was taken out, back in its place.

    What plays muted, or as a gap, in it plays as a whole again.
    """
    rate = project.frame_rate
    start, end = snap_to_frame(start_ms, rate), snap_to_frame(end_ms, rate)

    def change(cut: Cut) -> Cut:
        passages = [
            replace(one, plays="all") if start <= one.start_ms and one.end_ms <= end else one
            for one in cut.passages
        ]
        for since, until in _absent(cut.passages, start, end):
            passages.insert(_place_for(passages, since, until), CutPassage(since, until))
        taken = tuple(piece for one in cut.taken for piece in _outside(one, start, end))
        return replace(cut, passages=tuple(_joined(passages)), taken=taken)

    return with_cut_changed(project, cut_id, change)


def _absent(passages: Iterable[CutPassage], start: int, end: int) -> list[Span]:
    """What of a span is in no passage."""
    found, at = list[Span](), start
    for since, until in merged((one.start_ms, one.end_ms) for one in passages):
        if until <= at:
            continue
        if since >= end:
            break
        if since > at:
            found.append((at, since))
        at = until
    return [*found, (at, end)] if at < end else found


def _outside(one: TakenOut, start: int, end: int) -> Iterator[TakenOut]:
    if one.end_ms <= start or one.start_ms >= end:
        yield one
        return
    if one.start_ms < start:
        yield replace(one, end_ms=start)
    if one.end_ms > end:
        yield replace(one, start_ms=end)


def _place_for(passages: Sequence[CutPassage], start: int, end: int) -> int:
    """Where a passage comes back: after what ends where it begins, before what begins where it ends."""
    for nth, one in enumerate(passages):
        if one.end_ms == start:
            return nth + 1
        if one.start_ms == end:
            return nth
    earlier = [nth for nth, one in enumerate(passages) if one.end_ms <= start]
    return max(earlier, key=lambda nth: passages[nth].end_ms) + 1 if earlier else 0


# -- joins --------------------------------------------------------------------------------------


def edge_moved(project: Project, cut_id: int, place: int, edge: str, ms: int) -> Project:
    """The in or out time of a passage moved, no further than its neighbours in the recording.

    Parameters
    ----------
    place : int
        Of the passage in the cut.
    edge : {"in", "out"}
    ms : int
        In time of the recording.
    """
    ms = snap_to_frame(max(0, min(ms, length_of(project))), project.frame_rate)

    def change(cut: Cut) -> Cut:
        if not 0 <= place < len(cut.passages):
            raise DubrelError(tr("That join is gone. Choose another one."))
        one = cut.passages[place]
        before = max((each.end_ms for each in cut.passages if each.end_ms <= one.start_ms), default=0)
        after = min((each.start_ms for each in cut.passages if each.start_ms >= one.end_ms), default=ms)
        if edge == "in":
            moved = replace(one, start_ms=max(before, min(ms, one.end_ms - _SHORTEST_MS)))
        else:
            moved = replace(one, end_ms=min(max(ms, one.start_ms + _SHORTEST_MS), max(after, one.end_ms)))
        passages = (*cut.passages[:place], moved, *cut.passages[place + 1 :])
        return replace(cut, passages=passages, taken=_taken_between(cut, one, moved))

    return with_cut_changed(project, cut_id, change)


def _taken_between(cut: Cut, old: CutPassage, new: CutPassage) -> tuple[TakenOut, ...]:
    """What was taken out beside a passage, as long as it is now."""
    found = []
    for one in cut.taken:
        if one.end_ms == old.start_ms:
            one = replace(one, end_ms=new.start_ms)
        if one.start_ms == old.end_ms:
            one = replace(one, start_ms=new.end_ms)
        if one.end_ms > one.start_ms:
            found.append(one)
    for start, end in ((old.start_ms, new.start_ms), (new.end_ms, old.end_ms)):
        if end > start and not any(one.start_ms < end and one.end_ms > start for one in found):
            found.append(TakenOut(start, end))
    return tuple(sorted(found, key=lambda one: one.start_ms))


def nudged(project: Project, cut_id: int, place: int, edge: str, step: int) -> Project:
    """An edge of a passage moved by frames, or by 10 ms each where there is no picture."""
    cut = project.cut(cut_id)
    if cut is None or not 0 <= place < len(cut.passages):
        raise DubrelError(tr("That join is gone. Choose another one."))
    one, rate = cut.passages[place], project.frame_rate
    now = one.start_ms if edge == "in" else one.end_ms
    ms = now + _NUDGE_MS * step if rate is None else frame_beside(now, step, rate)
    return edge_moved(project, cut_id, place, edge, ms)


def join_set(
    project: Project,
    cut_id: int,
    places: Collection[int] | None = None,
    *,
    cross_ms: int | None = None,
    lead_frames: int | None = None,
) -> Project:
    """How passages join the next ones: some of them, or all."""

    def change(cut: Cut) -> Cut:
        passages = tuple(
            replace(
                one,
                cross_ms=one.cross_ms if cross_ms is None else cross_ms,
                lead_frames=one.lead_frames if lead_frames is None else lead_frames,
            )
            if places is None or nth in places
            else one
            for nth, one in enumerate(cut.passages)
        )
        return replace(cut, passages=passages)

    return with_cut_changed(project, cut_id, change)


# -- words ---------------------------------------------------------------------------------------


def spans_of_words(
    project: Project, words: Collection[int], why: Reason, keep_ms: int = KEEP_MS
) -> list[TakenOut]:
    """The passages in which some words are said, so that the longer pause beside each stays.

    Parameters
    ----------
    words : collection of int
        Ids; those that are gone are passed over.
    keep_ms : int
        Room for the tail of the word before, and the start of the one after.
    """
    wanted = set(words)
    every = [word for turn in project.transcript.turns for word in turn.words]
    found, length = list[TakenOut](), length_of(project)
    at = 0
    while at < len(every):
        if every[at].id not in wanted:
            at += 1
            continue
        stop = at
        while stop < len(every) and every[stop].id in wanted:
            stop += 1
        start, end = every[at].start_ms, max(word.end_ms for word in every[at:stop])
        low = max((word.end_ms for word in every[max(0, at - 8) : at]), default=0)
        high = every[stop].start_ms if stop < len(every) else length
        before, after = max(0, start - low), max(0, high - end)
        first, last = (start, high) if before >= after else (low, end)
        if first == start:
            first, last = start - min(keep_ms, before // 2), high - min(keep_ms, after // 2)
        else:
            first, last = low + min(keep_ms, before // 2), end + min(keep_ms, after // 2)
        if last > first:
            found.append(TakenOut(first, last, why))
        at = stop
    return found


def words_in(project: Project, start_ms: int, end_ms: int) -> list[int]:
    """Ids of the words whose middle lies in a passage."""
    return [
        word.id
        for turn in project.transcript.turns
        if turn.end_ms >= start_ms and turn.start_ms <= end_ms
        for word in turn.words
        if start_ms <= (word.start_ms + word.end_ms) // 2 < end_ms
    ]
