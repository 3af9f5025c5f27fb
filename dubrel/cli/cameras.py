"""``dubrel cameras``."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import TYPE_CHECKING, Any

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.cli.common import (
    Subcommands,
    add_cut,
    add_json,
    add_quiet,
    cut_named,
    read_input,
    shown,
    with_media,
)

if TYPE_CHECKING:
    from dubrel.model import Cut, Project
    from dubrel.model.cameras import CameraRules

COMMANDS = ("cameras",)


def add_to(commands: Subcommands) -> None:
    """Add the command."""
    cameras = commands.add_parser(
        "cameras", help="bring several cameras together, and choose who is shown when"
    )
    cameras.add_argument("input", type=Path, metavar="PROJECT", help="a project or a transcript")
    cameras.add_argument(
        "films", type=Path, nargs="*", metavar="FILE", help="films and recorders of the event"
    )
    cameras.add_argument(
        "-o",
        "--output",
        type=Path,
        action="append",
        required=True,
        metavar="OUT",
        help="the form follows the suffix: .dubrel .otio .otioz .edl .csv or film; more than once",
    )
    cameras.add_argument(
        "--shows",
        action="append",
        default=[],
        metavar="CAMERA=WHO",
        help="whom a camera shows, names separated by commas; may be given more than once",
    )
    cameras.add_argument("--faces", action="store_true", help="find whom each camera shows, by their faces")
    cameras.add_argument("--sound", metavar="CAMERA", help="the camera or recorder whose sound is used")
    cameras.add_argument("--propose", action="store_true", help="cut the picture so that it shows who speaks")
    cameras.add_argument("--shortest", type=float, default=2.0, metavar="S", help="shortest shot (2)")
    cameras.add_argument(
        "--wide", type=float, default=40.0, metavar="S", help="the wide shot after so long, 0 for never (40)"
    )
    add_cut(cameras)
    cameras.add_argument("--media", type=Path, metavar="FILE", help="the recording that the words belong to")
    add_json(cameras)
    add_quiet(cameras)
    cameras.set_defaults(run=_cameras)


def _cameras(args: argparse.Namespace) -> int:
    from dubrel.base.files import try_writing
    from dubrel.cli.cut import refuse_unknown, write_cut
    from dubrel.edits.cameras.gathering import sound_from
    from dubrel.edits.cameras.picturecut import with_proposal

    rules = _rules(args)
    for path in args.output:
        refuse_unknown(path)
        try_writing(path)
    project = with_media(read_input(args.input, args.quiet), args.media)
    project = _gathered(project, args)
    if args.faces:
        project = _with_faces(project, args.quiet)
    for text in args.shows:
        project = _shown(project, text)
    if args.sound:
        project = sound_from(project, _camera_named(project, args.sound))
    if args.cut:
        cut = cut_named(project, args.cut)
    else:
        project, cut = _whole(project)
    if args.propose:
        project = with_proposal(project, cut, rules, _laughter(project))
    for path in args.output:
        write_cut(project, cut, path, args.quiet)
    _print(project, cut, args)
    return 0


def _whole(project: Project) -> tuple[Project, Cut]:
    """The project with a cut of the whole recording, made where there is none, and that cut."""
    from dubrel.edits.cuts.trimming import WHOLE, with_whole

    known = next((one for one in project.cuts if one.name == WHOLE and not one.joins), None)
    if known is not None:
        return project, known
    project, cut_id = with_whole(project, WHOLE)
    cut = project.cut(cut_id)
    assert cut is not None
    return project, cut


def _rules(args: argparse.Namespace) -> CameraRules:
    from dubrel.model.cameras import CameraRules

    if not 0.2 <= args.shortest <= 600 or not (args.wide == 0 or 1 <= args.wide <= 86_400):
        raise DubrelError("--shortest and --wide are seconds: write numbers such as 2 and 40.")
    return CameraRules(shortest_ms=round(args.shortest * 1000), wide_ms=round(args.wide * 1000))


def _gathered(project: Project, args: argparse.Namespace) -> Project:
    from dubrel.edits.cameras.gathering import with_cameras
    from dubrel.jobs.cuts.camerafinding import find_cameras
    from dubrel.jobs.machinery.events import CamerasFound

    media = project.media
    if media is None or not Path(media.path).is_file():
        raise DubrelError("The recording is not there: cameras are found by its sound. Name it with --media.")
    if not args.films:
        if not project.cameras.all:
            raise DubrelError("The project has no cameras. Name their films after it.")
        return project
    for event in shown(find_cameras(media, args.films), args.quiet):
        if isinstance(event, CamerasFound):
            project = with_cameras(project, event.found)
    return project


def _camera_named(project: Project, name: str) -> int:
    from pathlib import PurePath

    plain = PurePath(name).stem.casefold()
    for one in project.cameras.all:
        if name.casefold() == one.name.casefold() or plain == one.name.casefold():
            return one.id
    names = ", ".join(f"“{one.name}”" for one in project.cameras.all)
    raise DubrelError(f"There is no camera called “{name}”. The project has {names}.")


def _with_faces(project: Project, quiet: bool) -> Project:
    from dubrel.edits.cameras.gathering import camera_changed
    from dubrel.jobs.cuts.camerafaces import find_shown
    from dubrel.jobs.machinery.events import ShownFound

    for event in shown(find_shown(project), quiet):
        for camera_id, people in event.found if isinstance(event, ShownFound) else ():
            project = camera_changed(project, camera_id, shows=people)
    return project


def _shown(project: Project, text: str) -> Project:
    from dubrel.edits.cameras.gathering import camera_changed
    from dubrel.edits.speakers.voices import shown_name

    name, mark, people = text.rpartition("=")
    if not mark:
        raise DubrelError(f"“{text}” does not say whom a camera shows. Write --shows CAMERA=WHO,WHO.")
    known = {shown_name(project, one.id).casefold(): one.id for one in project.transcript.speakers}
    ids = []
    for who in filter(None, (one.strip() for one in people.split(","))):
        if who.casefold() not in known:
            raise DubrelError(f"Nobody in the project is called “{who}”. It has {', '.join(known)}.")
        ids.append(known[who.casefold()])
    return camera_changed(project, _camera_named(project, name), shows=ids)


def _laughter(project: Project) -> list[tuple[int, int]]:
    """Laughter and applause, where the recording has been listened to."""
    from dubrel.jobs.cuts.clipsound import heard_in

    heard = heard_in(project.media)
    return [(one.start_ms, one.end_ms) for one in heard.lively] if heard else []


def _print(project: Project, cut: Cut, args: argparse.Namespace) -> None:
    from dubrel.base.timecode import format_clock
    from dubrel.edits.cameras.camerashots import camera_shots

    rate = project.frame_rate
    shots = camera_shots(project, cut, rate) if rate else []
    names = {one.id: one.name for one in project.cameras.all}
    if args.json:
        cameras = [
            {
                "name": one.name,
                "file": (one.media or replace(project.media, path="")).path if project.media else "",
                "starts_ms": one.starts_ms,
                "drift_ppm": round((one.rate - 1) * 1e6, 2),
                "shows": list(one.shows),
            }
            for one in project.cameras.all
        ]
        rows = [
            {
                "camera": names.get(one.camera, ""),
                "first_frame": one.first,
                "frames": one.frames,
                "at": one.at,
            }
            for one in shots
        ]
        value: dict[str, Any] = {
            "cameras": cameras,
            "shots": rows,
            "files": [str(one) for one in args.output],
        }
        print(json.dumps(value, ensure_ascii=False, indent=1))
        return
    for one in project.cameras.all:
        sign = "−" if one.starts_ms < 0 else ""
        starts = f"{sign}{format_clock(abs(round(one.starts_ms)))}"
        print(f"{one.name}\tstarts {starts}\tdrift {(one.rate - 1) * 1e6:+.1f} ppm")
    print(f"{cut.name}: {len(shots)} shots from {len({one.camera for one in shots})} cameras")
