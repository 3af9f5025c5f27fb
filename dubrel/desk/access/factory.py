"""Who gives the toolkit an accessible interface for what is drawn by hand."""

from __future__ import annotations

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QAccessibleWidget,
    QComboBox,
    QLabel,
    QWidget,
)

from dubrel.desk.shell.kit.widgets import ACCESS

_made: dict[int, QAccessibleInterface] = {}
_installed: list[bool] = []


def install() -> None:
    """From now on a screen reader that asks gets what stands on the pages."""
    if not _installed:
        QAccessible.installFactory(_for)
        _installed.append(True)


def _for(_name: str, of: QObject) -> QAccessibleInterface | None:
    """An interface for what is ours; the toolkit's own for everything else."""
    made: QAccessibleInterface | None = None
    if isinstance(of, QComboBox):
        _label(of)
    elif isinstance(of, QAbstractScrollArea):
        made = _page(of)
    elif isinstance(of, QWidget) and (kind := of.property(ACCESS)):
        made = _of_kind(of, kind)
    if made is not None:
        key = id(of)
        _made[key] = made
        of.destroyed.connect(lambda: _made.pop(key, None))
    return made


def _of_kind(of: QWidget, kind: str) -> QAccessibleInterface:
    from dubrel.desk.access.widgetaccess import BlankAccess, DrawnAccess, TabAccess, TimeAccess
    from dubrel.desk.shell.kit.sentence import BlankField  # late: the window opens without it

    if kind == "tabs":
        return QAccessibleWidget(of, QAccessible.Role.PageTabList, of.accessibleName())
    if isinstance(of, QAbstractButton):
        return TabAccess(of)
    if isinstance(of, BlankField):
        return BlankAccess(of)
    return TimeAccess(of) if kind == "time" else DrawnAccess(of)


def _page(of: QAbstractScrollArea) -> QAccessibleInterface | None:
    from dubrel.desk.access.interfaces import PageAccess  # late: only where a screen reader asks
    from dubrel.desk.access.pages import described_page

    found = described_page(of)
    return PageAccess(found) if found is not None else None


def _label(of: QComboBox) -> None:
    """A choice is named by what it shows now; what it is for comes from a label beside it."""
    beside = of.parentWidget()
    if beside is None or not of.accessibleName():
        return
    labels = beside.findChildren(QLabel, options=Qt.FindChildOption.FindDirectChildrenOnly)
    if not any(one.buddy() is of for one in labels):
        label = QLabel(of.accessibleName(), beside)
        label.hide()
        label.setBuddy(of)
