"""The JSON form of a transcript, version 1 (see docs/formats.md)."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from dubrel.edits.intake import set_turns
from dubrel.errors import FormatError
from dubrel.formats.common import Reading, read_text
from dubrel.model import HeardTurn, HeardWord, Project, Speaker, Timing, Turn, Word

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
    if word.sure < 1:
        value["sure"] = round(word.sure, 3)
    return value


def read(path: Path) -> Reading:
    """Read a transcript.

    Raises
    ------
    FormatError
        If it is no transcript of this form, or of a newer version.
    """
    text, warnings = read_text(path)
    try:
        value = json.loads(text)
        version = value["dubrel"]
        if version > VERSION:
            raise FormatError(
                f"“{path}” was made by a newer version of Dubrel (form {version}). Update Dubrel to read it."
            )
        turns = [_read_turn(turn) for turn in value["turns"]]
        speakers = [
            Speaker(str(one["id"]), str(one.get("name") or ""), str(one.get("role") or ""))
            for one in value["speakers"]
        ]
        language = str(value.get("language") or "en")
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise FormatError(f"“{path}” is not a Dubrel transcript: {_why(error)}.") from error
    return Reading(set_turns(Project(title=path.stem), turns, speakers, language), tuple(warnings))


def _why(error: Exception) -> str:
    if isinstance(error, json.JSONDecodeError):
        return f"line {error.lineno} is not JSON"
    return f"{error} is missing" if isinstance(error, KeyError) else "its parts have other types"


def _read_turn(value: dict[str, Any]) -> HeardTurn:
    words = tuple(
        HeardWord(
            "".join(str(word["text"]).split()),
            int(word["start_ms"]),
            int(word["end_ms"]),
            float(word.get("doubt") or 0),
            Timing(word.get("timing") or "aligned"),
            str(word["also"]) if word.get("also") else None,
            float(word.get("sure", 1.0)),
        )
        for word in value["words"]
    )
    speaker = value.get("speaker")
    return HeardTurn(words, str(speaker) if speaker is not None else None)
