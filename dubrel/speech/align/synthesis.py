"""Speak a text with espeak-ng and know when each word of it is spoken.

The library is called directly (ctypes): its command line does not tell the
times of words. It is called in a process of its own, one text at a time: a fault
in it costs that process, never the one that asks.
"""

from __future__ import annotations

import atexit
import ctypes
import ctypes.util
from functools import lru_cache
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.helper import EngineProcess
from dubrel.base.value import Value

RATE = 16_000
_SYNCHRONOUS, _UTF8, _CHARACTER = 2, 1, 1
_WORD_EVENT, _END_OF_LIST = 1, 0
_QUIET = 60


_helper = EngineProcess("espeak-ng", tr("Try again, or choose another language."))
atexit.register(_helper.close)


class _Event(ctypes.Structure):
    _fields_ = (
        ("type", ctypes.c_int),
        ("unique_identifier", ctypes.c_uint),
        ("text_position", ctypes.c_int),
        ("length", ctypes.c_int),
        ("audio_position", ctypes.c_int),
        ("sample", ctypes.c_int),
        ("user_data", ctypes.c_void_p),
        ("id", ctypes.c_char * 8),
    )


_CALLBACK = ctypes.CFUNCTYPE(
    ctypes.c_int, ctypes.POINTER(ctypes.c_short), ctypes.c_int, ctypes.POINTER(_Event)
)


_NO_CALLBACK = ctypes.cast(0, _CALLBACK)


class Spoken(Value):
    """A spoken text.

    Attributes
    ----------
    samples : ndarray, shape (n,), float32
        16 kHz, mono.
    times : list of (float, float) or None
        Begin and end of each word in seconds; ``None`` for a word that has no sound.
    """

    samples: np.ndarray
    times: list[tuple[float, float] | None]


@lru_cache(maxsize=1)
def _library() -> tuple[Any, int]:
    name = ctypes.util.find_library("espeak-ng") or "libespeak-ng.so.1"
    try:
        library = ctypes.CDLL(name)
    except OSError as error:
        raise EngineError(
            tr("Aligning a language other than English needs espeak-ng. Type: sudo apt-get install espeak-ng")
        ) from error
    rate = library.espeak_Initialize(_SYNCHRONOUS, 0, None, 0)
    if rate <= 0:
        raise EngineError(
            tr("espeak-ng could not be started. Type: sudo apt-get install --reinstall espeak-ng")
        )
    return library, int(rate)


@lru_cache(maxsize=64)
def speaks(language: str) -> bool:
    """Whether there is a voice for a language (a tag as ``es`` or ``pt-BR``).

    Raises
    ------
    EngineError
        If there is no espeak-ng.
    """
    return _helper.call(_has_voice, language)


def _has_voice(language: str) -> bool:
    library, _ = _library()
    return any(library.espeak_SetVoiceByName(tag.encode()) == 0 for tag in _tags(language))


def _tags(language: str) -> list[str]:
    whole = language.lower().replace("_", "-")
    return [whole, whole.split("-")[0]]


def speak(words: list[str], language: str) -> Spoken:
    """Speak words that follow each other.

    Raises
    ------
    EngineError
        If there is no voice for the language, or no espeak-ng.
    """
    return _helper.call(speak_here, list(words), language)


def speak_here(words: list[str], language: str) -> Spoken:
    """The same in this process, which is one of its own for the library."""
    library, rate = _library()
    pieces: list[np.ndarray] = []
    events: list[tuple[int, int]] = []

    def take(wave: Any, count: int, found: Any) -> int:
        if wave and count > 0:
            pieces.append(np.ctypeslib.as_array(wave, (count,)).copy())
        place = 0
        while found[place].type != _END_OF_LIST:
            if found[place].type == _WORD_EVENT:
                events.append((found[place].text_position - 1, found[place].audio_position))
            place += 1
        return 0

    callback, text = _CALLBACK(take), " ".join(words).encode() + b"\0"
    if not _has_voice(language):
        raise EngineError(
            tr("espeak-ng has no voice for “{language}”. Choose another language.").format(language=language)
        )
    library.espeak_SetSynthCallback(callback)
    library.espeak_Synth(text, ctypes.c_size_t(len(text)), 0, _CHARACTER, 0, _UTF8, None, None)
    library.espeak_Synchronize()
    library.espeak_SetSynthCallback(_NO_CALLBACK)  # ours is about to go
    sound = np.concatenate(pieces) if pieces else np.zeros(0, np.int16)
    return Spoken(_resampled(sound, rate), _word_times(words, events, sound, rate))


def _resampled(sound: np.ndarray, rate: int) -> np.ndarray:
    import soxr

    return soxr.resample(sound.astype(np.float32) / 32768, rate, RATE).astype(np.float32)


def _word_times(
    words: list[str], events: list[tuple[int, int]], sound: np.ndarray, rate: int
) -> list[tuple[float, float] | None]:
    offsets = np.cumsum([0, *(len(word) + 1 for word in words)])
    starts: dict[int, float] = {}
    furthest = -1
    for position, milliseconds in events:
        if position < furthest:
            continue  # what follows a dash or a shortened word is told once more, out of place
        furthest = position
        word = int(np.searchsorted(offsets, position, side="right")) - 1
        if 0 <= word < len(words):
            starts.setdefault(word, milliseconds / 1000)
    found: list[tuple[float, float] | None] = [None] * len(words)
    order = sorted(starts.items(), key=lambda one: one[1])
    for place, (word, start) in enumerate(order):
        end = order[place + 1][1] if place + 1 < len(order) else len(sound) / rate
        loud = np.flatnonzero(np.abs(sound[int(start * rate) : int(end * rate)]) > _QUIET)
        found[word] = (start, min(end, start + (int(loud[-1]) + 1) / rate) if len(loud) else end)
    return found
