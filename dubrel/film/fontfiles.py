"""Font files for drawing captions: the shipped ones, and those of the system by fontconfig."""

from __future__ import annotations

import subprocess
from functools import lru_cache
from pathlib import Path

from dubrel.base.value import Value

_FONTS = Path(__file__).parent.parent / "assets" / "fonts"
_SHIPPED = {
    "Inter": ("Inter-Regular.otf", "Inter-Medium.otf", "Inter-SemiBold.otf"),
    "Gentium Plus": ("GentiumPlus-Regular.ttf", "GentiumPlus-Regular.ttf", "GentiumPlus-Bold.ttf"),
    "JetBrains Mono": ("JetBrainsMono-Regular.ttf",) * 3,
}
SHIPPED = tuple(_SHIPPED)
_COVERED = ((0x20, 0x52F), (0x1E00, 0x1FFF), (0x2000, 0x214F))  # Latin, Greek, Cyrillic, signs
_TIMEOUT_S = 5
_MOST_FALLBACKS, _ASKED = 6, 40  # fonts; letters that are asked for at once
_IDLE = set("\n\t\r\u00ad\u200b\u200c\u200d\u200e\u200f\u2028\u2060\ufe0e\ufe0f\ufeff")  # never seen


def font_file(family: str, weight: int, text: str = "") -> tuple[Path, bool]:
    """The file of a font that can show a text.

    Parameters
    ----------
    family : str
    weight : int
        400 is regular, 600 semibold.
    text : str
        What is to be shown; another font stands in where the family has no such letters.

    Returns
    -------
    path : Path
    there : bool
        Whether the family itself is there.
    """
    strange = "".join(sorted({sign for sign in text if not _covered(sign)}))
    shipped = _SHIPPED.get(family)
    if shipped and not strange:
        return _FONTS / shipped[0 if weight < 500 else 1 if weight < 600 else 2], True
    found = _matched(family if not shipped else "Inter", weight >= 600, strange)
    if found is None:
        return _FONTS / _SHIPPED["Inter"][1], shipped is not None
    path, name = found
    return path, shipped is not None or family.lower() in name.lower()


class Fallbacks(Value):
    """What stands in for letters that a family has not.

    Attributes
    ----------
    files : tuple of Path
        In the order in which they are to be asked.
    missing : str
        Letters that no font of this machine has.
    """

    files: tuple[Path, ...]
    missing: str


def fallbacks(family: str, text: str) -> Fallbacks:
    """The fonts that a text needs besides a family that ships."""
    return known_fallbacks(family, "".join(sorted(set(text) - _IDLE)))


@lru_cache(maxsize=32)
def known_fallbacks(family: str, signs: str) -> Fallbacks:
    """The same for signs in order; the latest are kept."""
    strange = set(signs) - _letters_of(font_file(family, 400)[0])
    files, missing = list[Path](), set[str]()
    while strange and len(files) < _MOST_FALLBACKS:
        asked = sorted(strange)[:_ASKED]
        path, _ = font_file(family, 400, "".join(asked))
        held = _letters_of(path)
        if not held.intersection(asked):  # a font that had any of them would have been found
            missing.update(asked)
            strange.difference_update(asked)
            continue
        files.append(path)
        strange -= held
    return Fallbacks(tuple(files), "".join(sorted(missing | strange)))


@lru_cache(maxsize=16)
def _letters_of(path: Path) -> frozenset[str]:
    """The letters that a font has; none where it cannot be put into a document."""
    from fontTools.ttLib import TTFont, TTLibError  # late: only for documents

    if path.suffix.lower() not in (".ttf", ".otf", ".ttc"):
        return frozenset()
    try:
        with TTFont(path, fontNumber=0, lazy=True) as font:
            return frozenset(map(chr, font.getBestCmap() or ()))
    except (OSError, TTLibError):
        return frozenset()


def _covered(sign: str) -> bool:
    return any(low <= ord(sign) <= high for low, high in _COVERED) or ord(sign) < 0x20


@lru_cache(maxsize=256)
def _matched(family: str, bold: bool, strange: str) -> tuple[Path, str] | None:
    """What fontconfig finds; nothing where it is not there."""
    pattern = family.replace(":", " ").replace("-", "\\-") + (":bold" if bold else "")
    if any("\u3040" <= sign <= "\u30ff" for sign in strange):
        pattern += ":lang=ja"  # the same characters look otherwise in Chinese
    if strange:
        pattern += ":charset=" + " ".join(f"{ord(sign):x}" for sign in strange[:40])
    try:
        run = subprocess.run(
            ["fc-match", "-f", "%{file}\n%{family}", pattern],
            capture_output=True,
            text=True,
            timeout=_TIMEOUT_S,
            check=True,
        )
    except (OSError, subprocess.SubprocessError):
        return None
    path, _, name = run.stdout.partition("\n")
    return (Path(path), name) if path and Path(path).is_file() else None


@lru_cache(maxsize=1)
def families() -> tuple[str, ...]:
    """All families that there are: the shipped ones first."""
    try:
        run = subprocess.run(
            ["fc-list", ":", "family"], capture_output=True, text=True, timeout=_TIMEOUT_S, check=True
        )
        listed = {line.split(",")[0].strip() for line in run.stdout.splitlines() if line.strip()}
    except (OSError, subprocess.SubprocessError):
        listed = set()
    return (*SHIPPED, *sorted(listed - set(SHIPPED)))
