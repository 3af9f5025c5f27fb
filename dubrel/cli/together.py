"""``dubrel merge`` and ``dubrel handover``: one project in several hands."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.errors import DubrelError
from dubrel.base.text import counted
from dubrel.base.timecode import format_clock
from dubrel.base.value import asdict
from dubrel.cli.common import Subcommands, add_json, add_quiet, own, show_all, warn

if TYPE_CHECKING:
    from dubrel.edits.merging.merging import Conflict, Whose
    from dubrel.model import Project

COMMANDS = ("merge", "handover")


def add_to(commands: Subcommands) -> None:
    """Add the command."""
    merge = commands.add_parser("merge", help="merge what two people did with one project")
    merge.add_argument("mine", type=Path, metavar="MINE", help="a project")
    merge.add_argument(
        "theirs", type=Path, metavar="THEIRS", help="the same project, worked on by a colleague"
    )
    merge.add_argument(
        "-o", "--output", type=Path, metavar="OUT", help="the merged project; without it only a report"
    )
    merge.add_argument(
        "--base", type=Path, help="what both started from; else the latest state that both files hold"
    )
    merge.add_argument(
        "--take",
        choices=("mine", "theirs"),
        default="mine",
        help="what is taken where both changed the same thing differently (mine)",
    )
    add_json(merge)
    add_quiet(merge)
    merge.set_defaults(run=_merge)
    hand = commands.add_parser(
        "handover", help="pack a project, with a small copy of its recording, for a colleague"
    )
    hand.add_argument("project", type=Path, metavar="PROJECT", help="a project")
    hand.add_argument("-o", "--output", type=Path, metavar="OUT", help="the archive (.dubrel-handover)")
    add_quiet(hand)
    hand.set_defaults(run=_hand_over)


def _merge(args: argparse.Namespace) -> int:
    """Merge; 1 where something was changed by both differently."""
    from dubrel.edits.merging.merging import merge
    from dubrel.store.projectfile import save

    for path in (args.mine, args.theirs):
        if path.suffix.lower() != ".dubrel":
            raise DubrelError(f"“{path}” is not a project. Only projects (.dubrel) can be merged.")
    mine, theirs = (_project(path, args.quiet) for path in (args.mine, args.theirs))
    base = _base(args)
    found = merge(base, mine, theirs)
    decisions: dict[str, Whose] = {one.key: args.take for one in found.conflicts}
    if args.take == "theirs":
        found = merge(base, mine, theirs, decisions)
    if args.output is not None:
        if args.output.suffix.lower() != ".dubrel":
            raise DubrelError(f"“{args.output}” must end in .dubrel. Merge first, then convert it.")
        with own(args.output):
            save(found.project, args.output, (args.mine,), (args.mine, args.theirs))
    _tell(found.conflicts, args)
    return 1 if found.conflicts else 0


def _hand_over(args: argparse.Namespace) -> int:
    from dubrel.base.files import try_writing
    from dubrel.cli.common import read_input
    from dubrel.jobs.handing import hand_over
    from dubrel.store.handover import SUFFIX

    if args.project.suffix.lower() != ".dubrel":
        raise DubrelError(f"“{args.project}” is not a project. Only projects (.dubrel) can be handed over.")
    target = args.output or args.project.with_suffix(SUFFIX)
    if target.suffix != SUFFIX:
        raise DubrelError(f"“{target}” must end in {SUFFIX}. Choose another name.")
    try_writing(target)
    project = read_input(args.project, args.quiet)
    media = project.media
    there = media is not None and Path(media.path).is_file()
    if media is not None and not there:
        warn([f"“{media.name}” is not there, so it does not go along."], args.quiet)
    recording = media.path if media is not None and there else ""
    show_all(hand_over(project, recording, str(args.project), str(target)), args.quiet)
    print(target)
    return 0


def _base(args: argparse.Namespace) -> Project:
    from dubrel.store.commonbase import common_state

    if args.base is not None:
        return _project(args.base, args.quiet)
    found = common_state(args.mine, args.theirs)
    if found is None:
        raise DubrelError(
            f"“{args.mine}” and “{args.theirs}” have no state in common among their versions. Name the "
            "project that both started from, by --base."
        )
    return found.project


def _project(path: Path, quiet: bool) -> Project:
    from dubrel.store.projectfile import read_project

    opened = read_project(path)
    warn(opened.fixed, quiet)
    return opened.project


def _tell(conflicts: tuple[Conflict, ...], args: argparse.Namespace) -> None:
    if args.json:
        report = {"taken": args.take, "conflicts": [asdict(one) for one in conflicts]}
        print(json.dumps(report, ensure_ascii=False, indent=1))
        return
    for one in conflicts:
        when = format_clock(one.start_ms, digits=1) if one.end_ms else ""
        print("\t".join((when, one.what, one.mine or "(nothing)", one.theirs or "(nothing)")))
    if conflicts:
        many = counted(len(conflicts), "thing was", "things were")
        warn([f"{many} changed by both differently; {args.take} is taken."], args.quiet)
