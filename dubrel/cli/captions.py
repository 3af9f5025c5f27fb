"""``dubrel captions``, ``dubrel check`` and ``dubrel shots``."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import TYPE_CHECKING, Any

from dubrel.base.errors import DubrelError
from dubrel.cli.common import (
    Subcommands,
    add_between,
    add_cut,
    add_encoding,
    add_json,
    add_output,
    add_quiet,
    add_style,
    as_cut,
    read_input,
    refuse_beyond,
    refuse_unwritable,
    shown,
    span_of,
    style_named,
    warn,
    with_media,
    with_pictures,
    write_output,
)

if TYPE_CHECKING:
    from dubrel.captions.checks import Finding
    from dubrel.model import Project

COMMANDS = ("captions", "check", "shots")


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    captions = commands.add_parser("captions", help="set words into captions by a house style")
    add_encoding(captions)
    captions.add_argument("input", type=Path, help="a project, a transcript or captions")
    add_output(captions)
    captions.add_argument("--media", type=Path, metavar="VIDEO", help="for its frame rate and shot changes")
    captions.add_argument(
        "--explain", type=Path, metavar="REPORT.json", help="what each break costs, and the next best"
    )
    captions.add_argument("--song", action="store_true", help="it is sung: find its lines and stanzas first")
    add_between(captions, "set only those between two times; the others stay")
    captions.add_argument("--anew", action="store_true", help="set captions with manual changes too")
    captions.set_defaults(run=_captions)
    check = commands.add_parser("check", help="list every broken rule of the house style, or fix them")
    add_encoding(check)
    check.add_argument("input", type=Path, help="captions or a project")
    add_style(check)
    check.add_argument(
        "--media", type=Path, metavar="VIDEO", help="for its frame rate, shot changes and lettering"
    )
    add_cut(check)
    add_json(check)
    check.add_argument("--fix", type=Path, metavar="OUT", help="write the captions with what can be fixed")
    check.add_argument("--report", type=Path, metavar="OUT", help="write a page for a client (.html or .pdf)")
    add_quiet(check)
    check.set_defaults(run=_check)
    shots = commands.add_parser("shots", help="find the shot changes and the lettering of a film")
    shots.add_argument("input", type=Path, metavar="VIDEO", help="a film")
    add_json(shots)
    add_quiet(shots)
    shots.set_defaults(run=_shots)


def _captions(args: argparse.Namespace) -> int:
    from dubrel.base.files import write_text
    from dubrel.edits.captions.resetting import set_again
    from dubrel.edits.words.songlines import set_song

    refuse_unwritable(args.output)
    style = style_named(args.style)
    project = with_pictures(
        with_media(read_input(args.input, args.quiet, args.encoding), args.media), args.quiet
    )
    if args.song:
        project = set_song(project, [turn.id for turn in project.transcript.turns])
    span, track = span_of(args), project.captions
    refuse_beyond(span, project.length_ms, project.title)
    only = None
    if span is not None and track is not None:
        only = [one.id for one in track.captions if one.end_ms > span[0] and one.start_ms < span[1]]
    project = set_again(project, style, only=only, keep_held=not args.anew)
    if args.explain:
        from dubrel.edits.captions.explanations import report

        write_text(args.explain, json.dumps(report(project), ensure_ascii=False, indent=1) + "\n")
    write_output(project, args.output, args.quiet)
    return 0


def _check(args: argparse.Namespace) -> int:
    from dubrel.base.value import replace
    from dubrel.edits.captions.trackchecks import check_track
    from dubrel.project.tracks import with_track
    from dubrel.release.captionreport import refuse_other_suffix, write_report

    if args.fix:
        refuse_unwritable(args.fix)
    if args.report:
        refuse_other_suffix(args.report)
    style = style_named(args.style)
    project = with_pictures(
        with_media(read_input(args.input, args.quiet, args.encoding), args.media), args.quiet
    )
    project = as_cut(project, args)
    track = project.captions
    if track is None:
        raise DubrelError(f"“{args.input}” holds no captions. Make them with dubrel captions.")
    if style is not None:
        track = replace(track, style=style)
        project = with_track(project, track)
    fixed: list[dict[str, Any]] = []
    if args.fix:
        from dubrel.edits.captions.fixes import fix_all

        project, fixes = fix_all(project)
        fixed = [{"rules": list(one.fixed), "start_ms": one.old[0].start_ms} for one in fixes if one.old]
        write_output(project, args.fix, args.quiet)
        track = project.captions
        assert track is not None
    found = check_track(project, track)
    if args.report:
        write_report(project, args.report)
    rows = _rows(project, found)
    _print(rows, fixed, track.style.name, args.json)
    return 1 if any(row["must"] for row in rows) else 0


def _rows(project: Project, found: dict[int, list[Finding]]) -> list[dict[str, Any]]:
    track = project.captions
    assert track is not None
    numbers = {one.id: number for number, one in enumerate(track.captions, 1)}
    starts = {one.id: one.start_ms for one in track.captions}
    return [
        {
            "caption": numbers.get(caption),
            "start_ms": starts.get(caption, finding.at_ms),
            "rule": finding.rule,
            "must": finding.must,
            "message": finding.message,
        }
        for caption, findings in found.items()
        for finding in findings
    ]


def _print(rows: list[dict[str, Any]], fixed: list[dict[str, Any]], style: str, as_json: bool) -> None:
    from dubrel.base.timecode import format_clock

    if as_json:
        value = {"style": style, "findings": rows, "fixed": fixed}
        print(json.dumps(value, ensure_ascii=False, indent=1))
        return
    for row in rows:
        mark = "" if row["must"] else " (advice)"
        print(
            f"{row['caption'] or '–':>5}  {format_clock(row['start_ms'])}  {row['rule']}{mark}:"
            f" {row['message']}"
        )


def _shots(args: argparse.Namespace) -> int:
    from dubrel.base.timecode import format_clock
    from dubrel.base.value import asdict
    from dubrel.jobs.machinery.events import PicturesFound
    from dubrel.jobs.pictures import find_pictures
    from dubrel.media.probe import probe

    for event in shown(find_pictures(probe(args.input)), args.quiet):
        if isinstance(event, PicturesFound):
            if args.json:
                banners = [asdict(one) for one in event.banners]
                print(json.dumps({"shots_ms": list(event.shots), "lettering": banners}, indent=1))
            else:
                for ms in event.shots:
                    print(format_clock(ms))
                if not event.shots:
                    warn(["No shot changes were found."], args.quiet)
    return 0
