"""The page of a house style: its rules as a sentence, and what they do to the open project at once."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget

from dubrel.base.catalogue import counted, shipped, tr
from dubrel.base.value import replace
from dubrel.captions.styles import RULES, STYLES, style_problems
from dubrel.desk.captions.styles.stylepictures import RulePicture, SpeedPlot
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.buttonrow import ButtonRow
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.paperpage import PaperPage
from dubrel.desk.shell.kit.sentence import Blank, BlankField, Sentence
from dubrel.desk.shell.kit.theme import Theme
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.edits.captions.styleeffect import Effect, effect_of, effect_with, rules_changed
from dubrel.model import HouseStyle

_WAIT_MS = 120


def _number(name: str, step: float = 1, scale: float = 1, after: str = "", zero: str = "") -> Blank:
    rule = RULES[name]
    return Blank(name, tr(rule.label), step * scale, rule.low, rule.high, scale, after, zero=zero)


def _choice(name: str, *words: tuple[object, str]) -> Blank:
    return Blank(name, tr(RULES[name].label), words=words)


_MAIN: list[str | Blank] = [
    tr("At most"),
    _number("max_lines"),
    tr("lines of"),
    _number("max_cpl"),
    tr("characters, read at up to"),
    _number("max_cps", 0.5),
    tr("characters a second and"),
    _number("max_wpm", 5, zero=tr("any number of")),
    tr("words a minute, shown as"),
    _choice("speed_in", ("cps", "CPS"), ("wpm", "WPM")),
    tr("; on screen for"),
    _number("min_ms", 0.1, 1000),
    tr("to"),
    _number("max_ms", 0.5, 1000),
    tr("seconds, with"),
    _number("gap_frames", after=tr(" frames")),
    tr(", or"),
    _number("gap_ms", 10, after=" ms"),
    tr("without a picture, between captions. A gap shorter than"),
    _number("chain_ms", 0.05, 1000),
    tr("s is closed. A caption may come in"),
    _number("lead_ms", 0.02, 1000),
    tr("s before its first word, and stay"),
    _number("linger_ms", 0.1, 1000),
    tr("s after its last. It goes to a shot change nearer than"),
    _number("shot_snap_frames", after=tr(" frames")),
    tr("and ends"),
    _number("shot_gap_frames", after=tr(" frames")),
    tr("before it; one that crosses it stays"),
    _number("shot_never_frames", after=tr(" frames")),
    tr("on either side."),
]
_MORE: list[str | Blank] = [
    tr("Lines are"),
    _choice("shape", ("balanced", tr("balanced")), ("bottom-heavy", tr("longer below"))),
    tr("; a single line has at most"),
    _number("single_cpl", zero=tr("as many")),
    tr("characters, a caption"),
    _number("max_words", zero=tr("any number of")),
    tr("words. Another sentence"),
    _choice("one_sentence", (False, tr("may begin in")), (True, tr("never begins in"))),
    tr("the same caption. Another person begins"),
    _choice("dashes", (False, tr("a caption of their own")), (True, tr("a line with a dash"))),
    tr("; names stand"),
    _choice("names", ("never", tr("never")), ("change", tr("at each change")), ("always", tr("always"))),
    tr(". Numbers up to ten are"),
    _choice("numbers", ("any", tr("as they are")), ("figures", tr("figures")), ("words", tr("words"))),
    tr("; off-screen voices are"),
    _choice("italics", (False, tr("upright")), (True, tr("in italics"))),
    tr(". Sound descriptions stand in"),
    _choice("sound_brackets", ("[]", tr("[square]")), ("()", tr("(round)")), ("", tr("no"))),
    tr("brackets, in"),
    _choice(
        "sound_case",
        ("lower", tr("small letters")),
        ("sentence", tr("a capital first")),
        ("upper", "CAPITALS"),
    ),
    tr(". Captions stand"),
    _choice("place", *((one, tr(one).replace(" ", ", ")) for one in RULES["place"].among)),
    tr("; a wide character counts as"),
    _number("wide_counts"),
    ".",
]


@guarded
class StylePage(PaperPage):
    """A house style, its rules and their effect.

    Signals
    -------
    set_wanted(HouseStyle)
        Captions are to be set by it.
    kept(HouseStyle)
        The track is to have it, and nothing is set.
    edited(HouseStyle)
        A rule is another.
    left()
    """

    set_wanted = Signal(object)
    kept = Signal(object)
    edited = Signal(object)
    left = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__(tr("House style"))
        self.desk, self.session = desk, desk.session
        self.style_ = HouseStyle("")
        self._background = Background(self, until=desk.session.opened, newest=True)
        self.title = label("", "title")
        hint = label(
            tr(
                "Every number can be typed over, stepped with the arrows, or dragged. What changes shows at"
                " once."
            ),
            "quiet",
        )
        hint.setWordWrap(True)
        self.main, self.more = Sentence(_MAIN), Sentence(_MORE)
        self.problem = label("", "look")
        self.problem.setWordWrap(True)
        for one in (self.title, hint, self.main, self.problem, _hairline()):
            self.box.addWidget(one)
        row = self.beside(30)
        self.says = [label("") for _ in range(4)]
        row.addWidget(self._column(tr("On this recording"), *self.says), 1)
        self.plot, self.picture = SpeedPlot(desk.theme), RulePicture(desk.theme)
        row.addWidget(self._column(tr("Reading speed, each caption a dot"), self.plot), 1)
        self.box.addLayout(row)
        self.set, self.keep = (
            button(tr("Set captions"), primary=True),
            button(tr("Keep the style, set nothing")),
        )
        self.leave = button(tr("Cancel"))
        self.box.addWidget(ButtonRow([self.set, self.keep, self.leave]))
        for part in (_hairline(), self.picture, self.more):
            self.box.addWidget(part)
        self.box.addStretch(1)
        self._wait = QTimer(self, singleShot=True, interval=_WAIT_MS)
        self._connect()

    def _column(self, title: str, *widgets: QWidget) -> QWidget:
        made = QWidget()
        box = QVBoxLayout(made)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(label(title, "heading"))
        for one in widgets:
            box.addWidget(one)
        box.addStretch(1)
        return made

    def _connect(self) -> None:
        for sentence in (self.main, self.more):
            sentence.changed.connect(self.take)
            for field in sentence.fields.values():
                field.installEventFilter(self)
        self.set.clicked.connect(lambda: self.set_wanted.emit(self.style_))
        self.keep.clicked.connect(lambda: self.kept.emit(self.style_))
        self.leave.clicked.connect(self.left)
        self._wait.timeout.connect(self._ask)
        self.session.changed.connect(lambda _change: self._wait.start() if self.isVisible() else None)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Show the picture of the rule that gets the focus."""
        if event.type() == QEvent.Type.FocusIn and isinstance(watched, BlankField):
            self.picture.show_rule(self.style_, watched.blank.name)
        return super().eventFilter(watched, event)

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.plot.theme = self.picture.theme = theme
        self.plot.update()
        self.picture.update()

    def show_style(self, style: HouseStyle) -> None:
        """Show a style."""
        self.style_ = style
        self.title.setText(tr("House style “{name}”").format(name=shipped(style.name, STYLES)))
        self.main.show_values(style)
        self.more.show_values(style)
        self._judge()

    def take(self, name: str, value: object) -> None:
        """Take a value that the sentence got."""
        self.style_ = replace(self.style_, **{name: value})
        self.picture.show_rule(self.style_, name)
        self._judge()
        self.edited.emit(self.style_)

    def _judge(self) -> None:
        """Say what cannot be, or work out what the style does."""
        problems = style_problems(self.style_)
        said = "; ".join(_plain(one) for one in problems)
        self.problem.setText(said)
        self.problem.setVisible(bool(said))
        for one in (self.set, self.keep):
            one.setEnabled(not problems)
        if not problems:
            self._wait.start()

    def _ask(self) -> None:
        """Set a copy of the project by the style, in a thread."""
        project, style = self.session.project, self.style_
        if not project.transcript.turns:
            self.says[0].setText(tr("Nothing is transcribed yet: there is nothing to try the rules on."))
            return
        self._background.ask(lambda: (effect_of(project), effect_with(project, style)), self._show_effect)

    def _show_effect(self, effects: tuple[Effect, Effect]) -> None:
        now, then = effects
        shown = [one.shown_ms / 1000 for one in (now, then)]
        self.says[0].setText(
            tr("Captions: {captions:,} → {captions2:,}").format(
                captions=now.captions, captions2=then.captions
            )
        )
        self.says[1].setText(
            tr("To fix: {broken:,} → {broken2:,}").format(broken=now.broken, broken2=then.broken)
        )
        self.says[2].setText("\n".join(rules_changed(now, then)))
        self.says[3].setText(
            tr("On screen: {shown:,.0f} s → {shown2:,.0f} s").format(shown=shown[0], shown2=shown[1])
        )
        for one in self.says:
            one.setWordWrap(True)
            one.setVisible(bool(one.text()))
        self.plot.show_effect(then, self.style_)
        self.set.setText(tr("Set {captions}").format(captions=counted(then.captions, "caption")))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape leaves."""
        if event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)


def _hairline() -> QFrame:
    line = QFrame()
    line.setFixedHeight(1)
    line.setObjectName("hairline")
    return line


def _plain(problem: str) -> str:
    """A problem with the name of its rule as it is called on the page."""
    for name, rule in RULES.items():
        problem = problem.replace(f"“{name}”", f"“{rule.label}”")
    return problem
