"""``dubrel convert``."""

from __future__ import annotations

import argparse
from pathlib import Path

from dubrel.cli.common import (
    Subcommands,
    add_cut,
    add_encoding,
    add_quiet,
    of_cut,
    read_input,
    refuse_unwritable,
    warn,
    with_media,
    write_output,
)

COMMANDS = ("convert",)


def add_to(commands: Subcommands) -> None:
    """Add the command."""
    convert = commands.add_parser("convert", help="between any two forms")
    convert.add_argument("input", type=Path, help="captions, a transcript or a project")
    convert.add_argument("output", type=Path, help="the form follows the suffix")
    convert.add_argument("--media", type=Path, metavar="FILE", help="the recording that the words belong to")
    convert.add_argument("--speakers", type=Path, metavar="RTTM", help="who speaks when")
    add_cut(convert)
    add_encoding(convert)
    add_quiet(convert)
    convert.set_defaults(run=_convert)


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
    write_output(of_cut(project, args.cut), args.output, args.quiet)
    return 0
