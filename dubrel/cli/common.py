"""What the commands share: options, reading, writing, progress."""

from __future__ import annotations

import argparse
import shutil
import sys
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, TypeAlias, TypeVar

from dubrel.base.errors import DubrelError

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Progress
    from dubrel.jobs.machines.security import Certificates
    from dubrel.model import Cut, HouseStyle, Project


T = TypeVar("T")
Subcommands: TypeAlias = "argparse._SubParsersAction[argparse.ArgumentParser]"


def add_quiet(parser: argparse.ArgumentParser) -> None:
    """``--quiet``."""
    parser.add_argument("--quiet", action="store_true", help="no progress and no warnings")


def add_encoding(parser: argparse.ArgumentParser) -> None:
    """``--encoding``."""
    text = "of the captions or the text (as windows-1250); else it is found out"
    parser.add_argument("--encoding", default="", metavar="NAME", help=text)


def add_json(parser: argparse.ArgumentParser) -> None:
    """``--json``."""
    parser.add_argument("--json", action="store_true", help="a report for a program, on standard output")


def listed(names: Callable[[], Iterable[str]]) -> str:
    """Names for a help text, looked for only where help was asked for."""
    if not {"-h", "--help"} & set(sys.argv):
        return ""
    return f" ({', '.join(names())})".replace("%", "%%")


def add_output(parser: argparse.ArgumentParser) -> None:
    """``-o``, ``--style`` and ``--quiet``."""
    parser.add_argument("-o", "--output", type=Path, required=True, help="the form follows the suffix")
    add_style(parser)
    add_quiet(parser)


def add_style(parser: argparse.ArgumentParser) -> None:
    """``--style``."""
    known = listed(_style_names)
    parser.add_argument("--style", metavar="NAME|FILE", help=f"a house style by name, or a .json file{known}")


def _style_names() -> Iterable[str]:
    from dubrel.captions.styles import STYLES

    return STYLES


def style_named(name: str | None) -> HouseStyle | None:
    """The house style that was asked for, or ``None``."""
    from dubrel.captions.styles import house_style

    return house_style(name) if name else None


def read_input(path: Path, quiet: bool, encoding: str = "") -> Project:
    """Read a project, captions or a transcript."""
    from dubrel.formats.register import READERS, read_file
    from dubrel.store.projectfile import read_project

    if path.is_dir():
        raise DubrelError(f"“{path}” is a folder. Name a file in it.")
    if path.suffix.lower() == ".dubrel":
        opened = read_project(path)
        warn(opened.fixed, quiet)
        return with_found_media(opened.project, path)
    if path.suffix.lower() not in READERS and path.is_file():
        from dubrel.media.probe import SUFFIXES

        if path.suffix.lower() in SUFFIXES:
            raise DubrelError(f"“{path}” is a recording. Turn it into words first, with dubrel transcribe.")
    reading = read_file(path, encoding=encoding)
    warn(reading.warnings, quiet)
    return reading.project


def with_found_media(project: Project, path: Path) -> Project:
    """The project with its recording where it really is, so that it is found from another folder too."""
    from dubrel.base.value import replace
    from dubrel.store.projectfile import cameras_found, find_media

    project = cameras_found(project, path)
    found = find_media(project.media, path) if project.media else None
    if project.media is None or found is None:
        return project
    return replace(project, media=replace(project.media, path=str(found)))


def add_machines(parser: argparse.ArgumentParser, scheduler: str = "") -> None:
    """``--tls-ca``, ``--tls-cert``, ``--tls-key`` and ``--in-the-clear``; the scheduler too, by an option."""
    if scheduler:
        parser.add_argument(scheduler, default="", metavar="tcp://HOST:PORT", help="run: on its machines")
    for name, what in (("ca", "authority"), ("cert", "certificate"), ("key", "key")):
        parser.add_argument(f"--tls-{name}", default="", metavar="FILE", help=f"{what} of TLS (PEM)")
    parser.add_argument("--in-the-clear", action="store_true", help="allow another machine without TLS")


def certificates(args: argparse.Namespace) -> Certificates | None:
    """The files of TLS that were given; ``None`` without any.

    Raises
    ------
    DubrelError
        If one is missing.
    """
    from dubrel.jobs.machines.security import Certificates

    files = (args.tls_ca, args.tls_cert, args.tls_key)
    if not any(files):
        return None
    for path in files:
        if not path or not Path(path).is_file():
            raise DubrelError(f"“{path}” is not a TLS file. Give --tls-ca, --tls-cert and --tls-key.")
    return Certificates(*files)


def add_cut(parser: argparse.ArgumentParser) -> None:
    """``--cut``."""
    text = "of a cut of the project, not of the whole recording"
    parser.add_argument("--cut", default="", metavar="NAME", help=text)


def add_track(parser: argparse.ArgumentParser) -> None:
    """``--track``."""
    text = "sound track of the file: its number, several mixed (1+3), all, or a language (de); else the first"
    parser.add_argument("--track", default="", metavar="N", help=text)


def tracks_of(path: Path, wanted: str, quiet: bool) -> tuple[int, ...]:
    """The sound tracks that were asked for, from 0; which one is taken is said where there are several.

    Raises
    ------
    DubrelError
        If there is none of that number or language.
    """
    from dubrel.base.languages import known_language, main_tag
    from dubrel.media.probe import sound_tracks

    there = sound_tracks(path)
    numbers = wanted.split("+")
    if wanted == "all":
        found = list(range(len(there)))
    elif all(one.isascii() and one.isdigit() for one in numbers):
        found = sorted({int(one) - 1 for one in numbers})
    else:
        tag = main_tag(known_language(wanted) or wanted)
        found = [nth for nth, one in enumerate(there) if main_tag(one.language) == tag][:1] if wanted else [0]
    if wanted and (not found or found[0] < 0 or found[-1] >= len(there)):
        known = "; ".join(one.said(nth) for nth, one in enumerate(there, 1))
        raise DubrelError(f"“{path.name}” has no sound track “{wanted}”. It has: {known or 'none'}.")
    if len(there) > 1:
        warn([f"{path.name}: {'; '.join(there[one].said(one + 1) for one in found)}."], quiet)
    return () if found == [0] else tuple(found)


def add_send(parser: argparse.ArgumentParser, what: str) -> None:
    """``--send``."""
    parser.add_argument("--send", action="store_true", help=f"agree that {what} sent to a service elsewhere")


def agree_to_send(name: str, address: str, send: bool, what: str, price: str = "") -> None:
    """Say what a service elsewhere costs, and keep that the user agrees to send something there.

    Parameters
    ----------
    name : str
        Under which the settings keep it.
    send : bool
        Whether the user agrees now.
    what : str
        What would leave this machine, as a sentence begins.
    price : str
        What that costs, where it is known.

    Raises
    ------
    DubrelError
        If the user has not agreed.
    """
    from dubrel.base.http_client import unsafe
    from dubrel.user.settings import SETTINGS

    warn(filter(None, (price and f"{address} costs {price}.", unsafe(address))), False)
    settings = SETTINGS.read()
    if name in settings.consented:
        return
    if not send:
        raise DubrelError(
            f"{what} would leave this machine for {address}. "
            "Add --send to agree; it is remembered for this service."
        )
    SETTINGS.write(settings.with_consent(name))


def add_between(parser: argparse.ArgumentParser, what: str) -> None:
    """``--between``."""
    parser.add_argument("--between", default="", metavar="FROM-TO", help=f"{what} (as 1:20-2:45.5)")


def span_of(args: argparse.Namespace) -> tuple[int, int] | None:
    """The passage that was asked for, in milliseconds; ``None`` for all.

    Raises
    ------
    DubrelError
        If it is none.
    """
    from dubrel.base.timecode import parse_clock

    if not args.between:
        return None
    start, dash, end = args.between.replace("–", "-").partition("-")
    try:
        found = (parse_clock(start) if start.strip() else 0, parse_clock(end) if end.strip() else 1 << 30)
    except ValueError:
        found = (0, 0)
    if not dash or not 0 <= found[0] < found[1]:
        raise DubrelError(
            f"“{args.between}” is not a passage. Write it as 1:20-2:45.5, the earlier time first."
        )
    return found


def refuse_beyond(span: tuple[int, int] | None, length: int | None, name: str) -> None:
    """Refuse a passage of which nothing is in a recording.

    Raises
    ------
    DubrelError
        If it begins where that has ended.
    """
    from dubrel.base.timecode import format_length

    if span is not None and length and span[0] >= length:
        raise DubrelError(
            f"“{name}” is only {format_length(length)} long. Write an earlier passage with --between."
        )


def span_cut(project: Project, span: tuple[int, int]) -> Cut:
    """A cut of one passage, named after its times.

    Raises
    ------
    DubrelError
        If nothing is said in it.
    """
    from dubrel.base.timecode import format_clock
    from dubrel.edits.words.passage import words_between
    from dubrel.model import Cut, CutPassage

    turns = project.transcript.turns
    length = project.length_ms or (turns[-1].end_ms if turns else None)
    refuse_beyond(span, length, project.title)
    end = min(span[1], length or span[1])
    times = [format_clock(ms, digits=0) for ms in (span[0], end)]
    if turns and not words_between(project, span[0], end):
        raise DubrelError(f"Nothing is said between {times[0]} and {times[1]}. Write another --between.")
    return Cut(0, " to ".join(times), (CutPassage(span[0], end),))


def cut_named(project: Project, name: str) -> Cut:
    """The cut of a project with a name.

    Raises
    ------
    DubrelError
        If there is none.
    """
    found = next((one for one in project.cuts if one.name.casefold() == name.casefold()), None)
    if found is None:
        names = ", ".join(f"“{one.name}”" for one in project.cuts)
        hint = f"It has {names}." if names else "It has none yet: make one with dubrel cut."
        raise DubrelError(f"The project has no cut called “{name}”. {hint}")
    return found


def cut_of(project: Project, args: argparse.Namespace) -> Cut | None:
    """What was asked for of a project, by ``--cut`` or ``--between``; ``None`` for all of it.

    Raises
    ------
    DubrelError
        If there is no such cut, nothing is said in the passage, or both were given.
    """
    span = span_of(args) if "between" in args else None
    if args.cut and span is not None:
        raise DubrelError("--cut and --between cannot be combined. Write one of them.")
    if args.cut:
        return cut_named(project, args.cut)
    return span_cut(project, span) if span is not None else None


def as_cut(project: Project, args: argparse.Namespace) -> Project:
    """The project as it is in what was asked for of it; see :func:`cut_of`."""
    from dubrel.edits.cuts.cutting import cut_project

    cut = cut_of(project, args)
    return project if cut is None else cut_project(project, cut)


def how_many(most: int) -> int:
    """The number of ``--most``.

    Raises
    ------
    DubrelError
        If nobody can have meant it.
    """
    if not 1 <= most <= 1000:
        raise DubrelError("--most is how many: write a number from 1 to 1000.")
    return most


def with_media(project: Project, media: Path | None) -> Project:
    """The project with the recording that was named, for its frame rate."""
    from dubrel.base.value import replace
    from dubrel.media.probe import probe

    return replace(project, media=probe(media)) if media else project


def with_pictures(project: Project, quiet: bool) -> Project:
    """The project with the shot changes and the lettering of its film, found now unless they are known."""
    from dubrel.jobs.pictures import looked_at
    from dubrel.model import Project

    for found in shown(looked_at(project), quiet):
        if isinstance(found, Project):
            return found
    return project


def write_output(project: Project, path: Path, quiet: bool) -> None:
    """Write a project or a deliverable by the suffix; what the form cannot hold is said."""
    from dubrel.release.onefile import write_checked
    from dubrel.store.projectfile import save

    if path.suffix.lower() == ".dubrel":
        with own(path):
            save(project, path)
    elif lost := write_checked(project, path):
        warn([lost], quiet)


def refuse_unwritable(path: Path) -> None:
    """Refuse an output that cannot be written before hours of work, not after."""
    from dubrel.base.files import try_writing
    from dubrel.release.onefile import written_form

    if path.suffix.lower() != ".dubrel":
        written_form(path)
    else:
        with own(path):
            pass
    try_writing(path)


@contextmanager
def own(path: Path) -> Iterator[None]:
    """Have a project file for oneself while it is written.

    Raises
    ------
    DubrelError
        If it is open in a window.
    """
    from dubrel.store.locks import claim

    claimed = claim(path)
    if claimed is None:
        raise DubrelError(f"“{path}” is open in a window. Close it there, or choose another name.")
    try:
        yield
    finally:
        claimed.give_up()


class _ProgressLine:
    """How far a job is, on standard error: one line of a terminal, gone before anything else is said.

    Where it is no terminal, a line for each stage and each further fifth of it.
    """

    def __init__(self) -> None:
        self._shown, self._told = False, ("", 0)

    def draw(self, event: Progress) -> None:
        """Show how far it is."""
        left = f", {event.left_s:.0f} s left" if event.left_s is not None else ""
        line = f"{event.stage}: {event.fraction:.0%}{left}"
        if sys.stderr.isatty():
            fitting = line[: shutil.get_terminal_size().columns - 1]
            print(f"\r\033[K{fitting}", end="", file=sys.stderr, flush=True)
            self._shown = True
        elif (told := (event.stage, int(event.fraction * 5))) != self._told:
            self._told = told
            print(line, file=sys.stderr, flush=True)

    def clear(self) -> None:
        """Take the line away; the job may go on."""
        if self._shown:
            print("\r\033[K", end="", file=sys.stderr, flush=True)
        self._shown = False

    def end(self) -> None:
        """Take the line away: the job is over, and the next one begins with a line of its own."""
        self.clear()
        self._told = ("", 0)


_line = _ProgressLine()  # there is one standard error


def say(text: str) -> None:
    """Say a sentence on standard error."""
    _line.clear()
    print(f"dubrel: {text}", file=sys.stderr)


def warn(messages: Iterable[str], quiet: bool) -> None:
    """Say warnings on standard error."""
    for message in () if quiet else messages:
        say(message)


def show(event: object, quiet: bool) -> None:
    """Show an event of a job where it is progress or a warning."""
    from dubrel.jobs.machinery.events import Progress, Warning_

    if not isinstance(event, Progress):
        _line.clear()  # a result is printed next
    elif not quiet:
        _line.draw(event)
    if isinstance(event, Warning_):
        warn([event.message], quiet)


def shown(events: Iterable[T], quiet: bool) -> Iterator[T]:
    """What a job says, with its progress and warnings shown; no progress stays once it is done."""
    try:
        for event in events:
            show(event, quiet)
            yield event
    finally:
        end_progress()


def show_all(events: Iterable[object], quiet: bool) -> None:
    """Let a job run to its end; nothing but its progress and warnings matters."""
    for _ in shown(events, quiet):
        pass


def end_progress() -> None:
    """Take the line that says how far a job is away: it is over, or something else is printed next."""
    _line.end()
