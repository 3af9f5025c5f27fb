"""The checks of a translation: a table, each with its name, its weight and what it looks at."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from functools import lru_cache

from rapidfuzz.distance import JaroWinkler

from dubrel.base.catalogue import Message
from dubrel.base.languages import likely_languages, main_tag
from dubrel.base.text import bare_word
from dubrel.base.value import Value
from dubrel.model import Term
from dubrel.translation.glossary import forbidden_in, missing_in, spots_of
from dubrel.translation.meaning import LENGTHS, verdict
from dubrel.translation.preparing import fixed_in
from dubrel.translation.wordlists import negates, negations, numbers_in

_SHORT, _LONG, _LENGTH_LEAST = 0.45, 2.3, 24
_LETTERS_LEAST = 18  # of a text, to tell its language
_MARGIN = 12.0  # of log likelihood, by which another language must be ahead
_SAME_NAME = 0.75


class Told(Value):
    """A sentence, its translation and all that checks look at.

    Attributes
    ----------
    source, target : str
    source_language, language : str
    terms : sequence of Term
    names : sequence of str
        Names that must be in both.
    meaning : float or None
        See :func:`dubrel.translation.meaning.meanings`.
    back : str
        The translation translated back; empty where that is not known.
    changed : tuple of (str, str)
        What was said when it was translated and is now.
    other : str
        Another translation of the same sentence in the same track.
    """

    source: str
    target: str
    source_language: str
    language: str
    terms: Sequence[Term] = ()
    names: Sequence[str] = ()
    meaning: float | None = None
    back: str = ""
    changed: tuple[tuple[str, str], ...] = ()
    other: str = ""


class Doubt(Value):
    """Something to look at.

    Attributes
    ----------
    rule : str
        One of ``CHECKS``.
    message : str
    """

    rule: str
    message: str

    @property
    def weight(self) -> int:
        """How pressing it is, 0 to 100."""
        return CHECKS[self.rule].weight

    @property
    def must(self) -> bool:
        """Whether it has to be looked at; advice otherwise."""
        return self.weight >= MUST


MUST = 40


class Check(Value):
    """One check.

    Attributes
    ----------
    id, label : str
    look : callable
        Gives a message for each thing that is wrong.
    weight : int
        From 100, what has to be looked at first; below ``MUST`` it is advice.
    """

    id: str
    label: str
    look: Callable[[Told], Iterator[str]]
    weight: int


def check(id: str, label: str, weight: int) -> Callable[[Callable[[Told], Iterator[str]]], Check]:
    """A function that looks at a translation as a check."""
    return lambda look: Check(id, label, look, weight)


@check("empty", "Not translated", 95)
def _empty(one: Told) -> Iterator[Message]:
    if not one.target.strip():
        yield Message("not translated yet")


@check("changed", "Original changed", 90)
def _changed(one: Told) -> Iterator[Message]:
    for was, now in one.changed[:2]:
        yield changed_words(was, now)


def changed_words(was: str, now: str) -> Message:
    """What became of words of the original."""
    if was and now:
        return Message("“{was}” is “{now}” now", was=was, now=now)
    return Message("“{now}” was added", now=now) if now else Message("“{was}” was removed", was=was)


@check("meaning", "Another meaning", 100)
def _meaning(one: Told) -> Iterator[Message]:
    if one.meaning is not None and verdict(one.meaning) == "wrong":
        yield Message("does not mean what is said ({share:.0%})", share=one.meaning)


@check("unsure", "Meaning in doubt", 55)
def _meaning_look(one: Told) -> Iterator[Message]:
    if one.meaning is not None and verdict(one.meaning) == "look":
        yield Message("may not mean what is said ({share:.0%})", share=one.meaning)


@check("language", "Another language", 85)
def _language(one: Told) -> Iterator[Message]:
    text = _without_names(one)
    if sum(sign.isalpha() for sign in text) < _LETTERS_LEAST or main_tag(one.language) == main_tag(
        one.source_language
    ):
        return
    found = _likely(text)
    if not found:
        return
    scores = dict(found)
    wanted = scores.get(main_tag(one.language))
    best = found[0][0]
    if (
        wanted is not None
        and best != main_tag(one.language)
        and best in _COMMON
        and found[0][1] - wanted > _MARGIN
    ):
        from dubrel.base.languages import language_name

        yield Message("is written in {language}", language=Message(language_name(best)))


_COMMON = frozenset("en pt es fr de it nl pl ru tr ja ko zh ar sv da no".split())


@lru_cache(maxsize=20_000)
def _likely(text: str) -> tuple[tuple[str, float], ...]:
    return tuple(likely_languages(text))


def _without_names(one: Told) -> str:
    names = {
        bare_word(word) for name in (*one.names, *(term.right for term in one.terms)) for word in name.split()
    }
    return " ".join(word for word in one.target.split() if bare_word(word) not in names)


@check("untranslated", "Words not translated", 65)
def _untranslated(one: Told) -> Iterator[Message]:
    ours = {bare_word(word) for word in one.source.split() if word[:1].islower() and len(bare_word(word)) > 2}
    theirs = [
        bare_word(word) for word in one.target.split() if word[:1].islower() and len(bare_word(word)) > 2
    ]
    same = [word for word in theirs if word in ours]
    if (
        main_tag(one.language) != main_tag(one.source_language)
        and len(same) >= 3
        and len(same) > 0.5 * len(theirs)
    ):
        yield Message("is not translated: “{words}”", words=" ".join(same[:4]))


@check("numbers", "Numbers", 75)
def _numbers(one: Told) -> Iterator[Message]:
    ours, theirs = numbers_in(one.source, one.source_language), numbers_in(one.target, one.language)
    lost, come = list(ours), []
    for value in theirs:
        if value in lost:
            lost.remove(value)
        else:
            come.append(value)
    if lost and come:
        yield Message("{was} became {now}", was=_row(lost), now=_row(come))
    elif lost and not _digits_agree(one):
        yield Message("{what} is missing", what=_row(lost))
    elif any(value > 12 for value in come) and not _digits_agree(one):
        yield Message("{what} is not said", what=_row(come))


def _digits_agree(one: Told) -> bool:
    """Whether the same digits stand there however they are grouped: “10.30” and “10h30”."""
    return bool(re.search(r"\d", one.source)) and sorted(re.findall(r"\d", one.source)) == sorted(
        re.findall(r"\d", one.target)
    )


def _row(values: Sequence[int]) -> str:
    return ", ".join(str(value) for value in values[:3])


@check("negation", "“Not” lost or added", 80)
def _negation(one: Told) -> Iterator[Message]:
    if not negations(one.source_language) or not negations(one.language):
        return
    ours, theirs = negates(one.source, one.source_language), negates(one.target, one.language)
    if ours and not theirs:
        yield Message("says it without the “not”")
    elif theirs and not ours:
        yield Message("says “not” where nobody did")


@check("length", "Too short or too long", 70)
def _length(one: Told) -> Iterator[Message]:
    usual = LENGTHS.get(main_tag(one.language))
    known = LENGTHS.get(main_tag(one.source_language))
    if usual is None or known is None or len(one.source) < _LENGTH_LEAST or not one.target.strip():
        return
    share = len(one.target) / (len(one.source) * usual / known)
    if share < _SHORT:
        yield Message("has {share:.0%} of the usual length", share=share)
    elif share > _LONG:
        yield Message("is {share:.1f} times as long as usual", share=share)


@check("question", "Question", 45)
def _question(one: Told) -> Iterator[Message]:
    ours, theirs = _asks(one.source), _asks(one.target)
    if ours != theirs and one.target.strip():
        yield (
            Message("asks nothing where something is asked")
            if ours
            else Message("asks where nothing is asked")
        )


def _asks(text: str) -> bool:
    return any(sign in text for sign in "?？؟")


@check("names", "Name missing", 50)
def _names(one: Told) -> Iterator[Message]:
    theirs = [bare_word(word) for word in one.target.split()]
    if not re.search("[a-zA-Z]", one.target):
        return  # in another script names are written otherwise
    for name in one.names:
        for word in name.split():
            bare = bare_word(word)
            if len(bare) < 3 or bare not in (bare_word(said) for said in one.source.split()):
                continue
            if not any(JaroWinkler.similarity(bare, other) >= _SAME_NAME for other in theirs):
                yield Message("“{what}” is missing", what=word)


@check("glossary", "Term not as in the glossary", 58)
def _glossary(one: Told) -> Iterator[Message]:
    for spot in missing_in(spots_of(one.source, one.terms, one.language), one.target):
        said, wanted = one.source[spot.start : spot.end], spot.wanted[0]
        if spot.term.keep:
            yield Message("“{said}” should stay as it is", said=said)
        else:
            yield Message("“{said}” should be “{wanted}”", said=said, wanted=wanted)


@check("forbidden", "Forbidden term", 60)
def _forbidden(one: Told) -> Iterator[Message]:
    for term, form in forbidden_in(one.terms, one.target, one.language):
        yield Message("“{form}” must not stand for “{term}”", form=form, term=term.right)


@check("tags", "Tag or address missing", 48)
def _tags(one: Told) -> Iterator[Message]:
    for _, _, text in fixed_in(one.source):
        if text not in one.target and one.target.strip():
            yield Message("“{what}” is missing", what=text)


@check("music", "Music sign", 30)
def _music(one: Told) -> Iterator[Message]:
    if one.target.strip() and ("♪" in one.source) != ("♪" in one.target):
        yield (
            Message("the music sign is missing")
            if "♪" in one.source
            else Message("has a music sign that the original has not")
        )


@check("ending", "Mark at the end", 10)
def _ending(one: Told) -> Iterator[Message]:
    if not one.target.strip() or _asks(one.source):
        return
    ours, theirs = (_end(text) for text in (one.source, one.target))
    if ours != theirs:
        yield (
            Message("ends with a different mark")
            if theirs and ours
            else Message("has no mark at its end")
            if ours
            else Message("ends with a mark")
        )


def _end(text: str) -> str:
    bare = text.rstrip(" \"'”’»)]♪")
    return {".": ".", "。": ".", "…": ".", "!": ".", "！": ".", ":": ":", "-": ",", "–": ",", "—": ","}.get(
        bare[-1:], ""
    )


@check("consistency", "Translated in two ways", 25)
def _consistency(one: Told) -> Iterator[Message]:
    if one.other:
        yield Message("elsewhere the same is “{text}”", text=_short(one.other))


def _short(text: str, most: int = 60) -> str:
    return text if len(text) <= most else text[: most - 1].rstrip() + "…"


CHECKS: dict[str, Check] = {
    one.id: one
    for one in (
        _meaning,
        _empty,
        _changed,
        _language,
        _negation,
        _numbers,
        _length,
        _untranslated,
        _forbidden,
        _glossary,
        _meaning_look,
        _names,
        _tags,
        _question,
        _music,
        _consistency,
        _ending,
    )
}
"""By id, the most pressing first."""


def doubts_of(one: Told) -> list[Doubt]:
    """Everything that is to be looked at, the most pressing first."""
    if not one.target.strip():
        return [Doubt("empty", message) for message in _empty.look(one)]
    return [Doubt(rule, message) for rule, check in CHECKS.items() for message in check.look(one)]


def flagged(doubts: Sequence[Doubt]) -> bool:
    """Whether somebody has to look."""
    return any(one.must for one in doubts)
