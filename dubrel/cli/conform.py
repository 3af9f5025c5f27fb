"""``dubrel conform``."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from dubrel.cli.common import (
    Subcommands,
    add_json,
    add_quiet,
    read_input,
    refuse_unwritable,
    show,
    warn,
    with_media,
    write_output,
)

COMMANDS = ("conform",)
_SHOWN = 72  # letters of what is gone


def add_to(commands: Subcommands) -> None:
    """Add the command."""
    conform = commands.add_parser("conform", help="words and captions brought to an edited recording")
    conform.add_argument("input", type=Path, metavar="PROJECT", help="a project, a transcript or captions")
    conform.add_argument("new", type=Path, metavar="NEW", help="the edited sound or film, or a cut list")
    conform.add_argument(
        "-o", "--output", type=Path, required=True, metavar="OUT", help="the form follows the suffix"
    )
    conform.add_argument("--media", type=Path, metavar="FILE", help="the recording before the edit")
    add_json(conform)
    add_quiet(conform)
    conform.set_defaults(run=_conform)


def _conform(args: argparse.Namespace) -> int:
    from dubrel.base.timecode import format_clock
    from dubrel.jobs.cuts.conforming import Conformed, conform

    refuse_unwritable(args.output)
    project = with_media(read_input(args.input, args.quiet), args.media)
    for found in conform(project, args.new):
        if not isinstance(found, Conformed):
            show(found, args.quiet)
            continue
        warn(found.said, args.quiet)
        write_output(found.project, args.output, args.quiet)
        if args.json:
            value = {
                "passages": found.passages,
                "new": [{"start_ms": a, "end_ms": b} for a, b in found.new],
                "gone": [{"start_ms": a, "end_ms": b, "words": text} for a, b, text in found.gone],
            }
            print(json.dumps(value, ensure_ascii=False, indent=1))
            return 0
        print(found)
        for a, b in found.new:
            print(f"new   {format_clock(a)} {format_clock(b)}")
        for a, b, text in found.gone:
            shown = text if len(text) <= _SHOWN else f"{text[:_SHOWN].rstrip()}…"
            print(f"gone  {format_clock(a)} {format_clock(b)} {shown}")
    return 0
