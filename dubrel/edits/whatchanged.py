"""What one value of a project has that another has not, counted and in words."""

from __future__ import annotations

from dataclasses import dataclass

from dubrel.model import Project
from dubrel.text import counted


@dataclass(frozen=True)
class Summary:
    """Counts of what differs.

    Attributes
    ----------
    new, gone, corrected : int
        Words that came, that went, and that are written otherwise.
    turns : int
        Turns with another speaker, or proofed or no longer.
    captions : int
        Captions that came, went or are others.
    others : int
        Notes, names, the title, the recording.
    """

    new: int = 0
    gone: int = 0
    corrected: int = 0
    turns: int = 0
    captions: int = 0
    others: int = 0

    def __bool__(self) -> bool:
        return any((self.new, self.gone, self.corrected, self.turns, self.captions, self.others))

    def __str__(self) -> str:
        """The counts as a phrase; other changes are named only where there is nothing else."""
        parts = [
            counted(count, *noun)
            for count, noun in (
                (self.new, ("new word", "new words")),
                (self.corrected, ("correction", "corrections")),
                (self.gone, ("word removed", "words removed")),
                (self.turns, ("turn assigned or proofed", "turns assigned or proofed")),
                (self.captions, ("caption changed", "captions changed")),
                (self.others, ("other change", "other changes")),
            )
            if count
        ]
        return ", ".join(parts[:-1] if self.others and len(parts) > 1 else parts) or "nothing else"


def summary(old: Project, new: Project) -> Summary:
    """What the second value has that the first has not; things are known again by their ids."""
    before, after = old.transcript.words_by_id, new.transcript.words_by_id
    shared = before.keys() & after.keys()
    others_now = [(before[one], after[one]) for one in shared if before[one] is not after[one]]
    corrected = sum(a.text != b.text for a, b in others_now)
    marked = sum(a != b for a, b in others_now) - corrected
    turns = {one.id: (one.speaker, one.proofed) for one in old.transcript.turns}
    shown = {one.id: one for track in old.tracks for one in track.captions}
    now = {one.id: one for track in new.tracks for one in track.captions}
    others = (
        old.title != new.title or old.subtitle != new.subtitle,
        _recording(old) != _recording(new),
        old.transcript.language != new.transcript.language,
        old.transcript.speakers != new.transcript.speakers,
        old.notes != new.notes,
        old.terms != new.terms,
        [(one.style, one.look, one.language) for one in old.tracks]
        != [(one.style, one.look, one.language) for one in new.tracks],
    )
    return Summary(
        new=len(after) - len(shared),
        gone=len(before) - len(shared),
        corrected=corrected,
        turns=sum(
            one.id in turns and turns[one.id] != (one.speaker, one.proofed) for one in new.transcript.turns
        ),
        captions=sum(shown.get(one) != now.get(one) for one in shown.keys() | now.keys()),
        others=marked + sum(others),
    )


def _recording(project: Project) -> tuple[str, int] | None:
    """What of the link to a recording a user would call a change."""
    return (project.media.name, project.media.duration_ms) if project.media else None
