"""What is said of the breaks of one caption of a project, and taking another break instead."""

from __future__ import annotations

from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import Value, replace
from dubrel.captions.checks import reading_speed
from dubrel.captions.setting.chain import Chain, Part, make_chain
from dubrel.captions.setting.explaining import Option, end_options, line_options, place_costs
from dubrel.captions.setting.timing import Bounds
from dubrel.edits.captions.shape import found_in, move_words
from dubrel.model import Caption, CaptionTrack, Project, Word
from dubrel.project.captiontext import rows_of, text_of
from dubrel.project.index import name_of, place_in, turn_of
from dubrel.project.tracks import holding, with_captions


class Explanation(Value):
    """Why a caption is as it is.

    Attributes
    ----------
    words : tuple of Word
        Those that show.
    places : tuple of float
        What a line break before each word but the first costs.
    lines, ends : list of Option
        Ways to break its lines, and places where it could end; the cheapest
        first. No ends where the next caption is another turn's.
    """

    words: tuple[Word, ...]
    places: tuple[float, ...]
    lines: list[Option]
    ends: list[Option]


def explained(project: Project, caption_id: int) -> Explanation:
    """What the breaks of a caption cost, and what others would.

    Raises
    ------
    DubrelError
        If the caption is gone or has a text of its own.
    """
    track, caption, _ = found_in(project, caption_id)
    chain = _chain(project, track, [caption])
    if chain is None:
        raise DubrelError(tr("This caption has a text of its own; its breaks are yours. Choose another one."))
    shown = [word.id for word in chain.words]
    breaks = tuple(shown.index(one) for one in caption.breaks if one in shown[1:])
    lines = line_options(chain, breaks) if not caption.dashed else []
    return Explanation(chain.words, tuple(place_costs(chain)), lines, _ends(project, track, caption))


def _chain(project: Project, track: CaptionTrack, captions: list[Caption]) -> Chain | None:
    """The words of captions that show; nothing where one has none or they are several turns'."""
    words = [word for one in captions for row in rows_of(project, one) for word in row if one.words]
    turns = {turn.id: turn for word in words if (turn := turn_of(project, word.id))}
    if not words or (len(captions) > 1 and len(turns) > 1):
        return None
    first = captions[0]
    name = name_of(project, words[0].id) if words[0].id in first.named else ""
    turn = replace(next(iter(turns.values())), words=tuple(words))
    rules = replace(track.rules, names="change" if name else "never", dashes=False)
    return make_chain([Part(turn, name, bool(name))], rules, track.language)


def _ends(project: Project, track: CaptionTrack, caption: Caption) -> list[Option]:
    place = place_in(track.captions, caption)
    following = track.captions[place + 1] if place + 1 < len(track.captions) else None
    if following is None or caption.dashed or following.dashed:
        return []
    chain = _chain(project, track, [caption, following])
    border = sum(map(len, rows_of(project, caption)))
    if chain is None or not following.words or border >= len(chain):
        return []
    before = track.captions[place - 1].end_ms if place else None
    after = track.captions[place + 2].start_ms if place + 2 < len(track.captions) else None
    return end_options(chain, Bounds(project.frame_rate, project.shots, before, after), border)


def next_lines(project: Project, caption_id: int, step: int = 1) -> Project:
    """The caption with the lines that cost next to its own, dearer (1) or cheaper (-1).

    Raises
    ------
    DubrelError
        If there is no other way to break it.
    """
    lines = explained(project, caption_id).lines
    now = next((nth for nth, one in enumerate(lines) if one.chosen), 0)
    if len(lines) < 2:
        raise DubrelError(
            tr("There is no other way to break these lines. Move a word to a neighbour instead.")
        )
    return with_lines(project, caption_id, lines[(now + step) % len(lines)])


def with_lines(project: Project, caption_id: int, option: Option) -> Project:
    """The caption with other lines, held by hand."""
    track, caption, _ = found_in(project, caption_id)
    made = holding(replace(caption, breaks=option.words), "lines")
    return with_captions(project, track.id, {caption_id: made})


def with_end(project: Project, caption_id: int, option: Option) -> Project:
    """The caption and the next one with another border between them, held by hand."""
    for _ in range(200):
        track, _, place = found_in(project, caption_id)
        following = track.captions[place + 1]
        shown = [word.id for row in rows_of(project, following) for word in row]
        if shown[0] == option.words[0]:
            break
        project = move_words(project, caption_id, "out", -1 if option.words[0] in shown else 1)
    return project


def next_end(project: Project, caption_id: int, step: int = 1) -> Project:
    """The caption with the next cheapest end.

    Raises
    ------
    DubrelError
        If it could end nowhere else.
    """
    ends = explained(project, caption_id).ends
    now = next((nth for nth, one in enumerate(ends) if one.chosen), 0)
    if len(ends) < 2:
        raise DubrelError(tr("This caption can end nowhere else. Join it with a neighbour instead."))
    return with_end(project, caption_id, ends[(now + step) % len(ends)])


def report(project: Project) -> dict[str, Any]:
    """What is said of every caption of the active track, for ``dubrel captions --explain``."""
    track = project.captions
    rows = []
    for number, caption in enumerate(track.captions if track else (), 1):
        assert track is not None
        text = text_of(project, track, caption)
        if not caption.words or not text.lines:
            continue
        found = explained(project, caption.id)
        rows.append(
            {
                "caption": number,
                "start_ms": caption.start_ms,
                "end_ms": caption.end_ms,
                "lines": list(text.lines),
                "cps": round(reading_speed(caption, text.lines), 2),
                "held": list(caption.held),
                "line_breaks": _rows(found.lines),
                "ends": _rows(found.ends),
            }
        )
    return {"style": track.style.name if track else "", "captions": rows}


def _rows(options: list[Option]) -> list[dict[str, Any]]:
    """What is chosen, and the two next best."""
    chosen = [one for one in options if one.chosen]
    others = [one for one in options if not one.chosen][:2]
    return [
        {
            "before": list(one.texts),
            "cost": round(one.cost, 1),
            "why": one.why,
            "chosen": one.chosen,
        }
        for one in (*chosen, *others)
    ]
