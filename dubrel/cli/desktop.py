"""``dubrel desktop``."""

from __future__ import annotations

import argparse

from dubrel.cli.common import Subcommands

COMMANDS = ("desktop",)


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    desktop = commands.add_parser("desktop", help="put the application on the desktop, or take it away again")
    desktop.add_argument("act", choices=("install", "remove"), help="put it there, or take it away")
    desktop.set_defaults(run=_desktop)


def _desktop(args: argparse.Namespace) -> int:
    from dubrel.desktopentry import install, remove

    done = install() if args.act == "install" else remove()
    for path in done:
        print(path)
    return 0
