"""What cut lists share: the events of a cut in frames, and passages of what was read."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from pathlib import Path, PurePath
from typing import BinaryIO

from dubrel.base.catalogue import counted
from dubrel.base.frametimecode import can_drop, frame_of
from dubrel.base.timecode import frames_to_ms, ms_to_frames
from dubrel.base.value import Value, replace
from dubrel.edits.cameras.camerashots import CameraShot, camera_shots
from dubrel.edits.cuts.cutting import cut_project
from dubrel.edits.cuts.trimming import length_of
from dubrel.model import Cut, CutPassage, Project, Switch, text_of_words
from dubrel.model.cuts import Plays

USUAL_RATE = Fraction(25)
"""Frames a second in lists that count frames, where the recording has no picture."""
_NAME_WORDS = 7


class CutEvent(Value):
    """A passage of a cut in frames.

    Attributes
    ----------
    first, after : int
        The first frame in the recording and the one after the last, without its start timecode.
    at : int
        The frame of the cut at which it begins.
    passage : CutPassage
    name : str
        Its first words.
    sound_first, sound_after : int
        The same of its sound, which may lead or trail the picture at joins.
    """

    first: int
    after: int
    at: int
    passage: CutPassage
    name: str
    sound_first: int
    sound_after: int


class CutContent(Value, dict=True):
    """A cut as a list says it.

    Attributes
    ----------
    project : Project
    cut : Cut
    made : Project
        The project as it is in the cut, for notes and chapters.
    rate : Fraction
        Frames a second in which the list counts.
    drop : bool
        Whether its timecode leaves numbers out.
    """

    project: Project
    cut: Cut
    made: Project
    rate: Fraction
    drop: bool

    @property
    def media_name(self) -> str:
        """The file name of the recording."""
        return self.project.media.name if self.project.media else self.project.title

    @property
    def reel(self) -> str:
        """The name of the recording without its suffix."""
        return PurePath(self.media_name).stem

    @property
    def start_frame(self) -> int:
        """The frame at which the recording's own timecode begins."""
        return start_frame(self.project, self.rate)

    @cached_property
    def events(self) -> list[CutEvent]:
        """The passages in order, those that last a frame at the least."""
        found, at = list[CutEvent](), 0
        spoken = _Names(self.project)
        lead_before = 0
        for one in self.cut.passages:
            first, after = ms_to_frames(one.start_ms, self.rate), ms_to_frames(one.end_ms, self.rate)
            if after <= first:
                continue
            last = one is self.cut.passages[-1]
            lead = 0 if last else min(one.lead_frames, after - first - 1)
            sound = max(0, first - lead_before), after - lead
            name = spoken.name(one.start_ms, one.end_ms)
            found.append(CutEvent(first, after, at, one, name, *sound))
            at += after - first
            lead_before = lead
        return found

    @cached_property
    def shots(self) -> list[CameraShot]:
        """What is shown of which camera; nothing where the recording's own picture is all there is."""
        cameras = self.project.cameras
        if not any(one.seen and one.media for one in cameras.all):
            return []
        return camera_shots(self.project, self.cut, self.rate)

    def shots_in(self, event: CutEvent) -> list[CameraShot]:
        """The shots of a passage, those that go on beyond it cut off at its ends."""
        end, found = event.at + event.after - event.first, list[CameraShot]()
        first = max(0, bisect_right(self._shot_places, event.at) - 1)
        for one in self.shots[first:]:
            if one.at >= end:
                break
            a, b = max(one.at, event.at), min(one.until, end)
            if b > a:
                found.append(replace(one, first=one.first + a - one.at, after=one.first + b - one.at, at=a))
        return found

    @cached_property
    def _shot_places(self) -> list[int]:
        return [one.at for one in self.shots]


class _Names:
    """The first words of passages."""

    def __init__(self, project: Project) -> None:
        self._words = [word for turn in project.transcript.turns for word in turn.words if not word.struck]
        self._starts = [word.start_ms for word in self._words]

    def name(self, start_ms: int, end_ms: int) -> str:
        a = bisect_left(self._starts, start_ms - 20)
        b = min(bisect_right(self._starts, end_ms - 1), a + _NAME_WORDS + 1)
        some = self._words[a:b]
        text = text_of_words(some[:_NAME_WORDS])
        return f"{text} …" if len(some) > _NAME_WORDS else text


def start_frame(project: Project, rate: Fraction) -> int:
    """The frame at which a recording's own timecode begins; 0 where it has none."""
    text = project.media.timecode if project.media else ""
    try:
        return frame_of(text, rate) if text else 0
    except ValueError:
        return 0


def content(project: Project, cut: Cut, rate: Fraction | None = None) -> CutContent:
    """What a list of a cut says.

    Parameters
    ----------
    rate : Fraction, optional
        In which it counts, for a recording without a picture.
    """
    rate = project.frame_rate or rate or USUAL_RATE
    text = project.media.timecode if project.media else ""
    drop = can_drop(rate) and (";" in text or not text)
    return CutContent(project, cut, cut_project(project, cut), rate, drop)


@dataclass
class CutReading:
    """What a list says of a recording.

    Attributes
    ----------
    name : str
    passages : list of CutPassage
    said : list of str
        What could not be kept, or was assumed; in sentences.
    switches : tuple of Switch or None
        Which camera it shows when, in time of the recording; ``None`` where it says nothing of cameras.
    """

    name: str
    passages: list[CutPassage]
    said: list[str] = field(default_factory=list)
    switches: tuple[Switch, ...] | None = None


class CutForm(Value, kw_only=True):
    """A form of cut list.

    Attributes
    ----------
    id, label : str
    suffix : str
    write : callable
        ``(CutContent, file)`` writes it.
    read : callable
        ``(path, Project, rate) -> CutReading``.
    loses : callable
        ``CutContent -> sentences``: what it cannot hold.
    cameras : bool
        Whether it says which camera is shown.
    """

    id: str
    label: str
    suffix: str
    write: Callable[[CutContent, BinaryIO], object]
    read: Callable[[Path, Project, Fraction | None], CutReading]
    loses: Callable[[CutContent], list[str]] = lambda content: []
    cameras: bool = True


class Gathered:
    """Passages of the recording as they are read from a list, and what has to be said of them."""

    def __init__(self, project: Project, rate: Fraction) -> None:
        self.rate = rate
        self.length = length_of(project)
        self.passages: list[CutPassage] = []
        self.beyond = self.empty = 0
        self.others: dict[str, int] = {}

    def add(self, first: int, after: int, plays: Plays = "all", lead: int = 0, cross_ms: int = 0) -> None:
        """A passage in frames of the recording."""
        start, end = frames_to_ms(max(0, first), self.rate), frames_to_ms(max(0, after), self.rate)
        frame = frames_to_ms(1, self.rate)
        if self.length and end > self.length:
            self.beyond += end > self.length + frame
            end = self.length
        if end <= start:
            self.empty += 1
            return
        self.passages.append(CutPassage(start, end, cross_ms, lead, plays))

    def gap(self, frames: int, name: str = "") -> None:
        """Time in which nothing of the recording plays: an empty place, or another source."""
        if name:
            self.others[name] = self.others.get(name, 0) + 1
        if frames <= 0:
            return
        at = self.passages[-1].end_ms if self.passages else 0
        long = frames_to_ms(frames, self.rate)
        if at + long > self.length:
            at = max(0, self.length - long)
        if long <= self.length:
            self.passages.append(CutPassage(at, at + long, plays="gap"))

    def said(self) -> list[str]:
        """What has to be said of the list."""
        found = []
        if self.beyond:
            found.append(
                counted(
                    self.beyond,
                    "passage reaches beyond the end of the recording; it ends there now.",
                    "passages reach beyond the end of the recording; they end there now.",
                )
            )
        if self.empty:
            found.append(
                counted(self.empty, "passage lasts no time; left out.", "passages last no time; left out.")
            )
        for name, count in list(self.others.items())[:5]:
            found.append(
                counted(
                    count,
                    "passage comes from “{name}”, not from this recording; a gap of the same length "
                    "stands there.",
                    "passages come from “{name}”, not from this recording; "
                    "gaps of the same length stand there.",
                    name=name,
                )
            )
        return found


def same_source(project: Project, *names: str) -> bool:
    """Whether one of some names is that of the recording, with or without folders, suffix and capitals."""
    if project.media is None:
        return True
    own = {_plain(project.media.name), _plain(PurePath(project.media.name).stem)}
    return any(_plain(one) in own or _plain(PurePath(one).stem) in own for one in map(_last, names) if one)


def _last(name: str) -> str:
    return name.replace("\\", "/").rstrip("/").rpartition("/")[2]


def _plain(name: str) -> str:
    return "".join(sign for sign in name.casefold() if sign.isalnum())


def cross_ms_of(frames: float, rate: Fraction) -> int:
    """How long a cross-fade of some frames is."""
    return round(frames * 1000 / float(rate))
