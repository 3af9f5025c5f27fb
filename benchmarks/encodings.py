"""Texts of forty languages in the encodings of their time: how many are read as they were written.

The baseline takes each for Western European, as what is not Unicode is mostly taken.
"""

from __future__ import annotations

import sys
import unicodedata

from common import ROOT, report

sys.path.insert(0, str(ROOT / "tests"))
from languages import ENCODINGS_OF, in_encoding

from dubrel.formats.shared.encodings import best_encoding

_SAME = str.maketrans("șțȘȚ", "şţŞŢ")  # one letter with either mark


def as_written(text: str, data: bytes, encoding: str) -> bool:
    """Whether a text comes out of its bytes."""
    found = unicodedata.normalize("NFC", data.decode(encoding, errors="replace"))
    return found.translate(_SAME) == text.translate(_SAME)


def main() -> None:
    """Read every text, whole and its first ten words."""
    for most in (1000, 10):
        ours = western = count = 0
        for language, encodings in ENCODINGS_OF.items():
            for encoding in encodings:
                text, data = in_encoding(language, encoding)
                parts = text.split(" ") if " " in text else list(text)
                short = (" " if " " in text else "").join(parts[: most if " " in text else 3 * most])
                data = data if most >= 1000 else in_bytes(short, encoding)
                if not data:
                    continue
                count += 1
                ours += as_written(short, data, best_encoding(data).encoding)
                western += as_written(short, data, "cp1252")
        report("encodings", words=most, texts=count, ours=ours / count, western=western / count, limit=0.98)


def in_bytes(text: str, encoding: str) -> bytes:
    """A text in an encoding; nothing where it cannot be, or is plain."""
    try:
        data = text.encode(encoding)
    except UnicodeEncodeError:
        return b""
    return data if not text.isascii() else b""


if __name__ == "__main__":
    main()
