"""``dubrel align`` and ``dubrel audit``."""

from __future__ import annotations

import argparse
from pathlib import Path

from dubrel.base.languages import language_named
from dubrel.cli.common import (
    Subcommands,
    add_encoding,
    add_json,
    add_output,
    add_quiet,
    read_input,
    refuse_unwritable,
    shown,
    style_named,
    write_output,
)

COMMANDS = ("align", "audit")


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    align = commands.add_parser("align", help="align an existing script with the sound")
    align.add_argument("media", type=Path, help="the recording")
    align.add_argument("script", type=Path, help="what is said: .txt .md .docx .odt .srt .vtt")
    align.add_argument("--language", default="", help="of the script, as a tag; detected if left out")
    add_output(align)
    align.set_defaults(run=_align)
    audit = commands.add_parser("audit", help="audit the timing of captions against the sound")
    add_encoding(audit)
    audit.add_argument("media", type=Path, help="the recording")
    audit.add_argument("captions", type=Path, help="captions, a transcript or a project")
    add_json(audit)
    audit.add_argument("--fix", type=Path, metavar="OUT", help="write the captions with times from the sound")
    add_quiet(audit)
    audit.set_defaults(run=_audit)


def _align(args: argparse.Namespace) -> int:
    from dubrel.edits.captions.resetting import set_again
    from dubrel.formats.scripts.script import read_script
    from dubrel.jobs.alignscript import align_script
    from dubrel.jobs.machinery.fold import fold
    from dubrel.media.probe import probe
    from dubrel.model import Project

    refuse_unwritable(args.output)
    style = style_named(args.style)
    language = language_named(args.language)
    pieces, media = read_script(args.script), probe(args.media)
    project = Project(title=args.script.stem, media=media)
    for event in shown(align_script(media, pieces, language), args.quiet):
        project = fold(project, event)
    write_output(set_again(project, style), args.output, args.quiet)
    return 0


def _audit(args: argparse.Namespace) -> int:
    import json

    from dubrel.edits.captions.auditfixes import audit_cues, audited_words, repaired
    from dubrel.edits.captions.resetting import set_again
    from dubrel.edits.words.typedtimes import retimed_words
    from dubrel.jobs.machinery.events import Audited
    from dubrel.jobs.timingaudit import audit_captions
    from dubrel.media.probe import probe
    from dubrel.release.auditreport import as_json, as_text

    if args.fix:
        refuse_unwritable(args.fix)
    media, project = probe(args.media), read_input(args.captions, args.quiet, args.encoding)
    of_words = project.captions is None
    if of_words:  # a transcript: its words are audited in captions
        project = set_again(project)
    ids, cues = audit_cues(project)
    status = 0
    for event in shown(audit_captions(media, cues), args.quiet):
        if isinstance(event, Audited):
            report = event.report
            status = 0 if report.clean else 1
            print(json.dumps(as_json(report), ensure_ascii=False, indent=1) if args.json else as_text(report))
            if args.fix and of_words:
                found = dict(zip(audited_words(project, ids), event.words))
                write_output(retimed_words(project, found), args.fix, args.quiet)
            elif args.fix:
                write_output(repaired(project, report, ids, "retime"), args.fix, args.quiet)
    return status
