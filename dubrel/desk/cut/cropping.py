"""The crop of an upright or square film: shown in the booth, dragged, moved by key."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from dubrel.base.catalogue import counted, tr
from dubrel.base.value import replace
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.edits.framing import followed, framed, key_at, panning, unframed
from dubrel.model import Cut

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Event

_STEP = 4.0  # percent of the picture
_NAMES = {"upright": tr("upright, 9:16"), "square": "square", "portrait": tr("portrait, 4:5"), "": "whole"}


class Cropping:
    """What is done with the part of the picture that is shown.

    Parameters
    ----------
    desk : Desk
    clip : callable
        The clip that is chosen, where clips are shown.
    """

    def __init__(self, desk: Desk, clip: Callable[[], Cut | None]) -> None:
        self.desk, self.session, self._clip = desk, desk.session, clip
        self._name = ""
        self._joined = False
        desk.session.opened.connect(self._opened)

    def _opened(self) -> None:
        if self._name:
            self._show("")

    def commands(self) -> list[Command]:
        """What can be done, with the first keys."""
        video, here = self._no_picture, self._no_key
        return [
            Command("crop", tr("Show the picture upright, square, 4:5 or whole"), "", self.next_shape, video),
            Command("follow_faces", tr("Let the crop follow who speaks"), "", self.follow, self._can_follow),
            Command(
                "crop_left", tr("Move the crop to the left"), "", partial(self.move, -_STEP), self._no_crop
            ),
            Command(
                "crop_right", tr("Move the crop to the right"), "", partial(self.move, _STEP), self._no_crop
            ),
            Command("crop_pans", tr("Let the crop move there, or jump there"), "", self.pans, here),
            Command("crop_here", tr("Remove the last position of the crop"), "", self.forget, here),
        ]

    def _can_follow(self) -> str:
        return self._no_picture() or self.desk.without_recording()

    def follow(self) -> None:
        """Let the crop follow who speaks: in the clip that is chosen, or in the whole film."""
        if self.desk.jobs.runs("faces"):
            self.desk.say(
                tr("Faces are being looked for already. Wait until that is done, or cancel it first.")
            )
            return
        clip = self._clip()
        spans = [(one.start_ms, one.end_ms) for one in clip.passages] if clip is not None else []
        start, end = (min(a for a, _ in spans), max(b for _, b in spans)) if spans else (0, 0)
        project = replace(self.session.project, media=self.session.recording, index=None)
        if not self._name:
            self._show("upright")
        self.desk.jobs.start("faces", project, start, end, take=self._found)

    def _found(self, event: Event) -> None:
        from dubrel.jobs.machinery.events import CropFound  # late: the window opens without it

        if isinstance(event, CropFound) and event.keys:
            keys, start, end = event.keys, event.start_ms, event.end_ms
            self.session.step(lambda now: followed(now, start, end, keys), tr("Follow who speaks"))
            self.desk.say(
                tr("The crop follows who speaks: {places}. Ctrl+Z undoes it.").format(
                    places=counted(len(keys), "place")
                )
            )
            self.desk.picture().update()

    def _no_picture(self) -> str:
        return "" if self.session.project.has_picture else tr("The recording has no picture.")

    def _no_crop(self) -> str:
        return self._no_picture() or ("" if self._name else tr("Show the picture upright or square first."))

    def _no_key(self) -> str:
        there = key_at(self.session.project, self.desk.player.position) is not None
        return self._no_picture() or ("" if there else tr("The crop is in the middle here. Move it first."))

    def next_shape(self) -> None:
        """Show the next shape."""
        names = list(_NAMES)
        self._show(names[(names.index(self._name) + 1) % len(names)])
        self.desk.say(tr("The picture is {names}.").format(names=_NAMES[self._name]))

    def _show(self, name: str) -> None:
        from dubrel.film.reshaping import SHAPES  # late: arrays, which opening a window does without

        picture = self.desk.picture()
        if not self._joined:
            self._joined = True
            picture.framed.connect(self._dragged)
        self._name, picture.shape = name, SHAPES[name]
        picture.update()

    def _dragged(self, x: float, y: float) -> None:
        ms = self.desk.player.position
        self.session.step(lambda now: framed(now, ms, x, y), tr("Move the crop"), key=f"crop-{ms}")
        self.desk.picture().update()

    def move(self, by: float) -> None:
        """Move the crop by a step from the playhead on."""
        x, y = self.session.project.framing.at(self.desk.player.position)
        self._dragged(x + by, y)

    def pans(self) -> None:
        """Let the crop move where it was put last, or be there at once."""
        ms = self.desk.player.position
        self.session.step(lambda now: panning(now, ms), tr("Change how the crop moves"))
        key = key_at(self.session.project, ms)
        self.desk.say(
            tr("The crop moves there now.") if key and key.pans else tr("The crop jumps there now.")
        )
        self.desk.picture().update()

    def forget(self) -> None:
        """Take the last place of the crop away."""
        ms = self.desk.player.position
        self.session.step(lambda now: unframed(now, ms), tr("Remove a position of the crop"))
        self.desk.picture().update()
