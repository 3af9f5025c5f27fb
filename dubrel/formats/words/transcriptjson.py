"""The JSON form of a transcript, version 1 (see docs/formats.md)."""

from __future__ import annotations

import json
from collections.abc import Collection
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.jsontext import MOST_BYTES, parse_json
from dubrel.base.languages import UNKNOWN
from dubrel.base.text import tokens
from dubrel.base.timecode import LATEST_MS
from dubrel.edits.intake import set_turns
from dubrel.formats.shared.agreement import said, who_says
from dubrel.formats.shared.common import Reading, read_bytes
from dubrel.formats.shared.form import TRANSCRIPT, Content, Form, of_project
from dubrel.formats.shared.oddities import Oddities
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker, Timing, Turn, Word

VERSION = 1


def write(project: Project) -> str:
    """The transcript as JSON, one turn after the other."""
    media, transcript = project.media, project.transcript
    value = {
        "dubrel": VERSION,
        "language": transcript.language,
        "media": {"name": media.name, "duration_ms": media.duration_ms} if media else None,
        "speakers": [_speaker(one) for one in transcript.speakers],
        "turns": [_turn(turn) for turn in transcript.turns],
    }
    return json.dumps(value, ensure_ascii=False, indent=1) + "\n"


def _speaker(one: Speaker) -> dict[str, str]:
    value = {"id": one.id, "name": one.name}
    return value | {"role": one.role} if one.role else value


def _turn(turn: Turn) -> dict[str, Any]:
    words = [_word(word) for word in turn.words if not word.struck]
    return {"speaker": turn.speaker, "start_ms": turn.start_ms, "end_ms": turn.end_ms, "words": words}


def _word(word: Word) -> dict[str, Any]:
    value: dict[str, Any] = {"text": word.text, "start_ms": word.start_ms, "end_ms": word.end_ms}
    value["doubt"] = round(word.doubt, 3)
    if word.timing is not Timing.ALIGNED:
        value["timing"] = word.timing.value
    if word.also:
        value["also"] = word.also
    if word.spaced:
        value["spaced"] = True
    if word.verse:
        value["verse"] = True
    if word.sure < 1:
        value["sure"] = round(word.sure, 3)
    return value


def read(path: Path) -> Reading:
    """Read a transcript.

    Raises
    ------
    FormatError
        If it is not a transcript of this form, or of a newer version.
    """
    data = read_bytes(path, MOST_BYTES)
    odd = Oddities()
    try:
        value = parse_json(data)
        version = value["dubrel"]
        if isinstance(version, bool) or not isinstance(version, int):
            raise TypeError("no version")
        if version > VERSION:
            raise FormatError(
                tr(
                    "“{path}” was made by a newer version of Dubrel (form {version}). Update Dubrel "
                    "to read it."
                ).format(path=path, version=version)
            )
        speakers = [
            Speaker(str(one["id"]), str(one.get("name") or ""), str(one.get("role") or ""))
            for one in value["speakers"]
        ]
        speakers = list({one.id: one for one in speakers}.values())
        known = {one.id for one in speakers}
        turns = [_read_turn(turn, known, odd) for turn in value["turns"]]
        language = str(value.get("language") or UNKNOWN)[:40]
        media = value.get("media")
        recording = str(media.get("name") or "") if isinstance(media, dict) else ""
    except (ValueError, KeyError, TypeError, AttributeError, OverflowError) as error:
        raise FormatError(
            tr("“{path}” is not a Dubrel transcript: {error}. Choose another file.").format(
                path=path, error=_why(error)
            )
        ) from error
    turns = [one for one in turns if one.words]
    in_order = sorted(turns, key=lambda one: one.words[0].start_ms)
    if in_order != turns:
        odd.say(tr("The turns were out of order; they were sorted by time."))
    project = set_turns(Project(title=path.stem), in_order, speakers, language)
    return Reading(project, tuple(odd.sentences()), recording=recording)


def _why(error: Exception) -> str:
    if isinstance(error, json.JSONDecodeError):
        return tr("line {line} is not JSON").format(line=error.lineno)
    if isinstance(error, KeyError):
        return f"{error} is missing"
    return str(error) if type(error) is ValueError else tr("its parts have other types")


def _read_turn(value: dict[str, Any], known: Collection[str], odd: Oddities) -> RecognisedTurn:
    words: list[RecognisedWord] = []
    for row in value["words"]:
        words += _read_words(row, words[-1].start_ms if words else 0, known, odd)
    speaker = value.get("speaker")
    if speaker is not None and str(speaker) not in known:
        odd.left_out(tr("speakers who are not in the list"))
        speaker = None
    return RecognisedTurn(tuple(words), str(speaker) if speaker is not None else None)


def _read_words(
    row: dict[str, Any], least: int, known: Collection[str], odd: Oddities
) -> list[RecognisedWord]:
    """The word of a row; more than one where its text holds white space."""
    texts = tokens(str(row["text"]))
    times = int(row["start_ms"]), int(row["end_ms"])
    start = min(max(times[0], least), LATEST_MS)
    end = min(max(times[1], start), LATEST_MS)
    if (start, end) != times:
        odd.say(tr("Some times were impossible; they are the nearest possible ones now."))
    doubt, sure = float(row.get("doubt") or 0), float(row.get("sure", 1.0))
    if not 0 <= doubt <= 1 or not 0 <= sure <= 1:
        odd.say(tr("Some doubts were not between 0 and 1; they are the nearest of them now."))
    if len(texts) > 1:
        odd.say(tr("Some words held white space; each part is a word now."))
    also = str(row["also"]) if row.get("also") else None
    rest = (
        min(1.0, max(0.0, doubt)),
        Timing(row.get("timing") or "aligned"),
        also if also in known else None,
        min(1.0, max(0.0, sure)),
    )
    spaced, verse = row.get("spaced") is True, row.get("verse") is True
    parts, span = len(texts), end - start
    return [
        RecognisedWord(
            text,
            start + span * nth // parts,
            start + span * (nth + 1) // parts,
            *rest,
            spaced=spaced and not nth,
            verse=verse and not nth,
        )
        for nth, text in enumerate(texts)
    ]


def _agrees(content: Content, path: Path) -> bool:
    """Words, their times and who says them."""
    wanted, found = content.project, read(path).project
    words = [
        [(one.text, one.start_ms, one.end_ms, one.spaced, one.verse) for one in said(project)]
        for project in (wanted, found)
    ]
    return words[0] == words[1] and who_says(wanted) == who_says(found)


_SEED = {
    "dubrel": 1,
    "language": "en",
    "media": {"name": "a.wav", "duration_ms": 5000},
    "speakers": [{"id": "s1", "name": "Isolde"}, {"id": "s2", "name": ""}],
    "turns": [
        {
            "speaker": "s1",
            "start_ms": 100,
            "end_ms": 900,
            "words": [
                {"text": "Slow", "start_ms": 100, "end_ms": 400, "doubt": 0.5, "also": "s2"},
                {
                    "text": "water.",
                    "start_ms": 400,
                    "end_ms": 900,
                    "doubt": 0.1,
                    "timing": "spread",
                    "sure": 0.4,
                },
            ],
        }
    ],
}
FORM = Form(
    id="json",
    label="JSON with the times of every word",
    suffixes=(".json",),
    group=TRANSCRIPT,
    write=of_project(write),
    read=lambda path, names: read(path),
    agrees=_agrees,
    seed=json.dumps(_SEED, indent=1).encode(),
)
