"""Places where a term may have been transcribed as something else, the most certain first."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence

from dubrel.base.text import bare_word, ends_sentence
from dubrel.base.value import Value, replace
from dubrel.edits.words.casing import marks_of
from dubrel.edits.words.terms import bare, merged
from dubrel.edits.words.wording import replace_text
from dubrel.finding.phones import Alike, SoundIndex
from dubrel.model import Project, Term, Turn, Word
from dubrel.project.index import turn_with

_KNOWN_WAY = 0.98
_LEAST = 0.5
SURE = 0.7
_MOST_A_TERM = 60


class TermSpot(Value):
    """A place at which a term is proposed.

    Attributes
    ----------
    turn : int
        Id of the turn.
    words : tuple of Word
    becomes : str
        The term with the marks that stand there.
    certainty : float
        0 to 1.
    way : str
        What stands there without marks.
    """

    turn: int
    words: tuple[Word, ...]
    becomes: str
    certainty: float
    way: str


def term_spots(
    project: Project,
    terms: Sequence[Term],
    index: SoundIndex | None = None,
    is_word: Callable[[str], bool] | None = None,
) -> list[TermSpot]:
    """Every likely place of every term, the most certain first.

    A place is one where a way stands in which the term was transcribed before,
    or where the words sound much like it and do not look right where they are:
    no words of the language, doubtful, or with a capital within a sentence.

    Parameters
    ----------
    index : SoundIndex, optional
        Of the project, if there is one already.
    is_word : callable, optional
        Whether the dictionary knows a word.
    """
    turns = project.transcript.turns
    index = index or SoundIndex(turns)
    counts = Counter(bare_word(word.text) for turn in turns for word in turn.words)
    rights = {bare_word(part) for term in terms for part in term.right.split()}
    found = [spot for term in terms for spot in _known_ways(turns, term)]
    for term in terms:
        for alike in index.find(term.right, _MOST_A_TERM, 0.45):
            certainty = _certainty(alike, term, rights, counts, is_word, turn_with(project, alike.turn))
            if certainty >= _LEAST:
                found.append(_spot(alike.turn, alike.words, term, certainty))
    return _apart(found)


def _known_ways(turns: Sequence[Turn], term: Term) -> Iterator[TermSpot]:
    ways = [way for one in term.heard if (way := [bare_word(word) for word in one.split()]) and all(way)]
    if not ways:
        return
    for turn in turns:
        said = [bare_word(word.text) for word in turn.words]
        for way in ways:
            for first in range(len(said) - len(way) + 1):
                if said[first : first + len(way)] == way:
                    yield _spot(turn.id, turn.words[first : first + len(way)], term, _KNOWN_WAY)


def _certainty(
    alike: Alike,
    term: Term,
    rights: set[str],
    counts: Counter[str],
    is_word: Callable[[str], bool] | None,
    turn: Turn | None,
) -> float:
    """How likely it is that the term was said; 0 where the words are right as they are."""
    words = [bare_word(word.text) for word in alike.words]
    own = {bare_word(part) for part in term.right.split()}
    if any(word in rights - own for word in words) or not all(words) or own >= set(words):
        return 0.0
    if "".join(words) == "".join(bare_word(part) for part in term.right.split()):
        return _KNOWN_WAY  # the very letters, parted otherwise
    if any(marks_of(word.text)[1] for word in alike.words[:-1]):
        return 0.0  # nobody pauses within a name
    certainty = alike.likeness
    known = [is_word(bare(word.text)) if is_word else True for word in alike.words]
    doubt = max(word.doubt for word in alike.words)
    strange = (not all(known)) or _capital_inside(alike, turn)
    common = min(counts[word] for word in words)
    if strange:
        certainty += 0.2
    elif len(words) == 1:
        certainty -= 0.14 + 0.02 * min(common, 6)
    else:
        certainty -= 0.04
    certainty += 0.3 * max(0.0, doubt - 0.2)
    length = len("".join(words)) / max(1, len("".join(term.right.split())))
    if not 0.55 <= length <= 1.9:
        certainty -= 0.2
    return max(0.0, min(0.97, certainty - 0.2))


def _capital_inside(alike: Alike, turn: Turn | None) -> bool:
    """Whether one of the words has a capital where no sentence begins."""
    if turn is None:
        return False
    for word in alike.words:
        at = turn.index_of.get(word.id, 0)
        begins = at == 0 or ends_sentence(turn.words[at - 1].text)
        if (
            not begins
            and bare(word.text)[:1].isupper()
            and bare_word(word.text) not in ("i", "im", "ill", "ive")
        ):
            return True
    return False


def _spot(turn: int, words: tuple[Word, ...], term: Term, certainty: float) -> TermSpot:
    """The place with the marks before and behind kept; a possessive stays one."""
    lead = words[0].text[: len(words[0].text) - len(words[0].text.lstrip("\"'“‘«([{"))]
    way = " ".join(word.text for word in words)
    stem, mark, closers = marks_of(words[-1].text)
    own = next((end for end in ("’s", "'s") if stem.endswith(end) and not term.right.endswith(end)), "")
    return TermSpot(turn, words, f"{lead}{term.right}{own}{mark}{closers}", certainty, bare(way))


def _apart(found: Sequence[TermSpot]) -> list[TermSpot]:
    """The most certain of those that share a word."""
    taken: set[int] = set()
    kept = []
    for spot in sorted(found, key=lambda one: (-one.certainty, one.words[0].start_ms)):
        ids = {word.id for word in spot.words}
        if not ids & taken and spot.becomes != " ".join(word.text for word in spot.words):
            kept.append(spot)
            taken |= ids
    return kept


def with_sure_terms(project: Project, terms: Sequence[Term]) -> Project:
    """The project with the terms in its list, put in where they were surely meant."""
    from dubrel.finding.spelling import Spelling

    own = [term.right for term in terms]
    spots = term_spots(project, terms, is_word=Spelling(project.transcript.language, own).knows)
    made = accepted(project, [spot for spot in spots if spot.certainty >= SURE])
    return replace(made, terms=merged(made.terms, terms))


def accepted(project: Project, spots: Sequence[TermSpot]) -> Project:
    """The project with terms put in at some places; places that say something else by now are passed over."""
    for spot in sorted(spots, key=lambda one: -one.words[0].start_ms):
        turn = turn_with(project, spot.turn)
        first = turn.index_of.get(spot.words[0].id) if turn else None
        if turn is None or first is None:
            continue
        present = turn.words[first : first + len(spot.words)]
        if [(w.id, w.text) for w in present] != [(w.id, w.text) for w in spot.words]:
            continue
        last = first + len(spot.words) - 1
        end = turn.offsets[last] + len(turn.words[last].text)
        project = replace_text(project, turn.id, turn.offsets[first], end, spot.becomes)
    return project
