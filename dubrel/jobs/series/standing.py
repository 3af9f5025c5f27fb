"""How an episode stands: how far each pass is, and what is to do."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.catalogue import Message
from dubrel.base.languages import language_name
from dubrel.base.value import Value
from dubrel.edits.translation.track import standing_of, translated_tracks
from dubrel.model import Project
from dubrel.project.quality import Proofing
from dubrel.release.readiness import not_ready
from dubrel.release.writing import digest_of


class Standing(Value):
    """How an episode stands.

    Attributes
    ----------
    title : str
    length_ms, words : int
    passes : dict of str to float
        How far each pass is, 0 to 1.
    todo : tuple of str
        What is to do, in words.
    speakers, terms, languages : tuple of str
        Names of speakers, terms as they are written, languages of translations.
    styles : tuple of str
        The house style of each track, as ``language: name``.
    """

    title: str
    length_ms: int
    words: int
    passes: dict[str, float]
    todo: tuple[str, ...]
    speakers: tuple[str, ...]
    terms: tuple[str, ...]
    languages: tuple[str, ...]
    styles: tuple[str, ...] = ()


def standing_in(project: Project, languages: Sequence[str] = ()) -> Standing:
    """How a project stands as an episode.

    Parameters
    ----------
    languages : sequence of str
        Those into which every episode is to be translated.
    """
    transcript, tracks = project.transcript, translated_tracks(project)
    speaking = {turn.speaker for turn in transcript.turns}
    named = [one for one in transcript.speakers if one.id in speaking]
    proofing = Proofing()
    for turn in transcript.turns:
        proofing = proofing.with_turn(turn)
    unready = not_ready(project) if transcript.word_count else []
    missing = [one for one in languages if one not in {track.language for track in tracks}]
    shares = []
    for track in tracks:
        standing = standing_of(project, track)
        shares.append(standing.approved / standing.whole if standing.whole else 0.0)
    shares += [0.0] * len(missing)
    released = bool(project.releases) and project.releases[-1].digest == digest_of(project)
    passes = {
        "intake": float(bool(transcript.word_count)),
        "voices": sum(bool(one.name) for one in named) / len(named) if named else 0.0,
        "wording": proofing.share,
        "cut": 1.0 if any(not one.clip for one in project.cuts) else -1.0,  # not every episode is cut
        "captions": _captions(project, [one.room for one in unready]),
        "translation": sum(shares) / len(shares) if shares else float(not languages),
        "release": 1.0 if released else 0.5 * bool(project.releases),
    }
    todo = [Message("not transcribed yet")]
    if transcript.word_count:
        todo = [one.text for one in unready]
    todo += [
        Message("no translation into {language}", language=Message(language_name(one))) for one in missing
    ]
    if project.releases and not released:
        todo.append(Message("changed since it was released"))
    return Standing(
        project.title,
        project.length_ms or 0,
        transcript.word_count,
        passes,
        tuple(todo),
        tuple(one.name for one in named if one.name),
        tuple(one.right for one in project.terms),
        tuple(track.language for track in tracks),
        tuple(f"{track.language}: {track.style.name}" for track in project.tracks if track.captions),
    )


def _captions(project: Project, rooms: Sequence[str]) -> float:
    track = project.captions
    if track is None or not track.captions:
        return 0.0
    return 0.5 if "captions" in rooms else 1.0
