"""Find and replace in a translation."""

from __future__ import annotations

import re
from collections.abc import Iterable

from dubrel.base.text import over_lines, tidied, whole_words
from dubrel.base.value import Value, replace
from dubrel.model import Caption, CaptionTrack, Project
from dubrel.project.index import caption_with
from dubrel.project.tracks import holding, with_captions


class Sought(Value):
    """What is looked for.

    Attributes
    ----------
    text : str
    case, whole : bool
        Whether capitals count; whole words only.
    """

    text: str
    case: bool = False
    whole: bool = False

    @property
    def pattern(self) -> re.Pattern[str]:
        """As a regular expression; a space stands for a line break too."""
        body = over_lines(self.text)
        body = whole_words(body) if self.whole else body
        return re.compile(body, 0 if self.case else re.IGNORECASE)


def found_in(track: CaptionTrack, sought: Sought) -> list[Caption]:
    """The captions in which it stands, in order."""
    if not sought.text.strip():
        return []
    pattern = sought.pattern
    return [one for one in track.captions if pattern.search(one.text)]


def replaced_in(
    project: Project, track_id: int, caption_ids: Iterable[int], sought: Sought, becomes: str
) -> Project:
    """The project with a text replaced in some captions of a translation; they are in a person's hands then.

    A caption of which nothing would be left stays as it is.
    """
    pattern, changed = sought.pattern, {}
    for one in caption_ids:
        caption = caption_with(project, track_id, one)
        if caption is None:
            continue
        text = pattern.sub(lambda _match: becomes, caption.text)
        lines = [tidied(line) for line in text.split("\n")]
        text = "\n".join(line for line in lines if line)
        if text and text != caption.text:
            changed[one] = holding(replace(caption, text=text, done=False), "text")
    return with_captions(project, track_id, changed)
