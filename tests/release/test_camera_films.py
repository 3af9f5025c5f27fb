"""Films and cut lists of several cameras: every frame of the right one, and what other programs read."""

import json
from fractions import Fraction

import opentimelineio as otio
import pytest
from camerafilms import RATE, camera_film, frames_in, talk_sound

from dubrel.base.errors import DubrelError, FormatError, MediaError
from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.edits.cameras.camerashots import camera_shots
from dubrel.edits.cameras.gathering import camera_changed, with_cameras
from dubrel.edits.cameras.picturecut import with_proposal
from dubrel.edits.cameras.switching import switched
from dubrel.edits.cuts.trimming import taken_out, with_whole
from dubrel.formats.cutlists.register import read_cut_list, write_cut_list
from dubrel.jobs.cuts.camerafinding import find_cameras
from dubrel.jobs.filming import make_film
from dubrel.jobs.machinery.events import CamerasFound, Warning_
from dubrel.media.probe import probe
from dubrel.model import Project, TakenOut
from dubrel.model.cameras import CameraRules
from dubrel.release.cutfiles import cut_order
from dubrel.store.projectfile import open_project, save

PPM = {1: 40.0, 2: -30.0}
STARTS = {0: 0.0, 1: -3.2, 2: 4.4}
FPS = {0: Fraction(25), 1: Fraction(25), 2: Fraction(30000, 1001)}


@pytest.fixture(scope="module")
def hall(tmp_path_factory, talk):
    """Half a minute in a hall: its film, two more cameras with clocks of their own, and a recorder."""
    folder = tmp_path_factory.mktemp("hall")
    sound = talk_sound(talk[0][: 30 * 16_000])
    camera_film(folder / "hall.mkv", 0, sound, 0.0, 30)
    camera_film(folder / "C0001.mkv", 1, sound, STARTS[1], 38, ppm=PPM[1])
    (folder / "card two").mkdir()
    camera_film(folder / "card two" / "C0001.mkv", 2, sound, STARTS[2], 20, ppm=PPM[2], fps=FPS[2])
    camera_film(folder / "recorder.wav", 3, sound, -1.5, 33, picture=False)
    return folder


def films(folder):
    return [folder / "C0001.mkv", folder / "card two" / "C0001.mkv"]


@pytest.fixture(scope="module")
def found(hall):
    """The project with its cameras, as the job finds them."""
    project = Project(title="Hall", media=probe(hall / "hall.mkv"))
    events = list(find_cameras(project.media, films(hall)))
    return with_cameras(project, events[-1].found)


@pytest.fixture
def cut(found):
    """Switches through all three cameras, and two seconds taken out."""
    wide, one, two = found.cameras.all
    for ms, camera in ((3000, one), (8000, two), (15_040, wide), (18_000, two), (27_000, one)):
        found = switched(found, ms, camera.id)
    found, cut_id = with_whole(found, "Cut")
    return taken_out(found, cut_id, [TakenOut(9000, 11_000)])


def made(order):
    list(make_film(order))
    return order.target


def wanted(project, shot, nth):
    """Which frame of its camera is to be shown."""
    camera = [one.id for one in project.cameras.all].index(shot.camera)
    at_s = (shot.first + nth) / 25
    own_s = (at_s - STARTS[camera]) / (1 + PPM.get(camera, 0) * 1e-6)
    return camera, float(own_s * FPS[camera])


def test_cameras_are_found_with_their_clocks(found):
    _, one, two = found.cameras.all
    assert one.starts_ms == pytest.approx(-3200, abs=3)
    assert two.starts_ms == pytest.approx(4400, abs=3)
    assert [one.name, two.name] == ["C0001", "C0001 2"]


def test_every_frame_is_of_the_camera_that_is_shown_and_of_its_moment(cut, tmp_path):
    shots = camera_shots(cut, cut.cuts[0], Fraction(25))
    said = frames_in(made(cut_order(cut, cut.cuts[0], tmp_path / "film.mp4")))
    assert len(said) == shots[-1].until == 28 * 25
    for shot in shots:
        for nth in range(shot.frames):
            camera, number = wanted(cut, shot, nth)
            seen, frame = said[shot.at + nth]
            assert seen == camera
            assert abs(frame - number) <= 0.75, (shot, nth)


def test_gaps_of_a_cut_are_black_at_its_beginning_and_its_end_too(cut, tmp_path):
    from dubrel.edits.cuts.trimming import with_cut
    from dubrel.model import CutPassage

    passages = [
        CutPassage(0, 1000, plays="gap"),
        CutPassage(9000, 10_000),
        CutPassage(20_000, 21_000, plays="gap"),
    ]
    project, cut_id = with_cut(cut, "Gaps", passages)
    said = frames_in(made(cut_order(project, project.cut(cut_id), tmp_path / "film.mp4")))
    assert [camera for camera, _ in said] == [-1] * 25 + [2] * 25 + [-1] * 25


def test_the_sound_is_that_of_the_recording_throughout(cut, tmp_path):
    import av
    import numpy as np

    made(cut_order(cut, cut.cuts[0], tmp_path / "film.mkv"))
    plain = replace(cut, cameras=replace(cut.cameras, all=(), switches=()))
    made(cut_order(plain, cut.cuts[0], tmp_path / "plain.mkv"))

    def heard(name):
        with av.open(str(tmp_path / name)) as film:
            return np.concatenate([one.to_ndarray() for one in film.decode(audio=0)], axis=1)

    assert np.array_equal(heard("film.mkv"), heard("plain.mkv"))


def test_a_recorder_is_the_sound_of_a_film_of_the_cameras(hall, found, tmp_path):
    project = replace(found, media=probe(hall / "recorder.wav"), cameras=replace(found.cameras, all=()))
    films_found = [
        (probe(hall / "hall.mkv"), 1480.0, 1.0),
        (probe(hall / "C0001.mkv"), -1700.0, 1 + PPM[1] * 1e-6),
    ]
    project = with_cameras(project, films_found)
    project = switched(project, 10_000, project.cameras.all[1].id)
    project, cut_id = with_whole(project, "Cut")
    assert project.frame_rate == 25
    said = frames_in(made(cut_order(project, project.cut(cut_id), tmp_path / "film.mp4")))
    assert said[0][0] == 1  # the first camera does not run yet
    assert said[60] == (0, 23)
    assert said[400][0] == 1


def test_a_film_of_a_camera_that_is_gone_is_said(cut, tmp_path):
    cameras = cut.cameras
    gone = replace(cameras.all[1], media=replace(cameras.all[1].media, path="/nowhere/C0001.mkv"))
    cut = replace(cut, cameras=replace(cameras, all=(cameras.all[0], gone, cameras.all[2])))
    with pytest.raises(MediaError, match="The film of “C0001” is not where it was"):
        cut_order(cut, cut.cuts[0], tmp_path / "film.mp4")
    with pytest.raises(FormatError, match="The film of “C0001” is not there"):
        write_cut_list(cut, cut.cuts[0], tmp_path / "cut.otioz")
    write_cut_list(cut, cut.cuts[0], tmp_path / "cut.otio")


# -- lists ---------------------------------------------------------------------------------------


def test_a_timeline_has_every_camera_as_a_track_and_the_cut_of_the_picture_on_top(cut, tmp_path):
    path = tmp_path / "cut.otio"
    assert write_cut_list(cut, cut.cuts[0], path) == []
    timeline = otio.adapters.read_from_file(str(path))
    pictures = [one for one in timeline.tracks if one.kind == otio.schema.TrackKind.Video]
    assert [one.name for one in pictures] == ["C0001 2", "C0001", "hall", "Picture"]
    lengths = {round(one.duration().to_seconds(), 3) for one in pictures}
    assert lengths == {28.0}
    assert {clip.enabled for one in pictures[:3] for clip in one.find_clips()} == {False}
    shown = [clip.media_reference.target_url.rpartition("/")[2] for clip in pictures[3].find_clips()]
    assert shown == [
        "hall.mkv",
        "C0001.mkv",
        *["C0001.mkv"] * 2,
        "hall.mkv",
        "C0001.mkv",
        "hall.mkv",
        "C0001.mkv",
    ]
    second = list(pictures[3].find_clips())[1].source_range
    assert second.start_time.to_seconds() == pytest.approx(6.2, abs=0.021)
    assert second.duration.to_seconds() == pytest.approx(5.0)


@pytest.mark.parametrize("name", ["cut.otio", "cut.edl", "cut.otioz"])
def test_a_list_that_is_read_again_is_the_same_cut_of_sound_and_picture(cut, tmp_path, name):
    path = tmp_path / name
    write_cut_list(cut, cut.cuts[0], path)
    read = read_cut_list(path, cut)
    again = replace(cut, cameras=replace(cut.cameras, switches=read.switches))
    assert [(one.start_ms, one.end_ms) for one in read.passages] == [(0, 9000), (11_000, 30_000)]
    rate = Fraction(25)
    assert camera_shots(again, cut.cuts[0], rate) == camera_shots(cut, cut.cuts[0], rate)


def test_what_an_edl_and_a_table_cannot_hold_of_cameras_is_said(cut, tmp_path):
    assert write_cut_list(cut, cut.cuts[0], tmp_path / "cut.edl") == [
        "An EDL has one picture track: it holds the cut of the picture, not all that each camera has."
    ]
    assert write_cut_list(cut, cut.cuts[0], tmp_path / "cut.csv") == ["A table cannot hold cameras."]
    reels = {row.split()[1] for row in (tmp_path / "cut.edl").read_text().splitlines() if row[:1].isdigit()}
    assert reels == {"HALL", "C0001", "C00012"}


def test_a_list_of_a_project_without_cameras_says_nothing_of_them(cut, tmp_path):
    plain = replace(cut, cameras=replace(cut.cameras, all=(), switches=()))
    write_cut_list(plain, cut.cuts[0], tmp_path / "cut.otio")
    assert read_cut_list(tmp_path / "cut.otio", plain).switches is None
    timeline = otio.adapters.read_from_file(str(tmp_path / "cut.otio"))
    assert [one.name for one in timeline.tracks] == ["Picture", "Sound"]


# -- found, and by command --------------------------------------------------------------------------


def test_files_that_do_not_belong_are_said_and_the_others_found(hall, found, tmp_path):
    other = camera_film(tmp_path / "other.mkv", 4, talk_sound_of_others(), 0.0, 12)
    (tmp_path / "broken.mkv").write_bytes(b"\x00\x01 no film \x02")
    silent = hall / "hall.mkv"
    events = list(find_cameras(found.media, [other, tmp_path / "broken.mkv", silent, films(hall)[0]]))
    said = " ".join(one.message for one in events if isinstance(one, Warning_))
    assert "“other.mkv” shares no sound with the recording" in said
    assert "broken.mkv" in said
    assert "“hall.mkv” is the recording itself" in said
    assert [one.found[0][0].name for one in events if isinstance(one, CamerasFound)] == ["C0001.mkv"]
    with pytest.raises(MediaError, match=r"“other\.mkv” shares no sound"):
        list(find_cameras(found.media, [other]))


def talk_sound_of_others():
    import numpy as np

    return np.random.default_rng(8).normal(0, 0.1, 12 * RATE).astype(np.float32)


def test_by_command_cameras_are_found_assigned_proposed_and_written(hall, found, talk, tmp_path, capsys):
    from dubrel.edits.intake import set_turns
    from dubrel.model import RecognisedTurn, RecognisedWord, Speaker

    _, heard, who = talk
    rows = [
        RecognisedTurn((RecognisedWord(one.text, one.start_ms, one.end_ms),), f"s{label}")
        for one, label in zip(heard, who)
        if one.end_ms < 30_000
    ]
    people = [Speaker(f"s{nth}", f"Voice {nth}") for nth in range(3)]
    project = set_turns(Project(title="Hall", media=found.media), rows, people, "en")
    save(project, tmp_path / "hall.dubrel")
    out = [tmp_path / name for name in ("out.dubrel", "out.mp4", "out.otio")]
    args = [
        "cameras",
        str(tmp_path / "hall.dubrel"),
        *map(str, films(hall)),
        "--propose",
        "--json",
        "--quiet",
    ]
    args += ["--shows", "C0001=Voice 0", "--shows", "C0001 2=Voice 1,voice 2"]
    for path in out:
        args += ["-o", str(path)]
    assert main(args) == 0
    value = json.loads(capsys.readouterr().out)
    assert [one["shows"] for one in value["cameras"]] == [[], ["s0"], ["s1", "s2"]]
    assert value["cameras"][1]["drift_ppm"] == pytest.approx(40, abs=15)
    assert min(one["frames"] for one in value["shots"]) >= 50
    written = open_project(out[0])
    assert len(frames_in(out[1])) == value["shots"][-1]["at"] + value["shots"][-1]["frames"]
    expected = with_proposal(written, written.cuts[0], CameraRules())
    assert expected.cameras.switches == written.cameras.switches
    assert main(["cameras", str(out[0]), "-o", str(out[2]), "--shows", "C0001=Nobody"]) == 2
    assert "Nobody in the project is called “Nobody”" in capsys.readouterr().err
    assert main(["cameras", str(out[0]), "-o", str(out[2]), "--sound", "Boom"]) == 2
    assert "There is no camera called “Boom”" in capsys.readouterr().err
    assert main(["cameras", str(tmp_path / "hall.dubrel"), "-o", str(out[2])]) == 2
    assert "has no cameras" in capsys.readouterr().err


def test_a_rename_and_an_empty_name(found):
    one = found.cameras.all[1]
    assert camera_changed(found, one.id, name="  Near   left ").cameras.all[1].name == "Near left"
    assert camera_changed(found, one.id, name="  ") is found
    assert issubclass(FormatError, DubrelError)


def test_a_release_of_the_whole_recording_is_of_what_the_cameras_show(cut, tmp_path):
    from dubrel.edits.captions.resetting import set_again
    from dubrel.edits.intake import set_turns
    from dubrel.model import RecognisedTurn, RecognisedWord

    said = RecognisedTurn((RecognisedWord("Heron", 2000, 3000), RecognisedWord("ahoy.", 3000, 4000)), None)
    project = set_again(set_turns(replace(cut, cuts=()), [said], [], "en"), None)
    save(project, tmp_path / "hall.dubrel")
    kit = tmp_path / "kit.json"
    kit.write_text(json.dumps({"dubrel_kit": 1, "name": "Film", "deliverables": [{"form": "film"}]}))
    assert (
        main(["release", str(tmp_path / "hall.dubrel"), "-o", str(tmp_path / "out"), "--kit", str(kit)]) == 0
    )
    [film] = (tmp_path / "out").glob("*.mp4")
    seen = [camera for camera, _ in frames_in(film)]
    assert len(seen) == 750
    assert [seen[at * 25] for at in (1, 5, 12, 16, 20, 28)] == [0, 1, 2, 0, 2, 1]


@pytest.mark.parametrize("seed", range(40))
@pytest.mark.parametrize("suffix", [".otio", ".edl"])
def test_lists_of_made_up_cameras_read_back_as_they_were(tmp_path, seed, suffix):
    """Clocks, rates, names, timecodes by chance; muted passages, gaps, leads where something is taken out."""
    project, cut = any_cameras(seed)
    write_cut_list(project, cut, tmp_path / f"cut{suffix}")  # it reads back and compares by itself
    read = read_cut_list(tmp_path / f"cut{suffix}", project)
    shown = camera_shots(
        replace(project, cameras=replace(project.cameras, switches=read.switches or ())),
        cut,
        project.frame_rate,
    )
    assert shown == camera_shots(project, cut, project.frame_rate)


def any_cameras(seed):
    from random import Random

    from dubrel.base.timecode import snap_to_frame
    from dubrel.model import Cut, CutPassage, Media

    chance = Random(seed)
    rates = [Fraction(25), Fraction(30000, 1001), Fraction(24000, 1001), Fraction(50), Fraction(30)]
    rate, long = chance.choice(rates), chance.randint(20_000, 120_000)

    def film(name, ms, rate, size):
        start = chance.choice(("", "01:00:00:00", "10:59:59:12"))
        picture = {"frame_rate": rate, "width": 640, "height": 360, "timecode": start}
        return Media(name, f"/nowhere/{size}/{name}", "", ms, channels=1, size=size, **picture)

    project = Project(title="Hall", media=film("rec.mkv", long, rate, 1))
    names = ("C0001.mkv", "B.mkv", "rec.mkv")
    rows = [
        (
            film(
                chance.choice(names),
                chance.randint(3000, long + 9000),
                chance.choice((rate, *rates)),
                10 + nth,
            ),
            chance.uniform(-9000, long / 2),
            1 + chance.uniform(-5e-5, 5e-5),
        )
        for nth in range(chance.randint(1, 4))
    ]
    project = with_cameras(project, rows)
    for _ in range(chance.randint(1, 12)):
        project = switched(project, chance.randrange(long), chance.choice(project.cameras.seen).id)
    passages, at = [], 0
    while at < long - 3000 and len(passages) < 8:
        start, apart = at + chance.choice((0, 1500)), chance.random() < 0.5
        end = min(long, start + chance.randint(1500, 20_000))
        plays = chance.choice(("all", "all", "all", "muted", "gap"))
        lead = chance.choice((0, 3, -3)) if apart and plays == "all" else 0
        passages.append(CutPassage(snap_to_frame(start, rate), snap_to_frame(end, rate), 0, lead, plays))
        at = end + (1000 if apart else 0)
    pairs = zip(passages, [*passages[1:], CutPassage(0, 0, plays="gap")])
    joined = [
        one if after.plays == "all" and after.start_ms - one.end_ms > 500 else replace(one, lead_frames=0)
        for one, after in pairs
    ]
    return project, Cut(1, "Cut", (CutPassage(0, 1000), *joined[1:]))
