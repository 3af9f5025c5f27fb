"""``dubrel cut`` and ``dubrel conform``: the recording edited, here and elsewhere."""

from __future__ import annotations

import argparse
import json
import re
from collections.abc import Iterable
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any

from dubrel.base.errors import DubrelError
from dubrel.cli.common import (
    Subcommands,
    add_json,
    add_quiet,
    own,
    read_input,
    refuse_unwritable,
    show_all,
    shown,
    warn,
    with_media,
    write_output,
)

if TYPE_CHECKING:
    from dubrel.edits.cuts.pauses import Levels
    from dubrel.edits.cuts.removals import Removal
    from dubrel.model import Cut, Project
    from dubrel.model.cutrules import CutRules
    from dubrel.release.cutfiles import CaptionsIn

COMMANDS = ("cut", "conform")
_SHOWN = 72  # letters of what is gone
_PAUSES = re.compile(r"(\d+(?:\.\d+)?)(?::(\d+(?:\.\d+)?))?")


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    cut = commands.add_parser("cut", help="take out pauses, fillers and what is said again")
    cut.add_argument("input", type=Path, metavar="PROJECT", help="a project or a transcript")
    cut.add_argument(
        "-o",
        "--output",
        type=Path,
        action="append",
        required=True,
        metavar="OUT",
        help="the form follows the suffix: .dubrel .otio .otioz .edl .csv, sound or film; more than once",
    )
    cut.add_argument("--pauses", metavar="S[:S]", help="pauses longer than so many seconds become as long as")
    cut.add_argument("--fillers", action="store_true", help="take out fillers")
    cut.add_argument("--repeats", action="store_true", help="take out repeats and what is said again")
    cut.add_argument("--struck", action="store_true", help="take out struck words")
    cut.add_argument("--keep-ms", type=int, default=40, metavar="N", help="room around each word (40)")
    cut.add_argument("--cross-ms", type=int, default=20, metavar="N", help="cross-fade at each join (20)")
    cut.add_argument("--name", metavar="NAME", help="of the cut; one that the project has is used as it is")
    cut.add_argument(
        "--cut-list", type=Path, metavar="FILE", help="the cut of an editing program (.otio .edl)"
    )
    cut.add_argument("--rate", metavar="FPS", help="frames a second of a list, for sound alone")
    cut.add_argument(
        "--captions", choices=("none", "burned", "inside"), default="none", help="in a film (none)"
    )
    cut.add_argument("--media", type=Path, metavar="FILE", help="the recording that the words belong to")
    add_json(cut)
    add_quiet(cut)
    cut.set_defaults(run=_cut)
    conform = commands.add_parser("conform", help="bring words and captions to an edited recording")
    conform.add_argument("input", type=Path, metavar="PROJECT", help="a project, a transcript or captions")
    conform.add_argument("new", type=Path, metavar="NEW", help="the edited sound or film, or a cut list")
    conform.add_argument(
        "-o", "--output", type=Path, required=True, metavar="OUT", help="the form follows the suffix"
    )
    conform.add_argument("--media", type=Path, metavar="FILE", help="the recording before the edit")
    add_json(conform)
    add_quiet(conform)
    conform.set_defaults(run=_conform)


def _cut(args: argparse.Namespace) -> int:
    from dubrel.base.files import try_writing

    for path in args.output:
        refuse_unknown(path)
        try_writing(path)
    project = with_media(read_input(args.input, args.quiet), args.media)
    project, cut_id, removed = _made(project, args)
    cut = project.cut(cut_id)
    assert cut is not None
    for path in args.output:
        write_cut(project, cut, path, args.quiet, rate=_rate(args.rate), captions=args.captions)
    _print(project, cut, removed, args)
    return 0


def refuse_unknown(path: Path) -> None:
    """Refuse a form that no cut is written in.

    Raises
    ------
    DubrelError
    """
    from dubrel.formats.cutlists.register import CUT_FORMS
    from dubrel.release.cutfiles import MEDIA_SUFFIXES

    known = (".dubrel", *CUT_FORMS, *MEDIA_SUFFIXES)
    if path.suffix.lower() not in known:
        raise DubrelError(f"“{path}” cannot be written. Known suffixes: {', '.join(known)}.")


def write_cut(
    project: Project,
    cut: Cut,
    path: Path,
    quiet: bool,
    *,
    rate: Fraction | None = None,
    captions: CaptionsIn = "none",
) -> None:
    """Write a project, a list, a sound or a film of a cut, by the suffix.

    Parameters
    ----------
    rate : Fraction, optional
        Frames a second of a list, for sound alone.
    captions : {"none", "burned", "inside"}
        In a film.

    Raises
    ------
    DubrelError
        If it cannot be written.
    """
    from dubrel.formats.cutlists.register import CUT_FORMS, write_cut_list
    from dubrel.jobs.filming import make_film
    from dubrel.release.cutfiles import cut_order
    from dubrel.store.projectfile import save

    suffix = path.suffix.lower()
    if suffix == ".dubrel":
        with own(path):
            save(project, path)
    elif suffix in CUT_FORMS:
        warn(write_cut_list(project, cut, path, rate), quiet)
    else:
        show_all(make_film(cut_order(project, cut, path, captions)), quiet)


def _rate(text: str | None) -> Fraction | None:
    from dubrel.base.timecode import parse_rate

    try:
        return parse_rate(text) if text else None
    except (ValueError, ZeroDivisionError) as error:
        raise DubrelError(f"“{text}” is not a frame rate. Write it as 25 or 29.97.") from error


def _made(project: Project, args: argparse.Namespace) -> tuple[Project, int, list[Removal]]:
    """The project with the cut that was asked for, the cut's id, and what was taken out."""
    from dubrel.edits.cameras.switching import shown_as
    from dubrel.edits.cuts.removals import removals, without_removals
    from dubrel.edits.cuts.trimming import WHOLE, with_cut, with_whole
    from dubrel.formats.cutlists.register import read_cut_list

    if args.cut_list:
        found = read_cut_list(args.cut_list, project, _rate(args.rate))
        warn(found.said, args.quiet)
        project, cut_id = with_cut(project, args.name or found.name, found.passages)
        project = shown_as(project, found.passages, found.switches)
    else:
        known = next((one for one in project.cuts if one.name == args.name), None)
        project, cut_id = (project, known.id) if known else with_whole(project, args.name or WHOLE)
    rules = _rules(args)
    if not (rules.pauses or rules.fillers or rules.repeats or rules.struck):
        if not project.cut(cut_id).joins and not args.cut_list and len(project.cuts) == 1:  # type: ignore[union-attr]
            raise DubrelError("Nothing was asked for. Say what goes: --pauses 0.8:0.3, --fillers, --repeats.")
        return project, cut_id, []
    levels = _levels(project, args.quiet) if rules.pauses else None
    chosen = [one for one in removals(project, rules, levels) if one.ticked]
    return without_removals(project, cut_id, chosen, rules), cut_id, chosen


def _rules(args: argparse.Namespace) -> CutRules:
    from dubrel.model.cutrules import CutRules

    longer, becomes = 0, 0
    if args.pauses:
        found = _PAUSES.fullmatch(args.pauses)
        if not found:
            raise DubrelError(
                f"“{args.pauses}” does not name pauses. Write --pauses 0.8:0.3 (longer than: become)."
            )
        longer = round(float(found[1]) * 1000)
        becomes = round(float(found[2] or 0) * 1000)
        if becomes > longer:
            raise DubrelError("Pauses cannot become longer than those that stay. Write --pauses 0.8:0.3.")
    if not 0 <= args.keep_ms <= 5000 or not 0 <= args.cross_ms <= 5000:
        raise DubrelError("--keep-ms and --cross-ms are milliseconds: write a number from 0 to 5000.")
    return CutRules(
        pauses=bool(args.pauses),
        longer_ms=longer,
        becomes_ms=becomes,
        fillers=args.fillers,
        repeats=args.repeats,
        again=args.repeats,
        struck=args.struck,
        keep_ms=args.keep_ms,
        cross_ms=args.cross_ms,
    )


def _levels(project: Project, quiet: bool) -> Levels | None:
    """How loud the recording is; by the words alone where it is not there."""
    from dubrel.edits.cuts.pauses import Levels
    from dubrel.jobs.cuts.cutmedia import levels_read

    media = project.media
    if media is None or not media.has_audio or not Path(media.path).is_file():
        warn(["The recording is not there: pauses are found by the times of the words alone."], quiet)
        return None
    for found in shown(levels_read(media), quiet):
        if isinstance(found, Levels):
            return found
    return None


def _print(project: Project, cut: Cut, removed: Iterable[Removal], args: argparse.Namespace) -> None:
    from dubrel.edits.cuts.totals import figures
    from dubrel.edits.cuts.trimming import length_of

    found = figures(cut, length_of(project))
    if not args.json:
        for kind, count, ms in found.by_kind:
            print(f"{kind}: {count}, {ms / 1000:.1f} s")
        print(f"{cut.name}: {found}")
        return
    passages = [{"start_ms": one.start_ms, "end_ms": one.end_ms, "plays": one.plays} for one in cut.passages]
    gone = [
        {"start_ms": one.start_ms, "end_ms": one.end_ms, "why": one.why, "words": one.text} for one in removed
    ]
    value: dict[str, Any] = {
        "name": cut.name,
        "length_ms": found.length_ms,
        "saved_ms": found.saved_ms,
        "joins": found.joins,
        "by_kind": {kind: {"count": count, "ms": ms} for kind, count, ms in found.by_kind},
        "passages": passages,
        "removed": gone,
        "files": [str(path) for path in args.output],
    }
    print(json.dumps(value, ensure_ascii=False, indent=1))


def _conform(args: argparse.Namespace) -> int:
    from dubrel.base.timecode import format_clock
    from dubrel.jobs.cuts.conforming import Conformed, conform

    refuse_unwritable(args.output)
    project = with_media(read_input(args.input, args.quiet), args.media)
    for found in shown(conform(project, args.new), args.quiet):
        if not isinstance(found, Conformed):
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
            begin = text if len(text) <= _SHOWN else f"{text[:_SHOWN].rstrip()}…"
            print(f"gone  {format_clock(a)} {format_clock(b)} {begin}")
    return 0
