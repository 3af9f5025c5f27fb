"""Transcribe chunks, align their words, say how sure each is; catch what nobody said.

A recogniser can fall into repeating itself, write more than anybody can say,
or find words in a noise. Such a chunk is transcribed again in smaller pieces; what is
still so is cut back to what is credible, and marked.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.text import bare_word
from dubrel.base.textpairs import pair_words
from dubrel.base.value import Value, replace
from dubrel.media.sound import RATE, passage
from dubrel.model import RecognisedWord, Timing
from dubrel.speech.align.aligners import Aligner, aligner_for
from dubrel.speech.align.by_length import spread
from dubrel.speech.recognise.denoising import prepared
from dubrel.speech.recognise.doubt import DoubtJudge
from dubrel.speech.recognise.engines import check_language, engine_named
from dubrel.speech.recognise.recogniser import RecognisedToken, Recogniser, Service
from dubrel.speech.sound.activity import FRAME, FRAME_MS, Chunk, cut_long, frame_loudness
from dubrel.speech.sound.soundclasses import SoundClassifier

_SLOWER = 0.93
_MOST_REPEATS = 3
_LONGEST_PHRASE = 8
_MOST_WORDS_A_SECOND = 6.5
_LEAST_SURE = -1.0  # mean log probability a word of a short noise
_SHORT_MS = 600
_SMALL_MS = 5000
_SURE_DOUBT = 0.95
_MUSIC_DOUBT = 0.25


class RecognisedChunk(Value):
    """The words of a chunk.

    Attributes
    ----------
    words : tuple of RecognisedWord
    dropped : str
        Text that was not credible and is left out.
    music : bool
        Whether text was left out because there is music and nobody speaks.
    """

    words: tuple[RecognisedWord, ...]
    dropped: str = ""
    music: bool = False


class Listener:
    """A recogniser with what it needs around it; one per process.

    Raises
    ------
    EngineError
        If the engine cannot be loaded or does not listen on this machine.
    """

    def __init__(self, engine: str, language: str) -> None:
        hearer = engine_named(engine)
        if isinstance(hearer, Service):
            raise EngineError(
                tr(
                    "“{engine}” transcribes whole recordings elsewhere; it cannot transcribe a "
                    "passage on this machine."
                ).format(engine=engine)
            )
        check_language(engine, hearer.languages, language)
        self.hearer: Recogniser = hearer
        self.aligner: Aligner = aligner_for(language)
        self.judge = DoubtJudge(language)

    def listen(self, samples: np.ndarray, chunks: Sequence[Chunk]) -> list[RecognisedChunk]:
        """Transcribe chunks of a recording.

        Parameters
        ----------
        samples : ndarray, shape (n,), int16
            16 kHz, mono.
        """
        return self.listen_to(
            [np.array(passage(samples, one.start_ms, one.end_ms)) for one in chunks], chunks
        )

    def listen_to(self, sounds: list[np.ndarray], chunks: Sequence[Chunk]) -> list[RecognisedChunk]:
        """Transcribe the sounds of chunks, which say when in the recording each is."""
        hearings = hear_twice(self.hearer, [prepared(sound) for sound in sounds])
        return [self._finish(sound, chunk, *heard) for sound, chunk, heard in zip(sounds, chunks, hearings)]

    def _finish(
        self, sound: np.ndarray, chunk: Chunk, tokens: list[RecognisedToken], agreed: list[bool]
    ) -> RecognisedChunk:
        trouble, dropped = is_trouble(tokens, len(sound)), ""
        if trouble:
            tokens = self._again(sound)
            agreed = [False] * len(tokens)
            kept = credible(tokens, len(sound))
            if kept:  # text at a noise that is nothing but noise is not worth a word
                dropped = " ".join(one.text for one in tokens[len(kept) :])
            tokens, agreed = kept, agreed[: len(kept)]
        if not tokens:
            return RecognisedChunk((), dropped)
        words = self.aligner.align(sound, [one.text for one in tokens], chunk.start_ms)
        words = self.judge.judge(words, tokens, agreed)
        if trouble:
            words = [replace(word, doubt=max(word.doubt, _SURE_DOUBT)) for word in words]
        if np.mean([word.doubt for word in words]) >= _MUSIC_DOUBT and self.classes.is_music(sound):
            return RecognisedChunk((), music=True)
        return RecognisedChunk(tuple(words), dropped)

    @cached_property
    def classes(self) -> SoundClassifier:
        """Speech, music, other sound; loaded when a doubtful chunk asks for it."""
        return SoundClassifier()

    def _again(self, sound: np.ndarray) -> list[RecognisedToken]:
        """Transcribe a chunk in smaller pieces, cut where it is quietest."""
        pieces = [prepared(one) for one in quiet_pieces(sound)]
        return [token for found in self.hearer.hear(pieces) for token in found]


def hear_twice(
    hearer: Recogniser, sounds: list[np.ndarray]
) -> list[tuple[list[RecognisedToken], list[bool]]]:
    """Transcribe each chunk as it is and a little slower; keep the surer reading and whether both agree.

    Parameters
    ----------
    sounds : list of ndarray, shape (n,), float32
    """
    import soxr

    slower = [soxr.resample(one, RATE * _SLOWER, RATE) if len(one) else one for one in sounds]
    found = []
    for first, second in zip(hearer.hear(sounds), hearer.hear(slower)):
        one, other = (first, second) if _sureness(first) >= _sureness(second) else (second, first)
        found.append((one, _agreed(one, other)))
    return found


def _sureness(tokens: list[RecognisedToken]) -> float:
    return sum(one.total for one in tokens) / len(tokens) if tokens else -10.0


def _agreed(tokens: list[RecognisedToken], other: list[RecognisedToken]) -> list[bool]:
    ours, theirs = [bare_word(one.text) for one in tokens], [bare_word(one.text) for one in other]
    agreed = [False] * len(ours)
    for left, right in pair_words(ours, theirs).pairs:
        if left is not None and right is not None and ours[left] == theirs[right]:
            agreed[left] = True
    return agreed


def is_trouble(tokens: Sequence[RecognisedToken], samples: int) -> bool:
    """Whether a reading is not to be believed: it repeats itself, is too fast, or is a guess at a noise."""
    return len(credible(tokens, samples)) < len(tokens)


def credible(tokens: Sequence[RecognisedToken], samples: int) -> list[RecognisedToken]:
    """The beginning of a reading that can be believed.

    Parameters
    ----------
    tokens : sequence of RecognisedToken
    samples : int
        Length of the sound at 16 kHz.
    """
    length_ms = samples * 1000 // RATE
    if tokens and length_ms < _SHORT_MS and _sureness(list(tokens)) < _LEAST_SURE:
        return []
    kept = list(tokens)[: repeats_from([bare_word(one.text) for one in tokens])]
    most = int(length_ms / 1000 * _MOST_WORDS_A_SECOND) + 2
    return kept[:most]


def repeats_from(words: Sequence[str]) -> int:
    """From which word on a text only repeats itself; its length if it does not.

    Examples
    --------
    >>> repeats_from("we are we are we are we are we are".split())
    2
    """
    first = len(words)
    for size in range(1, _LONGEST_PHRASE + 1):
        most, run = (_MOST_REPEATS + 2 if size == 1 else _MOST_REPEATS) * size, 0
        for place in range(size, first):
            run = run + 1 if words[place] == words[place - size] else 0
            if run >= most:
                first = place + 1 - run
                break
    return first


def quiet_pieces(sound: np.ndarray) -> list[np.ndarray]:
    """A passage of sound cut where it is quietest into pieces of a few seconds."""
    loudness = frame_loudness(sound)
    cuts = cut_long(0, len(loudness), loudness, _SMALL_MS // FRAME_MS)
    return [sound[begin * FRAME : end * FRAME] for begin, end in cuts]


def place_passage(
    aligner: Aligner, samples: np.ndarray, start_ms: int, end_ms: int, words: list[str]
) -> list[RecognisedWord]:
    """Align text that is known to be between two times; evenly where it does not fit."""
    if not words:
        return []
    sound = np.array(passage(samples, start_ms, end_ms))
    if len(sound) < RATE // 20:
        return spread(words, start_ms, max(end_ms, start_ms + 1))
    found = aligner.align(sound, words, start_ms)
    return found if found[0].timing is not Timing.SPREAD else spread(words, start_ms, end_ms)
