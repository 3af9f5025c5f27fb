"""What a form of captions cannot hold: counted before writing, and found by reading back."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence, Set
from dataclasses import dataclass, fields, replace
from itertools import groupby, zip_longest

from dubrel.edits.captiontext import CaptionText, shown_captions
from dubrel.formats.inline import Row, key_of_settings, settings_of_key, taken_apart
from dubrel.formats.speech import led_by
from dubrel.model import Look, Project
from dubrel.release.source import Source
from dubrel.text import counted, word_units

_USUAL = Look()
_DRAWN = tuple(one.name for one in fields(Look))
_CALLED = {
    "font": "font", "size": "size", "colour": "colour", "ground": "colour of the box", "opacity": "opacity of the box",
    "weight": "weight", "slanted": "slant", "outline": "outline", "outline_colour": "colour of the outline",
    "shadow": "shadow", "box": "kind of box", "padding": "padding", "spacing": "spacing of lines",
    "spoken": "colour of the word that is spoken",
}  # fmt: skip


@dataclass(frozen=True)
class Cannot:
    """What a form cannot hold.

    Attributes
    ----------
    place : {"", "exact", "all"}
        ``exact``: one of nine places is held.
    speakers, styles, language : bool
    look : tuple of str
        Fields of :class:`dubrel.model.Look`.
    looks : bool
        Looks of single speakers.
    tags : bool
        Whether it takes words that look like tags for tags.
    together : bool
        Whether captions at the very same times are read as one.
    """

    place: str = ""
    speakers: bool = False
    styles: bool = False
    language: bool = False
    look: tuple[str, ...] = ()
    looks: bool = False
    tags: bool = False
    together: bool = False


def _all_but(*held: str) -> tuple[str, ...]:
    return tuple(name for name in _DRAWN if name not in held)


_IN_STYLES = ("font", "colour", "ground", "opacity", "weight", "slanted")
CANNOT = {
    "srt": Cannot("exact", True, False, True, _DRAWN, True, True),
    "webvtt": Cannot(look=_all_but(*_IN_STYLES)),
    "ttml": Cannot("exact", look=_all_but("colour", "ground", "opacity"), looks=True, together=True),
    "lrc": Cannot("all", True, True, True, _DRAWN, True, True),
    "csv": Cannot("", False, True, True, _DRAWN, True, True),
    "tsv": Cannot("", False, True, True, _DRAWN, True, True),
}


@dataclass(frozen=True)
class _Shown:
    """What a caption shows, whatever the file is that it comes from."""

    times: tuple[int, int]
    lines: tuple[str, ...]
    speakers: tuple[str, ...]
    place: str
    styles: tuple[str, ...]


_DASH = re.compile(r"^[-–—‐]\s*(?=\S)")


def _plain(line: str) -> str:
    """A line with single spaces, and a dash before it as we write one."""
    return _DASH.sub("– ", " ".join(line.split()))


def _signs(text: CaptionText) -> tuple[str, ...]:
    """The style of each sign that is seen, without names before a line; nothing where none has one."""
    found = []
    for pieces in text.pieces:
        signs = [(sign, "".join(sorted(style))) for piece, style in pieces for sign in piece]
        said = "".join(sign for sign, _ in signs)
        led = len(said) - len(said.lstrip()) + led_by(said.lstrip())
        found += [style for sign, style in signs[led:] if sign.strip()]
    return tuple(found) if any(found) else ()


def _shown(project: Project, together: bool) -> list[_Shown]:
    found = []
    for caption, text in shown_captions(project, project.captions):
        lines = tuple(map(_plain, text.lines))
        speakers = tuple(" ".join(one.split()) for one in text.speakers) or ("",) * len(lines)
        times = (caption.start_ms, caption.end_ms)
        found.append(_Shown(times, lines, speakers, caption.place, _signs(text)))
    found.sort(key=lambda one: one.times)
    if not together:
        return found
    runs = [list(run) for _, run in groupby(found, key=lambda one: one.times)]
    return [run[0] if len(run) == 1 else _joined(run) for run in runs]


def _joined(run: Sequence[_Shown]) -> _Shown:
    lines = tuple(line for one in run for line in one.lines)
    speakers = tuple(name for one in run for name in one.speakers)
    seen = [sum(len("".join(line[led_by(line) :].split())) for line in one.lines) for one in run]
    styles = [style for one, many in zip(run, seen) for style in one.styles or ("",) * many]
    return _Shown(run[0].times, lines, speakers, run[0].place, tuple(styles) if any(styles) else ())


def differences(wanted: Project, found: Project, cannot: Cannot) -> Counter[str]:
    """In how many captions two projects show something else, by what it is."""
    told: Counter[str] = Counter()
    shown = _shown(wanted, cannot.together)
    whole = _readable(shown, cannot)
    told["words"] += len(shown) - len(whole)  # nothing but what looks like tags
    for one, other in zip_longest(whole, _shown(found, cannot.together)):
        if one is None or other is None:
            told["captions"] += 1
            continue
        told["times"] += one.times != other.times
        told["words"] += one.lines != other.lines
        if cannot.tags and without_tags(one.lines) != [*one.lines]:
            continue  # taken for tags, they may say anything else too
        told["speakers"] += any(one.speakers) and one.speakers != other.speakers
        told["place"] += one.place != other.place
        told["styles"] += one.styles != other.styles
    return +(told + _of_track(wanted, found, {name for one in shown for name in one.speakers}))


def _readable(shown: list[_Shown], cannot: Cannot) -> list[_Shown]:
    """Captions that are more than what looks like tags."""
    return [one for one in shown if not cannot.tags or without_tags(one.lines)]


def leaves_any(project: Project, cannot: Cannot) -> bool:
    """Whether a reader finds any caption in a file."""
    return bool(_readable(_shown(project, False), cannot))


def _of_track(wanted: Project, found: Project, speaking: Set[str]) -> Counter[str]:
    told: Counter[str] = Counter()
    one, other = wanted.captions, found.captions
    if one is not None and other is not None:
        told.update(_apart(_seen(one.look), _seen(other.look)))
        looks = [{who: look for who, look in _dressed(one) if who in speaking} for one in (wanted, found)]
        told["looks"] += looks[0] != looks[1]
        told["language"] += _tag(wanted) != _tag(found)
    return told


def _tag(project: Project) -> str:
    return project.captions.language if project.captions else project.transcript.language


def _dressed(project: Project) -> list[tuple[str, Look]]:
    track = project.captions
    names = {one.id: " ".join(one.name.split()) for one in project.transcript.speakers}
    return [(names.get(who, ""), _seen(look)) for who, look in track.looks] if track else []


def _seen(look: Look) -> Look:
    """A look without what nobody sees of it."""
    if look.box == "none" or not look.opacity:
        look = replace(look, box="none", ground=_USUAL.ground, opacity=_USUAL.opacity, padding=_USUAL.padding)
    return look if look.outline else replace(look, outline_colour=_USUAL.outline_colour)


def _apart(one: Look, other: Look) -> list[str]:
    return [name for name in _DRAWN if getattr(one, name) != getattr(other, name)]


def _lost_of(look: Look, cannot: Cannot) -> list[str]:
    """What a form cannot hold of a look."""
    return [name for name in _apart(_seen(look), _USUAL) if name in cannot.look]


def expected(source: Source, cannot: Cannot) -> Counter[str]:
    """What a form cannot hold of this project, counted in captions, by what it is."""
    project, told = source.project, Counter[str]()
    track = project.captions
    if track is None:
        return told
    for caption, text in shown_captions(project, track):
        if caption.place:
            held = settings_of_key(key_of_settings(caption.place))
            told["place"] += cannot.place == "all" or (cannot.place == "exact" and held != caption.place)
        told["speakers"] += cannot.speakers and any(text.speakers)
        told["styles"] += any(style for line in text.pieces for _, style in line) and (
            cannot.styles or any(map(_parted, text.pieces))
        )
        lines = [*map(_plain, text.lines)]
        told["words"] += cannot.tags and without_tags(lines) != lines
    told.update(_lost_of(track.look, cannot))
    names = {one.id: one.name for one in project.transcript.speakers}
    told["looks"] += any(
        cannot.looks or not names.get(who, "") or bool(_lost_of(look, cannot)) for who, look in track.looks
    )
    told["language"] += cannot.language
    if cannot.together:
        shown = _shown(project, False)
        told["together"] = len(shown) - len(_shown(project, True))
    return +told


def _parted(line: Sequence[tuple[str, str]]) -> bool:
    """Whether a style ends inside what a reader takes for a word: scripts without spaces leave that open."""
    row = Row()
    for piece, style in line:
        row.add(piece, style)
    at = 0
    for unit in word_units(row.text):
        at = row.text.index(unit, at)
        if len(set(row.styles[at : at + len(unit)])) > 1:
            return True
        at += len(unit)
    return False


def without_tags(lines: Sequence[str]) -> list[str]:
    """Lines as a form reads them that cannot tell a tag from words that look like one."""
    return [row.text for row in taken_apart(lines).rows]


def said_of(form: str, source: Source) -> list[str]:
    """What a form of captions cannot hold, in words."""
    cannot = CANNOT[form]
    told = expected(source, cannot)
    found = []
    if told["place"]:
        exact = "exact " if cannot.place == "exact" else ""
        found.append(f"the {exact}place of {counted(told['place'], 'caption')}")
    drawn = [_CALLED[name] for name in _DRAWN if told[name]]
    if drawn or told["looks"]:
        whole = set(cannot.look) == set(_DRAWN)
        parts = ["the look"] if whole else [f"the {', '.join(drawn)} of the look"] if drawn else []
        found += parts if not told["looks"] or whole else [*parts, "the looks of single speakers"]
    if told["speakers"] and len(source.project.transcript.speakers) > 1:
        found.append("who speaks")
    if told["styles"]:
        found.append(f"italics in {counted(told['styles'], 'caption')}")
    if told["words"]:
        found.append(f"words that look like tags in {counted(told['words'], 'caption')}")
    if told["together"]:
        found.append(f"{counted(told['together'], 'caption')} at the very times of another one")
    return found
