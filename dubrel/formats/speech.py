"""Who speaks, as it stands in the text of captions: names before a colon, dashes before each person."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from dubrel.model import Cue

_NAME = re.compile(r"^([^\W\d_][\w .’'-]{0,38}?)\s*:\s+(?=\S)")
_DASH = re.compile(r"^[-–—‐]\s*(?=\S)")
_MOST_WORDS = 4
_OFTEN = 2


def with_speakers(cues: Sequence[Cue]) -> list[Cue]:
    """Take names and dashes out of the text of cues and say who speaks instead.

    What stands before a colon is a name if it is in capitals, or if it begins
    lines in the file more than once and each of its words has a capital.
    Dashes mean two people only where two lines of a cue begin with one.
    A cue without a name goes on with the speaker before it, if any cue has one.
    """
    known = _names(cues)
    found: list[Cue] = []
    last: str | None = None
    for cue in cues:
        cue = _undashed(cue)
        cue = _unnamed(cue, known) if known else cue
        if cue.speaker is None and known and not cue.dashed:
            cue = replace(cue, speaker=last)
        last = cue.changes[max(cue.changes)] if cue.changes else cue.speaker
        found.append(cue)
    return found


def _names(cues: Sequence[Cue]) -> set[str]:
    """What is a name in this file."""
    counts: Counter[str] = Counter()
    for cue in cues:
        for line in cue.lines:
            mark = _NAME.match(_DASH.sub("", line))
            if mark and len(mark.group(1).split()) <= _MOST_WORDS:
                counts[mark.group(1)] += 1
    return {name for name, count in counts.items() if _is_name(name, count)}


def _is_name(text: str, count: int) -> bool:
    if text.isupper() and len(text) > 1:
        return True
    capital = all(not word[0].islower() for word in text.split())
    return capital and count >= _OFTEN


def _undashed(cue: Cue) -> Cue:
    marks = [place for place, line in enumerate(cue.lines) if _DASH.match(line)]
    if len(marks) < 2 or marks[0] != 0:
        return cue
    lines = tuple(_DASH.sub("", line) if place in marks else line for place, line in enumerate(cue.lines))
    changes = {place: cue.changes.get(place) for place in marks[1:]}
    return replace(cue, lines=lines, changes={**cue.changes, **changes}, dashed=True)


def _unnamed(cue: Cue, known: set[str]) -> Cue:
    lines, speaker, changes = list(cue.lines), cue.speaker, dict(cue.changes)
    for place, line in enumerate(cue.lines):
        mark = _NAME.match(line)
        if mark is None or mark.group(1) not in known:
            continue
        lines[place] = line[mark.end() :]
        if place == 0:
            speaker = mark.group(1)
        else:
            changes[place] = mark.group(1)
    if lines == list(cue.lines):
        return cue
    return replace(cue, lines=tuple(lines), speaker=speaker, changes=changes)
