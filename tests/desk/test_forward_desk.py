"""The voice brought forward in the window: by key, from the same instant, ahead of the playhead."""

import shutil
from fractions import Fraction

import numpy as np
import pytest
from conftest import DEMO
from playing import mixed_now
from recordings import write_wav
from samples import boat_project

from dubrel.desk.ears.forward import Forward
from dubrel.media.forwardtrack import PIECE_S, RATE, ForwardTrack
from dubrel.media.probe import probe
from dubrel.media.sound import decode_blocks, read_sound
from dubrel.store.projectfile import save

LONG_S = 12


@pytest.fixture(scope="module")
def podcast(tmp_path_factory):
    """The first seconds of the demo podcast, whose sound has been read."""
    sound = np.concatenate(list(decode_blocks(DEMO / "slow-water-7.opus")))[: LONG_S * 16_000]
    path = write_wav(tmp_path_factory.mktemp("podcast") / "podcast.wav", sound.astype(np.float32) / 32768)
    list(read_sound(probe(path)))
    return path


def project_of(path, recording):
    from dubrel.base.value import replace

    save(replace(boat_project(), media=probe(recording)), path)
    return path


@pytest.fixture
def opened(window, podcast, tmp_path, qtbot):
    window.filing.open_path(project_of(tmp_path / "one.dubrel", podcast))
    qtbot.waitUntil(lambda: window.session.peaks is not None)
    return window


@pytest.fixture
def forward(window):
    return window.desk.findChild(Forward)


def all_there(forward):
    return forward.ahead is not None and forward.ahead.track is not None and forward.ahead.track.whole


def all_made(window, forward):
    """Whether all pieces are there; playing is kept at the first, for only what lies ahead of it is made."""
    if window.player.position > 8000:
        window.player.seek(2000)
    return all_there(forward)


def test_nothing_open_says_why(window, forward):
    window.commands.run("voice_forward")
    assert window.message.text() == "Bring in a recording first."
    assert not forward.on


def test_a_key_brings_it_forward_from_the_playhead_on_and_back(opened, forward, qtbot):
    opened.player.seek(2000)
    opened.commands.run("play")
    opened.commands.run("voice_forward")
    qtbot.waitUntil(lambda: all_made(opened, forward))
    assert opened.player.engine().audioOutput().isMuted()
    track = ForwardTrack(opened.session.recording)
    assert track.made == [0, 1]
    opened.player.seek(4000)
    opened.player.play()
    qtbot.waitUntil(lambda: forward.output.mix.ready)
    forward.output.stop()
    start = 4 * RATE + forward.output.given
    found, there = mixed_now(forward, RATE), track.read(start, start + RATE)
    assert np.corrcoef(found[2000:], there[2000:])[0, 1] > 0.9  # the level is evened too
    opened.commands.run("voice_forward")
    assert opened.message.text() == "The recording plays as it is."
    after = mixed_now(forward, RATE)
    assert len(after) == RATE and forward.output.mix.reached == 0.0
    assert opened.session.trace is opened.session.peaks


def test_the_playhead_keeps_to_what_is_heard_through_speed_loop_and_pause(opened, forward, qtbot):
    opened.commands.run("voice_forward")
    qtbot.waitUntil(lambda: forward.output is not None)
    opened.player.set_loop((1000, 1800))
    opened.player.seek(1000)
    opened.player.play()
    opened.player.set_speed(1.5)
    seen = set()
    opened.player.moved.connect(seen.add)
    back = [0]
    opened.player.moved.connect(lambda ms: back.append(back[-1] + (ms < 1200)))
    qtbot.waitUntil(lambda: back[-1] > 0 and max(seen) > 1600)
    qtbot.waitUntil(lambda: opened.player.position < 1200)  # round once more
    assert min(seen) >= 1000 and max(seen) <= 1900
    assert abs(forward.output.position() - opened.player.position) < 150
    opened.player.pause()
    assert not forward.output.tick.isActive()


def test_trace_and_strip_show_the_voice_while_it_is_forward(opened, forward, qtbot):
    opened.commands.run("voice_forward")
    qtbot.waitUntil(lambda: opened.session.trace is not opened.session.peaks)
    qtbot.waitUntil(lambda: all_there(forward) and len(forward.ahead.shown) == 2)
    drawn, plain = (p.columns(0, 1000 * LONG_S, 240) for p in (opened.session.trace, opened.session.peaks))
    quiet = np.abs(plain).max(axis=1) < np.percentile(np.abs(plain).max(axis=1), 12)
    assert np.abs(drawn[quiet]).mean() < 0.6 * np.abs(plain[quiet]).mean()
    opened.commands.run("voice_forward")
    assert opened.session.trace is opened.session.peaks
    opened.commands.run("voice_forward")
    assert opened.session.trace is not opened.session.peaks


def test_another_project_plays_as_it_is_and_takes_nothing_of_the_first(opened, forward, tmp_path, qtbot):
    opened.commands.run("voice_forward")
    opened.filing.open_path(project_of(tmp_path / "two.dubrel", DEMO / "heron-film.mp4"))
    assert not forward.on and not forward.button.isChecked()
    qtbot.waitUntil(lambda: opened.session.peaks is not None)  # which takes longer than to mix
    assert forward.output is None and opened.session.trace is opened.session.peaks
    opened.player.play()
    assert not opened.player.engine().audioOutput().isMuted()


def test_a_recording_that_takes_its_place_gets_a_voice_of_its_own(opened, forward, podcast, tmp_path, qtbot):
    opened.commands.run("voice_forward")
    qtbot.waitUntil(lambda: forward.output is not None)
    other = tmp_path / "other.wav"
    shutil.copy(podcast, other)
    list(read_sound(probe(other)))
    opened.session.relink(probe(other))
    qtbot.waitUntil(lambda: forward.mixed[0] == str(other))
    opened.commands.run("undo")
    qtbot.waitUntil(lambda: forward.mixed[0] == str(podcast))
    assert forward.on


def test_a_cut_plays_over_it_and_the_recording_after_it_again(opened, forward, qtbot):
    from dubrel.model import Cut, CutPassage

    opened.commands.run("voice_forward")
    qtbot.waitUntil(lambda: forward.output is not None)
    opened.player.play()
    player = opened.rooms["cut"].player
    assert player.play(Cut(1, "Cut", (CutPassage(0, 1000), CutPassage(3000, 5000))), 0)
    assert not forward.output.tick.isActive()
    opened.player.play()
    assert forward.output.tick.isActive() and not player.playing


def test_a_recording_without_sound_says_so(window, forward, tmp_path):
    import av

    path = tmp_path / "mute.mp4"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("mpeg4", rate=Fraction(25))
        stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
        for _ in range(25):
            out.mux(stream.encode(av.VideoFrame(64, 48, "yuv420p")))
        out.mux(stream.encode())
    window.filing.open_path(project_of(tmp_path / "mute.dubrel", path))
    window.commands.run("voice_forward")
    assert window.message.text() == "The recording has no sound."
    assert not forward.row.isEnabled()


def test_a_cache_that_was_emptied_is_filled_first(window, forward, podcast, tmp_path, qtbot):
    other = tmp_path / "fresh.wav"
    shutil.copy(podcast, other)
    window.filing.open_path(project_of(tmp_path / "fresh.dubrel", other))
    window.commands.run("voice_forward")
    assert window.message.text() == "The sound is read first; then the voice comes forward."
    qtbot.waitUntil(lambda: forward.output is not None and forward.ahead.track.count > 0)
    assert LONG_S > PIECE_S


def test_a_cache_that_is_emptied_meanwhile_ends_it_with_a_sentence(opened, forward, qtbot):
    from dubrel.base.folders import cache_root

    opened.commands.run("voice_forward")
    qtbot.waitUntil(lambda: forward.output is not None)
    for name in cache_root().glob("*/forward-48k*"):
        name.unlink()
    forward.ahead.track.done.fill(0)
    qtbot.waitUntil(lambda: not forward.on)
    assert opened.message.text().startswith("The cache was emptied in the meantime.")
    assert not opened.player.engine().audioOutput().isMuted()
