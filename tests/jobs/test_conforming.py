"""An edit that has changed keeps its words and captions: found by sound alone."""

from __future__ import annotations

import json
from random import Random

import av
import numpy as np
import pytest
from conftest import DEMO, words
from random_checks import check_project
from recordings import tune, write_wav

from dubrel.base.errors import MediaError
from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.cli.common import read_input
from dubrel.edits.captions.times import move_edge
from dubrel.finding.samesound import same_passages
from dubrel.jobs.cuts.conforming import Conformed, conform, placed, uncovered
from dubrel.jobs.cuts.cutmedia import levels_read
from dubrel.media.sound import decode_blocks
from dubrel.project.timeline import Placement
from dubrel.store.projectfile import read_project

RATE = 16_000


@pytest.fixture(scope="module")
def podcast():
    """The samples of the demo podcast, shape (n,), int16."""
    return np.concatenate(list(decode_blocks(DEMO / "slow-water-7.opus")))


def through_mp3(samples, path):
    """The sound as MP3 at 96 kbit/s, read again."""
    with av.open(str(path), "w", format="mp3") as out:
        stream = out.add_stream("libmp3lame", rate=44_100, layout="mono")
        stream.bit_rate = 96_000
        shaped = av.AudioResampler(format="fltp", layout="mono", rate=44_100, frame_size=1152)
        frame = av.AudioFrame.from_ndarray(samples[None, :], "s16", "mono")
        frame.sample_rate = RATE
        for one in [*shaped.resample(frame), *shaped.resample(None)]:
            out.mux(stream.encode(one))
        out.mux(stream.encode(None))
    return path


def edit(samples, spans, *, music=False, level=1.0, stretch=1.0):
    """Passages (in seconds) one after the other, dressed."""
    made = np.concatenate([samples[round(a * RATE) : round(b * RATE)] for a, b in spans]).astype(np.float32)
    if stretch != 1.0:
        made = np.interp(np.arange(0, len(made) - 1, stretch), np.arange(len(made)), made).astype(np.float32)
    if music:
        laid = tune(len(made) // RATE + 1)[: len(made)].astype(np.float32)
        made = made + laid * (np.sqrt(np.mean(made**2) / np.mean(laid**2)) * 10 ** (-15 / 20))
    return np.clip(made * level, -32768, 32767).astype(np.int16)


SPANS = [(3.4, 20.0), (60.0, 75.5), (25.4, 33.0), (100.0, 118.0), (90.2, 97.9)]


@pytest.mark.parametrize(
    ("how", "coded"),
    [
        ({"level": 0.2}, False),
        ({"music": True}, True),
        ({"stretch": 1.004}, True),
        ({"stretch": 0.996, "level": 0.5}, False),
    ],
    ids=["quiet", "music", "faster", "slower"],
)
def test_passages_are_found_in_any_order(podcast, tmp_path, how, coded):
    """More of them are measured in benchmarks/conforming.py."""
    made = edit(podcast, SPANS, **how)
    if coded:
        made = np.concatenate(list(decode_blocks(through_mp3(made, tmp_path / "a.mp3"))))
    found = same_passages(podcast, made)
    assert len(found) == len(SPANS)
    stretch, at = how.get("stretch", 1.0), 0.0
    for one, (a, b) in zip(found, SPANS):
        long = (b - a) / stretch
        assert one.at_ms == pytest.approx(at * 1000, abs=60)
        for share in (0.2, 0.5, 0.8):  # moments within
            old = a + share * (b - a)
            there = one.at_ms + (old * 1000 - one.start_ms) * (one.until_ms - one.at_ms) / (
                one.end_ms - one.start_ms
            )
            assert there == pytest.approx((at + share * long) * 1000, abs=6)
        at += long


def test_what_is_new_is_no_passage(podcast):
    noise = (np.random.default_rng(3).normal(0, 2000, 8 * RATE)).astype(np.int16)
    made = np.concatenate([edit(podcast, [(10, 25)]), tune(6), noise, edit(podcast, [(25, 40)])])
    found = same_passages(podcast, made)
    assert [(round(one.start_ms / 100), round(one.end_ms / 100)) for one in found] == [(100, 250), (250, 400)]
    places = placed(found, len(made) // 16)
    [gap] = uncovered(places, len(made) // 16)
    assert gap[0] == pytest.approx(15_000, abs=150) and gap[1] == pytest.approx(29_000, abs=150)


def test_another_recording_shares_nothing(podcast):
    assert same_passages(podcast, tune(40)) == []
    assert same_passages(podcast, np.zeros(20 * RATE, np.int16)) == []
    assert same_passages(podcast, podcast[:100]) == []
    assert same_passages(np.zeros(0, np.int16), podcast) == []


def result_of(project, path):
    return next(one for one in conform(project, path) if isinstance(one, Conformed))


def test_words_captions_and_translations_land_at_their_new_times(podcast, tmp_path):
    project = read_input(DEMO / "slow-water-7.dubrel", True)
    pairs = zip(project.captions.captions, project.captions.captions[1:])
    held = next(one for one, after in pairs if after.start_ms - one.end_ms > 400)
    assert held.end_ms < 32_000
    project = move_edge(project, held.id, "out", held.end_ms + 120)
    list(levels_read(project.media))
    path = through_mp3(edit(podcast, [(3.0, 33.0), (60.0, 120.0)]), tmp_path / "edit.mp3")
    found = result_of(project, path)
    check_project(found.project)
    assert found.passages == 2 and found.new == ()
    before = {word.id: word for word in words(project)}
    for word in words(found.project):
        was = before[word.id]
        if not any(a <= was.start_ms and was.end_ms <= b for a, b in ((3030, 32_970), (60_030, 119_970))):
            continue  # a join goes through it
        shift = 3000 if was.start_ms < 40_000 else 30_000
        assert word.start_ms == pytest.approx(was.start_ms - shift, abs=25)
    kept = next(one for one in found.project.captions.captions if one.id == held.id)
    assert kept.words == held.words and "times" in kept.held
    assert kept.end_ms == pytest.approx(held.end_ms + 120 - 3000, abs=25)
    assert any(not track.spoken and track.captions for track in found.project.tracks)
    said = " ".join(text for *_, text in found.gone)
    assert said.split()[0] == next(w.text for w in words(project) if (w.start_ms + w.end_ms) // 2 > 33_000)
    assert found.project.media.name == "edit.mp3" and found.project.media.path == str(path)


def test_on_the_command_line(podcast, tmp_path, capsys):
    path = write_wav(tmp_path / "edit.wav", edit(podcast, [(3.0, 40.0), (60.0, 80.0)]) / 32768)
    out = tmp_path / "out.dubrel"
    asked = ["conform", str(DEMO / "slow-water-7.dubrel")]
    assert main([*asked, str(path), "-o", str(out), "--json", "--quiet"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["passages"] == 2 and said["new"] == [] and said["gone"]
    assert read_project(out).project.media.duration_ms == 57_000
    silence = write_wav(tmp_path / "other.wav", np.zeros(9 * RATE))
    assert main([*asked, str(silence), "-o", str(out), "--quiet"]) == 2
    assert "shares no sound" in capsys.readouterr().err
    assert read_project(out).project.media.duration_ms == 57_000  # what was there stays


def test_to_a_cut_list(tmp_path):
    project = read_input(DEMO / "slow-water-7.dubrel", True)
    (tmp_path / "cut.csv").write_text("in,out\n00:03.000,00:33.000\n01:00.000,01:10.000\n")
    found = result_of(project, tmp_path / "cut.csv")
    assert found.passages == 2 and found.project.length_ms == 40_000
    check_project(found.project)


def test_without_the_recording_before(tmp_path, podcast):
    project = read_input(DEMO / "slow-water-7.dubrel", True)
    path = write_wav(tmp_path / "edit.wav", podcast[: 20 * RATE] / 32768)
    gone = replace(project, media=replace(project.media, path="/nowhere/x.opus"))
    with pytest.raises(MediaError, match="not where it was"):
        result_of(gone, path)


@pytest.mark.parametrize("seed", range(20))
def test_placements_never_overlap_however_they_are_rounded(seed):
    from dubrel.finding.samesound import SamePassage

    chance, at, some = Random(seed), 0.0, []
    for _ in range(30):
        long = chance.uniform(0.2, 3000)
        start = chance.uniform(0, 90_000)
        some.append(SamePassage(at, at + long, start, start + long * chance.choice((1, 1, 1.004))))
        at += long * chance.choice((1, 1, 1.2))
    found = placed(some, round(at))
    assert all(a.until_ms <= b.at_ms for a, b in zip(found, found[1:]))
    assert all(isinstance(one, Placement) and one.end_ms > one.start_ms for one in found)
