"""Say every rule of a house style that a caption breaks."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from fractions import Fraction

from dubrel.captions.breaking import line_lengths, text_length
from dubrel.captions.styles import HouseStyle
from dubrel.model import Caption, CaptionTrack, Word

NameOf = Callable[[int], str]


@dataclass(frozen=True)
class Finding:
    """One broken rule.

    Attributes
    ----------
    rule : str
        ``speed``, ``lines``, ``line length``, ``short``, ``long``, ``gap``,
        ``overlap`` or ``backwards``.
    message : str
        What is wrong and by how much.
    """

    rule: str
    message: str


def caption_words(caption: Caption, words: Mapping[int, Word]) -> list[Word]:
    """The words that a caption shows: those still there and not struck."""
    return [words[one] for one in caption.words if one in words and not words[one].struck]


def with_name(name: str, text: str) -> str:
    """Text with who says it before it, if there is a name."""
    return f"{name}: {text}" if name else text


def with_dash(text: str) -> str:
    """Text with the dash of one of two people before it."""
    return f"– {text}"


def nobody(word_id: int) -> str:
    """The name of who says a word, where names do not matter."""
    return ""


def shown_text(caption: Caption, word: Word, name_of: NameOf = nobody) -> str:
    """A word of a caption with the name or the dash that stands before it."""
    name = name_of(word.id) if word.id in caption.named else ""
    if name:
        return with_name(name, word.text)
    return with_dash(word.text) if word.id in caption.dashed else word.text


def caption_lines(caption: Caption, words: Mapping[int, Word], name_of: NameOf = nobody) -> list[str]:
    """The lines of a caption as they will show."""
    lines: list[list[str]] = [[]]
    for word in caption_words(caption, words):
        if word.id in caption.breaks and lines[-1]:
            lines.append([])
        lines[-1].append(shown_text(caption, word, name_of))
    return [" ".join(line) for line in lines if line]


def reading_speed(caption: Caption, words: Mapping[int, Word], name_of: NameOf = nobody) -> float:
    """Characters a second: graphemes of the text over the time on screen."""
    length = text_length([shown_text(caption, word, name_of) for word in caption_words(caption, words)])
    return length * 1000 / max(1, caption.end_ms - caption.start_ms)


def check_caption(
    caption: Caption,
    words: Mapping[int, Word],
    style: HouseStyle,
    *,
    following: Caption | None = None,
    frame_rate: Fraction | None = None,
    name_of: NameOf = nobody,
) -> list[Finding]:
    """Every rule that one caption breaks.

    Parameters
    ----------
    caption : Caption
    words : mapping of int to Word
        At least the caption's own words.
    style : HouseStyle
    following : Caption, optional
        The next caption of the track.
    frame_rate : Fraction, optional
        Of the picture.
    name_of : callable
        The name of who says a word, by its id.
    """
    shown = caption_words(caption, words)
    texts = [shown_text(caption, word, name_of) for word in shown]
    breaks = [place for place, word in enumerate(shown) if place and word.id in caption.breaks]
    span = caption.end_ms - caption.start_ms
    if span <= 0:
        return [Finding("backwards", "ends before it begins")]
    found = _speed(text_length(texts), span, style)
    lengths = line_lengths(texts, breaks)
    if len(lengths) > style.max_lines:
        found.append(Finding("lines", f"{len(lengths)} lines, {style.max_lines} at most"))
    for number, length in enumerate(lengths, 1):
        if length > style.max_cpl:
            found.append(
                Finding("line length", f"line {number} has {length} characters, {style.max_cpl} at most")
            )
    if span < style.min_ms:
        found.append(Finding("short", f"{(style.min_ms - span) / 1000:.2f} s too short"))
    if span > style.max_ms:
        found.append(Finding("long", f"{(span - style.max_ms) / 1000:.2f} s too long"))
    if following is not None:
        found += _gap(following.start_ms - caption.end_ms, style.gap_ms(frame_rate))
    return found


def _speed(length: int, span: int, style: HouseStyle) -> list[Finding]:
    if length * 1000 <= style.max_cps * span:
        return []
    over = length * 1000 / span - style.max_cps
    longer = length / style.max_cps - span / 1000
    fewer = length - int(style.max_cps * span / 1000)
    noun = "character" if fewer == 1 else "characters"
    hint = f"lengthen {longer:.2f} s or shorten {fewer} {noun}"
    return [Finding("speed", f"{over:.1f} over: {hint}")]


def _gap(gap: int, least: int) -> list[Finding]:
    if gap < 0:
        return [Finding("overlap", f"overlaps the next by {-gap / 1000:.2f} s")]
    if gap < least:
        return [Finding("gap", f"gap to the next is {gap} ms, {least} ms at least")]
    return []


def check_track(
    track: CaptionTrack,
    words: Mapping[int, Word],
    style: HouseStyle,
    frame_rate: Fraction | None = None,
    name_of: NameOf = nobody,
) -> dict[int, list[Finding]]:
    """Caption id to findings, for the captions that break a rule."""
    found = {}
    for place, caption in enumerate(track.captions):
        following = track.captions[place + 1] if place + 1 < len(track.captions) else None
        here = check_caption(
            caption, words, style, following=following, frame_rate=frame_rate, name_of=name_of
        )
        if here:
            found[caption.id] = here
    return found
