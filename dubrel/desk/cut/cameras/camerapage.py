"""The page of cameras: the rules as a sentence, all pictures, and a lane for each camera."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.value import replace
from dubrel.desk.cut.cameras.cameralanes import CameraLanes
from dubrel.desk.cut.cameras.cameramonitors import CameraMonitors
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.sentence import Blank
from dubrel.desk.shell.kit.sentencepage import SentencePage
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.model.cameras import CameraRules

_PARTS: list[str | Blank] = [
    tr("Show who speaks, no shot shorter than"),
    Blank("shortest_ms", tr("Shortest shot"), 500, 200, 600_000, 1000, " s"),
    tr(". The wide shot comes"),
    Blank(
        "laughter",
        tr("Laughter and applause"),
        words=((True, tr("at laughter")), (False, tr("not at laughter"))),
    ),
    ",",
    Blank(
        "quick",
        tr("Quick exchanges"),
        words=((True, tr("in quick exchanges")), (False, tr("not in quick exchanges"))),
    ),
    tr("and after"),
    Blank(
        "wide_ms",
        tr("Longest time without the wide shot"),
        5000,
        0,
        3_600_000,
        1000,
        " s",
        zero=tr("any time"),
    ),
    tr("without it. The picture changes"),
    Blank("ahead_ms", tr("How long before a voice the picture changes"), 40, 0, 1000, 1000, " s"),
    tr("before a voice."),
]
_PLACES = range(10, 19)  # key codes of the row of digits, whatever the layout writes with it


@guarded
class CameraPage(SentencePage):
    """Rules, pictures and lanes.

    Signals
    -------
    rules_changed(CameraRules)
    wanted(str)
        A command.
    camera_wanted(int)
        The number of a camera, from 1.
    """

    rules_changed = Signal(object)
    wanted = Signal(str)
    camera_wanted = Signal(int)

    def __init__(self, desk: Desk, rules: CameraRules) -> None:
        super().__init__(tr("Cameras"), _PARTS)
        self.rules = rules
        self.sentence.show_values(rules)
        self.sentence.changed.connect(self._changed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._fill_row()
        self.inside = QWidget()
        inner = QVBoxLayout(self.inside)
        inner.setContentsMargins(Space.EDGE, Space.APART, Space.EDGE, Space.APART)
        inner.setSpacing(Space.APART)
        self.monitors, self.lanes = CameraMonitors(desk), CameraLanes(desk)
        inner.addWidget(self.monitors)
        inner.addWidget(self.lanes)
        inner.addStretch(1)
        self.monitors.more.connect(self._fit_monitors)
        self.empty = label("", "quiet")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        self.empty.setContentsMargins(Space.PAGE, Space.PAGE, Space.PAGE, 0)
        self.empty.setWordWrap(True)
        self.box.addWidget(self.inside, 1)
        self.box.addWidget(self.empty, 1)

    def _fill_row(self) -> None:
        self.propose, self.play = button(tr("Cut the picture"), primary=True), button(tr("Play"))
        self.add, self.faces = button(tr("Add cameras")), button(tr("Find who is seen"))
        self.write, self.back = button(tr("Write")), button(tr("Back to the cut"))
        for one, command in (
            (self.propose, "cut_picture"),
            (self.play, "play_cut"),
            (self.add, "add_cameras"),
            (self.faces, "find_shown"),
            (self.write, "write_cut"),
            (self.back, "cameras"),
        ):
            one.clicked.connect(lambda _=False, name=command: self.wanted.emit(name))
            self.put(one)
        self.state = label("", "quiet")
        self.put_beside(self.state)

    def _fit_monitors(self) -> None:
        """Give the pictures what the lanes leave."""
        room = self.height() - self.inside.y() - self.lanes.height() - 3 * Space.APART
        self.monitors.fit(self.width() - 2 * Space.EDGE, room)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Arrange the pictures too."""
        super().resizeEvent(event)
        self._fit_monitors()

    def _changed(self, name: str, value: object) -> None:
        self.rules = replace(self.rules, **{name: value})
        self.rules_changed.emit(self.rules)

    def show_state(self, empty: str, state: str, *, cameras: int) -> None:
        """What an empty page says, and how the picture is cut."""
        self.empty.setText(empty)
        self.empty.setVisible(cameras == 0)
        self.inside.setVisible(cameras > 0)
        self.propose.setEnabled(cameras > 1)
        self.play.setEnabled(cameras > 0)
        self.faces.setEnabled(cameras > 1)
        self.write.setEnabled(cameras > 0)
        self.state.setText(state)
        self.fit()
        self._fit_monitors()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Digits show a camera from the playhead on; Backspace takes the last switch away."""
        number = 0
        if not event.modifiers() & ~(Qt.KeyboardModifier.KeypadModifier | Qt.KeyboardModifier.ShiftModifier):
            if event.text().isdecimal():
                number = int(event.text())
            elif event.nativeScanCode() in _PLACES and event.text():
                number = event.nativeScanCode() - _PLACES.start + 1
        if number:
            self.camera_wanted.emit(number)
        elif event.key() in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete):
            self.wanted.emit("forget_switch")
        else:
            super().keyPressEvent(event)
