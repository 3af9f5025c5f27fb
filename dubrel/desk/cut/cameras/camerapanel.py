"""In the booth: the camera that is chosen, whom it shows, when it ran, and what can be done with it."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QGridLayout, QVBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.model import Camera

_SURE_PPM = 0.5


@guarded
class CameraPanel(QWidget):
    """What is known of a camera.

    Signals
    -------
    wanted(str)
        A command.
    shows_changed(list of str)
        Ids of the speakers whom it shows.
    """

    wanted = Signal(str)
    shows_changed = Signal(list)

    def __init__(self) -> None:
        super().__init__()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, Space.TIGHT, 0, 0)
        box.setSpacing(Space.NEAR)
        self.heading, self.when = label("", "section"), label("", "quiet")
        self.shows = label(tr("Shows"))
        for text in (self.heading, self.when):
            text.setWordWrap(True)
            box.addWidget(text)
        box.addWidget(self.shows)
        self.people = QWidget()
        self._people = QVBoxLayout(self.people)
        self._people.setContentsMargins(0, 0, 0, 0)
        self._people.setSpacing(Space.TIGHT)
        box.addWidget(self.people)
        self.everybody = label(tr("Nobody is ticked: this is the wide shot."), "quiet")
        self.everybody.setWordWrap(True)
        box.addWidget(self.everybody)
        self.acts = QWidget()
        grid = QGridLayout(self.acts)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(Space.CLOSE)
        self.rename, self.remove = button(tr("Rename")), button(tr("Remove"))
        self.earlier, self.later = button(tr("A frame earlier")), button(tr("A frame later"))
        self.sound = button(tr("Use its sound"))
        for place, (one, command) in enumerate(
            (
                (self.earlier, "camera_earlier"),
                (self.later, "camera_later"),
                (self.rename, "rename_camera"),
                (self.remove, "remove_camera"),
                (self.sound, "take_sound"),
            )
        ):
            one.clicked.connect(lambda _=False, name=command: self.wanted.emit(name))
            grid.addWidget(one, place // 2, place % 2)
        box.addWidget(self.acts)
        box.addStretch(1)
        self.boxes: list[tuple[str, QCheckBox]] = []

    def show_camera(self, camera: Camera | None, people: Sequence[tuple[str, str]]) -> None:
        """Show a camera, and who could be seen: ids and names."""
        for one in (self.heading, self.when, self.shows, self.people, self.everybody, self.acts):
            one.setVisible(camera is not None)
        if camera is None:
            return
        self.heading.setText(camera.name)
        self.when.setText(_told(camera))
        film = camera.media is not None
        for one in (self.earlier, self.later, self.remove):
            one.setVisible(film)
        self.sound.setVisible(film and bool(camera.media and camera.media.has_audio))
        if [(one, made.text()) for one, made in self.boxes] != list(people):
            self._fill(people)
        for who, made in self.boxes:
            made.blockSignals(True)
            made.setChecked(who in camera.shows)
            made.blockSignals(False)
        seen = camera.seen
        self.shows.setVisible(seen and bool(people))
        self.people.setVisible(seen and bool(people))
        self.everybody.setVisible(seen and not camera.shows and bool(people))

    def _fill(self, people: Sequence[tuple[str, str]]) -> None:
        for _, made in self.boxes:
            made.deleteLater()
        self.boxes = []
        for who, name in people:
            made = QCheckBox(name)
            made.setAccessibleName(tr("Shows {name}").format(name=name))
            made.toggled.connect(self._ticked)
            self._people.addWidget(made)
            self.boxes.append((who, made))

    def _ticked(self) -> None:
        self.shows_changed.emit([who for who, made in self.boxes if made.isChecked()])


def _told(camera: Camera) -> str:
    """When it ran, and how its clock goes."""
    if camera.media is None:
        return tr("The picture of the recording itself.")
    starts = format_clock(abs(round(camera.starts_ms)), digits=3)
    when = (
        tr("starts {starts} before the recording").format(starts=starts)
        if camera.starts_ms < 0
        else tr("starts at {starts}").format(starts=starts)
    )
    ppm = (camera.rate - 1) * 1e6
    clock = (
        tr("its clock is {ppm:.0f} ppm {what}").format(ppm=abs(ppm), what="slow" if ppm > 0 else "fast")
        if abs(ppm) >= _SURE_PPM
        else ""
    )
    sound = "" if camera.seen else tr("a recorder, sound only")
    text = ", ".join(filter(None, (when, clock, sound)))
    return f"{camera.media.name}: {text}."
