"""What is wrong with what other packages add: recognisers, translators, voices, forms, checks."""

from __future__ import annotations

from dubrel.base.plugins import adds_anything


def problems() -> list[str]:
    """One sentence for each thing that cannot be used."""
    if not adds_anything("[dubrel."):
        return []
    from dubrel.captions import checks  # late: nothing of this is loaded where no package adds anything
    from dubrel.formats import register
    from dubrel.speech.recognise import engines as recognisers
    from dubrel.speech.speaking import engines as voices
    from dubrel.translation.translators import engines as translators

    found = [*register.PROBLEMS, *checks.PROBLEMS]
    for one in (recognisers.REGISTER, translators.REGISTER, voices.REGISTER):
        found += one.load_added()[1]
    return found
