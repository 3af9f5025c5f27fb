"""What a caption shows: the only way to its text."""

from __future__ import annotations

from collections.abc import Iterator

from dubrel.base.text import gap_lengths, joined, reads_rtl, word_units
from dubrel.base.value import Value
from dubrel.captions.lengths import text_length
from dubrel.captions.marks import shown_word
from dubrel.captions.motion import WordTimes, in_caption, shared_out
from dubrel.model import Caption, CaptionTrack, Look, Project, Word
from dubrel.project.index import name_of, turn_of, words_with

Pieces = tuple[tuple[tuple[str, str], ...], ...]


class CaptionText(Value):
    """A caption as a viewer reads it.

    Attributes
    ----------
    lines : tuple of str
    speakers : tuple of str
        The name of who begins each line; empty where it is not known.
    rtl : bool
        Whether it is set from the right.
    pieces : tuple of tuple of (str, str)
        For each line its words with their styles; empty where none has one.
    """

    lines: tuple[str, ...]
    speakers: tuple[str, ...] = ()
    rtl: bool = False
    pieces: Pieces = ()

    @property
    def length(self) -> int:
        """Graphemes; a line break counts as the space that it stands for."""
        return text_length(self.lines)


def text_of(project: Project, track: CaptionTrack, caption: Caption) -> CaptionText:
    """The text of a caption with names, dashes and direction; without struck words.

    A caption all of whose words are struck has no lines: it is not shown.
    """
    if not caption.words:
        lines = tuple(line for line in caption.text.split("\n") if line.strip())
        return CaptionText(lines, ("",) * len(lines), _rtl(lines, track))
    rows = rows_of(project, caption)
    texts = _texts(project, caption, rows)
    lines = tuple(joined(shown, [word.spaced for word in row]) for shown, row in zip(texts, rows))
    pieces = _pieces(caption, rows, texts) if caption.styled else ()
    speakers = tuple(name_of(project, row[0].id) for row in rows)
    return CaptionText(lines, speakers, _rtl(lines, track), pieces)


def rows_of(project: Project, caption: Caption) -> list[list[Word]]:
    """The words of each line of a caption that shows any, without struck and hidden ones."""
    rows: list[list[Word]] = [[]]
    for word in words_with(project, caption.words):
        if word.id in caption.breaks and rows[-1]:
            rows.append([])
        if not word.struck and word.id not in caption.hidden:
            rows[-1].append(word)
    return [row for row in rows if row]


def look_of(project: Project, track: CaptionTrack, caption: Caption) -> Look:
    """How a caption looks: as its speaker does, or as the track."""
    if not track.looks or not caption.words:
        return track.look
    turn = turn_of(project, caption.words[0])
    return dict(track.looks).get((turn.speaker if turn else None) or "", track.look)


def word_times(project: Project, caption: Caption, text: CaptionText) -> WordTimes:
    """When each word that a caption shows is spoken, line by line; nothing where that is not known.

    Words of the spoken language have times of their own. A translation has those of the words
    that it translates, shared out by the letters between words that are the same in both (names,
    figures); one that does not say what it translates does not move.
    """
    if caption.words:
        rows = [[(word.start_ms, word.end_ms) for word in row] for row in rows_of(project, caption)]
        return in_caption(rows, caption.start_ms, caption.end_ms)
    said = [word for word in words_with(project, caption.of) if not word.struck]
    if not said or not text.lines:
        return ()
    lines = [word_units(line) for line in text.lines]
    flat = shared_out(
        [(word.text, word.start_ms, word.end_ms) for word in said], [one for line in lines for one in line]
    )
    found, at = [], 0
    for line in lines:
        found.append(flat[at : at + len(line)])
        at += len(line)
    return in_caption(found, caption.start_ms, caption.end_ms)


def pieces_of(project: Project, caption: Caption, text: CaptionText) -> Pieces:
    """For each line its words, with what stands before each, and their styles."""
    if caption.words:
        rows = rows_of(project, caption)
        return _pieces(caption, rows, _texts(project, caption, rows))
    return tuple(
        tuple((" " * gap + unit, "") for unit, gap in zip(units, gap_lengths(units)))
        for units in map(word_units, text.lines)
    )


def _texts(project: Project, caption: Caption, rows: list[list[Word]]) -> list[list[str]]:
    """What is shown of each word, with a name or a dash before it where one stands."""
    marked = {*caption.named, *caption.dashed}
    return [
        [_shown(project, caption, word) if word.id in marked else word.text for word in row] for row in rows
    ]


def _pieces(caption: Caption, rows: list[list[Word]], texts: list[list[str]]) -> Pieces:
    style = dict(caption.styled)
    return tuple(
        tuple(
            (before + text, style.get(word.id, ""))
            for before, text, word in zip(_gaps(shown, row), shown, row)
        )
        for shown, row in zip(texts, rows)
    )


def _gaps(shown: list[str], row: list[Word]) -> list[str]:
    """What stands before each word of a line."""
    known = zip(gap_lengths(shown), row)
    return [" " if count or (word.spaced and nth) else "" for nth, (count, word) in enumerate(known)]


def _shown(project: Project, caption: Caption, word: Word) -> str:
    name = name_of(project, word.id) if word.id in caption.named else ""
    return shown_word(word.text, name, word.id in caption.dashed)


def _rtl(lines: tuple[str, ...], track: CaptionTrack) -> bool:
    return reads_rtl(" ".join(lines), track.language)


def shown_captions(project: Project, track: CaptionTrack | None) -> Iterator[tuple[Caption, CaptionText]]:
    """The captions of a track that show something, in order, with their texts."""
    for caption in track.captions if track else ():
        text = text_of(project, track, caption)  # type: ignore[arg-type]
        if text.lines:
            yield caption, text


def words_in_no_caption(project: Project, track: CaptionTrack) -> list[Word]:
    """Words that are said and shown nowhere in a track of the spoken language."""
    if not track.spoken or not track.captions:
        return []
    lost = (turn.said - track.held for turn in project.transcript.turns)
    return [
        word
        for turn, some in zip(project.transcript.turns, lost)
        if some
        for word in turn.words
        if word.id in some
    ]
