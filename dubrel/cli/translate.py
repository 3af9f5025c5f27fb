"""``dubrel translate``."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_named
from dubrel.cli.common import (
    Subcommands,
    add_between,
    add_encoding,
    add_output,
    add_send,
    agree_to_send,
    read_input,
    refuse_unwritable,
    shown,
    span_of,
    style_named,
    warn,
    write_output,
)

if TYPE_CHECKING:
    from dubrel.jobs.translating import Order
    from dubrel.model import CaptionTrack, Project, Weighed
    from dubrel.translation.pairs import Pair

COMMANDS = ("translate",)


def add_to(commands: Subcommands) -> None:
    """Add the commands of this group."""
    translate = commands.add_parser("translate", help="translate captions or a transcript")
    add_encoding(translate)
    translate.add_argument("input", type=Path, help="captions, a transcript or a project")
    translate.add_argument("--to", required=True, metavar="xx", help="the language, such as pt")
    translate.add_argument(
        "--from",
        dest="source",
        metavar="xx",
        help="the language of the input; told from its words unless given",
    )
    add_output(translate)
    translate.add_argument(
        "--engine",
        default="auto",
        metavar="NAME|FOLDER|URL",
        help="builtin, rules, script, a folder with a model, or the address of a service",
    )
    translate.add_argument(
        "--with",
        dest="given",
        type=Path,
        metavar="FILE",
        help="captions in the other language, paired with the input; nothing is translated",
    )
    translate.add_argument("--glossary", type=Path, metavar="CSV", help="terms with their translations")
    translate.add_argument(
        "--memory", type=Path, metavar="TMX", help="a translation memory; the user's own unless given"
    )
    translate.add_argument("--report", type=Path, metavar="REPORT.json", help="what needs a look")
    add_send(translate, "texts are")
    add_between(translate, "only what is said between two times; the rest stays open")
    translate.set_defaults(run=_translate)


def _translate(args: argparse.Namespace) -> int:
    from dubrel.base.value import replace
    from dubrel.edits.captions.resetting import set_again
    from dubrel.edits.translation.track import begin_track, spoken_track, track_into

    for path in filter(None, (args.output, args.report)):
        refuse_unwritable(path) if path is args.output else _refuse_unwritable_report(path)
    args.to, args.source = language_named(args.to), language_named(args.source or "")
    if not args.to:
        raise DubrelError("No language to translate into was named. Write --to pt, for example.")
    project = read_input(args.input, args.quiet, args.encoding)
    if args.source:
        project = replace(project, transcript=replace(project.transcript, language=args.source))
    project = _with_glossary(project, args.glossary, args.quiet)
    if spoken_track(project) is None or not project.tracks[0].captions:
        project = set_again(project, style_named(args.style))
    begin = begin_track if args.given else track_into  # a file takes the place of no translation that exists
    project, track_id = begin(project, args.to, style_named(args.style))
    if args.given:
        from dubrel.translation.fromfile import paired_file

        paired, said = paired_file(project, track_id, args.given)
        warn(said, args.quiet)
        project = paired.project
    order = _order(project, track_id, args)
    if not args.given:
        _agree(order, args.send)
    known: dict[tuple[str, str], Weighed] = {}
    if not args.given:
        project, known = _worked(project, order, args.quiet)
    project, known = _all_weighed(project, track_id, order, known, args.quiet)
    track = project.track(track_id)
    assert track is not None
    if not track.captions:
        raise DubrelError(f"“{args.input}” has no words to translate. Choose another file.")
    if args.report:
        from dubrel.base.files import write_text
        from dubrel.translation.report import rows

        text = json.dumps(rows(project, track, known), ensure_ascii=False, indent=1) + "\n"
        write_text(args.report, text)
    if args.output.suffix.lower() == ".dubrel":
        write_output(project, args.output, args.quiet)
    else:
        from dubrel.translation.document import translated_project

        write_output(translated_project(project, track), args.output, args.quiet)
    return 0


def _refuse_unwritable_report(path: Path) -> None:
    from dubrel.base.files import try_writing

    try_writing(path)


def _with_glossary(project: Project, path: Path | None, quiet: bool) -> Project:
    from dubrel.base.value import replace
    from dubrel.edits.words.terms import merged
    from dubrel.translation.glossary import glossary_clashes
    from dubrel.user.terms import TERMS

    terms = merged(project.terms, TERMS.read())
    if path is not None:
        from dubrel.formats.words.termlist import read_terms

        given, said = read_terms(path)
        warn([*said, *glossary_clashes(given)], quiet)
        terms = merged(given, terms)
    return replace(project, terms=terms)


def _order(project: Project, track_id: int, args: argparse.Namespace) -> Order:
    from dubrel.jobs.translating import Order
    from dubrel.translation.choosing import tasks_of, way_back
    from dubrel.translation.memory import memory_path
    from dubrel.user.settings import SETTINGS

    track = project.track(track_id)
    assert track is not None
    engine = _named(args.engine)
    back = way_back(project.transcript.language, args.to, SETTINGS.read().translators)
    known: tuple[tuple[str, str], ...] = ()
    if args.memory:
        from dubrel.formats.words.tmx import read_tmx
        from dubrel.translation.memory import of_units

        units, said = read_tmx(args.memory)
        warn(said, args.quiet)
        known = tuple(of_units(units, project.transcript.language, args.to))
    return Order(
        track_id,
        tuple(tasks_of(project, track, _inside(project, track, span_of(args)))),
        project.transcript.language,
        args.to,
        engine,
        back,
        project.terms,
        "" if args.memory else str(memory_path()),
        known,
    )


def _inside(project: Project, track: CaptionTrack, span: tuple[int, int] | None) -> list[Pair]:
    """What has no translation yet, of the passage that was asked for."""
    from dubrel.translation.pairs import pairs_of

    start, end = span or (0, 1 << 40)
    return [one for one in pairs_of(project, track) if not one.target and start <= one.start_ms < end]


def _agree(order: Order, send: bool) -> None:
    """Say what a service elsewhere costs; send nothing without consent."""
    from dubrel.translation.translators.remote import RemoteTranslator, consent_name

    kind, _, address = order.engine.partition(":")
    if kind != "remote" or not order.tasks:
        return
    service = RemoteTranslator(address, order.source, order.target)
    price = service.offer().price([one.text for one in order.tasks])
    agree_to_send(consent_name(service.address), service.address, send, "Texts", price)


def _named(engine: str) -> str:
    """The name of a translator for what was typed: a folder and an address need no kind before them."""
    if engine.startswith(("http://", "https://")):
        return f"remote:{engine}"
    return f"folder:{Path(engine).resolve()}" if Path(engine).is_dir() else engine


def _worked(project: Project, order: Order, quiet: bool) -> tuple[Project, dict[tuple[str, str], Weighed]]:
    from dubrel.jobs.machinery.events import SentencesWeighed
    from dubrel.jobs.machinery.fold import fold
    from dubrel.jobs.translating import translate

    known: dict[tuple[str, str], Weighed] = {}
    for event in shown(translate(order), quiet):
        project = fold(project, event)
        if isinstance(event, SentencesWeighed):
            known |= {(one.source, one.target): one for one in event.found}
    return project, known


def _all_weighed(
    project: Project, track_id: int, order: Order, known: dict[tuple[str, str], Weighed], quiet: bool
) -> tuple[Project, dict[tuple[str, str], Weighed]]:
    """Sentences that share a caption are weighed together."""
    from dubrel.jobs.machinery.events import SentencesWeighed
    from dubrel.jobs.translating import weigh
    from dubrel.translation.pairs import pairs_of
    from dubrel.translation.report import unweighed

    track = project.track(track_id)
    assert track is not None
    rest = unweighed(pairs_of(project, track), known)
    for event in shown(weigh(rest, order.source, order.target, order.back) if rest else (), quiet):
        if isinstance(event, SentencesWeighed):
            known |= {(one.source, one.target): one for one in event.found}
    return project, known
