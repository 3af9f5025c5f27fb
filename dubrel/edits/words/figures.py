"""Figures as words, or words as figures, by house rule."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache

from dubrel.base.text import bare_word, ends_sentence
from dubrel.edits.words.casing import capital, marks_of
from dubrel.edits.words.cleaning import Proposal
from dubrel.model import Project, Turn

WORDS_UP_TO = 12
"""Up to here a house that writes small numbers in words does so."""
_MOST = 999_999


@lru_cache(maxsize=8)
def _spelt(language: str, most: int = 100) -> dict[str, int]:
    """Words for the numbers below a hundred, and hundred, thousand, in English."""
    from num2words import num2words

    return {num2words(value, lang=language): value for value in range(most)}


def figures_as_words(project: Project, up_to: int = WORDS_UP_TO) -> list[Proposal]:
    """Whole numbers up to a limit, written in words; not beside units, signs or other figures."""
    language = project.transcript.language.split("-")[0].lower()
    found = []
    for turn in project.transcript.turns:
        for place, word in enumerate(turn.words):
            stem, mark, closers = marks_of(word.text)
            if (
                not stem.isascii()
                or not stem.isdigit()
                or not 0 <= int(stem) <= up_to
                or (len(stem) > 1 and stem[0] == "0")
            ):
                continue
            text = _in_words(int(stem), language)
            if text and " " not in text:
                begins = place == 0 or ends_sentence(turn.words[place - 1].text)
                text = capital(text) if begins else text
                found.append(Proposal("figures", turn.id, (word,), (text + mark + closers,)))
    return found


def _in_words(value: int, language: str) -> str:
    from num2words import num2words

    try:
        return str(num2words(value, lang=language))
    except NotImplementedError:
        return ""


def words_as_figures(project: Project, above: int = WORDS_UP_TO) -> list[Proposal]:
    """Numbers in words above a limit, written in figures; English only, whole numbers below a million."""
    if project.transcript.language.split("-")[0].lower() != "en":
        return []
    return [one for turn in project.transcript.turns for one in _numbers_in(turn, above)]


def _numbers_in(turn: Turn, above: int) -> Iterator[Proposal]:
    parts = [_parts_of(word.text) for word in turn.words]
    place = 0
    while place < len(parts):
        stop = place
        while stop < len(parts) and (parts[stop] or _is_and(turn, parts, stop, place)):
            stop += 1
            if marks_of(turn.words[stop - 1].text)[1]:
                break
        value = number_of([one for row in parts[place:stop] for one in row])
        if value is not None and value > above:
            words = turn.words[place:stop]
            _, mark, closers = marks_of(words[-1].text)
            figure = f"{value:,}" if value >= 10_000 else str(value)
            becomes = (figure + mark + closers, *("" for _ in words[1:]))
            yield Proposal("figures", turn.id, words, becomes)
        place = max(stop, place + 1)


def _is_and(turn: Turn, parts: Sequence[Sequence[str]], at: int, first: int) -> bool:
    """“and” within a number: after hundred or thousand, before another number word."""
    return (
        at > first
        and bare_word(turn.words[at].text) == "and"
        and not marks_of(turn.words[at].text)[1]
        and at + 1 < len(parts)
        and bool(parts[at + 1])
        and parts[at - 1][-1:] in (["hundred"], ["thousand"])
    )


def _parts_of(text: str) -> list[str]:
    """The number words of a written word; none where it is anything else."""
    pieces = marks_of(text)[0].casefold().split("-")
    known = _spelt("en", 20).keys() | set(
        "twenty thirty forty fifty sixty seventy eighty ninety hundred thousand".split()
    )
    return pieces if all(one in known for one in pieces) else []


def number_of(parts: Sequence[str]) -> int | None:
    """The value of number words; ``None`` where they are no one number.

    Examples
    --------
    >>> number_of("four thousand two hundred".split()), number_of("nineteen eighty one".split())
    (4200, 1981)
    >>> number_of("one two three".split()) is None
    True
    """
    small = _spelt("en", 20) | {
        one: 20 + 10 * k
        for k, one in enumerate("twenty thirty forty fifty sixty seventy eighty ninety".split())
    }
    total, now, last = 0, 0, "none"
    for part in parts:
        if part == "hundred":
            if not 1 <= now <= 9 or last != "small":
                return None
            now, last = now * 100, "hundred"
        elif part == "thousand":
            if not now or total:
                return None
            total, now, last = now * 1000, 0, "thousand"
        else:
            value = small[part]
            if last == "tens" and 0 < value < 10:
                now += value
                last = "small"
            elif last in ("none", "thousand", "hundred"):
                now += value
                last = "tens" if value >= 20 else "small"
            elif 10 <= now <= 20 and total == 0 and value >= 20 and last == "small":
                now, last = now * 100 + value, "tens"  # a year: nineteen eighty
            else:
                return None
    value = total + now
    return value if parts and 0 <= value <= _MOST else None
