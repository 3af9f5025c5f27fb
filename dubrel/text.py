"""Graphemes, words, sentence ends, languages.

Lengths that a reader would count (line length, reading speed) are counted by
extended grapheme cluster (Unicode Standard Annex 29), so that an accented
letter, a flag or a Devanagari syllable is one character in every script.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Any
from unicodedata import bidirectional

_CLOSERS = "\"'”’»)]}›』」）"
_TERMINALS = ".!?…。！？؟۔।॥"
_CLAUSE_MARKS = ",;:，、；：،؛—–"
_ABBREVIATIONS = frozenset(
    [
        "mr",
        "mrs",
        "ms",
        "dr",
        "prof",
        "st",
        "sr",
        "jr",
        "vs",
        "etc",
        "e.g",
        "i.e",
        "no",
        "fig",
        "approx",
        "dept",
        "est",
        "inc",
        "ltd",
        "vol",
        "pp",
        "cf",
    ]
)
_LEAST_LETTERS = 24
_RTL = frozenset(["ar", "arc", "ckb", "dv", "fa", "he", "ks", "ps", "sd", "ug", "ur", "yi"])


@lru_cache(maxsize=4)
def _pattern(text: str) -> Any:
    """A pattern that the standard library does not know; loaded late, plain text does without."""
    import regex

    return regex.compile(text)


_GRAPHEME, _DRESS = r"\X", r"[^\p{L}\p{M}\p{N}]+"

LANGUAGES = {
    "ar": "Arabic", "ca": "Catalan", "cs": "Czech", "cy": "Welsh", "da": "Danish", "de": "German",
    "el": "Greek", "en": "English", "es": "Spanish", "fa": "Persian", "fi": "Finnish", "fr": "French",
    "he": "Hebrew", "hi": "Hindi", "hu": "Hungarian", "it": "Italian", "ja": "Japanese", "ko": "Korean",
    "nl": "Dutch", "no": "Norwegian", "pl": "Polish", "pt": "Portuguese", "ro": "Romanian",
    "ru": "Russian", "sv": "Swedish", "tr": "Turkish", "uk": "Ukrainian", "zh": "Chinese",
}  # fmt: skip


def graphemes(text: str) -> list[str]:
    """Split a text into what a reader sees as characters.

    Examples
    --------
    >>> len(graphemes("e\\u0301a"))
    2
    """
    return list(text) if text.isascii() and "\r\n" not in text else _pattern(_GRAPHEME).findall(text)


@lru_cache(maxsize=65536)
def grapheme_count(text: str) -> int:
    """How many characters a reader sees: letters, spaces and punctuation."""
    return len(text) if text.isascii() and "\r\n" not in text else len(_pattern(_GRAPHEME).findall(text))


def ends_sentence(word: str) -> bool:
    """Whether a word carries the end of a sentence.

    Examples
    --------
    >>> ends_sentence("away?”"), ends_sentence("Mr."), ends_sentence("3.5")
    (True, False, False)
    """
    bare = word.rstrip(_CLOSERS)
    if not bare or bare[-1] not in _TERMINALS:
        return False
    stem = bare.rstrip(".").lower()
    single_initial = len(stem) == 1 and stem.isalpha() and stem != "i"
    return not (bare.endswith(".") and (stem in _ABBREVIATIONS or single_initial))


def ends_clause(word: str) -> bool:
    """Whether a comma, colon, semicolon or dash closes the word."""
    bare = word.rstrip(_CLOSERS)
    return bool(bare) and bare[-1] in _CLAUSE_MARKS


def bare_word(word: str) -> str:
    """The word without punctuation and case, for comparing what was said.

    Examples
    --------
    >>> bare_word("“Heron’s,")
    'herons'
    """
    return _pattern(_DRESS).sub("", word).casefold()


def is_rtl(language: str) -> bool:
    """Whether a language (BCP 47 tag) is written from right to left."""
    return language.split("-")[0].lower() in _RTL


def reads_rtl(text: str, language: str) -> bool:
    """Whether a text is set from the right: as its first letter says, or else its language.

    The first strong character decides, as in the Unicode bidirectional algorithm
    (Standard Annex 9, rules P2 and P3).

    Examples
    --------
    >>> reads_rtl("שלום", "en"), reads_rtl("20, ok", "he"), reads_rtl("…", "he")
    (True, False, True)
    """
    if text.isascii() and not is_rtl(language):
        return False
    for sign in text:
        kind = bidirectional(sign)
        if kind in ("L", "R", "AL"):
            return kind != "L"
    return is_rtl(language)


def language_name(tag: str) -> str:
    """The English name of a language, or the tag itself where it is unknown."""
    return LANGUAGES.get(tag.split("-")[0].lower(), tag)


def language_in_name(name: str) -> str:
    """The language that a file's or folder's name ends in, or nothing.

    Examples
    --------
    >>> language_in_name("base-es"), language_in_name("base")
    ('es', '')
    """
    last = name.lower().replace("_", "-").replace(".", "-").rsplit("-", 1)[-1]
    return last if last in LANGUAGES else ""


def detect_language(text: str) -> str:
    """The language that a text is written in, or nothing where it is too short to tell.

    Examples
    --------
    >>> detect_language("El barco viejo sale del canal esta semana.")
    'es'
    """
    letters = sum(sign.isalpha() for sign in text[:4000])
    if letters < _LEAST_LETTERS and text.isascii():
        return ""
    import py3langid  # late: most work does without

    found, _ = py3langid.classify(text[:4000])
    return str(found) if found in LANGUAGES else ""


def initial(name: str) -> str:
    """The first character of a name, for its badge."""
    found = graphemes(name.strip())
    return found[0].upper() if found else "?"


def counted(count: int, one: str, many: str = "") -> str:
    """A number with its noun.

    Examples
    --------
    >>> counted(1, "turn"), counted(12_000, "turn")
    ('1 turn', '12,000 turns')
    """
    return f"{count:,} {one if count == 1 else many or one + 's'}"
