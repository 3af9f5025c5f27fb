"""Cleaning up, proposed before it is done: fillers, repeats, false starts.

Figures, capitals, stops, quotes, dashes.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterator, Sequence

from dubrel.base.text import bare_word, ends_sentence, tokens
from dubrel.base.value import Value, replace
from dubrel.edits.words.casing import capital, marks_of
from dubrel.edits.words.striking import struck
from dubrel.edits.words.wording import with_turns
from dubrel.model import Project, Turn, Word
from dubrel.project.follow import rewords
from dubrel.project.index import index_of, turn_place, turn_with

FILLERS = {
    "en": "uh um uhm er erm ah hm hmm mm mhm uh-huh mm-hmm",
    "de": "äh ähm öh öhm hm hmm mh tja",
    "nl": "eh ehm uh uhm hm hmm",
    "fr": "euh heu hum hm ben",
    "es": "eh em ehm este mmm",
    "pt": "é hum hã ahn ehm",
    "it": "ehm eh uhm mmm",
}
_PHRASES = {
    "en": ("you know", "i mean", "sort of", "kind of"),
    "de": ("sozusagen", "sag ich mal"),
    "fr": ("tu vois", "en fait"),
    "es": ("o sea",),
    "pt": ("quer dizer",),
}
_DOUBLED = {
    "en": "had that very really so no yes ha bye there now far many much more never",
    "de": "der die das sehr nein ja",
    "fr": "nous vous très non oui",
    "es": "muy no sí",
    "pt": "muito não sim",
}
_APART_MS = 1500
_LONGEST_REPEAT = 4


class Proposal(Value):
    """What could be cleaned up at one place.

    Attributes
    ----------
    kind : str
        One of ``KINDS``.
    turn : int
        Id of the turn.
    words : tuple of Word
    becomes : tuple of str or None
        The words as they would be, one each (empty for a word that goes);
        ``None`` where they are to be struck or deleted.
    sure : float
        0 to 1; what is below a half is not ticked.
    """

    kind: str
    turn: int
    words: tuple[Word, ...]
    becomes: tuple[str, ...] | None = None
    sure: float = 1.0


def fillers(project: Project, own: Collection[str] = ()) -> list[Proposal]:
    """Hesitations by the list of the language and the user's own, and habitual phrases between commas."""
    language = project.transcript.language.split("-")[0].lower()
    known = {*FILLERS.get(language, "").split(), *(one.casefold() for one in own if " " not in one)}
    known = {bare_word(one) for one in known}
    own_phrases = [one for one in own if " " in one]
    phrases = [tuple(map(bare_word, one.split())) for one in (*_PHRASES.get(language, ()), *own_phrases)]
    found = []
    for turn in project.transcript.turns:
        said = [bare_word(word.text) for word in turn.words]
        for place, word in enumerate(turn.words):
            if said[place] in known and not word.struck:
                found.append(Proposal("filler", turn.id, (word,)))
        found += _phrases(turn, said, phrases)
    return found


def _phrases(turn: Turn, said: Sequence[str], phrases: Sequence[tuple[str, ...]]) -> Iterator[Proposal]:
    for phrase in phrases:
        for first in range(len(said) - len(phrase) + 1):
            stop = first + len(phrase)
            words = turn.words[first:stop]
            if tuple(said[first:stop]) == phrase and not any(word.struck for word in words):
                before = first == 0 or marks_of(turn.words[first - 1].text)[1]
                set_off = bool(before) and bool(marks_of(words[-1].text)[1])
                yield Proposal("filler", turn.id, words, sure=0.8 if set_off else 0.3)


def repeats(project: Project, alike: Callable[[Word, Word], float] | None = None) -> list[Proposal]:
    """Words said twice, and false starts: what comes again or is begun and broken off; the last time stays.

    Parameters
    ----------
    alike : callable, optional
        How alike two words sound in the recording, 0 to 1. A repeat that only
        the text has (the recogniser's own) is less sure.
    """
    language = project.transcript.language.split("-")[0].lower()
    meant = frozenset(_DOUBLED.get(language, "").split())
    found = []
    for turn in project.transcript.turns:
        shown = [word for word in turn.words if not word.struck]
        said = [bare_word(word.text) for word in shown]
        place = 0
        while place < len(shown):
            length = _repeat_at(shown, said, place)
            if length:
                words = tuple(shown[place : place + length])
                sure = 0.9 if not (length == 1 and said[place] in meant) else 0.3
                if alike is not None:
                    sure *= 0.55 + 0.45 * alike(words[0], shown[place + length])
                found.append(Proposal("repeat", turn.id, words, sure=sure))
            elif _false_start(shown, said, place):
                found.append(Proposal("false start", turn.id, (shown[place],), sure=0.85))
            place += max(1, length)
    return found


def _repeat_at(shown: Sequence[Word], said: Sequence[str], place: int) -> int:
    """How many words from here on come at once again; 0 for none."""
    for length in range(min(_LONGEST_REPEAT, (len(said) - place) // 2), 0, -1):
        first, again = said[place : place + length], said[place + length : place + 2 * length]
        if not all(first) or first != again or any(one.isdigit() for one in first):
            continue
        ended = any(ends_sentence(word.text) for word in shown[place : place + length])
        gap = shown[place + length].start_ms - shown[place + length - 1].end_ms
        if gap <= _APART_MS and not (ended and length > 1):
            return length
    return 0


def _false_start(shown: Sequence[Word], said: Sequence[str], place: int) -> bool:
    """Whether a word is the broken-off beginning of the next ("bo– boat")."""
    if place + 1 >= len(shown):
        return False
    text = shown[place].text
    broken = text.endswith(("-", "–", "—", "…", "...")) and len(text) > 1
    head, whole = said[place], said[place + 1]
    begins = bool(head) and whole.startswith(head) and len(whole) > len(head)
    near = shown[place + 1].start_ms - shown[place].end_ms <= _APART_MS
    return (
        near and begins and (broken or (len(head) == 1 and head not in ("a", "i", "o", "y", "e", "à", "é")))
    )


# -- house rules of writing ------------------------------------------------------------


def capitals_and_stops(project: Project) -> list[Proposal]:
    """Small letters after full stops, stops within sentences, doubled marks, marks that stand alone."""
    found: list[Proposal] = []
    before: Word | None = None
    for turn in project.transcript.turns:
        for place, word in enumerate(turn.words):
            text = _tidy_marks(word.text)
            begins = before is None or ends_sentence(before.text)
            before = word
            if begins and text[:1].isalpha():
                text = capital(text)
            if text != word.text and text:
                found.append(Proposal("capitals and stops", turn.id, (word,), (text,)))
            elif not bare_word(word.text) and place and word.text in ".,;:!?…":
                joined = turn.words[place - 1].text + word.text
                words = (turn.words[place - 1], word)
                found.append(Proposal("capitals and stops", turn.id, words, (joined, "")))
    return found


_DOUBLE = re.compile(r"([,;:!?])\1+|(?<!\.)\.\.(?!\.)|,\.|\.,")


def _tidy_marks(text: str) -> str:
    return _DOUBLE.sub(lambda match: match.group(0)[-1] if match.group(0) not in (",.", ".,") else ".", text)


_QUOTES = {
    "en": ("“", "”", "‘", "’"),
    "de": ("„", "“", "‚", "‘"),
    "nl": ("“", "”", "‘", "’"),
    "fr": ("«", "»", "“", "”"),
    "es": ("«", "»", "“", "”"),
    "pt": ("“", "”", "‘", "’"),
    "it": ("«", "»", "“", "”"),
}


def quotes_and_dashes(project: Project) -> list[Proposal]:
    """Straight quotes and hyphens as dashes, as the language writes them."""
    language = project.transcript.language.split("-")[0].lower()
    opening, closing, _, single = _QUOTES.get(language, _QUOTES["en"])
    found = []
    for turn in project.transcript.turns:
        for word in turn.words:
            text = re.sub(r'^(\(?)"', rf"\1{opening}", word.text)
            text = text.replace('"', closing)
            text = re.sub(r"(?<=\w)'(?=\w)", "’", text)
            text = re.sub(r"(?<=\w)'$|(?<=\w)'(?=[.,;:!?])", single if language != "de" else "’", text)
            text = {"-": "–", "--": "–"}.get(text, text)
            text = re.sub(r"(?<=\w)--$", "–", text)
            if text != word.text and len(tokens(text)) == 1:
                found.append(Proposal("quotes and dashes", turn.id, (word,), (text,)))
    return found


# -- doing it ----------------------------------------------------------------------------


def cleaned_up(project: Project, proposals: Sequence[Proposal], *, delete: bool = False) -> Project:
    """The project with what was proposed done, as far as the words still say the same.

    Parameters
    ----------
    delete : bool
        Whether fillers, repeats and false starts are deleted; else they are
        struck, and shown in a verbatim reading.
    """
    present = [one for one in proposals if _still_there(project, one)]
    goes = {word.id for one in present if one.becomes is None for word in one.words}
    if goes:
        project = _without(project, goes) if delete else struck(project, goes, True, filler=True)
    texts = {
        word.id: text
        for one in present
        if one.becomes is not None
        for word, text in zip(one.words, one.becomes)
    }
    return _rewritten(project, texts)


def _still_there(project: Project, one: Proposal) -> bool:
    turn = turn_with(project, one.turn)
    if turn is None or any(word.id not in turn.index_of for word in one.words):
        return False
    return all(turn.words[turn.index_of[word.id]].text == word.text for word in one.words)


@rewords
def _without(project: Project, goes: Collection[int]) -> Project:
    """The project without some words; a sentence that loses its first word begins with a capital again."""
    index = index_of(project)
    made = project
    for turn_id in {index.turn_of[one] for one in goes if one in index.turn_of}:
        turn = turn_with(made, turn_id)
        if turn is None:
            continue
        place = turn_place(made, turn_id)
        words = _closed_up(turn.words, goes)
        made = with_turns(made, place, place + 1, *((replace(turn, words=words),) if words else ()))
    return made


def _closed_up(words: Sequence[Word], goes: Collection[int]) -> tuple[Word, ...]:
    kept: list[Word] = []
    begins = True  # whether a sentence begins here
    lost = False  # whether its first word went
    for word in words:
        if word.id in goes:
            lost = lost or begins
            if ends_sentence(word.text) and kept and not marks_of(kept[-1].text)[1]:
                kept[-1] = replace(kept[-1], text=kept[-1].text + marks_of(word.text)[1])
            continue
        if lost and begins:
            word = replace(word, text=capital(word.text)) if capital(word.text) != word.text else word
        kept.append(word)
        begins, lost = ends_sentence(word.text), False
    return tuple(kept)


@rewords
def _rewritten(project: Project, texts: dict[int, str]) -> Project:
    index, made = index_of(project), project
    for turn_id in {index.turn_of[one] for one in texts if one in index.turn_of}:
        turn = turn_with(made, turn_id)
        if turn is None:
            continue
        words = tuple(
            word if (text := texts.get(word.id, word.text)) == word.text else replace(word, text=text)
            for word in turn.words
            if texts.get(word.id, word.text)
        )
        place = turn_place(made, turn_id)
        made = with_turns(made, place, place + 1, *((replace(turn, words=words),) if words else ()))
    return made
