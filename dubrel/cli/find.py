"""``dubrel find``: in the words, by sound, by meaning, in any files that hold words."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from dubrel.base.errors import DubrelError
from dubrel.base.timecode import format_clock
from dubrel.cli.common import Subcommands, add_json, how_many, read_input
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import Project

COMMANDS = ("find",)
_AROUND = 6


def add_to(commands: Subcommands) -> None:
    """Add the command."""
    parser = commands.add_parser("find", help="find words, what sounds like them, or passages by meaning")
    parser.add_argument("words", help="what to find")
    parser.add_argument("files", nargs="+", type=Path, help="projects, transcripts or captions")
    how = parser.add_mutually_exclusive_group()
    how.add_argument("--sounds-like", action="store_true", help="places that sound like it, the likest first")
    how.add_argument("--meaning", action="store_true", help="passages that mean it, in any of 16 languages")
    how.add_argument("--pattern", action="store_true", help="the words are a regular expression")
    parser.add_argument("--case", action="store_true", help="capitals count")
    parser.add_argument("--whole", action="store_true", help="whole words only")
    parser.add_argument("--most", type=int, default=20, help="how many by sound or meaning (20)")
    add_json(parser)
    parser.set_defaults(run=_find)


def _find(args: argparse.Namespace) -> int:
    """Find and print; 0 where something was found, 1 where nothing was."""
    if not args.words.strip():
        raise DubrelError("Nothing to find was named. Write the words before the files.")
    how_many(args.most)
    found = []
    for path in args.files:
        project = read_input(path, quiet=args.json)
        found += [{"file": str(path), **one} for one in _found(project, args)]
    if args.sounds_like or args.meaning:
        found = sorted(found, key=lambda one: -one["score"])[: args.most]
    if args.json:
        print(json.dumps(found, ensure_ascii=False, indent=1))
    else:
        for one in found:
            print(_line(one, len(args.files) > 1))
    return 0 if found else 1


def _line(one: dict, several: bool) -> str:
    head = [one["file"]] if several else []
    head += [format_clock(one["start_ms"], digits=1)]
    head += [one["speaker"]] if one["speaker"] else []
    head += [f"{one['score']:.2f}"] if "score" in one else []
    return "\t".join([*head, f"{one['before']}[{one['text']}]{one['after']}"])


def _found(project: Project, args: argparse.Namespace) -> list[dict]:
    if args.sounds_like:
        return _alike(project, args.words, args.most)
    if args.meaning:
        return _meant(project, args.words, args.most)
    from dubrel.finding.words import Query, find

    query = Query(args.words, args.case, args.whole, args.pattern)
    return [_place(project, one.words, one.text) for one in find(project, query)]


def _alike(project: Project, words: str, most: int) -> list[dict]:
    from dubrel.finding.phones import sound_index

    found = sound_index(project).find(words, most)
    return [
        _place(project, [word.id for word in one.words], one.text) | {"score": round(one.likeness, 3)}
        for one in found
    ]


def _meant(project: Project, words: str, most: int) -> list[dict]:
    from dubrel.finding.encoder import vectors_of
    from dubrel.finding.similar import MeaningIndex
    from dubrel.project.sentences import sentences_of

    sentences = sentences_of(project)
    index = MeaningIndex()
    texts = index.missing(sentences)
    index.add(texts, vectors_of(texts))
    return [
        {
            "start_ms": one.sentence.start_ms,
            "end_ms": one.sentence.end_ms,
            "speaker": shown_name(project, one.sentence.speaker) if one.sentence.speaker else "",
            "before": "",
            "text": one.sentence.text,
            "after": "",
            "score": round(one.score, 3),
        }
        for one in index.find(vectors_of([words])[0], sentences, most)
    ]


def _place(project: Project, ids: Sequence[int], text: str) -> dict[str, Any]:
    from dubrel.project.index import turn_of

    turn = turn_of(project, ids[0])
    assert turn is not None
    first, last = turn.index_of[ids[0]], turn.index_of[ids[-1]]
    said = " ".join(word.text for word in turn.words[first : last + 1])
    at = max(0, said.find(text))
    before = "".join(f"{word.text} " for word in turn.words[max(0, first - _AROUND) : first]) + said[:at]
    after = said[at + len(text) :] + "".join(f" {w.text}" for w in turn.words[last + 1 : last + 1 + _AROUND])
    return {
        "start_ms": turn.words[first].start_ms,
        "end_ms": turn.words[last].end_ms,
        "speaker": shown_name(project, turn.speaker) if turn.speaker else "",
        "before": before,
        "text": text,
        "after": after,
    }
