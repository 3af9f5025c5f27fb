"""Who speaks, as it stands in the text of captions: names before a colon, dashes before each person."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from typing import TypeVar

from dubrel.base.text import tokens
from dubrel.base.value import replace
from dubrel.model import Cue

T = TypeVar("T")

_NAME = re.compile(r"^([^\W\d_][\w .’'-]{0,38}?)\s*:\s+(?=\S)")
DASH = re.compile(r"^[-–—‐]\s*(?=\S)")  # before what each person says
_MOST_WORDS = 4
_OFTEN = 2
_NO_NAMES = frozenset(
    "warning note caution danger tip hint example question answer remember attention notice ps chapter part "
    "step episode update source sources music translation subtitles captions".split()
)


def names_in(cues: Sequence[Cue]) -> tuple[set[str], list[str]]:
    """What is a speaker's name before a colon in this file, and what may be one.

    Returns
    -------
    sure : set of str
        Words with capitals that begin lines more than once, or in capitals
        where at least two are: the file shows that they are names.
    doubtful : list of str
        The others in capitals.
    """
    counts: Counter[str] = Counter()
    for cue in cues:
        for line in cue.lines:
            mark = _NAME.match(DASH.sub("", line))
            if mark and len(mark.group(1).split()) <= _MOST_WORDS:
                counts[mark.group(1)] += 1
    likely = {
        name: count
        for name, count in counts.items()
        if all(not word[0].islower() for word in name.split()) and name.lower() not in _NO_NAMES
    }
    loud = {name for name in likely if name.isupper() and len(name) > 1}
    sure = {name for name, count in likely.items() if count >= _OFTEN}
    if len(loud) >= _OFTEN:
        sure |= loud
    doubtful = [name for name in counts if name not in sure and name.isupper() and len(name) > 1]
    return sure, doubtful


def led_by(line: str) -> int:
    """How many signs of a line are a dash and what may be a name.

    Examples
    --------
    >>> led_by("– Ann: Yes."), led_by("Yes.")
    (7, 0)
    """
    dash = DASH.match(line)
    start = dash.end() if dash else 0
    name = _NAME.match(line[start:])
    return start + (name.end() if name else 0)


def with_speakers(cues: Sequence[Cue], sure: Collection[str], told: Collection[str] = ()) -> list[Cue]:
    """Take names and dashes out of the text of cues and say who speaks instead.

    Lines from which a name was taken are marked, so that it is put back on the
    way out. Dashes mean two people only where two lines of a cue begin with
    one. A cue without a name goes on with the speaker before it, if any cue has
    one. Where the file itself says who speaks, that holds: a name in the text
    is one only where it is the same, and nobody goes on.

    Parameters
    ----------
    cues : sequence of Cue
    sure : collection of str
        Names that the file shows to be names.
    told : collection of str
        What the user says is a name.
    """
    found: list[Cue] = []
    last: str | None = None
    voiced = any(cue.speaker or any(cue.changes.values()) for cue in cues)
    names = {*sure, *told}
    for cue in cues:
        cue = _undashed(cue, voiced)
        cue = _unnamed(cue, names, told if voiced else names)
        if cue.speaker is None and names and not cue.dashed and not voiced:
            cue = replace(cue, speaker=last)
        last = cue.changes[max(cue.changes)] if cue.changes else cue.speaker
        found.append(cue)
    return found


def _undashed(cue: Cue, voiced: bool) -> Cue:
    marks = [place for place, line in enumerate(cue.lines) if DASH.match(line)]
    if len(marks) < 2 or marks[0] != 0 or (voiced and not set(marks[1:]) <= set(cue.changes)):
        return cue
    texts = {place: DASH.sub("", cue.lines[place]) for place in marks}
    changes = {place: cue.changes.get(place) for place in marks[1:]}
    return replace(_with_lines(cue, texts), changes={**cue.changes, **changes}, dashed=tuple(marks))


def _unnamed(cue: Cue, known: Collection[str], anywhere: Collection[str]) -> Cue:
    """Without names: those that may stand ``anywhere``, and the others where their voice speaks."""
    texts, speaker, changes = dict[int, str](), cue.speaker, dict(cue.changes)
    voice = cue.speaker
    for place, line in enumerate(cue.lines):
        voice = cue.changes.get(place, voice)
        mark = _NAME.match(line)
        if mark is None or mark.group(1) not in known:
            continue
        if mark.group(1) not in anywhere and mark.group(1) != voice:
            continue
        texts[place] = line[mark.end() :]
        if place == 0:
            speaker = mark.group(1)
        else:
            changes[place] = mark.group(1)
    if not texts:
        return cue
    return replace(_with_lines(cue, texts), speaker=speaker, changes=changes, named=tuple(texts))


def _with_lines(cue: Cue, texts: dict[int, str]) -> Cue:
    """A cue in which lines begin later; the styles and times of their words go along."""
    gone = {place: len(tokens(cue.lines[place])) - len(tokens(text)) for place, text in texts.items()}

    def moved(of_words: Mapping[tuple[int, int], T]) -> dict[tuple[int, int], T]:
        return {
            (line, nth - gone.get(line, 0)): value
            for (line, nth), value in of_words.items()
            if nth >= gone.get(line, 0)
        }

    lines = tuple(texts.get(place, line) for place, line in enumerate(cue.lines))
    return replace(cue, lines=lines, styles=moved(cue.styles), begins=moved(cue.begins))
