"""Sound values of plain ones, as they stand in a project file: numbers, texts, recordings, looks."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Sequence
from fractions import Fraction
from typing import Any, get_args

from dubrel.base.errors import FormatError
from dubrel.base.timecode import LATEST_MS
from dubrel.base.value import part_names
from dubrel.captions.styles import DEFAULT_STYLE, style_from_json
from dubrel.model import (
    HOLDS,
    Banner,
    Caption,
    CutPassage,
    HouseStyle,
    Look,
    Media,
    TakenOut,
    Term,
    Turn,
    Word,
)
from dubrel.model.cuts import Plays, Reason
from dubrel.model.motion import Coming, Entrance, Motion

_MOST_ID = 1 << 53
_MOST_TEXT = 100_000
_FINGERPRINT = re.compile(r"[0-9a-f]{32}|[0-9a-f]{64}")
_RATE = re.compile(r"\d{1,8}(/\d{1,8})?")
_COLOUR = re.compile(r"#[0-9A-Fa-f]{6}")
_CONTROLS = re.compile(r"[\x00-\x08\x0b-\x1f\x7f\ud800-\udfff]")
_LOOK_NUMBERS = {
    "size": (1, 50),
    "opacity": (0, 1),
    "weight": (100, 900),
    "outline": (0, 50),
    "shadow": (0, 50),
    "padding": (0, 200),
    "spacing": (0.5, 4),
}
_MOTION_NUMBERS = {"few": (1, 20), "larger": (0, 60), "dimmed": (0, 0.9), "frames": (1, 50)}


Made = dict[int, Turn | Word | Caption]


class Values:
    """Takes plain values and gives sound ones; counts what was wrong."""

    def __init__(self, made: Made, keeps: bool) -> None:
        self.made, self.keeps = made, keeps  # words are many: they are kept only for who wants them
        self.wrong: Counter[str] = Counter()
        self.next_id = 1
        self.ids: set[int] = set()

    def text(self, value: Any, usual: str = "", most: int = 1000) -> str:
        """A text without control characters."""
        if not isinstance(value, str):
            self.wrong["text"] += 1
            return usual
        if _CONTROLS.search(value) or len(value) > most:
            self.wrong["text"] += 1
            value = _CONTROLS.sub("", value)[:most]
        return value

    def path(self, value: Any) -> str:
        """A path, which may hold bytes that are not text."""
        if not isinstance(value, str) or "\0" in value or len(value) > 4096:
            self.wrong["text"] += 1
            return ""
        return value

    def number(self, value: Any, low: float, high: float, usual: float) -> float:
        """A number between two others."""
        if isinstance(value, bool) or not isinstance(value, int | float) or value != value:
            self.wrong["number"] += 1
            return usual
        if not low <= value <= high:
            self.wrong["number"] += 1
        return min(max(value, low), high)

    def time(self, value: Any, least: int = 0) -> int:
        """A time in whole milliseconds, not before another one."""
        if type(value) is int and least <= value <= LATEST_MS:
            return value
        self.wrong["time"] += 1
        whole = int(value) if isinstance(value, int | float) and abs(value) < _MOST_ID else least
        return min(max(whole, least), LATEST_MS)

    def id(self, value: Any) -> int:
        """An id that nothing else has."""
        if type(value) is int and 0 < value < _MOST_ID and value not in self.ids:
            self.ids.add(value)
            return value
        self.wrong["id"] += 1
        while self.next_id in self.ids:
            self.next_id += 1
        self.ids.add(self.next_id)
        return self.next_id

    def known(self, values: Any, there: Collection[int]) -> tuple[int, ...]:
        """Of some ids those that are there, each once."""
        if not isinstance(values, list | tuple):
            self.wrong["row"] += 1
            return ()
        found = tuple(dict.fromkeys(one for one in values if type(one) is int and one in there))
        self.wrong["pointer"] += len(values) - len(found)
        return found

    def rows(self, value: Any, least: int) -> list[list[Any]]:
        """Of a list those that are rows of a length."""
        if not isinstance(value, list):
            self.wrong["row"] += 1
            return []
        found = [row for row in value if isinstance(row, list) and len(row) >= least]
        self.wrong["row"] += len(value) - len(found)
        return found

    # -- parts --------------------------------------------------------------------

    def terms(self, value: Any) -> tuple[Term, ...]:
        """Each right form once."""
        found: dict[str, Term] = {}
        for row in self.rows(value, 4):
            right = self.text(row[0], most=200).strip()
            if not right or right in found:
                self.wrong["row"] += 1
                continue
            ways = row[1] if isinstance(row[1], list) else []
            pairs = [(self.text(a, most=40), self.text(b, most=200)) for a, b, *_ in self.rows(row[3], 2)]
            note = self.text(row[2], most=_MOST_TEXT)
            heard = dict.fromkeys(way for one in ways if (way := self.text(one, most=200).strip()))
            more: tuple[Any, ...] = ()
            if len(row) > 7:
                lists = [
                    tuple((self.text(a, most=40), self.text(b, most=200)) for a, b, *_ in self.rows(some, 2))
                    for some in row[4:6]
                ]
                more = (*lists, row[6] is True, row[7] is True)
            found[right] = Term(right, tuple(heard), note, tuple(pairs), *more)
        return tuple(found.values())

    def media(self, value: Any) -> Media | None:
        """The link to the recording."""
        if value is None:
            return None
        if not isinstance(value, dict) or not all(
            isinstance(value.get(name), str) and "\0" not in value[name] for name in ("name", "path")
        ):
            self.wrong["media"] += 1
            return None
        fingerprint, rate = value.get("fingerprint"), value.get("frame_rate")
        if not isinstance(fingerprint, str) or (fingerprint and not _FINGERPRINT.fullmatch(fingerprint)):
            self.wrong["text"] += 1
            fingerprint = ""
        tracks = value.get("tracks", [])
        tracks = tracks if isinstance(tracks, list) else []
        return Media(
            name=self.text(value["name"]),
            path=self.path(value["path"]),
            fingerprint=fingerprint,
            duration_ms=self.time(value.get("duration_ms")),
            relative=self.path(value.get("relative", "")),
            frame_rate=self.rate(rate),
            width=int(self.number(value.get("width", 0), 0, 1 << 17, 0)),
            height=int(self.number(value.get("height", 0), 0, 1 << 17, 0)),
            channels=int(self.number(value.get("channels", 0), 0, 1024, 0)),
            sample_rate=int(self.number(value.get("sample_rate", 0), 0, 10_000_000, 0)),
            tracks=tuple(self.text(one) for one in tracks[:1024]),
            size=int(self.number(value.get("size", 0), 0, 1 << 62, 0)),
            changed_ns=int(self.number(value.get("changed_ns", 0), 0, 1 << 63, 0)),
            shots=self.shots(value.get("shots")),
            banners=self.banners(value.get("banners")),
            timecode=self.text(value.get("timecode", ""), most=40),
            sound=self.sound_tracks(value.get("sound"), len(tracks)),
        )

    def sound_tracks(self, value: Any, count: int) -> tuple[int, ...]:
        """Which sound tracks are mixed, of so many that there are."""
        if not isinstance(value, list):
            return ()
        whole = {one for one in value[:1024] if isinstance(one, int) and not isinstance(one, bool)}
        return tuple(sorted(one for one in whole if 0 <= one < count))

    def shots(self, value: Any) -> tuple[int, ...] | None:
        """Shot changes in order, or ``None`` where they have not been looked for."""
        if not isinstance(value, list):
            return None
        return tuple(sorted({self.time(one) for one in value[:200_000]}))

    def banners(self, value: Any) -> tuple[Banner, ...]:
        """Lettering in the picture, each within it."""
        found = []
        for row in self.rows(value, 6) if isinstance(value, list) else []:
            start = self.time(row[0])
            box = [self.number(one, 0, 100, 0) for one in row[2:6]]
            if box[0] < box[2] and box[1] < box[3]:
                found.append(Banner(start, self.time(row[1], start), *box))
        return tuple(found)

    def rate(self, value: Any) -> Fraction | None:
        """A frame rate, exact."""
        if value is None:
            return None
        if isinstance(value, str) and _RATE.fullmatch(value) and not value.endswith("/0"):
            top, _, bottom = value.partition("/")
            if int(bottom or 1) and 1 <= Fraction(int(top), int(bottom or 1)) <= 1000:
                return Fraction(int(top), int(bottom or 1))
        self.wrong["number"] += 1
        return None

    def look_of(self, rest: list[Any], own: Collection[int]) -> tuple[str, tuple[tuple[int, str], ...]]:
        """Where a caption stands, and the styles of its words; most rows end before."""
        if len(rest) < 2:
            return "", ()
        place, pairs = rest
        place = place if isinstance(place, str) and len(place) < 200 and "\n" not in place else ""
        styled = [
            (pair[0], "".join(sorted(set(pair[1]))))
            for pair in self.rows(pairs, 2)
            if type(pair[0]) is int
            and pair[0] in own
            and isinstance(pair[1], str)
            and set(pair[1]) <= set("biu")
        ]
        return place, tuple(styled)

    def by_hand(self, rest: list[Any], own: Sequence[int]) -> tuple[tuple[str, ...], tuple[int, ...], bool]:
        """What is held, what is hidden, whether it is done; most rows end before."""
        if len(rest) < 3:
            return (), (), False
        held = rest[0] if isinstance(rest[0], list) else []
        hidden = self.known(rest[1], own)
        hidden = hidden if len(hidden) < len(own) else ()
        return tuple(one for one in HOLDS if one in held), hidden, rest[2] is True

    def cut_passage(self, row: list[Any]) -> CutPassage | None:
        """A passage of a cut; nothing where it does not last."""
        start = self.time(row[0])
        end = self.time(row[1], start)
        plays: Plays = row[4] if row[4] in get_args(Plays) else "all"
        self.wrong["row"] += plays != row[4] or end == start
        cross, lead = self.number(row[2], 0, 10_000, 0), self.number(row[3], -1000, 1000, 0)
        return CutPassage(start, end, int(cross), int(lead), plays) if end > start else None

    def taken_out(self, row: list[Any]) -> TakenOut | None:
        """What was taken out of a cut, and why."""
        start = self.time(row[0])
        end = self.time(row[1], start)
        why: Reason = row[2] if row[2] in get_args(Reason) else "by hand"
        self.wrong["row"] += why != row[2] or end == start
        return TakenOut(start, end, why) if end > start else None

    def style(self, value: Any) -> HouseStyle:
        """A house style; the usual one where it cannot be."""
        try:
            return style_from_json(value)
        except (FormatError, ValueError, OverflowError):
            self.wrong["style"] += 1
            return DEFAULT_STYLE

    def look(self, value: Any) -> Look:
        """A look; the usual one where it cannot be."""
        usual = Look()
        known = {*part_names(Look)} | {"spoken"}
        if not isinstance(value, dict) or set(value) - known:
            self.wrong["style"] += 1
            return usual
        made: dict[str, Any] = {"font": self.text(value.get("font", usual.font), usual.font, 200)}
        for name in ("colour", "ground", "outline_colour"):
            made[name] = self._colour(value, name, usual)
        for name, (low, high) in _LOOK_NUMBERS.items():
            made[name] = self.number(value.get(name, getattr(usual, name)), low, high, getattr(usual, name))
        made["weight"] = int(made["weight"])
        made["slanted"] = value.get("slanted") is True
        made["box"] = value.get("box") if value.get("box") in ("line", "whole", "none") else usual.box
        earlier = {"colour": value["spoken"]} if value.get("spoken") else {}  # files before words could move
        return Look(**made, motion=self.motion(value.get("motion", earlier)))

    def _colour(self, value: dict[str, Any], name: str, usual: Any) -> str:
        """A colour, or the usual one."""
        colour = value.get(name, getattr(usual, name))
        fits = isinstance(colour, str) and (_COLOUR.fullmatch(colour) or colour == getattr(usual, name))
        self.wrong["style"] += not fits
        return str(colour) if fits else getattr(usual, name)

    def motion(self, value: Any) -> Motion:
        """How a look moves; not at all where that cannot be."""
        usual = Motion()
        if not isinstance(value, dict) or set(value) - set(part_names(Motion)):
            self.wrong["style"] += 1
            return usual
        made: dict[str, Any] = {name: self._colour(value, name, usual) for name in ("colour", "box")}
        for name, choices in (("words", Coming), ("entrance", Entrance), ("leaving", Entrance)):
            wanted = value.get(name, getattr(usual, name))
            self.wrong["style"] += wanted not in get_args(choices)
            made[name] = wanted if wanted in get_args(choices) else getattr(usual, name)
        for name, (low, high) in _MOTION_NUMBERS.items():
            made[name] = self.number(value.get(name, getattr(usual, name)), low, high, getattr(usual, name))
        made |= {"few": int(made["few"]), "frames": int(made["frames"])}
        return Motion(**made, bold=value.get("bold") is True, ruled=value.get("ruled") is True)
