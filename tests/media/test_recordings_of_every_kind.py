"""Recordings of every kind, whole and broken."""

from fractions import Fraction

import av
import numpy as np
import pytest
from recordings import SOUND, tone, write_media

from dubrel.base.errors import MediaError
from dubrel.media.fingerprint import content_digest
from dubrel.media.peaks import BLOCKS_A_SECOND, PeakBuilder, Peaks
from dubrel.media.probe import probe
from dubrel.media.sound import RATE, decode_blocks, decoded_ms, read_sound, samples_of


def clicks(samples):
    """Where the clicks are, in milliseconds."""
    loud = np.flatnonzero(np.abs(samples.astype(float)) > 12_000)
    starts = loud[np.concatenate([[True], np.diff(loud) > RATE // 10])]
    return [round(at * 1000 / RATE) for at in starts]


@pytest.mark.parametrize("name", list(SOUND))
def test_every_sound_format_is_read_in_time(tmp_path, name):
    media = probe(write_media(tmp_path / name, layout="stereo"))
    assert media.channels == 2 and media.sample_rate == 48_000 and not media.has_video
    assert media.duration_ms == pytest.approx(3200, abs=120)
    list(read_sound(media))
    assert clicks(np.array(samples_of(media))) == pytest.approx([1000, 2000, 3000], abs=60)
    assert Peaks(np.load(_peaks(media))).duration_ms == pytest.approx(3200, abs=120)


def _peaks(media):
    from dubrel.media.cache import peaks_path

    return peaks_path(media)


@pytest.mark.parametrize(
    ("layout", "rate"), [("5.1", 48_000), ("mono", 8000), ("stereo", 44_100), ("mono", 96_000)]
)
def test_any_channels_and_rate(tmp_path, layout, rate):
    path = write_media(tmp_path / "x.wav", layout=layout, rate=rate, form="wav", codec="pcm_s16le")
    blocks = np.concatenate(list(decode_blocks(path)))
    assert len(blocks) == pytest.approx(3.2 * RATE, abs=40)
    assert clicks(blocks) == pytest.approx([1000, 2000, 3000], abs=2)


@pytest.mark.parametrize(
    ("name", "form", "codec", "rate"),
    [
        ("v.mp4", "mp4", "libx264", "30000/1001"),
        ("v.mov", "mov", "libx264", "25"),
        ("v.mkv", "matroska", "libx264", "24000/1001"),
        ("v.webm", "webm", "libvpx", "30"),
    ],
)
def test_video_has_an_exact_frame_rate(tmp_path, name, form, codec, rate):
    sound = "libopus" if form == "webm" else "aac"
    media = probe(write_media(tmp_path / name, video=(codec, rate), form=form, codec=sound))
    assert media.frame_rate == Fraction(rate)
    assert (media.width, media.height) == (64, 48)
    list(read_sound(media))
    assert clicks(np.array(samples_of(media))) == pytest.approx([1000, 2000, 3000], abs=60)


def test_sound_that_begins_later_than_the_picture_keeps_its_time(tmp_path):
    path = tmp_path / "late.mkv"
    with av.open(str(path), "w") as container:
        pictures = container.add_stream("libx264", rate=25)
        pictures.width, pictures.height, pictures.pix_fmt = 64, 48, "yuv420p"
        stream = container.add_stream("pcm_s16le", rate=RATE, layout="mono")
        for nth in range(75):
            frame = av.VideoFrame.from_ndarray(np.zeros((48, 64, 3), np.uint8), format="rgb24")
            frame.pts, frame.time_base = nth, Fraction(1, 25)
            container.mux(pictures.encode(frame))
        container.mux(pictures.encode(None))
        data = (tone(2.5, RATE, 1) * 32767).astype(np.int16)
        for start in range(0, data.shape[1], 1000):
            part = av.AudioFrame.from_ndarray(data[:, start : start + 1000], format="s16", layout="mono")
            part.rate, part.pts, part.time_base = RATE, start + RATE // 2, Fraction(1, RATE)
            container.mux(stream.encode(part))
        container.mux(stream.encode(None))
    assert clicks(np.concatenate(list(decode_blocks(path)))) == pytest.approx([1500, 2500], abs=5)


def test_a_fingerprint_is_of_the_content(tmp_path):
    path = write_media(tmp_path / "a.wav")
    copy = tmp_path / "ünter 'quotes' \"and\" spaces 猫.wav"
    copy.write_bytes(path.read_bytes())
    assert content_digest(path) == content_digest(copy)
    assert probe(copy).name == copy.name
    copy.write_bytes(path.read_bytes()[:-1] + b"x")
    assert content_digest(path) != content_digest(copy)


def test_bad_recordings_get_one_clear_sentence(tmp_path):
    (tmp_path / "empty.mp3").touch()
    (tmp_path / "text.mp3").write_text("I am no sound.\n" * 200)
    for name, said in (
        ("empty.mp3", "is empty"),
        ("text.mp3", "not a sound or video file"),
        ("gone.wav", "cannot be read"),
    ):
        with pytest.raises(MediaError, match=said) as caught:
            probe(tmp_path / name)
        assert name in str(caught.value) and "\n" not in str(caught.value)


def test_a_video_without_sound(tmp_path):
    path = write_media(tmp_path / "mute.mp4", video=("libx264", "25"), sound=False, form="mp4")
    media = probe(path)
    assert media.has_video and not media.has_audio
    with pytest.raises(MediaError, match="has no sound"):
        list(read_sound(media))


def test_a_recording_cut_off_in_the_middle_is_read_as_far_as_it_goes(tmp_path):
    whole = write_media(tmp_path / "a.mp3", seconds=20)
    path = tmp_path / "cut.mp3"
    path.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    media = probe(path)
    list(read_sound(media))
    assert 8000 < decoded_ms(media) < 12_000


def test_a_file_that_vanishes_before_it_is_read(tmp_path):
    path = write_media(tmp_path / "a.flac")
    media = probe(path)
    path.unlink()
    with pytest.raises(MediaError, match="is not there"):
        list(read_sound(media))


def test_peaks_are_true_at_every_zoom():
    noise = (np.random.default_rng(1).standard_normal(RATE * 40) * 5000).clip(-32768, 32767).astype(np.int16)
    builder = PeakBuilder()
    for start in range(0, len(noise), 7777):
        builder.add(noise[start : start + 7777])
    peaks = Peaks(builder.finish())
    assert peaks.duration_ms == 40_000
    for start, end, count in ((0, 40_000, 1000), (1000, 1100, 40), (12_345, 30_000, 333)):
        found = peaks.columns(start, end, count) * peaks.loudest * 256
        edges = np.linspace(start, end, count + 1) * RATE / 1000
        for k in range(0, count, 7):
            true = noise[int(edges[k]) : max(int(edges[k]) + 1, int(edges[k + 1]))]
            limit = peaks.loudest * 256
            assert found[k, 1] >= min(limit, true.max()) - 512
            assert found[k, 0] <= max(-limit, true.min()) + 512
    assert not peaks.columns(50_000, 60_000, 10).any()
    assert peaks.columns(-1000, 1000, 20)[:9].max() == 0
    assert BLOCKS_A_SECOND == 400


def test_silence_and_nothing_can_be_drawn():
    assert Peaks(np.zeros((0, 2), np.int8)).columns(0, 1000, 5).tolist() == [[0, 0]] * 5
    assert Peaks(np.zeros((10, 2), np.int8)).columns(0, 20, 5).shape == (5, 2)


def test_a_large_file_that_only_calls_itself_mp3_is_refused_without_reading_it_whole(tmp_path):
    import tracemalloc

    path = tmp_path / "junk.mp3"
    with path.open("wb") as file:
        for _ in range(40):
            file.write(b"\0\1" * (1 << 19))
    tracemalloc.start()
    with pytest.raises(MediaError, match="is not a sound or video file"):
        probe(path)
    assert tracemalloc.get_traced_memory()[1] < 8 << 20
    tracemalloc.stop()
