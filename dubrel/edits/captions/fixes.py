"""Fix what breaks a rule: in the order of how little is touched, and never at the price of another rule."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence

from dubrel.base.text import tidied
from dubrel.base.value import Value, replace
from dubrel.captions.checks import RULES, Finding
from dubrel.captions.places import box_of, named_place, placed, settings_of
from dubrel.captions.setting.breaking import best_lines
from dubrel.captions.setting.chain import Part, make_chain
from dubrel.captions.setting.search import Search
from dubrel.captions.setting.timing import Bounds
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.trackchecks import check_one, check_track
from dubrel.model import Caption, CaptionTrack, Project
from dubrel.project.captiontext import rows_of, text_of
from dubrel.project.index import caption_with, name_of, place_in, turn_of
from dubrel.project.queries import captions_between
from dubrel.project.tracks import with_captions


class Fix(Value):
    """What fixing one caption did.

    Attributes
    ----------
    caption : int
        Id.
    old, new : tuple of Caption
        Before and after, the neighbours that were touched with it.
    fixed : tuple of str
        The rules that hold now.
    """

    caption: int
    old: tuple[Caption, ...]
    new: tuple[Caption, ...]
    fixed: tuple[str, ...]


def fix_all(
    project: Project, rules: Collection[str] | None = None, only: Collection[int] | None = None
) -> tuple[Project, list[Fix]]:
    """Fix the captions of the active track.

    Parameters
    ----------
    rules : collection of str, optional
        Those that are to be fixed; all that a house style demands unless given.
    only : collection of int, optional
        Ids of the captions; all of them unless given.

    Returns
    -------
    project : Project
    fixes : list of Fix
        In order of time. A caption that cannot be fixed without breaking
        another rule is left as it is.
    """
    track = project.captions
    if track is None:
        return project, []
    wanted = rules if rules is not None else [one for one, check in RULES.items() if check.must]
    found = check_track(project, track)
    fixes = []
    for caption_id, findings in found.items():
        broken = [one for one in findings if one.rule in wanted and RULES[one.rule].fixed_by]
        if caption_id and broken and (only is None or caption_id in only):
            made = fixed_one(project, caption_id, broken)
            if made is not project:
                fixes.append(_fix(project, made, caption_id, broken))
                project = made
    return project, fixes


def fixed_one(project: Project, caption_id: int, broken: Sequence[Finding]) -> Project:
    """The project with one caption fixed as far as that can be; the same object where it cannot."""
    track = project.captions
    caption = caption_with(project, track.id, caption_id) if track else None
    if track is None or caption is None:
        return project
    wanted = {one.rule for one in broken}
    best, least = project, _weight(project, caption_id, wanted, _around(project, caption_id))
    if least == 0:
        return project
    for made in _ways(project, track, caption, wanted):
        weight = _weight(made, caption_id, wanted, _around(project, caption_id))
        if weight < least and not _worse(project, made, caption_id):
            best, least = made, weight
        if least == 0:
            break
    return best


def _ways(
    project: Project, track: CaptionTrack, caption: Caption, wanted: Collection[str]
) -> Iterator[Project]:
    """Ways to fix a caption, those that touch the least first."""
    kinds = {RULES[one].fixed_by for one in wanted}
    if "text" in kinds and not caption.words:
        text = "\n".join(tidied(line) for line in caption.text.split("\n"))
        yield with_captions(project, track.id, {caption.id: replace(caption, text=text)})
    if "place" in kinds:
        yield raised(project, caption.id)
    if "times" in kinds:
        yield retimed_by_rules(project, [caption.id])
        yield retimed_by_rules(project, _near(track, caption, 1))
    if "lines" in kinds and caption.words:
        yield rebroken(project, caption.id)
    if track.spoken and caption.words:
        for reach in (1, 2):
            yield set_again(project, only=_near(track, caption, reach))


def _near(track: CaptionTrack, caption: Caption, reach: int) -> list[int]:
    place = place_in(track.captions, caption)
    return [one.id for one in track.captions[max(0, place - reach) : place + reach + 1]]


def _around(project: Project, caption_id: int) -> tuple[int, int]:
    """The time that the captions around one take."""
    track = project.captions
    assert track is not None
    caption = caption_with(project, track.id, caption_id)
    assert caption is not None
    place = place_in(track.captions, caption)
    near = track.captions[max(0, place - 4) : place + 5]
    return near[0].start_ms, near[-1].end_ms


def _found(project: Project, span: tuple[int, int]) -> list[Finding]:
    track = project.captions
    assert track is not None
    near = captions_between(track, *span)
    return [finding for one in near for finding in check_one(project, track, place_in(track.captions, one))]


def _weight(project: Project, caption_id: int, wanted: Collection[str], span: tuple[int, int]) -> int:
    """How many findings of some rules there are at a caption; in its passage where it is gone."""
    track = project.captions
    assert track is not None
    caption = caption_with(project, track.id, caption_id)
    if caption is None:
        return sum(one.rule in wanted for one in _found(project, span))
    return sum(one.rule in wanted for one in check_one(project, track, place_in(track.captions, caption)))


def _worse(old: Project, new: Project, caption_id: int) -> bool:
    """Whether a passage has more findings of any rule than before."""
    span = _around(old, caption_id)
    before, after = ([one.rule for one in _found(project, span)] for project in (old, new))
    return any(after.count(rule) > before.count(rule) for rule in set(after))


def _fix(old: Project, new: Project, caption_id: int, broken: Sequence[Finding]) -> Fix:
    before, after = old.captions, new.captions
    assert before is not None and after is not None
    kept = {id(one) for one in before.captions} & {id(one) for one in after.captions}
    caption = caption_with(new, after.id, caption_id)
    still = (
        {one.rule for one in check_one(new, after, place_in(after.captions, caption))} if caption else set()
    )
    return Fix(
        caption_id,
        tuple(one for one in before.captions if id(one) not in kept),
        tuple(one for one in after.captions if id(one) not in kept),
        tuple(dict.fromkeys(one.rule for one in broken if one.rule not in still)),
    )


# -- ways --------------------------------------------------------------------------------


def retimed_by_rules(project: Project, caption_ids: Sequence[int]) -> Project:
    """Captions that follow each other with the best times there are; words and lines stay."""
    track = project.captions
    if track is None:
        return project
    some = [one for caption_id in caption_ids if (one := caption_with(project, track.id, caption_id))]
    if not some or any(not rows_of(project, one) or "times" in one.held for one in some):
        return project
    first, last = place_in(track.captions, some[0]), place_in(track.captions, some[-1])
    if last - first + 1 != len(some):
        return project
    before = track.captions[first - 1].end_ms if first else None
    after = track.captions[last + 1].start_ms if last + 1 < len(track.captions) else None
    parts, edges = [], [0]
    for one in some:
        rows = rows_of(project, one)
        words = tuple(word for row in rows for word in row)
        turn = turn_of(project, words[0].id)
        if turn is None:
            return project
        name = name_of(project, words[0].id) if words[0].id in one.named else ""
        parts.append(Part(replace(turn, words=words), name, bool(name)))
        edges.append(edges[-1] + len(words))
    rules = replace(track.rules, names="change", dashes=False)
    chain = make_chain(parts, rules, track.language)
    bounds = Bounds(project.frame_rate, project.shots, before, after, project.length_ms)
    times = Search(chain, bounds).times_of(edges)
    changed: dict[int, Caption | None] = {}
    for one, (start, end) in zip(some, times):
        changed[one.id] = replace(one, start_ms=start, end_ms=end)
    return with_captions(project, track.id, changed)


def rebroken(project: Project, caption_id: int) -> Project:
    """A caption with the best lines there are; its words and times stay."""
    track = project.captions
    caption = caption_with(project, track.id, caption_id) if track else None
    if track is None or caption is None or caption.dashed or "lines" in caption.held:
        return project
    words = [word for row in rows_of(project, caption) for word in row]
    if not words:
        return project
    name = name_of(project, words[0].id) if words[0].id in caption.named else ""
    breaks = best_lines(words, track.rules, track.language, name)
    if breaks is None:
        return project
    made = replace(caption, breaks=tuple(words[at].id for at in breaks))
    return project if made == caption else with_captions(project, track.id, {caption_id: made})


def off_lettering(project: Project) -> Project:
    """The project with every caption that covers lettering moved off it, but for those placed by hand."""
    track = project.captions
    for caption_id, problems in check_track(project, track).items() if track else ():
        if any(one.rule == "lettering" for one in problems):
            project = raised(project, caption_id)
    return project


def raised(project: Project, caption_id: int) -> Project:
    """A caption that stands over lettering, moved just above it, or to the other end of the picture."""
    track, media = project.captions, project.media
    caption = caption_with(project, track.id, caption_id) if track else None
    if track is None or caption is None or media is None or "place" in caption.held:
        return project
    over = [one for one in media.banners if one.start_ms < caption.end_ms and one.end_ms > caption.start_ms]
    place = placed(caption, track.rules)
    lines = text_of(project, track, caption).lines
    if not over or not lines:
        return project
    height = box_of(lines, place)[3] - box_of(lines, place)[1]
    above = min(one.top for one in over) - 2
    if above - height >= 5:
        place = replace(place, level="bottom", y=round(above, 1))
    else:
        place = named_place(f"top {place.side}")
    return with_captions(project, track.id, {caption_id: replace(caption, place=settings_of(place))})
