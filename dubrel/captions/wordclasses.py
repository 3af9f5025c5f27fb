"""The class of a word as far as breaks need it: article, preposition, auxiliary, name and so on.

Words that join others (the closed classes) are listed (:mod:`closedwords`); all
other words of English and German are told by a trained tagger. A word is judged
by itself, so that each is judged once.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any

from dubrel.captions.closedwords import CLOSED_WORDS, WordClass

_W = WordClass
_LISTED = {
    language: {word: kind for kind, words in reversed(lists.items()) for word in words.split()}
    for language, lists in CLOSED_WORDS.items()
}
_MODELS = {"en": "morphmodel_en.pgz", "de": "morphmodel_ger.pgz"}
# there is one for Dutch: it takes four seconds and 770 MB
_DRESS = "\"'“”‘’«»¿¡([{.,;:!?…)]}、。，．！？「」『』（）؟،؛"
_NUMERALS = frozenset("〇一二三四五六七八九十百千万两兩")
_ENDINGS = {  # of words that say something of the next one
    "ja": ("の", "な"),
    "zh": ("的",),
    "ko": ("의", "된", "운", "있는", "없는", "하는", "되는", "던", "적인", "한"),
}
_KOREAN_BOUND = re.compile(
    "(?:것|수|때|줄|뿐|만큼|동안|후|뒤|데)(?:이|은|는|을|를|에|에는|에도|도|만|의|입니다|이다|이었다|이었습니다)?"
    "|않\\w*|못하\\w*|합니다|했습니다|한다|했다|있습니다|있었습니다"
)
_PARTICIPLE = re.compile(r"(?:be|ge|her|ont|ver)\w{2,}(?:en|d|t)")
# how a tag of the tagger begins, the longest first
_TAGS: dict[str, dict[str, WordClass]] = {
    "en": {
        "AT": _W.DETERMINER,
        "DPS": _W.DETERMINER,
        "DT": _W.DETERMINER,
        "PRF": _W.OF,
        "PRP": _W.PREPOSITION,
        "CJ": _W.CONJUNCTION,
        "VB": _W.AUXILIARY,
        "VH": _W.AUXILIARY,
        "VM": _W.AUXILIARY,
        "VD": _W.AUXILIARY,
        "VV": _W.VERB,
        "NN": _W.NOUN,
        "NP": _W.NAME,
        "AJ": _W.ADJECTIVE,
        "AV": _W.ADVERB,
        "CRD": _W.NUMBER,
        "ORD": _W.ADJECTIVE,
        "PN": _W.PRONOUN,
        "TO": _W.TO,
        "XX": _W.NEGATION,
    },
    "de": {
        "ART": _W.DETERMINER,
        "PPOSAT": _W.DETERMINER,
        "PDAT": _W.DETERMINER,
        "PIAT": _W.DETERMINER,
        "APPR": _W.PREPOSITION,
        "KO": _W.CONJUNCTION,
        "PREL": _W.RELATIVE,
        "VA": _W.AUXILIARY,
        "VM": _W.AUXILIARY,
        "VV": _W.VERB,
        "NN": _W.NOUN,
        "NE": _W.NAME,
        "ADJ": _W.ADJECTIVE,
        "ADV": _W.ADVERB,
        "CARD": _W.NUMBER,
        "PPER": _W.PRONOUN,
        "PTKZU": _W.TO,
        "PTKNEG": _W.NEGATION,
    },
}


@lru_cache(maxsize=2)
def _tagger(language: str) -> Any:
    """The trained tagger of a language, or nothing where its package is missing."""
    try:
        from HanTa.HanoverTagger import HanoverTagger  # late: a third of a second
    except ImportError:
        return None
    return HanoverTagger(_MODELS[language])


def load_classes(language: str) -> None:
    """Load what the classes of a language need, so that the first word does not wait for it."""
    class_of("word", language)


@lru_cache(maxsize=65536)
def class_of(word: str, language: str) -> WordClass:
    """The class of a word.

    Parameters
    ----------
    word : str
        With its punctuation.
    language : str
        BCP 47 tag; where nothing is known of it only figures are told.

    Examples
    --------
    >>> class_of("the", "en"), class_of("Grace,", "en"), class_of("de", "es")
    (<WordClass.DETERMINER: 1>, <WordClass.NAME: 12>, <WordClass.OF: 3>)
    """
    main = language.split("-")[0].lower()
    plain = word.strip(_DRESS).replace("’", "'")
    if main == "he":
        plain = plain.replace('"', "").replace("״", "")
    listed = _LISTED.get(main, {}).get(plain.lower())
    if listed is not None:
        return listed
    if plain[:1].isdigit():
        return _W.NUMBER
    if main in _ENDINGS:
        return _unit_class(plain, main)
    if main in ("fr", "it", "ca") and "'" in plain:  # l'eau, d'une: the word after the apostrophe counts
        return class_of(plain.rsplit("'", 1)[1], language)
    if main == "nl" and _PARTICIPLE.fullmatch(plain):
        return _W.VERB
    if main in _MODELS and plain and (tagger := _tagger(main)) is not None:
        return _tagged(tagger.tag_word(plain), _TAGS[main], plain)
    return _W.NAME if plain[:1].isupper() and plain[1:2].islower() else _W.OTHER


def _unit_class(plain: str, main: str) -> WordClass:
    """The class of a word that shows at its end, or by its first sign, what it is to its neighbours."""
    if main != "ko" and plain[:1] in _NUMERALS:
        return _W.NUMBER
    if main == "ko" and _KOREAN_BOUND.fullmatch(plain):
        return _W.BOUND
    return _W.ATTRIBUTE if plain.endswith(_ENDINGS[main]) else _W.OTHER


def _tagged(found: list[tuple[str, float]], tags: dict[str, WordClass], plain: str) -> WordClass:
    tag = found[0][0] if found else ""
    kind = next((kind for start, kind in tags.items() if tag.startswith(start)), _W.OTHER)
    if kind is _W.NAME and not plain[:1].isupper():
        return _W.NOUN
    return kind
