"""Caption tracks of a cut: what survives whole is carried over, what a join goes through is set again."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from dubrel.base.timecode import snap_to_frame
from dubrel.base.value import replace
from dubrel.edits.captions.resetting import KEEPS, set_again, sources_renewed
from dubrel.edits.captions.shape import SHORTEST_MS
from dubrel.edits.cuts.carrying import Carried
from dubrel.model import Caption, CaptionTrack, Project, Word
from dubrel.project.captiontext import text_of
from dubrel.project.index import track_index, words_with
from dubrel.project.timeline import Placement, RunClock


def tracks_cut(
    project: Project, made: Project, stretches: Sequence[Sequence[Placement]], carried: Carried
) -> Project:
    """The project of a cut with its caption tracks.

    Parameters
    ----------
    project : Project
        Of the recording.
    made : Project
        What is made of it, with words and without tracks.
    stretches : sequence of runs of Placement
    carried : Carried
        Which words went over.
    """
    again: dict[int, list[int]] = {}
    tracks = []
    ids: dict[tuple[int, int], int] = {}  # run and caption of the recording to caption of the cut
    for track in sorted(project.tracks, key=lambda one: not one.spoken):
        cutting = _Cutting(project, track, carried, ids)
        captions = [
            one
            for nth, (run, words) in enumerate(zip(stretches, carried.runs))
            for one in cutting.of_run(nth, RunClock(run), words)
        ]
        captions.sort(key=lambda one: (one.start_ms, one.end_ms))
        captions, crowded = _apart(captions, track.style.least_gap(project.frame_rate))
        again[track.id] = [*cutting.again, *crowded]
        tracks.append(replace(track, captions=tuple(captions)))
    by_id = {one.id: one for one in tracks}
    made = replace(made, tracks=tuple(by_id[one.id] for one in project.tracks), next_id=carried.next_id)
    for track in tracks:
        if track.spoken and again[track.id]:
            ids_again = frozenset(again[track.id])
            made = replace(set_again(replace(made, active=track.id), only=ids_again), active=project.active)
        if track.spoken:
            made = _with_translations(sources_renewed(made, track), track.id)
    return made


@dataclass
class _Cutting:
    """One track, and what of it has to be set again."""

    project: Project
    track: CaptionTrack
    carried: Carried
    ids: dict[tuple[int, int], int]

    def __post_init__(self) -> None:
        self.again: list[int] = []
        self._index = track_index(self.project, self.track.id)
        self._alone = [one for one in self.track.captions if not (one.words or one.of)]

    def of_run(self, nth: int, clock: RunClock, words: Mapping[int, Word]) -> Iterator[Caption]:
        """The captions of one run."""
        held = (self._index.of_word.get(one) for one in words)
        for caption_id in dict.fromkeys(one for one in held if one is not None):
            yield self._worded(nth, self._index.captions[caption_id], clock, words)
        for one in self._alone:
            found = self._without_words(nth, one, clock)
            if found is not None:
                yield found

    def _id(self, nth: int, caption: Caption) -> int:
        made = self.carried.id(caption.id)
        self.ids[nth, caption.id] = made
        return made

    def _nobody(self) -> int:
        """The id of a word that is gone: a translation remembers that there was one."""
        self.carried.next_id += 1
        return self.carried.next_id - 1

    def _sources(self, nth: int, caption: Caption) -> tuple[int, ...]:
        return tuple(self.ids[nth, one] for one in caption.sources if (nth, one) in self.ids)

    def _worded(self, nth: int, caption: Caption, clock: RunClock, words: Mapping[int, Word]) -> Caption:
        """A caption with those of its words that went over."""

        def carried(ids: Sequence[int]) -> tuple[int, ...]:
            return tuple(words[one].id for one in ids if one in words)

        own = [words[one] for one in caption.words or caption.of if one in words]
        whole = len(own) == len(caption.words or caption.of)
        start, end = clock.span(caption.start_ms, caption.end_ms)
        first, last = own[0].start_ms, max(word.end_ms for word in own)
        if end - start < SHORTEST_MS or start > last or end < first:  # it was moved away from its words
            start, end = first, max(last, first + SHORTEST_MS)
        rate = self.project.frame_rate
        start, end = _on_frame(start, rate), _on_frame(end, rate)
        breaks = carried(caption.breaks)
        made = replace(
            caption,
            id=self._id(nth, caption),
            start_ms=start,
            end_ms=end,
            words=carried(caption.words),
            breaks=tuple(one for one in breaks if one != own[0].id),
            named=carried(caption.named),
            dashed=carried(caption.dashed),
            styled=tuple((words[one].id, style) for one, style in caption.styled if one in words),
            hidden=carried(caption.hidden),
            sources=self._sources(nth, caption),
            of=tuple(words[one].id if one in words else self._nobody() for one in caption.of),
        )
        if not caption.words:
            return made
        kept = not KEEPS.isdisjoint(caption.held)
        if not whole or not (kept or self._survives(caption, clock, own, start, end)):
            rest = tuple(one for one in made.held if one not in KEEPS)
            hidden = made.hidden if len(made.hidden) < len(made.words) else ()
            made = replace(made, held=rest, hidden=hidden, done=made.done and whole)
            self.again.append(made.id)
        return made

    def _survives(self, caption: Caption, clock: RunClock, own: Sequence[Word], start: int, end: int) -> bool:
        """Whether no join goes through a caption, or only through the time in which it still stands.

        It must be readable in the time that is left.
        """
        if clock.within(caption.start_ms, caption.end_ms):
            return True
        words = words_with(self.project, (caption.words[0], caption.words[-1]))
        said = max(word.end_ms for word in words) - words[0].start_ms
        if max(word.end_ms for word in own) - own[0].start_ms != said or start > own[0].start_ms:
            return False
        rules = self.track.rules
        length = text_of(self.project, self.track, caption).length
        return end - start >= rules.min_ms and length * 1000 <= rules.max_cps * (end - start)

    def _without_words(self, nth: int, caption: Caption, clock: RunClock) -> Caption | None:
        """A sound description, or a translation of one: it stays while half of it does."""
        sources = self._sources(nth, caption)
        if caption.sources and not sources:
            return None
        start, end = clock.span(caption.start_ms, caption.end_ms)
        long = caption.end_ms - caption.start_ms
        if not caption.sources and (end <= start or 2 * (end - start) < long):
            return None
        rate = self.project.frame_rate
        start, end = _on_frame(start, rate), _on_frame(max(start + SHORTEST_MS, end), rate)
        return replace(caption, id=self._id(nth, caption), start_ms=start, end_ms=end, sources=sources)


def _on_frame(ms: int, rate: object) -> int:
    """A time that was on a frame, on a frame again: shifted by whole frames it may be off by one."""
    near = snap_to_frame(ms, rate)  # type: ignore[arg-type]
    return near if abs(near - ms) <= 1 else ms


def _apart(captions: Sequence[Caption], gap: int) -> tuple[list[Caption], list[int]]:
    """Captions that do not run into each other where the pause between them went, and which those are."""
    found, crowded = list(captions), list[int]()
    for nth, (one, following) in enumerate(zip(captions, captions[1:])):
        most = following.start_ms - gap
        if one.end_ms > most and most - one.start_ms >= SHORTEST_MS:
            found[nth] = replace(one, end_ms=most)
            crowded += [one.id, following.id]
    return found, crowded


def _with_translations(project: Project, track_id: int) -> Project:
    """Translations one to one with a caption come and go with it."""
    source = track_index(project, track_id)
    tracks = []
    for track in project.tracks:
        if track.translates == track_id:
            index = track_index(project, track.id)
            captions = []
            for one in track.captions:
                if len(one.sources) == 1 and "times" not in one.held:
                    original = source.captions.get(one.sources[0])
                    if original and len(index.of_source.get(original.id, ())) == 1:
                        one = replace(one, start_ms=original.start_ms, end_ms=original.end_ms)
                captions.append(one)
            captions.sort(key=lambda one: (one.start_ms, one.end_ms))
            captions, _ = _apart(captions, track.style.least_gap(project.frame_rate))
            track = replace(track, captions=tuple(captions))
        tracks.append(track)
    return replace(project, tracks=tuple(tracks))
