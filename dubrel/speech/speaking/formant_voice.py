"""espeak-ng as a voice: plain to the ear, and there for a hundred languages."""

from __future__ import annotations

from dubrel.speech.align import synthesis
from dubrel.speech.speaking.engines import Said, SpeakingEngine


class FormantVoice:
    """Speaks by rules; tells when each word is said."""

    def say(self, text: str, language: str) -> Said:
        """Speak a text."""
        spoken = synthesis.speak_here(text.split(), language)
        return Said(spoken.samples, synthesis.RATE, tuple(spoken.times))


ENGINE = SpeakingEngine(
    lambda where: FormantVoice(), "espeak-ng", lambda where, language: synthesis.speaks(language)
)
