"""The project of a cut: words, notes, captions and translations at the times at which they play in it.

Everything that works on a project works on a cut through this one verb, and knows nothing of cuts.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import PurePath

import numpy as np

from dubrel.base.value import replace
from dubrel.edits.cuts.captionscut import tracks_cut
from dubrel.edits.cuts.carrying import Carried
from dubrel.edits.cuts.trimming import WHOLE
from dubrel.edits.notes import CHAPTER
from dubrel.model import Banner, Cameras, Cut, FrameKey, Framing, Media, Note, Project, Transcript, Turn
from dubrel.model.framing import PAN_MS
from dubrel.project.index import words_with
from dubrel.project.timeline import Placement, RunClock, placements, runs


def cut_project(project: Project, cut: Cut) -> Project:
    """The project as it is in a cut.

    Parameters
    ----------
    cut : Cut
        Of this project's recording.

    Returns
    -------
    Project
        Under its title with the name of the cut, unless that is the cut of the whole.
        The same words with their ids (where a passage plays twice, those of the second time
        are new), in the order and at the times in which they play. Captions that no join goes
        through, and those that a person has set and of which nothing was taken out, stay as they
        are; the others are set again. What fell out is gone. The recording is one without a
        file: :mod:`dubrel.film.cutting` makes it.
    """
    made = placed_project(project, placements(cut, project.frame_rate))
    if cut.name != WHOLE:
        made = replace(made, title=f"{made.title} – {cut.name}")
    if cut.clip:  # a part of half a minute has no parts
        made = replace(made, notes=tuple(one for one in made.notes if one.kind != CHAPTER))
    if made.media is None:
        return made
    name = PurePath(made.media.name)
    return replace(made, media=replace(made.media, name=f"{name.stem} – {cut.name}{name.suffix}"))


def placed_project(project: Project, places: Sequence[Placement]) -> Project:
    """The project with passages of its recording at other times; see :func:`cut_project`.

    Parameters
    ----------
    places : sequence of Placement
        In the order in which they play, none overlapping the next in what is made.
    """
    length = places[-1].until_ms if places else 0
    carried, turns = Carried(project.next_id), list[Turn]()
    stretches = runs(places)
    spoken = _Spoken(project)
    for run in stretches:
        turns += spoken.cut(run, carried)
    people = {turn.speaker for turn in turns} | {word.also for turn in turns for word in turn.words}
    before = {turn.speaker for turn in project.transcript.turns}
    speakers = tuple(one for one in project.transcript.speakers if one.id in people or one.id not in before)
    transcript = Transcript(project.transcript.language, speakers, tuple(turns))
    made = replace(
        project,
        media=_media(seen_media(project), places, length),
        transcript=transcript,
        tracks=(),
        notes=(),
        releases=(),
        cuts=(),
        framing=_framing(project.framing, places),
        cameras=Cameras(),
        index=None,
    )
    made = tracks_cut(project, made, stretches, carried)
    made = replace(made, next_id=max(made.next_id, carried.next_id))
    return replace(made, notes=tuple(_notes(project, made, stretches, carried)))


class _Spoken:
    """All words of a project as arrays, so that thousands of passages are looked up at once."""

    def __init__(self, project: Project) -> None:
        self.turns = project.transcript.turns
        self.words = [word for turn in self.turns for word in turn.words]
        self.turn = np.repeat(np.arange(len(self.turns)), [len(turn.words) for turn in self.turns])
        self.starts = np.array([word.start_ms for word in self.words], np.int64)
        self.ends = np.array([word.end_ms for word in self.words], np.int64)
        self.middles = (self.starts + self.ends) // 2

    def cut(self, run: Sequence[Placement], carried: Carried) -> list[Turn]:
        """The turns of what stays in a run; a word belongs to the passage in which its middle lies."""
        first = np.array([one.start_ms for one in run])
        last = np.array([one.end_ms for one in run])
        heard = np.array([one.heard for one in run])
        nth = np.searchsorted(first, self.middles, side="right") - 1
        within = (nth >= 0) & (self.middles < last[nth]) & heard[nth]
        chosen = np.flatnonzero(within)
        starts, ends = self._times(run, chosen, nth[chosen])
        # a long word may belong to a later passage than one that begins after it
        starts = np.maximum.accumulate(starts)
        ends = np.maximum(starts, ends)
        carried.begin_run()
        found = list[Turn]()
        edges = np.flatnonzero(np.diff(self.turn[chosen], prepend=-1, append=-1))
        for a, b in zip(edges[:-1], edges[1:]):
            turn = self.turns[self.turn[chosen[a]]]
            words = tuple(
                carried.word(self.words[at], int(since), int(until))
                for at, since, until in zip(chosen[a:b], starts[a:b], ends[a:b])
            )
            found.append(carried.turn(turn, words))
        return found

    def _times(
        self, run: Sequence[Placement], chosen: np.ndarray, nth: np.ndarray
    ) -> tuple[np.ndarray, np.ndarray]:
        """When chosen words play, cut off where their passage is."""
        first, last, at, until = (
            np.array([getattr(one, name) for one in run], np.int64)[nth]
            for name in ("start_ms", "end_ms", "at_ms", "until_ms")
        )
        long = np.maximum(1, last - first)

        def placed(ms: np.ndarray) -> np.ndarray:
            inside = np.clip(ms, first, last) - first
            return np.minimum(until, at + (2 * inside * (until - at) + long) // (2 * long))

        return placed(self.starts[chosen]), placed(self.ends[chosen])


def _framing(framing: Framing, places: Sequence[Placement]) -> Framing:
    """Where the crop lies in what is made: each passage begins with where it was in the recording."""
    keys: dict[int, FrameKey] = {}
    for one in places if framing.keys else ():
        x, y = framing.at(one.start_ms)
        keys[one.at_ms] = FrameKey(one.at_ms, round(x, 2), round(y, 2))
        for key in framing.keys:
            if key.pans and key.ms <= one.start_ms < key.ms + PAN_MS:  # it is still moving there
                keys[one.at_ms + 1] = replace(key, ms=one.at_ms + 1)
            elif one.start_ms < key.ms < one.end_ms:
                at = one.placed(key.ms)
                keys[at] = replace(key, ms=at)
    return Framing(tuple(keys[ms] for ms in sorted(keys)))


def seen_media(project: Project) -> Media | None:
    """The recording as its cameras show it: cut where they are, of the first one's size without its own."""
    media, camera = project.media, project.cameras.first
    if media is None or camera is None:
        return media
    if project.cameras.switches:
        media = replace(media, shots=project.shots)
    seen = camera.media
    if media.has_video or seen is None:
        return media
    return replace(media, frame_rate=seen.frame_rate, width=seen.width, height=seen.height)


def _media(media: Media | None, places: Sequence[Placement], length: int) -> Media | None:
    """A recording as long as the cut, with the shot changes and banners that are in it, and no file."""
    if media is None:
        return None
    shots, banners = media.shots, list[Banner]()
    if shots is not None:
        shots = tuple(sorted({*_shots(shots, places)} - {0}))
    for run in runs(places):
        clock = RunClock(run)
        for one in media.banners:
            start, end = clock.span(one.start_ms, one.end_ms)
            if end > start:
                banners.append(replace(one, start_ms=start, end_ms=end))
    banners.sort(key=lambda one: one.start_ms)
    made = replace(media, path="", relative="", fingerprint="", size=0, changed_ns=0)
    return replace(made, duration_ms=length, shots=shots, banners=tuple(banners))


def _shots(shots: Sequence[int], places: Sequence[Placement]) -> Iterable[int]:
    """Shot changes within the passages, and the joins: there the picture changes too."""
    known = np.array(shots, np.int64)
    before: Placement | None = None
    for one in places:
        if before is not None and before.end_ms != one.start_ms:
            yield one.at_ms
        a, b = np.searchsorted(known, [one.start_ms, one.end_ms])
        yield from (one.placed(int(shot)) for shot in known[a:b])
        before = one


def _notes(
    project: Project, made: Project, stretches: Sequence[Sequence[Placement]], carried: Carried
) -> list[Note]:
    """Notes whose words, or whose time, stayed; a chapter stays while anything of it does."""
    clocks = [RunClock(run) for run in stretches]
    chapters = sorted(one.start_ms for one in project.notes if one.kind == CHAPTER)
    end_of = dict(zip(chapters, [*chapters[1:], max(project.length_ms or 0, *chapters, 0) + 1]))
    found = list[Note]()
    for note in project.notes:
        words = tuple(one for one in note.words if one in carried.first)
        until = note.end_ms or note.start_ms + 1
        if note.kind == CHAPTER:
            until = max(until, end_of[note.start_ms])
        spans = [clock.span(note.start_ms, until) for clock in clocks]
        spans = [(start, end) for start, end in spans if end > start]
        if not words and not spans:
            continue
        start, end = spans[0] if spans else (words_with(made, words[:1])[0].start_ms, 0)
        kept = replace(note, start_ms=start, words=words, end_ms=end if note.end_ms else 0)
        found.append(kept)
    found.sort(key=lambda one: one.start_ms)
    return found
