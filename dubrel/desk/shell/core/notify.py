"""Tell the user that long work is done while another window is in front."""

from __future__ import annotations

import logging
import time

from PySide6.QtWidgets import QWidget

from dubrel.desk.shell.core.background import aside
from dubrel.desk.shell.core.job_slots import JobSlots

LONG_S = 15.0


class Notifier:
    """Follows what runs.

    Parameters
    ----------
    window : QWidget
        Nothing is said while it is in front.
    jobs : JobSlots
    """

    def __init__(self, window: QWidget, jobs: JobSlots) -> None:
        self._window = window
        jobs.done.connect(self._on_done)

    def _on_done(self, text: str, began: float) -> None:
        if time.monotonic() - began >= LONG_S:
            self.tell(text)

    def tell(self, text: str) -> None:
        """Show a notification, unless the window is in front."""
        if not self._window.isActiveWindow():
            aside(lambda: send(text))


def send(text: str) -> bool:
    """Send a notification over the desktop's own bus; whether anybody took it."""
    from jeepney import DBusAddress, new_method_call
    from jeepney.io.blocking import open_dbus_connection

    address = DBusAddress(
        "/org/freedesktop/Notifications", "org.freedesktop.Notifications", "org.freedesktop.Notifications"
    )
    body: tuple[object, ...] = ("Dubrel", 0, "", "Dubrel", text, [], {}, -1)
    try:
        with open_dbus_connection(bus="SESSION") as connection:
            connection.send_and_get_reply(
                new_method_call(address, "Notify", "susssasa{sv}i", body), timeout=2
            )
        return True
    except Exception:  # no bus, no service, another kind of desktop: nobody to tell
        logging.info("no notification", exc_info=True)
        return False
