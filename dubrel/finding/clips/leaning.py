"""Whether what is said needs something that was said before it."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from dubrel.base.languages import main_tag
from dubrel.base.text import bare_word, tokens
from dubrel.finding.commonwords import common_words

LINKS = {
    "en": (
        "and but so or because cause also too then which who whereas however therefore anyway plus nor"
        " though yes yeah yep no nope exactly right okay ok well indeed absolutely sure true me neither same"
    ),
    "de": (
        "und aber also oder denn weil auch dann welche welcher welches deshalb darum jedoch trotzdem ja nein"
        " genau doch stimmt eben klar"
    ),
    "nl": "en maar dus of want omdat ook dan daarom echter toch ja nee precies klopt",
    "fr": "et mais donc ou car parce aussi alors puis ensuite pourtant oui non exactement voilà bref",
    "es": "y e pero así o porque también entonces pues luego además sino sí no exacto claro bueno",
    "pt": "e mas então ou porque também pois depois além sim não exato claro bom aí",
    "it": "e ma quindi o perché anche allora poi dunque però sì no esatto certo",
}
"""Words that tie a sentence to the one before it."""
POINTERS = {
    "en": "he she it they him her them his its their theirs hers this that these those it's that's he's she's"
    " they're they've they'd he'd she'd it'd it'll he'll she'll they'll that'll there's",
    "de": "er sie es ihn ihm ihr ihnen sein seine ihre dieser diese dieses diesen das dessen deren dort damit"
    " davon dafür daran dazu",
    "nl": "hij zij ze het hem haar hen hun zijn dit dat deze die daar daarmee daarvan ervan",
    "fr": "il elle ils elles lui leur cela ça ceci celui celle ceux celles y c'est",
    "es": "él ella ellos ellas esto eso aquello este ese aquel esta esa lo le les",
    "pt": "ele ela eles elas isto isso aquilo este esse aquele esta essa lhe lhes",
    "it": "lui lei loro questo quello ciò essa esso gli",
}
"""Words that stand for something that was named before."""
PERSONS = {
    "en": "he she they him her them his hers their theirs",
    "de": "er ihn ihm seine seinen",
    "nl": "hij zij hem haar hen",
    "fr": "il elle ils elles lui leur",
    "es": "él ella ellos ellas",
    "pt": "ele ela eles elas",
    "it": "lui lei loro",
}
"""Those that stand for people."""
_NOT_POINTING = ("there's a", "there's an", "there's no", "it's a", "it's an", "that's a", "it's been")
_BY_LINK, _BY_POINTER, _LATER, _PERHAPS = 1.0, 0.8, 0.5, 0.3
_Words = tuple[frozenset[str], frozenset[str], frozenset[str]]


@lru_cache(maxsize=16)
def _words(language: str) -> _Words:
    """Links, pointers and those that stand for people."""
    tag = main_tag(language)
    links, pointers, persons = (
        frozenset(bare_word(one) for one in table.get(tag, "").split())
        for table in (LINKS, POINTERS, PERSONS)
    )
    return links, pointers, persons


def leans(text: str, language: str) -> tuple[float, str]:
    """How much a sentence needs what was said before it, 0 to 1, and the word that does.

    A word that ties it to the sentence before counts most; a word that stands for something
    (“he”, “that”) counts where it comes before anything that is named; one that stands for a
    person counts a little where no name comes before it.

    Examples
    --------
    >>> leans("But he never came back.", "en")
    (1.0, 'But')
    >>> leans("He never came back.", "en")
    (0.8, 'He')
    >>> leans("The lock keeper says that nobody came back.", "en")
    (0.0, '')
    """
    links, pointers, persons = _words(language)
    said = tokens(text)
    bare = [bare_word(word) for word in said]
    if not bare:
        return 0.0, ""
    if bare[0] in links:
        return _BY_LINK, _shown(said[0])
    common, something = common_words(language), False
    opening = text.casefold().replace("’", "'")
    for nth, word in enumerate(bare):
        if nth > 0 and said[nth][:1].isupper() and word not in common:
            return 0.0, ""  # a name: whoever follows may be meant
        if word in pointers and not something:
            if nth == 0 and opening.startswith(_NOT_POINTING) and main_tag(language) == "en":
                continue
            return (_BY_POINTER if nth == 0 else _LATER), _shown(said[nth])
        if word in persons:
            return _PERHAPS, _shown(said[nth])
        something = something or (word not in common and len(word) >= 4)
    return 0.0, ""


def _shown(word: str) -> str:
    return word.strip('.,;:!?…“”"«»()[]–—')


def all_lean(texts: Sequence[str], language: str) -> list[tuple[float, str]]:
    """:func:`leans` of several sentences."""
    return [leans(text, language) for text in texts]
