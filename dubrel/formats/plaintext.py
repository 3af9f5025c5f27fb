"""Plain text (.txt): one paragraph a turn, with who speaks."""

from __future__ import annotations

from collections.abc import Mapping

from dubrel.edits.voices import shown_name
from dubrel.model import Project, text_of_words

OPTIONS = {"names": ("change", "always", "never")}


def write(project: Project, options: Mapping[str, str]) -> str:
    """The transcript as paragraphs, without struck words.

    Where nobody has a name yet, speakers are numbered; a single speaker without
    a name is not named at all.
    """
    transcript, paragraphs, before = project.transcript, [], None
    one_alone = len(transcript.speakers) == 1 and not transcript.speakers[0].name
    wanted = "never" if one_alone else options.get("names", OPTIONS["names"][0])
    for turn in transcript.turns:
        text = text_of_words([word for word in turn.words if not word.struck])
        if not text:
            continue
        named = wanted == "always" or (wanted == "change" and turn.speaker != before)
        name = shown_name(project, turn.speaker) if named else ""
        paragraphs.append(f"{name}: {text}" if name else text)
        before = turn.speaker
    return "\n\n".join(paragraphs) + ("\n" if paragraphs else "")
