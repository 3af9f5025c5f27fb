"""How tightly each word is bound to the next, so that breaks fall where the sense parts.

The strength of a bond is 0 (nothing is lost by a break) to 100 (a break would
hurt). It follows from the classes of both words, after what editors' guides
ask for: an article stays with its noun, a preposition with its phrase, an
auxiliary with its verb, a title with its name, a number with its unit, a
negation with what it negates, a conjunction with what it begins.
"""

from __future__ import annotations

from functools import lru_cache

from dubrel.base.text import ends_clause, ends_sentence
from dubrel.captions.wordclasses import WordClass, class_of

USUAL = 40.0
_W = WordClass
# what a word of a class asks for behind itself, whatever comes
_LEANS = {
    _W.DETERMINER: 90.0,
    _W.PREPOSITION: 80.0,
    _W.OF: 85.0,
    _W.TO: 85.0,
    _W.CONJUNCTION: 75.0,
    _W.RELATIVE: 70.0,
    _W.AUXILIARY: 65.0,
    _W.NEGATION: 75.0,
    _W.PRONOUN: 55.0,
    _W.DEGREE: 65.0,
    _W.NUMBER: 60.0,
    _W.TITLE: 95.0,
    _W.ADJECTIVE: 45.0,
    _W.ATTRIBUTE: 58.0,
}
# what a word of a class gains by beginning a line or a caption
_BEGINS = {_W.CONJUNCTION: 8.0, _W.RELATIVE: 12.0, _W.PREPOSITION: 20.0, _W.TO: 28.0, _W.BOUND: 80.0}
_PAIRS = {
    (_W.AUXILIARY, _W.VERB): 68.0,
    (_W.AUXILIARY, _W.NEGATION): 80.0,
    (_W.AUXILIARY, _W.AUXILIARY): 75.0,
    (_W.AUXILIARY, _W.PREPOSITION): 64.0,
    (_W.AUXILIARY, _W.DETERMINER): 64.0,
    (_W.AUXILIARY, _W.PRONOUN): 70.0,
    (_W.PRONOUN, _W.VERB): 80.0,
    (_W.PRONOUN, _W.AUXILIARY): 85.0,
    (_W.PRONOUN, _W.NEGATION): 75.0,
    (_W.PRONOUN, _W.PREPOSITION): 22.0,
    (_W.PRONOUN, _W.CONJUNCTION): 10.0,
    (_W.PRONOUN, _W.TO): 35.0,
    (_W.ADJECTIVE, _W.NOUN): 70.0,
    (_W.ADJECTIVE, _W.NAME): 70.0,
    (_W.ADJECTIVE, _W.ADJECTIVE): 60.0,
    (_W.NOUN, _W.OF): 50.0,
    (_W.NAME, _W.OF): 50.0,
    (_W.NUMBER, _W.OF): 50.0,
    (_W.NOUN, _W.NOUN): 60.0,
    (_W.NAME, _W.NAME): 90.0,
    (_W.NUMBER, _W.NOUN): 80.0,
    (_W.NUMBER, _W.NUMBER): 85.0,
    (_W.NUMBER, _W.NAME): 80.0,
    (_W.ADVERB, _W.ADJECTIVE): 60.0,
    (_W.ADVERB, _W.ADVERB): 55.0,
    (_W.ADVERB, _W.VERB): 45.0,
    (_W.VERB, _W.NEGATION): 70.0,
    (_W.VERB, _W.PRONOUN): 65.0,
    (_W.VERB, _W.TO): 60.0,
    (_W.VERB, _W.DETERMINER): 30.0,
    (_W.VERB, _W.PREPOSITION): 28.0,
    (_W.DEGREE, _W.PREPOSITION): 40.0,
    (_W.ADJECTIVE, _W.PREPOSITION): 25.0,
    (_W.ADJECTIVE, _W.CONJUNCTION): 12.0,
    (_W.PREPOSITION, _W.CONJUNCTION): 40.0,
    (_W.NUMBER, _W.CONJUNCTION): 25.0,
    (_W.NUMBER, _W.PREPOSITION): 25.0,
    (_W.PREPOSITION, _W.PREPOSITION): 50.0,
    (_W.NOUN, _W.AUXILIARY): 32.0,
    (_W.NOUN, _W.VERB): 30.0,
    (_W.NAME, _W.VERB): 38.0,
    (_W.NAME, _W.AUXILIARY): 38.0,
    (_W.NOUN, _W.PRONOUN): 22.0,
    (_W.NOUN, _W.DETERMINER): 28.0,
    # a determiner before these stands for a noun: “look at her | from the front”
    (_W.DETERMINER, _W.PREPOSITION): 25.0,
    (_W.DETERMINER, _W.CONJUNCTION): 15.0,
    (_W.DETERMINER, _W.TO): 32.0,
    (_W.DETERMINER, _W.AUXILIARY): 60.0,
    (_W.DETERMINER, _W.OF): 60.0,
    (_W.DETERMINER, _W.RELATIVE): 30.0,
}
_CLOSING = frozenset("、。，．・：；？！）］｝」』〉》】ー々ぁぃぅぇぉっゃゅょァィゥェォッャュョๆ")


def _table() -> list[list[float]]:
    count = len(WordClass)
    table = [[_BEGINS.get(after, USUAL) for after in WordClass] for _ in range(count)]
    for kind, strength in _LEANS.items():
        table[kind] = [max(one, strength) for one in table[kind]]
    for (before, after), strength in _PAIRS.items():
        table[before][after] = strength
    return table


TABLE = _table()
"""For each class of a word, and each class of the one after it, the strength of their bond."""
NEVER = 400.0
"""The same before a sign that may not begin a line."""
SENTENCE, CLAUSE, CLOSED = 2, 1, 4


@lru_cache(maxsize=65536)
def traits_of(word: str, language: str) -> tuple[int, int]:
    """The class of a word; and 2 if it ends a sentence, 1 if a clause, with 4 if it may not begin a line."""
    ends = SENTENCE if ends_sentence(word, language) else CLAUSE if ends_clause(word) else 0
    return int(class_of(word, language)), ends + CLOSED * (word[:1] in _CLOSING)


def bond_of(word: str, following: str, language: str) -> float:
    """The strength of the bond between two words; nothing after the end of a sentence or a clause.

    Examples
    --------
    >>> bond_of("the", "boat", "en"), bond_of("boat,", "and", "en")
    (90.0, 0.0)
    """
    (kind, ends), (after, starts) = traits_of(word, language), traits_of(following, language)
    if starts & CLOSED:
        return NEVER
    return 0.0 if ends & (SENTENCE | CLAUSE) else TABLE[kind][after]
