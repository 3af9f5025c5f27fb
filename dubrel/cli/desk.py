"""``dubrel``, ``dubrel demo`` and ``dubrel desktop``: the application."""

from __future__ import annotations

import argparse
import gc
from collections.abc import Sequence
from pathlib import Path

from dubrel.cli.common import Subcommands

COMMANDS = ("demo", "desktop")


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    demo = commands.add_parser("demo", help="open the application with the demo project")
    demo.set_defaults(run=_demo)
    desktop = commands.add_parser("desktop", help="put the application on the desktop, or remove it")
    desktop.add_argument("act", choices=("install", "remove"), help="put it there, or remove it")
    desktop.set_defaults(run=_desktop)


def open_window(paths: Sequence[Path] = (), media: Path | None = None) -> int:
    """The application, with files if some are given, and the recording that one belongs to."""
    gc.disable()  # nothing that is made while starting is garbage; the window collects afterwards
    from dubrel.desk.application import run

    return run(paths, media)


def _demo(_args: argparse.Namespace) -> int:
    gc.disable()
    from dubrel.desk.application import run_demo

    return run_demo()


def _desktop(args: argparse.Namespace) -> int:
    from dubrel.desktopentry import install, remove

    done = install() if args.act == "install" else remove()
    for path in done:
        print(path)
    return 0
