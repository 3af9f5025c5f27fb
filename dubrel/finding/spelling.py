"""Spelling in a language: whether a word is known, and what may have been meant, by letters and by sound."""

from __future__ import annotations

import codecs
import ctypes
import os
from collections.abc import Collection
from concurrent.futures import ThreadPoolExecutor
from functools import cache, lru_cache
from pathlib import Path
from threading import Lock
from typing import Any
from weakref import finalize

from dubrel.base.folders import data_folder
from dubrel.edits.words.terms import bare
from dubrel.finding.phones import likeness

_LIBRARY = "libhunspell-1.7.so.0"
_Texts = ctypes.POINTER(ctypes.c_char_p)
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


@cache
def _library(loader: Any) -> Any:
    """The library that comes with the package, with its functions declared.

    The package's own binding keeps the interpreter for itself while a dictionary is loaded and while it
    suggests: 0.2 s each, in which the interface would stand still.

    Parameters
    ----------
    loader : type
        ``ctypes.CDLL``, which lets other threads run meanwhile, or ``ctypes.PyDLL``, which does not and
        is quicker for what takes microseconds.
    """
    import hunspell

    found = loader(str(Path(hunspell.__file__).with_name(_LIBRARY)))
    handle = ctypes.c_void_p
    found.Hunspell_create.restype = handle
    found.Hunspell_create.argtypes = (ctypes.c_char_p, ctypes.c_char_p)
    found.Hunspell_destroy.restype = None
    found.Hunspell_destroy.argtypes = (handle,)
    found.Hunspell_get_dic_encoding.restype = ctypes.c_char_p
    found.Hunspell_get_dic_encoding.argtypes = (handle,)
    found.Hunspell_spell.argtypes = (handle, ctypes.c_char_p)
    found.Hunspell_suggest.argtypes = (handle, ctypes.POINTER(_Texts), ctypes.c_char_p)
    found.Hunspell_free_list.restype = None
    found.Hunspell_free_list.argtypes = (handle, ctypes.POINTER(_Texts), ctypes.c_int)
    return found


def _encoding(named: bytes) -> str:
    """Python's name of a dictionary's encoding; one that it does not have would have no letters of ours."""
    name = named.decode("ascii", "replace").removeprefix("microsoft-").removesuffix("-2533")
    try:
        return codecs.lookup(name).name
    except LookupError:
        return "ascii"


class Dictionary:
    """A pair of ``.aff`` and ``.dic`` files.

    Parameters
    ----------
    folder : Path
    name : str
        Of both files, without their suffix.
    """

    def __init__(self, folder: Path, name: str) -> None:
        self._files = [os.fsencode(folder / f"{name}{suffix}") for suffix in (".aff", ".dic")]
        self._handle = self._loaded()
        self._encoding = _encoding(_library(ctypes.CDLL).Hunspell_get_dic_encoding(self._handle))
        self._suggesting: Any = None  # a second one: the first may be asked for a word meanwhile
        self._lock = Lock()

    def _loaded(self) -> Any:
        library = _library(ctypes.CDLL)
        handle = library.Hunspell_create(*self._files)
        finalize(self, library.Hunspell_destroy, handle).atexit = False
        return handle

    def has(self, word: str) -> bool:
        """Whether a word is in it, in any form.

        Raises
        ------
        UnicodeError
            If the dictionary's encoding does not have its letters.
        """
        return bool(_library(ctypes.PyDLL).Hunspell_spell(self._handle, self._encoded(word)))

    def suggestions(self, word: str) -> list[str]:
        """What may have been meant, the likeliest first.

        Raises
        ------
        UnicodeError
            If the dictionary's encoding does not have its letters.
        """
        library, texts, encoded = _library(ctypes.CDLL), _Texts(), self._encoded(word)
        with self._lock:
            self._suggesting = self._suggesting or self._loaded()
            count = library.Hunspell_suggest(self._suggesting, ctypes.byref(texts), encoded)
            found = [texts[nth] for nth in range(count)]
            library.Hunspell_free_list(self._suggesting, ctypes.byref(texts), count)
        return [one.decode(self._encoding) for one in found if one is not None]

    def _encoded(self, word: str) -> bytes:
        return word.replace("\0", "").encode(self._encoding)


@lru_cache(maxsize=3)
def _dictionary(folder: Path, name: str) -> Dictionary:
    return Dictionary(folder, name)


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
            self._dictionaries = [_dictionary(*one) for one in dictionaries_of(language)]
        except (ImportError, OSError):  # without the package, or its library, no word is marked
            self._dictionaries = []
        self._known: dict[str, bool] = {}
        self._meant: dict[str, list[str]] = {}
        self.own = frozenset(part for one in own for part in one.split())

    @property
    def there(self) -> bool:
        """Whether there is a dictionary."""
        return bool(self._dictionaries)

    def knows(self, text: str) -> bool:
        """Whether a word (with its marks) is spelt right; figures, signs and addresses are."""
        known = self._known.get(text)
        if known is None:
            known = self._known[text] = self._look_up(bare(text))
        return known

    def _look_up(self, word: str) -> bool:
        if not self._dictionaries or not word or not any(sign.isalpha() for sign in word):
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
            return any(one.has(word) for one in self._dictionaries)
        except UnicodeError:
            return True  # letters that the dictionary's encoding does not have: not its language

    def _suggested(self, word: str) -> list[str]:
        try:  # side by side: each takes up to a third of a second
            with ThreadPoolExecutor(max(1, len(self._dictionaries))) as pool:
                found = pool.map(lambda one: one.suggestions(word), self._dictionaries)
                return [each for some in found for each in some]
        except UnicodeError:
            return []  # letters that the dictionary's encoding does not have

    def suggestions(self, text: str, most: int = 6) -> list[str]:
        """What may have been meant, the likeliest first: near in letters, and near in sound.

        The marks around the word are kept.
        """
        word = bare(text)
        if not self._dictionaries or not word:
            return []
        meant = self._meant.get(word)
        if meant is None:
            meant = self._meant[word] = self._likeliest(word)
        at = text.find(word)
        return [text[:at] + one + text[at + len(word) :] for one in meant[:most]]

    def _likeliest(self, word: str) -> list[str]:
        from rapidfuzz.distance import Levenshtein

        found = [*self._suggested(word.replace("’", "'")), *_near(word, self.own)]

        def rank(other: str) -> float:
            letters = Levenshtein.normalized_similarity(word.casefold(), other.casefold())
            return -(letters + likeness(word, other))

        return sorted(dict.fromkeys(found), key=rank)


def _near(word: str, own: Collection[str]) -> list[str]:
    """Own words that are near in letters or in sound."""
    from rapidfuzz.distance import Levenshtein

    near = [one for one in own if Levenshtein.normalized_similarity(word.casefold(), one.casefold()) >= 0.5]
    return near[:200]
