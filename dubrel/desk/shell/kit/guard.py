"""Handlers of ours that Qt calls: an error in one is said and logged, and the application stays.

With PySide 6.11 an exception that leaves a handler in the wrong moment ends the
process. So every class of ours that overrides something of Qt's is guarded: what
it raises is caught inside the handler, the step is not taken, one sentence is shown.
"""

from __future__ import annotations

import functools
import logging
from collections.abc import Callable
from typing import Any, TypeVar

from PySide6.QtCore import QCoreApplication, QEvent, QObject, QSize, Signal

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.folders import log_file

C = TypeVar("C", bound=type)
_HERE = "dubrel_errors"
_ANSWERS: dict[str, Any] = {"event": False, "eventFilter": False}


class Errors(QObject):
    """Sentences about errors, from whichever thread; whoever shows them connects."""

    said = Signal(str)


def errors() -> Errors:
    """Those of this application."""
    app = QCoreApplication.instance()
    found = app.property(_HERE) if app else None  # a search would make an object of each child
    if not isinstance(found, Errors):
        found = Errors(app)
        if app is not None:
            app.setProperty(_HERE, found)
    return found


def tell(error: BaseException) -> None:
    """Keep a traceback in the log, and show one sentence."""
    if isinstance(error, DubrelError):
        text = str(error)
    else:
        logging.error("not caught", exc_info=error)
        text = tr(
            "Something went wrong inside Dubrel; the step was not taken. The log is {log_file}."
        ).format(log_file=log_file())
    errors().said.emit(text)


def guarded(cls: C) -> C:
    """Guard every method of a class that overrides one of Qt's.

    What one answers after an error can be said in ``INSTEAD``, a function by its name.
    """
    instead: dict[str, Callable[[], Any]] = getattr(cls, "INSTEAD", {})
    for name, method in list(vars(cls).items()):
        if callable(method) and _is_of_qt(cls, name):
            setattr(cls, name, watched(name, method, instead.get(name)))
    return cls


def _is_of_qt(cls: type, name: str) -> bool:
    """Whether Qt calls a method by its name."""
    bases = (base for base in cls.__mro__[1:] if base.__module__.startswith("PySide6"))
    return not name.startswith("_") and any(name in vars(base) for base in bases)


def watched(name: str, method: Callable, instead: Callable[[], Any] | None = None) -> Callable:
    """A method that says what goes wrong in it, in place of ending the window."""

    @functools.wraps(method)
    def call(self: Any, *args: Any, **kwargs: Any) -> Any:
        try:
            return method(self, *args, **kwargs)
        except Exception as error:  # noqa: BLE001 - whatever it is, the window stays and says it
            tell(error)
            for one in args:
                if isinstance(one, QEvent):
                    one.accept()
            if instead is not None:
                return instead()
            return QSize(10, 10) if name in ("sizeHint", "minimumSizeHint") else _ANSWERS.get(name)

    call.__guarded__ = True  # type: ignore[attr-defined]
    return call
