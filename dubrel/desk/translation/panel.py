"""In the booth: what is to be looked at, what is known of the chosen sentence, what the memory offers."""

from __future__ import annotations

import html
from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.shell.kit.buttonrow import ButtonRow
from dubrel.desk.shell.kit.theme import Space, Theme
from dubrel.desk.shell.kit.widgets import Facts, button, label
from dubrel.desk.translation.findings import TranslationFindings
from dubrel.edits.translation.track import Standing
from dubrel.translation.checks import CHECKS
from dubrel.translation.meaning import verdict
from dubrel.translation.memory import Match, marked

_VERDICTS = {"sound": tr("Meaning kept"), "look": tr("Meaning in doubt"), "wrong": tr("Another meaning")}
_BUTTONS = (
    ("approve_next", tr("Approve")),
    ("next_look", tr("Next to look at")),
    ("translate_again", tr("Translate again")),
    ("show_on_picture", tr("On the picture")),
)


class TranslationPanel(QWidget):
    """Counts, buttons, details.

    Signals
    -------
    wanted(str)
        A command was chosen.
    taken(str)
        A text is to stand in place of the translation.
    """

    wanted = Signal(str)
    taken = Signal(str)

    def __init__(self, findings: TranslationFindings, theme: Theme) -> None:
        super().__init__()
        self.findings, self.theme = findings, theme
        box = QVBoxLayout(self)
        box.setContentsMargins(0, Space.TIGHT, 0, 0)
        box.setSpacing(Space.ROOM)
        self.buttons = {}
        for nth, (name, text) in enumerate(_BUTTONS):
            made = self.buttons[name] = button(text, primary=nth == 0)
            made.clicked.connect(lambda _checked=False, name=name: self.wanted.emit(name))
        box.addWidget(ButtonRow(list(self.buttons.values()), 2))
        self.details = self._paragraphs(box, tr("This sentence"), ("meaning", "back", "doubts"))
        self.offers = _Offers(tr("From the memory"), self)
        self.shorter = _Offers(tr("Shorter"), self)
        for one in (self.offers, self.shorter):
            one.taken.connect(self.taken)
            box.addWidget(one)
        names = [tr(check.label) for check in CHECKS.values()]
        self.facts = Facts(tr("Still to look at"), [tr("Over speed"), tr("Other rules"), *names])
        box.addWidget(self.facts)
        self.standing = Facts(tr("Done"), [tr("Translated"), tr("Edited"), tr("Approved")])
        box.addWidget(self.standing)
        box.addStretch(1)

    def _paragraphs(self, box: QVBoxLayout, title: str, names: Sequence[str]) -> dict[str, QLabel]:
        self.title = label(title, "section")
        box.addWidget(self.title)
        found = {}
        for name in names:
            made = found[name] = label("")
            made.setWordWrap(True)
            made.setTextFormat(Qt.TextFormat.RichText)
            made.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            box.addWidget(made)
        return found

    def show_counts(self, standing: Standing | None) -> None:
        """How many there are of each kind; none are known while they are being counted."""
        counts = self.findings.counts
        if standing is None:
            self.facts.set(tr("Over speed"), "…")
            for name in (tr("Translated"), tr("Edited"), tr("Approved")):
                self.standing.set(name, "…")
            for name in (tr("Other rules"), *(tr(check.label) for check in CHECKS.values())):
                self.facts.set_visible(name, False)
            return
        self.facts.set(tr("Over speed"), str(counts["rule speed"]))
        others = counts["is broken"]
        self.facts.set(tr("Other rules"), str(others))
        self.facts.set_visible(tr("Other rules"), others > 0)
        for rule, check in CHECKS.items():
            self.facts.set(tr(check.label), str(counts[rule]))
            self.facts.set_visible(tr(check.label), counts[rule] > 0)
        of = tr("{some:,} of {all:,}")
        self.standing.set(tr("Translated"), of.format(some=standing.translated, all=standing.whole))
        self.standing.set(tr("Edited"), f"{standing.edited:,}")
        self.standing.set(tr("Approved"), of.format(some=standing.approved, all=standing.captions))

    def show_sentence(self, source: str, meaning: float | None, back: str, doubts: Sequence[str]) -> None:
        """What is known of the chosen sentence."""
        quiet, look = (self.theme.colour(name).name() for name in ("quiet", "look"))
        self.title.setVisible(bool(source))
        said = ""
        if meaning is not None:
            kind = verdict(meaning)
            colour = self.theme.colour("action" if kind == "sound" else "look").name()
            said = (
                f"<span style='color:{quiet}'>{_VERDICTS[kind]},</span> <b"
                f" style='color:{colour}'>{meaning:.0%}</b>"
            )
        self._say("meaning", said)
        self._say(
            "back",
            tr("<span style='color:{quiet}'>Back:</span> {source}").format(
                quiet=quiet, source=self._marked(source, back)
            )
            if back
            else "",
        )
        self._say(
            "doubts", "<br>".join(f"<span style='color:{look}'>{html.escape(one)}</span>" for one in doubts)
        )

    def _marked(self, one: str, other: str) -> str:
        """The second text, what the first has not underlined."""
        return " ".join(
            f"<u>{html.escape(text)}</u>" if kind == "+" else html.escape(text)
            for kind, text in marked(one.lower(), other.lower())
            if kind != "-"
        )

    def _say(self, name: str, text: str) -> None:
        self.details[name].setText(text)
        self.details[name].setVisible(bool(text))

    def show_offers(self, source: str, matches: Sequence[Match]) -> None:
        """What the memory offers for a sentence."""
        quiet = self.theme.colour("quiet").name()
        rows = []
        for one in matches:
            said = " ".join(
                (
                    f"<s>{html.escape(text)}</s>"
                    if kind == "-"
                    else f"<u>{html.escape(text)}</u>"
                    if kind == "+"
                    else html.escape(text)
                )
                for kind, text in marked(source, one.source)
            )
            about = "" if one.percent == 100 else f"<br><span style='color:{quiet}'>{said}</span>"
            rows.append((one.target, f"<b>{one.percent}%</b> {html.escape(one.target)}{about}"))
        self.offers.show_rows(rows)

    def show_shorter(self, over: int, texts: Sequence[str]) -> None:
        """Shorter readings of what is too long by some characters."""
        self.shorter.title.setText(
            tr("Shorter: {over} characters too many").format(over=over) if over else tr("Shorter")
        )
        self.shorter.show_rows([(one, html.escape(one)) for one in texts])


class _Offers(QWidget):
    """Texts with a button each that takes it."""

    taken = Signal(str)

    def __init__(self, title: str, parent: QWidget) -> None:
        super().__init__(parent)
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(0, 0, 0, 0)
        self._box.setSpacing(Space.CLOSE)
        self.title = label(title, "section")
        self._box.addWidget(self.title)
        self._rows: list[QWidget] = []
        self.texts: list[str] = []
        self.hide()

    def show_rows(self, rows: Sequence[tuple[str, str]]) -> None:
        """Show texts: what is taken, and how it is shown."""
        for one in self._rows:
            one.deleteLater()
        self._rows, self.texts = [], [text for text, _ in rows]
        for text, shown in rows[:3]:
            made = QWidget()
            row = QHBoxLayout(made)
            row.setContentsMargins(0, 0, 0, 0)
            words = label(shown)
            words.setWordWrap(True)
            words.setTextFormat(Qt.TextFormat.RichText)
            take = button(tr("Accept"))
            take.setAccessibleName(tr("Accept: {text}").format(text=text))
            take.clicked.connect(lambda _checked=False, text=text: self.taken.emit(text))
            row.addWidget(words, 1)
            row.addWidget(take, 0, Qt.AlignmentFlag.AlignTop)
            self._box.addWidget(made)
            self._rows.append(made)
        self.setVisible(bool(rows))
