"""``dubrel forward``: sound for ears."""

from __future__ import annotations

import argparse
from pathlib import Path

from dubrel.base.errors import DubrelError
from dubrel.cli.common import Subcommands, add_quiet, show

COMMANDS = ("forward",)
_LOUDNESS = ("as-is", "-16", "-23")


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    forward = commands.add_parser(
        "forward", help="the voice of a recording brought forward, and its level set"
    )
    forward.add_argument("media", type=Path, metavar="MEDIA", help="a recording")
    forward.add_argument(
        "-o",
        "--output",
        type=Path,
        required=True,
        metavar="OUT",
        help="the form follows the suffix: .wav .flac .mp3 .m4a, or .mp4 for the film with that sound",
    )
    forward.add_argument(
        "--amount",
        type=int,
        default=100,
        metavar="N",
        help="how far, in percent; 0 sets only the level (100)",
    )
    forward.add_argument("--loudness", choices=_LOUDNESS, default="as-is", help="LUFS (as it comes out)")
    add_quiet(forward)
    forward.set_defaults(run=_forward)


def _forward(args: argparse.Namespace) -> int:
    from dubrel.base.files import try_writing
    from dubrel.film.order import FilmOrder
    from dubrel.jobs.filming import make_film
    from dubrel.media.probe import probe
    from dubrel.release.filmforms import FORMS

    suffixes = [one.suffix for one in FORMS if one.film == "forward"]
    suffix = args.output.suffix.lower()
    if suffix not in suffixes:
        raise DubrelError(f"“{args.output}” cannot be written. Known suffixes: {', '.join(suffixes)}.")
    if not 0 <= args.amount <= 100:
        raise DubrelError("--amount is a number of percent: write one from 0 to 100.")
    media = probe(args.media)
    if suffix == ".mp4" and not media.has_video:
        raise DubrelError(f"“{media.name}” has no picture. Write its sound, as .m4a or .wav.")
    if args.output.exists() and args.output.samefile(args.media):
        raise DubrelError(f"“{args.output}” is the recording itself. Choose another name.")
    try_writing(args.output)
    loudness = None if args.loudness == "as-is" else float(args.loudness)
    order = FilmOrder(
        "forward", media.path, str(args.output.absolute()), amount=args.amount / 100, loudness=loudness
    )
    for event in make_film(order):
        show(event, args.quiet)
    return 0
