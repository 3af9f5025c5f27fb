"""The commands of cameras, and what speaks against each."""

from __future__ import annotations

from functools import partial
from typing import Protocol

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.shell.core.session import Session
from dubrel.model import Camera

MOST_KEYS = 9


class _Cutting(Protocol):
    """What can be done with cameras."""

    session: Session
    desk: Desk

    @property
    def chosen(self) -> Camera | None: ...
    def open(self) -> None: ...
    def add(self) -> None: ...
    def find_shown(self) -> None: ...
    def propose(self) -> None: ...
    def show_camera(self, number: int) -> None: ...
    def forget(self) -> None: ...
    def nudge(self, frames: int) -> None: ...
    def choose_next(self) -> None: ...
    def rename(self) -> None: ...
    def remove(self) -> None: ...
    def place(self, frames: int) -> None: ...
    def take_sound(self) -> None: ...


class CameraCommands:
    """The commands of cameras.

    Parameters
    ----------
    of : CameraCutting
        What does them.
    """

    def __init__(self, of: _Cutting) -> None:
        self._of = of

    def all(self) -> list[Command]:
        """The commands, each with what speaks against it now."""
        of = self._of
        there, two = self._no_cameras, self._no_two
        own = first(there, self._no_film)
        return [
            Command(
                "cameras",
                tr("Show the cameras, or the cut again"),
                "Ctrl+Shift+F11",
                of.open,
                self._nothing,
            ),
            Command("add_cameras", tr("Add cameras and recorders of the event"), "", of.add, self._no_sound),
            Command("find_shown", tr("Find whom each camera shows, by the faces"), "", of.find_shown, two),
            Command("cut_picture", tr("Cut the picture so that it shows who speaks"), "", of.propose, two),
            *(
                Command(
                    f"camera_{number}",
                    tr("Show camera {number} from here on").format(number=number),
                    "",
                    partial(of.show_camera, number),
                    partial(self.no_number, number),
                )
                for number in range(1, MOST_KEYS + 1)
            ),
            Command("forget_switch", tr("Remove the last camera switch"), "", of.forget, self._no_switch),
            Command(
                "switch_earlier",
                tr("Switch the camera a frame earlier"),
                "",
                partial(of.nudge, -1),
                self._no_switch,
            ),
            Command(
                "switch_later",
                tr("Switch the camera a frame later"),
                "",
                partial(of.nudge, 1),
                self._no_switch,
            ),
            Command("next_camera", tr("Choose the next camera"), "", of.choose_next, there),
            Command("rename_camera", tr("Rename the camera"), "", of.rename, there),
            Command("remove_camera", tr("Remove the camera"), "", of.remove, own),
            Command("camera_earlier", tr("Place the camera a frame earlier"), "", partial(of.place, -1), own),
            Command("camera_later", tr("Place the camera a frame later"), "", partial(of.place, 1), own),
            Command("take_sound", tr("Use the sound of the camera as the recording"), "", of.take_sound, own),
        ]

    def _nothing(self) -> str:
        return "" if self._of.session.project.length_ms else tr("There is no recording. Open one first.")

    def _no_sound(self) -> str:
        return self._of.desk.without_recording() or self._of.desk.without_sound()

    def _no_cameras(self) -> str:
        there = bool(self._of.session.project.cameras.all)
        return "" if there else tr("There is no other camera yet. Add one first.")

    def _no_two(self) -> str:
        there = len(self._of.session.project.cameras.seen) > 1
        return "" if there else tr("There is no other camera yet. Add one first.")

    def no_number(self, number: int) -> str:
        """What speaks against showing a camera."""
        there = len(self._of.session.project.cameras.seen) >= number
        return self._no_two() or (
            "" if there else tr("There is no camera {number}. Choose another one.").format(number=number)
        )

    def _no_film(self) -> str:
        chosen = self._of.chosen
        film = chosen is not None and chosen.media is not None
        return "" if film else tr("That is the picture of the recording itself. Choose another camera.")

    def _no_switch(self) -> str:
        switches, now = self._of.session.project.cameras.switches, self._of.desk.player.position
        there = any(one.ms <= now for one in switches)
        return self._no_cameras() or (
            "" if there else tr("No other camera is shown up to here. Show one first.")
        )
