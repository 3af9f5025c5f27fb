"""Pages of which one is shown, each in its own dress: another theme costs as much as is in sight."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

from PySide6.QtWidgets import QStackedWidget, QWidget
from shiboken6 import isValid

from dubrel.desk.shell.kit.theme import wear


class Stack(QStackedWidget):
    """Shows a page in the colours of now; those that are not shown are dressed when there is time.

    What is added without `add_page` dresses itself.
    """

    def add_page(self, page: QWidget) -> None:
        """Put a page with the others, once; it is not shown, unless it is the first."""
        if self.indexOf(page) < 0:
            wear(page)
            self.addWidget(page)

    def show_page(self, page: QWidget) -> None:
        """Show a page, in the colours of now."""
        self.add_page(page)
        wear(page)
        self.setCurrentWidget(page)

    def dress(self) -> None:
        """Give the page that is shown the colours of now."""
        _dress(self.currentWidget())

    def dressing(self) -> Iterator[Callable[[], object]]:
        """Give each of the others the colours of now, a step for each."""
        for page in [self.widget(place) for place in range(self.count())]:
            yield partial(_dress, page)


def _dress(page: QWidget | None) -> None:
    if page is not None and isValid(page) and page.styleSheet():  # it may be gone since
        wear(page)
