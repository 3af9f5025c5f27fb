"""Languages: their names and codes (ISO 639), and which one a text is written in."""

from __future__ import annotations

import shutil
from functools import cache, lru_cache, partial
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import write_atomically
from dubrel.base.folders import cache_root

UNKNOWN = "und"
"""The tag of a language that nobody has said and no text has told."""
LANGUAGES = {
    "ar": "Arabic",
    "ca": "Catalan",
    "cs": "Czech",
    "cy": "Welsh",
    "da": "Danish",
    "de": "German",
    "el": "Greek",
    "en": "English",
    "es": "Spanish",
    "fa": "Persian",
    "fi": "Finnish",
    "fr": "French",
    "he": "Hebrew",
    "hi": "Hindi",
    "hu": "Hungarian",
    "it": "Italian",
    "ja": "Japanese",
    "ko": "Korean",
    "nl": "Dutch",
    "no": "Norwegian",
    "pl": "Polish",
    "pt": "Portuguese",
    "ro": "Romanian",
    "ru": "Russian",
    "sv": "Swedish",
    "tr": "Turkish",
    "uk": "Ukrainian",
    "zh": "Chinese",
}
"""Those that are offered in lists; every other one can be typed."""
_NATIONAL = frozenset(
    "af am az be bg bn bs et eu fo ga gd gl gu hr hy id is ka kk km kn lb lo lt lv mk ml mn mr ms mt my ne pa"
    " ps si sk sl so sq sr sw ta te tg th tl ur uz vi zu".split()
)
_LEAST_LETTERS = 24
_NEAR = 12.0  # logits by which a rare language must be likelier than a frequent one
_SAME = {"nb": "no", "nn": "no", "wuu": "zh", "sh": "sr"}


def main_tag(tag: str) -> str:
    """The language of a BCP 47 tag, without script and region."""
    return tag.replace("_", "-").split("-")[0].lower()


def usual_tag(tag: str) -> str:
    """The language of a tag as models and lists call it.

    Examples
    --------
    >>> usual_tag("nn-NO"), usual_tag("pt-BR")
    ('no', 'pt')
    """
    main = main_tag(tag)
    return _SAME.get(main, main)


def language_name(tag: str) -> str:
    """The English name of a language, or the tag itself where there is none.

    Examples
    --------
    >>> language_name("pt-BR"), language_name("th"), language_name("und"), language_name("x-ours")
    ('Portuguese', 'Thai', 'Unknown language', 'x-ours')
    """
    main = main_tag(tag)
    if main in ("", UNKNOWN):
        return "Unknown language"
    if main in LANGUAGES:
        return LANGUAGES[main]
    found = _listed(main)
    return found.name if found is not None else tag


def three_letters(tag: str) -> str:
    """The code of ISO 639-2/T that files of films carry; ``und`` where there is none.

    Examples
    --------
    >>> three_letters("de"), three_letters("lt-LT"), three_letters("yue"), three_letters("")
    ('deu', 'lit', 'yue', 'und')
    """
    found = _listed(main_tag(tag))
    return (found.pt2t or found.pt3 or UNKNOWN) if found is not None else UNKNOWN


def known_language(said: str) -> str:
    """The tag of a language by its code or by its name, in English or in the language of the interface.

    Empty where there is none.

    Examples
    --------
    >>> [known_language(one) for one in ("Lithuanian", "ger", "pt-BR", "zho", "Elvish")]
    ['lt', 'de', 'pt-BR', 'zh', '']
    """
    said = said.strip()
    here = {tr(name).casefold(): tag for tag, name in LANGUAGES.items()}
    if said.casefold() in here:
        return here[said.casefold()]
    main, _, rest = said.replace("_", "-").partition("-")
    found = _listed(main.lower()) or _listed(said.capitalize())
    if found is None:
        return ""
    tag = str(found.pt1 or found.pt3)
    return f"{tag}-{rest}" if rest and main.lower() != said.lower() else tag


def language_named(said: str) -> str:
    """The tag of a language that was asked for by its code or its name; empty where none was.

    Raises
    ------
    DubrelError
        If there is no such language.
    """
    tag = known_language(said)
    if said and not tag:
        raise DubrelError(
            tr("There is no language “{said}”. Write a tag such as en, or an English name.").format(said=said)
        )
    return tag


@lru_cache(maxsize=256)
def _listed(code: str) -> Any:
    from iso639 import Lang  # late: a tenth of a second
    from iso639.exceptions import InvalidLanguageValue

    try:
        return Lang(code) if code else None
    except InvalidLanguageValue:
        return None
    except ValueError:
        return None


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

    A rare language has to be clearly likelier than a frequent one.

    Examples
    --------
    >>> detect_language("El barco viejo sale del canal esta semana.")
    'es'
    """
    sample = text[:4000]
    letters = sum(sign.isalpha() for sign in sample)
    if (letters < _LEAST_LETTERS and sample.isascii()) or not letters:
        return ""
    ranked = [(usual_tag(tag), score) for tag, score in likely_languages(sample)]
    best, top = ranked[0]
    if best in LANGUAGES or (best in _NATIONAL and letters >= 4 * _LEAST_LETTERS):
        return best
    frequent, score = next((one for one in ranked if one[0] in LANGUAGES), ("", float("-inf")))
    if best in _NATIONAL:
        return frequent if top - score < _NEAR / 2 and sample.isascii() else best
    if top - score < _NEAR * max(1.0, letters / 300):
        return frequent
    return "" if best == "zxx" else best


_MODEL = ("ptc", "pc", "classes", "nextmove", "nextmove_row", "out_feat")


def likely_languages(text: str) -> list[tuple[str, float]]:
    """Tags of the languages that a text may be written in, the likeliest first, with their scores."""
    return [(str(tag), float(score)) for tag, score in identifier().rank(text)]


@cache
def identifier() -> Any:
    """The package's own, with a model that is mapped from unpacked files: unpacking takes half a second."""
    import numpy as np  # late: most work does without both
    from py3langid.langid import LanguageIdentifier

    try:
        folder = _unpacked_model()
        part = {name: np.load(folder / f"{name}.npy", "r", allow_pickle=False) for name in _MODEL}
    except (DubrelError, OSError, EOFError, ValueError, KeyError):  # no room for it, or another layout
        import py3langid

        return py3langid
    moves, rows = memoryview(part["nextmove"]), memoryview(part["nextmove_row"])
    classes, features = part["classes"].tolist(), part["out_feat"].tolist()
    return LanguageIdentifier(part["ptc"], part["pc"], classes, moves, features, tk_row=rows)


def _unpacked_model() -> Path:
    """The arrays of the package's model as files in the cache, written where they are not there yet."""
    import lzma
    import tempfile

    import numpy as np
    from py3langid import langid

    packed = Path(langid.__file__).parent / "data" / "model.npz.xz"
    folder = cache_root() / f"languages-{packed.stat().st_size}"
    if all((folder / f"{name}.npy").is_file() for name in _MODEL):
        return folder
    folder.mkdir(parents=True, exist_ok=True)
    with lzma.open(packed) as source, tempfile.TemporaryFile() as plain:
        shutil.copyfileobj(source, plain)
        plain.seek(0)
        with np.load(plain, allow_pickle=False) as data:
            for name in _MODEL:
                write_atomically(folder / f"{name}.npy", partial(np.save, arr=data[name]))
    return folder
