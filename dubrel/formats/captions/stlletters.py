"""The letters of EBU STL.

Five tables of one byte a sign, the first with accents before their letters (ISO 6937).
"""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence

_CODECS = ("", "iso8859_5", "iso8859_6", "iso8859_7", "iso8859_8")
_ACCENTS = dict(
    zip(
        "\u0300\u0301\u0302\u0303\u0304\u0306\u0307\u0308\u030a\u0327\u030b\u0328\u030c",
        (0xC1, 0xC2, 0xC3, 0xC4, 0xC5, 0xC6, 0xC7, 0xC8, 0xCA, 0xCB, 0xCD, 0xCE, 0xCF),
    )
)
_OF_ACCENT = {code: sign for sign, code in _ACCENTS.items()}
_RIGHT = {
    0xA0: "\u00a0",
    0xA1: "¡",
    0xA2: "¢",
    0xA3: "£",
    0xA4: "$",
    0xA5: "¥",
    0xA6: "#",
    0xA7: "§",
    0xA8: "¤",
    0xA9: "‘",
    0xAA: "“",
    0xAB: "«",
    0xAC: "←",
    0xAD: "↑",
    0xAE: "→",
    0xAF: "↓",
    0xB0: "°",
    0xB1: "±",
    0xB2: "²",
    0xB3: "³",
    0xB4: "×",
    0xB5: "µ",
    0xB6: "¶",
    0xB7: "·",
    0xB8: "÷",
    0xB9: "’",
    0xBA: "”",
    0xBB: "»",
    0xBC: "¼",
    0xBD: "½",
    0xBE: "¾",
    0xBF: "¿",
    0xD0: "—",
    0xD1: "¹",
    0xD2: "®",
    0xD3: "©",
    0xD4: "™",
    0xD5: "♪",
    0xD6: "¬",
    0xD7: "¦",
    0xDC: "⅛",
    0xDD: "⅜",
    0xDE: "⅝",
    0xDF: "⅞",
    0xE0: "Ω",
    0xE1: "Æ",
    0xE2: "Đ",
    0xE3: "ª",
    0xE4: "Ħ",
    0xE6: "Ĳ",
    0xE7: "Ŀ",
    0xE8: "Ł",
    0xE9: "Ø",
    0xEA: "Œ",
    0xEB: "º",
    0xEC: "Þ",
    0xED: "Ŧ",
    0xEE: "Ŋ",
    0xEF: "ŉ",
    0xF0: "ĸ",
    0xF1: "æ",
    0xF2: "đ",
    0xF3: "ð",
    0xF4: "ħ",
    0xF5: "ı",
    0xF6: "ĳ",
    0xF7: "ŀ",
    0xF8: "ł",
    0xF9: "ø",
    0xFA: "œ",
    0xFB: "ß",
    0xFC: "þ",
    0xFD: "ŧ",
    0xFE: "ŋ",
    0xFF: "\u00ad",
}
_CODE = {sign: code for code, sign in _RIGHT.items()}
_ALIKE = str.maketrans({"…": "...", "–": "-", "‑": "-", "‐": "-", "\u2009": " ", "\u202f": " "})
_LANGUAGES = (
    "00: 01:sq 02:br 03:ca 04:hr 05:cy 06:cs 07:da 08:de 09:en 0A:es 0B:eo 0C:et 0D:eu 0E:fo 0F:fr 10:fy"
    " 11:ga 12:gd 13:gl 14:is 15:it 16:se 17:la 18:lv 19:lb 1A:lt 1B:hu 1C:mt 1D:nl 1E:no 1F:oc 20:pl 21:pt"
    " 22:ro 23:rm 24:sr 25:sk 26:sl 27:fi 28:sv 29:tr 2B:wa 7F:am 7E:ar 7D:hy 7C:as 7B:az 7A:bm 79:be 78:bn"
    " 77:bg 76:my 75:zh 74:cv 72:ff 71:ka 70:el 6F:gu 6E:gn 6D:ha 6C:he 6B:hi 6A:id 69:ja 68:kn 67:kk 66:km"
    " 65:ko 64:lo 63:mk 62:mg 61:ms 5F:mr 5E:nd 5D:ne 5C:or 5A:fa 59:pa 58:ps 57:qu 56:ru 54:sh 53:sn 52:si"
    " 51:so 4F:sw 4E:tg 4D:ta 4C:tt 4B:te 4A:th 49:uk 48:ur 47:uz 46:vi 45:zu"
)
_NO_LETTERS = frozenset(
    "am as bn dz gu hi hy ja ka km kn ko lo ml mr my ne or pa sa si ta te th ti zh".split()
)
_LANGUAGE = dict(pair.split(":") for pair in _LANGUAGES.split(" "))
_LANGUAGE_CODE = {tag: code for code, tag in _LANGUAGE.items()}


def language_of(code: str) -> str:
    """The language of a code of two hexadecimal digits; empty where it says none."""
    return _LANGUAGE.get(code.upper(), "")


def language_code(tag: str) -> str:
    """The code of a language."""
    return _LANGUAGE_CODE.get(tag.lower().split("-")[0], "00")


def has_letters(tag: str) -> bool:
    """Whether a table has the letters that a language is mostly written in."""
    return tag.lower().split("-")[0] not in _NO_LETTERS


def table_for(lines: Sequence[str]) -> int:
    """The table that has most of the letters."""
    signs = {sign for line in lines for sign in unicodedata.normalize("NFC", line)}
    lost = [
        sum(decoded(encoded(sign, table), table) != sign.translate(_ALIKE) for sign in signs)
        for table in range(5)
    ]
    return lost.index(min(lost))


def plain(text: str) -> str:
    """A text with letters and accents as one sign, and the dashes and quotes that the tables have."""
    return unicodedata.normalize("NFC", text).translate(_ALIKE)


def encoded(text: str, table: int) -> bytes:
    """A text in a table; what it has not becomes “?”."""
    text = plain(text)
    if table:
        return bytes(code for code in text.encode(_CODECS[table], "replace") if not 0x80 <= code < 0xA0)
    return b"".join(map(_latin, text))


def _latin(sign: str) -> bytes:
    if " " <= sign <= "~":
        return sign.encode()
    if sign in _CODE:
        return bytes([_CODE[sign]])
    parts = unicodedata.normalize("NFD", sign)
    if len(parts) == 2 and parts[1] in _ACCENTS and " " <= parts[0] <= "~":
        return bytes([_ACCENTS[parts[1]], ord(parts[0])])
    return b"?"


def decoded(data: bytes, table: int) -> str:
    """What stands in bytes of a table.

    Examples
    --------
    >>> decoded(encoded("Zoë – 5 € “oak”", 0), 0)
    'Zoë - 5 ? “oak”'
    """
    if table:
        return data.decode(_CODECS[table], "replace")
    found, accent = [], ""
    for code in data:
        if code in _OF_ACCENT:
            accent = _OF_ACCENT[code]
            continue
        sign = chr(code) if code < 0x7F else _RIGHT.get(code, "\ufffd")
        found.append(unicodedata.normalize("NFC", sign + accent) if accent else sign)
        accent = ""
    return "".join(found)
