"""What the cameras show at the playhead: all of them on their page, the one that is shown in the booth."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtGui import QImage

from dubrel.desk.shell.core.desk import Desk
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import Camera, Project

if TYPE_CHECKING:
    from dubrel.desk.cut.cameras.camerafeed import CameraFeed
    from dubrel.desk.cut.cameras.cameramonitors import Seen
    from dubrel.desk.cut.cameras.camerapage import CameraPage


def people_of(project: Project) -> list[tuple[str, str]]:
    """Ids and names of all speakers."""
    return [(one.id, shown_name(project, one.id)) for one in project.transcript.speakers]


class CameraShowing:
    """Keeps pictures and lanes at the playhead.

    Parameters
    ----------
    desk : Desk
    page : callable
        The page of cameras while it is shown.
    """

    def __init__(self, desk: Desk, page: Callable[[], CameraPage | None]) -> None:
        self.desk, self.session, self._page = desk, desk.session, page
        self._feed: CameraFeed | None = None
        self._images: dict[int, QImage] = {}  # the last of each camera
        desk.session.opened.connect(self._images.clear)

    @property
    def feed(self) -> CameraFeed:
        """What decodes pictures."""
        if self._feed is None:
            from dubrel.desk.cut.cameras.camerafeed import CameraFeed  # late: as above

            self._feed = CameraFeed(self.desk)
            self._feed.came.connect(self._came)
            self.desk.stopping.append(self._feed.stop)
        return self._feed

    def show(self, ms: int) -> None:
        """The playhead is elsewhere: pictures of the cameras there, in the booth of the one that is shown."""
        project = self.session.project
        seen = project.cameras.seen
        page = self._page()
        if not seen:
            self._show_in_booth(None)
            if self._feed is not None:
                self._feed.wish({}, 0)
            return
        shown = self._shown_at(ms)
        booth = shown if shown is not None and (shown.media is not None) else None
        wanted = seen if page is not None else [booth] if booth is not None else []
        self._wish([one for one in wanted if self.runs(one, ms)], shown, ms)
        self._show_in_booth(self._images.get(booth.id) if booth is not None else None)
        if page is not None:
            page.lanes.set_position(ms)
            page.monitors.show_cameras(self._monitors(ms, shown))

    def runs(self, camera: Camera, ms: float) -> bool:
        """Whether a camera runs at a time."""
        from dubrel.edits.cameras.camerashots import runs  # late: arrays

        return runs(camera, self.session.project.length_ms, ms, ms)

    def _shown_at(self, ms: int) -> Camera | None:
        """Which camera is shown: where the wished one does not run, the first one that does."""
        from dubrel.edits.cameras.camerashots import running  # late: arrays

        project = self.session.project
        wished = project.cameras.at(ms)
        if wished is not None and self.runs(wished, ms):
            return wished
        return running(project.cameras, project.length_ms, ms, ms)

    def _monitors(self, ms: int, shown: Camera | None) -> list[Seen]:
        from dubrel.desk.cut.cameras.cameramonitors import Seen  # late: as above

        names = dict(people_of(self.session.project))
        return [
            Seen(
                one.id,
                nth,
                one.name,
                ", ".join(names[who] for who in one.shows if who in names),
                self.runs(one, ms),
                one is shown,
            )
            for nth, one in enumerate(self.session.project.cameras.seen, 1)
        ]

    def _wish(self, cameras: list[Camera], shown: Camera | None, ms: int) -> None:
        from dubrel.desk.cut.cameras.camerafeed import Wish  # late: as above

        own = self.session.media_path
        wishes = {}
        for one in cameras:
            path = one.media.path if one.media is not None else str(own) if own is not None else ""
            if path:
                wishes[one.id] = Wish(path, one.own_ms(ms))
        if wishes or self._feed is not None:
            self.feed.wish(wishes, shown.id if shown is not None else 0)

    def _came(self, camera: int, image: QImage) -> None:
        self._images[camera] = image
        page = self._page()
        if page is not None:
            page.monitors.take(camera, image)
        shown = self._shown_at(self.desk.player.position) if self.session.project.cameras.all else None
        if shown is not None and shown.id == camera and shown.media is not None:
            self._show_in_booth(image)

    def _show_in_booth(self, image: QImage | None) -> None:
        if hasattr(self.desk, "picture"):
            self.desk.picture().show_camera(image)
