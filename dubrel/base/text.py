"""Graphemes, words, sentence ends, languages.

Lengths that a reader would count (line length, reading speed) are counted by
extended grapheme cluster (Unicode Standard Annex 29), so that an accented
letter, a flag or a Devanagari syllable is one character in every script.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from functools import cache, lru_cache
from itertools import pairwise
from typing import Any
from unicodedata import bidirectional, east_asian_width

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
_RTL = frozenset(["ar", "arc", "ckb", "dv", "fa", "he", "ks", "ps", "sd", "ug", "ur", "yi"])


@lru_cache(maxsize=4)
def _pattern(text: str) -> Any:
    """A pattern that the standard library does not know; loaded late, plain text does without."""
    import regex

    return regex.compile(text)


_GRAPHEME, _DRESS = r"\X", r"[^\p{L}\p{M}\p{N}]+"


def graphemes(text: str) -> list[str]:
    r"""Split a text into what a reader sees as characters.

    Examples
    --------
    >>> len(graphemes("e\u0301a"))
    2
    """
    return list(text) if text.isascii() and "\r\n" not in text else _pattern(_GRAPHEME).findall(text)


@lru_cache(maxsize=65536)
def grapheme_count(text: str) -> int:
    """How many characters a reader sees: letters, spaces and punctuation."""
    return len(text) if text.isascii() and "\r\n" not in text else len(_pattern(_GRAPHEME).findall(text))


@lru_cache(maxsize=65536)
def wide_count(text: str) -> int:
    """How many characters of a text are wide: two columns (Unicode Standard Annex 11).

    Examples
    --------
    >>> wide_count("水門 ok")
    2
    """
    return 0 if text.isascii() else sum(east_asian_width(one[0]) in "WF" for one in graphemes(text))


# -- scripts that put no space between words ---------------------------------------------------

_UNSPACED_SIGNS = (  # Thai, Lao, Myanmar, Khmer, Japanese and Chinese with their punctuation
    "\u0e00-\u0eff\u1000-\u109f\u1780-\u17ff\u3000-\u30ff\u31f0-\u31ff\u3400-\u4dbf\u4e00-\u9fff"
    "\uf900-\ufaff\uff01-\uff60\U00020000-\U0003ffff"
)


@cache
def _unspaced() -> re.Pattern[str]:
    return re.compile(f"[{_UNSPACED_SIGNS}]")  # late: it takes as long as all other patterns together


@lru_cache(maxsize=8192)
def _is_unspaced(sign: str) -> bool:
    return sign >= "\u0e00" and _unspaced().match(sign) is not None


def whole_words(pattern: str) -> str:
    """A pattern that stands for whole words; where a script puts no spaces between them any place begins one.

    Examples
    --------
    >>> [bool(re.search(whole_words(one), "the old boat 水門のそば")) for one in ("old", "ol", "そば")]
    [True, False, True]
    """
    letter = rf"[^\W{_UNSPACED_SIGNS}]"
    return f"(?<!{letter})(?:{pattern})(?!{letter})"


def over_lines(text: str) -> str:
    r"""A pattern for a text that may be broken into lines anywhere that its script allows.

    Examples
    --------
    >>> bool(re.search(over_lines("the boat"), "the\nboat"))
    True
    >>> bool(re.search(over_lines("水門の"), "水門\nの"))
    True
    """
    parts = []
    for token in text.split():
        signs = list(token)
        joints = [r"\n?" if _is_unspaced(a) and _is_unspaced(b) else "" for a, b in pairwise(signs)]
        parts.append("".join(re.escape(sign) + joint for sign, joint in zip(signs, [*joints, ""])))
    return r"\s+".join(parts)


def gap(before: str, after: str) -> str:
    """What stands between two words: a space, or nothing within scripts that put none.

    Examples
    --------
    >>> gap("the", "boat"), gap("水門の", "そばで"), gap("水門", "Heron")
    (' ', '', ' ')
    """
    if not before or not after or before[-1] < "\u0e00" or after[0] < "\u0e00":
        return " "
    return "" if _is_unspaced(before[-1]) and _is_unspaced(after[0]) else " "


def gap_lengths(words: Sequence[str]) -> list[int]:
    """How many characters stand before each word: 0 before the first."""
    if "".join(words).isascii() and all(words):
        return [0, *[1] * (len(words) - 1)][: len(words)]
    return [0, *(len(gap(a, b)) for a, b in pairwise(words))][: len(words)]


def joined(words: Iterable[str], spaced: Sequence[bool] = ()) -> str:
    """Words as one text, with spaces where their script has them, and where ``spaced`` says so.

    Examples
    --------
    >>> joined(["The", "boat"]), joined(["今日は", "良い", "天気です。"])
    ('The boat', '今日は良い天気です。')
    """
    parts = words if isinstance(words, list | tuple) else list(words)
    text = " ".join(parts)
    if text.isascii() or not _has_unspaced(text):
        return text
    marks = spaced or (False,) * len(parts)
    pieces = [parts[0]]
    for before, one, mark in zip(parts, parts[1:], marks[1:]):
        pieces += [" " if mark else gap(before, one), one]
    return "".join(pieces)


def _has_unspaced(text: str) -> bool:
    return _unspaced().search(text) is not None


HELD_SPACES = ("\u00a0", "\u2007", "\u202f")
"""Spaces at which no line may break: no-break space, figure space, narrow no-break space."""
_NO_BREAK = re.compile("[\u00a0\u2007\u202f]")
_BREAKING = re.compile("[^\\S\u00a0\u2007\u202f]+")


def tokens(text: str) -> list[str]:
    r"""What stands between the spaces of a text.

    A space that may not be broken holds signs and figures at what they belong to: there it
    is part of the token. Between two words it is a space like any other.

    Examples
    --------
    >>> [one.replace("\u00a0", "~") for one in tokens("«\u00a0oui\u00a0» : 10\u00a0000 €, M.\u00a0Brun")]
    ['«~oui~»', ':', '10~000', '€,', 'M.', 'Brun']
    """
    if text.isascii() or not _NO_BREAK.search(text):
        return text.split()
    found: list[str] = []
    for run in _BREAKING.split(text):
        parts, empty = _NO_BREAK.split(run), False
        for place, (part, sign) in enumerate(zip(parts, ["", *_NO_BREAK.findall(run)])):
            if not part:
                empty = True
            elif place and not empty and not (_has_letter(parts[place - 1]) and _has_letter(part)):
                found[-1] += sign + part
            else:
                found.append(part)
            empty = empty and not part
    return found


def _has_letter(text: str) -> bool:
    return any(map(str.isalpha, text))


def tidied(text: str) -> str:
    """A text with one space between its tokens, and none at its ends."""
    return " ".join(tokens(text))


def word_units(text: str) -> list[str]:
    """The words of a text; where a script puts no spaces between them, by a library.

    Examples
    --------
    >>> word_units("The  boat")
    ['The', 'boat']
    >>> word_units("今日は良い天気です。")
    ['今日は', '良い', '天気です。']
    """
    return [unit for unit, _ in spaced_units(text)]


def spaced_units(text: str) -> list[tuple[str, bool]]:
    """The words of a text, each with whether a space stands before it that its script does not ask for.

    Put together again with :func:`joined` and these spaces they are the same text.
    """
    found = tokens(text)
    if text.isascii() or not _has_unspaced(text):
        return [(token, False) for token in found]
    parser = _unit_parser(_unspaced_language(text))
    units: list[tuple[str, bool]] = []
    for token in found:
        asked = not units or gap(units[-1][0], token) == " "
        units += [(unit, nth == 0 and not asked) for nth, unit in enumerate(_parsed(token, parser))]
    return units


_AFTER_END = re.compile("(?<=[。！？!?])(?=[^。！？!?」』）)”’])")


def _parsed(token: str, parser: Any) -> list[str]:
    """A token's units; never parted where a space would then stand that was not there."""
    if len(token) < 2 or not _has_unspaced(token):
        return [token]
    units: list[str] = []
    parts = (part for whole in parser.parse(token) for part in _AFTER_END.split(whole))
    for unit in filter(None, parts):
        if units and gap(units[-1], unit) == " ":
            units[-1] += unit
        else:
            units.append(unit)
    return units


def _unspaced_language(text: str) -> str:
    if re.search("[\u3041-\u30ff\u31f0-\u31ff]", text):
        return "ja"
    return "th" if re.search("[\u0e00-\u0e7f]", text) else "zh"


@lru_cache(maxsize=3)
def _unit_parser(language: str) -> Any:
    import budoux  # late: most languages do without

    if language == "ja":
        return budoux.load_default_japanese_parser()
    return (
        budoux.load_default_thai_parser()
        if language == "th"
        else budoux.load_default_simplified_chinese_parser()
    )


_POINTED_ORDINALS = frozenset("cs da de et fi fo hr hu is lb lv nb nn no pl sk sl sr tr".split())
_ORDINAL = re.compile(r"\d{1,2}\.")


def ends_sentence(word: str, language: str = "") -> bool:
    """Whether a word carries the end of a sentence.

    Parameters
    ----------
    word : str
    language : str
        BCP 47 tag; in some a point behind a small number makes it an ordinal.

    Examples
    --------
    >>> ends_sentence("away?”"), ends_sentence("Mr."), ends_sentence("3.5")
    (True, False, False)
    >>> ends_sentence("14.", "de"), ends_sentence("14.", "en")
    (False, True)
    """
    if language and word[:1].isdigit() and _ORDINAL.fullmatch(word):
        return language.split("-")[0].lower() not in _POINTED_ORDINALS
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


@lru_cache(maxsize=1 << 16)
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
