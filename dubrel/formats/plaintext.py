"""Plain text (.txt): one paragraph a turn, with names where they are known."""

from __future__ import annotations

from dubrel.model import Project


def write(project: Project) -> str:
    """The transcript as paragraphs, without struck words."""
    transcript, paragraphs, before = project.transcript, [], None
    for turn in transcript.turns:
        text = " ".join(word.text for word in turn.words if not word.struck)
        speaker = transcript.speaker(turn.speaker)
        name = f"{speaker.name}: " if speaker and speaker.name and turn.speaker != before else ""
        if text:
            paragraphs.append(name + text)
            before = turn.speaker
    return "\n\n".join(paragraphs) + ("\n" if paragraphs else "")
