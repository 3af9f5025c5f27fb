"""The checks of a whole track, and of those captions that a change can have touched."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Iterator

from dubrel.base.catalogue import Message
from dubrel.captions.checks import Finding, Shown, findings_of
from dubrel.model import Caption, CaptionTrack, HouseStyle, Project, Turn, Word
from dubrel.project.captiontext import rows_of, text_of, words_in_no_caption
from dubrel.project.changes import Change
from dubrel.project.index import captions_of, place_in, track_index, turn_of, turn_with

_BEFORE = 3  # words; one of them is the last that shows before a word that changed

_NEAR_SHOT_MS = 1500


def shown(project: Project, track: CaptionTrack, place: int, style: HouseStyle | None = None) -> Shown:
    """The caption at a place of a track with all that checks look at, by its own style or another."""
    caption, media = track.captions[place], project.media
    rows = rows_of(project, caption) if caption.words else []
    words = [word for row in rows for word in row]
    ends = [turn for word in words[:1] + words[-1:] if (turn := turn_of(project, word.id))]
    turns = ends if len({turn.id for turn in ends}) < 2 else [turn_of(project, word.id) for word in words]
    return Shown(
        caption,
        text_of(project, track, caption).lines,
        (style or track.style).for_language(track.language),
        tuple(map(tuple, rows)),
        tuple(turn.speaker for turn in turns if turn),
        track.captions[place + 1] if place + 1 < len(track.captions) else None,
        _after(ends[-1], words[-1]) if ends else None,
        project.frame_rate,
        project.shots,
        media.banners if media else (),
        track.language,
    )


def _after(turn: Turn, word: Word) -> Word | None:
    """The word that is said after another one in a turn."""
    place = turn.index_of[word.id] + 1
    return next((one for one in turn.words[place : place + 20] if not one.struck), None)


def check_one(
    project: Project, track: CaptionTrack, place: int, style: HouseStyle | None = None
) -> list[Finding]:
    """Everything that is wrong with the caption at a place of a track, by its own style or another."""
    return findings_of(shown(project, track, place, style))


def check_track(
    project: Project, track: CaptionTrack, style: HouseStyle | None = None
) -> dict[int, list[Finding]]:
    """Caption id to findings, for the captions that break a rule; 0 for words in no caption."""
    found = {}
    for place, caption in enumerate(track.captions):
        if here := check_one(project, track, place, style):
            found[caption.id] = here
    if lost := missing(words_in_no_caption(project, track)):
        found[0] = lost
    return found


def missing(words: Iterable[Word]) -> list[Finding]:
    """Findings for words in no caption; words that follow each other are one."""
    runs: list[list[Word]] = []
    for word in words:
        if runs and word.start_ms - runs[-1][-1].end_ms < 1000:
            runs[-1].append(word)
        else:
            runs.append([word])
    said = [Message("“{words}” is in no caption", words=" ".join(word.text for word in run)) for run in runs]
    return [Finding("no caption", text, run[0].start_ms) for text, run in zip(said, runs)]


def captions_touched(change: Change, track: CaptionTrack) -> dict[int, Caption]:
    """The captions of a track whose findings or text a change may have changed, by id.

    Those that came or are others with the one before each, and those that hold
    a word that is another.
    """
    key = ("captions touched", track.id)
    if key not in change.once:
        change.once[key] = {one.id: one for one in _touched(change, track)}
    found: dict[int, Caption] = change.once[key]
    return found


def _touched(change: Change, track: CaptionTrack) -> Iterator[Caption]:
    project, ids = change.new, set(change.captions.get(track.id, ()))
    recording = change.old.media is not project.media or change.old.frame_rate != project.frame_rate
    if recording or _rules(change.old, track.id) != _rules(project, track.id):
        yield from track.captions
        return
    ids |= captions_of(project, track.id, _words_and_before(change)).keys()
    if change.speakers:
        ids |= {one.id for one in track.captions if one.named}
    if change.old.cameras.switches is not project.cameras.switches:
        for ms in set(change.old.shots) ^ set(project.shots):
            ids |= {one.id for one in _near(track, ms)}
    now, then = (track_index(each, track.id).captions for each in (project, change.old))
    for one in ids:
        caption, before = now.get(one), then.get(one)
        if caption is not None:
            place = place_in(track.captions, caption)
            yield from track.captions[max(0, place - 1) : place + 1]
        if before is not None and (caption is None or caption.start_ms != before.start_ms):
            yield from _before_gone(track, before)  # where it stood, another one follows now


def _near(track: CaptionTrack, ms: int) -> Iterator[Caption]:
    """Captions that a shot change at a time may concern."""
    place = bisect_left(track.captions, ms - _NEAR_SHOT_MS, key=lambda one: one.start_ms)
    for caption in track.captions[max(0, place - 2) :]:
        if caption.start_ms > ms + _NEAR_SHOT_MS:
            break
        yield caption


def _before_gone(track: CaptionTrack, gone: Caption) -> Iterator[Caption]:
    """The caption that now has another neighbour because one after it is gone."""
    place = bisect_left(track.captions, gone.start_ms, key=lambda one: one.start_ms)
    yield from track.captions[max(0, place - 1) : place]


def _rules(project: Project, track_id: int) -> tuple[HouseStyle, str] | None:
    """What a track is checked by: its style, as it is in its language."""
    track = project.track(track_id)
    return (track.style, track.language) if track else None


def _words_and_before(change: Change) -> set[int]:
    """Ids of the words that are others, and of those before them: after these, another word is said now."""
    key = "words and before"
    if key in change.once:
        return change.once[key]
    found = change.once[key] = set(change.words)
    for turn_id in change.turns:
        for project in (change.old, change.new):
            words = turn.words if (turn := turn_with(project, turn_id)) is not None else ()
            for place, word in enumerate(words):
                if word.id in change.words:
                    found.update(one.id for one in words[max(0, place - _BEFORE) : place])
    return found
