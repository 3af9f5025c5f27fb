"""Pronunciations: from the dictionary, by spelling, or by rule. No word is ever skipped.

Phones are those of the CMU dictionary (ARPABET without stress).
"""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache
from pathlib import Path

_LETTERS = {
    "a": "EY",
    "b": "B IY",
    "c": "S IY",
    "d": "D IY",
    "e": "IY",
    "f": "EH F",
    "g": "JH IY",
    "h": "EY CH",
    "i": "AY",
    "j": "JH EY",
    "k": "K EY",
    "l": "EH L",
    "m": "EH M",
    "n": "EH N",
    "o": "OW",
    "p": "P IY",
    "q": "K Y UW",
    "r": "AA R",
    "s": "EH S",
    "t": "T IY",
    "u": "Y UW",
    "v": "V IY",
    "w": "D AH B AH L Y UW",
    "x": "EH K S",
    "y": "W AY",
    "z": "Z IY",
}

# longest spelling first; what a spelling sounds like in most words
_RULES = [
    ("tion", "SH AH N"),
    ("sion", "ZH AH N"),
    ("ough", "AO"),
    ("augh", "AO"),
    ("eigh", "EY"),
    ("tch", "CH"),
    ("dge", "JH"),
    ("igh", "AY"),
    ("sch", "SH"),
    ("que", "K"),
    ("ear", "IH R"),
    ("eer", "IH R"),
    ("air", "EH R"),
    ("are", "EH R"),
    ("ore", "AO R"),
    ("our", "AW R"),
    ("ch", "CH"),
    ("sh", "SH"),
    ("th", "TH"),
    ("ph", "F"),
    ("wh", "W"),
    ("ck", "K"),
    ("ng", "NG"),
    ("qu", "K W"),
    ("kn", "N"),
    ("wr", "R"),
    ("gh", "G"),
    ("gn", "N"),
    ("ee", "IY"),
    ("ea", "IY"),
    ("oo", "UW"),
    ("ou", "AW"),
    ("ow", "OW"),
    ("oa", "OW"),
    ("oi", "OY"),
    ("oy", "OY"),
    ("ai", "EY"),
    ("ay", "EY"),
    ("ei", "EY"),
    ("ey", "IY"),
    ("ie", "IY"),
    ("au", "AO"),
    ("aw", "AO"),
    ("eu", "Y UW"),
    ("ew", "UW"),
    ("ue", "UW"),
    ("ui", "UW"),
    ("ar", "AA R"),
    ("er", "ER"),
    ("ir", "ER"),
    ("or", "AO R"),
    ("ur", "ER"),
    ("bb", "B"),
    ("cc", "K"),
    ("dd", "D"),
    ("ff", "F"),
    ("gg", "G"),
    ("ll", "L"),
    ("mm", "M"),
    ("nn", "N"),
    ("pp", "P"),
    ("rr", "R"),
    ("ss", "S"),
    ("tt", "T"),
    ("zz", "Z"),
    ("a", "AE"),
    ("b", "B"),
    ("c", "K"),
    ("d", "D"),
    ("e", "EH"),
    ("f", "F"),
    ("g", "G"),
    ("h", "HH"),
    ("i", "IH"),
    ("j", "JH"),
    ("k", "K"),
    ("l", "L"),
    ("m", "M"),
    ("n", "N"),
    ("o", "AA"),
    ("p", "P"),
    ("q", "K"),
    ("r", "R"),
    ("s", "S"),
    ("t", "T"),
    ("u", "AH"),
    ("v", "V"),
    ("w", "W"),
    ("x", "K S"),
    ("y", "IY"),
    ("z", "Z"),
]
_LONG = {"a": "EY", "e": "IY", "i": "AY", "o": "OW", "u": "UW", "y": "AY"}
_SIGNS = {"%": "percent", "&": "and", "+": "plus", "=": "equals", "@": "at", "£": "pounds", "$": "dollars"}
_SIGNS |= {"€": "euros", "°": "degrees", "#": "number"}
_PARTED_FIGURES = re.compile("(?<=\\d)[\u00a0\u2007\u202f](?=\\d{3})")
_PIECE = re.compile(r"[a-z']+|\d[\d,]*(?:\.\d+)?(?:st|nd|rd|th)?|[%&+=@£$€°#]")
_LINE = 500  # bytes: no line of the dictionary is longer
_MAGIC_E = re.compile(r"([aeiouy])([bcdfgklmnpstvz])e$")


class Dictionary:
    """Words with their first pronunciation, looked up where they stand: reading all takes long.

    Parameters
    ----------
    text : bytes
        Lines of a word and its phones, in order of the words; further
        pronunciations are ``word(2)`` and follow the first.
    """

    def __init__(self, text: bytes) -> None:
        self._text = text
        self._known: dict[str, str | None] = {}

    def get(self, word: str) -> str | None:
        """The phones of a word; ``None`` where it is not there."""
        if word not in self._known:
            self._known[word] = self._found(word.encode())
        return self._known[word]

    def __contains__(self, word: str) -> bool:
        return self.get(word) is not None

    def __getitem__(self, word: str) -> str:
        if (found := self.get(word)) is None:
            raise KeyError(word)
        return found

    def _found(self, word: bytes) -> str | None:
        """Search by halves, for the first line whose word does not stand before it."""
        text, low, high = self._text, 0, len(self._text)
        while low < high:
            begin = text.rfind(b"\n", low, (low + high) // 2) + 1 or low
            end = text.find(b"\n", begin, high)
            end = high if end < 0 else end
            if text[begin:end].partition(b" ")[0].partition(b"(")[0] < word:
                low = end + 1
            else:
                high = begin
        line, _, _ = text[low : low + _LINE].partition(b"\n")
        found, _, phones = line.partition(b" ")
        return phones.strip().decode() if found == word else None


@lru_cache(maxsize=1)
def dictionary() -> Dictionary:
    """The pronunciation dictionary that comes with the aligner."""
    from pocketsphinx import get_model_path

    return Dictionary(Path(get_model_path("en-us/cmudict-en-us.dict")).read_bytes())


def spoken_forms(word: str) -> list[str]:
    r"""What is said for a written word: figures and signs in words, hyphens apart.

    Examples
    --------
    >>> spoken_forms("eighty-one,")
    ['eighty', 'one']
    >>> spoken_forms("1881")
    ['eighteen', 'eighty', 'one']
    >>> spoken_forms("10\u202f000")
    ['ten', 'thousand']
    """
    word = _PARTED_FIGURES.sub("", word)
    text = unicodedata.normalize("NFKD", word.replace("’", "'")).lower()
    text = "".join(sign for sign in text if not unicodedata.combining(sign))
    forms: list[str] = []
    pieces = _PIECE.findall(text)
    if len(pieces) > 1 and pieces[0] in "£$€":
        pieces = [*pieces[1:2], pieces[0], *pieces[2:]]
    for piece in pieces:
        piece = piece.strip("'")
        if piece and piece[0].isdigit():
            forms += _number(piece)
        elif piece:
            forms.append(_SIGNS.get(piece, piece))
    if word.isupper() and len(forms) == 1 and 2 <= len(forms[0]) <= 5 and forms[0] not in dictionary():
        return [f"{letter}." for letter in forms[0]]
    return forms


def _number(piece: str) -> list[str]:
    from num2words import num2words

    ordinal = piece[-1].isalpha()
    digits = piece.rstrip("stndrh").replace(",", "")
    if "." in digits:
        whole, _, part = digits.partition(".")
        said = f"{num2words(int(whole))} point {' '.join(num2words(int(d)) for d in part)}"
    elif len(digits) > 12:
        said = " ".join(num2words(int(d)) for d in digits)
    elif ordinal:
        said = num2words(int(digits), to="ordinal")
    elif len(digits) == 4 and "," not in piece and "1100" <= digits <= "2099" and digits[1:3] != "00":
        said = num2words(int(digits), to="year")
    else:
        said = num2words(int(digits))
    return [one for one in re.split(r"[^a-z]+", said.lower()) if one]


def phones_of(form: str) -> str:
    """The phones of a spoken form that the dictionary may not have.

    Examples
    --------
    >>> phones_of("fenn")
    'F EH N'
    """
    known = dictionary()
    if form in known:
        return known[form]
    if form.endswith(".") and form[:-1] in _LETTERS:
        return _LETTERS[form[:-1]]
    if form.endswith("'s") and form[:-2] in known:
        return known[form[:-2]] + (
            " S" if known[form[:-2]].split()[-1] in {"P", "T", "K", "F", "TH"} else " Z"
        )
    parts = _compound(form, known)
    if parts:
        return " ".join(known[part] for part in parts)
    return _by_rule(form.replace("'", ""))


def _compound(form: str, known: Dictionary) -> tuple[str, str] | None:
    """Two dictionary words that make up a form (sternpost), the longer first part first."""
    for cut in range(len(form) - 3, 2, -1):
        if form[:cut] in known and form[cut:] in known:
            return form[:cut], form[cut:]
    return None


def _by_rule(form: str) -> str:
    magic = _MAGIC_E.search(form)
    phones, at = [], 0
    while at < len(form):
        if magic and at == magic.start():
            phones += [_LONG[form[at]], *_consonant(form[at + 1])]
            break
        for spelling, sound in _RULES:
            if form.startswith(spelling, at):
                soft = spelling in "cg" and form[at + 1 : at + 2] in tuple("eiy")
                phones += [{"c": "S", "g": "JH"}[spelling]] if soft else sound.split()
                at += len(spelling)
                break
        else:
            at += 1
    if len(form) > 2 and form.endswith("e") and not magic and phones[-1:] == ["EH"]:
        phones.pop()
    return " ".join(phones) or "AH"


def _consonant(letter: str) -> list[str]:
    return {"c": ["S"], "g": ["JH"]}.get(letter) or dict(_RULES)[letter].split()
