"""Why a passage is proposed as a clip, in words and figures."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from dubrel.base.text import counted
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
        yield f"near what was asked for ({parts['about']:.2f})"
    said = {
        "answers": lambda: _answer(known, first, last),
        "laughter": lambda: _laughter(some, known, last, heard),
        "raised": lambda: _raised(known, first, last),
        "facts": lambda: _facts(some, language),
        "thought": lambda: "one thought",
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
            return f"question and {'answer' if whole else 'the start of its answer'} ({seconds:.0f} s)"
    return ""


def _laughter(some: Sequence[Sentence], known: Features, last: int, heard: Heard) -> str:
    start, end = some[0].start_ms, int(known.ends[last]) + 1500
    found = [one for one in heard.lively if start <= one.start_ms <= end]
    if not found:
        return ""
    more = f" and {counted(len(found) - 1, 'more time', 'more times')}" if len(found) > 1 else ""
    return f"{found[-1].name} at {format_clock(found[-1].start_ms, digits=0)}{more}"


def _raised(known: Features, first: int, last: int) -> str:
    weights = (known.ends - known.starts)[first : last + 1]
    mean = np.average(known.risen[first : last + 1], axis=0, weights=np.maximum(weights, 1))
    said = []
    if mean[0] >= _RISEN[0]:
        said.append(f"louder by {mean[0]:.0f} dB")
    if mean[1] >= _RISEN[1]:
        said.append(f"higher by {counted(round(float(mean[1])), 'semitone')}")
    if mean[2] >= _RISEN[2]:
        said.append(f"faster by {mean[2]:.0%}")
    return f"{', '.join(said)} than usual" if said else ""


def _facts(some: Sequence[Sentence], language: str) -> str:
    figures = list(dict.fromkeys(one for each in some for one in figures_in(each.text)))
    names = list(dict.fromkeys(one for each in some for one in names_in(each.text, language)))
    said = [*figures, *names]
    more = f" and {len(said) - _SHOWN} more" if len(said) > _SHOWN else ""
    return f"{', '.join(said[:_SHOWN])}{more}" if said else ""


def _voices(known: Features, first: int, last: int) -> str:
    changes = int(known.turns[last] - known.turns[first])
    return counted(changes, "change of voice", "changes of voice") if changes > 1 else ""


def _edges(known: Features, first: int, last: int) -> str:
    if known.leans[first] >= 0.5:
        return f"“{known.leaning[first]}” leans on what was said before"
    after = known.after[last]
    pause = f", with {after / 1000:.1f} s of pause after it" if _PAUSE_MS <= after < 10_000 else ""
    return f"stands by itself{pause}"
