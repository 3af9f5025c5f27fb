"""From which language into which the translators go."""

from __future__ import annotations

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.languages import language_name

NEURAL = (("en", "pt"), ("pt", "en"))
"""What the built-in translator knows."""
BY_RULES = (("en", "es"), ("es", "en"))
"""What the translator by rules knows."""


def refuse(source: str, target: str, name: str) -> EngineError:
    """What to say where a translator does not know the languages."""
    return EngineError(
        tr("{name} does not translate from {source} into {target}. Choose another one.").format(
            name=name, source=tr(language_name(source)), target=tr(language_name(target))
        )
    )
