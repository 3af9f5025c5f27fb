"""Which page is described by what."""

from __future__ import annotations

from PySide6.QtCore import QObject

from dubrel.desk.access.captiontexts import CaptionTexts
from dubrel.desk.access.described import Describing
from dubrel.desk.access.pairtexts import PairTexts
from dubrel.desk.access.turntexts import TurnTexts
from dubrel.desk.captions.stanzas import CaptionSheet
from dubrel.desk.sheet.turnsheet import TurnSheet
from dubrel.desk.translation.facing import FacingSheet


def described_page(page: QObject) -> Describing | None:
    """What tells of a page; nothing for what is no page of texts."""
    if isinstance(page, TurnSheet):
        return TurnTexts(page)
    if isinstance(page, CaptionSheet):
        return CaptionTexts(page)
    return PairTexts(page) if isinstance(page, FacingSheet) else None
