"""The checks of a caption: a table, each with its name, its weight and what it looks at."""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from itertools import accumulate
from typing import Literal

from dubrel.base.catalogue import Message, amount
from dubrel.base.plugins import Register
from dubrel.base.text import gap_lengths, grapheme_count, tokens
from dubrel.base.timecode import ms_to_frames
from dubrel.base.value import Value
from dubrel.captions.bonds import bond_of
from dubrel.captions.lengths import text_length
from dubrel.captions.places import box_of, placed
from dubrel.model import Banner, Caption, HouseStyle, Word

TIGHT = 70.0
"""A bond this strong should not be cut."""
_LATE_MS, _EARLY_OUT_MS = 150, 200
_ORPHAN_LENGTH = 5
_UNEVEN = 0.35  # of a line's length


class Finding(Value):
    """One broken rule.

    Attributes
    ----------
    rule : str
        One of ``RULES``.
    message : str
        What is wrong and by how much.
    at_ms : int
        Where, for what is no caption's.
    """

    rule: str
    message: str
    at_ms: int = 0

    @property
    def must(self) -> bool:
        """Whether the house style is broken; advice otherwise."""
        return RULES[self.rule].must


class Shown(Value):
    """A caption with all that checks look at.

    Attributes
    ----------
    caption : Caption
    lines : tuple of str
        As they show.
    style : HouseStyle
        With the rules of the language.
    rows : tuple of tuple of Word
        The words of each line; empty for a text of its own.
    speakers : tuple of (str or None)
        Who says each word.
    following : Caption or None
        The next one of the track.
    after : Word or None
        The word that is said after the last one, in the same turn.
    rate : Fraction or None
        Of the picture.
    shots : sequence of int
    banners : sequence of Banner
    language : str
    """

    caption: Caption
    lines: tuple[str, ...]
    style: HouseStyle
    rows: tuple[tuple[Word, ...], ...] = ()
    speakers: tuple[str | None, ...] = ()
    following: Caption | None = None
    after: Word | None = None
    rate: Fraction | None = None
    shots: Sequence[int] = ()
    banners: Sequence[Banner] = ()
    language: str = "en"

    @property
    def span(self) -> int:
        """How long it stands, in milliseconds."""
        return self.caption.end_ms - self.caption.start_ms

    @property
    def length(self) -> int:
        """Characters, as the style counts them."""
        return style_length(self.lines, self.style)

    @property
    def words(self) -> int:
        """How many words show."""
        return sum(map(len, self.rows)) or len(tokens(" ".join(self.lines)))


def style_length(lines: Sequence[str], style: HouseStyle) -> int:
    """Characters of lines as a style counts them.

    A line break counts as what stands between words elsewhere.
    """
    if style.wide_counts == 1:
        return text_length(lines)
    return sum(style.length(line) for line in lines) + sum(gap_lengths(lines))


def reading_speed(caption: Caption, lines: Sequence[str], style: HouseStyle | None = None) -> float:
    """Characters a second: graphemes of the text over the time on screen."""
    length = style_length(lines, style) if style else text_length(lines)
    return length * 1000 / max(1, caption.end_ms - caption.start_ms)


def words_a_minute(caption: Caption, lines: Sequence[str]) -> float:
    """Words a minute over the time on screen."""
    return len(tokens(" ".join(lines))) * 60_000 / max(1, caption.end_ms - caption.start_ms)


Fix = Literal["", "times", "lines", "place", "text"]
"""What can fix a caption: nothing, or setting it again as far as that."""


class Check(Value):
    """One check.

    Attributes
    ----------
    id, label : str
    look : callable
        Gives a message for each thing that is wrong.
    must : bool
        Whether a rule of the house style is broken; advice otherwise.
    fixed_by : Fix
    """

    id: str
    label: str
    look: Callable[[Shown], Iterator[str]]
    must: bool = True
    fixed_by: Fix = ""


def check(
    id: str, label: str, *, must: bool = True, fixed_by: Fix = ""
) -> Callable[[Callable[[Shown], Iterator[str]]], Check]:
    """A function that looks at a caption as a check."""
    return lambda look: Check(id, label, look, must, fixed_by)


def _elsewhere(id: str, label: str, fixed_by: Fix = "") -> Check:
    """A rule that is looked at elsewhere: at a whole track, at a look."""
    return Check(id, label, lambda one: iter(()), fixed_by=fixed_by)


# -- what is looked at ---------------------------------------------------------------------


@check("speed", "Over speed", fixed_by="times")
def _speed(one: Shown) -> Iterator[Message]:
    style, length, span = one.style, one.length, one.span
    if span >= style.least_ms(length, one.words):
        return
    if length * 1000 > style.max_cps * span:
        over = length * 1000 / span - style.max_cps
        longer = length / style.max_cps - span / 1000
        fewer = length - int(style.max_cps * span / 1000)
        yield Message(
            "{over:.1f} CPS over: lengthen by {longer:.2f} s or shorten by {fewer}",
            over=over,
            longer=longer,
            fewer=amount(fewer, "character"),
        )
    else:
        over = one.words * 60_000 / span - style.max_wpm
        longer = one.words * 60 / style.max_wpm - span / 1000
        yield Message("{over:.0f} WPM over: lengthen by {longer:.2f} s", over=over, longer=longer)


@check("lines", "Too many lines", fixed_by="lines")
def _lines(one: Shown) -> Iterator[Message]:
    if len(one.lines) > one.style.max_lines:
        yield Message(
            "{lines}, {most} at most", lines=amount(len(one.lines), "line"), most=one.style.max_lines
        )


@check("line length", "Line too long", fixed_by="lines")
def _line_length(one: Shown) -> Iterator[Message]:
    for number, line in enumerate(one.lines, 1):
        if (length := one.style.length(line)) > one.style.max_cpl:
            yield Message(
                "line {number} has {long}, {most} at most",
                number=number,
                long=amount(length, "character"),
                most=one.style.max_cpl,
            )


@check("short", "Too short", fixed_by="times")
def _short(one: Shown) -> Iterator[Message]:
    if one.span < one.style.min_ms:
        yield Message("{by:.2f} s too short", by=(one.style.min_ms - one.span) / 1000)


@check("long", "Too long", fixed_by="times")
def _long(one: Shown) -> Iterator[Message]:
    if one.span > one.style.max_ms:
        yield Message("{by:.2f} s too long", by=(one.span - one.style.max_ms) / 1000)


@check("overlap", "Overlaps", fixed_by="times")
def _overlap(one: Shown) -> Iterator[Message]:
    if one.following is not None and one.following.start_ms < one.caption.end_ms:
        by = (one.caption.end_ms - one.following.start_ms) / 1000
        yield Message("overlaps the next by {by:.2f} s", by=by)


@check("gap", "Gap too small", fixed_by="times")
def _gap(one: Shown) -> Iterator[Message]:
    if one.following is None:
        return
    gap, least = one.following.start_ms - one.caption.end_ms, one.style.least_gap(one.rate)
    if gap < 0:
        return
    if one.rate is not None:
        frames = ms_to_frames(one.following.start_ms, one.rate) - ms_to_frames(one.caption.end_ms, one.rate)
        if frames < one.style.gap_frames:
            yield Message(
                "gap to the next is {gap}, {least} at least",
                gap=amount(frames, "frame"),
                least=one.style.gap_frames,
            )
    elif gap < least:
        yield Message("gap to the next is {gap} ms, {least} ms at least", gap=gap, least=least)


@check("shot", "Over a shot change", fixed_by="times")
def _shot(one: Shown) -> Iterator[Message]:
    if one.rate is None or not one.shots:
        return
    never = one.style.shot_never_frames
    low = bisect_right(one.shots, one.caption.start_ms)
    high = bisect_left(one.shots, one.caption.end_ms)
    if low >= high:
        return
    start, end = ms_to_frames(one.caption.start_ms, one.rate), ms_to_frames(one.caption.end_ms, one.rate)
    for shot in (one.shots[low], one.shots[high - 1]):
        frame = ms_to_frames(shot, one.rate)
        before, after = frame - start, end - frame
        if 0 < before < never and after > 0:
            yield Message(
                "comes in {before} before a shot change, {least} at least",
                before=amount(before, "frame"),
                least=never,
            )
            return
        if 0 < after < never and before > 0:
            yield Message(
                "stays {after} after a shot change, {least} at least",
                after=amount(after, "frame"),
                least=never,
            )
            return


@check("phrase", "Break inside a phrase", must=False, fixed_by="lines")
def _phrase(one: Shown) -> Iterator[Message]:
    ends = [(row, following[:1]) for row, following in zip(one.rows, one.rows[1:])]
    if one.rows and one.after is not None:
        ends.append((one.rows[-1], (one.after,)))
    for row, following in ends:
        if row and following and bond_of(row[-1].text, following[0].text, one.language) >= TIGHT:
            yield Message("“{word}” is separated from “{next}”", word=row[-1].text, next=following[0].text)


@check("orphan", "Line of one short word", must=False, fixed_by="lines")
def _orphan(one: Shown) -> Iterator[Message]:
    if len(one.lines) > 1:
        for number, line in enumerate(one.lines, 1):
            if " " not in line and one.style.length(line) <= _ORPHAN_LENGTH:
                yield Message("line {number} is one short word", number=number)


@check("uneven", "Uneven lines", must=False, fixed_by="lines")
def _uneven(one: Shown) -> Iterator[Message]:
    if len(one.lines) != 2 or len(one.rows) != 2:
        return
    top, bottom = (one.style.length(line) for line in one.lines)
    if _unevenness(top, bottom, one.style) <= _UNEVEN * one.style.max_cpl:
        return
    words = [word.text for row in one.rows for word in row]
    here = bond_of(one.rows[0][-1].text, one.rows[1][0].text, one.language)
    for place, parts in enumerate(_parted(words), 1):
        if parts[0] > one.style.max_cpl:
            return
        fits = parts[1] <= one.style.max_cpl and 2 * _unevenness(*parts, one.style) < abs(top - bottom)
        if fits and bond_of(words[place - 1], words[place], one.language) <= here:
            yield Message("lines of {top} and {bottom} characters", top=top, bottom=bottom)
            return


def _parted(words: Sequence[str]) -> Iterator[tuple[int, int]]:
    """The lengths of the two lines, in graphemes, for a break before each word but the first."""
    gaps = gap_lengths(words)
    ends = list(accumulate(gap + grapheme_count(word) for gap, word in zip(gaps, words)))
    for end, gap in zip(ends, gaps[1:]):
        yield end, ends[-1] - end - gap


def _unevenness(top: int, bottom: int, style: HouseStyle) -> int:
    return max(0, top - bottom) if style.shape == "bottom-heavy" else abs(top - bottom)


@check("speaker", "Two people in one", fixed_by="lines")
def _speaker(one: Shown) -> Iterator[Message]:
    if len(set(one.speakers)) < 2 or one.caption.dashed or len(one.caption.named) > 1:
        return
    yield Message("another person begins to speak inside")


@check("in time", "In time off the word", must=False, fixed_by="times")
def _in_time(one: Shown) -> Iterator[Message]:
    first = next((word for row in one.rows for word in row), None)
    if first is None:
        return
    late = one.caption.start_ms - first.start_ms
    early = -late - one.style.lead_ms - (round(1000 / one.rate) if one.rate else 0)
    if late > _LATE_MS and not _at_shot(one, one.caption.start_ms):
        yield Message("comes in {by:.2f} s after its first word", by=late / 1000)
    elif early > 0 and not _at_shot(one, one.caption.start_ms):
        yield Message("comes in {by:.2f} s before its first word", by=-late / 1000)


def _at_shot(one: Shown, ms: int) -> bool:
    place = bisect_left(one.shots, ms)
    return place < len(one.shots) and one.shots[place] == ms


@check("out time", "Out before the word", must=False, fixed_by="times")
def _out_time(one: Shown) -> Iterator[Message]:
    last = next((row[-1] for row in reversed(one.rows) if row), None)
    if last is not None and last.end_ms - one.caption.end_ms > _EARLY_OUT_MS:
        by = (last.end_ms - one.caption.end_ms) / 1000
        yield Message("goes out {by:.2f} s before its last word ends", by=by)


@check("lettering", "Over lettering", fixed_by="place")
def _lettering(one: Shown) -> Iterator[Message]:
    if not one.banners:
        return
    left, top, right, bottom = box_of(one.lines, placed(one.caption, one.style))
    for banner in one.banners:
        if banner.start_ms >= one.caption.end_ms or banner.end_ms <= one.caption.start_ms:
            continue
        if left < banner.right and right > banner.left and top < banner.bottom and bottom > banner.top:
            yield Message("covers lettering in the picture")
            return


_SMALL = "one two three four five six seven eight nine ten".split()


@check("numbers", "Numbers")
def _numbers(one: Shown) -> Iterator[Message]:
    wanted = one.style.numbers
    for word in re.findall(r"\w+", " ".join(one.lines)):
        if wanted == "words" and word.isdigit() and 1 <= int(word) <= 10 and one.language.startswith("en"):
            yield Message(
                "“{word}” is written in figures: “{wanted}”", word=word, wanted=_SMALL[int(word) - 1]
            )
        elif wanted == "figures" and word.lower() in _SMALL[1:] and one.language.startswith("en"):
            yield Message(
                "“{word}” is written as a word: “{wanted}”", word=word, wanted=_SMALL.index(word.lower()) + 1
            )


@check("dashes", "Dashes")
def _dashes(one: Shown) -> Iterator[Message]:
    if one.caption.dashed and not one.style.dashes:
        yield Message("has dashes; the house style has none")
    elif not one.caption.words and one.style.dashes:
        marks = {line[:1] for line in one.lines if line[:1] in "-–—"}
        if marks - {"–"}:
            yield Message("has a different dash from the house style")


@check("spaces", "Spaces", fixed_by="text")
def _spaces(one: Shown) -> Iterator[Message]:
    if any("  " in line or line != line.strip() for line in one.lines):
        yield Message("has double spaces")


_PAIRS = tuple(map(tuple, ("()", "[]", "{}", "“”", "«»", "「」")))


@check("unclosed", "Unclosed quotes", must=False)
def _unclosed(one: Shown) -> Iterator[Message]:
    text = " ".join(one.lines)
    for opening, closing in _PAIRS:
        if text.count(opening) != text.count(closing):
            if opening == "“":
                yield Message("a quotation is not closed")
            else:
                yield Message("“{opening}” or “{closing}” stands alone", opening=opening, closing=closing)


OURS = (
    _speed,
    _lines,
    _line_length,
    _short,
    _long,
    _gap,
    _overlap,
    _shot,
    _speaker,
    _lettering,
    _elsewhere("contrast", "Too little contrast"),
    _numbers,
    _dashes,
    _spaces,
    _phrase,
    _orphan,
    _uneven,
    _in_time,
    _out_time,
    _unclosed,
    _elsewhere("backwards", "Ends before it begins", "times"),
    _elsewhere("no caption", "Words in no caption"),
)
REGISTER = Register("dubrel.checks", Check, {"checks": f"{__name__}:OURS"})
_found, PROBLEMS = REGISTER.load_all()
RULES: dict[str, Check] = {}
for _one in _found:
    RULES.setdefault(_one.id, _one)


def findings_of(one: Shown) -> list[Finding]:
    """Everything that is wrong with a caption, in the order of the table."""
    if one.span <= 0:
        return [Finding("backwards", Message("ends before it begins"))]
    if not one.lines:
        return []  # all its words are struck: nothing is shown
    return [Finding(rule, message) for rule, check in RULES.items() for message in check.look(one)]
