"""The voice of a noisy recording brought forward: cleaner, as loud as wished, at its own times."""

import shutil

import av
import numpy as np
import pytest
import soxr
from conftest import DEMO
from recordings import cut_short, write_wav

from dubrel.cli import main
from dubrel.desk.ears.voicemix import BroughtForward, VoiceMix
from dubrel.film.soundtracks.forwardsound import mixed
from dubrel.jobs.voice.forwarding import bring_forward, make_piece
from dubrel.media.cache import sound_path
from dubrel.media.forwardtrack import PIECE, RATE, ForwardTrack
from dubrel.media.loudness import measured
from dubrel.media.probe import probe
from dubrel.media.sound import decode_blocks, samples_in
from dubrel.media.soundreader import SoundReader
from dubrel.speech.sound.enhancer import DELAY, Enhancer

CLEAN_S = 12


@pytest.fixture(scope="module")
def clean():
    """Twelve seconds of the demo podcast, at 48 kHz."""
    sound = np.concatenate(list(decode_blocks(DEMO / "slow-water-7.opus")))[3 * 16_000 :]
    return soxr.resample(sound[: CLEAN_S * 16_000].astype(np.float32) / 32768, 16_000, RATE)


@pytest.fixture(scope="module")
def noisy(clean, tmp_path_factory):
    """The same with noise 5 dB under it, at a rate that is not the engine's, with its pieces made."""
    random = np.random.default_rng(5)
    noise = random.standard_normal(len(clean)).astype(np.float32)
    noise *= np.sqrt((clean**2).mean() / (noise**2).mean()) * 10 ** (-5 / 20)
    sound = soxr.resample(0.5 * (clean + noise), RATE, 44_100)
    path = write_wav(tmp_path_factory.mktemp("noisy") / "noisy.wav", sound, 44_100)
    list(bring_forward(probe(path)))
    return path


def lag(one, other, most=4800):
    """By how many samples one sound stands behind another."""
    size = 1 << (len(one) + len(other)).bit_length()
    match = np.fft.irfft(np.fft.rfft(one, size) * np.conj(np.fft.rfft(other, size)))
    around = np.concatenate([match[-most:], match[: most + 1]])
    return int(around.argmax()) - most


def test_the_engine_says_the_same_later_by_what_is_documented(clean):
    engine = Enhancer()
    made = engine.feed(clean[: 6 * RATE])
    assert lag(made[RATE:], clean[RATE : 6 * RATE]) == DELAY


def test_noise_goes_the_voice_stays_and_nothing_shifts(noisy, clean):
    track = ForwardTrack(probe(noisy))
    assert track.whole and track.missing(0, 10) is None
    voice = track.read(0, len(clean))
    assert abs(lag(voice, clean)) <= 1
    before = next(mixed(noisy, 1000 * CLEAN_S, 0, None))[0]
    tenths = RATE // 20
    power = [(one[: 4 * RATE].reshape(-1, tenths) ** 2).mean(axis=1) for one in (clean, before, voice)]
    pauses = power[0] < np.percentile(power[0], 10)
    assert 10 * np.log10(power[1][pauses].mean() / power[2][pauses].mean()) > 15
    low = [soxr.resample(one, RATE, 16_000) for one in (voice, clean)]
    assert np.corrcoef(*low)[0, 1] > 0.9


def test_a_piece_made_by_itself_is_the_one_made_in_order(noisy, tmp_path):
    other = tmp_path / "again.wav"
    shutil.copy(noisy, other)
    from dubrel.media.sound import read_sound

    list(read_sound(probe(other)))
    make_piece(probe(other), 1)
    alone, whole = ForwardTrack(probe(other)), ForwardTrack(probe(noisy))
    assert alone.made == [1] and not alone.whole
    there = alone.there(PIECE - 2, PIECE + 2)
    assert there.tolist() == [False, False, True, True]
    ours, theirs = (one.read(PIECE, PIECE + RATE) for one in (alone, whole))
    assert np.corrcoef(ours, theirs)[0, 1] > 0.99


@pytest.mark.parametrize(("suffix", "loudness"), [(".wav", -16), (".mp3", -23)])
def test_a_sound_file_is_as_loud_as_wished_and_clips_nowhere(noisy, tmp_path, suffix, loudness):
    out = tmp_path / f"out{suffix}"
    assert main(["forward", str(noisy), "-o", str(out), f"--loudness={loudness}"]) == 0
    with av.open(str(out)) as file:
        blocks = [frame.to_ndarray() for frame in _floats(file)]
    found, peak = measured(blocks, RATE)
    assert abs(found - loudness) < 1 and peak < -1
    assert abs(sum(block.shape[1] for block in blocks) / RATE - CLEAN_S) < 0.1


def _floats(file):
    shaped = av.AudioResampler("fltp", "mono", RATE)
    for frame in file.decode(audio=0):
        yield from shaped.resample(frame)


def test_a_film_keeps_its_picture_and_its_times(tmp_path):
    film, out = tmp_path / "short.mp4", tmp_path / "forward.mp4"
    cut_short(DEMO / "heron-film.mp4", film, 6)
    assert main(["forward", str(film), "-o", str(out), "--amount=100"]) == 0
    with av.open(str(film)) as was, av.open(str(out)) as now:
        assert [bytes(p) for p in was.demux(video=0)] == [bytes(p) for p in now.demux(video=0)]
    before, after = (SoundReader(one).read(0, 5 * 44_100).mean(axis=0) for one in (film, out))
    rates = [SoundReader(one).rate for one in (film, out)]
    before, after = (soxr.resample(s, r, RATE) for s, r in zip((before, after), rates, strict=True))
    assert abs(lag(after, before)) <= RATE // 1000


def taken(mix, count):
    got = []
    while count:
        block = mix.take(min(count, 480))
        got.append(block)
        count -= len(block)
    return np.concatenate(got)


@pytest.fixture
def mix(noisy):
    media = probe(noisy)
    made = VoiceMix(noisy, samples_in(sound_path(media)), BroughtForward(ForwardTrack(media)))
    yield made
    made.close()


def test_what_is_mixed_stands_at_its_time_whatever_is_brought_forward(mix, noisy):
    original = next(mixed(noisy, 1000 * CLEAN_S, 0, None))[0]
    voice = ForwardTrack(probe(noisy)).read(0, 5 * RATE)
    for ms in (0, 1003, 2500, 500):
        first = ms * RATE // 1000
        mix.amount = 0.0
        mix.start(ms, 1.0)
        taken(mix, RATE // 10)
        plain = taken(mix, RATE)[:, 0]
        assert lag(plain, original[first + RATE // 10 : first + RATE * 11 // 10]) == 0
        mix.amount = 1.0
        taken(mix, RATE // 10)
        forward = taken(mix, RATE)[:, 0]
        place = first + RATE * 12 // 10
        assert lag(forward, voice[place : place + RATE]) == 0


def test_bringing_forward_while_it_plays_leaves_no_gap_and_no_jump(mix):
    mix.start(2000, 1.0)
    before = taken(mix, RATE)
    mix.amount = 1.0
    after = taken(mix, RATE)
    both = np.concatenate([before, after])[:, 0]
    assert len(both) == 2 * RATE
    usual = np.abs(np.diff(before[:, 0])).max()
    assert np.abs(np.diff(both[RATE - 50 : RATE + 1200])).max() <= 2 * usual


def test_at_another_speed_both_keep_together(mix):
    mix.start(1000, 2.0)
    fast = taken(mix, 3 * RATE)
    mix.start(1000, 1.0)
    plain = taken(mix, 6 * RATE)
    shape = [np.abs(s[:, 0]) for s in (fast, plain)]
    slow = np.sqrt((shape[1] ** 2).reshape(-1, 4800).mean(axis=1))
    quick = np.sqrt((shape[0] ** 2).reshape(-1, 2400).mean(axis=1))
    assert np.corrcoef(slow, quick)[0, 1] > 0.9


@pytest.mark.parametrize(
    ("sound", "rate"),
    [
        (np.sign(np.sin(np.arange(20_000) / 9)), 8_000),
        (np.zeros((6, 96_000)), 48_000),
    ],
)
def test_odd_sound_is_brought_forward_without_complaint(tmp_path, sound, rate):
    path = write_wav(tmp_path / "odd.wav", sound, rate)
    out = tmp_path / "out.flac"
    assert main(["forward", str(path), "-o", str(out), "--loudness=-16"]) == 0
    assert probe(out).duration_ms == pytest.approx(probe(path).duration_ms, abs=60)


def test_a_recording_without_sound_is_said(tmp_path, capsys):
    path = tmp_path / "mute.mp4"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("mpeg4", rate=25)
        stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
        for _ in range(25):
            out.mux(stream.encode(av.VideoFrame(64, 48, "yuv420p")))
        out.mux(stream.encode())
    assert main(["forward", str(path), "-o", str(tmp_path / "out.wav")]) == 2
    assert "no sound" in capsys.readouterr().err
    assert not (tmp_path / "out.wav").exists()
