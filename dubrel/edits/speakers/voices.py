"""Say who speaks."""

from __future__ import annotations

from itertools import count

from dubrel.base.value import replace
from dubrel.edits.words.wording import handed, with_turns
from dubrel.model import Project, Speaker
from dubrel.project.index import turn_place


def add_speaker(project: Project, name: str, role: str = "") -> tuple[Project, str]:
    """Add a speaker; the next project and the new speaker's id, which no speaker had before."""
    taken = {speaker.id for speaker in project.transcript.speakers}
    number = next(k for k in count(project.next_id) if f"s{k}" not in taken)
    speakers = (*project.transcript.speakers, Speaker(f"s{number}", name, role))
    transcript = replace(project.transcript, speakers=speakers)
    return replace(project, transcript=transcript, next_id=number + 1), f"s{number}"


def shown_name(project: Project, speaker_id: str | None) -> str:
    """A speaker's name for the eye: a number for one who has none, nothing for nobody."""
    for place, one in enumerate(project.transcript.speakers, 1):
        if one.id == speaker_id:
            return one.name or f"Speaker {place}"
    return ""


def rename_speaker(project: Project, speaker_id: str, name: str, role: str | None = None) -> Project:
    """Give a speaker another name, and another role if one is given."""
    speakers = tuple(
        replace(who, name=name, role=who.role if role is None else role) if who.id == speaker_id else who
        for who in project.transcript.speakers
    )
    if speakers == project.transcript.speakers:
        return project
    return replace(project, transcript=replace(project.transcript, speakers=speakers))


def give_turn(project: Project, turn_id: int, speaker_id: str | None) -> Project:
    """Assign a turn to a speaker; what a person has said stays."""
    place = turn_place(project, turn_id)
    turn = project.transcript.turns[place]
    if turn.speaker == speaker_id and turn.confirmed:
        return project
    words = handed(turn.words, turn.speaker, speaker_id)
    given = replace(turn, words=words, speaker=speaker_id, confirmed=True)
    return with_turns(project, place, place + 1, given)
