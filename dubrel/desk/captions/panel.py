"""In the booth: the house style, and how many captions break each of its rules."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from dubrel.captions.checks import RULES
from dubrel.desk.captions.findings import Findings
from dubrel.desk.shell.widgets import Facts, button

_ALWAYS = ("speed", "line length", "short")
_NAMES = {"never": "no names", "change": "name at each change", "always": "name always"}


class CaptionPanel(QWidget):
    """Style, counts and buttons.

    Signals
    -------
    wanted(str)
        A command was chosen.
    """

    wanted = Signal(str)

    def __init__(self, findings: Findings) -> None:
        super().__init__()
        self.findings = findings
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 4, 0, 0)
        box.setSpacing(14)
        self.style_facts = Facts("House style", ["Name", "Lines", "Speed", "Time", "Speakers"])
        self.rule_facts = Facts("To fix", [check.label for check in RULES.values()])
        box.addWidget(self.style_facts)
        box.addWidget(self.rule_facts)
        buttons = QHBoxLayout()
        self.next_finding = button("Next to fix", primary=True)
        self.set_again, self.choose_style = button("Set again"), button("Style")
        for one, name in (
            (self.next_finding, "next_look"),
            (self.set_again, "set_again"),
            (self.choose_style, "style"),
        ):
            one.clicked.connect(lambda _checked=False, name=name: self.wanted.emit(name))
            buttons.addWidget(one)
        buttons.addStretch(1)
        box.addLayout(buttons)
        box.addStretch(1)
        findings.counted.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the style and the counts."""
        style, media = self.findings.style, self.findings.session.project.media
        gap = style.least_gap(media.frame_rate if media else None)
        self.style_facts.set("Name", style.name)
        self.style_facts.set("Lines", f"{style.max_lines} of {style.max_cpl} characters")
        self.style_facts.set("Speed", f"{style.max_cps:g} CPS")
        self.style_facts.set("Time", f"{style.min_ms / 1000:g} to {style.max_ms / 1000:g} s, gap {gap} ms")
        names = _NAMES[style.names]
        self.style_facts.set("Speakers", f"{names}, dashes" if style.dashes else names)
        for rule, check in RULES.items():
            count = self.findings.rules[rule]
            self.rule_facts.set(check.label, str(count))
            self.rule_facts.set_visible(check.label, count > 0 or rule in _ALWAYS)
