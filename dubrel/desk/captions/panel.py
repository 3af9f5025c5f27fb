"""In the booth: what is to fix, how captions stand and look."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from dubrel.captions.checks import RULES
from dubrel.desk.captions.findings import Findings
from dubrel.desk.captions.lookpanel import LookPanel
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import Facts, button

_ALWAYS = ("speed",)


@guarded
class CaptionPanel(QWidget):
    """Counts, buttons, place and look.

    Signals
    -------
    wanted(str)
        A command was chosen.
    """

    wanted = Signal(str)

    def __init__(self, desk: Desk, findings: Findings, look: LookPanel) -> None:
        super().__init__()
        self.desk, self.findings, self.look = desk, findings, look
        box = QVBoxLayout(self)
        box.setContentsMargins(0, Space.TIGHT, 0, 0)
        box.setSpacing(Space.ROOM)
        self.rule_facts = Facts("To fix", [check.label for check in RULES.values() if check.must])
        self.advice_facts = Facts("Advice", [check.label for check in RULES.values() if not check.must])
        self.style_facts = Facts(
            "House style", ["Name", "Lines", "Speed", "Done", "Manual changes", "Hidden words"]
        )
        box.addWidget(self.rule_facts)
        box.addLayout(self._buttons())
        box.addWidget(self.advice_facts)
        box.addWidget(look)
        box.addWidget(self.style_facts)
        box.addStretch(1)
        findings.counted.connect(self._on_counted)

    def _on_counted(self) -> None:
        if self.isVisible():
            self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        """Show what was counted meanwhile."""
        super().showEvent(event)
        self.refresh()

    def _buttons(self) -> QGridLayout:
        row = QGridLayout()
        row.setSpacing(Space.CLOSE)
        self.next_finding = button("Next to fix", primary=True)
        self.fix_all, self.set_again, self.choose_style = (
            button("Fix all"),
            button("Set again"),
            button("Style"),
        )
        for nth, (one, name) in enumerate(
            (
                (self.next_finding, "next_look"),
                (self.fix_all, "fix_all"),
                (self.set_again, "set_again"),
                (self.choose_style, "style"),
            )
        ):
            one.clicked.connect(lambda _checked=False, name=name: self.wanted.emit(name))
            row.addWidget(one, nth // 2, nth % 2)
        return row

    def refresh(self) -> None:
        """Show the counts and the style."""
        style, track = self.findings.style, self.findings.session.project.captions
        self.style_facts.set("Name", style.name)
        self.style_facts.set("Lines", f"{style.max_lines} of {style.max_cpl} characters")
        wpm = f", {style.max_wpm} WPM" if style.max_wpm else ""
        self.style_facts.set("Speed", f"{style.max_cps:g} CPS{wpm}")
        captions = track.captions if track else ()
        done, held = sum(one.done for one in captions), sum(bool(one.held) for one in captions)
        hidden = sum(len(one.hidden) for one in captions)
        self.style_facts.set("Done", f"{done:,} of {len(captions):,}")
        for name, count in (("Manual changes", held), ("Hidden words", hidden)):
            self.style_facts.set(name, f"{count:,}")
            self.style_facts.set_visible(name, count > 0)
        advice = 0
        for rule, check in RULES.items():
            count = self.findings.rules[rule]
            facts = self.rule_facts if check.must else self.advice_facts
            facts.set(check.label, str(count))
            facts.set_visible(check.label, count > 0 or rule in _ALWAYS)
            advice += 0 if check.must else count
        self.advice_facts.setVisible(advice > 0)
