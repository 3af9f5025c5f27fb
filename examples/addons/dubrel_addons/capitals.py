"""A translator that writes in capitals."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.translation.translators.engines import Engine


class Capitals:
    """Writes each text in capitals."""

    guarded = False

    def translate(self, texts: Sequence[str]) -> list[str]:
        """Each text in capitals."""
        return [one.upper() for one in texts]


def _load(where: str, source: str, target: str) -> Capitals:
    return Capitals()


ENGINE = Engine(_load, "capitals", lambda source, target: (source, target) == ("en", "de"))
