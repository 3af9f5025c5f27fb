"""The page of clips: rules as a sentence, what they are about, the list."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QLineEdit

from dubrel.base.catalogue import tr
from dubrel.base.value import replace
from dubrel.desk.cut.clips.cliplist import ClipList
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.sentence import Blank
from dubrel.desk.shell.kit.sentencepage import SentencePage
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.model.cliprules import ClipRules

_TYPING_MS = 500
_COUNTS = ((0, tr("not at all")), (1, tr("a little")), (2, tr("as usual")), (3, "much"))
_PARTS: list[str | Blank] = [
    tr("Clips of"),
    Blank("low_s", tr("Shortest clip"), 5, 1, 3600, 1, " s"),
    tr("to"),
    Blank("high_s", tr("Longest clip"), 5, 1, 3600, 1, " s"),
    tr("that"),
    Blank(
        "alone",
        tr("Whether a clip needs what was said before it"),
        words=(
            ("must", tr("need nothing before them")),
            ("rather", tr("preferably need nothing before them")),
            ("any", tr("may need what is before them")),
        ),
    ),
    ",",
    Blank("order", tr("Order"), words=(("worth", tr("the best first")), ("time", tr("in order of time")))),
    ".",
    tr("Laughter and applause count"),
    Blank("laughter", tr("Laughter and applause"), words=_COUNTS),
    ",",
    tr("questions with their answers"),
    Blank("answers", tr("Questions with their answers"), words=_COUNTS),
    ",",
    tr("raised voices"),
    Blank("raised", tr("Voices that rise above their average"), words=_COUNTS),
    ",",
    tr("figures and names"),
    Blank("facts", tr("Figures, names and key terms"), words=_COUNTS),
    ",",
    tr("one thought"),
    Blank("thought", tr("One thought"), words=_COUNTS),
    ",",
    tr("changes of voice"),
    Blank("voices", tr("Changes of voice"), words=_COUNTS),
    ".",
]


@guarded
class ClipPage(SentencePage):
    """Rules and list.

    Signals
    -------
    rules_changed(ClipRules)
    wanted(str)
        A command.
    """

    rules_changed = Signal(object)
    wanted = Signal(str)

    def __init__(self, desk: Desk, rules: ClipRules) -> None:
        super().__init__(tr("Clips"), _PARTS)
        self.rules = rules
        self.sentence.show_values(rules)
        self.sentence.changed.connect(self._changed)
        self._fill_row()
        self.list = ClipList(desk)
        self.empty = label("", "quiet")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        self.empty.setContentsMargins(Space.PAGE, Space.PAGE, Space.PAGE, 0)
        self.empty.setWordWrap(True)
        self.box.addWidget(self.list, 1)
        self.box.addWidget(self.empty, 1)
        self.list.made.connect(lambda: self.wanted.emit("make_clip"))
        self.list.played.connect(lambda: self.wanted.emit("play_clip"))
        self.list.removed.connect(lambda: self.wanted.emit("delete_clip"))
        self.setFocusProxy(self.list)

    def _fill_row(self) -> None:
        self.make, self.play = button(tr("Make a clip"), primary=True), button(tr("Play"))
        self.like, self.release = button(tr("More like this")), button(tr("Release clips"))
        self.back = button(tr("Back to the cut"))
        for one, command in (
            (self.make, "make_clip"),
            (self.play, "play_clip"),
            (self.like, "more_like_this"),
            (self.release, "release_clips"),
            (self.back, "clips"),
        ):
            one.clicked.connect(lambda _=False, name=command: self.wanted.emit(name))
            self.put(one)
        self.state = label("", "quiet")
        self.put(self.state)
        self.about = QLineEdit()
        self.about.setAccessibleName(tr("What the clips should be about"))
        self.about.setPlaceholderText(tr("About …"))
        self.about.setClearButtonEnabled(True)
        fixed(self.about.setMinimumWidth, 120)
        self._typing = QTimer(self, singleShot=True, interval=_TYPING_MS)
        self._typing.timeout.connect(self._asked)
        self.about.textEdited.connect(lambda _text: self._typing.start())
        self.about.returnPressed.connect(self._asked)
        self.put_beside(self.about)

    def _changed(self, name: str, value: object) -> None:
        rules = replace(self.rules, **{name: value})
        if rules.low_s > rules.high_s:  # the other end goes along
            both = rules.low_s if name == "low_s" else rules.high_s
            rules = replace(rules, low_s=both, high_s=both)
        self.show_rules(rules)
        self.rules_changed.emit(rules)

    def _asked(self) -> None:
        self._typing.stop()
        about = " ".join(self.about.text().split())
        if about != self.rules.about:
            self._changed("about", about)

    def show_rules(self, rules: ClipRules) -> None:
        """Show other rules."""
        self.rules = rules
        self.sentence.show_values(rules)
        if " ".join(self.about.text().split()) != rules.about:
            self.about.setText(rules.about)

    def show_state(self, empty: str, *, busy: bool, clips: int, like: bool) -> None:
        """What an empty list says, how many clips there are, and whether only some like one are shown."""
        self.empty.setText(empty)
        self.state.setText(tr("Looking …") if busy and self.list.rows else "")
        if not self.list.rows and self.list.hasFocus():
            self.about.setFocus()  # a list that is hidden would give the keys to anything
        self.list.setVisible(bool(self.list.rows))
        self.empty.setVisible(not self.list.rows)
        row, many = self.list.row, len(self.list.chosen)
        there = row is not None
        if row is not None and row.clip_id and many < 2:
            self.make.setText(tr("Open the clip"))
        else:
            self.make.setText(tr("Make {many} clips").format(many=many) if many > 1 else tr("Make a clip"))
        self.make.setEnabled(there)
        self.play.setEnabled(there)
        self.like.setText(tr("All again") if like else tr("More like this"))
        self.like.setEnabled(there or like)
        self.release.setText(
            tr("Release {clips} clips").format(clips=clips) if clips > 1 else tr("Release the clip")
        )
        self.release.setVisible(clips > 0)
        self.fit()
