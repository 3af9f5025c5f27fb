"""Align a script with what was transcribed.

The script's words are paired with the transcribed words by the fewest edits. What
pairs exactly says where the script is in the sound. Between two such places
the script and the transcription differ, and one of four things happened: the
recogniser misheard what the script says, the speaker said something else, left
something out, or put something in. How alike both sound, phone by phone, and
whether there is time enough to say the script's words, tells which. The words
that were said are then aligned with the sound; the others keep no time.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from difflib import SequenceMatcher

import numpy as np

from dubrel.base.text import bare_word
from dubrel.base.textpairs import pair_words
from dubrel.base.value import Value
from dubrel.media.sound import passage
from dubrel.model import RecognisedWord, Timing
from dubrel.speech.align.english import EnglishAligner
from dubrel.speech.align.pronounce import phones_of, spoken_forms

_LEAST_PHONE_MS = 28
_SWALLOWED_PHONE_MS = 70
_ALIKE = 0.42
_LEAST_SHARE = 0.25
_PAD_MS = 120
_PIECE_MS = 12_000
_PAUSE_MS = 180


class ScriptAlignment(Value):
    """A script with times.

    Attributes
    ----------
    words : list of RecognisedWord
        Every word of the script, in order; those that were not said are
        ``Timing.UNHEARD``.
    extra : list of RecognisedWord
        What was transcribed and is not in the script.
    share : float
        Share of the script's words that the transcription confirms, 0 to 1.
    """

    words: list[RecognisedWord]
    extra: list[RecognisedWord]
    share: float

    @property
    def another_recording(self) -> bool:
        """Whether the script seems not to be of this recording."""
        return self.share < _LEAST_SHARE


class _Said(Value):
    """A word that is in the sound: its place in the script, if it is there, and its first times."""

    place: int | None
    text: str
    start_ms: int
    end_ms: int


class _Block(Value):
    """A run of the script and the run of the transcription that stands against it."""

    script: range
    heard: range
    exact: bool


def line_up(
    script: Sequence[str], heard: Sequence[RecognisedWord], samples: np.ndarray, aligner: EnglishAligner
) -> ScriptAlignment:
    """Give a script's words their times.

    Parameters
    ----------
    script : sequence of str
        Words as written.
    heard : sequence of RecognisedWord
        What a recogniser heard, aligned.
    samples : ndarray, shape (n,), int16
        16 kHz, mono: the whole recording.
    """
    blocks = _blocks([bare_word(word) for word in script], [bare_word(word.text) for word in heard])
    confirmed = sum(len(block.script) for block in blocks if block.exact)
    share = confirmed / max(1, len(script))
    end_ms = len(samples) * 1000 // 16_000
    said: list[_Said] = []
    extra: list[RecognisedWord] = []
    for block in blocks:
        theirs = [heard[h] for h in block.heard]
        if block.exact:
            said += [_Said(s, script[s], one.start_ms, one.end_ms) for s, one in zip(block.script, theirs)]
            continue
        before = heard[block.heard.start - 1].end_ms if block.heard.start else 0
        after = heard[block.heard.stop].start_ms if block.heard.stop < len(heard) else end_ms
        if share >= _LEAST_SHARE and block.script and _was_said(block, script, theirs, before, after):
            said += _guess(block, script, theirs, before, after)
        else:
            extra += theirs  # aligned with the rest, so that their sound is not given to other words
            said += [_Said(None, one.text, one.start_ms, one.end_ms) for one in theirs]
    return ScriptAlignment(_aligned(script, said, samples, aligner), extra, share)


def _blocks(script: list[str], heard: list[str]) -> list[_Block]:
    """Alternating runs that agree and runs that differ."""
    blocks: list[_Block] = []
    s = h = 0
    for left, right in [*pair_words(script, heard).pairs, (len(script), len(heard))]:
        exact = left is not None and right is not None and left < len(script) and script[left] == heard[right]
        last = blocks[-1] if blocks else None
        s_stop = left + 1 if left is not None and left < len(script) else s
        h_stop = right + 1 if right is not None and right < len(heard) else h
        if (s_stop, h_stop) == (s, h):
            continue
        if last is not None and last.exact == exact:
            blocks[-1] = _Block(range(last.script.start, s_stop), range(last.heard.start, h_stop), exact)
        else:
            blocks.append(_Block(range(s, s_stop), range(h, h_stop), exact))
        s, h = s_stop, h_stop
    return blocks


def _phones(words: Sequence[str]) -> list[str]:
    return [phone for word in words for form in spoken_forms(word) for phone in phones_of(form).split()]


def _was_said(
    block: _Block, script: Sequence[str], heard: Sequence[RecognisedWord], before: int, after: int
) -> bool:
    """Whether the script's side of a difference is what the sound holds."""
    wanted = _phones([script[k] for k in block.script])
    if not wanted:
        return True
    if not heard:  # a short word that the recogniser swallowed, or words that were left out
        return len(block.script) == 1 and after - before >= len(wanted) * _SWALLOWED_PHONE_MS
    got = _phones([one.text for one in heard])
    room = heard[-1].end_ms - heard[0].start_ms
    if room < len(wanted) * _LEAST_PHONE_MS:
        return False
    return SequenceMatcher(a=wanted, b=got, autojunk=False).ratio() >= _ALIKE


def _guess(
    block: _Block, script: Sequence[str], heard: Sequence[RecognisedWord], before: int, after: int
) -> list[_Said]:
    """First times for the script's words of a difference, by their lengths."""
    start, end = (heard[0].start_ms, heard[-1].end_ms) if heard else (before, after)
    total, done = sum(len(script[k]) for k in block.script), 0
    found = []
    for k in block.script:
        begin = start + (end - start) * done // total
        done += len(script[k])
        found.append(_Said(k, script[k], begin, start + (end - start) * done // total))
    return found


def _pieces(said: Sequence[_Said]) -> Iterator[list[_Said]]:
    """Said words in runs of some seconds, parted at pauses."""
    run: list[_Said] = []
    for word in said:
        if run:
            pause = word.start_ms - run[-1].end_ms
            length = word.end_ms - run[0].start_ms
            if pause >= 1500 or (length > _PIECE_MS and pause >= _PAUSE_MS) or length > 2 * _PIECE_MS:
                yield run
                run = []
        run.append(word)
    if run:
        yield run


def _aligned(
    script: Sequence[str], said: Sequence[_Said], samples: np.ndarray, aligner: EnglishAligner
) -> list[RecognisedWord]:
    timed: dict[int, RecognisedWord] = {}
    for run in _pieces(said):
        start, end = max(0, run[0].start_ms - _PAD_MS), run[-1].end_ms + _PAD_MS
        found = aligner.align(np.array(passage(samples, start, end)), [one.text for one in run], start)
        if found[0].timing is Timing.SPREAD:  # the transcription's own times are better than an even spread
            found = [RecognisedWord(one.text, one.start_ms, one.end_ms, timing=Timing.SPREAD) for one in run]
        timed |= {one.place: word for one, word in zip(run, found) if one.place is not None}
    words, last = [], 0
    for place, text in enumerate(script):
        word = timed.get(place) or RecognisedWord(text, last, last, timing=Timing.UNHEARD)
        if word.start_ms < last:
            word = RecognisedWord(word.text, last, max(last, word.end_ms), word.doubt, word.timing)
        words.append(word)
        last = word.end_ms
    return words
