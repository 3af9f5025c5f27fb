"""Cameras: who is shown when, by rules and by hand, and the recording that is one of them."""

from fractions import Fraction

import pytest
from conftest import spoken

from dubrel.base.errors import DubrelError
from dubrel.base.timecode import frames_to_ms, ms_to_frames
from dubrel.base.value import replace
from dubrel.edits.cameras.camerashots import camera_shots
from dubrel.edits.cameras.gathering import camera_changed, sound_from, with_cameras, without_camera
from dubrel.edits.cameras.picturecut import proposed_switches, with_proposal
from dubrel.edits.cameras.switching import switch_moved, switched, unswitched
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.cuts.trimming import taken_out, with_whole
from dubrel.edits.intake import set_turns
from dubrel.edits.speakers.assigning import merge_speakers, remove_speaker
from dubrel.model import Cut, CutPassage, Media, Project, RecognisedTurn, Speaker, Switch, TakenOut
from dubrel.model.cameras import CameraRules
from dubrel.project.history import History
from dubrel.store.projectfile import open_project, save

RATE = Fraction(25)
LONG = "It was dry for sixty years and then she was carried up to the yard by the people of the lock."


def film(name: str, seconds: float, rate: Fraction | None = RATE, size: int = 7) -> Media:
    picture = {"frame_rate": rate, "width": 640, "height": 360} if rate else {}
    return Media(
        f"{name}.mkv",
        f"/nowhere/{size}/{name}.mkv",
        "",
        round(seconds * 1000),
        channels=1,
        size=size,
        **picture,
    )


def said(*turns: tuple[str, str, int]) -> Project:
    """Turns of (who, what, from when on in ms), 300 ms for each word."""
    people = [Speaker("a", "Anna"), Speaker("b", "Ben"), Speaker("c", "Cleo")]
    rows = [RecognisedTurn(tuple(spoken(text, pace=60, start=start)), who) for who, text, start in turns]
    made = set_turns(Project(media=film("hall", 120)), rows, people, "en")
    cameras = [(film("one", 130, size=1), -5000.0, 1.00004), (film("two", 100, size=2), 4000.0, 0.99998)]
    made = with_cameras(made, cameras)
    _, one, two = made.cameras.all
    return camera_changed(camera_changed(made, one.id, shows=["a"]), two.id, shows=["b"])


@pytest.fixture
def talk():
    """Anna and Ben by turns, Cleo whom no camera shows in between."""
    return said(("a", LONG, 5000), ("b", LONG, 20_000), ("c", LONG, 35_000), ("a", LONG, 50_000))


def whole(project: Project) -> Cut:
    return Cut(0, "Whole", (CutPassage(0, project.length_ms),))


def names(project: Project, cut: Cut | None = None) -> list[tuple[str, float, float]]:
    """Who is shown, from which second on, for how many."""
    shots = camera_shots(project, cut or whole(project), RATE)
    called = {one.id: one.name for one in project.cameras.all}
    return [(called[one.camera], one.first / 25, one.frames / 25) for one in shots]


def test_the_picture_of_the_recording_is_the_first_camera(talk):
    assert [one.name for one in talk.cameras.all] == ["hall", "one", "two"]
    assert talk.cameras.all[0].media is None
    assert [one.name for one in with_cameras(Project(media=film("x", 9, None)), []).cameras.all] == []


def test_a_film_that_is_there_already_is_placed_anew_and_another_of_its_name_gets_a_number(talk):
    again = with_cameras(talk, [(film("one", 130, size=1), 77.0, 1.0), (film("one", 50, size=3), 0.0, 1.0)])
    assert [(one.name, one.starts_ms) for one in again.cameras.all[1:]] == [
        ("one", 77.0),
        ("two", 4000.0),
        ("one 2", 0.0),
    ]
    assert again.cameras.all[1].shows == ("a",)


def test_who_speaks_is_shown_and_everybody_where_no_camera_has_who_speaks(talk):
    made = with_proposal(talk, whole(talk), CameraRules(wide_ms=0))
    shown = names(made)
    at = {ms: made.cameras.at(ms).name for ms in (6000, 22_000, 37_000, 52_000)}
    assert at == {6000: "one", 22_000: "two", 37_000: "hall", 52_000: "one"}
    assert all(seconds >= 2 for _, _, seconds in shown)
    turn = talk.transcript.turns[1]
    change = next(first for who, first, _ in shown if who == "two")
    assert change == pytest.approx(turn.start_ms / 1000 - 0.2, abs=0.04)


def test_no_shot_is_shorter_than_wished_whatever_is_said():
    rows = [("ab"[nth % 2], "Yes. No, never. It is dry.", 5000 + nth * 1900) for nth in range(20)]
    project = said(*rows)
    for wished in (1000, 2000, 3500):
        rules = CameraRules(shortest_ms=wished, wide_ms=0, quick=False)
        found = camera_shots(with_proposal(project, whole(project), rules), whole(project), RATE)
        assert len(found) > 3
        assert min(one.frames for one in found) * 40 >= wished


def test_quick_exchanges_and_laughter_show_everybody(talk):
    rows = [("ab"[nth % 2], "Yes. No, never.", 5000 + nth * 1300) for nth in range(8)]
    quick = said(*rows)
    assert with_proposal(quick, whole(quick), CameraRules(wide_ms=0)).cameras.at(9000).name == "hall"
    calm = with_proposal(quick, whole(quick), CameraRules(wide_ms=0, quick=False))
    assert {calm.cameras.at(ms).name for ms in range(5500, 15_000, 100)} != {"hall"}
    laughing = with_proposal(talk, whole(talk), CameraRules(wide_ms=0), [(22_000, 25_000)])
    assert [laughing.cameras.at(ms).name for ms in (20_500, 23_000)] == ["two", "hall"]


def test_the_wide_shot_comes_every_so_often_and_only_as_long_as_it_has_to():
    project = said(*(("a", LONG, 5000 + nth * 6500) for nth in range(16)))
    without = names(with_proposal(project, whole(project), CameraRules(wide_ms=0)))
    often = with_proposal(project, whole(project), CameraRules(wide_ms=20_000))
    assert max(seconds for who, _, seconds in without if who == "one") > 90
    near = [seconds for who, _, seconds in names(often) if who != "hall"]
    assert max(near) <= 20.1
    assert sum(seconds for who, _, seconds in names(often) if who == "hall") < 45


def test_switches_stand_between_words_on_frames(talk):
    made = proposed_switches(talk, whole(talk), CameraRules(wide_ms=12_000))
    words = [word for turn in talk.transcript.turns for word in turn.words]
    inside = [one for one in made for word in words if word.start_ms + 20 < one.ms < word.end_ms - 20]
    assert len(made) > 4
    assert inside == []
    assert all(frames_to_ms(ms_to_frames(one.ms, RATE), RATE) == one.ms for one in made)


def test_a_join_is_hidden_by_another_camera(talk):
    cut = Cut(
        1, "Short", (CutPassage(20_000, 22_000), CutPassage(23_000, 25_000), CutPassage(26_000, 32_000))
    )
    made = with_proposal(talk, cut, CameraRules(shortest_ms=1000, wide_ms=0))
    shots = camera_shots(made, cut, RATE)
    assert [one.at for one in shots][1:] == [50, 100]
    assert len({one.camera for one in shots[:2]}) == 2
    assert len({one.camera for one in shots[1:3]}) == 2


def test_where_a_camera_does_not_run_another_one_is_shown(talk):
    two = talk.cameras.all[2]
    made = switched(talk, 0, two.id)
    assert names(made)[0] == ("hall", 0.0, 4.0)
    assert [who for who, _, _ in names(made)] == ["hall", "two", "hall"]
    assert all(
        made.cameras.at(ms).name != "two" or 4000 <= ms <= 103_900
        for ms in range(0, 120_000, 500)
        for made in [with_proposal(talk, whole(talk), CameraRules())]
    )


def test_a_scrap_that_a_join_leaves_goes_to_the_shot_beside_it(talk):
    _, one, two = talk.cameras.all
    made = switched(switched(talk, 10_000, one.id), 20_000, two.id)
    assert [who for who, _, _ in names(made, Cut(1, "", (CutPassage(12_000, 20_200),)))] == ["one"]
    assert [who for who, _, _ in names(made, Cut(1, "", (CutPassage(12_000, 20_800),)))] == ["one", "two"]


def test_switching_by_hand_holds_up_to_the_next_switch_and_undo_takes_it_back(talk):
    _, one, two = talk.cameras.all
    history = History(talk)
    for ms, camera in ((10_013, one), (20_000, two), (15_000, two), (10_000, one)):
        history.apply(switched(history.present, ms, camera.id), "Switch")
    assert history.present.cameras.switches == (Switch(10_000, one.id), Switch(15_000, two.id))
    assert (
        unswitched(history.present, 17_000).cameras.switches
        == (Switch(10_000, one.id), Switch(20_000, two.id))[:1]
    )
    for _ in range(4):
        history.undo()
    assert history.present.cameras == talk.cameras


def test_a_switch_is_moved_no_further_than_to_those_beside_it(talk):
    _, one, two = talk.cameras.all
    made = switched(switched(talk, 10_000, one.id), 20_000, two.id)
    first, second = made.cameras.switches
    assert switch_moved(made, second, 15_010).cameras.switches[1].ms == 15_000
    assert switch_moved(made, second, 3000).cameras.switches[1].ms == 10_040
    assert switch_moved(made, first, 90_000).cameras.switches[0].ms == 19_960


def test_without_a_camera_what_was_shown_before_stays_and_with_the_last_all_go(talk):
    _, one, two = talk.cameras.all
    made = switched(switched(talk, 10_000, one.id), 20_000, two.id)
    less = without_camera(made, two.id)
    assert less.cameras.switches == (Switch(10_000, one.id),)
    assert without_camera(less, one.id).cameras.all == ()


def test_a_speaker_who_becomes_another_is_shown_by_the_same_camera(talk):
    assert merge_speakers(talk, "a", "c").cameras.all[1].shows == ("c",)
    assert remove_speaker(talk, "a").cameras.all[1].shows == ()


# -- the recording is one of them -------------------------------------------------------------------


def test_the_sound_of_another_takes_words_captions_cuts_and_cameras_along(talk):
    _, one, two = talk.cameras.all
    talk = set_again(switched(talk, 20_000, two.id), None)
    talk, cut_id = with_whole(talk, "Cut")
    talk = taken_out(talk, cut_id, [TakenOut(1000, 4000)])
    made = sound_from(talk, one.id)
    assert made.media.name == "one.mkv"
    pairs = zip(talk.transcript.turns, made.transcript.turns, strict=True)
    for old, new in pairs:
        assert [word.id for word in old.words] == [word.id for word in new.words]
        assert new.start_ms == pytest.approx(one.own_ms(old.start_ms), abs=1)
    assert [(c.id, c.words) for c in made.captions.captions] == [
        (c.id, c.words) for c in talk.captions.captions
    ]
    assert made.cut(cut_id).passages[1].start_ms == pytest.approx(one.own_ms(4000), abs=21)
    hall = next(c for c in made.cameras.all if c.name == "hall")
    assert hall.media.name == "hall.mkv"
    assert hall.starts_ms == pytest.approx(5000 / 1.00004)
    ms = one.own_ms(30_000)
    assert made.cameras.at(ms).name == "two"
    assert made.cameras.camera(two.id).own_ms(ms) == pytest.approx(two.own_ms(30_000), abs=1e-6)
    back = sound_from(made, hall.id)
    assert back.media.name == "hall.mkv"
    assert [t.start_ms for t in back.transcript.turns] == pytest.approx(
        [t.start_ms for t in talk.transcript.turns], abs=1
    )


def test_a_recorder_as_the_sound_keeps_the_rate_of_the_picture_and_is_kept_when_it_is_none_any_more(talk):
    talk = with_cameras(talk, [(film("recorder", 140, None, size=9), -10_000.0, 1.0)])
    recorder = talk.cameras.all[-1]
    made = sound_from(talk, recorder.id)
    assert made.media.name == "recorder.mkv"
    assert not made.media.has_video
    assert made.frame_rate == RATE
    assert [one.name for one in made.cameras.all] == ["hall", "one", "two"]
    again = sound_from(made, made.cameras.all[0].id)
    assert sorted(one.name for one in again.cameras.all) == ["hall", "one", "recorder", "two"]
    assert len({one.id for one in again.cameras.all}) == 4


def test_a_sound_that_lacks_words_is_refused(talk):
    with pytest.raises(DubrelError, match="4 words are spoken while “short” does not run"):
        short = with_cameras(talk, [(film("short", 100, size=5), 6000.0, 1.0)])
        sound_from(short, short.cameras.all[-1].id)


def test_cameras_are_in_the_file_and_found_where_it_was_moved_to(talk, tmp_path):
    home = tmp_path / "home"
    home.mkdir()
    real = home / "one.mkv"
    real.write_bytes(b"\x1a\x45\xdf\xa3 no film, and no text\x00\x01")
    cameras = talk.cameras
    placed = replace(cameras.all[1], media=replace(cameras.all[1].media, path=str(real)))
    talk = replace(talk, cameras=replace(cameras, all=(cameras.all[0], placed, cameras.all[2])))
    talk = switched(talk, 10_000, placed.id)
    written = save(talk, home / "p.dubrel")
    assert open_project(home / "p.dubrel") == written
    home.rename(tmp_path / "moved")
    from dubrel.store.projectfile import cameras_found

    found = cameras_found(open_project(tmp_path / "moved" / "p.dubrel"), tmp_path / "moved" / "p.dubrel")
    assert found.cameras.all[1].media.path == str(tmp_path / "moved" / "one.mkv")
    assert found.cameras.switches == talk.cameras.switches


# -- together with captions -----------------------------------------------------------------------


def test_a_switch_is_a_shot_change_and_what_the_other_camera_has_of_its_own_counts_where_it_is_shown(talk):
    _, one, two = talk.cameras.all
    talk = replace(talk, media=replace(talk.media, shots=(2000, 12_000, 30_000)))
    assert talk.shots == (2000, 12_000, 30_000)
    made = switched(switched(talk, 10_000, one.id), 20_000, talk.cameras.all[0].id)
    assert made.shots == (2000, 10_000, 20_000, 30_000)
    assert without_camera(without_camera(made, one.id), two.id).shots == (2000, 12_000, 30_000)


def test_captions_are_checked_again_where_the_picture_changes_now(talk):
    from dubrel.edits.captions.trackchecks import captions_touched, check_track
    from dubrel.project.changes import change_between

    talk = set_again(talk, None)
    caption = talk.captions.captions[3]
    made = switched(talk, caption.start_ms + 120, talk.cameras.all[1].id)
    touched = captions_touched(change_between(talk, made), made.captions).keys()
    before, after = check_track(talk, talk.captions), check_track(made, made.captions)
    differ = {one for one in before.keys() | after.keys() if before.get(one) != after.get(one)}
    assert differ <= touched
    assert caption.id in differ
    assert len(touched) < 6


def test_a_sound_that_lacks_a_caption_is_refused_and_nothing_is_lost(talk):
    from dubrel.edits.captions.shape import insert_caption

    talk, _ = insert_caption(set_again(talk, None), 110_000, "[music]")
    two = talk.cameras.all[2]  # it ends before
    with pytest.raises(DubrelError, match="1 caption stands where “two” does not run"):
        sound_from(talk, two.id)
