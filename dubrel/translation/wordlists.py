"""Small lists by language: words that negate, words that can go, numbers as words."""

from __future__ import annotations

import re
from functools import lru_cache

from dubrel.base.languages import main_tag

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
    "pt": (
        "realmente muito bastante apenas só na verdade simplesmente talvez então agora bem assim ainda mesmo"
        " próprio lá aqui"
    ),
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
    return frozenset(NEGATIONS.get(main_tag(language), "").split())


def negates(text: str, language: str) -> bool:
    """Whether something is negated."""
    lowered = text.lower().replace("’", "'")
    if (others := _NO_NEGATION.get(main_tag(language))) is not None:
        lowered = re.sub(others, " ", lowered)
    known = negations(language)
    if main_tag(language) == "en" and "n't" in lowered:
        return True
    if main_tag(language) == "fr" and re.search(r"\bn'", lowered):
        return True
    return any(word in known for word in re.findall(r"[^\W\d_]+(?:-[^\W\d_]+)*", lowered))


@lru_cache(maxsize=16)
def number_words(language: str) -> dict[str, int]:
    """Numbers from two on as single words: the word and its value."""
    name = _NUMBER_LANGUAGES.get(main_tag(language))
    if name is None:
        return {}
    from num2words import num2words  # late: only for numbers

    found: dict[str, int] = {}
    for value in (*range(2, _MOST + 1), *range(200, 1000, 100), 1000):
        word = str(num2words(value, lang=name))
        if " " not in word:
            found.setdefault(word.lower(), value)
    return found | _MORE.get(main_tag(language), {})


_MORE = {
    "en": {"hundred": 100, "thousand": 1000, "dozen": 12, "twice": 2},
    "pt": {
        "duas": 2,
        "catorze": 14,
        "dezasseis": 16,
        "dezessete": 17,
        "dezenove": 19,
        "cem": 100,
        "cento": 100,
        "dúzia": 12,
        "duzentas": 200,
        "trezentas": 300,
        "quatrocentas": 400,
        "quinhentas": 500,
    },
    "es": {"cien": 100, "ciento": 100, "docena": 12, "veintiún": 21},
}
_JOINERS = {"pt": "e", "es": "y", "en": "and", "fr": "et", "nl": "en", "de": "und"}
_ONES = {"en": ("one",), "pt": ("um", "uma"), "es": ("un", "uno", "una"), "fr": ("un", "une")}


def numbers_in(text: str, language: str) -> list[int]:
    """The numbers of a text, in digits or as words; a single one is left out, since it is an article too.

    Examples
    --------
    >>> numbers_in("Twelve of 1,250 sheep, forty-two of four thousand and two hundred", "en")
    [12, 1250, 42, 4200]
    >>> numbers_in("trinta e um anos, quatro mil e duzentos", "pt")
    [31, 4200]
    """
    known, joiner = number_words(language), _JOINERS.get(main_tag(language), "")
    ones = _ONES.get(main_tag(language), ())
    count = _Count()
    for match in re.finditer(r"\d{1,3}(?:[.,]\d{3})+(?!\d)|\d+|[^\W\d_]+|[^\w\s]", text.lower()):
        token = match.group()
        if token[0].isdigit():
            count.end()
            count.found.append(int(re.sub(r"\D", "", token)))
        elif token in known:
            count.add(known[token])
        elif token in ones:
            count.one()
        elif token == joiner:
            count.joined = True
        elif token != "-":
            count.end()
    count.end()
    return count.found


class _Count:
    """Puts number words together as they are spoken: tens with ones, hundreds, thousands."""

    def __init__(self) -> None:
        self.found: list[int] = []
        self.whole: int | None = None
        self.above = 0
        self.joined = False

    def end(self) -> None:
        """What follows belongs to another number."""
        if self.whole is not None:
            self.found.append(self.above + self.whole)
        self.whole, self.above, self.joined = None, 0, False

    def add(self, value: int) -> None:
        """The next number word."""
        now = self.whole
        if now is not None and value == 1000 and not self.above:
            self.above, self.whole = (now or 1) * 1000, 0
        elif now is not None and value == 100 and 2 <= now <= 19:
            self.whole = now * 100
        elif now is not None and self._fits(now, value):
            self.whole = now + value
        else:
            self.end()
            self.above, self.whole = (1000, 0) if value == 1000 else (0, value)
        self.joined = False

    def one(self) -> None:
        """An article, or a one behind a ten or a hundred."""
        if self.whole is not None and self._fits(self.whole, 1):
            self.whole += 1
            self.joined = False
        else:
            self.end()

    def _fits(self, now: int, value: int) -> bool:
        """Whether a value is spoken on top of what was said: 80 and 1, 200 and 14, 4000 and 200."""
        if now == 0:
            return self.above > 0 and value < 1000
        if value < 10:
            return now % 10 == 0 and now % 100 != 10 and (now % 100 or self.joined or now >= 100) != 0
        return value < 100 and now % 100 == 0
