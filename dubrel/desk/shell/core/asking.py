"""Small questions: a line, a number, one of several; the button says what it does."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QInputDialog, QLineEdit, QWidget

from dubrel.base.catalogue import tr


def _dialog(parent: QWidget, title: str, question: str, go: str) -> QInputDialog:
    made = QInputDialog(parent)
    made.setWindowTitle(title)
    made.setLabelText(question)
    made.setOkButtonText(go)
    made.setCancelButtonText(tr("Cancel"))
    return made


def ask_line(
    parent: QWidget, title: str, question: str, go: str, now: str = "", *, secret: bool = False
) -> str | None:
    """A line of text; ``None`` where it was cancelled."""
    dialog = _dialog(parent, title, question, go)
    dialog.setTextValue(now)
    if secret:
        dialog.setTextEchoMode(QLineEdit.EchoMode.Password)
    return dialog.textValue() if dialog.exec() else None


def ask_number(
    parent: QWidget, title: str, question: str, go: str, now: int, bounds: tuple[int, int], step: int = 1
) -> int | None:
    """A whole number; ``None`` where it was cancelled."""
    dialog = _dialog(parent, title, question, go)
    dialog.setInputMode(QInputDialog.InputMode.IntInput)
    dialog.setIntRange(*bounds)
    dialog.setIntStep(step)
    dialog.setIntValue(now)
    return dialog.intValue() if dialog.exec() else None


def ask_which(
    parent: QWidget,
    title: str,
    question: str,
    go: str,
    names: Sequence[str],
    *,
    now: str = "",
    typed: bool = False,
) -> str | None:
    """One of several names, or with ``typed`` another; ``None`` where it was cancelled."""
    dialog = _dialog(parent, title, question, go)
    dialog.setComboBoxItems(list(names))
    dialog.setComboBoxEditable(typed)
    if now:
        dialog.setTextValue(now)
    return dialog.textValue() if dialog.exec() else None
