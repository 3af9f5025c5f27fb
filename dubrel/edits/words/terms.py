"""Names and terms of a project: add, change, learn from corrections."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from dubrel.base.text import bare_word
from dubrel.base.value import Value, replace
from dubrel.edits.words.casing import marks_of
from dubrel.model import Project, Term
from dubrel.project.changes import Change
from dubrel.project.index import turn_with

_OPENERS = "\"'“‘«([{‹『「（¿¡"


def bare(text: str) -> str:
    """A word or a run of words without the marks around it; capitals stay.

    Examples
    --------
    >>> bare("“Morwenna,”"), bare("the Heron.")
    ('Morwenna', 'the Heron')
    """
    return marks_of(text.lstrip(_OPENERS))[0]


def with_term(project: Project, term: Term) -> Project:
    """The project with a term; where there is one with the same right form what is new joins it."""
    return replace(project, terms=merged(project.terms, [term]))


def merged(terms: Sequence[Term], others: Iterable[Term]) -> tuple[Term, ...]:
    """Two lists as one, each right form once; ways and translations of both are kept."""
    found = {one.right: one for one in terms}
    for one in others:
        known = found.get(one.right)
        found[one.right] = one if known is None else _both(known, one)
    return tuple(found.values())


def _both(one: Term, other: Term) -> Term:
    heard = tuple(dict.fromkeys((*one.heard, *(way for way in other.heard if way != one.right))))
    translations = tuple({**dict(one.translations), **dict(other.translations)}.items())
    return Term(
        one.right,
        heard,
        one.note or other.note,
        translations,
        tuple(dict.fromkeys((*one.forms, *other.forms))),
        tuple(dict.fromkeys((*one.forbidden, *other.forbidden))),
        one.keep or other.keep,
        one.cased or other.cased,
    )


def without_term(project: Project, right: str) -> Project:
    """The project without a term; the same object where there is none."""
    terms = tuple(one for one in project.terms if one.right != right)
    return project if len(terms) == len(project.terms) else replace(project, terms=terms)


def clashes(terms: Sequence[Term]) -> list[tuple[str, str, str]]:
    """Ways in which two terms were transcribed: the way, and both right forms.

    A way that is itself the right form of another term is one too.
    """
    owner: dict[str, str] = {bare_word(one.right): one.right for one in terms}
    found = []
    for one in terms:
        for way in one.heard:
            other = owner.setdefault(bare_word(way), one.right)
            if other != one.right:
                found.append((way, other, one.right))
    return found


class Correction(Value):
    """A word that a person wrote otherwise."""

    was: str
    becomes: str


def corrections(change: Change) -> list[Correction]:
    """Words that the second value writes otherwise than the first, as far as it is about the word itself.

    Changed capitals at the beginning of a sentence and changed marks are none.
    """
    found = []
    for turn_id in sorted(change.turns):
        before, after = turn_with(change.old, turn_id), turn_with(change.new, turn_id)
        if before is None or after is None:
            continue
        known = {word.id: word.text for word in before.words}
        for word in after.words:
            was, now = bare(known.get(word.id, "")), bare(word.text)
            if was and now and bare_word(was) != bare_word(now) and not bare_word(now).isdigit():
                found.append(Correction(was, now))
    return found
