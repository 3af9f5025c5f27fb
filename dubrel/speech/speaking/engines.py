"""Voices behind a register: a text in, sound out. A new one is a file and a row.

A voice is named by a short text: ``english``, ``formant``, ``folder:/path/to/a/voice`` or
``remote:http://address``; ``auto`` is the first of the built-in ones that speaks the language.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from functools import lru_cache
from typing import Protocol

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError, EngineError
from dubrel.base.languages import language_name, main_tag
from dubrel.base.plugins import Register
from dubrel.base.value import Value
from dubrel.speech.align.aligners import Aligner


class Said(Value):
    """A text as it was spoken.

    Attributes
    ----------
    samples : ndarray, shape (n,), float32
        Mono.
    rate : int
        Samples a second.
    times : tuple of (float, float) or None
        Begin and end of each of its words (parted by spaces) in seconds, ``None`` for one without a sound;
        ``None`` where the engine does not tell: then they are aligned.
    """

    samples: np.ndarray
    rate: int
    times: tuple[tuple[float, float] | None, ...] | None = None


class SpeakingVoice(Protocol):
    """Speaks one text after the other; native ones are only used in a process of their own."""

    def say(self, text: str, language: str) -> Said:
        """Speak a text at its natural pace."""
        ...


class SpeakingEngine(Value):
    """How a voice is loaded.

    Attributes
    ----------
    load : callable
        What stands behind the colon of its name, to a voice.
    label : str
        As it stands in a sentence behind “by”.
    speaks : callable
        Whether it speaks a language (BCP 47), asked with what stands behind the colon.
    """

    load: Callable[[str], SpeakingVoice]
    label: str
    speaks: Callable[[str, str], bool]


REGISTER = Register(
    "dubrel.voices",
    SpeakingEngine,
    {
        "english": "dubrel.speech.speaking.english_voice:ENGINE",
        "formant": "dubrel.speech.speaking.formant_voice:ENGINE",
        "folder": "dubrel.speech.speaking.voice_folder:ENGINE",
        "remote": "dubrel.speech.speaking.voice_service:ENGINE",
    },
)
_BUILT_IN = ("english", "formant")


def engine_of(name: str) -> SpeakingEngine:
    """The engine of a voice.

    Raises
    ------
    EngineError
        If there is none with that name.
    """
    kind = name.partition(":")[0]
    if kind not in REGISTER.names:
        known = ", ".join((*_BUILT_IN, "folder:PATH of a voice", "remote:ADDRESS", *REGISTER.added))
        raise EngineError(tr("There is no voice “{name}”; known: {known}.").format(name=name, known=known))
    return REGISTER.load(kind)[0]


def voice_for(name: str, language: str) -> str:
    """The name of the voice that speaks a language: the one that is named, or the first built-in one.

    Parameters
    ----------
    name : str
        ``KIND``, ``KIND:WHERE`` or ``auto``.
    language : str
        BCP 47 tag.

    Raises
    ------
    EngineError
        If there is none with that name, or it does not speak the language.
    """
    if name != "auto":
        if engine_of(name).speaks(name.partition(":")[2], language):
            return name
        raise EngineError(
            tr("The voice “{name}” does not speak {language}. Choose another.").format(
                name=name, language=tr(language_name(language))
            )
        )
    for kind in (*_BUILT_IN, *REGISTER.added):
        with suppress(DubrelError):  # of a package that cannot be used: said at the start
            if engine_of(kind).speaks("", language):
                return kind
    raise EngineError(
        tr("No voice here speaks {language}. Name a folder with a voice, or a service.").format(
            language=tr(language_name(language))
        )
    )


@lru_cache(maxsize=2)
def loaded(name: str) -> SpeakingVoice:
    """A voice that is ready to speak; the latest two are kept."""
    return engine_of(name).load(name.partition(":")[2])


def say(name: str, text: str, language: str) -> Said:
    """Speak a text by a voice that is named; called in a process of its own, with the words' times.

    Raises
    ------
    EngineError
        If it cannot be spoken.
    """
    said = loaded(name).say(text, language)
    return said if said.times is not None else Said(said.samples, said.rate, _aligned(said, text, language))


@lru_cache(maxsize=1)
def _aligner() -> Aligner:
    from dubrel.speech.align.english import EnglishAligner  # late: only for voices that tell no times

    return EnglishAligner()


def _aligned(said: Said, text: str, language: str) -> tuple[tuple[float, float] | None, ...]:
    """When each word is spoken, by aligning them with the sound; by their lengths where that is not known."""
    import soxr

    from dubrel.speech.align.by_length import spread

    words = text.split()
    sound = soxr.resample(said.samples, said.rate, 16_000)
    samples = (np.clip(sound, -1, 1) * 32767).astype(np.int16)
    if main_tag(language) == "en":
        found = _aligner().align(samples, words, 0)
    else:
        found = spread(words, 0, len(samples) // 16)
    return tuple((one.start_ms / 1000, one.end_ms / 1000) for one in found)
