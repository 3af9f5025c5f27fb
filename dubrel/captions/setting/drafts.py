"""Captions before they have times: words with their lines, names and dashes."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.value import Value
from dubrel.captions.lengths import line_lengths
from dubrel.captions.marks import with_dash, with_name
from dubrel.captions.setting import costs
from dubrel.model import Caption, HouseStyle, Word


class Draft(Value):
    """A caption before it has times and an id.

    Attributes
    ----------
    words : tuple of Word
        Those that show.
    held : tuple of int
        Ids of all its words, the struck ones too.
    texts : tuple of str
        As they show, with names and dashes.
    breaks : tuple of int
        Places of the words that begin a new line.
    named, dashed : tuple of int
        Places of the words before which a name or a dash stands.
    speaker : str or None
        Of the first word.
    slanted : bool
        Whether it is set in italics.
    """

    words: tuple[Word, ...]
    held: tuple[int, ...]
    texts: tuple[str, ...]
    breaks: tuple[int, ...]
    named: tuple[int, ...] = ()
    dashed: tuple[int, ...] = ()
    speaker: str | None = None
    slanted: bool = False

    def caption(self, caption_id: int, start_ms: int, end_ms: int) -> Caption:
        """The caption that it becomes."""
        ids = [word.id for word in self.words]
        breaks, named, dashed = (
            tuple(ids[at] for at in some) for some in (self.breaks, self.named, self.dashed)
        )
        styled = tuple((one, "i") for one in ids) if self.slanted else ()
        return Caption(caption_id, start_ms, end_ms, self.held, breaks, named, dashed, styled=styled)


def draft_of(
    words: Sequence[Word], style: HouseStyle, language: str, speaker: str | None, name: str
) -> Draft:
    """Words with their lines; ``name`` stands before them unless it is empty. One at least must show."""
    shown = tuple(word for word in words if not word.struck)
    texts = [word.text for word in shown]
    texts[0] = with_name(name, texts[0])
    from dubrel.captions.setting.breaking import (
        best_lines,  # late: arrays, which opening a window does without
    )

    breaks = best_lines(shown, style, language, name) or ()
    held = tuple(word.id for word in words)
    return Draft(shown, held, tuple(texts), breaks, (0,) * bool(name), (), speaker)


def two_people(one: Draft, other: Draft, style: HouseStyle) -> Draft | None:
    """Both in one caption, if both are short, and the style allows it where one follows the other at once.

    Where both speak at the same time no style can show them truly in two captions.
    """
    at_once = other.words[0].start_ms < one.words[-1].end_ms
    if not (style.dashes or at_once) or style.max_lines < 2 or one.speaker == other.speaker:
        return None
    if one.breaks or other.breaks or one.dashed or other.dashed:
        return None
    span = max(one.words[-1].end_ms, other.words[-1].end_ms) - one.words[0].start_ms
    if span > style.max_ms or other.words[0].start_ms - one.words[-1].end_ms > costs.ANSWER_MS:
        return None
    texts = [*one.texts, *other.texts]
    second = len(one.words)
    dashed = () if one.named and other.named else (0, second)
    for place in dashed:
        texts[place] = with_dash(texts[place])
    if max(line_lengths(texts, [second])) > style.max_cpl:
        return None
    named = (*one.named, *(second for _ in other.named)) if not dashed else ()
    held = (*one.held, *other.held)
    return Draft((*one.words, *other.words), held, tuple(texts), (second,), named, dashed, one.speaker)
