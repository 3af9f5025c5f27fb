"""Paste a text over a selection: what it says in common with the words there keeps their ids and times.

However many turns the selection touches, each word that stays keeps its turn;
what is new goes where its neighbours are. Times of new words are shares of the
gap or of the words they replace until they are found in the sound.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from itertools import groupby

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.text import bare_word
from dubrel.base.textpairs import pair_words
from dubrel.base.value import Value, replace
from dubrel.edits.words.wording import in_slots, replace_range, units_of, with_gaps, with_turns
from dubrel.model import Project, Timing, Turn, Word
from dubrel.project.follow import rewords
from dubrel.project.followspeakers import speakers_followed
from dubrel.project.index import turn_place

MOST_WORDS = 60_000
_FEW = 3  # so few words are typed rather than aligned
_INVISIBLE = re.compile(
    "[\x00-\x08\x0e-\x1f\x7f-\x84\x86-\x9f\u00ad\u061c\u180e\u200b\u200e\u200f"
    "\u202a-\u202e\u2060-\u2064\u2066-\u206f\ufeff\ufff9-\ufffb\ud800-\udfff]"
)
_PARAGRAPH = re.compile(r"\n[^\S\n]*\n+")


def cleaned(text: str) -> str:
    r"""A text from elsewhere without control characters and marks that nobody sees; line ends as ``\n``.

    Joiners within words (U+200C, U+200D) stay: scripts and signs are written with them.

    Examples
    --------
    >>> cleaned("boat\u200byard\tone\r\ntwo\x07")
    'boatyard\tone\ntwo'
    """
    lines = text.replace("\r\n", "\n").replace("\r", "\n").replace("\u2028", "\n").replace("\u2029", "\n\n")
    return _INVISIBLE.sub("", lines)


class _Token(Value):
    text: str
    begins: bool  # a paragraph
    spaced: bool = False
    verse: bool = False  # a line of a song begins with it


def pasted(project: Project, first: tuple[int, int], last: tuple[int, int], text: str) -> Project:
    """Replace a range that may reach over several turns by a text from elsewhere.

    Parameters
    ----------
    first, last : tuple of (turn id, character)
        Begin and end of the range, in order.
    text : str
        Blank lines in it part paragraphs; line ends begin lines where the turns have lines of a song.

    Raises
    ------
    DubrelError
        If the text is longer than any recording.
    """
    text = cleaned(text)
    start, stop = turn_place(project, first[0]), turn_place(project, last[0])
    turns = project.transcript.turns[start : stop + 1]
    low, high, head, tail = _whole_words(turns, first[1], last[1])
    old = [(nth, word) for nth, turn in enumerate(turns) for word in turn.words]
    lined = any("\n" in turn.lined for turn in turns)
    begins = (old[low][1].spaced, old[low][1].verse) if low < len(old) else (False, False)
    tokens = _tokens(head + text + tail, lined, begins)
    if len(tokens) > MOST_WORDS:
        raise DubrelError(
            tr(
                "The text to paste has {tokens:,} words, more than a recording can hold. Paste it in parts."
            ).format(tokens=len(tokens))
        )
    if high - low <= 1 or len(tokens) <= _FEW:
        return replace_range(project, first, last, text)
    made, next_id = _matched(old[low:high], tokens, old, (low, high), project.next_id)
    rows = [(nth, word, False) for nth, word in old[:low]] + made
    rows += [(nth, word, False) for nth, word in old[high:]]
    return speakers_followed(project, _put(project, start, stop, turns, rows, next_id))


def _whole_words(turns: Sequence[Turn], begin: int, end: int) -> tuple[int, int, str, str]:
    """The words that a range touches (places among all words), and what of them lies outside it."""
    head_turn, tail_turn = turns[0], turns[-1]
    before = sum(len(turn.words) for turn in turns[:-1])
    low = sum(at + len(word.text) < begin for at, word in zip(head_turn.offsets, head_turn.words))
    high = before + sum(at <= end for at in tail_turn.offsets)
    head = head_turn.lined[head_turn.offsets[low] : begin] if low < len(head_turn.words) else ""
    last = high - before - 1
    tail = ""
    if last >= 0:
        tail = tail_turn.lined[end : tail_turn.offsets[last] + len(tail_turn.words[last].text)]
    return low, high, head, tail


def _tokens(text: str, lined: bool, first: tuple[bool, bool]) -> list[_Token]:
    found: list[_Token] = []
    for paragraph in _PARAGRAPH.split(text):
        begins = bool(found)
        for unit, spaced, verse in units_of(
            paragraph, lined=lined, first=(False, lined) if begins else first
        ):
            found.append(_Token(unit, begins, spaced, verse))
            begins = False
    return found


_Row = tuple[int, Word, bool]  # which turn, the word, whether a paragraph begins with it


def _matched(
    old: Sequence[tuple[int, Word]],
    tokens: Sequence[_Token],
    every: Sequence[tuple[int, Word]],
    span: tuple[int, int],
    next_id: int,
) -> tuple[list[_Row], int]:
    """The tokens as words, each in a turn."""
    pairing = pair_words(
        [bare_word(word.text) or word.text for _, word in old],
        [bare_word(one.text) or one.text for one in tokens],
    )
    places_of = {theirs: k for k, (_, theirs) in enumerate(pairing.pairs) if theirs is not None}
    rows: list[_Row] = []
    for same, ours, theirs in _blocks(pairing.pairs, old, tokens):
        if same:
            nth, word = old[ours[0]]
            token = tokens[theirs[0]]
            kept = word if word.text == token.text else replace(word, text=token.text, doubt=0.0)
            kept = with_gaps([kept], [(token.spaced, token.verse)])[0]
            rows.append((nth, kept, token.begins))
        elif theirs:
            fresh = [tokens[k] for k in theirs]
            if ours:
                block = [old[k] for k in ours]
                words = in_slots(tuple(word for _, word in block), [one.text for one in fresh], next_id)
                behind = span[0] + ours[-1] + 1
                if behind < len(every):  # it may begin before the last of these ends
                    words = _no_later(words, every[behind][1].start_ms)
                homes = [nth for nth, _ in block]
                places = [homes[min(k * len(homes) // len(words), len(homes) - 1)] for k in range(len(words))]
            else:
                before = rows[-1] if rows else None
                words, place = _in_gap(
                    fresh,
                    before,
                    _word_after(pairing.pairs, places_of[theirs[-1]], old, every, span),
                    next_id,
                )
                places = [place] * len(words)
            next_id += max(0, len(words) - len(ours))
            words = with_gaps(words, [(one.spaced, one.verse) for one in fresh])
            rows += [(nth, word, one.begins) for nth, word, one in zip(places, words, fresh)]
    return rows, next_id


def _no_later(words: list[Word], latest: int) -> list[Word]:
    """Words none of which begins after a time: the next word keeps its own."""
    return [
        (
            word
            if word.start_ms <= latest
            else replace(word, start_ms=latest, end_ms=max(latest, min(word.end_ms, latest)))
        )
        for word in words
    ]


def _blocks(
    pairs: Sequence[tuple[int | None, int | None]], old: Sequence[tuple[int, Word]], tokens: Sequence[_Token]
) -> Iterator[tuple[bool, list[int], list[int]]]:
    """Pairs that say the same one by one; runs of others together."""

    def same(pair: tuple[int | None, int | None]) -> bool:
        ours, theirs = pair
        if ours is None or theirs is None:
            return False
        return _alike(old[ours][1].text, tokens[theirs].text)

    for agrees, run in groupby(pairs, same):
        rows = list(run)
        if agrees:
            yield from ((True, [a], [b]) for a, b in rows if a is not None and b is not None)
        else:
            yield False, [a for a, _ in rows if a is not None], [b for _, b in rows if b is not None]


def _alike(ours: str, theirs: str) -> bool:
    return ours == theirs or (bare_word(ours) or ours) == (bare_word(theirs) or theirs)


def _word_after(
    pairs: Sequence[tuple[int | None, int | None]],
    last: int,
    old: Sequence[tuple[int, Word]],
    every: Sequence[tuple[int, Word]],
    span: tuple[int, int],
) -> tuple[int, Word] | None:
    """The next old word behind new ones, in the selection or behind it."""
    ours = next((a for a, _ in pairs[last:] if a is not None), None)
    if ours is not None:
        return old[ours]
    return every[span[1]] if span[1] < len(every) else None


def _in_gap(
    fresh: Sequence[_Token], before: _Row | None, after: tuple[int, Word] | None, next_id: int
) -> tuple[list[Word], int]:
    """New words between two others share the gap, by their lengths."""
    place = before[0] if before else after[0] if after else 0
    high = after[1].start_ms if after else (before[1].end_ms if before else 0)
    low = before[1].end_ms if before else high
    low = min(low, high)
    total, done = sum(len(one.text) for one in fresh), 0
    words = []
    for nth, one in enumerate(fresh):
        start = low + (high - low) * done // total
        done += len(one.text)
        end = low + (high - low) * done // total
        words.append(Word(next_id + nth, one.text, start, end, timing=Timing.TYPED))
    return words, place


@rewords
def _put(
    project: Project, start: int, stop: int, turns: Sequence[Turn], rows: Sequence[_Row], next_id: int
) -> Project:
    """The rows as turns: those that were, cut where a paragraph begins."""
    made: list[Turn] = []
    following = project.transcript.turns[stop + 1 : stop + 2]
    latest = following[0].start_ms if following else None
    for nth, run in groupby(_rising(rows, latest), lambda row: row[0]):
        pieces: list[list[Word]] = []
        for place, (_, word, begins) in enumerate(run):
            if place == 0 or (begins and pieces[-1]):
                pieces.append([])
            pieces[-1].append(word)
        for place, words in enumerate(pieces):
            turn_id = turns[nth].id if place == 0 else next_id
            next_id += place > 0
            made.append(replace(turns[nth], id=turn_id, words=tuple(words)))
    return replace(with_turns(project, start, stop + 1, *made), next_id=next_id)


def _rising(rows: Sequence[_Row], latest: int | None) -> Iterator[_Row]:
    """The rows with the number of their turn never falling, their times in order and before the next turn."""
    turn = at = 0
    for nth, word, begins in rows:
        turn = max(turn, nth)
        if latest is not None and word.start_ms > latest:
            word = replace(word, start_ms=latest, end_ms=max(latest, min(word.end_ms, latest)))
        if word.start_ms < at:
            word = replace(word, start_ms=at, end_ms=max(at, word.end_ms))
        at = word.start_ms
        yield turn, word, begins
