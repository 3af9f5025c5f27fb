"""Clips: cuts of a few passages that are passed on by themselves."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Iterator

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.timecode import frames_to_ms, ms_to_frames
from dubrel.base.value import replace
from dubrel.edits.cuts.trimming import Span, length_of, with_cut, with_cut_changed
from dubrel.model import Cut, CutPassage, Project, Turn, Word, text_of_words

_LEAD_MS, _TAIL_MS = 120, 250  # room before the first word and after the last one
_LEAST_MS = 200


def clips_of(project: Project) -> list[Cut]:
    """The clips of a project, in the order in which they were made."""
    return [one for one in project.cuts if one.clip]


def with_clip(project: Project, name: str, spans: Iterable[Span]) -> tuple[Project, int]:
    """The project with one clip more, and its id.

    Parameters
    ----------
    name : str
        One that is taken gets a number.
    spans : iterable of (int, int)
        What is said in it, in the order in which it plays; room is left around each
        passage, but nothing of the words beside it.

    Raises
    ------
    DubrelError
        If nothing of it lies within the recording.
    """
    words = _words(project)
    passages = [_with_room(project, words, one) for one in spans]
    passages = [(start, end) for start, end in passages if end - start >= _LEAST_MS]
    if not passages:
        raise DubrelError(tr("There is nothing to make a clip of. Choose a passage with words in it."))
    joined = _one_after_another(passages)
    made, cut_id = with_cut(project, name, [CutPassage(start, end) for start, end in joined])
    cuts = tuple(replace(one, clip=True) if one.id == cut_id else one for one in made.cuts)
    return replace(made, cuts=cuts), cut_id


def with_clip_once(project: Project, name: str, spans: Iterable[Span]) -> tuple[Project, int]:
    """The project with a clip, and its id; the one that plays the same where there is one already."""
    made, clip_id = with_clip(project, name, spans)
    passages = next(one.passages for one in made.cuts if one.id == clip_id)
    same = next((one for one in clips_of(project) if one.passages == passages), None)
    return (made, clip_id) if same is None else (project, same.id)


def _words(project: Project) -> list[Word]:
    """Every word, in order of time."""
    every = (word for turn in project.transcript.turns for word in turn.words)
    return sorted(every, key=lambda word: word.start_ms)


def _with_room(project: Project, words: list[Word], span: Span) -> Span:
    """A passage with room around what is said in it, on frames where there is a picture."""
    start, end = span
    length = length_of(project)
    first = bisect_left(words, start, key=lambda word: word.start_ms)
    before = max((word.end_ms for word in words[max(0, first - 8) : first]), default=0)
    after = bisect_left(words, end, key=lambda word: word.start_ms)
    until = words[after].start_ms if after < len(words) else length
    low = max(0, min(start, max(start - _LEAD_MS, before)))
    high = min(length, max(end, min(end + _TAIL_MS, until)))
    rate = project.frame_rate
    if rate is None:
        return low, high
    first_frame, last_frame = ms_to_frames(low, rate), ms_to_frames(high, rate)
    first_frame -= frames_to_ms(first_frame, rate) > low
    last_frame += frames_to_ms(last_frame, rate) < high
    return frames_to_ms(max(0, first_frame), rate), min(length, frames_to_ms(last_frame, rate))


def _one_after_another(spans: list[Span]) -> list[Span]:
    """Passages of which none repeats what the one before it plays: those that touch are one."""
    found = list[Span]()
    for start, end in spans:
        if found and found[-1][0] <= start <= found[-1][1]:
            found[-1] = (found[-1][0], max(end, found[-1][1]))
        else:
            found.append((start, end))
    return found


def clips_joined(project: Project, parts: Iterable[int | Span], name: str) -> tuple[Project, int]:
    """One clip of several, in their order; those that it is made of are gone.

    Parameters
    ----------
    parts : iterable of int or (int, int)
        Ids of clips, and passages with what is said in them.

    Raises
    ------
    DubrelError
        If there are not at least two.
    """
    words, passages, ids = _words(project), list[CutPassage](), set[int]()
    count = 0
    for one in parts:
        cut = project.cut(one) if isinstance(one, int) else None
        if isinstance(one, tuple):
            passages.append(CutPassage(*_with_room(project, words, one)))
        elif cut is not None:
            passages += cut.passages
            ids.add(cut.id)
        else:
            continue
        count += 1
    if count < 2:
        raise DubrelError(tr("There is only one clip to join. Choose two or more."))
    rest = tuple(one for one in project.cuts if one.id not in ids)
    made, cut_id = with_cut(replace(project, cuts=rest), name, passages)
    cuts = tuple(replace(one, clip=True) if one.id == cut_id else one for one in made.cuts)
    return replace(made, cuts=cuts), cut_id


def clip_trimmed(project: Project, clip_id: int, edge: str, step: int) -> Project:
    """A clip that begins, or ends, a word earlier or later.

    Parameters
    ----------
    edge : {"in", "out"}
    step : {-1, 1}

    Raises
    ------
    DubrelError
        If no word would be left, or there is none to go to.
    """
    words = _words(project)

    def change(cut: Cut) -> Cut:
        place = 0 if edge == "in" else len(cut.passages) - 1
        one = cut.passages[place]
        inside = [nth for nth, word in enumerate(words) if one.start_ms <= _middle(word) < one.end_ms]
        shorter = step > 0 if edge == "in" else step < 0
        if shorter and len(inside) < 2:
            raise DubrelError(tr("A clip keeps at least one word. Delete the clip, or trim its other end."))
        nth = (inside[0] if edge == "in" else inside[-1]) + step if inside else -1
        if not 0 <= nth < len(words):
            raise DubrelError(tr("There is no word there that the clip could go to. It stays as it is."))
        low, high = _with_room(project, words, (words[nth].start_ms, words[nth].end_ms))
        moved = replace(one, start_ms=low) if edge == "in" else replace(one, end_ms=high)
        return replace(cut, passages=(*cut.passages[:place], moved, *cut.passages[place + 1 :]))

    return with_cut_changed(project, clip_id, change)


def _middle(word: Word) -> int:
    return (word.start_ms + word.end_ms) // 2


def said_in(project: Project, cut: Cut) -> str:
    """What is said in a cut, in the order in which it plays, without struck words."""
    parts = (
        [word for turn, words in _said(project, one) for word in words if not word.struck]
        for one in cut.passages
        if one.plays == "all"
    )
    return " ".join(text_of_words(part) for part in parts if part)


def speakers_in(project: Project, cut: Cut) -> list[str]:
    """Who speaks in a cut, each once, in the order in which it plays."""
    turns = (turn for one in cut.passages for turn, words in _said(project, one) if words)
    return list(dict.fromkeys(turn.speaker for turn in turns if turn.speaker is not None))


def _said(project: Project, passage: CutPassage) -> Iterator[tuple[Turn, list[Word]]]:
    """The turns of a passage, each with the words that are said in it."""
    start, end = passage.start_ms, passage.end_ms
    for turn in project.transcript.turns:
        if turn.start_ms < end and turn.end_ms > start:
            yield turn, [word for word in turn.words if start <= _middle(word) < end]
