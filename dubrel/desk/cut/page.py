"""The page of Cut: the rules as a sentence, what they come to, and the sheet of the cut."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox

from dubrel.base.text import counted
from dubrel.base.timecode import format_length
from dubrel.desk.cut.cutsheet import CutSheet
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.sentence import Blank
from dubrel.desk.shell.kit.sentencepage import SentencePage
from dubrel.desk.shell.kit.theme import Theme
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.edits.cuts.totals import Figures
from dubrel.model.cutrules import CutRules

_GO = ((True, "go"), (False, "stay"))
_PARTS: list[str | Blank] = [
    "Pauses longer than",
    Blank("longer_ms", "How long a pause may be", 100, 100, 60_000, 1000, " s"),
    "become",
    Blank("becomes_ms", "How long it becomes", 50, 0, 60_000, 1000, " s"),
    "and the rest is",
    Blank(
        "pauses_as",
        "What becomes of the rest of a pause",
        words=(("shortened", "taken out"), ("muted", "muted"), ("gap", "kept as a gap")),
    ),
    ";",
    "breaths, laughs and music",
    Blank("sounds", "Sounds between words", words=((False, "stay"), (True, "go with the pauses"))),
    ",",
    "quiet is",
    Blank("quiet_db", "Below which level it is quiet", 1, 0, 96, 1, " dB below full", zero="what is found"),
    ".",
    "Fillers",
    Blank("fillers", "Fillers", words=_GO),
    ",",
    "repeats",
    Blank("repeats", "Repeats and false starts", words=_GO),
    ",",
    "struck words",
    Blank("struck", "Struck words", words=_GO),
    ";",
    "of what is said again",
    Blank("again", "Takes", words=((True, "the last take stays"), (False, "every take stays"))),
    ".",
    "At least",
    Blank("keep_ms", "Room around every word", 5, 0, 2000, 1, " ms"),
    "stay around every word, and joins",
    Blank("cross_ms", "Cross-fade", 5, 0, 2000, 1, " ms of cross-fade", zero="are hard"),
    ".",
]


@guarded
class CutPage(SentencePage):
    """Rules, figures and sheet.

    Signals
    -------
    rules_changed(CutRules)
    wanted(str)
        A command.
    cut_chosen(int)
        The id of a cut.
    """

    rules_changed = Signal(object)
    wanted = Signal(str)
    cut_chosen = Signal(int)

    def __init__(self, desk: Desk, rules: CutRules) -> None:
        super().__init__("Cut", _PARTS)
        self.rules = rules
        self.sentence.show_values(rules)
        self.sentence.changed.connect(self._changed)
        self._fill_row()
        self.sheet = CutSheet(desk)
        self.sheet.say_when_empty(
            "Nothing to cut yet",
            "Transcribe a recording first; pauses, fillers and takes are found then.",
        )
        self.box.addWidget(self.sheet, 1)
        self.setFocusProxy(self.sheet)

    def _fill_row(self) -> None:
        self.make, self.play = button("Take out", primary=True), button("Play the cut")
        self.write = button("Write")
        self.cuts = QComboBox()
        self.cuts.setAccessibleName("Cut")
        self.cuts.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        fixed(self.cuts.setMaximumWidth, 200)
        self.figures = label("", "quiet")
        self.make.clicked.connect(lambda: self.wanted.emit("take_out_ticked"))
        self.play.clicked.connect(lambda: self.wanted.emit("play_cut"))
        self.write.clicked.connect(lambda: self.wanted.emit("write_cut"))
        self.cuts.activated.connect(lambda _row: self.cut_chosen.emit(self.cuts.currentData()))
        self.put(self.make, self.play, self.write, self.cuts)
        self.put_beside(self.figures)

    def _changed(self, name: str, value: object) -> None:
        self.rules = CutRules(**{**vars(self.rules), "name": "", name: value})
        self.rules_changed.emit(self.rules)

    def show_rules(self, rules: CutRules) -> None:
        """Show other rules."""
        self.rules = rules
        self.sentence.show_values(rules)
        self.rules_changed.emit(rules)

    def show_cuts(self, cuts: list[tuple[int, str]], chosen: int) -> None:
        """Which cuts there are, and which is shown."""
        self.cuts.clear()
        for cut_id, name in cuts:
            self.cuts.addItem(name, cut_id)
        self.cuts.setCurrentIndex(max(0, self.cuts.findData(chosen)))
        self.cuts.setVisible(len(cuts) > 1)

    def show_figures(
        self, found: Figures | None, whole_ms: int, ticked: int, saves_ms: int, offered: int | None
    ) -> None:
        """What the cut comes to, and what is ticked of what is offered (none: it is looked for)."""
        if offered is None:
            self.make.setText("Looking …")
        else:
            nothing = "Nothing ticked" if offered else "Nothing to take out"
            self.make.setText(f"Take out {ticked}" if ticked else nothing)
        self.make.setEnabled(bool(ticked) and offered is not None)
        if found is None or not found.joins:
            offer = f"{format_length(whole_ms)}; ticked: −{format_length(saves_ms)}" if ticked else ""
            self.figures.setText(offer or (format_length(whole_ms) if whole_ms else ""))
            return
        saved = f"{'−' if found.saved_ms >= 0 else '+'}{format_length(abs(found.saved_ms))}"
        joins, whole = counted(found.joins, "join"), format_length(whole_ms)
        self.figures.setText(f"{format_length(found.length_ms)} of {whole}, {saved}, {joins}")

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.sheet.set_theme(theme)
