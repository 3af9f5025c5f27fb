"""The same little story in forty languages, and the encodings in which each was written before Unicode."""

import json
from pathlib import Path

STORIES = json.loads((Path(__file__).parent / "languages.json").read_text(encoding="utf-8"))
_WEST = ("cp1252", "mac_roman", "cp850", "iso8859-15")
_CENTRAL = ("cp1250", "iso8859-2", "cp852")
_CYRILLIC = ("cp1251", "iso8859-5", "koi8-r", "cp866", "mac_cyrillic")
ENCODINGS_OF = {
    **dict.fromkeys(("pl", "cs", "sk", "hu", "hr", "sl"), _CENTRAL),
    "ro": ("cp1250", "iso8859-2", "iso8859-16"),
    "sq": ("cp1252", "cp1250"),
    "tr": ("cp1254", "iso8859-9", "cp857"),
    "lt": ("cp1257", "iso8859-13", "iso8859-4"),
    "lv": ("cp1257", "iso8859-13", "iso8859-4"),
    "et": ("cp1257", "iso8859-15", "cp1252"),
    **dict.fromkeys(("fi", "sv", "da", "nb", "de", "fr", "es", "pt", "it", "ca"), _WEST),
    "is": ("cp1252", "iso8859-15", "mac_roman"),
    "cy": ("iso8859-14",),
    "eo": ("iso8859-3",),
    "ru": _CYRILLIC,
    "uk": ("cp1251", "koi8-u", "iso8859-5"),
    "bg": ("cp1251", "iso8859-5", "cp866"),
    "sr": ("cp1251", "iso8859-5"),
    "el": ("cp1253", "iso8859-7", "cp737"),
    "he": ("cp1255", "iso8859-8"),
    "ar": ("cp1256", "iso8859-6"),
    "fa": ("cp1256",),
    "th": ("cp874",),
    "vi": ("cp1258",),
    "ja": ("shift_jis", "euc_jp", "iso2022_jp"),
    "zh-Hans": ("gb18030",),
    "zh-Hant": ("big5",),
    "ko": ("euc_kr",),
    "ga": ("cp1252", "mac_roman"),
}


def in_encoding(language: str, encoding: str) -> tuple[str, bytes]:
    """A story as far as an encoding has letters for it, and as it is written there."""
    import unicodedata

    text = STORIES[language]
    same = str.maketrans("șțȘȚ", "şţŞŢ") if encoding != "iso8859-16" else {}
    text = text.translate(same)
    written = text
    if encoding == "cp1258":  # tones behind their letters
        for sign in sorted(set(text)):
            parts = unicodedata.normalize("NFD", sign)
            if parts[-1] in "\u0300\u0301\u0303\u0309\u0323":
                written = written.replace(sign, unicodedata.normalize("NFC", parts[:-1]) + parts[-1])
    for mark, plain in (("’", "'"), ("\u200c", " "), ("أ", "أ")):
        if mark.encode(encoding, errors="ignore") == b"":
            text, written = text.replace(mark, plain), written.replace(mark, plain)
    written = "".join(one for one in written if one.encode(encoding, errors="ignore"))
    return unicodedata.normalize("NFC", written), written.encode(encoding)


def in_cues(text: str, many: int = 30) -> list[str]:
    """A story in so many captions."""
    words = text.split(" ") if " " in text else list(text)
    size = max(1, -(-len(words) // many))
    glue = " " if " " in text else ""
    return [glue.join(words[at : at + size]) for at in range(0, len(words), size)]
