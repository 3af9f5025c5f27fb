"""Verbs of cutting for random sessions of the core: cuts, cameras, the sound of a recording."""

from __future__ import annotations

from fractions import Fraction

from random_places import any_speaker, some_ids

from dubrel.base.errors import DubrelError
from dubrel.edits import framing
from dubrel.edits.cameras.camerashots import camera_shots
from dubrel.edits.cameras.gathering import camera_changed, sound_from, with_cameras, without_camera
from dubrel.edits.cameras.picturecut import with_proposal
from dubrel.edits.cameras.switching import switch_moved, switched, unswitched
from dubrel.edits.cuts import clips, trimming
from dubrel.edits.cuts.removals import removals, without_removals
from dubrel.model import Cut, CutPassage, Media, TakenOut
from dubrel.model.cameras import CameraRules
from dubrel.model.cutrules import CutRules


def edit_cut(project, chance):
    """What hands and rules do to a cut."""
    if not project.cuts or chance.random() < 0.1:
        return trimming.with_whole(project)[0]
    cut, length = chance.choice(project.cuts), trimming.length_of(project)
    at = chance.randrange(length)
    span = TakenOut(at, min(length, at + chance.randint(5, 4000)))
    place = chance.randrange(max(1, len(cut.passages)))
    edge, lasts = chance.choice(("in", "out")), bool(cut.passages)
    rules = CutRules(longer_ms=200, becomes_ms=100, pauses_as=chance.choice(("shortened", "muted", "gap")))

    def by_rules():
        found = [one for one in removals(project, rules) if one.ticked and chance.random() < 0.7]
        return without_removals(project, cut.id, found, rules)

    def words_out():
        spans = trimming.spans_of_words(project, some_ids(project, chance), "by hand")
        return trimming.taken_out(project, cut.id, spans, cross_ms=20)

    acts = (
        words_out,
        words_out,
        by_rules,
        lambda: trimming.taken_out(project, cut.id, [span]),
        lambda: trimming.taken_out(project, cut.id, [span], plays=chance.choice(("muted", "gap"))),
        lambda: trimming.put_back(project, cut.id, span.start_ms, span.end_ms),
        lambda: trimming.edge_moved(project, cut.id, place, edge, at) if lasts else project,
        lambda: trimming.nudged(project, cut.id, place, edge, chance.choice((-1, 1))) if lasts else project,
        lambda: trimming.join_set(project, cut.id, [place], cross_ms=chance.choice((0, 20, 500))),
        lambda: trimming.renamed(project, cut.id, f"Cut {chance.randrange(10**6)}"),
        lambda: trimming.without_cut(project, cut.id),
        lambda: framing.framed(project, at, chance.uniform(-5, 105), pans=chance.random() < 0.4),
        lambda: framing.panning(project, at),
        lambda: framing.unframed(project, at),
        lambda: clips.with_clip(project, "A clip", [(span.start_ms, span.end_ms)])[0],
        lambda: clips.clip_trimmed(project, cut.id, edge, chance.choice((-1, 1))),
        lambda: (
            clips.clips_joined(project, [one.id for one in chance.sample(project.cuts, 2)], "Both")[0]
            if len(project.cuts) > 1
            else project
        ),
    )
    try:
        return chance.choice(acts)()
    except DubrelError as error:
        refused = ("everything", "at least one word", "no word there", "nothing to make a clip of")
        assert any(one in str(error) for one in refused)
        return project


def edit_cameras(project, chance):
    """Cameras brought in, switched by hand and by rules, taken away."""
    long = trimming.length_of(project)
    if project.media is None or not long:
        return project
    cameras = project.cameras
    if len(cameras.seen) < 2:
        rows = [
            (
                any_camera(chance, long, nth),
                chance.uniform(-long, long / 2),
                1 + chance.uniform(-1, 1) * 5e-5,
            )
            for nth in range(chance.randint(1, 3))
        ]
        return with_cameras(project, rows)
    one, at = chance.choice(cameras.all), chance.randrange(long)
    whole = Cut(0, "Whole", (CutPassage(0, long),))
    cut = chance.choice([whole, *project.cuts])
    rules = CameraRules(chance.choice((400, 2000)), chance.choice((0, 8000)), laughter=True)
    acts = (
        lambda: switched(project, at, one.id),
        lambda: switched(project, at, one.id),
        lambda: unswitched(project, at),
        lambda: with_proposal(project, cut, rules, [(at, at + 2000)]),
        lambda: camera_changed(
            project, one.id, name=f"Camera {chance.randrange(9)}", shows=[any_speaker(project, chance)]
        ),
        lambda: without_camera(project, one.id),
        lambda: switch_moved(project, chance.choice(cameras.switches), at) if cameras.switches else project,
    )
    made = chance.choice(acts)()
    for each in (whole, *made.cuts):
        if made.frame_rate and made.cameras.seen:
            camera_shots(made, each, made.frame_rate)
    return made


def any_camera(chance, long, nth):
    length = chance.randint(long // 3 + 1000, 2 * long + 1000)
    rate = chance.choice((Fraction(25), Fraction(30000, 1001)))
    size = {"width": 640, "height": 360} if chance.random() < 0.8 else {}
    return Media(
        f"film {nth}.mkv",
        f"/nowhere/film {nth}.mkv",
        "",
        length,
        frame_rate=rate if size else None,
        channels=1,
        size=chance.randrange(1, 10**6),
        **size,
    )


def take_sound(project, chance):
    """Another camera is the sound."""
    if not project.cameras.all:
        return edit_cameras(project, chance)
    try:
        return sound_from(project, chance.choice(project.cameras.all).id)
    except DubrelError as error:
        assert any(one in str(error) for one in ("spoken while", "does not run"))
        return project
