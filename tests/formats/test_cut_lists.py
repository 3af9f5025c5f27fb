"""Cut lists: written, read back by us and by others, and read as other programs write them."""

from __future__ import annotations

import csv
from fractions import Fraction

import opentimelineio as otio
import pytest
from samples import boat_project

from dubrel.base.errors import FormatError
from dubrel.base.frametimecode import frame_of, timecode
from dubrel.base.timecode import frames_to_ms, ms_to_frames
from dubrel.base.value import replace
from dubrel.edits.notes import with_note
from dubrel.formats.cutlists.register import read_cut_list, write_cut_list
from dubrel.model import Cut, CutPassage, Media

LENGTH = 3_600_000
RATES = ("24000/1001", "25", "30000/1001", "50", "60000/1001")


def boat(rate="25", start=""):
    """A project of an hour, with a picture unless there is no rate."""
    media = Media(
        "Heron – day 3.mov",
        "/nowhere/Heron – day 3.mov",
        "",
        LENGTH,
        frame_rate=Fraction(rate) if rate else None,
        width=640 if rate else 0,
        channels=2,
        sample_rate=48_000,
        timecode=start,
    )
    return replace(boat_project(), media=media)


def cut(rate, count=100, **dressed) -> Cut:
    """Passages of eleven frames, thirty frames apart."""
    spans = [(frames_to_ms(30 * k, rate), frames_to_ms(30 * k + 11, rate)) for k in range(count)]
    return Cut(999, "The cut", tuple(CutPassage(a, b, **dressed) for a, b in spans))


def frames(reading, rate):
    return [(ms_to_frames(one.start_ms, rate), ms_to_frames(one.end_ms, rate)) for one in reading.passages]


@pytest.mark.parametrize("start", ["", "01:00:00:00", "10:59:50;00"])
@pytest.mark.parametrize("suffix", [".otio", ".edl", ".csv"])
@pytest.mark.parametrize("rate", RATES)
def test_every_frame_comes_back(tmp_path, rate, suffix, start):
    project, rate = boat(rate, start), Fraction(rate)
    assert write_cut_list(project, cut(rate), tmp_path / f"cut{suffix}") == []
    found = read_cut_list(tmp_path / f"cut{suffix}", project)
    assert frames(found, rate) == [(30 * k, 30 * k + 11) for k in range(100)]
    assert found.said == []


@pytest.mark.parametrize(("rate", "start"), [("25", "01:00:00:00"), ("30000/1001", "01:00:00;00")])
def test_another_library_reads_the_same_list_of_events(tmp_path, rate, start):
    project = boat(rate, start)
    second = next(word for word in project.transcript.turns[0].words if word.start_ms >= 1200)
    project, _ = with_note(project, "Chapter", "The boards", [second.id])
    assert write_cut_list(project, cut(Fraction(rate)), tmp_path / "cut.edl") == []
    text = (tmp_path / "cut.edl").read_text("utf-8")
    timeline = otio.adapters.read_from_string(text, "cmx_3600", rate=float(Fraction(rate)))
    clips = [one for one in timeline.tracks[0] if isinstance(one, otio.schema.Clip)]
    begin = frame_of(start, Fraction(rate))
    assert [round(one.source_range.start_time.value) - begin for one in clips] == [30 * k for k in range(100)]
    assert {round(one.source_range.duration.value) for one in clips} == {11}
    assert clips[0].metadata["cmx_3600"]["reel"] == "HERONDAY"
    assert [marker.name for one in clips for marker in one.markers] == ["The boards"]


def test_a_timeline_has_names_markers_joins_and_the_recording(tmp_path):
    project = boat("25", "01:00:00:00")
    first = project.transcript.turns[0].words[3]
    project, _ = with_note(project, "Chapter", "The boards", [first.id])
    passages = (
        CutPassage(0, 8000, cross_ms=40),
        CutPassage(10_000, 20_000, plays="muted"),
        CutPassage(30_000, 31_000),
    )
    write_cut_list(project, Cut(9, "The cut", passages), tmp_path / "cut.otio")
    made = otio.adapters.read_from_file(str(tmp_path / "cut.otio"))
    picture, sound = made.tracks
    assert (picture.kind, sound.kind) == ("Video", "Audio")
    assert picture[0].name.startswith("Welcome back to Slow Water.")
    assert picture[0].media_reference.target_url.endswith("Heron%20%E2%80%93%20day%203.mov")
    assert picture[1].source_range.start_time == otio.opentime.RationalTime(90_000 + 250, 25)
    assert made.tracks.markers[0].name == "The boards"
    assert made.duration() == otio.opentime.RationalTime(200 + 250 + 25, 25)
    assert isinstance(sound[1], otio.schema.Gap)  # muted
    crossed = Cut(9, "", (CutPassage(0, 8000, cross_ms=40), CutPassage(10_000, 20_000)))
    write_cut_list(project, crossed, tmp_path / "crossed.otio")
    sound = otio.adapters.read_from_file(str(tmp_path / "crossed.otio")).tracks[1]
    assert isinstance(sound[1], otio.schema.Transition) and sound[1].duration().value == 1.0
    assert read_cut_list(tmp_path / "crossed.otio", project).passages == list(crossed.passages)


@pytest.mark.parametrize("suffix", [".otio", ".edl"])
@pytest.mark.parametrize("lead", [5, -5])
def test_sound_that_leads_the_picture_comes_back(tmp_path, suffix, lead):
    project, rate = boat(), Fraction(25)
    passages = [replace(one, lead_frames=lead) for one in cut(rate, 20).passages[:-1]]
    made = Cut(9, "The cut", (*passages, cut(rate, 20).passages[-1]))
    write_cut_list(project, made, tmp_path / f"cut{suffix}")
    found = read_cut_list(tmp_path / f"cut{suffix}", project)
    assert found.passages == list(made.passages)


@pytest.mark.parametrize("suffix", [".otio", ".edl", ".csv"])
def test_sound_alone(tmp_path, suffix):
    project = boat(None)
    passages = (CutPassage(137, 8441), CutPassage(3000, 3777, plays="gap"), CutPassage(10_003, 12_222))
    write_cut_list(project, Cut(9, "The cut", passages), tmp_path / f"cut{suffix}")
    found = read_cut_list(tmp_path / f"cut{suffix}", project)
    near = 40 if suffix == ".edl" else 0  # an EDL counts 25 frames a second
    assert [one.plays for one in found.passages] == ["all", "gap", "all"]
    for one, other in zip(found.passages, passages):
        assert abs((one.end_ms - one.start_ms) - (other.end_ms - other.start_ms)) <= near
        assert one.plays == "gap" or abs(one.start_ms - other.start_ms) <= near


def test_a_gap_at_the_end_of_a_list_of_events_is_said(tmp_path):
    passages = (CutPassage(0, 8000), CutPassage(8000, 9000, plays="gap"))
    lost = write_cut_list(boat(), Cut(9, "The cut", passages), tmp_path / "cut.edl")
    assert "ends with a gap" in " ".join(lost)


def test_a_bundle_carries_the_recording(tmp_path, film):
    from dubrel.media.probe import probe

    project = replace(boat_project(), media=probe(film))
    write_cut_list(project, Cut(9, "The cut", (CutPassage(1000, 3000),)), tmp_path / "cut.otioz")
    found = read_cut_list(tmp_path / "cut.otioz", project)
    assert [(one.start_ms, one.end_ms) for one in found.passages] == [(1000, 3000)]
    assert (tmp_path / "cut.otioz").stat().st_size > film.stat().st_size
    assert sorted(one.name for one in tmp_path.iterdir() if one.suffix == ".otioz") == ["cut.otioz"]


def test_the_table_says_what_is_said(tmp_path):
    project = boat(None)
    words = [word for turn in project.transcript.turns for word in turn.words]
    made = Cut(9, "", (CutPassage(words[5].start_ms, words[9].end_ms), CutPassage(0, words[2].end_ms)))
    write_cut_list(project, made, tmp_path / "cut.csv")
    rows = list(csv.DictReader((tmp_path / "cut.csv").open(encoding="utf-8-sig")))
    assert [row["words"] for row in rows] == [
        " ".join(word.text for word in words[5:10]),
        " ".join(word.text for word in words[:3]),
    ]


@pytest.mark.parametrize("ends", ["\n", "\r\n", "\r"])
def test_a_list_of_an_editing_program(tmp_path, ends):
    rows = [
        "TITLE:   HERON ROUGH 2",
        "FCM: NON-DROP FRAME",
        "",
        "001  AX       V     C        00:00:01:00 00:00:03:00 01:00:00:00 01:00:02:00",
        "* FROM CLIP NAME:  Heron – day 3.mov",
        "002  AX       AA    C        00:00:01:00 00:00:03:00 01:00:00:00 01:00:02:00",
        "003  BL       V     C        00:00:00:00 00:00:01:00 01:00:02:00 01:00:03:00",
        "004  OTHER    V     C        00:00:10:00 00:00:12:00 01:00:03:00 01:00:05:00",
        "* FROM CLIP NAME:  Drone 4.mov",
        "005  AX       V     D    012 00:00:20:00 00:00:22:00 01:00:05:00 01:00:07:00",
        "* FROM CLIP NAME:  HERON – DAY 3.MOV",
        "M2   AX       050.0                00:00:20:00",
        "006  nonsense",
    ]
    (tmp_path / "rough.edl").write_bytes(ends.join(rows).encode())
    found = read_cut_list(tmp_path / "rough.edl", boat())
    assert found.name == "HERON ROUGH 2"
    assert [(one.start_ms, one.end_ms, one.plays) for one in found.passages if one.plays != "gap"] == [
        (1000, 3000, "all"),
        (20_000, 22_000, "muted"),  # it has a picture alone, where others have sound
    ]
    assert sum(one.end_ms - one.start_ms for one in found.passages if one.plays == "gap") == 3000
    said = " ".join(found.said)
    assert all(part in said for part in ("Drone 4.mov", "hard", "another speed", "could not be understood"))


def test_another_rate_and_another_recording_are_told(tmp_path):
    line = "001  {}  AA/V  C        00:00:01:{} 00:00:03:00 00:00:00:00 00:00:02:00\n"
    (tmp_path / "a.edl").write_text(line.format("AX", 29))
    with pytest.raises(FormatError, match=r"more frames a second than the picture has \(25\)"):
        read_cut_list(tmp_path / "a.edl", boat())
    (tmp_path / "b.edl").write_text(line.format("AX", 10) + "* FROM CLIP NAME: Other.mov\n")
    with pytest.raises(FormatError, match=r"Other\.mov"):
        read_cut_list(tmp_path / "b.edl", boat())
    (tmp_path / "c.edl").write_text("nothing\n")
    with pytest.raises(FormatError, match="no events"):
        read_cut_list(tmp_path / "c.edl", boat())


def nested_timeline():
    """A nested sequence, another source, an effect, a change of speed, a clip beyond the end."""
    s, t = otio.schema, otio.opentime

    def span(a, b):
        return t.TimeRange(t.RationalTime(a, 25), t.RationalTime(b - a, 25))

    def clip(a, b, url="file:///elsewhere/heron%20%E2%80%93%20day%203.mov"):
        return s.Clip("a clip", s.ExternalReference(url) if url else s.MissingReference(), span(a, b))

    inner = s.Stack("nested", [s.Track("v", [clip(100, 200), clip(500, 600)])], span(50, 150))
    fast = clip(1000, 1050)
    fast.effects.append(s.LinearTimeWarp("fast", 2.0))
    off = clip(0, 25)
    off.enabled = False
    made = s.Timeline("Rough")
    made.tracks.append(
        s.Track(
            "V1",
            [
                clip(0, 50),
                s.Gap(source_range=span(0, 25)),
                inner,
                clip(0, 10, "file:///x/drone.mov"),
                fast,
                off,
                clip(89_990, 90_100),
                clip(5, 5),
            ],
            kind="Video",
        )
    )
    made.tracks.append(s.Track("V2", [clip(0, 25)], kind="Video"))
    return made


def test_a_timeline_with_everything_in_it(tmp_path):
    otio.adapters.write_to_file(nested_timeline(), str(tmp_path / "rough.otio"))
    found = read_cut_list(tmp_path / "rough.otio", boat())
    heard = [(one.start_ms // 40, one.end_ms // 40) for one in found.passages if one.plays != "gap"]
    assert heard == [(0, 50), (150, 200), (500, 550), (1000, 1050), (89_990, 90_000)]
    gaps = sum(one.end_ms - one.start_ms for one in found.passages if one.plays == "gap") // 40
    assert gaps == 25 + 10 + 25
    said = " ".join(found.said)
    assert all(
        part in said for part in ("speed", "drone.mov", "beyond the end", "no time", "1 further track")
    )


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("a.otio", "{"),
        ("b.otio", '{"OTIO_SCHEMA": "Clip.1"}'),
        ("c.otioz", "no archive"),
        ("d.csv", "a,b\n1,2\n"),
        ("e.csv", "in,out\nx,y\n"),
        ("f.otio", '{"OTIO_SCHEMA":"Timeline.1","name":"empty"}'),
    ],
)
def test_what_is_no_list_is_told_in_a_sentence(tmp_path, name, text):
    (tmp_path / name).write_text(text)
    with pytest.raises(FormatError) as told:
        read_cut_list(tmp_path / name, boat())
    assert name in str(told.value) and "\n" not in str(told.value)


def test_what_stood_there_stays_when_writing_fails(tmp_path):
    (tmp_path / "cut.otioz").write_text("before")
    with pytest.raises(FormatError, match="not there"):
        write_cut_list(boat(), cut(Fraction(25), 3), tmp_path / "cut.otioz")
    assert (tmp_path / "cut.otioz").read_text() == "before" and len(list(tmp_path.iterdir())) == 1


@pytest.mark.parametrize("rate", ["30000/1001", "60000/1001"])
def test_dropped_numbers_keep_up_with_the_clock(rate):
    rate = Fraction(rate)
    hour = round(3600 * rate)
    assert timecode(hour, rate, True) in ("00:59:59;29", "01:00:00;00", "00:59:59;59")
    numbers = [timecode(k, rate, True) for k in range(40_000)]
    assert len(set(numbers)) == len(numbers)
    assert [frame_of(one, rate) for one in numbers] == list(range(40_000))


def test_five_thousand_events(tmp_path):
    project, rate = boat("30000/1001"), Fraction(30000, 1001)
    made = Cut(
        9,
        "Long",
        tuple(CutPassage(frames_to_ms(20 * k, rate), frames_to_ms(20 * k + 9, rate)) for k in range(5000)),
    )
    write_cut_list(project, made, tmp_path / "long.edl")
    assert len(read_cut_list(tmp_path / "long.edl", project).passages) == 5000


@pytest.mark.parametrize("suffix", [".otio", ".edl"])
def test_muted_passages_and_gaps_at_the_beginning_and_in_a_row_come_back(tmp_path, suffix):
    passages = (
        CutPassage(0, 2000, plays="gap"),
        CutPassage(2000, 6000),
        CutPassage(6000, 8000, plays="muted"),
        CutPassage(8000, 9000),
        CutPassage(9000, 10_000, plays="gap"),
        CutPassage(12_000, 13_000, plays="gap"),
        CutPassage(14_000, 15_000),
    )
    write_cut_list(boat(), Cut(9, "The cut", passages), tmp_path / f"cut{suffix}")
    found = read_cut_list(tmp_path / f"cut{suffix}", boat()).passages
    plays = [(one.start_ms, one.end_ms, one.plays) for one in found if one.plays != "gap"]
    assert plays == [(2000, 6000, "all"), (6000, 8000, "muted"), (8000, 9000, "all"), (14_000, 15_000, "all")]
    gaps = [one.end_ms - one.start_ms for one in found if one.plays == "gap"]
    assert sum(gaps) == 4000
    assert found[0].plays == "gap"
