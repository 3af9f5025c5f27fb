"""``dubrel forward`` and ``dubrel speak``: sound for ears."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_named
from dubrel.cli.common import (
    Subcommands,
    add_encoding,
    add_quiet,
    add_send,
    add_style,
    add_track,
    agree_to_send,
    listed,
    read_input,
    refuse_unwritable,
    show_all,
    style_named,
    tracks_of,
    with_media,
    write_output,
)

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import LinesSpoken
    from dubrel.model import CaptionTrack, Project

COMMANDS = ("forward", "speak")
_LOUDNESS = ("as-is", "-16", "-23")


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    forward = commands.add_parser("forward", help="bring the voice of a recording forward, and set its level")
    forward.add_argument("media", type=Path, metavar="MEDIA", help="a recording")
    forward.add_argument(
        "-o",
        "--output",
        type=Path,
        required=True,
        metavar="OUT",
        help="the form follows the suffix: .wav .flac .mp3 .m4a, or .mp4 for the film with that sound",
    )
    forward.add_argument(
        "--amount",
        type=int,
        default=100,
        metavar="N",
        help="how far, in percent; 0 sets only the level (100)",
    )
    forward.add_argument("--loudness", choices=_LOUDNESS, default="as-is", help="LUFS (as it comes out)")
    add_track(forward)
    add_quiet(forward)
    forward.set_defaults(run=_forward)
    speak = commands.add_parser("speak", help="speak captions or a translation at their times")
    speak.add_argument("input", type=Path, help="a project, captions or a transcript")
    add_encoding(speak)
    speak.add_argument(
        "-o",
        "--output",
        type=Path,
        required=True,
        metavar="OUT",
        help="sound (.wav .flac .mp3 .m4a), or the film with one more sound track (.mp4 .mkv)",
    )
    speak.add_argument("--media", type=Path, metavar="MEDIA", help="the recording under it")
    speak.add_argument(
        "--language", default="", metavar="TAG", help="which translation (pt), or what captions are in"
    )
    speak.add_argument(
        "--voice",
        default="auto",
        metavar="NAME",
        help=f"auto, folder:PATH, remote:ADDRESS or one of those here{listed(_voices)}",
    )
    speak.add_argument("--by", choices=("sentences", "captions"), default="sentences", help="in one breath")
    speak.add_argument(
        "--under", default="15", metavar="DB", help="how far the recording is lowered; “alone” for none of it"
    )
    speak.add_argument("--fastest", type=float, default=1.25, metavar="X", help="times as fast (1.25)")
    speak.add_argument("--loudness", choices=_LOUDNESS, default="as-is", help="LUFS (as it comes out)")
    speak.add_argument(
        "--captions", type=Path, metavar="OUT", help="captions of what is spoken, by its own times"
    )
    add_send(speak, "texts are")
    add_style(speak)
    add_quiet(speak)
    speak.set_defaults(run=_speak)


def _voices() -> tuple[str, ...]:
    from dubrel.speech.speaking.engines import REGISTER

    return tuple(one for one in REGISTER.names if one not in ("folder", "remote"))


def _forward(args: argparse.Namespace) -> int:
    from dubrel.base.files import try_writing
    from dubrel.film.order import FilmOrder
    from dubrel.jobs.filming import make_film
    from dubrel.media.probe import probe
    from dubrel.release.filmforms import FORMS

    suffixes = [one.suffix for one in FORMS if one.film == "forward"]
    suffix = args.output.suffix.lower()
    if suffix not in suffixes:
        raise DubrelError(f"“{args.output}” cannot be written. Known suffixes: {', '.join(suffixes)}.")
    if not 0 <= args.amount <= 100:
        raise DubrelError("--amount is a number of percent: write one from 0 to 100.")
    media = probe(args.media)
    if suffix == ".mp4" and not media.has_video:
        raise DubrelError(f"“{media.name}” has no picture. Write its sound, as .m4a or .wav.")
    if args.output.exists() and args.output.samefile(args.media):
        raise DubrelError(f"“{args.output}” is the recording itself. Choose another name.")
    try_writing(args.output)
    order = FilmOrder(
        "forward",
        media.path,
        str(args.output.absolute()),
        amount=args.amount / 100,
        loudness=None if args.loudness == "as-is" else float(args.loudness),
        tracks=tracks_of(args.media, args.track, args.quiet) if media.has_audio else (),
    )
    show_all(make_film(order), args.quiet)
    return 0


def _speak(args: argparse.Namespace) -> int:
    from dubrel.base.files import try_writing
    from dubrel.base.value import replace
    from dubrel.film.order import FilmOrder
    from dubrel.film.soundtracks.cutsound import SOUND_CODECS
    from dubrel.jobs.filming import make_film
    from dubrel.jobs.machinery.events import LinesSpoken
    from dubrel.jobs.voice.speaking import speak_lines
    from dubrel.release.spokenlines import speaking_by_memory

    suffix = args.output.suffix.lower()
    if suffix not in (*SOUND_CODECS, ".mp4", ".mkv"):
        known = ", ".join((*SOUND_CODECS, ".mp4", ".mkv"))
        raise DubrelError(f"“{args.output}” cannot be written. Known suffixes: {known}.")
    if not 1 <= args.fastest <= 2:
        raise DubrelError("--fastest is how many times as fast: write a number from 1 to 2.")
    under = None if args.under == "alone" else _decibels(args.under)
    args.language = language_named(args.language)
    if args.captions:
        refuse_unwritable(args.captions)
    if args.voice.startswith("remote:"):
        from dubrel.base.http_client import checked_address
        from dubrel.speech.speaking.voice_service import consent_name

        address = checked_address(args.voice.removeprefix("remote:"))
        agree_to_send(consent_name(address), address, args.send, "Texts")
    project = with_media(_in_language(read_input(args.input, args.quiet, args.encoding), args), args.media)
    values = {"voice": args.voice, "spoken": "captions" if args.by == "captions" else ""}
    speaking = speaking_by_memory(project, _track(project, args.language), values)
    speaking = replace(speaking, fastest=args.fastest, under_db=under)
    if not speaking.lines:
        raise DubrelError(f"“{args.input}” has nothing to speak. Give it words or captions first.")
    media = project.media
    source = media.path if media is not None and Path(media.path).is_file() else ""
    if suffix in (".mp4", ".mkv") and not (media and media.has_video and source):
        raise DubrelError(f"There is no film for “{args.output.name}”. Name it with --media, or write sound.")
    if source and args.output.exists() and args.output.samefile(source):
        raise DubrelError(f"“{args.output}” is the recording itself. Choose another name.")
    try_writing(args.output)
    loudness = None if args.loudness == "as-is" else float(args.loudness)
    order = FilmOrder("spoken", source, str(args.output.absolute()), loudness=loudness, speaking=speaking)
    show_all(make_film(order), args.quiet)
    if args.captions:
        [spoken] = [event for event in speak_lines(speaking) if isinstance(event, LinesSpoken)]
        _write_captions(spoken, speaking.language, args)
    return 0


def _in_language(project: Project, args: argparse.Namespace) -> Project:
    """The project; in the language that was said where its own cannot be told from so few words."""
    from dubrel.edits.intake import with_language

    if project.transcript.language not in ("", "und"):
        return project
    tag = args.language
    if not tag:
        raise DubrelError(f"The language of “{args.input}” cannot be told. Say it with --language (as en).")
    return with_language(project, tag)


def _decibels(text: str) -> float:
    try:
        found = float(text)
    except ValueError:
        found = -1.0
    if not 0 <= found <= 60:
        raise DubrelError("--under is wrong: write a number of decibels from 0 to 60, or alone.")
    return found


def _track(project: Project, language: str) -> CaptionTrack | None:
    """The translation into a language; what is said itself without one."""
    from dubrel.edits.translation.track import translated_tracks

    tracks = translated_tracks(project)
    found = next((one for one in tracks if one.language.lower() == language.lower()), None)
    if language and found is None and language != project.transcript.language:
        there = ", ".join(one.language for one in tracks) or "none"
        raise DubrelError(f"There is no translation into “{language}”. The project has: {there}.")
    return found


def _write_captions(spoken: LinesSpoken, language: str, args: argparse.Namespace) -> None:
    """Captions of what is spoken, set anew by the times of its own words."""
    from dubrel.edits.captions.resetting import set_again
    from dubrel.edits.intake import set_turns
    from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker

    turns = [
        RecognisedTurn(tuple(RecognisedWord(text, a, max(a + 1, b)) for text, a, b in one.words), "s0")
        for one in spoken.lines
        if one.words
    ]
    project = set_turns(Project(title=args.output.stem), turns, [Speaker("s0", "")], language)
    write_output(set_again(project, style_named(args.style)), args.captions, args.quiet)
