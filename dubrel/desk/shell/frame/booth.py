"""The booth at the right: picture, play controls, and the panel of the room that is shown."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.player import SPEEDS, STEP_MS
from dubrel.desk.shell.frame.picture import Picture
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.icons import icon
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.stack import Stack
from dubrel.desk.shell.kit.theme import Space, Theme
from dubrel.desk.shell.kit.widgets import label, scroll, scrolling
from dubrel.project.changes import Change


@guarded
class Booth(QWidget):
    """Picture, controls and panel."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.session, self.player, self.theme = desk.session, desk.player, desk.theme
        self.controls = desk.controls
        fixed(self.setFixedWidth, 296)
        self.setAccessibleName(tr("Booth"))
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(Space.APART)
        self.head = QWidget()
        box = QVBoxLayout(self.head)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(Space.APART)
        self.picture = Picture(self.session, self.theme)
        self._video = False
        box.addWidget(self.picture)
        box.addLayout(self._controls())
        whole.addWidget(self.head)
        self.panels = Stack()
        self._nothing = QWidget()
        self._scrolled: dict[QWidget, QScrollArea] = {}
        self.panels.add_page(self._nothing)
        whole.addWidget(self.panels, 1)
        self.player.moved.connect(self._on_moved)
        self.player.state_changed.connect(self._on_state)
        self.player.speed_changed.connect(self._on_speed)
        self.session.traced.connect(self.picture.update)
        self.session.changed.connect(lambda _change: self.picture.refresh())
        self.session.opened.connect(self.picture.update)
        self.session.changed.connect(self._follow_track)

    def _follow_track(self, change: Change) -> None:
        """Play the sound track that is the sound of the recording."""
        media = change.new.media
        self.player.set_track(media.sound[0] if media is not None and media.sound else 0)

    def take_picture(self) -> None:
        """Put the picture back that was shown elsewhere."""
        box = self.head.layout()
        assert isinstance(box, QVBoxLayout)
        box.insertWidget(0, self.picture)
        self.picture.fit(self.size())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Give the picture its share."""
        self.picture.fit(self.size())
        super().resizeEvent(event)

    def _tool(self, name: str, text: str) -> QToolButton:
        made = QToolButton()
        made.setIconSize(QSize(16, 16))
        made.setAccessibleName(text)
        made.setToolTip(text)
        made.setProperty("icon_name", name)
        made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return made

    def _controls(self) -> QVBoxLayout:
        both = QVBoxLayout()
        row = QHBoxLayout()
        row.setSpacing(Space.CLOSE)
        self.back = self._tool("back", tr("Back 5 seconds"))
        self.play = self._tool("play", tr("Play"))
        self.forward = self._tool("forward", tr("Forward 5 seconds"))
        self.clock = label("00:00:00.00", "clock")
        row.addWidget(self.back)
        row.addWidget(self.play)
        row.addWidget(self.forward)
        row.addStretch(1)
        row.addWidget(self.clock)
        both.addLayout(row)
        second = QHBoxLayout()
        self.speed = QComboBox()
        self.speed.setAccessibleName(tr("Speed"))
        for speed in SPEEDS:
            self.speed.addItem(f"{speed:.2f} ×", speed)
        self.speed.setCurrentIndex(SPEEDS.index(1.0))
        self.speed.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.loop = QToolButton()
        self.loop.setText(tr("Loop turn"))
        self.loop.setToolTip(tr("Play the turn again and again"))
        self.loop.setCheckable(True)
        self.loop.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        second.addWidget(self.speed)
        second.addWidget(self.loop)
        second.addStretch(1)
        both.addLayout(second)
        for more in self.controls:
            both.addWidget(more)
        self.set_theme(self.theme)
        self.back.clicked.connect(lambda: self.player.step(-STEP_MS))
        self.forward.clicked.connect(lambda: self.player.step(STEP_MS))
        self.play.clicked.connect(self.player.toggle)
        self.speed.currentIndexChanged.connect(lambda: self.player.set_speed(self.speed.currentData()))
        return both

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.theme = theme
        self.picture.theme = theme
        for tool in (self.back, self.forward):
            tool.setIcon(icon(tool.property("icon_name"), theme.colour("ink")))
        self._on_state(self.player.playing)
        self.picture.update()

    def show_panel(self, panel: QWidget | None) -> None:
        """Show a room's panel, or nothing."""
        if panel is None:
            self.panels.show_page(self._nothing)
            return
        self.add_panel(panel)
        self.panels.show_page(self._scrolled[panel])

    def add_panel(self, panel: QWidget) -> None:
        """Put a room's panel with the others, once."""
        if panel not in self._scrolled:
            area = self._scrolled[panel] = scrolling()
            self.panels.add_page(area)  # first: what is moved with all that stands on it is dressed anew
            scroll(area, panel)
            panel.setAutoFillBackground(False)

    def show_video(self) -> None:
        """Let the player's frames arrive in the picture."""
        if not self._video:
            self.player.sink.videoFrameChanged.connect(self.picture.set_frame)
            self._video = True
        self.player.engine().pause()

    def _on_moved(self, ms: int) -> None:
        self.clock.setText(format_clock(ms, digits=2))
        self.picture.set_position(ms)

    def _on_speed(self, speed: float) -> None:
        self.speed.setCurrentIndex(SPEEDS.index(speed))

    def _on_state(self, playing: bool) -> None:
        name, said = ("pause", tr("Pause")) if playing else ("play", tr("Play"))
        self.play.setIcon(icon(name, self.theme.colour("live")))
        self.play.setAccessibleName(said)
        self.play.setToolTip(said)
