"""The questions of what is heard; a test answers them by replacing these methods."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.asking import ask_line
from dubrel.desk.shell.core.desk import Desk

if TYPE_CHECKING:
    from dubrel.desk.ears.wishes import SpokenWishes
    from dubrel.speech.speaking.fitting import Placed


class EarsQuestions:
    """Asks how something is spoken, and for voices."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.host = desk, desk.host

    def spoken(
        self,
        wishes: SpokenWishes,
        languages: Sequence[tuple[int, str]],
        voices: Sequence[tuple[str, str]],
        lines: Sequence[Placed],
    ) -> tuple[str, SpokenWishes, int] | None:
        """How a text is spoken: ``speak`` or ``go``, the wishes, and to which line; ``None`` for nothing."""
        from dubrel.desk.ears.spokendialog import SpokenDialog  # late: the window opens without it

        dialog = SpokenDialog(wishes, languages, voices, lines, self.host)
        return (dialog.act, dialog.wishes, dialog.line) if dialog.exec() else None

    def voice_folder(self) -> str:
        """A folder with a voice."""
        return str(self.desk.ask.folder(tr("Folder with a voice"), "") or "")

    def voice_address(self) -> tuple[str, str] | None:
        """Address and key of a voice service."""
        title = tr("A voice service")
        text = ask_line(self.host, title, tr("Address, such as http://127.0.0.1:8767"), tr("Next"))
        if not text or not text.strip():
            return None
        key = ask_line(self.host, title, tr("Key, if it needs one"), tr("Add the service"), secret=True)
        return (text.strip(), key.strip()) if key is not None else None
