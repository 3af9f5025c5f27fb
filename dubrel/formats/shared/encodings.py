"""In which encoding a text is written, told by what it becomes: letters of its language, or signs in words.

Every encoding that could be meant is tried. What is not plain ASCII is judged
letter by letter: how usual it is in the language of the text, whether it stands
where a letter can, whether a word keeps to one script and one case.
"""

from __future__ import annotations

import codecs
import re
from collections.abc import Iterable
from contextvars import ContextVar
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

from dubrel.base.languages import likely_languages
from dubrel.base.value import Value

ENCODINGS = {
    "utf-8": "Unicode (UTF-8)",
    "utf-16": "Unicode (UTF-16)",
    "cp1252": "Western European (Windows)",
    "iso8859-15": "Western European (ISO)",
    "mac_roman": "Western European (Mac)",
    "cp850": "Western European (DOS)",
    "cp1250": "Central European (Windows)",
    "iso8859-2": "Central European (ISO)",
    "cp852": "Central European (DOS)",
    "mac_latin2": "Central European (Mac)",
    "cp1254": "Turkish (Windows)",
    "iso8859-9": "Turkish (ISO)",
    "cp857": "Turkish (DOS)",
    "cp1257": "Baltic (Windows)",
    "iso8859-13": "Baltic (ISO)",
    "iso8859-4": "Baltic (older ISO)",
    "iso8859-3": "South European (ISO)",
    "iso8859-10": "Nordic (ISO)",
    "iso8859-14": "Celtic (ISO)",
    "iso8859-16": "Romanian (ISO)",
    "cp1258": "Vietnamese (Windows)",
    "cp1251": "Cyrillic (Windows)",
    "koi8-r": "Cyrillic (KOI8-R)",
    "koi8-u": "Cyrillic (KOI8-U)",
    "iso8859-5": "Cyrillic (ISO)",
    "cp866": "Cyrillic (DOS)",
    "mac_cyrillic": "Cyrillic (Mac)",
    "cp1253": "Greek (Windows)",
    "iso8859-7": "Greek (ISO)",
    "cp737": "Greek (DOS)",
    "cp1255": "Hebrew (Windows)",
    "iso8859-8": "Hebrew (ISO)",
    "cp1256": "Arabic (Windows)",
    "iso8859-6": "Arabic (ISO)",
    "cp874": "Thai",
    "shift_jis": "Japanese (Shift JIS)",
    "cp932": "Japanese (Windows)",
    "euc_jp": "Japanese (EUC)",
    "iso2022_jp": "Japanese (ISO-2022)",
    "gb18030": "Chinese, simplified (GB)",
    "big5": "Chinese, traditional (Big5)",
    "cp950": "Chinese, traditional (Windows)",
    "euc_kr": "Korean (EUC)",
    "cp949": "Korean (Windows)",
}
"""The encodings that are tried and what they are called; of those that look alike the frequent one first."""

_SAMPLE = 20_000  # bytes; a text says early in what it is written
_LETTERS = {  # besides plain ones, by how often they stand: the first half often
    "pl": "łęąóżćśńź",
    "cs": "íáéěýřčžšůúťďňó",
    "sk": "áíéčžšýúľťňôďäóĺŕ",
    "hu": "áéőöóüíúű",
    "ro": "ăîâșțşţ",
    "hr": "čšžćđ",
    "sl": "čšž",
    "sq": "ëç",
    "tr": "ıüşğçöİâîû",
    "az": "əıüşöçğİ",
    "lt": "ėųšžįčąūę",
    "lv": "āīšēūņļžķčģ",
    "et": "äõüöšž",
    "fi": "äöåšž",
    "sv": "äåöé",
    "da": "øåæé",
    "nb": "åøæéòô",
    "is": "ðáíéþöúóæý",
    "fo": "ðáíøæóúý",
    "de": "üäößé",
    "nl": "ëéïöüèç",
    "fr": "éèàêçôîâùûëïœæüÿ",
    "es": "óáéíñúü",
    "pt": "ãçáéóíêõâàôúü",
    "it": "èàòùìéîóú",
    "ca": "àéòíèóçïúü·",
    "gl": "óáéíñúïü",
    "eu": "ñüç",
    "cy": "âôŵêîŷûïöáé",
    "ga": "áéíóú",
    "gd": "àèìòù",
    "mt": "ħżġċà",
    "eo": "ŭĉĝŝĵĥ",
    "vi": "àđáâôạươảêăếộệủấìợậềồởứữớịụòóúùíãũễốừọẹẻẽếẩẫằắẳẵặỉĩỏõổỗờỡửữựỳýỵỷỹ",
    "en": "éèïêçôñ£",
    "ru": "оеаинтсрвлкмдпуяыьгзбчйхжшюцщэфъё",
    "uk": "оанівтиреслкудмпязьгйбчхцюїєщжшфґ",
    "be": "аніоыелрстпдвумкязьгйбчэжўіхцюшёф",
    "bg": "аоеиртнвслкпдмъзугябчйщцжшхюфь",
    "sr": "аоеинртсвукјдмплзбгшчжцхћњљџђф",
    "mk": "аоеитнрсвлкдпмузјбгчжшцхѓќљњџѕф",
    "el": "αοτιενσρκπυςληάμίόέδγώύήχθβφωξζψϊϋΐΰ",
    "he": "יוהלארתבשמנכעדחקפצטגסזםןךףץ",
    "ar": "اليمنوترهبعدسفكقحجةشصطخأذضغىزإئثءظآؤًٌٍَُِّْ",
    "fa": "اینرهدومتبسشلکزفگخقعجحپغچصطضذئژآثظءأ",
    "ur": "اینرکہدوےمتسبلگھپچشقحعزجخفٹںئضصڑآطغڈثذظءژ",
    "th": "านรกอเ่้วยงมลีสตดัิทปุแห์คไพพูจืขะ็โใชซึณๆฟธผญฉฐศษภ",
}
_CASED = {"ru", "uk", "be", "bg", "sr", "mk", "el"}
_SCRIPTS = (
    ("latin", "\u00aa\u00ba\u00c0-\u00d6\u00d8-\u00f6\u00f8-\u024f\u1e00-\u1eff"),
    ("cyrillic", "\u0400-\u04ff"),
    ("greek", "\u0370-\u03ff\u1f00-\u1fff"),
    ("hebrew", "\u0590-\u05ff"),
    ("arabic", "\u0600-\u06ff"),
    ("thai", "\u0e00-\u0e7f"),
    ("east", "\u3005-\u30ff\u3400-\u9fff\uac00-\ud7a3\uff10-\uff5a"),
)
_SCRIPT_OF = [(name, re.compile(f"[{ranges}]")) for name, ranges in _SCRIPTS]
_BY_SCRIPT = {
    "cyrillic": ("ru", "uk", "be", "bg", "sr", "mk"),
    "greek": ("el",),
    "hebrew": ("he",),
    "arabic": ("ar", "fa", "ur"),
    "thai": ("th",),
}
_PUNCTUATION = set(
    "“”„‘’‚‹›«»–—…¿¡·•♪♫€£¥°ªº§©®™½¼¾\u00a0\u200e\u200f\u202a\u202b\u202c"
    "、。「」『』・ー〜～？！：；，（）｡،؟؛״׳־฿"
)
_KANJI = set(
    "日一国人年大十二本中長出三時行見月分後前生五間上東四今金九入学高円子外八六下来気小七山話女北午百書先"
    "名"
    "川千水半男西電校語土木聞食車何南万毎白天母火右読友左休父雨思言会者手自事私方家的理水場当体作用新同意度目"
    "部屋船海町村朝夜誰彼全物現実最心力田動知明回性地世開始終強弱待使合"
)
_HANZI = set(
    "的一是不了在人有我他这个们中来上大为和国地到以说时要就出会可也你对生能而子那得于着下自之年过发后作里用道行所然"
    "家种事成方多经么去法学如都同现当没动面起看定天分还进好小部其些主样理心她本前开但因只从想实日军者意无力它与长把"
    "机十民第公此已工使情明性知全三又关点正业外将两高间由问很最重并物手应战向头文体政美相见被利什二等产或新己制身果"
    "加西斯月话合回特代内信表化老给世位次度门任常先海通教儿原东声提立及比员解水名真论处走义各入几口认条平系气题活尔"
    "更别打女变四神总何电数安少报才结反受目太量再感建务做接必場件計這個們來為國說時會對過發後裡種經麼學現當沒動還進"
    "樣開從實軍無與長機關點業將兩間問頭體見產話內門東聲員論處義幾認條係氣題爾別變總電數報結"
)
_BAD_PLACE, _FOREIGN, _BROKEN, _SHOUTED = -1.6, -1.0, -3.0, -0.3


@dataclass
class Assumption:
    """In which encoding a file is read.

    Attributes
    ----------
    wished : str
        As the user says; empty to find out.
    found : str
        That in which it was read; empty for Unicode.
    """

    wished: str = ""
    found: str = ""


ASSUMPTION: ContextVar[Assumption | None] = ContextVar("assumption", default=None)
"""That of the file which is read just now; readers have no other way to know what the user says of it."""


def known_encoding(name: str) -> str:
    """An encoding by its name, whatever way it is written; empty where there is none.

    Examples
    --------
    >>> known_encoding("Windows-1250"), known_encoding("Latin 2"), known_encoding("runes")
    ('cp1250', 'iso8859-2', '')
    """
    try:
        found = codecs.lookup(name.strip().lower().replace(" ", ""))
        b"".decode(found.name)
    except (LookupError, ValueError):
        return ""
    return found.name


def called(encoding: str) -> str:
    """What an encoding is called."""
    same = {codecs.lookup(one).name: label for one, label in ENCODINGS.items()}
    label = same.get(encoding)
    return f"{label}, {encoding}" if label else encoding


class Guess(Value):
    """An encoding, and how well what it makes of a text reads: 1 is as good as it gets.

    ``bad`` is how many letters could not be read in it.
    """

    encoding: str
    score: float
    bad: int


def lines_with_bad_bytes(data: bytes) -> list[int] | None:
    r"""Lines of a text in UTF-8 that hold bytes which are not letters; ``None`` where it is not UTF-8.

    Examples
    --------
    >>> lines_with_bad_bytes("Café\nsão\n".encode() + b"\xff oak"), lines_with_bad_bytes(b"caf\xe9")
    ([3], None)
    """
    text = data.decode("utf-8", errors="replace")
    bad = text.count("\ufffd") - data.count("\ufffd".encode())
    good = sum(ord(sign) > 127 for sign in text) - text.count("\ufffd")
    if bad > good:
        return None
    return [nth for nth, line in enumerate(text.split("\n"), 1) if "\ufffd" in line] if bad else []


def best_encoding(data: bytes) -> Guess:
    """The encoding in which a text reads best; not for UTF-8.

    Parameters
    ----------
    data : bytes
    """
    sample = data[:_SAMPLE]
    if b"\x1b$" in sample or b"\x1b(" in sample:
        return Guess("iso2022_jp", 1.0, data.decode("iso2022_jp", errors="replace").count("\ufffd"))
    likely = _languages(bytes(one if one < 128 else 32 for one in sample).decode())
    guesses = [_guess(sample, name, likely) for name in ENCODINGS if not name.startswith("utf")]
    return max(guesses, key=lambda one: one.score)  # of equal ones the first


def _guess(sample: bytes, encoding: str, likely: tuple[str, ...]) -> Guess:
    if encoding == "iso2022_jp":
        return Guess(encoding, _BROKEN, 0)
    text = sample.decode(encoding, errors="replace")
    if encoding == "cp1258":  # tones stand behind their letters
        import unicodedata

        text = unicodedata.normalize("NFC", text)
    return Guess(encoding, _score(text, likely), text.count("\ufffd"))


@lru_cache(maxsize=64)
def _languages(text: str) -> tuple[str, ...]:
    """What the plain letters of a text may be written in, the likeliest first."""
    same = {"no": "nb", "nn": "nb", "bs": "hr", "sh": "hr"}
    ranked = [same.get(one, one) for one, _ in likely_languages(text)[:12]]
    return tuple(dict.fromkeys(one for one in ranked if one in _LETTERS))[:5]


def _score(text: str, likely: tuple[str, ...]) -> float:
    """How well a text reads, for the best language that it may be in."""
    signs = [sign for sign in text if ord(sign) > 127]
    if not signs:
        return 0.0
    scripts = [_script_of(sign) for sign in signs]
    main = max(set(scripts) - {""}, key=scripts.count, default="")
    if main == "east":
        return _score_east(signs) + _BAD_PLACE * len(_MIXED.findall(text)) / len(signs)
    latin = [one for one in likely if one not in _CASED] or ["en"]
    languages = latin if main == "latin" else list(_BY_SCRIPT.get(main, ()))
    if not languages:
        return _BAD_PLACE
    places = _places(text)
    best = _BROKEN
    for nth, language in enumerate(languages):
        weights = _weights(language)
        total = sum(_worth(sign, script, main, weights) for sign, script in zip(signs, scripts))
        bonus = 0.15 * (3 - nth) / 3 if main == "latin" and nth < 3 else 0.0
        best = max(best, (total + places) / len(signs) + bonus)
    return best


def _worth(sign: str, script: str, main: str, weights: dict[str, float]) -> float:
    if script == main:
        return weights.get(sign.lower(), _FOREIGN)
    if sign in _PUNCTUATION:
        return 0.3
    if sign == "\ufffd" or (not script and not sign.isprintable()):
        return _BROKEN
    return _FOREIGN if script else _BAD_PLACE


@lru_cache(maxsize=64)
def _weights(language: str) -> dict[str, float]:
    """What each letter of a language is worth: the often ones most."""
    letters = _LETTERS[language]
    return {sign.lower(): 1.0 - 0.6 * nth / len(letters) for nth, sign in reversed(list(enumerate(letters)))}


def _script_of(sign: str) -> str:
    return next((name for name, made in _SCRIPT_OF if made.match(sign)), "")


_AMID = re.compile(r"(?<=[^\W\d_])[^\w\s'’\-.,:;!?\u0e00-\u0e7f\u200c\u0300-\u036f](?=[^\W\d_])")
_MIXED = re.compile("[A-Za-z][\u0370-\u06ff\u0e00-\u0e7f\u4e00-\u9fff\uac00-\ud7a3]|[\u0370-\u06ff][A-Za-z]")
_WORD = re.compile(r"[^\W\d_]+")


def _places(text: str) -> float:
    """What is lost where signs stand inside words, or capitals behind small letters."""
    wrong = sum(any(ord(sign) > 127 for sign in found.group()) for found in _AMID.finditer(text))
    swapped = sum(a.islower() and b.isupper() and not (a + b).isascii() for a, b in pairwise(text))
    shouted = sum(len(word) > 2 and word[1:].isupper() and not word.isascii() for word in _WORD.findall(text))
    mixed = len(_MIXED.findall(text))
    return _BAD_PLACE * (wrong + swapped + mixed) + _SHOUTED * shouted


def _score_east(signs: Iterable[str]) -> float:
    """How well a text of East Asia reads: kana, hangul, and characters that stand often."""
    worth = total = 0.0
    for sign in signs:
        total += 1
        if "\u3040" <= sign <= "\u30ff" or sign in _KANJI or sign in _HANZI:
            worth += 1.0
        elif "\uac00" <= sign <= "\ud7a3":
            worth += (
                1.0 if len(sign.encode("euc_kr", errors="ignore")) == 2 else _FOREIGN
            )  # rare ones take eight
        elif sign in _PUNCTUATION or "\uff10" <= sign <= "\uff5a":
            worth += 0.5
        elif "\u4e00" <= sign <= "\u9fff":
            worth += 0.1
        else:
            worth += _BAD_PLACE
    return worth / total
