"""``dubrel convert`` and ``dubrel fetch``: files from one form to another, and from elsewhere."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.errors import DubrelError
from dubrel.cli.common import (
    Subcommands,
    add_between,
    add_cut,
    add_encoding,
    add_quiet,
    as_cut,
    read_input,
    refuse_unwritable,
    say,
    shown,
    warn,
    with_media,
    write_output,
)

if TYPE_CHECKING:
    from dubrel.jobs.addresses.fetching import Offered

COMMANDS = ("convert", "fetch")


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    convert = commands.add_parser("convert", help="convert between any two forms of file")
    convert.add_argument("input", type=Path, help="captions, a transcript or a project")
    convert.add_argument("output", type=Path, help="the form follows the suffix")
    convert.add_argument("--media", type=Path, metavar="FILE", help="the recording that the words belong to")
    convert.add_argument("--speakers", type=Path, metavar="RTTM", help="who speaks when")
    add_cut(convert)
    add_between(convert, "only that passage, as it plays by itself")
    add_encoding(convert)
    add_quiet(convert)
    convert.set_defaults(run=_convert)
    fetch = commands.add_parser("fetch", help="fetch a recording from an address, or an episode of a feed")
    fetch.add_argument("address", help="begins with https:// or http://")
    fetch.add_argument(
        "-o", "--output", type=Path, default=Path(), metavar="PLACE", help="a folder or a file"
    )
    fetch.add_argument("--list", action="store_true", help="only list the episodes of a feed")
    fetch.add_argument("--episode", type=int, default=0, metavar="N", help="of a feed, as they are listed")
    fetch.add_argument("--yes", action="store_true", help="fetch without asking")
    add_quiet(fetch)
    fetch.set_defaults(run=_fetch)


def _convert(args: argparse.Namespace) -> int:
    refuse_unwritable(args.output)
    project = with_media(read_input(args.input, args.quiet, args.encoding), args.media)
    if args.speakers:
        from dubrel.edits.speakers.assigning import follow_passages
        from dubrel.formats.words.rttm import read_passages
        from dubrel.project.followspeakers import speakers_followed

        found, warnings = read_passages(args.speakers)
        warn(warnings, args.quiet)
        project = speakers_followed(project, follow_passages(project, found))
    write_output(as_cut(project, args), args.output, args.quiet)
    return 0


def _fetch(args: argparse.Namespace) -> int:
    from dubrel.jobs.addresses.fetching import fetch, free_name, look_at
    from dubrel.jobs.machinery.events import Written

    offered = look_at(args.address)
    if offered.episodes:
        if args.list or not args.episode:
            for nth, one in enumerate(offered.episodes, 1):
                size = f"{one.size / 1e6:.0f} MB" if one.size else ""
                print(f"{nth:>5}  {one.date:10}  {size:>8}  {one.title}")
            return 0
        if not 1 <= args.episode <= len(offered.episodes):
            raise DubrelError(
                f"The feed has {len(offered.episodes):,} episodes. Write --episode 1 and so on."
            )
        offered = look_at(offered.episodes[args.episode - 1].address, typed=False)
    folder = args.output if args.output.is_dir() else args.output.parent
    target = free_name(offered, folder) if args.output.is_dir() else args.output
    _agree(offered, target, args.yes)
    for event in shown(fetch(offered, target.absolute()), args.quiet):
        if isinstance(event, Written):
            print(event.path)
    return 0


def _agree(offered: Offered, target: Path, agreed: bool) -> None:
    """Say what will be fetched, from where, how large and where to; ask."""
    size = f"{offered.size / 1e6:,.1f} MB" if offered.size is not None else "of unknown size"
    through = f", through {', '.join(offered.through)}" if offered.through else ""
    near = " It is on this machine or this network." if offered.near else ""
    what = f"“{offered.name}”, {size}, from {offered.shown}{through}, to “{target}”.{near}"
    say(what)
    if agreed:
        return
    if not sys.stdin.isatty():
        raise DubrelError("Nothing was fetched. Add --yes to fetch it.")
    print("Fetch it? (y/n) ", end="", file=sys.stderr, flush=True)
    if sys.stdin.readline().strip().lower() not in ("y", "yes"):
        raise DubrelError("Nothing was fetched. Answer y to fetch it.")
