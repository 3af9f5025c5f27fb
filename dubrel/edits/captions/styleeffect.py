"""What a house style would make of the open project, in figures."""

from __future__ import annotations

from collections import Counter

from dubrel.base.catalogue import tr
from dubrel.base.value import Value
from dubrel.captions.checks import RULES, reading_speed, words_a_minute
from dubrel.edits.captions.trackchecks import check_track
from dubrel.model import HouseStyle, Project
from dubrel.project.captiontext import shown_captions


class Effect(Value):
    """Figures of a track.

    Attributes
    ----------
    captions : int
    broken : int
        Captions that break a rule.
    rules : dict of str to int
        Broken rules by name, the most frequent first.
    shown_ms : int
        How long captions stand.
    speeds : tuple of float
        Reading speed of each, in the unit of the style.
    over : tuple of bool
        Whether it is too fast.
    """

    captions: int = 0
    broken: int = 0
    rules: tuple[tuple[str, int], ...] = ()
    shown_ms: int = 0
    speeds: tuple[float, ...] = ()
    over: tuple[bool, ...] = ()


def rules_changed(now: Effect, then: Effect) -> list[str]:
    """How often each rule is broken, now and then: “Over speed: 3 → 1”."""
    before, after = dict(now.rules), dict(then.rules)
    return [
        f"{tr(RULES[rule].label)}: {before.get(rule, 0):,} → {after.get(rule, 0):,}"
        for rule in dict.fromkeys([*before, *after])
    ]


def effect_of(project: Project) -> Effect:
    """The figures of the active track."""
    track = project.captions
    if track is None:
        return Effect()
    found = check_track(project, track)
    rules: Counter[str] = Counter()
    for one_id, findings in found.items():
        if one_id:
            rules.update({one.rule for one in findings if one.must})
    broken = {one for one, findings in found.items() if one and any(finding.must for finding in findings)}
    speeds, over = [], []
    for caption, text in shown_captions(project, track):
        words = track.style.speed_in == "wpm"
        speeds.append(
            words_a_minute(caption, text.lines) if words else reading_speed(caption, text.lines, track.rules)
        )
        over.append(any(one.rule == "speed" for one in found.get(caption.id, ())))
    shown = sum(one.end_ms - one.start_ms for one in track.captions)
    return Effect(len(speeds), len(broken), tuple(rules.most_common()), shown, tuple(speeds), tuple(over))


def effect_with(project: Project, style: HouseStyle) -> Effect:
    """The figures of the active track if it were set by another style."""
    from dubrel.edits.captions.resetting import set_again  # late: arrays, which opening a window does without

    return effect_of(set_again(project, style))
