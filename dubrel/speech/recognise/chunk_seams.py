"""Where two chunks meet: the full stop before, the capital after.

A recogniser sees one chunk at a time and guesses at its borders: it may end a
chunk with a full stop in the middle of a sentence, or begin the next sentence
with a small letter. What the pause and the text agree on is fixed; where they
do not agree, the text stays as it came.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from dubrel.base.text import bare_word, ends_clause, ends_sentence
from dubrel.base.value import replace
from dubrel.model import RecognisedWord

_BREATH_MS = 250  # a shorter pause does not end a sentence by itself
_PAUSE_MS = 600  # a pause as long as this does
_OPEN = frozenset(  # English words after which a sentence goes on
    "a an the of to and or nor with from in into at by for my your our their its is are was were be "
    "been am as than that which whose this these those if because although while until very".split()
)
_COMMON = frozenset(  # English words that are not names: a capital on them only begins a sentence
    "a an the of to and or but nor so with from in into at by for on my your our their his her its it "
    "he she we they you is are was were be been as than that which who whose this these those if "
    "because although while until when where what how there here not no then had have has do did does "
    "would could should can all any some well yes maybe perhaps".split()
)


class Joins:
    """Words that come chunk by chunk, fixed where two chunks meet.

    Parameters
    ----------
    language : str
        Of the words. Lists of words are known for English only; what needs none works for all.
    hold : bool
        Whether the last word of what came is held back until it is known what follows.
        Without it only the first word of the next chunk can be fixed.
    """

    def __init__(self, language: str, *, hold: bool = True) -> None:
        self._english = language.split("-")[0] == "en"
        self._hold = hold
        self._last: RecognisedWord | None = None

    def take(self, words: Sequence[RecognisedWord]) -> tuple[RecognisedWord, ...]:
        """What is settled once these words have come."""
        if not words:
            return ()
        before, (first, *others) = self._last, words
        if before is None:
            settled = []
        else:
            known, then = join(before, first, english=self._english)
            if self._hold or known == before:
                first = then
            settled = [known] if self._hold else []
        found = [*settled, first, *others]
        self._last = found[-1]
        return tuple(found[:-1] if self._hold else found)

    def rest(self) -> tuple[RecognisedWord, ...]:
        """What was held back, at the end."""
        return (self._last,) if self._hold and self._last else ()


def join(
    before: RecognisedWord, after: RecognisedWord, *, english: bool
) -> tuple[RecognisedWord, RecognisedWord]:
    """The last word of a chunk and the first of the next, fixed.

    Examples
    --------
    >>> was, it = RecognisedWord("times.", 0, 400), RecognisedWord("it", 900, 1000)
    >>> [word.text for word in join(was, it, english=True)]
    ['times.', 'It']
    """
    pause = after.start_ms - before.end_ms
    small, capital = after.text[:1].islower(), after.text[:1].isupper()
    open_ = english and bare_word(before.text) in _OPEN
    common = english and bare_word(after.text) in _COMMON
    if ends_sentence(before.text):
        bare = before.text[:-1]
        stop = before.text.endswith(".") and "." not in bare and bool(bare_word(bare))
        if stop and pause < _PAUSE_MS and (open_ or (small and pause < _BREATH_MS)):
            before = replace(before, text=before.text[:-1])
            if common:
                after = _with_first(after, str.lower)
        elif small and "." not in before.text.rstrip('.”"’)'):  # “U.S.” may stand anywhere
            after = _with_first(after, str.upper)
    elif capital and common and not ends_clause(before.text):
        if pause >= _PAUSE_MS and not open_:
            before = replace(before, text=before.text + ".")
        elif pause < _BREATH_MS:
            after = _with_first(after, str.lower)
    return before, after


def _with_first(word: RecognisedWord, change: Callable[[str], str]) -> RecognisedWord:
    return replace(word, text=change(word.text[:1]) + word.text[1:])
