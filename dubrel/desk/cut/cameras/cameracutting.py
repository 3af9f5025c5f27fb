"""What is done with cameras: brought in, shown by key, cut by rules; and what the booth shows of them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.timecode import frames_to_ms, ms_to_frames
from dubrel.base.value import replace
from dubrel.desk.cut.cameras.cameracommands import MOST_KEYS, CameraCommands
from dubrel.desk.cut.cameras.camerashowing import CameraShowing, people_of
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.session import Session
from dubrel.model import Camera, Cut, CutPassage, Project, Switch
from dubrel.model.cameras import CameraRules
from dubrel.project.changes import Change

if TYPE_CHECKING:
    from dubrel.desk.cut.cameras.camerapage import CameraPage
    from dubrel.desk.cut.cameras.camerapanel import CameraPanel
    from dubrel.jobs.machinery.events import Event

HINTS = (
    ("cut_picture", tr("cut the picture")),
    ("forget_switch", tr("remove a switch")),
    ("play", tr("play")),
    ("undo", tr("undo")),
)
_OF_THE_RECORDING = (
    "read",
    "transcribe",
    "live",
    "align",
    "survey",
    "speakers",
    "shots",
    "sounds",
    "clips",
    "faces",
    "cameras",
    "shown",
    "audit",
    "compare",
)
"""Jobs whose results are times of the recording that they began with."""


class CamerasIn(Protocol):
    """What the view of cameras knows of the pass in which it stands."""

    id: str
    desk: Desk
    session: Session
    ask: Any
    hints: tuple[tuple[str, str], ...]

    @property
    def cut(self) -> Cut | None:
        """The cut that is shown."""

    @property
    def cut_or_all(self) -> Cut | None:
        """The same, or all of the recording where there is none."""


class CameraCutting:
    """The view of cameras in Cut.

    Parameters
    ----------
    room : CamerasIn
    leave_others : callable
        Called before cameras take the place of what else is shown.
    """

    def __init__(self, room: CamerasIn, leave_others: Callable[[], object]) -> None:
        self.room, self.desk, self.session = room, room.desk, room.session
        self._leave_others = leave_others
        self.on = False
        self.rules = CameraRules()
        self._page: CameraPage | None = None
        self._panel: CameraPanel | None = None
        self._chosen = 0
        self._proposing = Background(self.desk, until=self.session.opened, newest=True)
        self.session.opened.connect(self._opened)
        self.session.changed.connect(self._changed)
        self.showing = CameraShowing(self.desk, self._page_shown)
        self.desk.player.moved.connect(self.showing.show)

    # -- parts -------------------------------------------------------------------------------

    @property
    def page(self) -> CameraPage:
        """Rules, pictures and lanes."""
        if self._page is None:
            from dubrel.desk.cut.cameras.camerapage import CameraPage  # late: the window opens without it

            made = self._page = CameraPage(self.desk, self.rules)
            made.rules_changed.connect(self._set_rules)
            made.wanted.connect(lambda name: self.desk.commands.run(name))
            made.camera_wanted.connect(self.show_camera)
            made.monitors.chosen.connect(self._show)
            made.lanes.seek_wanted.connect(self.desk.player.seek)
            made.lanes.camera_chosen.connect(self.choose)
            made.lanes.switch_moved.connect(self._drag)
            made.lanes.switch_dropped.connect(lambda: self.session.history.seal())
        return self._page

    @property
    def panel(self) -> CameraPanel:
        """The camera that is chosen."""
        if self._panel is None:
            from dubrel.desk.cut.cameras.camerapanel import CameraPanel  # late: as above

            self._panel = CameraPanel()
            self._panel.wanted.connect(lambda name: self.desk.commands.run(name))
            self._panel.shows_changed.connect(self._set_shows)
            self._show_chosen()
        return self._panel

    @property
    def chosen(self) -> Camera | None:
        """The camera that the booth tells of."""
        cameras = self.session.project.cameras
        return cameras.camera(self._chosen) or next(iter(cameras.all), None)

    # -- shown -------------------------------------------------------------------------------

    def open(self) -> None:
        """Show cameras, or the cut again."""
        on = not (self.on and self.desk.room == self.room.id)
        if on:
            self._leave_others()
        self.set_on(on)
        self.desk.go(self.room.id)
        if on:
            self.page.setFocus()
            self.refresh()

    def set_on(self, on: bool) -> None:
        """Whether cameras are what Cut shows."""
        self.on = on
        self.room.hints = HINTS if on else type(self.room).hints
        if not on:
            self.showing.show(self.desk.player.position)

    def _opened(self) -> None:
        self.set_on(False)
        self._chosen = 0
        if self._page is not None:
            self._page.monitors.forget()

    def _changed(self, change: Change) -> None:
        cameras = change.old.cameras is not change.new.cameras or change.old.media is not change.new.media
        if cameras:
            self.showing.show(self.desk.player.position)
        if self.on and (cameras or change.speakers or change.old.cuts is not change.new.cuts):
            self.refresh()

    def refresh(self) -> None:
        """Show cameras and switches as they are."""
        if not self.on or self.desk.room != self.room.id:
            return
        project, cut = self.session.project, self.room.cut
        shots = self._shots()
        self.page.show_state(self._why_empty(), self._state(len(shots)), cameras=len(project.cameras.seen))
        self.page.lanes.show_cameras(project.cameras, shots, project.length_ms or 0, cut, self._chosen_id())
        self._show_chosen()
        self.showing.show(self.desk.player.position)

    def _why_empty(self) -> str:
        if reason := self.desk.without_recording():
            return reason
        return tr(
            "No other camera yet. Add films and recorders of the same event: their sound says when they ran."
        )

    def _state(self, shots: int) -> str:
        cameras = min(MOST_KEYS, len(self.session.project.cameras.seen))
        return (
            tr("{shots}; 1 to {cameras} show a camera").format(shots=counted(shots, "shot"), cameras=cameras)
            if cameras > 1
            else ""
        )

    def _shots(self) -> list[tuple[float, float, int]]:
        """What is shown from when to when, in time of the whole recording, and of which camera."""
        from dubrel.edits.cameras.camerashots import camera_shots  # late: arrays

        project = self.session.project
        rate, long = project.frame_rate, project.length_ms
        if rate is None or not long or not project.cameras.seen:
            return []
        whole, step = Cut(0, "", (CutPassage(0, long),)), float(1000 / rate)
        return [
            (one.first * step, one.after * step, one.camera) for one in camera_shots(project, whole, rate)
        ]

    def _chosen_id(self) -> int:
        return self.chosen.id if self.chosen is not None else 0

    def _page_shown(self) -> CameraPage | None:
        return self._page if self.on and self.desk.room == self.room.id else None

    def _show_chosen(self) -> None:
        if self._panel is not None:
            self._panel.show_camera(self.chosen, people_of(self.session.project))

    def commands(self) -> list[Command]:
        """What can be done with cameras."""
        return CameraCommands(self).all()

    def add(self) -> None:
        """Ask for films and recorders, and find out when they ran."""
        if self.desk.jobs.runs("cameras"):
            raise DubrelError(
                tr("Cameras are being added already. Wait until that is done, or cancel it first.")
            )
        history = self.session.history
        paths = self.room.ask.camera_files()
        if not paths or self.session.history is not history:
            return
        if not self.on:
            self.open()
        self.bring(paths)

    def bring(self, paths: list[Path]) -> None:
        """Find out when films and recorders ran, and take them in."""
        found: list[Event] = []

        def ended(whole: bool) -> None:
            if whole and found:
                self._take(found[-1])

        self.desk.jobs.start_on_recording("cameras", paths, take=found.append, ended=ended)

    def _take(self, event: Event) -> None:
        from dubrel.edits.cameras.gathering import with_cameras  # late: arrays
        from dubrel.jobs.machinery.events import CamerasFound

        if not isinstance(event, CamerasFound):
            return
        self.session.step(lambda now: with_cameras(now, event.found), tr("Add cameras"))
        many = counted(len(event.found), "file was", "files were")
        self.desk.say(
            tr("{many} found by the sound. Tick in the booth whom each camera shows.").format(many=many)
        )

    def find_shown(self) -> None:
        """Find out by the faces whom each camera shows."""
        if self.desk.jobs.runs("shown"):
            raise DubrelError(
                tr("Faces are being looked for already. Wait until that is done, or cancel it first.")
            )
        recording = self.session.recording
        if recording is None:
            raise DubrelError(self.desk.without_recording())
        project = replace(self.session.project, media=recording, index=None)
        self.desk.jobs.start("shown", project, take=self.take_shown)

    def take_shown(self, event: Event) -> None:
        """Take who is seen by which camera."""
        from dubrel.edits.cameras.gathering import camera_changed  # late: arrays
        from dubrel.jobs.machinery.events import ShownFound

        if not isinstance(event, ShownFound) or not event.found:
            return

        def take(now: Project) -> Project:
            there = {one.id for one in now.transcript.speakers}  # some may be others by now
            for camera_id, people in event.found:
                if there.issuperset(people):
                    now = camera_changed(now, camera_id, shows=people)
            return now

        self.session.step(take, tr("Say whom the cameras show"))
        told = counted(len(event.found), "camera")
        self.desk.say(
            tr("Whom {told} show{what} was found by the faces.").format(
                told=told, what="s" if len(event.found) == 1 else ""
            )
        )

    def propose(self) -> None:
        """Cut the picture by the rules, for the cut that is shown or for all of the recording."""
        from dubrel.edits.cameras.picturecut import with_proposal  # late: arrays

        project, rules = self.session.project, self.rules
        cut = self.room.cut_or_all
        if cut is None:
            return
        laughter = self._laughter()

        def take(made: Project) -> None:
            if self.session.project is not project:
                self.propose()  # something arrived meanwhile
                return
            self.session.apply(made, tr("Cut the picture"), base=project)
            shots = counted(made.cameras.shots, "shot")
            nobody = not any(one.shows for one in made.cameras.seen)
            hint = (
                tr(" Say in the booth whom each camera shows, and it can show who speaks.") if nobody else ""
            )
            self.desk.say(
                tr("The picture is cut: {shots}. Ctrl+Z undoes it.{hint}").format(shots=shots, hint=hint)
            )

        self._proposing.ask(lambda: with_proposal(project, cut, rules, laughter), take, self._failed)

    def _failed(self, error: Exception) -> None:
        if not isinstance(error, DubrelError):
            raise error
        self.desk.say(str(error))

    def _laughter(self) -> list[tuple[int, int]]:
        from dubrel.jobs.cuts.clipsound import heard_in  # late: arrays

        heard = heard_in(self.session.recording) if self.session.has_recording else None
        return [(one.start_ms, one.end_ms) for one in heard.lively] if heard else []

    def show_camera(self, number: int) -> None:
        """Show a camera by its number from the playhead on."""
        reason = CameraCommands(self).no_number(number)
        if reason:
            self.desk.say(reason)
            return
        self._show(self.session.project.cameras.seen[number - 1].id)

    def _show(self, camera_id: int) -> None:
        from dubrel.edits.cameras.switching import switched  # late: arrays

        camera = self.session.project.cameras.camera(camera_id)
        if camera is None:
            return
        self._chosen = camera_id
        ms = self.desk.player.position
        self.session.step(
            lambda now: switched(now, ms, camera_id), tr("Show “{name}”").format(name=camera.name)
        )
        if not self.showing.runs(camera, ms):
            self.desk.say(
                tr("“{name}” does not run here. It is shown from where it does.").format(name=camera.name)
            )
        self.refresh()

    def forget(self) -> None:
        """Take the last switch at or before the playhead away."""
        from dubrel.edits.cameras.switching import unswitched  # late: arrays

        ms = self.desk.player.position
        self.session.step(lambda now: unswitched(now, ms), tr("Remove a switch"))

    def nudge(self, frames: int) -> None:
        """Move the last switch at or before the playhead by a frame."""
        from dubrel.edits.cameras.switching import switch_at  # late: arrays

        project = self.session.project
        switch = switch_at(project, self.desk.player.position)
        if switch is not None and project.frame_rate is not None:
            frame = ms_to_frames(switch.ms, project.frame_rate) + frames
            self._drag(switch, frames_to_ms(max(0, frame), project.frame_rate))

    def _drag(self, switch: Switch, ms: int) -> None:
        from dubrel.edits.cameras.switching import switch_moved  # late: arrays

        rows = self.session.project.cameras.switches
        key = f"switch-{switch.camera}-{rows.index(switch)}" if switch in rows else None
        self.session.step(lambda now: switch_moved(now, switch, ms), tr("Move a switch"), key=key)

    # -- one camera ----------------------------------------------------------------------------

    def choose(self, camera_id: int) -> None:
        """Choose the camera that the panel is about."""
        self._chosen = camera_id
        self.refresh()

    def choose_next(self) -> None:
        """Tell of the next camera in the booth."""
        ids = [one.id for one in self.session.project.cameras.all]
        now = self._chosen_id()
        self.choose(ids[(ids.index(now) + 1) % len(ids)] if now in ids else ids[0])

    def _set_rules(self, rules: CameraRules) -> None:
        self.rules = rules

    def _set_shows(self, people: list[str]) -> None:
        from dubrel.edits.cameras.gathering import camera_changed  # late: arrays

        chosen = self._chosen_id()
        self.session.step(
            lambda now: camera_changed(now, chosen, shows=people), tr("Say whom a camera shows")
        )

    def rename(self) -> None:
        """Ask for another name."""
        from dubrel.edits.cameras.gathering import camera_changed  # late: arrays

        chosen, history = self.chosen, self.session.history
        if chosen is None:
            return
        name = self.room.ask.cut_name(tr("Rename the camera"), chosen.name)
        if name is not None:
            self.session.step(
                lambda now: camera_changed(now, chosen.id, name=name), tr("Rename a camera"), within=history
            )

    def remove(self) -> None:
        """Take the camera away; its film stays where it is."""
        from dubrel.edits.cameras.gathering import without_camera  # late: arrays

        chosen = self.chosen
        if chosen is not None:
            self.session.step(
                lambda now: without_camera(now, chosen.id), tr("Remove “{name}”").format(name=chosen.name)
            )

    def place(self, frames: int) -> None:
        """Place the camera a frame earlier or later than its sound says."""
        from dubrel.edits.cameras.gathering import camera_changed  # late: arrays

        chosen, rate = self.chosen, self.session.project.frame_rate
        if chosen is None or rate is None:
            return
        starts = chosen.starts_ms + frames * float(1000 / rate)
        self.session.step(
            lambda now: camera_changed(now, chosen.id, starts_ms=starts),
            tr("Place a camera"),
            key=f"camera-{chosen.id}",
        )

    def take_sound(self) -> None:
        """Make the sound of the camera the recording; the one of before is a camera then."""
        from dubrel.edits.cameras.gathering import sound_from  # late: arrays

        chosen = self.chosen
        if chosen is None or chosen.media is None:
            return
        if self.desk.jobs.runs(*_OF_THE_RECORDING):
            raise DubrelError(
                tr("The recording is still being worked on. Wait until that is done, or cancel it.")
            )
        if not Path(chosen.media.path).is_file():
            raise DubrelError(
                tr("The film of “{name}” is not where it was. Put it there again first.").format(
                    name=chosen.name
                )
            )
        project = self.session.project
        made = sound_from(project, chosen.id)
        self.session.apply(made, tr("Use the sound of “{name}”").format(name=chosen.name), base=project)
        self.desk.say(
            tr("“{name}” is the sound now. Words and captions keep their moments.").format(name=chosen.name)
        )
