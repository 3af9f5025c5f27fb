"""Set words into captions by a house style.

A cheapest-path search over the places where a caption may end: every run of
words that fits the style is a step, its cost says how well it reads. Ends of
sentences and pauses are cheap places to end, ends of clauses less so, and a
word that leans on the next one is a dear one.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from dubrel.captions.breaking import break_lines, leans_forward, line_lengths, text_length
from dubrel.captions.marks import with_dash, with_name
from dubrel.model import Caption, HouseStyle, Transcript, Turn, Word
from dubrel.text import ends_clause, ends_sentence, gap_lengths, grapheme_count
from dubrel.timecode import snap_to_frame

_PAUSE_MS = 350
_SPLIT_PAUSE_MS = 1500
_CAPTION = 12.0  # what each caption costs: fewer, fuller captions
_MIDDLE, _CLAUSE, _LEANING = 45.0, 16.0, 80.0
_PAUSE_BONUS, _INNER_SENTENCE, _INNER_PAUSE = 30.0, 26.0, 60.0
_TOO_SHORT, _TOO_FAST, _TOO_LONG = 25.0, 8.0, 400.0


_ANSWER_MS = 1000  # how long after a caption another person's may begin and still share it


@dataclass(frozen=True)
class _Run:
    start: int
    stop: int


@dataclass(frozen=True)
class Draft:
    """A caption before it has times and an id.

    Attributes
    ----------
    words : tuple of Word
        Those that show.
    held : tuple of int
        Ids of all its words, the struck ones too.
    texts : tuple of str
        As they show, with names and dashes.
    breaks : tuple of int
        Places of the words that begin a new line.
    named, dashed : tuple of int
        Places of the words before which a name or a dash stands.
    speaker : str or None
        Of the first word.
    """

    words: tuple[Word, ...]
    held: tuple[int, ...]
    texts: tuple[str, ...]
    breaks: tuple[int, ...]
    named: tuple[int, ...] = ()
    dashed: tuple[int, ...] = ()
    speaker: str | None = None

    def caption(self, caption_id: int, start_ms: int, end_ms: int) -> Caption:
        """The caption that it becomes."""
        ids = [word.id for word in self.words]
        breaks, named, dashed = (
            tuple(ids[at] for at in some) for some in (self.breaks, self.named, self.dashed)
        )
        return Caption(caption_id, start_ms, end_ms, self.held, breaks, named, dashed)


def set_captions(
    transcript: Transcript, style: HouseStyle, *, frame_rate: Fraction | None = None, first_id: int
) -> tuple[Caption, ...]:
    """Set a transcript into captions.

    Parameters
    ----------
    transcript : Transcript
    style : HouseStyle
    frame_rate : Fraction, optional
        Of the picture; in and out times then fall on frames.
    first_id : int
        First id to give to a caption; as many are given as there are captions.

    Notes
    -----
    The limits of line length and lines always hold (but for single words
    longer than a line). Where somebody speaks faster than the style's reading
    speed, the caption is as long as the gap allows and the checks say so.
    """
    drafts: list[Draft] = []
    before = None
    for turn in transcript.turns:
        made = drafts_of(turn, transcript, style, turn.speaker != before)
        drafts += made
        before = turn.speaker if made else before
    drafts.sort(key=lambda draft: draft.words[0].start_ms)
    if style.dashes:
        drafts = _answered(drafts, style)
    times = caption_times(drafts, style, frame_rate)
    return tuple(draft.caption(first_id + place, *times[place]) for place, draft in enumerate(drafts))


def drafts_of(turn: Turn, transcript: Transcript, style: HouseStyle, changed: bool) -> list[Draft]:
    """One turn as captions without times; none where all is struck.

    Parameters
    ----------
    changed : bool
        Whether another person spoke before.
    """
    speaker = transcript.speaker(turn.speaker)
    name = speaker.name if speaker else ""
    shown = [place for place, word in enumerate(turn.words) if not word.struck]
    words = tuple(turn.words[place] for place in shown)
    made = []
    for run in _runs(turn, words, style, transcript.language, name, changed):
        first = shown[run.start] if run.start else 0
        stop = shown[run.stop] if run.stop < len(shown) else len(turn.words)
        named = style.shows_name(changed and run.start == 0)
        made.append(draft_of(turn.words[first:stop], style, transcript.language, turn.speaker, name * named))
    return made


def draft_of(
    words: Sequence[Word], style: HouseStyle, language: str, speaker: str | None, name: str
) -> Draft:
    """Words with their lines; ``name`` stands before them unless it is empty. One at least must show."""
    shown = tuple(word for word in words if not word.struck)
    texts = [word.text for word in shown]
    texts[0] = with_name(name, texts[0])
    breaks = break_lines(texts, style.max_lines, style.max_cpl, language) or ()
    held = tuple(word.id for word in words)
    return Draft(shown, held, tuple(texts), breaks, (0,) * bool(name), (), speaker)


def _answered(drafts: Sequence[Draft], style: HouseStyle) -> list[Draft]:
    """Short captions of two people who answer each other, put together with a dash before each."""
    found: list[Draft] = []
    for draft in drafts:
        both = two_people(found[-1], draft, style) if found else None
        if both is None:
            found.append(draft)
        else:
            found[-1] = both
    return found


def two_people(one: Draft, other: Draft, style: HouseStyle) -> Draft | None:
    """Both in one caption, if the style allows it, both are short and one follows the other at once."""
    if not style.dashes or style.max_lines < 2 or one.speaker == other.speaker:
        return None
    if one.breaks or other.breaks or one.dashed or other.dashed:
        return None
    span = other.words[-1].end_ms - one.words[0].start_ms
    alone = min(draft.words[-1].end_ms - draft.words[0].start_ms for draft in (one, other))
    if span > style.max_ms or alone >= style.min_ms:
        return None
    if other.words[0].start_ms - one.words[-1].end_ms > _ANSWER_MS:
        return None
    texts = [*one.texts, *other.texts]
    second = len(one.words)
    dashed = () if one.named and other.named else (0, second)
    for place in dashed:
        texts[place] = with_dash(texts[place])
    if max(line_lengths(texts, [second])) > style.max_cpl:
        return None
    named = (*one.named, *(second for _ in other.named)) if not dashed else ()
    held = (*one.held, *other.held)
    return Draft((*one.words, *other.words), held, tuple(texts), (second,), named, dashed, one.speaker)


def _runs(
    turn: Turn, words: Sequence[Word], style: HouseStyle, language: str, name: str, changed: bool
) -> list[_Run]:
    """Cheapest cut of a turn's words into runs that fit, with a name where one will stand."""
    count = len(words)
    costs, cames = [0.0] + [float("inf")] * count, [0] * (count + 1)
    lengths = [grapheme_count(word.text) for word in words]
    gaps = gap_lengths([word.text for word in words])
    naming = grapheme_count(with_name(name, ""))
    endings = [_end_cost(words, k, language) for k in range(count)]
    capacity = style.max_lines * style.max_cpl + style.max_lines - 1
    for start in range(count):
        named = style.shows_name(changed and start == 0)
        length, inner = naming * named - gaps[start], 0.0
        for stop in range(start + 1, count + 1):
            length += lengths[stop - 1] + gaps[stop - 1]
            span = words[stop - 1].end_ms - words[start].start_ms
            if stop > start + 1:
                inner += _inner_cost(words, stop - 2)
                if length > capacity or span > style.max_ms:
                    break
                texts = [word.text for word in words[start:stop]]
                texts[0] = with_name(name * named, texts[0])
                if length > style.max_cpl and not break_lines(
                    texts, style.max_lines, style.max_cpl, language
                ):
                    continue
            room = _room(words, start, stop, turn)
            cost = costs[start] + endings[stop - 1] + inner + _reading_cost(length, span, room, style)
            if cost < costs[stop]:
                costs[stop], cames[stop] = cost, start
    runs, stop = [], count
    while stop:
        runs.append(_Run(cames[stop], stop))
        stop = cames[stop]
    return runs[::-1]


def _room(words: Sequence[Word], start: int, stop: int, turn: Turn) -> int:
    """Time from the first word to the next caption, at most two seconds after the last word."""
    end = words[stop - 1].end_ms
    following = words[stop].start_ms if stop < len(words) else end + 500
    return min(following, end + 2000) - words[start].start_ms


def _end_cost(words: Sequence[Word], place: int, language: str) -> float:
    """What it costs to end a caption after a word."""
    if place + 1 >= len(words):
        return 0.0
    word = words[place].text
    if ends_sentence(word):
        return 0.0
    pause = words[place + 1].start_ms - words[place].end_ms
    cost = _CLAUSE if ends_clause(word) else _LEANING if leans_forward(word, language) else _MIDDLE
    return max(2.0, cost - _PAUSE_BONUS) if pause >= _PAUSE_MS else cost


def _inner_cost(words: Sequence[Word], place: int) -> float:
    """What it costs to go on in the same caption after a word."""
    pause = words[place + 1].start_ms - words[place].end_ms
    if pause >= _SPLIT_PAUSE_MS:
        return _INNER_PAUSE
    return _INNER_SENTENCE if ends_sentence(words[place].text) and pause >= _PAUSE_MS else 0.0


def _reading_cost(length: int, span: int, room: int, style: HouseStyle) -> float:
    cost = _CAPTION
    if room < style.min_ms:
        cost += _TOO_SHORT * (style.min_ms - room) / style.min_ms + 10.0
    speed = length * 1000 / max(1, room)
    if speed > style.max_cps:
        cost += _TOO_FAST * (speed - style.max_cps)
    if span > style.max_ms:
        cost += _TOO_LONG
    return cost


def caption_times(
    drafts: Sequence[Draft],
    style: HouseStyle,
    frame_rate: Fraction | None,
    not_before: int | None = None,
    not_after: int | None = None,
) -> list[tuple[int, int]]:
    """In and out times for drafts in order of time.

    A caption comes in with its first word and stays until its last word, or
    longer where reading needs it and the next caption leaves room. Short gaps
    are closed to the least gap, so that captions do not flicker.

    Parameters
    ----------
    not_before : int, optional
        Out time of the caption before the first.
    not_after : int, optional
        In time of the caption after the last.
    """
    gap = style.least_gap(frame_rate)
    starts = [draft.words[0].start_ms for draft in drafts]
    times: list[tuple[int, int]] = []
    for place, draft in enumerate(drafts):
        start = snap_to_frame(starts[place], frame_rate)
        last = times[-1][1] if times else not_before
        if last is not None:
            start = max(start, snap_to_frame(last + gap, frame_rate))
        following = starts[place + 1] if place + 1 < len(drafts) else not_after
        spoken = max(draft.words[-1].end_ms, start + 1)
        needed = max(style.min_ms, -(-text_length(draft.texts) * 1000 // style.max_cps))
        end = max(spoken, start + int(needed))
        if following is not None and following - end < style.chain_ms:
            end = following - gap
        end = min(end, start + style.max_ms)
        end = _out_on_frame(end, start, frame_rate)
        times.append((start, end))
    return times


def _out_on_frame(end: int, start: int, frame_rate: Fraction | None) -> int:
    """An out time on a frame, and never less than 200 ms after the in time."""
    end = max(end, start + 200)
    return snap_to_frame(end, frame_rate)
