"""``dubrel clips``."""

from __future__ import annotations

import argparse
import json
import re
from pathlib import Path
from typing import TYPE_CHECKING, Any

from dubrel.base.errors import DubrelError
from dubrel.base.timecode import format_clock
from dubrel.cli.common import (
    Subcommands,
    add_json,
    add_quiet,
    how_many,
    own,
    read_input,
    show_all,
    shown,
    warn,
    with_media,
)

if TYPE_CHECKING:
    from collections.abc import Sequence

    from dubrel.finding.clips.heard import Heard
    from dubrel.finding.clips.ranking import ClipProposal
    from dubrel.model import Project
    from dubrel.model.cliprules import ClipRules

COMMANDS = ("clips",)
_LENGTH = re.compile(r"(\d{1,5}):(\d{1,5})")
_MOST = 10


def add_to(commands: Subcommands) -> None:
    """Add the command."""
    clips = commands.add_parser("clips", help="propose passages worth sharing, each with its reasons")
    clips.add_argument("input", type=Path, metavar="PROJECT", help="a project or a transcript")
    clips.add_argument("--length", default="20:60", metavar="S:S", help="shortest and longest (20:60)")
    clips.add_argument("--about", default="", metavar="WORDS", help="what they should be about")
    clips.add_argument("--most", type=int, default=_MOST, metavar="N", help=f"how many ({_MOST})")
    clips.add_argument("--save", action="store_true", help="keep them in the project as clips")
    clips.add_argument("-o", "--output", type=Path, metavar="FOLDER", help="release each into a folder in it")
    clips.add_argument("--kit", default="Clip to pass on", metavar="NAME|FILE", help="what is released")
    clips.add_argument("--media", type=Path, metavar="FILE", help="the recording that the words belong to")
    add_json(clips)
    add_quiet(clips)
    clips.set_defaults(run=_clips)


def _clips(args: argparse.Namespace) -> int:
    """Find and print, and write what was asked for; 1 where nothing was found."""
    from dubrel.edits.cuts.clips import with_clip_once
    from dubrel.release.kits import kit_named

    rules = _rules(args)
    kit = kit_named(args.kit) if args.output else None
    if args.save and args.input.suffix.lower() != ".dubrel":
        raise DubrelError(f"“{args.input}” is not a project. Clips can be kept in a .dubrel file alone.")
    project = with_media(read_input(args.input, args.quiet), args.media)
    found = proposals(project, rules, _heard(project, args.quiet), args.most)
    ids = []
    for one in found:
        project, clip_id = with_clip_once(project, one.title, [(one.start_ms, one.end_ms)])
        ids.append(clip_id)
    if args.save and found:
        _save(args.input, found)
    files, problems = _released(project, ids, kit, args) if kit is not None else ([], [])
    _print(project, found, files, problems, args)
    warn(problems, quiet=False)
    return 2 if problems else 0 if found else 1


def _rules(args: argparse.Namespace) -> ClipRules:
    from dubrel.model.cliprules import ClipRules

    found = _LENGTH.fullmatch(args.length)
    low, high = (int(found[1]), int(found[2])) if found else (0, 0)
    if not 1 <= low <= high <= 3600:
        raise DubrelError(f"“{args.length}” is not a length. Write --length 20:60, in seconds, up to 3600.")
    how_many(args.most)
    return ClipRules(low_s=low, high_s=high, about=args.about.strip())


def _heard(project: Project, quiet: bool) -> Heard:
    """What the recording sounds like; nothing where it is not there."""
    from dubrel.finding.clips.heard import Heard
    from dubrel.jobs.cuts.clipsound import heard_in, listen_for_clips

    media = project.media
    if media is None or not media.has_audio or not Path(media.path).is_file():
        warn(["The recording is not there: clips are found by the words alone."], quiet)
        return Heard()
    if heard_in(media) is None:
        show_all(listen_for_clips(media), quiet)
    return heard_in(media) or Heard()


def proposals(project: Project, rules: ClipRules, heard: Heard, most: int) -> list[ClipProposal]:
    """The clips of a project, by meaning too where sentences can be encoded."""
    from dubrel.base.errors import EngineError
    from dubrel.finding.clips.ranking import proposed_clips
    from dubrel.finding.encoder import WIDTH, vectors_of
    from dubrel.project.sentences import sentences_of

    sentences = sentences_of(project)
    if not sentences:
        raise DubrelError("There are no words to find clips in. Transcribe the recording first.")
    try:
        vectors = vectors_of([one.text for one in sentences])
        about = vectors_of([rules.about])[0] if rules.about else None
    except EngineError:
        import numpy as np

        if rules.about:
            raise
        vectors, about = np.zeros((len(sentences), WIDTH), np.float32), None
    language = project.transcript.language
    return proposed_clips(sentences, vectors, rules, heard, language, about=about, most=most)


def _save(path: Path, found: Sequence[ClipProposal]) -> None:
    """Keep clips in a project's file, as it stands there; those that are in it already stay one."""
    from dubrel.edits.cuts.clips import with_clip_once
    from dubrel.store.projectfile import read_project, save

    with own(path):
        project = read_project(path).project
        for one in found:
            project, _ = with_clip_once(project, one.title, [(one.start_ms, one.end_ms)])
        save(project, path)


def _released(
    project: Project, ids: Sequence[int], kit: Any, args: argparse.Namespace
) -> tuple[list[str], list[str]]:
    """The files that were written, and what went wrong."""
    from dubrel.jobs.cuts.clipreleases import release_clips
    from dubrel.jobs.machinery.events import NotWritten, Written

    files, problems = list[str](), list[str]()
    for event in shown(release_clips(project, ids, kit, args.output), args.quiet):
        if isinstance(event, Written):
            files.append(event.path)
        elif isinstance(event, NotWritten):
            problems.append(event.message)
    return files, problems


def _print(
    project: Project,
    found: Sequence[ClipProposal],
    files: Sequence[str],
    problems: Sequence[str],
    args: argparse.Namespace,
) -> None:
    from dubrel.edits.speakers.voices import shown_name

    if args.json:
        rows = [
            {
                "start_ms": one.start_ms,
                "end_ms": one.end_ms,
                "title": one.title,
                "reasons": list(one.reasons),
                "score": round(one.score, 3),
                "speakers": [shown_name(project, who) for who in one.speakers],
                "stands_by_itself": one.stands,
            }
            for one in found
        ]
        value = {"clips": rows, "files": list(files), "problems": list(problems)}
        print(json.dumps(value, ensure_ascii=False, indent=1))
        return
    for one in found:
        times = f"{format_clock(one.start_ms, digits=1)}\t{(one.end_ms - one.start_ms) / 1000:.0f} s"
        print(f"{times}\t{one.title}\t{'; '.join(one.reasons)}")
    if not found:
        warn(["No passage of that length stands by itself. Try another --length."], args.quiet)
    for path in files:
        print(path)
