"""``dubrel recover``: unsaved work of a process that ended."""

from __future__ import annotations

import argparse
import sys
import time
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.errors import DubrelError
from dubrel.base.value import asdict
from dubrel.cli.common import Subcommands, add_quiet, refuse_unwritable, say, write_output

if TYPE_CHECKING:
    from dubrel.store.recovery import Leftover

COMMANDS = ("recover",)


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    recover = commands.add_parser("recover", help="list or write out unsaved work found after a crash")
    recover.add_argument("-o", "--output", type=Path, help="write it there; the form follows the suffix")
    recover.add_argument("--which", type=int, default=1, metavar="N", help="its number in the list")
    recover.add_argument("--json", action="store_true", help="the list for a program")
    add_quiet(recover)
    recover.set_defaults(run=_recover)


def _recover(args: argparse.Namespace) -> int:
    from dubrel.store.recovery import discard, leftovers, unreadable

    if args.output is not None:
        refuse_unwritable(args.output)
    found = leftovers()
    if args.output is None:
        _list(found, args.json)
        for folder in unreadable():
            say(f"“{folder}” cannot be read. Look at base.dubrel in it, or delete it.")
        return 0
    if not 1 <= args.which <= len(found):
        raise DubrelError(
            f"There is no number {args.which}: {len(found)} found. See the list: dubrel recover."
            if found
            else "No unsaved work was found. There is nothing to write."
        )
    left = found[args.which - 1]
    write_output(left.project, args.output, args.quiet)
    if args.output.suffix.lower() == ".dubrel":  # everything is in the file now
        discard(left.folder)
    if not args.quiet:
        print(f"“{left.title}” is in “{args.output}”: {left.newer}.", file=sys.stderr)
    return 0


def _list(found: Sequence[Leftover], as_json: bool) -> None:
    if as_json:
        import json

        rows = [
            {"title": one.title, "at": round(one.at, 3), "file": one.meta.path, "newer": asdict(one.newer)}
            for one in found
        ]
        print(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    if not found:
        print("No unsaved work was found.")
    for number, one in enumerate(found, 1):
        when = time.strftime("%Y-%m-%d %H:%M:%S", time.localtime(one.at))
        print(f"{number}  {when}  “{one.title}”  {one.newer}  {one.meta.path}".rstrip())
