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

from dubrel.captions.breaking import break_lines, leans_forward
from dubrel.captions.styles import HouseStyle
from dubrel.model import Caption, CaptionTrack, Transcript, Turn, Word
from dubrel.text import ends_clause, ends_sentence, grapheme_count
from dubrel.timecode import snap_to_frame

_PAUSE_MS = 350
_SPLIT_PAUSE_MS = 1500
_CAPTION = 12.0  # what each caption costs: fewer, fuller captions
_MIDDLE, _CLAUSE, _LEANING = 45.0, 16.0, 80.0
_PAUSE_BONUS, _INNER_SENTENCE, _INNER_PAUSE = 30.0, 26.0, 60.0
_TOO_SHORT, _TOO_FAST, _TOO_LONG = 25.0, 8.0, 400.0


@dataclass(frozen=True)
class _Run:
    start: int
    stop: int


def set_captions(
    transcript: Transcript, style: HouseStyle, *, frame_rate: Fraction | None = None, first_id: int
) -> tuple[CaptionTrack, int]:
    """Set a transcript into captions.

    Parameters
    ----------
    transcript : Transcript
    style : HouseStyle
    frame_rate : Fraction, optional
        Of the picture; in and out times then fall on frames.
    first_id : int
        First id to give to a caption.

    Returns
    -------
    track : CaptionTrack
    next_id : int
        First id not given.

    Notes
    -----
    The limits of line length and lines always hold (but for single words
    longer than a line). Where somebody speaks faster than the style's reading
    speed, the caption is as long as the gap allows and the checks say so.
    """
    drafts: list[tuple[tuple[Word, ...], tuple[int, ...]]] = []
    for turn in transcript.turns:
        words = tuple(word for word in turn.words if not word.struck)
        for run in _runs(turn, words, style, transcript.language):
            chosen = words[run.start : run.stop]
            texts = [word.text for word in chosen]
            breaks = break_lines(texts, style.max_lines, style.max_cpl, transcript.language) or ()
            drafts.append((chosen, breaks))
    drafts.sort(key=lambda draft: draft[0][0].start_ms)
    times = caption_times([words for words, _ in drafts], style, frame_rate)
    captions = tuple(
        Caption(
            first_id + place,
            start,
            end,
            tuple(word.id for word in words),
            tuple(words[at].id for at in breaks),
        )
        for place, ((words, breaks), (start, end)) in enumerate(zip(drafts, times))
    )
    return CaptionTrack(transcript.language, style.name, captions), first_id + len(captions)


def _runs(turn: Turn, words: Sequence[Word], style: HouseStyle, language: str) -> list[_Run]:
    """Cheapest cut of a turn's words into runs that fit."""
    count = len(words)
    costs, cames = [0.0] + [float("inf")] * count, [0] * (count + 1)
    lengths = [grapheme_count(word.text) for word in words]
    endings = [_end_cost(words, k, language) for k in range(count)]
    capacity = style.max_lines * style.max_cpl + style.max_lines - 1
    for start in range(count):
        length, inner = -1, 0.0
        for stop in range(start + 1, count + 1):
            length += lengths[stop - 1] + 1
            span = words[stop - 1].end_ms - words[start].start_ms
            if stop > start + 1:
                inner += _inner_cost(words, stop - 2)
                if length > capacity or span > style.max_ms:
                    break
                texts = [word.text for word in words[start:stop]]
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
    runs: Sequence[Sequence[Word]], style: HouseStyle, frame_rate: Fraction | None
) -> list[tuple[int, int]]:
    """In and out times for runs of words in order of time.

    A caption comes in with its first word and stays until its last word, or
    longer where reading needs it and the next caption leaves room. Short gaps
    are closed to the least gap, so that captions do not flicker.
    """
    gap = style.gap_ms(frame_rate)
    starts = [words[0].start_ms for words in runs]
    times: list[tuple[int, int]] = []
    for place, words in enumerate(runs):
        start = snap_to_frame(starts[place], frame_rate)
        if times:
            start = max(start, snap_to_frame(times[-1][1] + gap, frame_rate))
        following = starts[place + 1] if place + 1 < len(runs) else None
        spoken = max(words[-1].end_ms, start + 1)
        length = sum(grapheme_count(word.text) for word in words) + len(words) - 1
        needed = max(style.min_ms, -(-length * 1000 // style.max_cps))
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
