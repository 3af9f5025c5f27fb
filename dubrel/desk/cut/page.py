"""The page of Cut: the rules as a sentence, what they come to, and the sheet of the cut."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_length
from dubrel.base.value import replace
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

_GO = ((True, tr("go")), (False, tr("stay")))
_PARTS: list[str | Blank] = [
    tr("Pauses longer than"),
    Blank("longer_ms", tr("How long a pause may be"), 100, 100, 60_000, 1000, " s"),
    tr("become"),
    Blank("becomes_ms", tr("How long it becomes"), 50, 0, 60_000, 1000, " s"),
    tr("and the rest is"),
    Blank(
        "pauses_as",
        tr("What becomes of the rest of a pause"),
        words=(("shortened", tr("taken out")), ("muted", tr("muted")), ("gap", tr("kept as a gap"))),
    ),
    ";",
    tr("breaths, laughs and music"),
    Blank(
        "sounds", tr("Sounds between words"), words=((False, tr("stay")), (True, tr("go with the pauses")))
    ),
    ",",
    tr("quiet is"),
    Blank(
        "quiet_db",
        tr("Below which level it is quiet"),
        1,
        0,
        96,
        1,
        tr(" dB below full"),
        zero=tr("what is found"),
    ),
    ".",
    tr("Fillers"),
    Blank("fillers", tr("Fillers"), words=_GO),
    ",",
    tr("repeats"),
    Blank("repeats", tr("Repeats and false starts"), words=_GO),
    ",",
    tr("struck words"),
    Blank("struck", tr("Struck words"), words=_GO),
    ";",
    tr("of what is said again"),
    Blank("again", tr("Takes"), words=((True, tr("the last take stays")), (False, tr("every take stays")))),
    ".",
    tr("At least"),
    Blank("keep_ms", tr("Room around every word"), 5, 0, 2000, 1, " ms"),
    tr("stay around every word, and joins"),
    Blank("cross_ms", tr("Cross-fade"), 5, 0, 2000, 1, tr(" ms of cross-fade"), zero=tr("are hard")),
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
        super().__init__(tr("Cut"), _PARTS)
        self.rules = rules
        self.sentence.show_values(rules)
        self.sentence.changed.connect(self._changed)
        self._fill_row()
        self.sheet = CutSheet(desk)
        self.sheet.say_when_empty(
            tr("Nothing to cut yet"),
            tr("Transcribe a recording first; pauses, fillers and takes are found then."),
        )
        self.box.addWidget(self.sheet, 1)
        self.setFocusProxy(self.sheet)

    def _fill_row(self) -> None:
        self.make, self.play = button(tr("Take out"), primary=True), button(tr("Play the cut"))
        self.write = button(tr("Write"))
        self.cuts = QComboBox()
        self.cuts.setAccessibleName(tr("Cut"))
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
        self.rules = replace(self.rules, **{"name": "", name: value})
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
            self.make.setText(tr("Looking …"))
        else:
            nothing = tr("Nothing ticked") if offered else tr("Nothing to take out")
            self.make.setText(tr("Take out {ticked}").format(ticked=ticked) if ticked else nothing)
        self.make.setEnabled(bool(ticked) and offered is not None)
        if found is None or not found.joins:
            offer = (
                tr("{whole_ms}; ticked: −{saves_ms}").format(
                    whole_ms=format_length(whole_ms), saves_ms=format_length(saves_ms)
                )
                if ticked
                else ""
            )
            self.figures.setText(offer or (format_length(whole_ms) if whole_ms else ""))
            return
        saved = f"{'−' if found.saved_ms >= 0 else '+'}{format_length(abs(found.saved_ms))}"
        joins, whole = counted(found.joins, "join"), format_length(whole_ms)
        self.figures.setText(
            tr("{length_ms} of {whole}, {saved}, {joins}").format(
                length_ms=format_length(found.length_ms), whole=whole, saved=saved, joins=joins
            )
        )

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.sheet.set_theme(theme)
