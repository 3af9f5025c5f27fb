"""What the user has set for all projects. A JSON file in the config folder."""

from __future__ import annotations

from typing import Any

from dubrel.base import catalogue
from dubrel.base.catalogue import Message
from dubrel.base.folders import config_folder
from dubrel.base.value import Value, asdict, part_names, replace
from dubrel.user.kept import Kept

THEMES = ("system", "day", "night", "day-sharp", "night-sharp")
LANGUAGES = ("system", *catalogue.LANGUAGES)
TEXT_SIZES = (80, 90, 100, 115, 130, 150)
MOST_STEP_BACK_MS = 5000
PAUSES_MS = (300, 500, 800, 1200, 2000)


class Settings(Value):
    """What is kept.

    Attributes
    ----------
    engines : tuple of str
        Engines that the user added (``folder:…``, ``remote:…``).
    translators : tuple of str
        Translators that the user added (``folder:…``, ``remote:…``).
    voices : tuple of str
        Voices that the user added (``folder:…``, ``remote:…``).
    consented : tuple of str
        Services that recordings, and with ``text:`` before their address that texts, or with
        ``voice:`` that texts to be spoken, may be sent to.
    theme : str
        One of ``THEMES``.
    language : str
        Of the interface: one of ``LANGUAGES``; another one shows from the next start on.
    text_size : int
        Of all text, in percent; one of ``TEXT_SIZES``.
    step_back_ms : int
        How far playing steps back when it is resumed.
    pause_ms : int
        Pauses longer than this are skipped where pauses are skipped.
    own_fillers, masked_words : tuple of str
        What is cleaned up besides the fillers of the language; what is masked in deliverables.
    recordings_folder, release_folder : str
        Where recordings and deliverables go; empty for the music folder, and
        for a folder beside the project.
    name : str
        Of the user: kept with notes and versions.
    window : str
        Size of the window when it was closed last, as ``1280x800``; empty for the usual one.
    folded : tuple of str
        Panes that are folded: ``rail``, ``booth``, ``strip``.
    """

    engines: tuple[str, ...] = ()
    translators: tuple[str, ...] = ()
    voices: tuple[str, ...] = ()
    consented: tuple[str, ...] = ()
    theme: str = "system"
    language: str = "system"
    text_size: int = 100
    step_back_ms: int = 1000
    pause_ms: int = 800
    own_fillers: tuple[str, ...] = ()
    masked_words: tuple[str, ...] = ()
    recordings_folder: str = ""
    release_folder: str = ""
    name: str = ""
    window: str = ""
    folded: tuple[str, ...] = ()

    def with_engine(self, name: str) -> Settings:
        """The settings with an engine more."""
        return self if name in self.engines else replace(self, engines=(*self.engines, name))

    def without_engine(self, name: str) -> Settings:
        """The settings without an engine, and without the consent that belonged to it."""
        return replace(
            self,
            engines=tuple(one for one in self.engines if one != name),
            consented=tuple(one for one in self.consented if one != name),
        )

    def with_consent(self, name: str) -> Settings:
        """The settings with the consent to send recordings to an engine."""
        return self if name in self.consented else replace(self, consented=(*self.consented, name))


def _understood(value: Any) -> Settings:
    if not isinstance(value, dict):
        raise TypeError("no settings")
    return Settings(**{name: _read(name, value) for name in part_names(Settings) if name in value})


def _read(name: str, value: dict[str, Any]) -> Any:
    found = value[name]
    if name in ("engines", "translators", "voices", "consented", "own_fillers", "masked_words", "folded"):
        return tuple(str(one) for one in found)
    if name == "step_back_ms":
        return min(max(int(found), 0), MOST_STEP_BACK_MS)
    allowed: tuple = {
        "theme": THEMES,
        "language": LANGUAGES,
        "text_size": TEXT_SIZES,
        "pause_ms": PAUSES_MS,
    }.get(name, ())
    if allowed and found not in allowed:
        raise ValueError(found)
    return found if allowed else str(found)


SETTINGS = Kept(
    "settings.json", Message("The file of the settings"), _understood, asdict, Settings, config_folder
)
