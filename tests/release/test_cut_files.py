"""Cuts as sound and film: every sample and every frame where it belongs."""

from __future__ import annotations

import json
import wave
from fractions import Fraction

import av
import numpy as np
import pytest
from conftest import DEMO
from recordings import write_media, write_wav
from samples import boat_project

from dubrel.base.errors import MediaError
from dubrel.base.timecode import frames_to_ms
from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.edits.cuts.trimming import with_cut
from dubrel.edits.notes import with_note
from dubrel.film.soundtracks.cutsound import CutPart, CutSound, sound_pieces
from dubrel.jobs.filming import make_film
from dubrel.jobs.machinery.events import Written
from dubrel.media.probe import probe
from dubrel.model import Cut, CutPassage
from dubrel.release.cutfiles import cut_order
from dubrel.store.projectfile import save

RATE = 48_000


@pytest.fixture(scope="module")
def ramp(tmp_path_factory):
    """Half a minute of noise in which no two places are alike, and its samples."""
    samples = np.random.default_rng(4).uniform(-0.5, 0.5, (2, 30 * RATE)).astype(np.float32)
    path = write_wav(tmp_path_factory.mktemp("ramp") / "ramp.wav", samples, RATE)
    with wave.open(str(path)) as file:
        kept = np.frombuffer(file.readframes(file.getnframes()), "<i2").reshape(-1, 2).T / 32768
    return path, kept


def project_of(path):
    return replace(boat_project(), media=probe(path))


def made(project, passages, target, **how):
    events = list(make_film(cut_order(project, Cut(9, "The cut", tuple(passages)), target, **how)))
    assert isinstance(events[-1], Written)
    return target


def samples_in(path, layout="stereo"):
    with av.open(str(path)) as container:
        shaped = av.AudioResampler(format="fltp", layout=layout, rate=RATE)
        frames = [*container.decode(audio=0)]
        parts = [one.to_ndarray() for frame in frames for one in shaped.resample(frame)]
    return np.concatenate(parts, axis=1)


@pytest.mark.parametrize("suffix", [".wav", ".flac"])
@pytest.mark.parametrize(
    "spans",
    [
        [(0, 1000), (2500, 4000), (10_001, 10_777)],
        [(20_000, 21_000), (3000, 4000), (25_000, 30_000), (0, 500)],  # another order
        [(5000, 6000), (5000, 6000), (5500, 6500)],  # the same again
        [(100 * k, 100 * k + 33) for k in range(200)],
    ],
)
def test_every_sample_is_where_it_belongs(ramp, tmp_path, suffix, spans):
    path, kept = ramp
    target = made(project_of(path), [CutPassage(a, b) for a, b in spans], tmp_path / f"cut{suffix}")
    meant = np.concatenate([kept[:, a * 48 : b * 48] for a, b in spans], axis=1)
    found = samples_in(target)
    assert found.shape == meant.shape
    assert np.abs(found - meant).max() < 1e-4


def test_a_cross_fade_keeps_the_power_and_the_length(ramp, tmp_path):
    path, kept = ramp
    passages = [CutPassage(1000, 3000, cross_ms=200), CutPassage(10_000, 12_000)]
    found = samples_in(made(project_of(path), passages, tmp_path / "cut.wav"))
    assert found.shape[1] == 4 * RATE
    assert np.abs(found[:, : round(1.9 * RATE)] - kept[:, RATE : round(2.9 * RATE)]).max() < 1e-4
    assert np.abs(found[:, round(2.1 * RATE) :] - kept[:, round(10.1 * RATE) : 12 * RATE]).max() < 1e-4
    powers = [np.sqrt(np.mean(found[:, a : a + 2400] ** 2)) for a in range(RATE, 3 * RATE, 2400)]
    assert max(powers) / min(powers) < 1.1
    ramp_up = np.sin(np.linspace(0, np.pi / 2, 9600))
    ramp_down = np.cos(np.linspace(0, np.pi / 2, 9600))
    at, first, second = round(1.9 * RATE), round(2.9 * RATE), round(9.9 * RATE)
    meant = kept[:, first : first + 9600] * ramp_down + kept[:, second : second + 9600] * ramp_up
    assert np.abs(found[:, at : at + 9600] - meant).max() < 1e-4


def test_a_muted_passage_and_a_gap_are_silent(ramp, tmp_path):
    path, kept = ramp
    passages = [
        CutPassage(0, 1000),
        CutPassage(1000, 1500, plays="muted"),
        CutPassage(0, 250, plays="gap"),
        CutPassage(2000, 3000),
    ]
    found = samples_in(made(project_of(path), passages, tmp_path / "cut.wav"))
    assert not found[:, RATE : round(1.75 * RATE)].any()
    assert np.abs(found[:, round(1.75 * RATE) :] - kept[:, 2 * RATE : 3 * RATE]).max() < 1e-4


def test_the_rest_beyond_the_end_is_silence(ramp, tmp_path):
    path, _ = ramp
    found = samples_in(made(project_of(path), [CutPassage(29_000, 31_000)], tmp_path / "cut.wav"))
    assert found.shape[1] == 2 * RATE and not found[:, RATE:].any()


@pytest.mark.parametrize("suffix", [".mp3", ".m4a", ".opus"])
def test_what_players_know_sounds_the_same_at_the_same_time(tmp_path, suffix):
    write_media(tmp_path / "a.wav", seconds=9.2)  # a click at every second
    passages = [CutPassage(500, 1700), CutPassage(3750, 5250), CutPassage(7900, 8100)]
    target = made(project_of(tmp_path / "a.wav"), passages, tmp_path / f"cut{suffix}")
    with av.open(str(target)) as container:
        assert abs(container.duration / 1000 - 2900) < 60
    found = np.abs(samples_in(target, "mono")[0])
    loud = np.flatnonzero(found > 0.45)
    clicks = loud[np.flatnonzero(np.diff(loud, prepend=-RATE) > RATE // 10)] / 48
    lag = clicks[0] - 500  # what a reader that looks at no header does not take off
    assert [round(one - lag) for one in clicks] == pytest.approx([500, 1450, 2450, 2800], abs=3)
    assert abs(lag) < 60


def test_sound_leads_its_picture_by_frames(ramp):
    path, kept = ramp
    parts = (CutPart(0, 2000, 0, 2000, lead_ms=200), CutPart(10_000, 12_000, 2000, 4000))
    assert [(one.first // 48, one.after // 48) for one in sound_pieces(parts, RATE)] == [
        (0, 1800),
        (9800, 12_000),
    ]
    sound = CutSound(path, parts)
    found = np.concatenate(list(sound.blocks()), axis=1)
    sound.close()
    assert np.abs(found[:, round(1.8 * RATE) :] - kept[:, round(9.8 * RATE) : 12 * RATE]).max() < 1e-6


# -- films -----------------------------------------------------------------------------------


def shade(frame) -> int:
    """The number of a frame, by its shade (each has its own, modulo 255)."""
    return round(float(frame.to_ndarray(format="rgb24").mean()))


@pytest.mark.parametrize("rate", ["25", "30000/1001", "24000/1001", "60000/1001"])
@pytest.mark.parametrize("order", ["as it is", "another"])
def test_every_frame_is_where_it_belongs(tmp_path, rate, order):
    write_media(tmp_path / "film.mp4", seconds=8.0, video=("libx264", rate), form="mp4", codec="aac")
    rate = Fraction(rate)
    spans = [(3, 40), (41, 60), (100, 101), (110, 180)]
    spans = spans if order == "as it is" else [spans[3], spans[0], spans[2], spans[0]]
    passages = [CutPassage(frames_to_ms(a, rate), frames_to_ms(b, rate)) for a, b in spans]
    target = made(project_of(tmp_path / "film.mp4"), passages, tmp_path / "cut.mp4")
    wanted = [nth for a, b in spans for nth in range(a, b)]
    with av.open(str(target)) as film:
        frames = list(film.decode(video=0))
    times = [float(one.time * rate) for one in frames]
    assert times == pytest.approx(range(len(wanted)), abs=0.01)
    assert max(abs(shade(one) - nth % 255) for one, nth in zip(frames, wanted, strict=True)) <= 3


def test_sound_and_picture_stay_together_over_many_joins(tmp_path):
    """Clicks at full seconds of the film are at the same places of the picture in the cut."""
    rate = Fraction(30000, 1001)
    film = {"video": ("libx264", "30000/1001"), "form": "mp4", "codec": "aac"}
    write_media(tmp_path / "film.mp4", seconds=31.0, **film)
    spans = [(30 * k - 5, 30 * k + 12) for k in range(1, 30)]
    passages = [CutPassage(frames_to_ms(a, rate), frames_to_ms(b, rate), cross_ms=10) for a, b in spans]
    target = made(project_of(tmp_path / "film.mp4"), passages, tmp_path / "cut.mp4")
    with av.open(str(target)) as film:
        count = sum(1 for _ in film.decode(video=0))
        video_s = float(count / rate)
    found = np.abs(samples_in(target, "mono")[0])
    loud = np.flatnonzero(found > 0.4)
    clicks = loud[np.flatnonzero(np.diff(loud, prepend=-RATE) > RATE // 10)] / 48
    before = 0.0
    meant = []
    for a, b in spans:
        meant += [
            before + second * 1000 - float(a * 1000 / rate)
            for second in range(1, 31)
            if a / rate <= second < b / rate
        ]
        before += float((b - a) * 1000 / rate)
    lag = clicks[0] - meant[0]
    assert len(clicks) == len(meant) and abs(lag) < 30
    assert np.abs(clicks - lag - np.array(meant)).max() < 1.0
    assert abs(len(found) / RATE - video_s) < 0.05


def test_sound_that_begins_later_than_the_picture_stays_where_it_is(tmp_path):
    with av.open(str(tmp_path / "late.mkv"), "w") as out:
        picture = out.add_stream("libx264", rate=25)
        picture.width, picture.height, picture.pix_fmt = 64, 48, "yuv420p"
        sound = out.add_stream("pcm_s16le", rate=RATE, layout="mono")
        for nth in range(150):
            frame = av.VideoFrame.from_ndarray(np.full((48, 64, 3), nth, np.uint8), format="rgb24")
            out.mux(picture.encode(frame))
        out.mux(picture.encode(None))
        for nth in range(16):  # from 1.6 s on, a tenth each; a click at 2.6 s
            samples = np.zeros((1, RATE // 10), np.int16)
            samples[0, : 200 if nth == 10 else 0] = 20_000
            block = av.AudioFrame.from_ndarray(samples, "s16", "mono")
            block.sample_rate, block.pts = RATE, round(1.6 * RATE) + nth * RATE // 10
            out.mux(sound.encode(block))
        out.mux(sound.encode(None))
    passages = [CutPassage(1000, 1400), CutPassage(2400, 3000)]
    target = made(project_of(tmp_path / "late.mkv"), passages, tmp_path / "cut.mp4")
    found = np.abs(samples_in(target, "mono")[0])
    assert np.flatnonzero(found > 0.3)[0] / 48 == pytest.approx(600, abs=25)
    with av.open(str(target)) as film:
        shades = [shade(one) for one in film.decode(video=0)]
    assert len(shades) == 25 and abs(shades[9] - 34) <= 3 and abs(shades[10] - 60) <= 3


def test_captions_chapters_and_gaps_of_a_film(tmp_path, film):
    project = project_of(film)
    words = [word for turn in project.transcript.turns for word in turn.words]
    project, _ = with_note(project, "Chapter", "The boards", [words[2].id])
    passages = [CutPassage(0, 6000), CutPassage(0, 400, plays="gap"), CutPassage(8000, 14_000)]
    target = made(project, passages, tmp_path / "burned.mp4", captions="burned")
    with av.open(str(target)) as made_film:
        assert [one["metadata"]["title"] for one in made_film.chapters()] == ["The boards"]
        dark = [one for one in made_film.decode(video=0) if 6.05 <= one.time < 6.35]
        assert dark and max(float(one.to_ndarray(format="gray").mean()) for one in dark) < 20
    target = made(project, passages, tmp_path / "inside.mkv", captions="inside")
    with av.open(str(target)) as made_film:
        assert [one.type for one in made_film.streams] == ["video", "audio", "subtitle"]
    assert sorted(one.name for one in tmp_path.iterdir()) == ["burned.mp4", "inside.mkv"]


def test_what_cannot_be_made_is_one_sentence(ramp, tmp_path):
    path, _ = ramp
    project = project_of(path)
    with pytest.raises(MediaError, match="no picture"):
        cut_order(project, Cut(9, "", (CutPassage(0, 100),)), tmp_path / "cut.mp4")
    with pytest.raises(MediaError, match="no passages"):
        cut_order(project, Cut(9, "", ()), tmp_path / "cut.wav")
    with pytest.raises(MediaError, match="the recording itself"):
        cut_order(project, Cut(9, "", (CutPassage(0, 100),)), path)
    gone = replace(project, media=replace(project.media, path="/nowhere.wav"))
    with pytest.raises(MediaError, match="not where it was"):
        cut_order(gone, Cut(9, "", (CutPassage(0, 100),)), tmp_path / "cut.wav")


# -- the command line ------------------------------------------------------------------------


def test_the_command_takes_pauses_out_and_writes_every_form(tmp_path, capsys):
    outs = [tmp_path / f"cut{suffix}" for suffix in (".dubrel", ".otio", ".edl", ".csv", ".flac")]
    words = [
        "cut",
        str(DEMO / "slow-water-7.dubrel"),
        "--pauses",
        "0.5:0.2",
        "--fillers",
        "--json",
        "--quiet",
    ]
    assert main([*words, "--quiet", *(word for out in outs for word in ("-o", str(out)))]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["by_kind"]["Pauses"]["count"] >= 10 and found["saved_ms"] > 8000
    assert all(out.is_file() for out in outs)
    with av.open(str(outs[-1])) as sound:
        assert abs(sound.duration / 1000 - found["length_ms"]) < 2
    assert main(["convert", str(outs[0]), str(tmp_path / "cut.srt"), "--cut", "the cut"]) == 0
    assert main(["convert", str(outs[0]), str(tmp_path / "whole.srt")]) == 0
    cut, whole = (
        (tmp_path / name).read_text().split("-->")[-1].split()[0] for name in ("cut.srt", "whole.srt")
    )
    assert cut < whole
    assert main(["check", str(outs[0]), "--cut", "nothing"]) == 2
    assert "“The cut”" in capsys.readouterr().err


def test_a_release_of_a_cut_has_the_recording_of_the_cut(tmp_path):
    project = replace(probe_project(), title="Heron")
    project, _ = with_cut(project, "Short", [CutPassage(2000, 6000), CutPassage(9000, 15_000)])
    save(project, tmp_path / "p.dubrel")
    kit = {
        "dubrel_kit": 1,
        "name": "k",
        "pattern": "{title} {form}",
        "deliverables": [{"form": "srt", "options": {}}, {"form": "film-burned", "options": {}}],
    }
    from dubrel.release.forms import FORMS

    burned = next(one.id for one in FORMS.values() if one.film == "burn")
    kit["deliverables"][1]["form"] = burned
    (tmp_path / "kit.json").write_text(json.dumps(kit))
    out = tmp_path / "out"
    words = ["release", str(tmp_path / "p.dubrel"), "-o", str(out), "--kit", str(tmp_path / "kit.json")]
    assert main([*words, "--cut", "short", "--quiet"]) == 0
    films = [one for one in out.iterdir() if one.suffix == ".mp4"]
    assert len(films) == 1 and films[0].name.startswith("Heron – Short")
    with av.open(str(films[0])) as film:
        assert abs(film.duration / 1000 - 10_000) < 60


def probe_project():
    from dubrel.cli.common import read_input

    return read_input(DEMO / "heron-film.dubrel", True)
