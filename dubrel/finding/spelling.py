"""Spelling in a language: whether a word is known, and what may have been meant, by letters and by sound."""

from __future__ import annotations

from collections.abc import Collection
from functools import lru_cache
from pathlib import Path
from typing import Any

from dubrel.base.folders import data_folder
from dubrel.edits.words.terms import bare
from dubrel.finding.phones import likeness

_FOLDERS = ("/usr/share/hunspell", "/usr/share/myspell/dicts", "/usr/share/myspell")
_USUAL = {
    "en": ("en_US", "en_GB"),
    "de": ("de_DE",),
    "es": ("es_ES", "es"),
    "pt": ("pt_PT", "pt_BR"),
    "fr": ("fr_FR", "fr", "fr_classique"),
    "nl": ("nl_NL", "nl"),
    "it": ("it_IT",),
}


def own_folder() -> Path:
    """Where the user may put dictionaries (pairs of ``.aff`` and ``.dic``)."""
    return data_folder() / "dictionaries"


def dictionaries_of(language: str) -> list[tuple[Path, str]]:
    """The folders and names of a language's dictionaries on this machine, the nearest first.

    Of ``en`` all are taken, British and American; of ``en-GB`` only that, if it is there.
    """
    import hunspell

    tag = language.replace("-", "_")
    names = [tag, *_USUAL.get(tag.split("_")[0].lower(), (tag.split("_")[0].lower(),))]
    inside = Path(hunspell.__file__).parent / "dictionaries"
    found: dict[str, Path] = {}
    for name in names:
        for folder in (own_folder(), *map(Path, _FOLDERS), inside):
            if (folder / f"{name}.aff").is_file() and (folder / f"{name}.dic").is_file():
                found.setdefault(name, folder)
    pairs = [(folder, name) for name, folder in found.items()]
    return pairs[:1] if tag in found else pairs


@lru_cache(maxsize=3)
def _speller(folder: str, name: str) -> Any:
    from hunspell import Hunspell

    return Hunspell(name, hunspell_data_dir=folder)


class Spelling:
    """What is spelt right in a language.

    Parameters
    ----------
    language : str
        BCP 47 tag.
    own : collection of str
        Words that are right besides: names and terms.
    """

    def __init__(self, language: str, own: Collection[str] = ()) -> None:
        try:
            found = dictionaries_of(language)
        except ImportError:
            found = []
        self._spellers = [_speller(str(folder), name) for folder, name in found]
        self._known: dict[str, bool] = {}
        self.own = frozenset(part for one in own for part in one.split())

    @property
    def there(self) -> bool:
        """Whether there is a dictionary."""
        return bool(self._spellers)

    def knows(self, text: str) -> bool:
        """Whether a word (with its marks) is spelt right; figures, signs and addresses are."""
        known = self._known.get(text)
        if known is None:
            known = self._known[text] = self._look_up(bare(text))
        return known

    def _look_up(self, word: str) -> bool:
        if not self._spellers or not word or not any(sign.isalpha() for sign in word):
            return True
        if any(sign.isdigit() for sign in word) or "@" in word or "/" in word or word in self.own:
            return True
        plain = word.replace("’", "'")
        stem = plain.removesuffix("'s")
        if stem in self.own or self._says(plain) or self._says(stem):
            return True
        parts = [one for one in plain.replace("–", "-").split("-") if one]
        return len(parts) > 1 and all(one in self.own or self._says(one) for one in parts)

    def _says(self, word: str) -> bool:
        try:
            return any(one.spell(word) for one in self._spellers)
        except (UnicodeError, ValueError):
            return True  # letters that the dictionary's encoding does not have: not its language

    def _suggested(self, word: str) -> list[str]:
        try:
            return [one for speller in self._spellers for one in speller.suggest(word)]
        except (UnicodeError, ValueError):
            return []  # letters that the dictionary's encoding does not have

    def suggestions(self, text: str, most: int = 6) -> list[str]:
        """What may have been meant, the likeliest first: near in letters, and near in sound.

        The marks around the word are kept.
        """
        word = bare(text)
        if not self._spellers or not word:
            return []
        from rapidfuzz.distance import Levenshtein

        found = [*self._suggested(word.replace("’", "'")), *_near(word, self.own)]

        def rank(other: str) -> float:
            letters = Levenshtein.normalized_similarity(word.casefold(), other.casefold())
            return -(letters + likeness(word, other))

        ranked = sorted(dict.fromkeys(found), key=rank)[:most]
        at = text.find(word)
        return [text[:at] + one + text[at + len(word) :] for one in ranked]


def _near(word: str, own: Collection[str]) -> list[str]:
    """Own words that are near in letters or in sound."""
    from rapidfuzz.distance import Levenshtein

    near = [one for one in own if Levenshtein.normalized_similarity(word.casefold(), one.casefold()) >= 0.5]
    return near[:200]
