"""Terms in sentences: where they stand, what they must become, what they must not."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from functools import lru_cache

from dubrel.base.catalogue import tr
from dubrel.base.value import Value
from dubrel.model import Term


class TermSpot(Value):
    """A term in a sentence.

    Attributes
    ----------
    start, end : int
        Where it stands.
    term : Term
    wanted : tuple of str
        What may stand for it in the translation; the first is put there.
    """

    start: int
    end: int
    term: Term
    wanted: tuple[str, ...]


def spots_of(text: str, terms: Sequence[Term], language: str) -> list[TermSpot]:
    """The terms in a sentence that have a translation, from left to right; the longest where several begin.

    Parameters
    ----------
    language : str
        Into which it is translated.
    """
    table = _table(tuple(terms), language)
    if table is None:
        return []
    found: list[TermSpot] = []
    for match in table.pattern.finditer(text):
        for term, form in table.forms.get(match.group().casefold(), ()):
            if not term.cased or match.group() in (term.right, *term.inflected("")):
                found.append(
                    TermSpot(match.start(), match.end(), term, _wanted(term, form, match.group(), language))
                )
                break
    return found


class _Table(Value, eq=False):
    pattern: re.Pattern[str]
    forms: dict[str, list[tuple[Term, int]]]


@lru_cache(maxsize=16)
def _table(terms: tuple[Term, ...], language: str) -> _Table | None:
    forms: dict[str, list[tuple[Term, int]]] = {}
    for term in terms:
        if term.translation(language):
            for nth, form in enumerate((term.right, *term.inflected(""))):
                forms.setdefault(form.casefold(), []).append((term, nth))
    if not forms:
        return None
    longest = sorted(forms, key=len, reverse=True)
    return _Table(re.compile(rf"(?<!\w)(?:{'|'.join(map(re.escape, longest))})(?!\w)", re.IGNORECASE), forms)


def _wanted(term: Term, form: int, text: str, language: str) -> tuple[str, ...]:
    """The form of the translation that belongs to the form of the term, then the others."""
    if term.keep:
        return (text if term.cased else term.right, text)
    all_forms = (term.translation(language), *term.inflected(language))
    first = all_forms[form] if form < len(all_forms) else all_forms[0]
    return tuple(dict.fromkeys((first, *all_forms)))


def stands_in(form: str, text: str) -> bool:
    """Whether a form stands in a text as words of its own, whatever its capitals."""
    return re.search(rf"(?<!\w){re.escape(form.casefold())}(?!\w)", text.casefold()) is not None


def missing_in(spots: Iterable[TermSpot], translation: str) -> list[TermSpot]:
    """Those terms for which none of the wanted forms stands in the translation often enough."""
    counts: dict[str, int] = {}
    lost = []
    lowered = translation.casefold()
    for spot in spots:
        counts[spot.term.right] = counts.get(spot.term.right, 0) + 1
        pattern = "|".join(re.escape(form.casefold()) for form in sorted(spot.wanted, key=len, reverse=True))
        there = len(re.findall(rf"(?<!\w)(?:{pattern})(?!\w)", lowered))
        if there < counts[spot.term.right]:
            lost.append(spot)
    return lost


def forbidden_in(terms: Iterable[Term], translation: str, language: str) -> list[tuple[Term, str]]:
    """Translations that must not be used and are: the term and the form."""
    tags = {language, language.split("-")[0]}
    return [
        (term, form)
        for term in terms
        for tag, form in term.forbidden
        if tag in tags and form and stands_in(form, translation)
    ]


def glossary_clashes(terms: Sequence[Term]) -> list[str]:
    """What cannot be kept together, in words.

    Two translations for one word, or a translation that is forbidden.
    """
    said = []
    owner: dict[str, Term] = {}
    for term in terms:
        for form in (term.right, *term.inflected("")):
            other = owner.setdefault(form.casefold(), term)
            if other is not term and (other.keep, other.translations) != (term.keep, term.translations):
                said.append(
                    tr("“{form}” is a form of both “{term}” and “{other}”: the first one counts.").format(
                        form=form, term=other.right, other=term.right
                    )
                )
        forbidden = {(tag, form.casefold()) for tag, form in term.forbidden}
        for tag, text in (*term.translations, *((tag, form) for tag, form in term.forms if tag)):
            if (tag, text.casefold()) in forbidden:
                said.append(
                    tr("“{text}” is both the translation of “{right}” and forbidden.").format(
                        text=text, right=term.right
                    )
                )
        if term.keep and any(text != term.right for _, text in term.translations):
            said.append(
                tr("“{right}” is not to be translated and has a translation: it stays as it is.").format(
                    right=term.right
                )
            )
    return said
