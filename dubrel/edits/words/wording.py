"""Change the wording and keep every time that can be kept.

A turn's text is its words with one space between them. An edit names a range
of characters in it; words outside the range stay the same objects, a changed
word keeps its slot, added words share the gap or the slot they came from,
and deleted words leave their time free. In a turn with the lines of a song a
line end is kept like a letter; elsewhere it is a space like any other.
"""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence

from dubrel.base.text import gap, spaced_units
from dubrel.base.value import replace
from dubrel.model import Project, Timing, Turn, Word
from dubrel.project.follow import rewords
from dubrel.project.followspeakers import speakers_followed
from dubrel.project.index import turn_place


def with_turns(project: Project, start: int, stop: int, *turns: Turn) -> Project:
    """The project with the turns from ``start`` to ``stop`` replaced."""
    old = project.transcript.turns
    transcript = replace(project.transcript, turns=(*old[:start], *turns, *old[stop:]))
    return replace(project, transcript=transcript)


def replace_text(project: Project, turn_id: int, start: int, end: int, text: str) -> Project:
    """Replace a range of characters of one turn.

    Parameters
    ----------
    project : Project
    turn_id : int
    start, end : int
        Range in ``turn.text``.
    text : str
        What to put there; any run of white space parts words, and a line end
        in it begins a line where the turn has lines.

    Returns
    -------
    Project
        The same object if nothing changes. A turn without words is removed.
    """
    return replace_texts(project, {turn_id: [(start, end, text)]})


@rewords
def replace_texts(project: Project, ranges: Mapping[int, Sequence[tuple[int, int, str]]]) -> Project:
    """Replace ranges of characters in turns, by their ids, at the cost of one step.

    Parameters
    ----------
    ranges : mapping of int to sequence of (int, int, str)
        See :func:`replace_text`; those of one turn do not overlap.

    Returns
    -------
    Project
        The same object if nothing changes. A turn without words is removed.
    """
    old = project.transcript.turns
    present: list[Turn | None] = [*old]
    fresh = project.next_id
    for turn_id, wished in ranges.items():
        place = turn_place(project, turn_id)
        after = old[place + 1] if place + 1 < len(old) else None
        for start, end, text in sorted(wished, reverse=True):
            turn = present[place]
            if turn is not None:
                present[place], fresh = _replaced(turn, after, (start, end, text), fresh)
    if all(one is other for one, other in zip(present, old)):
        return project
    turns = tuple(one for one in present if one is not None)
    return replace(project, transcript=replace(project.transcript, turns=turns), next_id=fresh)


def _replaced(
    turn: Turn, after: Turn | None, wished: tuple[int, int, str], fresh: int
) -> tuple[Turn | None, int]:
    """A turn with a range replaced, ``None`` where no word is left; and the next free id."""
    start, end, text = wished
    first = bisect_left(
        range(len(turn.words)), start, key=lambda k: turn.offsets[k] + len(turn.words[k].text)
    )
    last = bisect_right(turn.offsets, end)
    first, last = _touched(turn, first, last, start, end, text)
    old, said = turn.words[first:last], turn.lined
    if said[start:end] == "\n" and not text:
        text = " "  # a line goes on where it ended: its words stay two
    if old:
        tail = turn.offsets[last - 1] + len(old[-1].text)
        fragment = said[turn.offsets[first] : start] + text + said[end:tail]
    else:
        fragment = text
    units = units_of(fragment, lined="\n" in said, first=(old[0].spaced, old[0].verse) if old else _PLAIN)
    if not units and old and old[0].verse and last < len(turn.words):  # its line begins with the next now
        units, last = [(turn.words[last].text, old[0].spaced, True)], last + 1
    return _with_units(turn, after, (first, last), units, fresh)


_Unit = tuple[str, bool, bool]  # what a word says, whether a space it needs not stands before it, a new line


_PLAIN = (False, False)


def units_of(text: str, *, lined: bool, first: tuple[bool, bool]) -> list[_Unit]:
    """The words of a text.

    Parameters
    ----------
    text : str
    lined : bool
        Words behind line ends begin lines.
    first : tuple of (bool, bool)
        What stood before the word with which the text begins: a space that it
        needs not, the beginning of a line.
    """
    found: list[_Unit] = []
    for line in re.split("[\n\u2028\u2029]", text) if lined else [text]:
        opens = bool(found)
        for unit, spaced in spaced_units(line):
            asked = opens and not gap(found[-1][0], unit)
            found.append((unit, spaced or asked, opens))
            opens = False
    return [(found[0][0], *first), *found[1:]] if found else []


def _touched(turn: Turn, first: int, last: int, start: int, end: int, text: str) -> tuple[int, int]:
    """The words that a change really touches where no space stands between words.

    What is written between two words belongs to the first of them; what is
    deleted between two words touches neither.
    """
    if first + 1 < last and turn.offsets[first + 1] == start and not text:
        first += 1  # the change begins where a word without a space before it begins
    if (
        first < last - 1
        and not text[-1:].isspace()
        and turn.offsets[last - 1] == end == turn.offsets[last - 2] + len(turn.words[last - 2].text)
    ):
        last -= 1
    return first, last


def _with_units(
    turn: Turn, after: Turn | None, span: tuple[int, int], units: list[_Unit], fresh: int
) -> tuple[Turn | None, int]:
    """A turn with other words from one place to another; those that say the same stay."""
    first, last = span
    while first < last and units and _says(turn.words[first], units[0]):
        first, units = first + 1, units[1:]
    while first < last and units and _says(turn.words[last - 1], units[-1]):
        last, units = last - 1, units[:-1]
    tokens = [text for text, _, _ in units]
    old = turn.words[first:last]
    if not old and not tokens:
        return turn, fresh
    new = in_slots(old, tokens, fresh) if old else _insert(turn, first, tokens, fresh, after)
    new = with_gaps(new, [(spaced, verse) for _, spaced, verse in units])
    following = turn.words[last].start_ms if last < len(turn.words) else after.start_ms if after else None
    if following is not None and first:  # never before what is said before it
        following = max(following, turn.words[first - 1].start_ms)
    if following is not None:  # where turns overlap, what is said next still begins later
        new = [word if word.start_ms <= following else replace(word, start_ms=following) for word in new]
        new = [word if word.start_ms <= word.end_ms else replace(word, end_ms=word.start_ms) for word in new]
    words = (*turn.words[:first], *new, *turn.words[last:])
    return replace(turn, words=words) if words else None, fresh + max(0, len(new) - len(old))


def _says(word: Word, unit: _Unit) -> bool:
    return (word.text, word.spaced, word.verse) == unit


def with_gaps(words: list[Word], gaps: list[tuple[bool, bool]]) -> list[Word]:
    """Words with what stands before each: a space its script does not ask for, and a new line of a song."""
    return [
        word if (word.spaced, word.verse) == one else replace(word, spaced=one[0], verse=one[1])
        for word, one in zip(words, gaps)
    ]


def in_slots(old: tuple[Word, ...], tokens: list[str], next_id: int) -> list[Word]:
    """New texts in the slots of old words; ids are kept as far as they go.

    What is known of an old word (struck, who speaks along) holds for the one
    that takes the middle of its place.
    """
    if len(tokens) == len(old):
        return [replace(word, text=token, doubt=0.0) for word, token in zip(old, tokens)]
    slots = _share(old, tokens)
    ids = [word.id for word in old] + list(range(next_id, next_id + max(0, len(tokens) - len(old))))
    made, middles = [], _middles(old, tokens)
    for one, token, (start, end), known in zip(ids, tokens, slots, middles):
        kept = {"struck": known.struck, "also": known.also, "sure": known.sure}
        made.append(Word(one, token, start, end, timing=Timing.TYPED, **kept))  # type: ignore[arg-type]
    return made


def _middles(old: tuple[Word, ...], tokens: list[str]) -> list[Word]:
    """For each new word, the old word that stood where its middle stands, by characters."""
    ends, total = [], 0
    for word in old:
        total += max(1, len(word.text))
        ends.append(total)
    wanted, done, found = sum(len(token) for token in tokens), 0, []
    for token in tokens:
        middle = (done + len(token) / 2) / wanted * total
        found.append(old[min(bisect_right(ends, middle), len(old) - 1)])
        done += len(token)
    return found


def _share(old: tuple[Word, ...], tokens: list[str]) -> list[tuple[int, int]]:
    """Cut the time of some words into slots for others, by their lengths.

    Characters are laid along the old words' own times, so a cut falls in the
    word and at the share of it that the characters say; pauses between the old
    words stay where they were.
    """
    lengths = [max(1, len(word.text)) for word in old]
    total, wanted = sum(lengths), sum(len(token) for token in tokens)

    def time_at(share: float, *, closing: bool) -> int:
        left = share * total
        for word, length in zip(old, lengths):
            if left < length or (closing and left == length) or word is old[-1]:
                part = min(1.0, left / length)
                return round(word.start_ms + part * (word.end_ms - word.start_ms))
            left -= length
        return old[-1].end_ms

    slots, done = [], 0
    for token in tokens:
        start = time_at(done / wanted, closing=False)
        done += len(token)
        slots.append((start, max(start, time_at(done / wanted, closing=True))))
    return slots


def _insert(turn: Turn, place: int, tokens: list[str], next_id: int, after: Turn | None = None) -> list[Word]:
    """Words where none were: they share the gap, by their lengths.

    Before what ``after`` says where that overlaps.
    """
    start = turn.words[place - 1].end_ms if place else turn.start_ms
    if place < len(turn.words):
        start = min(start, turn.words[place].start_ms)
    elif after is not None:
        start = max(min(start, after.start_ms), turn.words[place - 1].start_ms if place else 0)
    end = turn.words[place].start_ms if place < len(turn.words) else start
    total, done = sum(len(token) for token in tokens), 0
    words: list[Word] = []
    for token in tokens:
        begin = start + (end - start) * done // total
        done += len(token)
        words.append(
            Word(
                next_id + len(words),
                token,
                begin,
                start + (end - start) * done // total,
                timing=Timing.TYPED,
            )
        )
    return words


def split_turn(project: Project, turn_id: int, at: int) -> Project:
    """Split a turn at a character; inside a word, the word is split first.

    Returns
    -------
    Project
        The same object where one part would be empty.
    """
    place = turn_place(project, turn_id)
    turn = project.transcript.turns[place]
    if turn.text[:at].strip() and turn.text[at:].strip() and " " not in turn.text[at - 1 : at + 1]:
        project = replace_text(project, turn_id, at, at, " ")
        turn = project.transcript.turns[place]
        at += 1
    cut = bisect_left(turn.offsets, at)
    if cut in (0, len(turn.words)):
        return project
    head = replace(turn, words=turn.words[:cut])
    tail = replace(turn, id=project.next_id, words=turn.words[cut:])
    return replace(with_turns(project, place, place + 1, head, tail), next_id=project.next_id + 1)


def join_turn(project: Project, turn_id: int) -> Project:
    """Join a turn to the one before it, whose speaker it takes: by that a person has said who speaks.

    Returns
    -------
    Project
        The same object for the first turn.
    """
    place = turn_place(project, turn_id)
    if place == 0:
        return project
    first, second = project.transcript.turns[place - 1 : place + 1]
    joined = replace(
        first,
        words=first.words + handed(second.words, second.speaker, first.speaker),
        confirmed=first.speaker is not None
        and (first.confirmed or second.confirmed or first.speaker != second.speaker),
    )
    return with_turns(project, place - 1, place + 1, _proofed_as(joined, first, second))


def _proofed_as(turn: Turn, first: Turn, second: Turn) -> Turn:
    """A turn of two is proofed where both were; it has changed since where either had."""
    both = first.proofed and second.proofed
    return replace(turn, proofed=both, reworded=both and (first.reworded or second.reworded))


def handed(words: tuple[Word, ...], before: str | None, after: str | None) -> tuple[Word, ...]:
    """Words that go from one speaker to another.

    Where the other one was said to speak at the same time, it is now the first who does.
    """
    if after is None or not any(word.also == after for word in words):
        return words
    return tuple(replace(word, also=before) if word.also == after else word for word in words)


@rewords
def join_words(project: Project, turn_id: int, first: int, stop: int) -> Project:
    """Join some words of a turn ("boat yard" to "boatyard").

    Parameters
    ----------
    turn_id : int
    first, stop : int
        Places of the words in the turn, from and to.

    Returns
    -------
    Project
        The joined word has the first one's id and lasts from its in time to the
        last one's out time. The same object where there are fewer than two.
    """
    place = turn_place(project, turn_id)
    turn = project.transcript.turns[place]
    old = turn.words[first:stop]
    if len(old) < 2:
        return project
    timings = {word.timing for word in old}
    joined = replace(
        old[0],
        text="".join(word.text for word in old),
        end_ms=max(word.end_ms for word in old),
        doubt=0.0,
        timing=timings.pop() if len(timings) == 1 else Timing.SPREAD,
        struck=all(word.struck for word in old),
        filler=all(word.filler for word in old),
    )
    words = (*turn.words[:first], joined, *turn.words[stop:])
    return with_turns(project, place, place + 1, replace(turn, words=words))


def replace_range(project: Project, first: tuple[int, int], last: tuple[int, int], text: str) -> Project:
    """Replace a range that may reach over several turns.

    Parameters
    ----------
    first, last : tuple of (turn id, character)
        Begin and end of the range, in order.
    text : str
        What to put there.
    """
    if first[0] == last[0]:
        return replace_text(project, first[0], first[1], last[1], text)
    start, stop = turn_place(project, first[0]), turn_place(project, last[0])
    end = len(project.transcript.turns[start].text) + 1 + last[1]
    made = replace_text(_as_one(project, start, stop), first[0], first[1], end, text)
    return speakers_followed(project, made)


@rewords
def _as_one(project: Project, start: int, stop: int) -> Project:
    """Two turns joined by places; those between them go."""
    head, rest = project.transcript.turns[start], project.transcript.turns[stop]
    words = head.words + handed(rest.words, rest.speaker, head.speaker)
    joined = _proofed_as(replace(head, words=words), head, rest)
    return with_turns(project, start, stop + 1, joined)


def moved_range(
    project: Project, first: tuple[int, int], last: tuple[int, int], goal: tuple[int, int], text: str
) -> Project:
    """Move a text from a range to a place outside of it.

    Parameters
    ----------
    first, last, goal : tuple of (turn id, character)
    text : str
        What stands in the range, as it is to stand at the goal.

    Returns
    -------
    Project
        The moved words share the gap at the goal until they are aligned; all others keep their times.
    """
    order = turn_place(project, goal[0]), goal[1]
    before = order <= (turn_place(project, first[0]), first[1])
    if not before:  # what stands later first: places before it stay
        project = _put_at(project, goal, text)
        return replace_range(project, first, last, "")
    length = len(project.transcript.turns[turn_place(project, first[0])].text)
    made = _put_at(project, goal, text)
    grown = len(made.transcript.turns[turn_place(made, first[0])].text) - length
    shift = grown if goal[0] == first[0] else 0
    shift_last = shift if last[0] == goal[0] else 0
    return replace_range(made, (first[0], first[1] + shift), (last[0], last[1] + shift_last), "")


def _put_at(project: Project, goal: tuple[int, int], text: str) -> Project:
    """Words at a place: it is moved to the nearest border between two words."""
    turn = project.transcript.turns[turn_place(project, goal[0])]
    at = goal[1]
    inside = bisect_right(turn.offsets, at) - 1
    if 0 < at < len(turn.text) and turn.offsets[inside] < at < turn.offsets[inside] + len(
        turn.words[inside].text
    ):
        at = turn.offsets[inside]
    return replace_text(project, goal[0], at, at, f" {text} ")


def set_proofed(project: Project, turn_id: int, proofed: bool) -> Project:
    """Tick a turn off, or take the tick away; a proofed turn has no doubts left."""
    place = turn_place(project, turn_id)
    turn = project.transcript.turns[place]
    if turn.proofed == proofed and not turn.reworded:
        return project
    words = turn.words
    if proofed:
        words = tuple(replace(word, doubt=0.0) if word.doubt else word for word in words)
    return with_turns(project, place, place + 1, replace(turn, words=words, proofed=proofed, reworded=False))


def accept_word(project: Project, turn_id: int, word_id: int) -> Project:
    """Say that a doubtful word is right: its doubt becomes zero."""
    place = turn_place(project, turn_id)
    turn = project.transcript.turns[place]
    at = turn.index_of[word_id]
    if turn.words[at].doubt == 0:
        return project
    words = (*turn.words[:at], replace(turn.words[at], doubt=0.0), *turn.words[at + 1 :])
    return with_turns(project, place, place + 1, replace(turn, words=words))
