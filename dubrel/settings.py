"""What the user has set for all projects: engines added, consent given. A JSON file in the config folder."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, replace
from pathlib import Path

from dubrel.files import keep_json


@dataclass(frozen=True)
class Settings:
    """What is kept.

    Attributes
    ----------
    engines : tuple of str
        Engines that the user added (``folder:…``, ``remote:…``).
    consented : tuple of str
        Services that recordings may be sent to.
    """

    engines: tuple[str, ...] = ()
    consented: tuple[str, ...] = ()

    def with_engine(self, name: str) -> Settings:
        """The settings with an engine more."""
        return self if name in self.engines else replace(self, engines=(*self.engines, name))

    def without_engine(self, name: str) -> Settings:
        """The settings without an engine, and without the consent that belonged to it."""
        return Settings(
            tuple(one for one in self.engines if one != name),
            tuple(one for one in self.consented if one != name),
        )

    def with_consent(self, name: str) -> Settings:
        """The settings with the consent to send recordings to an engine."""
        return self if name in self.consented else replace(self, consented=(*self.consented, name))


def settings_path() -> Path:
    """Where the settings are kept."""
    from platformdirs import user_config_dir

    return Path(user_config_dir("dubrel")) / "settings.json"


def load_settings() -> Settings:
    """The settings; the usual ones where there are none or they cannot be read."""
    try:
        value = json.loads(settings_path().read_text())
        return Settings(*(tuple(str(one) for one in value[name]) for name in ("engines", "consented")))
    except (OSError, ValueError, KeyError, TypeError):
        return Settings()


def save_settings(settings: Settings) -> None:
    """Keep the settings.

    Raises
    ------
    DubrelError
        If they cannot be written.
    """
    keep_json(settings_path(), asdict(settings))
