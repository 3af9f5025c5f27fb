"""The pages of no pass: versions, settings and the guide, made when they are first wanted."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import SignalInstance
from PySide6.QtWidgets import QWidget

from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.stack import Stack
from dubrel.desk.shell.kit.theme import Theme
from dubrel.user.settings import Settings

if TYPE_CHECKING:
    from dubrel.desk.shell.pages.help import HelpPage
    from dubrel.desk.shell.pages.settings import SettingsPage
    from dubrel.desk.shell.pages.versions import VersionsPage


class _Page(Protocol):
    """What can be closed."""

    @property
    def closed(self) -> SignalInstance: ...


class SidePages:
    """Shows them over the page of the pass; closing one leads back there.

    Parameters
    ----------
    desk : Desk
    pages : Stack
        Where pages stand.
    show, leave : callable
        Show a page, and go back to the pass.
    apply : callable
        Takes changed settings.
    """

    def __init__(
        self,
        desk: Desk,
        pages: Stack,
        show: Callable[[QWidget], object],
        leave: Callable[[], object],
        apply: Callable[[Settings], object],
    ) -> None:
        self.desk, self._pages, self._show, self._leave, self._apply = desk, pages, show, leave, apply
        self.versions: VersionsPage | None = None
        self.settings: SettingsPage | None = None
        self.help: HelpPage | None = None

    def show_versions(self) -> None:
        """Show the saved states of the project."""
        from dubrel.desk.shell.pages.versions import VersionsPage  # late: the window opens without it

        if self.versions is None:
            self.versions = VersionsPage(self.desk)
            self._add(self.versions, self.versions)
        self._show(self.versions)
        self.versions.refresh()

    def show_settings(self) -> None:
        """Show what holds for all projects."""
        from dubrel.desk.shell.pages.settings import SettingsPage  # late: as above

        if self.settings is None:
            self.settings = SettingsPage(self.desk)
            self.settings.changed.connect(self._apply)
            self._add(self.settings, self.settings)
        self.settings.refresh()
        self._show(self.settings)

    def show_help(self, name: str) -> None:
        """Show the guide, at a page."""
        from dubrel.desk.shell.pages.help import HelpPage  # late: as above

        if self.help is None:
            self.help = HelpPage(self.desk.theme)
            self._add(self.help, self.help)
        self.help.show_page(name)
        self._show(self.help)

    def set_theme(self, theme: Theme) -> None:
        """Change the colours of those that have their own."""
        if self.help is not None:
            self.help.set_theme(theme)

    def _add(self, widget: QWidget, page: _Page) -> None:
        page.closed.connect(self._leave)
        self._pages.add_page(widget)
