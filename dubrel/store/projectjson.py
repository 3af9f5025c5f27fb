"""A project as plain JSON values: as rows, and as the columns of the project file.

The *rows* are one list a turn, with its words in it; the journal writes those
that changed. The file holds words as columns (one list of ids, one of texts,
one of times), so that it is small and opens in a moment.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Sequence
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.value import asdict, part_names, replace
from dubrel.captions.styles import DEFAULT_STYLE, style_to_json
from dubrel.model import Camera, Caption, CaptionTrack, Cut, Media, Note, Project, Speaker, Term, Turn, Word

VERSION = 10
_COLUMNS = ("id", "text", "start_ms", "end_ms", "doubt", "timing")
_NO_TEXT = re.compile("[\ud800-\udfff]")
_PIECE = 200  # rows that are encoded at once: another thread has its turn in between

_USUAL: dict[str, Any] = {
    "title": "Untitled",
    "subtitle": "",
    "next_id": 1,
    "language": "en",
    "speakers": [],
    "tracks": [],
    "active": 0,
    "notes": [],
    "terms": [],
    "releases": [],
    "cuts": [],
    "framing": [],
    "cameras": [],
    "switches": [],
    "by": "",
}
_TYPES: dict[type, Any] = {str: str, int: int, list: list}

Rows = dict[str, Any]
_TWO_LINES = "Two lines of 42"
_EARLIER_STYLES = {
    style.name: style
    for style in (
        replace(DEFAULT_STYLE, name=_TWO_LINES),
        replace(DEFAULT_STYLE, name=f"{_TWO_LINES}, two people with dashes", dashes=True),
        replace(DEFAULT_STYLE, name=f"{_TWO_LINES}, names at each change", names="change"),
        replace(DEFAULT_STYLE, name=f"{_TWO_LINES}, names always", names="always"),
    )
}
"""House styles that files of version 1 name."""


def dumps(value: Any) -> str:
    """JSON without white space; what no text can hold (bytes in a file's name) is escaped."""
    text = json.dumps(value, ensure_ascii=False, separators=(",", ":"), allow_nan=False)
    if text.isascii() or not _NO_TEXT.search(text):
        return text
    return json.dumps(value, separators=(",", ":"), allow_nan=False)


# -- rows -------------------------------------------------------------------------


def word_row(word: Word) -> list[Any]:
    """One word."""
    known = [word.id, word.text, word.start_ms, word.end_ms, round(word.doubt, 4), word.timing.value]
    marks = word.struck + 2 * word.filler + 4 * word.spaced + 8 * word.verse
    return [*known, marks, word.also, round(word.sure, 3)]


def turn_head(turn: Turn) -> list[Any]:
    """One turn without its words."""
    return [turn.id, turn.speaker, turn.proofed + turn.reworded, turn.confirmed]


def turn_row(turn: Turn) -> list[Any]:
    """One turn with its words."""
    return [*turn_head(turn), [word_row(one) for one in turn.words]]


def caption_row(one: Caption) -> list[Any]:
    """One caption."""
    lists = (list(ids) for ids in (one.words, one.breaks, one.named, one.dashed))
    row = [one.id, one.start_ms, one.end_ms, *lists, one.text, list(one.sources)]
    by_hand = [list(one.held), list(one.hidden), one.done]
    if not any((one.place, one.styled, one.of, one.said, *by_hand)):
        return row
    row += [one.place, [list(pair) for pair in one.styled]]
    if one.of or one.said:
        return [*row, *by_hand, list(one.of), one.said]
    return [*row, *by_hand] if any(by_hand) else row


def note_row(one: Note) -> list[Any]:
    """One note."""
    row = [one.id, one.start_ms, one.kind, one.text, list(one.words)]
    more = [one.end_ms, one.answer, one.done, one.moved]
    people = [one.by, one.to, one.answered_by]
    return [*row, *more, *people] if any(people) else [*row, *more] if any(more) else row


def term_row(one: Term) -> list[Any]:
    """One term."""
    row = [one.right, list(one.heard), one.note, [list(pair) for pair in one.translations]]
    more = [[list(pair) for pair in one.forms], [list(pair) for pair in one.forbidden], one.keep, one.cased]
    return [*row, *more] if any(more) else row


def cut_row(one: Cut) -> list[Any]:
    """One cut: its passages in order, and what was taken out."""
    passages = [
        [each.start_ms, each.end_ms, each.cross_ms, each.lead_frames, each.plays] for each in one.passages
    ]
    taken = [[each.start_ms, each.end_ms, each.why] for each in one.taken]
    return [one.id, one.name, passages, taken, *([True] if one.clip else [])]


def camera_row(one: Camera) -> list[Any]:
    """One camera."""
    return [one.id, one.name, media_json(one.media), one.starts_ms, one.rate, list(one.shows)]


def speaker_row(one: Speaker) -> list[str]:
    """One speaker."""
    return [one.id, one.name, one.role]


def media_json(media: Media | None) -> dict[str, Any] | None:
    """The linked recording."""
    if media is None:
        return None
    rate = str(media.frame_rate) if media.frame_rate else None
    shots = None if media.shots is None else list(media.shots)
    banners = [list(asdict(one).values()) for one in media.banners]
    own = {name: getattr(media, name) for name in part_names(media) if name != "sound"}
    if media.sound:
        own["sound"] = list(media.sound)
    return {
        **own,
        "frame_rate": rate,
        "tracks": list(media.tracks),
        "shots": shots,
        "banners": banners,
    }


def track_head(track: CaptionTrack) -> dict[str, Any]:
    """A caption track without its captions."""
    return {
        "id": track.id,
        "language": track.language,
        "style": style_to_json(track.style),
        "look": asdict(track.look),
        "looks": [[speaker, asdict(look)] for speaker, look in track.looks],
        "translates": track.translates,
    }


def project_head(project: Project) -> dict[str, Any]:
    """What stands once in a project."""
    return {
        "title": project.title,
        "subtitle": project.subtitle,
        "next_id": project.next_id,
        "media": media_json(project.media),
        "language": project.transcript.language,
        "speakers": [speaker_row(one) for one in project.transcript.speakers],
        "active": project.active,
        "terms": [term_row(one) for one in project.terms],
        "releases": [[one.at, one.kit, list(one.files), one.digest] for one in project.releases],
        "by": project.by,
        "framing": [[one.ms, one.x, one.y, one.pans] for one in project.framing.keys],
    }


# -- the file ---------------------------------------------------------------------


def to_text(project: Project) -> str:
    """The text of ``project.json``; encoded in pieces, so that it holds no other thread up."""
    words = [word for turn in project.transcript.turns for word in turn.words]
    head = dumps({"version": VERSION, **project_head(project)})[:-1]
    turns = _list([one.id, len(one.words), *turn_head(one)[1:]] for one in project.transcript.turns)
    tracks = ",".join(
        f'{dumps(track_head(one))[:-1]},"captions":{_list(map(caption_row, one.captions))}}}'
        for one in project.tracks
    )
    notes = _list(map(note_row, project.notes))
    cuts = _list(map(cut_row, project.cuts))
    cameras = _list(map(camera_row, project.cameras.all))
    switches = _list([one.ms, one.camera] for one in project.cameras.switches)
    seen = f'"cameras":{cameras},"switches":{switches}'
    rest = f'"tracks":[{tracks}],"notes":{notes},"cuts":{cuts},{seen}'
    return f'{head},"turns":{turns},"words":{_columns(words)},{rest}}}'


def _columns(words: Sequence[Word]) -> str:
    columns = {
        "id": (word.id for word in words),
        "text": (word.text for word in words),
        "start_ms": (word.start_ms for word in words),
        "end_ms": (word.end_ms for word in words),
        "doubt": (round(word.doubt, 4) for word in words),
        "timing": (word.timing.value for word in words),
        "struck": (word.id for word in words if word.struck),
        "filler": (word.id for word in words if word.filler),
        "spaced": (word.id for word in words if word.spaced),
        "verse": (word.id for word in words if word.verse),
        "also": ([word.id, word.also] for word in words if word.also),
        "sure": ([word.id, round(word.sure, 3)] for word in words if word.sure < 1),
    }
    return "{" + ",".join(f'"{name}":{_list(column)}' for name, column in columns.items()) + "}"


def _list(rows: Iterator[Any] | Any) -> str:
    pieces, piece = [], []
    for row in rows:
        piece.append(row)
        if len(piece) == _PIECE:
            pieces.append(dumps(piece)[1:-1])
            piece = []
    if piece:
        pieces.append(dumps(piece)[1:-1])
    return f"[{','.join(pieces)}]"


def rows_of(value: Any) -> tuple[Rows, list[str]]:
    """The rows of what stands in a project file, of this or of an earlier version.

    Returns
    -------
    rows : dict
        Not validated yet; see :func:`dubrel.store.validating.project_of`.
    said : list of str
        What did not fit together.

    Raises
    ------
    ValueError, KeyError, TypeError
        If it has no such parts.
    """
    said: list[str] = []
    if value["version"] == 1:
        value = _from_version_1(value, said)
    if value["version"] < 4:
        value = {"terms": [], **value}
    if value["version"] < 6:
        value = {"releases": [], **value}
    if value["version"] < 7:
        value = {"cuts": [], **value}
    if value["version"] < 8:
        value = {"framing": [], **value}
    if value["version"] < 9:
        value = {"cameras": [], "switches": [], **value}
    if value["version"] < 10:
        value = {"by": "", **value}
    columns = value["words"]
    lists = [columns[name] for name in _COLUMNS]
    if not all(isinstance(one, list) for one in (*lists, value["turns"])):
        raise TypeError(tr("a list is missing"))
    if min(map(len, lists)) < max(map(len, lists)):
        said.append(
            tr("Some columns of words were shorter than others; words without all of them were left out.")
        )
    turns = _turn_rows(value["turns"], _word_rows(columns, lists), said)
    missing = [name for name, usual in _USUAL.items() if not isinstance(value.get(name), _TYPES[type(usual)])]
    if missing:
        said.append(
            tr("Missing or of another type, and left out: {missing}.").format(missing=", ".join(missing))
        )
    rest = {name: usual if name in missing else value[name] for name, usual in _USUAL.items()}
    return {**rest, "media": value.get("media"), "turns": turns}, said


def _turn_rows(heads: list[Any], words: list[list[Any]], said: list[str]) -> list[Any]:
    """Turns with their words; words that are in none stand in one of their own at the end."""
    turns: list[Any] = []
    at = bad = 0
    for row in heads:
        length = row[1] if isinstance(row, list) and len(row) > 1 else None
        if type(length) is not int or length < 0:
            bad += 1
            continue
        rest, own = row[2:], words[at : at + length]
        if len(rest) > 3:  # earlier files say how sure the whole turn is, and end the row sooner
            own = [[*word[:8], rest[3]] for word in own]
        turns.append([row[0], rest[0] if rest else None, *_marks(rest), own])
        at += length
    if bad:
        said.append(tr("Some turns could not be read; their words went to their neighbours."))
    if at < len(words):
        said.append(tr("Some words were in no turn; they stand in a turn of their own at the end."))
        turns.append([0, None, False, False, words[at:]])
    return turns


def _marks(rest: list[Any]) -> list[Any]:
    """Whether a turn is proofed and confirmed; rows of earlier files end before."""
    return [*rest[1:3], *(False for _ in range(2 - len(rest[1:3])))]


def _word_rows(columns: Any, lists: list[list[Any]]) -> list[list[Any]]:
    struck, filler, spaced, verse = (
        {one for one in _list_of(columns, name) if isinstance(one, int)}
        for name in ("struck", "filler", "spaced", "verse")
    )
    also, sure = _pairs(columns, "also"), _pairs(columns, "sure")
    return [
        (
            [
                *row,
                (row[0] in struck) + 2 * (row[0] in filler) + 4 * (row[0] in spaced) + 8 * (row[0] in verse),
                also.get(row[0]),
                sure.get(row[0], 1.0),
            ]
            if isinstance(row[0], int)
            else [*row, False, None, 1.0]
        )
        for row in zip(*lists, strict=False)
    ]


def _list_of(columns: Any, name: str) -> list[Any]:
    found = columns.get(name, [])
    return found if isinstance(found, list) else []


def _pairs(columns: Any, name: str) -> dict[int, Any]:
    rows = _list_of(columns, name)
    return {
        one[0]: one[1] for one in rows if isinstance(one, list) and len(one) == 2 and isinstance(one[0], int)
    }


def _from_version_1(value: dict[str, Any], said: list[str]) -> dict[str, Any]:
    """One track or none, its style by name; notes without words; earlier rows end sooner."""
    track, next_id = value["captions"], value["next_id"]
    tracks = []
    if track is not None:
        if track["style"] not in _EARLIER_STYLES:
            said.append(
                tr("There is no house style “{name}” any more; the usual one took its place.").format(
                    name=track["style"]
                )
            )
        style = style_to_json(_EARLIER_STYLES.get(track["style"], DEFAULT_STYLE))
        rows = [[*row, *([] for _ in range(7 - len(row))), "", []] for row in track["captions"]]
        kept = {"id": next_id, "language": track["language"], "captions": rows}
        tracks.append({**kept, "style": style, "look": {}, "translates": None})
    notes = [[*row, []] for row in value["notes"]]
    active = next_id if tracks else 0
    return {**value, "tracks": tracks, "active": active, "notes": notes, "next_id": next_id + len(tracks)}
