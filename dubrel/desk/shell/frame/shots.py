"""Shot changes in Captions: found in the background, added and removed by hand."""

from __future__ import annotations

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import snap_to_frame
from dubrel.base.value import replace
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.model import Project

_NEAR_MS = 200


class Shots:
    """Looks for shot changes and lettering, once for each film."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.session = desk, desk.session
        self.looked_at: set[str] = set()

    def commands(self) -> list[Command]:
        """Find shot changes; add or remove one."""
        return [
            Command("find_shots", tr("Find the shot changes of the film"), "", self.find, self._no_film),
            Command(
                "shot_here",
                tr("Add or remove a shot change at the playhead"),
                "Alt+K",
                self.toggle,
                self._no_picture,
                ("strip",),
            ),
        ]

    def _no_picture(self) -> str:
        media = self.session.project.media
        return "" if media is not None and media.has_video else tr("There is no picture. Open a film first.")

    def _no_film(self) -> str:
        return self._no_picture() or self.desk.without_recording()

    def look_once(self) -> None:
        """Find shot changes unless they are known or were looked for."""
        media = self.session.project.media
        if media is None or media.shots is not None or self._no_film() or media.path in self.looked_at:
            return
        if not self.desk.jobs.busy and not self.session.read_only:
            self.looked_at.add(media.path)
            self.find()

    def find(self) -> None:
        """Find shot changes and lettering in the background."""
        self.desk.jobs.start_on_recording("shots", take=self._take)

    def _take(self, event: object) -> None:
        from dubrel.jobs.machinery.events import PicturesFound
        from dubrel.jobs.machinery.fold import arrival

        if isinstance(event, PicturesFound):
            self.desk.jobs.arrive("shots", arrival(event, 0))
            shots, letters = counted(len(event.shots), "shot change"), len(event.banners)
            more = (
                tr(" Lettering stands in the picture {times}.").format(times=counted(letters, "time"))
                if letters
                else ""
            )
            self.desk.say(tr("Found: {shots}.{more}").format(shots=shots, more=more))

    def toggle(self) -> None:
        """Remove the shot change at the playhead, or add one there."""
        ms = self.desk.player.position
        self.session.step(lambda project: shot_toggled(project, ms), tr("Change a shot change"))


def shot_toggled(project: Project, ms: int) -> Project:
    """The project without the shot change near a time, or with one there, on a frame."""
    media = project.media
    if media is None:
        return project
    shots = media.shots or ()
    near = min(shots, key=lambda one: abs(one - ms), default=None)
    if near is not None and abs(near - ms) <= _NEAR_MS:
        kept = tuple(one for one in shots if one != near)
    else:
        kept = tuple(sorted({*shots, snap_to_frame(ms, media.frame_rate)}))
    return replace(project, media=replace(media, shots=kept))
