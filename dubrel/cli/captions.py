"""``dubrel captions`` and ``dubrel check``."""

from __future__ import annotations

import argparse
from pathlib import Path

from dubrel.cli.common import (
    add_output,
    add_style,
    read_input,
    refuse_unwritable,
    style_named,
    with_media,
    write_output,
)
from dubrel.errors import DubrelError

COMMANDS = ("captions", "check")


def add_to(commands) -> None:
    """Add the commands of this group."""
    captions = commands.add_parser("captions", help="set words into captions by a house style")
    captions.add_argument("input", type=Path)
    add_output(captions)
    captions.add_argument("--media", type=Path, metavar="VIDEO", help="for its frame rate")
    captions.set_defaults(run=_captions)
    check = commands.add_parser("check", help="every rule of the house style that is broken")
    check.add_argument("input", type=Path)
    add_style(check)
    check.add_argument("--media", type=Path, metavar="VIDEO", help="for its frame rate")
    check.add_argument("--json", action="store_true")
    check.set_defaults(run=_check)


def _captions(args: argparse.Namespace) -> int:
    from dubrel.edits.captions import set_again

    refuse_unwritable(args.output)
    style = style_named(args.style)
    project = with_media(read_input(args.input, args.quiet), args.media)
    write_output(set_again(project, style), args.output)
    return 0


def _check(args: argparse.Namespace) -> int:
    import json

    from dubrel.edits.trackchecks import check_track
    from dubrel.timecode import format_clock

    style = style_named(args.style)
    project = with_media(read_input(args.input, quiet=False), args.media)
    track = project.captions
    if track is None:
        raise DubrelError(f"“{args.input}” holds no captions. Make them with dubrel captions.")
    found = check_track(project, track, style)
    numbers = {one.id: number for number, one in enumerate(track.captions, 1)}
    starts = {one.id: one.start_ms for one in track.captions}
    rows = [
        {
            "caption": numbers.get(caption),
            "start_ms": starts.get(caption, finding.at_ms),
            "rule": finding.rule,
            "message": finding.message,
        }
        for caption, findings in found.items()
        for finding in findings
    ]
    if args.json:
        name = (style or track.style).name
        print(json.dumps({"style": name, "findings": rows}, ensure_ascii=False, indent=1))
    for row in [] if args.json else rows:
        clock = format_clock(int(str(row["start_ms"])))
        print(f"{row['caption'] or '–':>5}  {clock}  {row['rule']}: {row['message']}")
    return 1 if rows else 0
