"""The same words in Latin letters, for one who cannot read theirs."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.languages import main_tag
from dubrel.base.text import word_units
from dubrel.translation.translators.directions import refuse
from dubrel.translation.translators.engines import Engine


class ScriptTranslator:
    """Writes words of any script in Latin letters, sign by sign (``anyascii``).

    Raises
    ------
    EngineError
        If the target is another language, or the library is not installed.
    """

    guarded = False

    def __init__(self, source: str, target: str) -> None:
        if main_tag(source) != main_tag(target):
            raise refuse(source, target, tr("Writing in Latin letters"))
        try:
            from anyascii import anyascii
        except ImportError as error:
            raise EngineError(
                tr("The library for Latin letters is not installed. Run ./run once more to install it.")
            ) from error
        self._write = anyascii

    def translate(self, texts: Sequence[str]) -> list[str]:
        """Each text in Latin letters, its words parted by spaces."""
        return [
            " ".join(filter(None, (self._write(unit).strip() for unit in word_units(text)))) for text in texts
        ]


ENGINE = Engine(lambda where, source, target: ScriptTranslator(source, target))
