"""Write in a caption: what changes there changes in the transcript, there and then."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.text import word_units
from dubrel.base.value import replace
from dubrel.edits.captions.shape import found_in, write_text
from dubrel.edits.words.wording import replace_text
from dubrel.model import Caption, CaptionTrack, Project, Turn, Word
from dubrel.project.captiontext import rows_of, text_of
from dubrel.project.index import caption_with, turn_of, turn_with
from dubrel.project.tracks import holding, with_captions


def written_text(project: Project, track: CaptionTrack, caption: Caption) -> str:
    """What stands in a caption to be edited: its words without names and dashes, or its own text."""
    if not caption.words:
        return "\n".join(text_of(project, track, caption).lines)
    bare = replace(caption, named=(), dashed=())
    return "\n".join(text_of(project, track, bare).lines)


def rewritten(project: Project, caption_id: int, text: str) -> Project:
    r"""The project with a caption that says something else.

    Parameters
    ----------
    text : str
        With ``\n`` between lines. Words that stay keep their times; struck
        and hidden words stay where they are.

    Raises
    ------
    DubrelError
        If nothing is left, or two people share the caption.
    """
    _, caption, _ = found_in(project, caption_id)
    if not caption.words:
        return write_text(project, caption_id, text)
    rows = [word_units(line) for line in text.split("\n")]
    wanted = [unit for row in rows for unit in row]
    if not wanted:
        raise DubrelError(tr("A caption needs a word. Delete the caption instead; its words stay."))
    shown = [word for row in rows_of(project, caption) for word in row]
    turns = {turn.id for word in shown if (turn := turn_of(project, word.id))}
    if len(turns) != 1:
        raise DubrelError(tr("Two people share this caption. Correct it in Wording, where each has a turn."))
    (turn_id,) = turns
    project = _words_exchanged(project, turn_id, shown, wanted)
    return _lines_written(project, caption_id, [len(row) for row in rows if row])


def _words_exchanged(project: Project, turn_id: int, shown: list[Word], wanted: list[str]) -> Project:
    """The words of a turn that differ written anew, the last first, so that places before stay true."""
    from difflib import SequenceMatcher  # late: the window opens without it

    matcher = SequenceMatcher(None, [word.text for word in shown], wanted, autojunk=False)
    for kind, a, b, c, d in reversed(matcher.get_opcodes()):
        if kind == "equal":
            continue
        turn = turn_with(project, turn_id)
        assert turn is not None
        text = " ".join(wanted[c:d])
        if a == b:  # words come in: with the one before, or else with the one behind
            beside = shown[a - 1] if a else shown[a]
            start, stop = _span(turn, beside, beside)
            text = f"{beside.text} {text}" if a else f"{text} {beside.text}"
            project = replace_text(project, turn_id, start, stop, text)
            continue
        for run, words in reversed(_runs(turn, shown[a:b], wanted[c:d])):
            turn = turn_with(project, turn_id)
            assert turn is not None
            project = replace_text(project, turn_id, *_span(turn, run[0], run[-1]), " ".join(words))
            if turn_with(project, turn_id) is None:
                return project
    return project


def _runs(turn: Turn, shown: Sequence[Word], wanted: Sequence[str]) -> list[tuple[list[Word], list[str]]]:
    """Words that stand beside each other, with what is written in their place.

    Struck and hidden words part them: what is between stays where it is.
    """
    runs: list[list[Word]] = []
    for word in shown:
        if runs and turn.index_of[word.id] == turn.index_of[runs[-1][-1].id] + 1:
            runs[-1].append(word)
        else:
            runs.append([word])
    edges = [round(len(wanted) * sum(map(len, runs[:nth])) / len(shown)) for nth in range(len(runs) + 1)]
    return [(run, list(wanted[a:b])) for run, a, b in zip(runs, edges, edges[1:])]


def _span(turn: Turn, first: Word, last: Word) -> tuple[int, int]:
    """Where words stand in the text of their turn."""
    start = turn.offsets[turn.index_of[first.id]]
    return start, turn.offsets[turn.index_of[last.id]] + len(last.text)


def _lines_written(project: Project, caption_id: int, lengths: list[int]) -> Project:
    """The caption with lines of so many words, held where they are others than before."""
    track = project.captions
    caption = caption_with(project, track.id, caption_id) if track else None
    if track is None or caption is None:
        return project
    shown = [word.id for row in rows_of(project, caption) for word in row]
    if sum(lengths) != len(shown):
        return project
    places = [sum(lengths[:nth]) for nth in range(1, len(lengths))]
    breaks = tuple(shown[at] for at in places)
    if breaks == tuple(one for one in caption.breaks if one in shown[1:]):
        return project
    return with_captions(project, track.id, {caption_id: holding(replace(caption, breaks=breaks), "lines")})
