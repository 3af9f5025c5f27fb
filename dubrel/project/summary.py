"""Whether two values of a project differ, and what one has that the other has not, counted and in words."""

from __future__ import annotations

from dubrel.base.catalogue import counted, tr
from dubrel.base.value import Value, asdict, replace
from dubrel.model import Cameras, CaptionTrack, Project


class Summary(Value):
    """Counts of what differs.

    Attributes
    ----------
    new, gone, corrected : int
        Words that came, that went, and that are written otherwise.
    turns : int
        Turns with another speaker, or proofed or no longer.
    paragraphs : int
        Words that begin a turn in one of both only.
    captions, notes, terms, releases, cuts : int
        Those that came, went or are others.
    others : int
        Names, looks, styles, tracks, the title, the recording, what is known of words.
    """

    new: int = 0
    gone: int = 0
    corrected: int = 0
    turns: int = 0
    paragraphs: int = 0
    captions: int = 0
    notes: int = 0
    terms: int = 0
    releases: int = 0
    cuts: int = 0
    others: int = 0

    def __bool__(self) -> bool:
        return any(asdict(self).values())

    def __str__(self) -> str:
        """The counts as a phrase; other changes are named only where there is nothing else."""
        said = (
            (self.new, counted(self.new, "new word")),
            (self.corrected, counted(self.corrected, "correction")),
            (self.gone, counted(self.gone, "word removed", "words removed")),
            (self.turns, counted(self.turns, "turn assigned or proofed", "turns assigned or proofed")),
            (self.paragraphs, counted(self.paragraphs, "turn split or joined", "turns split or joined")),
            (self.captions, counted(self.captions, "caption changed", "captions changed")),
            (self.notes, counted(self.notes, "note changed", "notes changed")),
            (self.terms, counted(self.terms, "term changed", "terms changed")),
            (self.releases, counted(self.releases, "release")),
            (self.cuts, counted(self.cuts, "cut changed", "cuts changed")),
            (self.others, counted(self.others, "other change")),
        )
        parts = [text for count, text in said if count]
        return ", ".join(parts[:-1] if self.others and len(parts) > 1 else parts) or tr("nothing else")


def differ(old: Project, new: Project) -> bool:
    """Whether two values say different things; where the recording lies is not a difference."""
    others = [replace(one, media=None, cameras=Cameras()) for one in (old, new)]
    return others[0] != others[1] or _recording(old) != _recording(new) or _cameras(old) != _cameras(new)


def is_work(old: Project, new: Project) -> bool:
    """Whether anybody would miss what the second value has and the first has not.

    More than a recording brought in.
    """
    fresh = Project(title=new.title, media=new.media)
    return differ(old, new) and (differ(new, fresh) or differ(old, Project(title=old.title, media=old.media)))


def summary(old: Project, new: Project) -> Summary:
    """What the second value has that the first has not; things are known again by their ids.

    Empty only where both say the same: what is counted nowhere else is another change.
    """
    before, after = old.transcript.words_by_id, new.transcript.words_by_id
    shared = before.keys() & after.keys()
    others_now = [(before[one], after[one]) for one in shared if before[one] is not after[one]]
    corrected = sum(a.text != b.text for a, b in others_now)
    marked = sum(a != b for a, b in others_now) - corrected
    turns = {one.id: (one.speaker, one.proofed) for one in old.transcript.turns}
    starts = (_first_words(old) ^ _first_words(new)) & shared
    others = (
        old.title != new.title or old.subtitle != new.subtitle,
        _recording(old) != _recording(new),
        old.transcript.language != new.transcript.language,
        old.transcript.speakers != new.transcript.speakers,
        old.active != new.active,
        _cameras(old) != _cameras(new),
        [_without_captions(one) for one in old.tracks] != [_without_captions(one) for one in new.tracks],
    )
    found = Summary(
        new=len(after) - len(shared),
        gone=len(before) - len(shared),
        corrected=corrected,
        turns=sum(
            one.id in turns and turns[one.id] != (one.speaker, one.proofed) for one in new.transcript.turns
        ),
        paragraphs=len(starts),
        captions=_exchanged(
            {(track.id, one.id): one for track in old.tracks for one in track.captions},
            {(track.id, one.id): one for track in new.tracks for one in track.captions},
        ),
        notes=_exchanged({one.id: one for one in old.notes}, {one.id: one for one in new.notes}),
        terms=_exchanged({one.right: one for one in old.terms}, {one.right: one for one in new.terms}),
        releases=len(set(new.releases) ^ set(old.releases)),
        cuts=_exchanged({one.id: one for one in old.cuts}, {one.id: one for one in new.cuts}),
        others=marked + sum(others),
    )
    return found if found or not differ(old, new) else replace(found, others=1)


def _exchanged(before: dict, after: dict) -> int:
    return sum(before.get(one) != after.get(one) for one in before.keys() | after.keys())


def _first_words(project: Project) -> set[int]:
    return {turn.words[0].id for turn in project.transcript.turns if turn.words}


def _without_captions(track: CaptionTrack) -> CaptionTrack:
    return replace(track, captions=())


def _recording(project: Project) -> tuple[str, int] | None:
    """What of the link to a recording a user would call a change."""
    return (project.media.name, project.media.duration_ms) if project.media else None


def _cameras(project: Project) -> tuple[object, ...]:
    """The same of cameras."""
    cameras = project.cameras
    films = (one.media and (one.media.name, one.media.duration_ms) for one in cameras.all)
    return *(replace(one, media=None) for one in cameras.all), *films, cameras.switches
