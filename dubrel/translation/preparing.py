"""What goes into a translator and comes out of it: pieces, capitals, and what must not be changed.

A sentence is first translated as it is, which reads best. Where a term, a
number, an address or a tag does not come out as it must, the sentence is
translated once more with stand-ins in their places, and they are put back.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from dubrel.base.text import ends_clause, tidied, tokens
from dubrel.model import Term
from dubrel.translation.glossary import TermSpot, missing_in, spots_of
from dubrel.translation.translators.engines import Translator

MOST_WORDS = 48
"""Words that are given to a translator at once: its time grows with the square of them."""
_MOST_SIGNS = 400
_EMOJI = "\U0001f000-\U0001faff\u2600-\u27bf\u2b50\ufe0f\u200d"
_FIXED = re.compile(
    rf"</?[a-zA-Z][^<>]*>|[£$€¥]\d[\d.,]*|\{{[^{{}}]*\}}|https?://\S+|www\.\S+|\S+@\S+\.\w+"
    rf"|\+?\d[\d ]{{5,}}\d|[\w-]+\.(?:com|org|net|example|pt|es|uk)\b|[{_EMOJI}]+"
)
"""Tags, addresses, long numbers, pictures: they stay as they are."""
_MUSIC = "♪♫#"
_DIGITS = re.compile(r"\d+")
_STAND_INS = ("X{}", "K{}", "Z{}")
"""What stands for a term while its sentence is translated; another one where a translator loses the first."""


@dataclass
class _Sentence:
    """One sentence on its way."""

    text: str
    before: str = ""
    after: str = ""
    shouted: bool = False
    spots: list[TermSpot] = field(default_factory=list)


def translate_all(
    translator: Translator,
    texts: Sequence[str],
    terms: Sequence[Term] = (),
    language: str = "",
    progress: Callable[[int], object] = lambda done: None,
) -> list[str]:
    """Translate sentences with their terms.

    Parameters
    ----------
    terms : sequence of Term
        The glossary.
    language : str
        Into which it is translated.
    progress : callable
        Called with how many sentences are done.
    """
    sentences = [_taken_apart(text, terms, language) for text in texts]
    found = _in_pieces(translator, [one.text for one in sentences])
    for stand_in in _STAND_INS if translator.guarded else ():
        again = [nth for nth, one in enumerate(sentences) if _must_change(one, found[nth])]
        guarded = [_guarded(sentences[nth], found[nth], stand_in) for nth in again]
        answers = _in_pieces(translator, [text for text, _ in guarded])
        for nth, (_, fixed), answer in zip(again, guarded, answers):
            found[nth] = _put_back(found[nth], answer, fixed)
    if translator.guarded:
        _put_in_place(translator, sentences, found)
    progress(len(texts))
    return [_put_together(one, made) for one, made in zip(sentences, found)]


def _taken_apart(text: str, terms: Sequence[Term], language: str) -> _Sentence:
    """A sentence without the music signs and pictures around it, and not shouted."""
    edge = rf"[\s{_MUSIC}{_EMOJI}]*"
    match = re.fullmatch(rf"({edge})(.*?)({edge})", text, re.DOTALL)
    assert match is not None
    one = _Sentence(match[2], match[1], match[3])
    letters = [sign for sign in one.text if sign.isalpha()]
    if len(letters) > 3 and all(sign.isupper() for sign in letters):
        lowered = one.text.lower()
        one.text, one.shouted = lowered[:1].upper() + lowered[1:], True
    one.spots = spots_of(one.text, terms, language)
    return one


def _put_together(one: _Sentence, made: str) -> str:
    made = tidied(made)
    if one.text[:1].islower() and not one.shouted:
        made = made[:1].lower() + made[1:]
    if not one.text.strip():
        return (one.before + one.after).strip()
    return (one.before + (made.upper() if one.shouted else made) + one.after).strip()


# -- pieces ---------------------------------------------------------------------------------


def _in_pieces(translator: Translator, texts: Sequence[str]) -> list[str]:
    """Long sentences in pieces that end at a clause where there is one."""
    pieces = [_pieces(text) for text in texts]
    flat = [piece for one in pieces for piece in one]
    answers = iter(translator.translate(flat) if flat else [])
    return [" ".join(filter(None, (next(answers).strip() for _ in one))) for one in pieces]


def _pieces(text: str) -> list[str]:
    words = [word[at : at + _MOST_SIGNS] for word in tokens(text) for at in range(0, len(word), _MOST_SIGNS)]
    found: list[str] = []
    while len(words) > MOST_WORDS or sum(map(len, words)) > 2 * _MOST_SIGNS:
        sums, most = 0, 0
        while most < min(MOST_WORDS, len(words) - 1) and sums + len(words[most]) <= 2 * _MOST_SIGNS:
            sums += len(words[most]) + 1
            most += 1
        most = max(1, most)
        ends = [nth for nth in range(most // 2, most) if ends_clause(words[nth])]
        cut = ends[-1] + 1 if ends else most
        found.append(" ".join(words[:cut]))
        words = words[cut:]
    if words:
        found.append(" ".join(words))
    return found


# -- what must stay -------------------------------------------------------------------------


def fixed_in(text: str) -> list[tuple[int, int, str]]:
    """What must stand in a translation as it is: where it begins and ends, and the text."""
    return [(match.start(), match.end(), match.group()) for match in _FIXED.finditer(text)]


def _must_change(one: _Sentence, made: str) -> bool:
    """Whether something that must stand in the translation does not."""
    if any(text not in made for _, _, text in fixed_in(one.text)):
        return True
    return bool(missing_in(one.spots, made)) or not same_numbers(one.text, made)


def same_numbers(one: str, other: str) -> bool:
    """Whether two texts hold the same digits, in any order and however they are grouped."""
    return sorted(_DIGITS.findall(one)) == sorted(_DIGITS.findall(other))


def _guarded(one: _Sentence, made: str, stand_in: str) -> tuple[str, dict[str, str]]:
    """The sentence with stand-ins, and what each stands for."""
    spans = [(start, end, text) for start, end, text in fixed_in(one.text) if text not in made]
    spans += [(spot.start, spot.end, spot.wanted[0]) for spot in missing_in(one.spots, made)]
    if not same_numbers(one.text, made):
        there = _DIGITS.findall(made)
        for match in re.finditer(r"\d[\d.,:]*\d|\d", one.text):
            if any(run not in there for run in _DIGITS.findall(match.group())):
                spans.append((match.start(), match.end(), match.group()))
    fixed: dict[str, str] = {}
    text, last = "", 0
    for start, end, wanted in sorted(spans):
        if start >= last:
            name = next(
                name
                for nth in range(1, 999)
                if (name := stand_in.format(nth)) not in one.text and name not in fixed
            )
            fixed[name] = wanted
            apart = " " * wanted.startswith("<")
            text, last = text + one.text[last:start] + apart + name + apart, end
    return text + one.text[last:], fixed


def _put_in_place(translator: Translator, sentences: Sequence[_Sentence], found: list[str]) -> None:
    """Put terms that no stand-in saved over the words that stand for them.

    Those are the term as it was, its translation by itself, or the word that stands at its place.
    """
    lost = [(nth, spot) for nth, one in enumerate(sentences) for spot in missing_in(one.spots, found[nth])]
    forms = list(dict.fromkeys(sentences[nth].text[spot.start : spot.end] for nth, spot in lost))
    alone = dict(zip(forms, _in_pieces(translator, forms) if forms else []))
    for nth, spot in lost:
        text = sentences[nth].text
        form = text[spot.start : spot.end]
        share = (spot.start + spot.end) / 2 / max(1, len(text))
        known = (form, tidied(alone[form]).strip(" .,;:!?"))
        found[nth] = _over_its_words(found[nth], known, share, spot.wanted[0])


def _over_its_words(made: str, known: Sequence[str], share: float, wanted: str) -> str:
    """A translation with a term over what stands for it: words that are known, or the one at its place."""
    patterns = [rf"(?<!\w){re.escape(form)}(?!\w)" for form in known if form]
    for pattern in (*patterns, r"[^\W\d_]{4,}"):
        spots = list(re.finditer(pattern, made, re.IGNORECASE))
        if spots:
            near = min(spots, key=lambda spot: abs((spot.start() + spot.end()) / 2 - share * len(made)))
            return made[: near.start()] + wanted + made[near.end() :]
    return f"{made} {wanted}".strip()


def _constant(text: str) -> Callable[[re.Match[str]], str]:
    return lambda _match: text


def _put_back(plain: str, answer: str, fixed: dict[str, str]) -> str:
    """The second translation with what its stand-ins stand for; the first where they got lost."""
    found = [name for name in fixed if len(re.findall(rf"(?<!\w){name}(?!\w)", answer)) == 1]
    if len(found) < len(fixed):
        return plain
    for name in sorted(fixed, key=len, reverse=True):
        wanted = fixed[name]
        before, after = (" *" if wanted.startswith("</") else ""), (" *" if re.match("<[^/]", wanted) else "")
        answer = re.sub(rf"{before}(?<!\w){name}(?!\w){after}", _constant(wanted), answer)
    if not plain or not answer[:1].islower() or not plain[:1].isupper():
        return answer
    return answer[:1].upper() + answer[1:]
