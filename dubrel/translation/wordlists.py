"""Small lists by language: words that negate, words that can go, numbers as words."""

from __future__ import annotations

import re
from functools import lru_cache

from dubrel.translation.languages import base

NEGATIONS = {
    "en": "not no never nobody nothing none nor neither nowhere without cannot n't no-one",
    "pt": "não nunca jamais ninguém nada nenhum nenhuma nem sem tampouco",
    "es": "no nunca jamás nadie nada ningún ninguno ninguna ni sin tampoco",
    "fr": "ne n' pas jamais rien personne aucun aucune ni sans non",
    "de": "nicht nichts nie niemals niemand kein keine keinen keinem keiner keines weder ohne nein",
    "it": "non no mai nessuno nessuna niente nulla né senza",
    "nl": "niet niets nooit niemand geen noch zonder nee",
}
_NO_NEGATION = {
    "en": r"\b(no doubt|not only|no wonder|whether or not|no longer than|nothing but)\b",
    "pt": r"(a não ser|não só|sem dúvida|, não é\?|\bné\b)",
    "es": r"(no sólo|no solo|a no ser|sin duda|, ¿no\?)",
}
DROPPABLE = {
    "en": "really very quite just actually simply perhaps then now well so still rather indeed even",
    "pt": "realmente muito bastante apenas só na verdade simplesmente talvez então agora bem assim ainda mesmo próprio lá aqui",
    "es": "realmente muy bastante sólo solo simplemente quizás entonces ahora bien así aún todavía mismo",
    "fr": "vraiment très assez juste simplement peut-être alors maintenant bien donc encore même",
    "de": "wirklich sehr ganz nur eigentlich einfach vielleicht dann jetzt also noch eben doch mal",
    "it": "davvero molto abbastanza solo semplicemente forse allora adesso bene quindi ancora proprio",
    "nl": "echt heel erg vrij gewoon eigenlijk misschien dan nu dus nog even",
}
"""Words without which a sentence mostly says the same; the shortest reading goes without them."""
_NUMBER_LANGUAGES = {"en": "en", "pt": "pt_BR", "es": "es", "fr": "fr", "de": "de", "it": "it", "nl": "nl"}
_MOST = 100


@lru_cache(maxsize=16)
def negations(language: str) -> frozenset[str]:
    """Words that negate; none where the language has no list."""
    return frozenset(NEGATIONS.get(base(language), "").split())


def negates(text: str, language: str) -> bool:
    """Whether something is negated."""
    lowered = text.lower().replace("’", "'")
    if (others := _NO_NEGATION.get(base(language))) is not None:
        lowered = re.sub(others, " ", lowered)
    known = negations(language)
    if base(language) == "en" and "n't" in lowered:
        return True
    if base(language) == "fr" and re.search(r"\bn'", lowered):
        return True
    return any(word in known for word in re.findall(r"[^\W\d_]+(?:-[^\W\d_]+)*", lowered))


@lru_cache(maxsize=16)
def number_words(language: str) -> dict[str, int]:
    """Numbers from two to a hundred as single words: the word and its value."""
    name = _NUMBER_LANGUAGES.get(base(language))
    if name is None:
        return {}
    from num2words import num2words  # late: only for numbers

    found: dict[str, int] = {}
    for value in range(2, _MOST + 1):
        word = str(num2words(value, lang=name))
        if " " not in word:
            found.setdefault(word.lower(), value)
    extra = {
        "pt": {"duas": 2, "catorze": 14, "dezasseis": 16, "cem": 100, "mil": 1000},
        "es": {"mil": 1000, "cien": 100},
    }
    found |= extra.get(base(language), {})
    if base(language) == "en":
        found |= {"hundred": 100, "thousand": 1000, "dozen": 12, "twice": 2}
    if base(language) == "pt":
        found |= {"dúzia": 12, "dezessete": 17, "dezenove": 19}
    return found


_JOINERS = {"pt": " e ", "es": " y ", "en": "-"}


def numbers_in(text: str, language: str) -> list[int]:
    """The numbers of a text, in digits or as words; one is left out, since it is an article too.

    Examples
    --------
    >>> numbers_in("Twelve of 250 sheep", "en"), numbers_in("trinta e um anos", "pt")
    ([12, 250], [31])
    """
    known = number_words(language)
    lowered = text.lower()
    joiner = _JOINERS.get(base(language))
    found: list[int] = []
    tokens = re.findall(r"\d+|[^\W\d_]+", lowered.replace("-", " - ") if joiner == "-" else lowered)
    at = 0
    while at < len(tokens):
        token = tokens[at]
        if token.isdigit():
            found.append(int(token))
        elif token in known:
            value = known[token]
            step, small = _small_after(tokens, at, known, joiner)
            if 20 <= value < 100 and value % 10 == 0 and small:
                value, at = value + small, at + step
            elif value in (100, 1000) and found and at and tokens[at - 1] in known:
                value = found.pop() * value
            found.append(value)
        at += 1
    return found


def _small_after(tokens: list[str], at: int, known: dict[str, int], joiner: str | None) -> tuple[int, int]:
    """The unit behind a ten, and how many tokens it takes."""
    ones = {"um": 1, "uma": 1, "uno": 1, "una": 1, "one": 1}
    for step in (1, 2) if joiner else (1,):
        if at + step < len(tokens) and (step == 1 or tokens[at + 1] == joiner.strip() if joiner else True):
            value = known.get(tokens[at + step], ones.get(tokens[at + step], 0))
            if 1 <= value <= 9 and (step == 2 or joiner == "-"):
                return step, value
    return 0, 0
