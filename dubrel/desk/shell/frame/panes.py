"""The panes of the window: gone round and folded by key; its size; the last messages read again."""

from __future__ import annotations

import contextlib
import re
from functools import partial
from typing import Protocol

from PySide6.QtCore import QPoint, QSize, Qt
from PySide6.QtGui import QGuiApplication, QScreen
from PySide6.QtWidgets import QApplication, QMenu, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.frame.booth import Booth
from dubrel.desk.shell.frame.footer import Footer
from dubrel.desk.shell.frame.rail import Rail
from dubrel.desk.shell.frame.strip import Strip
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.stack import Stack
from dubrel.desk.shell.kit.widgets import show_menu
from dubrel.user.settings import SETTINGS

PANES = {
    "rail": tr("Fold the rail, or show it whole"),
    "booth": tr("Fold the booth, or show it whole"),
    "strip": tr("Fold the strip, or show it whole"),
}
"""What can be folded, and what the command for it is called."""
_MOST = 110  # letters of a message in the list
_USUAL, _LEAST = QSize(1280, 800), QSize(900, 520)
_FRAME = QSize(10, 44)  # what a window manager puts around it, at most
_SMALL = 1000  # pixels: in a narrower window the rail is folded


class _Window(Protocol):
    """What of the window is needed here."""

    rail: Rail
    booth: Booth
    strip: Strip
    footer: Footer
    drawers: Stack

    def show_focus(self) -> None: ...
    def width(self) -> int: ...
    def height(self) -> int: ...
    def screen(self) -> QScreen: ...
    def minimumSize(self) -> QSize: ...
    def setMinimumSize(self, size: QSize, /) -> None: ...
    def resize(self, size: QSize, /) -> None: ...
    def isMaximized(self) -> bool: ...
    def isFullScreen(self) -> bool: ...


class Panes:
    """The panes in the order of the eye: rail, page, drawer, booth, strip.

    Parameters
    ----------
    window : QWidget
    """

    def __init__(self, window: _Window) -> None:
        self.window = window
        self.folded = set(SETTINGS.read().folded)
        self.take_size()
        self.fit()

    # -- folding, and the size of the window ---------------------------------------------

    def switch(self, name: str) -> None:
        """Fold a pane, or show it whole; it is remembered."""
        self.folded ^= {name}
        self.fit()
        self.keep(folded=tuple(sorted(self.folded)))

    def fit(self) -> None:
        """Fold what is to be folded: what the user wished, and the rail where there is little room."""
        window = self.window
        window.rail.fold("rail" in self.folded or window.width() < px(_SMALL))
        window.booth.setVisible("booth" not in self.folded)
        window.strip.setVisible("strip" not in self.folded)

    def keep(self, **changed: object) -> None:
        """Remember something of the window."""
        settings = SETTINGS.read()
        made = replace(settings, **changed)
        if made != settings:
            with contextlib.suppress(DubrelError):  # no reason to interrupt anybody
                SETTINGS.write(made)

    def take_size(self) -> None:
        """As large as it was left, or as is usual, and never larger than the screen with its frame."""
        window = self.window
        found = re.fullmatch(r"(\d{2,5})x(\d{2,5})", SETTINGS.read().window)
        wished = QSize(int(found[1]), int(found[2])) if found else _USUAL
        room = window.screen().availableSize() - _FRAME
        window.setMinimumSize(_LEAST.boundedTo(room))
        window.resize(wished.boundedTo(room).expandedTo(window.minimumSize()))

    def keep_size(self) -> None:
        """Remember how large the window is, unless it fills the screen."""
        window = self.window
        if not (window.isMaximized() or window.isFullScreen()):
            self.keep(window=f"{window.width()}x{window.height()}")

    # -- keys and messages ---------------------------------------------------------------

    def commands(self) -> list[Command]:
        """What can be done."""
        return [
            Command("next_pane", tr("Go to the next pane"), "Ctrl+Tab", partial(self.go, 1)),
            Command("previous_pane", tr("Go to the pane before"), "Ctrl+Shift+Tab", partial(self.go, -1)),
            *(Command(f"fold_{name}", text, "", partial(self.switch, name)) for name, text in PANES.items()),
            Command("messages", tr("Read the last messages again"), "", self.show_messages, self._none_said),
        ]

    def go(self, step: int) -> None:
        """Give the keys to the next pane that is shown, or to the one before."""
        panes = [one for one in self._panes() if one is None or one.isVisible()]
        here = next((nth for nth, one in enumerate(panes) if one is not None and _holds_focus(one)), None)
        at = panes.index(None) if here is None else here
        self._enter(panes[(at + step) % len(panes)])

    def _panes(self) -> list[QWidget | None]:
        """Nothing stands for the page, which is another in every pass."""
        window = self.window
        return [window.rail, None, window.drawers, window.booth, window.strip]

    def _enter(self, pane: QWidget | None) -> None:
        if pane is None:
            self.window.show_focus()
        elif pane is self.window.rail:
            self.window.rail.present().setFocus(Qt.FocusReason.TabFocusReason)
        elif pane.focusPolicy() != Qt.FocusPolicy.NoFocus:
            pane.setFocus(Qt.FocusReason.TabFocusReason)
        else:
            first = next((one for one in pane.findChildren(QWidget) if _takes_keys(one)), None)
            if first is not None:
                first.setFocus(Qt.FocusReason.TabFocusReason)

    def _none_said(self) -> str:
        return "" if self.window.footer.last else tr("There are no messages yet.")

    def show_messages(self) -> None:
        """Show the last messages, the newest first; choosing one copies it."""
        footer = self.window.footer
        menu = QMenu(footer)
        for when, text in reversed(footer.last):
            shown = text if len(text) <= _MOST else text[: _MOST - 1] + "…"
            action = menu.addAction(f"{when:%H:%M}  {shown}".replace("&", "&&"))
            action.setToolTip(text)
            action.triggered.connect(
                lambda _checked=False, text=text: QGuiApplication.clipboard().setText(text)
            )
        menu.setToolTipsVisible(True)
        show_menu(menu, footer.mapToGlobal(QPoint(0, -menu.sizeHint().height())))


def _holds_focus(pane: QWidget) -> bool:
    now = QApplication.focusWidget()
    return now is not None and (now is pane or pane.isAncestorOf(now))


def _takes_keys(widget: QWidget) -> bool:
    by_tab = widget.focusPolicy() & Qt.FocusPolicy.TabFocus
    return bool(by_tab) and widget.isVisible() and widget.isEnabled()
