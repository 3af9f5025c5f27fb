"""Why a passage is proposed as a clip, in words and figures."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_clock
from dubrel.finding.clips.features import Features, figures_in, names_in
from dubrel.finding.clips.heard import Heard
from dubrel.project.sentences import Sentence

_MOST, _SHOWN = 5, 3
_LEAST = {"answers": 0.5, "laughter": 0.05, "raised": 0.25, "facts": 0.3, "thought": 0.3, "voices": 0.25}
_RISEN = (2.0, 1.5, 0.12)  # decibels, semitones, share of the pace
_PAUSE_MS = 400


def reasons_of(
    some: Sequence[Sentence],
    known: Features,
    first: int,
    last: int,
    parts: Mapping[str, float],
    heard: Heard,
    language: str,
) -> Iterator[str]:
    """The reasons for a passage from one sentence to another, what counts most first."""
    telling = sorted(
        (name for name, least in _LEAST.items() if parts[name] >= least), key=lambda x: -parts[x]
    )
    if "about" in parts:
        yield tr("near what was asked for ({near:.2f})").format(near=parts["about"])
    said = {
        "answers": lambda: _answer(known, first, last),
        "laughter": lambda: _laughter(some, known, last, heard),
        "raised": lambda: _raised(known, first, last),
        "facts": lambda: _facts(some, language),
        "thought": lambda: tr("one thought"),
        "voices": lambda: _voices(known, first, last),
    }
    told = 0
    for name in telling:
        if told < _MOST and (text := said[name]()):
            told += 1
            yield text
    yield _edges(known, first, last)


def _answer(known: Features, first: int, last: int) -> str:
    for nth in range(first, min(first + 3, last + 1)):
        if known.questions[nth] and known.enough[nth] <= last:
            end = min(int(known.answered[nth]), last)
            seconds = (known.ends[end] - known.ends[nth]) / 1000
            whole = known.answered[nth] <= last
            said = (
                tr("question and answer ({seconds:.0f} s)")
                if whole
                else tr("question and the start of its answer ({seconds:.0f} s)")
            )
            return said.format(seconds=seconds)
    return ""


def _laughter(some: Sequence[Sentence], known: Features, last: int, heard: Heard) -> str:
    start, end = some[0].start_ms, int(known.ends[last]) + 1500
    found = [one for one in heard.lively if start <= one.start_ms <= end]
    if not found:
        return ""
    what, clock = tr(found[-1].name), format_clock(found[-1].start_ms, digits=0)
    if len(found) == 1:
        return tr("{what} at {clock}").format(what=what, clock=clock)
    more = counted(len(found) - 1, "more time", "more times")
    return tr("{what} at {clock} and {more}").format(what=what, clock=clock, more=more)


def _raised(known: Features, first: int, last: int) -> str:
    weights = (known.ends - known.starts)[first : last + 1]
    mean = np.average(known.risen[first : last + 1], axis=0, weights=np.maximum(weights, 1))
    said = []
    if mean[0] >= _RISEN[0]:
        said.append(tr("louder by {by:.0f} dB").format(by=mean[0]))
    if mean[1] >= _RISEN[1]:
        said.append(tr("higher by {semitones}").format(semitones=counted(round(float(mean[1])), "semitone")))
    if mean[2] >= _RISEN[2]:
        said.append(tr("faster by {by:.0%}").format(by=mean[2]))
    return tr("{how} than usual").format(how=", ".join(said)) if said else ""


def _facts(some: Sequence[Sentence], language: str) -> str:
    figures = list(dict.fromkeys(one for each in some for one in figures_in(each.text)))
    names = list(dict.fromkeys(one for each in some for one in names_in(each.text, language)))
    said = [*figures, *names]
    listed = ", ".join(said[:_SHOWN])
    if len(said) <= _SHOWN:
        return listed
    return tr("{some} and {more} more").format(some=listed, more=len(said) - _SHOWN)


def _voices(known: Features, first: int, last: int) -> str:
    changes = int(known.turns[last] - known.turns[first])
    return counted(changes, "change of voice", "changes of voice") if changes > 1 else ""


def _edges(known: Features, first: int, last: int) -> str:
    if known.leans[first] >= 0.5:
        return tr("“{word}” leans on what was said before").format(word=known.leaning[first])
    after = known.after[last]
    if _PAUSE_MS <= after < 10_000:
        return tr("stands by itself, with {pause:.1f} s of pause after it").format(pause=after / 1000)
    return tr("stands by itself")
