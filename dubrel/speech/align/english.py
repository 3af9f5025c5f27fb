"""Forced alignment of English: the time of every word of a text in a passage of sound.

A hidden Markov model of phones (the acoustic model in ``pocketsphinx``) finds
the most likely way of the words' phones through the sound. Its frames are
10 ms; what it says of the word's edges is moved by its own mean delay, found
on speech with a known clock (benchmarks/alignment.py).
"""

from __future__ import annotations

from typing import Any

import numpy as np

from dubrel.base.value import Value
from dubrel.model import RecognisedWord
from dubrel.speech.align.by_length import spread
from dubrel.speech.align.pronounce import phones_of, spoken_forms

_FRAME_MS = 10
_START_BIAS_MS = 3
_END_BIAS_MS = 2
_BEAMS = ("1e-60", "1e-120")


class _Slot(Value):
    start: int  # frames
    end: int


class EnglishAligner:
    """Lines words up with sound; one per process, not shared between threads."""

    def __init__(self) -> None:
        self._decoders: dict[str, Any] = {}

    def _decoder(self, beam: str) -> Any:
        from pocketsphinx import Decoder, get_model_path

        if beam not in self._decoders:
            self._decoders[beam] = Decoder(
                hmm=get_model_path("en-us/en-us"),
                dict=get_model_path("en-us/cmudict-en-us.dict"),
                lm=None,
                beam=beam,
                pbeam=beam,
                wbeam=beam,
                # one text, no choice of words: the way through the frames is final (a search over
                # the lattice would drop words), and no prior speaks against a pause
                bestpath=False,
                lw=1.0,
                wip=1.0,
                silprob=0.2,
                cmn="batch",
                loglevel="FATAL",
            )
        return self._decoders[beam]

    def align(self, samples: np.ndarray, words: list[str], start_ms: int) -> list[RecognisedWord]:
        """Give every word its time.

        Parameters
        ----------
        samples : ndarray, shape (n,), int16
            16 kHz, mono; where the words are said.
        words : list of str
            As written, with punctuation.
        start_ms : int
            Time of the first sample in the recording.

        Returns
        -------
        list of RecognisedWord
            One for each word, in order. Where the sound does not fit the
            words at all they are spread evenly and marked ``Timing.SPREAD``.
        """
        end_ms = start_ms + len(samples) * 1000 // 16_000
        forms = [spoken_forms(word) for word in words]
        flat = [form for group in forms for form in group]
        slots = self._slots(samples, flat) if flat and len(samples) else None
        if slots is None:
            return spread(words, start_ms, end_ms)
        return _timed(words, forms, slots, start_ms, end_ms)

    def _slots(self, samples: np.ndarray, forms: list[str]) -> list[_Slot] | None:
        for beam in _BEAMS:
            decoder = self._decoder(beam)
            decoder.reinit_feat()  # it would go on from what it has seen of other passages
            self._teach(decoder, forms)
            try:
                decoder.set_align_text(" ".join(forms))
                decoder.start_utt()
                decoder.process_raw(np.ascontiguousarray(samples, np.int16).tobytes(), full_utt=True)
                decoder.end_utt()
            except RuntimeError:
                continue
            found = [
                _Slot(part.start_frame, part.end_frame + 1)
                for part in decoder.seg() or ()
                if part.word[0] not in "<[(" and part.word != "NULL"
            ]
            if len(found) == len(forms):
                return found
        return None

    def _teach(self, decoder: Any, forms: list[str]) -> None:
        for form in dict.fromkeys(forms):
            if decoder.lookup_word(form) is None:
                decoder.add_word(form, phones_of(form), True)


def _timed(
    words: list[str], forms: list[list[str]], slots: list[_Slot], start_ms: int, end_ms: int
) -> list[RecognisedWord]:
    heard: list[RecognisedWord] = []
    at, last = 0, start_ms
    for word, group in zip(words, forms):
        if group:
            mine = slots[at : at + len(group)]
            at += len(group)
            begin = start_ms + mine[0].start * _FRAME_MS + _START_BIAS_MS
            close = start_ms + mine[-1].end * _FRAME_MS + _END_BIAS_MS
            begin = min(max(begin, last), end_ms)
            last = min(max(close, begin), end_ms)
            heard.append(RecognisedWord(word, begin, last))
        else:  # a lone dash or the like: no sound of its own
            heard.append(RecognisedWord(word, last, last))
    return heard
