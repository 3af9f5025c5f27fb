"""Garbage is collected on the interface's thread alone.

Python collects in whichever thread happens to make the next object. What lies in
a circle with a widget would be destroyed there, and Qt dies of that sooner or later.
"""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, QTimer

_LOOK_MS = 150
_MANY = 30_000  # objects that are made so fast are values, not garbage; to walk over them would be seen


class Collector(QObject):
    """Collects in place of Python, between two events, as often as Python would.

    What survives the oldest generation is not looked at again: the values of a
    project are in no circles, and there are hundreds of thousands of them.
    """

    def __init__(self, owner: QObject) -> None:
        super().__init__(owner)
        self._was = gc.isenabled()
        gc.disable()
        self._timer = QTimer(self, interval=_LOOK_MS)
        self._timer.timeout.connect(self._look)
        self._timer.start()

    def _look(self) -> None:
        due = [count > most for count, most in zip(gc.get_count(), gc.get_threshold())]
        if gc.get_count()[0] > _MANY:
            gc.freeze()
        elif due[2] and due[1]:
            gc.collect()
            gc.freeze()
        elif due[0]:
            gc.collect(1 if due[1] else 0)

    def stop(self) -> None:
        """Let Python collect again."""
        self._timer.stop()
        if self._was:
            gc.enable()
