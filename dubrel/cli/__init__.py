"""The command line: thin, with the same core as the desk. One file a group of commands."""

from __future__ import annotations

import argparse
import difflib
import os
import signal
import sys
from collections.abc import Sequence
from pathlib import Path

from dubrel import __version__
from dubrel.base.errors import DubrelError
from dubrel.base.files import cause_of
from dubrel.base.unfinished import clean_up
from dubrel.cli import (
    align,
    cameras,
    captions,
    clips,
    convert,
    cut,
    desk,
    find,
    recover,
    release,
    series,
    together,
    transcribe,
    translate,
    voice,
)
from dubrel.cli.common import end_progress, say
from dubrel.packages import problems
from dubrel.privacy import forget_reports
from dubrel.user.kept import DamageSaid
from dubrel.user.log import quiet_libraries, set_up_log

_GROUPS = (
    desk,
    transcribe,
    align,
    captions,
    cameras,
    clips,
    translate,
    convert,
    find,
    cut,
    release,
    voice,
    series,
    together,
    recover,
)
COMMANDS = tuple(name for group in _GROUPS for name in group.COMMANDS)


def run() -> int:
    """The command ``dubrel``: nothing but our own sentences comes to the terminal."""
    set_up_log()
    quiet_libraries()
    return main()


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command.

    Returns
    -------
    int
        0 done, 1 a check found something, 2 an error the user can fix.
    """
    argv = list(sys.argv[1:] if argv is None else argv)
    forget_reports()
    damage = DamageSaid(say)
    try:
        if (argv and argv[0] in COMMANDS) or argv[:1] in (["-h"], ["--help"], ["--version"]):
            args = parser().parse_args(argv)
            clean_up()
            return int(args.run(args))
        argv, media = _with_recording(argv)
        _refuse_what_is_no_file(argv)
        return desk.open_window([Path(one) for one in argv], media)
    except DubrelError as error:
        say(str(error))
        return 2
    except BrokenPipeError:  # whoever read the output wants no more of it
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 128 + signal.SIGPIPE
    except OSError as error:
        where = f"“{error.filename}”: " if error.filename else ""
        say(f"{where}{cause_of(error)}. Check it and try again.")
        return 2
    except KeyboardInterrupt:
        say("stopped.")
        return 2
    finally:
        end_progress()
        for said in problems():
            say(said)
        damage.close()


def _with_recording(argv: list[str]) -> tuple[list[str], Path | None]:
    """What is to be opened, and the recording that it belongs to."""
    if "--media" not in argv:
        return argv, None
    at = argv.index("--media")
    if at + 1 >= len(argv):
        raise DubrelError("--media names no file. Write: dubrel FILE --media RECORDING.")
    media = Path(argv[at + 1])
    if not media.is_file():
        raise DubrelError(f"“{media}” is not there. Check the path of the recording.")
    return argv[:at] + argv[at + 2 :], media


def _refuse_what_is_no_file(argv: Sequence[str]) -> None:
    """Say what is wrong with words that are neither a command nor files."""
    wrong = next((one for one in argv if not _may_be_a_file(one)), None)
    if wrong is None:
        return
    if wrong.startswith("-"):
        raise DubrelError(f"There is no option “{wrong}”. See dubrel --help.")
    if wrong is not argv[0]:
        raise DubrelError(f"“{wrong}” is not a file that can be opened. Check its path.")
    near = difflib.get_close_matches(wrong, COMMANDS, 1)
    hint = f"Did you mean “{near[0]}”?" if near else "See dubrel --help."
    raise DubrelError(f"There is no command “{wrong}”. {hint}")


def _may_be_a_file(word: str) -> bool:
    return Path(word).exists() or (not word.startswith("-") and bool(Path(word).suffix or "/" in word))


_WITHOUT = "dubrel [FILE...] [--media RECORDING] opens the application, with recordings, texts or a project."


def parser() -> argparse.ArgumentParser:
    """All commands with their options."""
    found = argparse.ArgumentParser(prog="dubrel", description=f"Dubrel {__version__}", epilog=_WITHOUT)
    found.add_argument("--version", action="version", version=f"dubrel {__version__}")
    commands = found.add_subparsers(required=True, metavar="COMMAND")
    for group in _GROUPS:
        group.add_to(commands)
    return found
