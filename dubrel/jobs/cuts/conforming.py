"""Bring words, captions and translations to an edited recording: found by its sound, or by a cut list."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import MediaError
from dubrel.base.timecode import format_length
from dubrel.base.value import Value, replace
from dubrel.edits.cuts.cutting import cut_project, placed_project
from dubrel.finding.samesound import SamePassage, same_passages
from dubrel.formats.cutlists.register import CUT_FORMS, read_cut_list
from dubrel.jobs.machinery.events import Event, Pace, Warning_, Written
from dubrel.media.cache import is_read
from dubrel.media.probe import probe
from dubrel.media.sound import read_sound, samples_of
from dubrel.model import Cut, Media, Project
from dubrel.project.timeline import Placement
from dubrel.store.projectfile import save

_LEAST_MS = 300  # what is new and shorter is nothing that anybody added
_LEAST_SHARE = 0.02


class Conformed(Value):
    """A project at the times of an edited recording.

    Attributes
    ----------
    project : Project
    passages : int
        Of the recording of before, in the new one.
    new : tuple of (int, int)
        What of the new recording is not of the old one, in ms.
    gone : tuple of (int, int, str)
        What of the old recording is said and is not in the new one: when, and its words.
    said : tuple of str
        What could not be kept, or was assumed.
    """

    project: Project
    passages: int
    new: tuple[tuple[int, int], ...]
    gone: tuple[tuple[int, int, str], ...]
    said: tuple[str, ...] = ()

    def __str__(self) -> str:
        new, gone = sum(b - a for a, b in self.new), sum(len(text.split()) for *_, text in self.gone)
        parts = [counted(self.passages, "passage")]
        parts += [f"{format_length(new)} new"] if new else []
        parts += [f"{counted(gone, 'word')} gone"] if gone else []
        return ", ".join(parts)


def conform(project: Project, new: Path) -> Iterator[Event | Conformed]:
    """Bring a project to an edited recording, or to a cut list of its own.

    Yields
    ------
    Event or Conformed
        Progress; the result at the end.

    Raises
    ------
    MediaError
        If the recording of the project is not there, or shares no sound with the new one.
    FormatError
        If a cut list cannot be read.
    """
    if new.suffix.lower() in CUT_FORMS:
        found = read_cut_list(new, project)
        cut = Cut(project.next_id, found.name, tuple(found.passages))
        yield _conformed(project, cut_project(project, cut), len(cut.passages), (), found.said)
        return
    pace = Pace()
    before = _there(project.media)
    after = probe(new)
    if not after.has_audio:
        raise MediaError(
            tr("“{new}” has no sound to be known by. Conform to a cut list instead.").format(new=new)
        )
    for share, media in ((0.0, before), (0.3, after)):
        for fraction in () if is_read(media) else read_sound(media):
            yield pace.at(tr("Reading the file"), share + 0.3 * fraction)
    yield pace.at(tr("Comparing the sound"), 0.6)
    passages = same_passages(samples_of(before), samples_of(after))
    places = placed(passages, after.duration_ms)
    if sum(one.until_ms - one.at_ms for one in places) < _LEAST_SHARE * after.duration_ms or not places:
        raise MediaError(
            tr("“{name}” shares no sound with “{name2}”. Choose an edit of this recording.").format(
                name=new.name, name2=before.name
            )
        )
    yield pace.at(tr("Bringing the words along"), 0.95)
    made = replace(placed_project(project, places), media=after)
    yield _conformed(project, made, len(places), uncovered(places, after.duration_ms), ())


def _there(media: Media | None) -> Media:
    if media is None or not Path(media.path).is_file():
        name = f"“{media.name}”" if media else "The recording"
        raise MediaError(
            tr("{name} is not where it was; the edit is compared with it. Find it first.").format(name=name)
        )
    return media


def placed(passages: Sequence[SamePassage], length_ms: int) -> list[Placement]:
    """Passages as placements in whole milliseconds, none overlapping the next."""
    found = list[Placement]()
    for one in passages:
        at = max(round(one.at_ms), found[-1].until_ms if found else 0)
        until = min(round(one.until_ms), length_ms)
        start = round(
            one.start_ms + (at - one.at_ms) * (one.end_ms - one.start_ms) / (one.until_ms - one.at_ms)
        )
        end = round(one.end_ms)
        if until > at and end > start >= 0:
            if abs((end - start) - (until - at)) <= 1:  # not stretched, only rounded
                end = start + until - at
            found.append(Placement(start, end, at, until))
    return found


def uncovered(places: Sequence[Placement], length_ms: int) -> tuple[tuple[int, int], ...]:
    """What no passage covers of something so long."""
    found, at = [], 0
    for one in sorted(places, key=lambda one: one.at_ms):
        if one.at_ms - at >= _LEAST_MS:
            found.append((at, one.at_ms))
        at = max(at, one.until_ms)
    return (*found, (at, length_ms)) if length_ms - at >= _LEAST_MS else tuple(found)


def _conformed(
    old: Project, made: Project, passages: int, new: tuple[tuple[int, int], ...], said: Sequence[str]
) -> Conformed:
    kept = {word.id for turn in made.transcript.turns for word in turn.words}
    gone = list[tuple[int, int, str]]()
    open_run = False
    for turn in old.transcript.turns:
        for word in turn.words:
            if word.id in kept:
                open_run = False
            elif open_run:
                start, _, text = gone[-1]
                gone[-1] = (start, word.end_ms, f"{text} {word.text}")
            else:
                gone.append((word.start_ms, word.end_ms, word.text))
                open_run = True
    if old.cameras.all:
        said = [*said, tr("The cameras are not brought along. Add their films again.")]
    return Conformed(made, passages, new, tuple(gone), tuple(said))


def conform_to_file(project: Project, new: Path, out: Path) -> Iterator[Event]:
    """The same, written as a project; for a process of its own."""
    for found in conform(project, new):
        if not isinstance(found, Conformed):
            yield found
            continue
        save(found.project, out)
        yield Warning_(" ".join([f"{found}.", *found.said]))
        yield Written(str(out))
