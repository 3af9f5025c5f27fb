"""``dubrel series``, and ``dubrel work``: this machine as one of those that work on it."""

from __future__ import annotations

import argparse
import json
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_named
from dubrel.base.text import counted
from dubrel.base.timecode import format_clock, format_length
from dubrel.base.value import asdict, replace
from dubrel.cli.common import (
    Subcommands,
    add_json,
    add_machines,
    add_quiet,
    certificates,
    how_many,
    show,
    warn,
)

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Event
    from dubrel.jobs.series.running import Run
    from dubrel.jobs.series.searchindex import EpisodeRow, Said, SeriesIndex
    from dubrel.store.seriesfile import Series

COMMANDS = ("series", "work")
_ACTS = ("new", "add", "remove", "set", "status", "find", "check", "run", "release")


def add_to(commands: Subcommands) -> None:
    """Add the command."""
    series = commands.add_parser(
        "series", help="keep episodes together: see how they stand, search, run and release them"
    )
    series.add_argument("series", type=Path, metavar="SERIES", help="the file of the series")
    series.add_argument("act", choices=_ACTS, help="what is done")
    series.add_argument("what", nargs="*", metavar="WHAT", help="files to add or remove, or words to find")
    series.add_argument("--title", help="of a new series")
    series.add_argument(
        "--languages", default=None, metavar="TAGS", help="into which each is translated, such as de,pt"
    )
    series.add_argument("--kit", default=None, metavar="NAME|FILE", help="by which each is released")
    series.add_argument(
        "--pattern", default=None, help="names of files, such as “{series} {episode} {title}”"
    )
    series.add_argument("--watch", default=None, metavar="FOLDER", help="where new episodes arrive")
    series.add_argument("--address", default=None, metavar="URL", help="where what is released is published")
    series.add_argument("--style", default=None, metavar="NAME|FILE", help="the house style of all")
    series.add_argument("--by", default="", metavar="NAME", help="find: who says it")
    series.add_argument("--in", dest="language", default="", metavar="TAG", help="find: in which language")
    how = series.add_mutually_exclusive_group()
    how.add_argument("--sounds-like", action="store_true", help="find: what sounds like it")
    how.add_argument("--meaning", action="store_true", help="find: what means it, in any of 16 languages")
    series.add_argument("--most", type=int, default=50, metavar="N", help="find: how many (50)")
    series.add_argument("--language", default="", metavar="TAG", help="run: of the speech", dest="speech")
    series.add_argument("--speakers", default="auto", metavar="N|auto|off", help="run: how many speak (auto)")
    series.add_argument("--engine", default="builtin", help="run: the recogniser")
    add_machines(series, "--scheduler")
    series.add_argument("-o", "--output", type=Path, metavar="FOLDER", help="release: where to")
    series.add_argument("--unready", action="store_true", help="release: what is not ready too")
    add_json(series)
    add_quiet(series)
    series.set_defaults(run=_series)
    work = commands.add_parser("work", help="make this machine a worker of a scheduler")
    work.add_argument("scheduler", metavar="tcp://HOST:PORT", help="the address of the scheduler")
    work.add_argument(
        "--processes", type=int, default=0, metavar="N", help="how many tasks at once (a core each)"
    )
    work.add_argument(
        "--folder", type=Path, action="append", default=[], help="in which recordings are read in place"
    )
    add_machines(work)
    add_quiet(work)
    work.set_defaults(run=_work)


def _series(args: argparse.Namespace) -> int:
    from dubrel.store.seriesfile import SUFFIX

    if not args.series.name:
        raise DubrelError("No series was named. Write the name of its file after “series”.")
    path = args.series if args.series.suffix == SUFFIX else args.series.with_name(args.series.name + SUFFIX)
    if args.act == "new":
        return _new(path, args)
    if args.act in ("add", "remove", "set"):
        return _changed(path, args)
    if args.act in ("run", "release"):
        return _run(path, args)
    return _asked(path, args)


def _work(args: argparse.Namespace) -> int:
    """Work until the scheduler closes, or the process is ended."""
    import os

    try:
        from dubrel.jobs.machines.worker import work
    except ImportError as error:
        raise DubrelError(
            "Dask's distributed scheduler is not installed. Install dubrel[machines]."
        ) from error
    processes = args.processes if args.processes > 0 else os.cpu_count() or 1

    def ready(names: list[str]) -> None:
        if not args.quiet:
            print(f"Working for {args.scheduler}: {', '.join(names)}", flush=True)

    work(
        args.scheduler,
        processes,
        args.folder,
        certificates(args),
        in_the_clear=args.in_the_clear,
        ready=ready,
    )
    return 0


def _new(path: Path, args: argparse.Namespace) -> int:
    from dubrel.store.seriesfile import Series, with_episodes, write_series

    if path.exists():
        raise DubrelError(f"“{path}” is there already. Add episodes to it, or choose another name.")
    series = _with_options(Series(args.title or path.stem), path.parent, args)
    series, twice = with_episodes(series, _files(args.what), path.parent)
    write_series(series, path)
    _told(path, series, twice, args)
    return 0


def _languages(args: argparse.Namespace) -> tuple[str, ...]:
    named = (language_named(one.strip()) for one in (args.languages or "").split(","))
    return tuple(dict.fromkeys(filter(None, named)))


def _files(names: list[str]) -> list[Path]:
    """Files that are there; of a folder the projects in it."""
    from dubrel.store.seriesfile import can_be_episode

    found = list[Path]()
    for name in names:
        path = Path(name)
        if path.is_dir():
            found += sorted(path.glob("*.dubrel"))
        elif path.is_file():
            if not can_be_episode(path):
                raise DubrelError(f"“{name}” is neither a project nor a recording. Name one of those.")
            found.append(path)
        else:
            raise DubrelError(f"“{name}” is not there. Name projects, recordings, or a folder of projects.")
    return found


def _changed(path: Path, args: argparse.Namespace) -> int:
    from dubrel.store.seriesfile import read_series, with_episodes, write_series

    series, said = read_series(path)
    warn(said, args.quiet)
    twice = list[Path]()
    if args.act == "add":
        series, twice = with_episodes(series, _files(args.what), path.parent)
    elif args.act == "remove":
        names = {Path(one).name for one in args.what}
        gone = {Path(one).name for one in series.episodes} & names
        if names - gone:
            raise DubrelError(f"“{sorted(names - gone)[0]}” is not in the series. See them with “status”.")
        series = replace(series, episodes=tuple(one for one in series.episodes if Path(one).name not in gone))
    series = _with_options(series, path.parent, args)
    write_series(series, path)
    _told(path, series, twice, args)
    return 0


def _with_options(series: Series, home: Path, args: argparse.Namespace) -> Series:
    """The series with what was given of what is the same for all."""
    from dubrel.cli.common import style_named
    from dubrel.jobs.series.orders import kit_of
    from dubrel.store.seriesfile import in_folder

    if args.languages is not None:
        series = replace(series, languages=_languages(args))
    if args.title:
        series = replace(series, title=args.title)
    if args.address and not args.address.startswith(("http://", "https://")):
        raise DubrelError(f"“{args.address}” is not an address. One begins with https:// or http://.")
    for name in ("kit", "pattern", "address"):
        if getattr(args, name) is not None:
            series = replace(series, **{name: getattr(args, name)})
    if args.kit:
        kit_of(series, home)  # refused now, not when hours of work are done
    if args.watch is not None:
        series = replace(series, watched=in_folder(Path(args.watch), home) if args.watch else "")
    style = style_named(args.style)
    if style is not None:
        others = tuple(pair for pair in series.styles if pair[0])
        series = replace(series, styles=(("", style), *others))
    return series


def _run(path: Path, args: argparse.Namespace) -> int:
    """Take all episodes through what is missing, or release them; 1 where one failed."""
    from dubrel.jobs.machinery.events import Failed, OfEpisode, Warning_, Written
    from dubrel.jobs.series.orders import refuse_without_kit, run_of
    from dubrel.model.choices import Choices
    from dubrel.store.seriesfile import read_series

    series, said = read_series(path)
    warn(said, args.quiet)
    series = _with_options(series, path.parent, args)  # for this once
    choices = Choices(args.engine, language_named(args.speech), speakers=args.speakers)
    run = run_of(series, path, choices, args.output, unready=args.unready)
    if args.act == "release":
        refuse_without_kit(run)
    report, failed = list[dict[str, str]](), False
    for event in _events(run, args):
        inner = event.said if isinstance(event, OfEpisode) else event
        where = Path(event.path).stem if isinstance(event, OfEpisode) else series.title
        if isinstance(inner, Written):
            report.append({"episode": where, "written": inner.path})
        elif isinstance(inner, Warning_ | Failed):
            failed = failed or isinstance(inner, Failed)
            report.append({"episode": where, "said": inner.message})
            warn([f"{where}: {inner.message}"], args.quiet and not isinstance(inner, Failed))
        else:
            show(inner, args.quiet or args.json)
    if args.json:
        print(json.dumps(report, ensure_ascii=False, indent=1))
    for row in () if args.json else report:
        if "written" in row:
            print(row["written"])
    return 1 if failed else 0


def _events(run: Run, args: argparse.Namespace) -> Iterator[Event]:
    from dubrel.jobs.series.running import release_series, run_series

    if args.act == "release":
        return release_series(run)
    if not args.scheduler:
        return run_series(run)
    from dubrel.jobs.machines.cluster import Machines, run_on_machines

    return run_on_machines(run, Machines(args.scheduler, certificates(args), args.in_the_clear))


def _told(path: Path, series: Series, twice: list[Path], args: argparse.Namespace) -> None:
    warn([f"“{one.name}” is in the series already." for one in twice], args.quiet)
    if args.json:
        print(json.dumps({"file": str(path), **asdict(series)}, ensure_ascii=False, indent=1))
    else:
        print(f"{series.title}: {counted(len(series.episodes), 'episode')}")


def _asked(path: Path, args: argparse.Namespace) -> int:
    from dubrel.jobs.machinery.events import Pace
    from dubrel.jobs.series.meaningsearch import understand
    from dubrel.jobs.series.searchindex import SeriesIndex
    from dubrel.store.seriesfile import read_series

    series, said = read_series(path)
    warn(said, args.quiet)
    index, pace = SeriesIndex(path), Pace()
    try:
        for share in index.update(series.paths(path.parent), series.languages):
            show(pace.at("Reading the episodes", share), args.quiet or args.json)
        if args.act == "find":
            if args.meaning:
                for share in understand(index):
                    show(pace.at("Finding out what is meant", share), args.quiet or args.json)
            return _find(index, args)
        rows = {one.path: one for one in index.episodes()}
        ordered = [rows[str(one)] for one in series.paths(path.parent) if str(one) in rows]
        return _check(ordered, series, args) if args.act == "check" else _status(ordered, series, args)
    finally:
        index.close()


def _found(index: SeriesIndex, text: str, args: argparse.Namespace) -> list[Said]:
    from dubrel.jobs.series.meaningsearch import MeaningSearch
    from dubrel.jobs.series.searchindex import Wanted
    from dubrel.jobs.series.soundsearch import SoundSearch

    wanted, most = Wanted(args.by, language_named(args.language)), how_many(args.most)
    if args.meaning:
        return [one for _, one in MeaningSearch(index).find(text, wanted, most)]
    if args.sounds_like:
        return [one for _, one in SoundSearch(index).find(text, wanted, most)]
    return index.find(text, wanted, most)


def _find(index: SeriesIndex, args: argparse.Namespace) -> int:
    if not " ".join(args.what).strip():
        raise DubrelError("Nothing to find was named. Write the words after “find”.")
    found = _found(index, " ".join(args.what), args)
    if args.json:
        print(json.dumps([asdict(one) for one in found], ensure_ascii=False, indent=1))
        return 0 if found else 1
    for one in found:
        parts = (
            Path(one.path).stem,
            format_clock(one.start_ms, digits=1),
            one.speaker or one.language,
            one.text,
        )
        print("\t".join(parts))
    return 0 if found else 1


def _status(rows: list[EpisodeRow], series: Series, args: argparse.Namespace) -> int:
    if args.json:
        print(
            json.dumps(
                {"title": series.title, "episodes": [_row(one) for one in rows]}, ensure_ascii=False, indent=1
            )
        )
        return 0
    for nth, one in enumerate(rows, 1):
        standing = one.standing
        if standing is None:
            print(f"{nth:>3}  {Path(one.path).stem}\t{one.problem or 'not transcribed yet'}")
            continue
        passes = " ".join(f"{name} {share:.0%}" for name, share in standing.passes.items() if share >= 0)
        todo = "; ".join(standing.todo) or "nothing to do"
        print(f"{nth:>3}  {standing.title}\t{format_length(standing.length_ms)}\t{passes}\t{todo}")
    return 0


def _row(one: EpisodeRow) -> dict[str, Any]:
    return {"path": one.path, "problem": one.problem, **(asdict(one.standing) if one.standing else {})}


def _check(rows: list[EpisodeRow], series: Series, args: argparse.Namespace) -> int:
    from dubrel.jobs.series.differences import differences

    found = differences(rows, series.languages, series)
    if args.json:
        print(json.dumps(found, ensure_ascii=False, indent=1))
    for text in () if args.json else found:
        print(text)
    return 1 if found else 0
