"""In the booth: what is to fix, how captions stand and look."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from dubrel.base.catalogue import shipped, tr
from dubrel.captions.checks import RULES
from dubrel.captions.styles import STYLES
from dubrel.desk.captions.findings import Findings
from dubrel.desk.captions.lookpanel import LookPanel
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.buttonrow import ButtonRow
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
        self.rule_facts = Facts(tr("To fix"), [tr(check.label) for check in RULES.values() if check.must])
        self.advice_facts = Facts(
            tr("Advice"), [tr(check.label) for check in RULES.values() if not check.must]
        )
        self.style_facts = Facts(
            tr("House style"),
            [tr("Name"), tr("Lines"), tr("Speed"), tr("Done"), tr("Manual changes"), tr("Hidden words")],
        )
        box.addWidget(self.rule_facts)
        box.addWidget(self._buttons())
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

    def _buttons(self) -> ButtonRow:
        self.next_finding = button(tr("Next to fix"), primary=True)
        self.fix_all, self.set_again, self.choose_style = (
            button(tr("Fix all")),
            button(tr("Set again")),
            button(tr("Style")),
        )
        named = {
            "next_look": self.next_finding,
            "fix_all": self.fix_all,
            "set_again": self.set_again,
            "style": self.choose_style,
        }
        for name, one in named.items():
            one.clicked.connect(lambda _checked=False, name=name: self.wanted.emit(name))
        return ButtonRow(list(named.values()), 2)

    def refresh(self) -> None:
        """Show the counts and the style."""
        style, track = self.findings.style, self.findings.session.project.captions
        self.style_facts.set(tr("Name"), shipped(style.name, STYLES))
        self.style_facts.set(
            tr("Lines"),
            tr("{max_lines} of {max_cpl} characters").format(
                max_lines=style.max_lines, max_cpl=style.max_cpl
            ),
        )
        wpm = f", {style.max_wpm} WPM" if style.max_wpm else ""
        self.style_facts.set(tr("Speed"), f"{style.max_cps:g} CPS{wpm}")
        captions = track.captions if track else ()
        done, held = sum(one.done for one in captions), sum(bool(one.held) for one in captions)
        hidden = sum(len(one.hidden) for one in captions)
        self.style_facts.set(tr("Done"), tr("{some:,} of {all:,}").format(some=done, all=len(captions)))
        for name, count in ((tr("Manual changes"), held), (tr("Hidden words"), hidden)):
            self.style_facts.set(name, f"{count:,}")
            self.style_facts.set_visible(name, count > 0)
        advice = 0
        for rule, check in RULES.items():
            count = self.findings.rules[rule]
            facts = self.rule_facts if check.must else self.advice_facts
            facts.set(tr(check.label), str(count))
            facts.set_visible(tr(check.label), count > 0 or rule in _ALWAYS)
            advice += 0 if check.must else count
        self.advice_facts.setVisible(advice > 0)
