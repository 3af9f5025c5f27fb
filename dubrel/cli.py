"""The command line: thin, with the same core as the desk."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path

from dubrel import __version__
from dubrel.errors import DubrelError
from dubrel.privacy import forget_reports

_SPEAKERS_HELP = "off, auto, a number, as 2-4, or channels: one speaker a channel"
_COMMANDS = ("demo", "transcribe", "speakers", "align", "audit", "captions", "check", "convert")


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command.

    Returns
    -------
    int
        0 done, 1 a check found something, 2 an error the user can mend.
    """
    argv = list(sys.argv[1:] if argv is None else argv)
    forget_reports()
    try:
        if (argv and argv[0] in _COMMANDS) or argv[:1] in (["-h"], ["--help"], ["--version"]):
            args = _parser().parse_args(argv)
            return int(args.run(args))
        return _desk(argv)
    except DubrelError as error:
        print(f"dubrel: {error}", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        print("dubrel: stopped.", file=sys.stderr)
        return 2


def _desk(argv: list[str]) -> int:
    if argv and argv[0].startswith("-"):
        raise DubrelError(f"There is no option “{argv[0]}”. See dubrel --help.")
    if len(argv) > 1:
        raise DubrelError("Open one file at a time: dubrel FILE. See dubrel --help for commands.")
    import gc

    gc.disable()  # nothing that is made while starting is garbage; the application turns it on again
    from dubrel.desk.application import run

    return run(Path(argv[0]) if argv else None)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="dubrel", description=f"Dubrel {__version__}")
    parser.add_argument("--version", action="version", version=f"dubrel {__version__}")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    demo = commands.add_parser("demo", help="the application with the demo project")
    demo.set_defaults(run=_demo)
    hear = commands.add_parser("transcribe", help="turn recordings into timed words")
    hear.add_argument("media", type=Path, nargs="+", help="recordings; patterns as *.wav too")
    _output(hear)
    hear.add_argument("--engine", default="builtin", help="builtin, folder:PATH of a model, remote:ADDRESS")
    hear.add_argument("--language", default="", help="of the speech, as a tag (en, es)")
    hear.add_argument("--speakers", default="off", metavar="N", help=_SPEAKERS_HELP)
    hear.add_argument("--send", action="store_true", help="agree that recordings go to the remote engine")
    hear.set_defaults(run=_transcribe)
    people = commands.add_parser("speakers", help="who speaks when")
    people.add_argument("media", type=Path, nargs="+")
    _output(people)
    people.add_argument("--speakers", default="auto", metavar="N", help="auto, a number, or as 2-4")
    people.set_defaults(run=_transcribe, engine="builtin", language="", send=False)
    lineup = commands.add_parser("align", help="a script that exists, lined up with the sound")
    lineup.add_argument("media", type=Path)
    lineup.add_argument("script", type=Path, help=".txt .md .docx .srt .vtt")
    lineup.add_argument(
        "--language", default="", help="of the script, as a tag; found in the text if left out"
    )
    _output(lineup)
    lineup.set_defaults(run=_align)
    true = commands.add_parser("audit", help="are these times and words true?")
    true.add_argument("media", type=Path)
    true.add_argument("captions", type=Path)
    true.add_argument("--json", action="store_true")
    true.add_argument("--fix", type=Path, metavar="OUT", help="write the captions with times from the sound")
    true.add_argument("--quiet", action="store_true", help="no progress")
    true.set_defaults(run=_audit)
    setting = commands.add_parser("captions", help="set words into captions by a house style")
    setting.add_argument("input", type=Path)
    _output(setting)
    setting.set_defaults(run=_captions)
    check = commands.add_parser("check", help="every rule that is broken")
    check.add_argument("input", type=Path)
    check.add_argument("--style")
    check.add_argument("--json", action="store_true")
    check.set_defaults(run=_check)
    convert = commands.add_parser("convert", help="between any two forms")
    convert.add_argument("input", type=Path)
    convert.add_argument("output", type=Path)
    convert.add_argument("--speakers", type=Path, metavar="RTTM", help="who speaks when")
    convert.add_argument("--quiet", action="store_true")
    convert.set_defaults(run=_convert)
    return parser


def _output(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("-o", "--output", type=Path, required=True, help="the suffix decides the form")
    parser.add_argument("--style", help="name of a house style")
    parser.add_argument("--quiet", action="store_true", help="no progress")


def _demo(args: argparse.Namespace) -> int:
    import gc

    gc.disable()
    from dubrel.desk.application import run_demo

    return run_demo()


def _transcribe(args: argparse.Namespace) -> int:
    from dubrel.jobs.hearing import Hearing
    from dubrel.jobs.speakers import speaker_bounds
    from dubrel.jobs.wholefile import heard_project
    from dubrel.model import Project

    recordings = _recordings(args.media)
    targets = _targets(recordings, args.output)
    for target in targets:
        _writable(target)
    style = _style(args.style)
    apart = args.speakers == "channels"
    if not apart and args.speakers != "off":
        speaker_bounds(args.speakers)
    hearing = Hearing(args.engine, args.language, apart, "off" if apart else args.speakers)
    _may_send(args, recordings)
    failed = 0
    for recording, target in zip(recordings, targets):
        if len(recordings) > 1 and not args.quiet:
            print(f"{recording.name} → {target}", file=sys.stderr)
        try:
            for said in heard_project(recording, hearing, style):
                if isinstance(said, Project):
                    _write(said, target)
                else:
                    _say(said, args.quiet)
        except DubrelError as error:
            if len(recordings) == 1:
                raise
            failed += 1
            print(f"\ndubrel: {error}", file=sys.stderr)
        if not args.quiet:
            print(file=sys.stderr)
    if failed:
        raise DubrelError(f"{failed} of {len(recordings)} recordings failed; the others are written.")
    return 0


def _recordings(given: Sequence[Path]) -> list[Path]:
    """The recordings meant by paths and globs that the shell did not expand."""
    import glob

    found: list[Path] = []
    for path in given:
        matches = (
            sorted(glob.glob(str(path))) if glob.has_magic(str(path)) and not path.exists() else [str(path)]
        )
        if not matches:
            raise DubrelError(f"“{path}” matches no file. Check the pattern.")
        found += [Path(one) for one in matches]
    return list(dict.fromkeys(found))


def _targets(recordings: Sequence[Path], output: Path) -> list[Path]:
    """Where each result goes: the file that was named, or one file each in a folder."""
    if output.is_dir():
        return [output / f"{one.stem}.dubrel" for one in recordings]
    if output.stem == "*" or (output.name.startswith(".") and not output.suffix):
        suffix = output.suffix or output.name
        return [output.with_name(f"{one.stem}{suffix}") for one in recordings]
    if len(recordings) == 1:
        return [output]
    raise DubrelError(
        f"“{output}” is one file for {len(recordings)} recordings. Name a folder, or a pattern as “{output.parent}/*.srt”."
    )


def _may_send(args: argparse.Namespace, recordings: Sequence[Path]) -> None:
    """Show what a service costs; send nothing without consent."""
    from dubrel.media.probe import probe
    from dubrel.settings import load_settings, save_settings
    from dubrel.speech.engines import Service, engine_named, is_remote

    if not is_remote(args.engine):
        return
    service = engine_named(args.engine)
    assert isinstance(service, Service)
    price = service.price(sum(probe(one).duration_ms for one in recordings))
    print(f"dubrel: hearing at {service.address} costs {price}.", file=sys.stderr)
    settings = load_settings()
    if args.engine in settings.consented:
        return
    if not args.send:
        raise DubrelError(
            f"Recordings would leave this machine and go to {service.address}. "
            "Add --send to agree; it is remembered for this service."
        )
    save_settings(settings.with_consent(args.engine))


def _say(event, quiet: bool) -> None:
    from dubrel.jobs.events import Progress, Warning_

    if isinstance(event, Progress):
        _progress(event, quiet)
    elif isinstance(event, Warning_):
        _warn([event.message], quiet)


def _align(args: argparse.Namespace) -> int:
    from dubrel.edits.captions import set_again
    from dubrel.edits.intake import set_turns
    from dubrel.edits.unscripted import with_unscripted
    from dubrel.formats.script import read_script
    from dubrel.jobs.events import LinedUp
    from dubrel.jobs.lineup import line_up_script
    from dubrel.media.probe import probe
    from dubrel.model import Project

    _writable(args.output)
    style = _style(args.style)
    pieces, media = read_script(args.script), probe(args.media)
    project = Project(title=args.script.stem, media=media)
    for event in line_up_script(media, pieces, args.language):
        if isinstance(event, LinedUp):
            project = set_turns(project, event.turns, event.speakers, event.language)
            project = with_unscripted(project, event.extra)
        else:
            _say(event, args.quiet)
    _write(set_again(project, style), args.output)
    return 0


def _audit(args: argparse.Namespace) -> int:
    import json

    from dubrel.edits.captions import set_again
    from dubrel.edits.intake import from_cues
    from dubrel.edits.realign import retimed_words
    from dubrel.jobs.audit import audit_captions, cues_of, words_of
    from dubrel.jobs.auditreport import as_json, as_text
    from dubrel.jobs.events import Audited
    from dubrel.media.probe import probe
    from dubrel.model import Project
    from dubrel.speech.audit import retime

    if args.fix:
        _writable(args.fix)
    media, project = probe(args.media), _read(args.captions, args.quiet)
    of_words = project.captions is None
    if of_words:  # a transcript: its words are audited in captions
        project = set_again(project, _style(None))
    cues, status = cues_of(project), 0
    for event in audit_captions(media, cues):
        _say(event, args.quiet)
        if isinstance(event, Audited):
            report = event.report
            status = 0 if report.clean else 1
            print(json.dumps(as_json(report), ensure_ascii=False, indent=1) if args.json else as_text(report))
            if args.fix and of_words:
                _write(retimed_words(project, words_of(project, event.words)), args.fix)
            elif args.fix:
                fixed = from_cues(
                    Project(title=args.fix.stem, media=media),
                    retime(cues, report),
                    project.transcript.language,
                )
                _write(fixed, args.fix)
    return status


def _captions(args: argparse.Namespace) -> int:
    from dubrel.edits.captions import set_again

    _writable(args.output)
    project = _read(args.input, args.quiet)
    _write(set_again(project, _style(args.style)), args.output)
    return 0


def _check(args: argparse.Namespace) -> int:
    import json

    from dubrel.captions.checks import check_track
    from dubrel.timecode import format_clock

    style = _style(args.style)
    project = _read(args.input, quiet=False)
    if project.captions is None:
        raise DubrelError(f"“{args.input}” holds no captions. Make them with dubrel captions.")
    rate = project.media.frame_rate if project.media else None
    found = check_track(
        project.captions, project.transcript.words_by_id, style, rate, project.transcript.name_of
    )
    rows = [
        {"caption": number, "start_ms": one.start_ms, "rule": finding.rule, "message": finding.message}
        for number, one in enumerate(project.captions.captions, 1)
        for finding in found.get(one.id, ())
    ]
    if args.json:
        print(json.dumps({"style": style.name, "findings": rows}, ensure_ascii=False, indent=1))
    for row in [] if args.json else rows:
        clock = format_clock(int(str(row["start_ms"])))
        print(f"{row['caption']:>5}  {clock}  {row['rule']}: {row['message']}")
    return 1 if rows else 0


def _convert(args: argparse.Namespace) -> int:
    _writable(args.output)
    project = _read(args.input, args.quiet)
    if args.speakers:
        from dubrel.edits.captionvoices import speakers_followed
        from dubrel.edits.speakers import follow_stretches
        from dubrel.formats.rttm import read_stretches

        found, warnings = read_stretches(args.speakers)
        _warn(warnings, args.quiet)
        project = speakers_followed(project, follow_stretches(project, found))
    _write(project, args.output)
    return 0


def _style(name: str | None):
    from dubrel.captions.styles import DEFAULT_STYLE, house_style

    return house_style(name) if name else DEFAULT_STYLE


def _read(path: Path, quiet: bool):
    from dubrel.formats.register import read_file
    from dubrel.projectfile import open_project

    if path.suffix.lower() == ".dubrel":
        return open_project(path)
    reading = read_file(path)
    _warn(reading.warnings, quiet)
    return reading.project


def _write(project, path: Path) -> None:
    from dubrel.formats.register import write_checked
    from dubrel.projectfile import save

    if path.suffix.lower() == ".dubrel":
        save(project, path)
    else:
        write_checked(project, path)


def _writable(path: Path) -> None:
    """Refuse an output that cannot be written before hours of work, not after."""
    from dubrel.formats.register import WRITERS

    if path.suffix.lower() not in {*WRITERS, ".dubrel"}:
        raise DubrelError(f"“{path}” cannot be written: known are {', '.join(WRITERS)} and .dubrel.")
    if not path.absolute().parent.is_dir():
        raise DubrelError(f"“{path}” cannot be written: the folder does not exist. Make it first.")


def _warn(messages: Iterator[str] | Sequence[str], quiet: bool) -> None:
    for message in () if quiet else messages:
        print(f"dubrel: {message}", file=sys.stderr)


def _progress(event, quiet: bool) -> None:
    if quiet:
        return
    left = f", {event.left_s:.0f} s left" if event.left_s is not None else ""
    line = f"{event.stage}: {event.fraction:.0%}{left}"
    print(f"\r{line:<50}", end="" if sys.stderr.isatty() else "\n", file=sys.stderr, flush=True)


if __name__ == "__main__":
    sys.exit(main())
