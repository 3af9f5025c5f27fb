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


ENGINE = Engine(
    load=lambda where, source, target: Capitals(),
    label="capitals",
    knows=lambda source, target: (source, target) == ("en", "de"),
)
