"""``dubrel transcribe`` and ``dubrel speakers``."""

from __future__ import annotations

import argparse
import os.path
import sys
from collections import Counter
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_named
from dubrel.base.value import replace
from dubrel.cli.common import (
    Subcommands,
    add_between,
    add_output,
    add_send,
    add_track,
    agree_to_send,
    end_progress,
    refuse_beyond,
    refuse_unwritable,
    say,
    shown,
    span_of,
    style_named,
    tracks_of,
    warn,
    write_output,
)

if TYPE_CHECKING:
    from dubrel.model import HouseStyle, Project
    from dubrel.model.choices import Choices

COMMANDS = ("transcribe", "speakers")
_SPEAKERS_HELP = (
    "off (nobody is told apart, which is the default), auto, a number, a range such as 2-4, or channels: one"
    " speaker a channel; those without a name are called Speaker 1 and so on"
)


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    transcribe = commands.add_parser("transcribe", help="turn recordings into timed words")
    transcribe.add_argument("media", type=Path, nargs="+", help="recordings; also patterns such as *.wav")
    add_output(transcribe)
    transcribe.add_argument(
        "--engine", default="builtin", help="builtin, folder:PATH of a model, or remote:ADDRESS"
    )
    transcribe.add_argument("--language", default="", help="of the speech, as a tag (en, es)")
    transcribe.add_argument("--speakers", default="off", metavar="N", help=_SPEAKERS_HELP)
    transcribe.add_argument(
        "--terms", type=Path, metavar="CSV", help="names and terms, put in where they were clearly meant"
    )
    transcribe.add_argument("--song", action="store_true", help="it is sung: find its lines and stanzas")
    add_send(transcribe, "recordings are")
    add_track(transcribe)
    add_between(transcribe, "only what is said between two times")
    transcribe.set_defaults(run=_transcribe)
    speakers = commands.add_parser("speakers", help="tell speakers apart, and write who speaks when")
    speakers.add_argument("media", type=Path, nargs="+", help="recordings; also patterns such as *.wav")
    add_output(speakers)
    speakers.add_argument(
        "--speakers",
        default="auto",
        metavar="N",
        help="auto (the default), a number, or a range; they are called Speaker 1 and so on",
    )
    add_track(speakers)
    add_between(speakers, "only who speaks between two times")
    speakers.set_defaults(run=_transcribe, engine="builtin", language="", send=False, terms=None, song=False)


def _transcribe(args: argparse.Namespace) -> int:
    from dubrel.captions.styles import DEFAULT_STYLE
    from dubrel.jobs.diarising import speaker_bounds
    from dubrel.media.probe import probe
    from dubrel.model.choices import Choices

    recordings = _recordings(args.media)
    targets = _targets(recordings, args.output)
    for target in targets:
        refuse_unwritable(target)
    style = style_named(args.style) or DEFAULT_STYLE
    apart = args.speakers == "channels"
    if not apart and args.speakers != "off":
        speaker_bounds(args.speakers)
    span = span_of(args)
    start, end = span or (0, 0)
    people = "off" if apart else args.speakers
    choices = Choices(args.engine, language_named(args.language), apart, people, from_ms=start, to_ms=end)
    _agree_to_send(args, recordings)
    put_terms = _terms(args.terms, args.quiet)
    finish = (lambda project: _as_song(put_terms(project), style)) if args.song else put_terms
    failed = 0
    for recording, target in zip(recordings, targets):
        if len(recordings) > 1 and not args.quiet:
            end_progress()
            print(f"{recording.name} → {target}", file=sys.stderr)
        try:
            if span is not None:
                refuse_beyond(span, probe(recording).duration_ms, recording.name)
            tracks = tracks_of(recording, args.track, args.quiet)
            chosen = replace(choices, tracks=tracks)
            _transcribe_one(recording, target, chosen, style, args.quiet, finish)
        except DubrelError as error:
            if len(recordings) == 1:
                raise
            failed += 1
            say(str(error))
    if failed:
        raise DubrelError(f"{failed} of {len(recordings)} recordings failed; the others are written.")
    return 0


def _terms(path: Path | None, quiet: bool) -> Callable[[Project], Project]:
    """What puts the terms of a list into a transcript; nothing without a list."""
    if path is None:
        return lambda project: project
    from dubrel.finding.termspots import with_sure_terms
    from dubrel.formats.words.termlist import read_terms

    terms, said = read_terms(path)
    warn(said, quiet)
    return lambda project: with_sure_terms(project, terms)


def _as_song(project: Project, style: HouseStyle) -> Project:
    """A transcript with its lines and stanzas, and captions that keep them."""
    from dubrel.edits.captions.resetting import set_again
    from dubrel.edits.words.songlines import set_song

    made = set_song(project, [turn.id for turn in project.transcript.turns])
    return set_again(made, style, keep_held=False)


def _transcribe_one(
    recording: Path,
    target: Path,
    choices: Choices,
    style: HouseStyle,
    quiet: bool,
    finish: Callable[[Project], Project],
) -> None:
    """One recording; what was transcribed before a failure is written too."""
    from dubrel.jobs.wholefile import kept, transcribed_project
    from dubrel.model import Project

    written = False
    try:
        for said in shown(transcribed_project(recording, choices, style), quiet):
            if isinstance(said, Project):
                try:
                    write_output(finish(said), target, quiet)
                except DubrelError as error:
                    raise kept(error) from error
                written = True
    except (DubrelError, KeyboardInterrupt) as error:
        if written:
            why = str(error) if isinstance(error, DubrelError) else "Stopped."
            raise DubrelError(f"{why} What was transcribed so far is in “{target}”.") from error
        raise


def _recordings(given: Sequence[Path]) -> list[Path]:
    """The recordings meant by paths and globs that the shell did not expand."""
    import glob

    found: list[Path] = []
    for path in given:
        is_pattern = glob.has_magic(str(path)) and not path.exists()
        matches = sorted(glob.glob(str(path))) if is_pattern else [str(path)]
        if not matches:
            raise DubrelError(f"“{path}” matches no file. Check the pattern.")
        found += [Path(one) for one in matches]
    return list(dict.fromkeys(found))


def _targets(recordings: Sequence[Path], output: Path) -> list[Path]:
    """Where each result goes: the file that was named, or one file each in a folder."""
    if os.path.isdir(output):  # a name that is too long is none
        return _apart([output / f"{one.stem}.dubrel" for one in recordings], recordings)
    if output.stem == "*" or (output.name.startswith(".") and not output.suffix):
        suffix = output.suffix or output.name
        return _apart([output.with_name(f"{one.stem}{suffix}") for one in recordings], recordings)
    if len(recordings) == 1:
        return [output]
    raise DubrelError(
        f"“{output}” is one file for {len(recordings)} recordings. "
        f"Name a folder, or a pattern such as “{output.parent}/*.srt”."
    )


def _apart(targets: Sequence[Path], recordings: Sequence[Path]) -> list[Path]:
    """The same targets, with the recording's folder in the name where two would be one file."""
    counts = Counter(targets)
    named = [
        target.with_name(f"{one.absolute().parent.name} {target.name}") if counts[target] > 1 else target
        for target, one in zip(targets, recordings)
    ]
    found: list[Path] = []
    for target in named:
        number, free = 2, target
        while free in found:
            free, number = target.with_name(f"{target.stem} {number}{target.suffix}"), number + 1
        found.append(free)
    return found


def _agree_to_send(args: argparse.Namespace, recordings: Sequence[Path]) -> None:
    """Show what a service costs; send nothing without consent."""
    from dubrel.media.probe import probe
    from dubrel.model.choices import is_remote
    from dubrel.speech.recognise.engines import engine_named
    from dubrel.speech.recognise.recogniser import Service

    if not is_remote(args.engine):
        return
    service = engine_named(args.engine)
    assert isinstance(service, Service)
    price = service.price(sum(probe(one).duration_ms for one in recordings))
    args.engine = f"remote:{service.address}"
    agree_to_send(args.engine, service.address, args.send, "Recordings", price)
