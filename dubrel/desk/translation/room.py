"""Translation: not in this version; the page says so."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.shell.desk import Desk
from dubrel.desk.shell.room import Room, ToDo
from dubrel.desk.shell.widgets import label, paper


class TranslationRoom(Room):
    """The fifth pass."""

    id, name = "translation", "Translation"

    def __init__(self, desk: Desk, layer: SpeechLayer) -> None:
        super().__init__(desk)
        self._layer = layer
        self._page: QWidget | None = None

    @property
    def page(self) -> QWidget:
        """A sentence."""
        if self._page is None:
            self._page = _sentence()
        return self._page

    @property
    def layer(self) -> SpeechLayer:
        """Words and captions."""
        return self._layer

    def todo(self) -> ToDo:
        """Nothing can be done."""
        return ToDo("not in this version")


def _sentence() -> QWidget:
    page = paper("Sheet: translation")
    box = QVBoxLayout(page)
    box.setContentsMargins(44, 40, 44, 40)
    box.setSpacing(12)
    box.addWidget(label("Translation is not in this version yet", "title"))
    hint = label(
        "Captions can be released in the language that is spoken. To translate them elsewhere, write an SRT "
        "or WebVTT file in Release.",
        "quiet",
    )
    hint.setWordWrap(True)
    box.addWidget(hint)
    box.addStretch(1)
    return page
