"""Texts spoken in the time that they have: real voices, fitted, mixed, written, read back by others."""

import sys
from pathlib import Path

import av
import numpy as np
import pytest
import soxr
from conftest import DEMO
from recordings import part_of, write_wav
from samples import beginning

from dubrel.base.errors import EngineError
from dubrel.base.helper import EngineProcess
from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.film.order import Speaking, SpokenLine
from dubrel.film.soundtracks.spokensound import ducking, kept, spoken_over
from dubrel.formats.register import read_file
from dubrel.jobs.machinery.events import LinesSpoken, Progress
from dubrel.jobs.voice.speaking import lines_said, speak_lines, voice_samples
from dubrel.media.loudness import measured
from dubrel.media.probe import probe
from dubrel.release.spokenlines import speaking_of
from dubrel.speech.speaking.engines import Said, say, voice_for
from dubrel.speech.speaking.fitting import GAP_MS, fitted
from dubrel.speech.speaking.stretching import RATE, at_pace, trimmed
from dubrel.store.projectfile import open_project, save


@pytest.fixture(scope="module")
def process():
    made = EngineProcess("The voice", "Choose another voice.")
    yield made
    made.close()


def tone_voice(text):
    """A voice that takes a tenth of a second for each letter, with silence around it."""
    length = len(text) / 10
    time = np.arange(round(length * 16_000)) / 16_000
    sound = np.sin(2 * np.pi * 300 * time) * 0.4
    words = text.split()
    step = length / len(words)
    times = tuple((0.2 + step * k, 0.2 + step * (k + 1)) for k in range(len(words)))
    return Said(np.pad(sound, (3200, 4800)).astype(np.float32), 16_000, times)


def placed(lines, fastest=1.25):
    return [(one, sound) for one, sound in fitted(lines, tone_voice, fastest)]


def test_a_line_that_fits_is_spoken_as_it_is_at_its_time():
    [(one, sound)] = placed([SpokenLine(1, 2000, 5000, "ten signs!")])
    assert (one.start_ms, one.pace, one.over_ms, one.late_ms, one.shorter) == (2000, 1.0, 0, 0, False)
    assert abs(one.end_ms - 3000) < 60
    assert np.flatnonzero(np.abs(sound) > 0.01)[0] < 0.02 * RATE
    assert one.words[0][1] - 2000 < 20 and one.words[-1][2] <= one.end_ms


def test_one_that_is_too_long_is_spoken_faster_and_ends_before_the_next():
    lines = [SpokenLine(1, 0, 1900, "twenty signs in here"), SpokenLine(2, 1900, 9000, "next")]
    (one, sound), (two, _) = placed(lines)
    assert 1.05 < one.pace < 1.2
    assert one.over_ms == 0 and one.end_ms <= 1900 - GAP_MS + 1 and len(sound) <= 1.9 * RATE
    assert (two.start_ms, two.late_ms) == (1900, 0)


def test_then_in_the_shorter_reading_that_changes_least():
    long = "thirty signs and some more here"
    line = SpokenLine(1, 0, 2000, long, ("thirty signs and some more", "twenty signs in here", "ten signs!"))
    [(one, _)] = placed([line])
    assert (one.text, one.shorter, one.over_ms) == ("twenty signs in here", True, 0)


def test_then_it_is_said_by_how_much_and_the_next_waits():
    lines = [SpokenLine(1, 0, 1000, "thirty signs and some more here"), SpokenLine(2, 1000, 9000, "next")]
    (one, sound), (two, _) = placed(lines)
    assert one.pace == 1.25
    assert abs(one.over_ms - (len(sound) * 1000 / RATE - 1000 + GAP_MS)) <= 1
    assert two.start_ms == one.end_ms + GAP_MS and two.late_ms == two.start_ms - 1000
    [said] = lines_said([one, two])
    assert said.startswith("1 line too long for the time: at 00:00:00.0 by 1.") and "Shorten" in said


def test_what_no_voice_can_say_is_said():
    found = [one for one, _ in placed([SpokenLine(1, 500, 900, "♪ … —"), SpokenLine(2, 1000, 9000, "yes")])]
    assert [bool(one.why_not) for one in found] == [True, False]
    assert lines_said(found) == ["1 line with nothing that a voice can say, at 00:00:00.5."]


@pytest.mark.parametrize(("pace", "semitones"), [(1.0, 0), (1.3, 0), (1.0, -5), (1.2, 4.5)])
def test_pace_and_pitch_are_what_was_asked_for(pace, semitones):
    tone = np.sin(2 * np.pi * 400 * np.arange(24_000 * 2) / 24_000).astype(np.float32)
    made = at_pace(tone, 24_000, pace, semitones)
    assert abs(len(made) - 2 * RATE / pace) <= 2
    middle = made[RATE // 4 : RATE // 4 + RATE // 2] * np.hanning(RATE // 2)
    found = np.abs(np.fft.rfft(middle)).argmax() * 2
    assert found == pytest.approx(400 * 2 ** (semitones / 12), rel=0.01)


@pytest.mark.parametrize(
    ("language", "text"),
    [
        ("en", "On the 3rd of March, 12 boats came."),
        ("pt", "Eram 12 barcos no canal."),
        ("ar", "مرحبا بكم في القناة القديمة."),
        ("he", "ברוכים הבאים לתעלה."),
    ],
)
def test_real_voices_speak_and_tell_when_each_word_is_said(process, language, text):
    said = process.call(say, voice_for("auto", language), text, language)
    length = len(said.samples) / said.rate
    assert length > 0.8 and np.abs(said.samples).max() > 0.05
    assert len(said.times) == len(text.split())
    times = [one for one in said.times if one]
    assert all(a <= b <= length + 0.05 for a, b in times)
    assert all(b[0] >= a[0] for a, b in zip(times, times[1:]))


def test_a_figure_is_spoken_as_the_language_does(process):
    short, long = (process.call(say, "english", text, "en") for text in ("12", "1,281"))
    assert len(trimmed(long.samples, long.rate)[0]) > 1.8 * len(trimmed(short.samples, short.rate)[0])


def test_a_language_without_a_voice_and_a_voice_that_is_none_are_said():
    with pytest.raises(EngineError, match="No voice here speaks"):
        voice_for("auto", "akk")
    with pytest.raises(EngineError, match="does not speak Portuguese"):
        voice_for("english", "pt")
    with pytest.raises(EngineError, match="There is no voice “loud”"):
        voice_for("loud", "en")


def test_every_line_of_the_demo_starts_at_its_time_and_none_lies_over_another(tmp_path, monkeypatch):
    monkeypatch.setenv("DUBREL_CACHE", str(tmp_path))  # other tests let the same lines be spoken
    project = open_project(DEMO / "slow-water-7.dubrel")
    track = next(one for one in project.tracks if not one.spoken)
    speaking = speaking_of(project, track, {})
    assert len({one.semitones for one in speaking.lines}) == 3  # each person with a pitch of its own
    events = list(speak_lines(speaking))
    found = events[-1]
    assert isinstance(found, LinesSpoken) and any(isinstance(one, Progress) for one in events)
    voice = voice_samples(found.path).astype(np.float32)
    for line, meant in zip(found.lines, speaking.lines, strict=True):
        around = np.abs(voice[(line.start_ms - 40) * 48 : (line.start_ms + 200) * 48])
        heard = np.flatnonzero(around > 150)[0] / 48 - 40
        assert line.start_ms == meant.start_ms + line.late_ms
        assert -5 <= heard <= 60, line
    assert all(b.start_ms >= a.end_ms + GAP_MS for a, b in zip(found.lines, found.lines[1:]))
    again = list(speak_lines(speaking))
    assert again == [found]


def test_the_recording_goes_down_while_it_is_spoken_and_stays_down_between_close_lines():
    times, levels = ducking([(1000, 2000), (2400, 3000), (8000, 9000)], 12, 250)
    gains = kept(times, levels, 0, 10 * RATE)
    at = lambda ms: 20 * np.log10(gains[round(ms * 48)])  # noqa: E731
    assert at(500) == 0 and at(1000) == pytest.approx(-12, abs=0.1)
    assert at(2200) == pytest.approx(-12, abs=0.1)
    assert at(875) == pytest.approx(-6, abs=0.2)
    assert at(5000) == 0 and at(8500) == pytest.approx(-12, abs=0.1)


def test_what_is_mixed_is_the_sum_of_both(tmp_path):
    sound = 0.2 * np.sin(2 * np.pi * 200 * np.arange(3 * 16_000) / 16_000)
    path = write_wav(tmp_path / "low.wav", sound)
    voice = np.zeros(4 * RATE, np.int16)
    voice[RATE : 2 * RATE] = 3000
    made = np.concatenate(list(spoken_over(path, 3000, voice, [(1000, 2000)], 20, 100)), axis=1)
    assert made.shape[1] == 4 * RATE  # the last line may end after the recording
    assert made[0, round(1.5 * RATE) : round(1.6 * RATE)].mean() == pytest.approx(3000 / 32768, abs=0.01)
    swing = lambda a, b: np.ptp(made[0, round(a * RATE) : round(b * RATE)])  # noqa: E731
    assert swing(1.3, 1.7) == pytest.approx(swing(0.2, 0.6) / 10, rel=0.1)


def test_the_command_line_writes_it_over_the_recording_with_captions_of_its_own(tmp_path, capsys):
    out, captions = tmp_path / "pt.wav", tmp_path / "pt.srt"
    part = part_of(DEMO / "slow-water-7.opus", tmp_path / "part.wav", 34)
    begun = beginning(open_project(DEMO / "slow-water-7.dubrel"), 3)
    save(replace(begun, media=probe(part)), tmp_path / "part.dubrel")
    order = ["speak", str(tmp_path / "part.dubrel"), "-o", str(out), "--language", "pt", "--loudness=-23"]
    assert main([*order, "--captions", str(captions), "--quiet"]) == 0
    with av.open(str(out)) as file:
        shaped = av.AudioResampler("fltp", "mono", RATE)
        blocks = [part.to_ndarray() for frame in file.decode(audio=0) for part in shaped.resample(frame)]
    loudness, peak = measured(blocks, RATE)
    assert abs(loudness + 23) < 1 and peak < -1
    project = read_file(captions).project
    assert project.captions.captions[0].start_ms == pytest.approx(3427, abs=60)
    assert main(["check", str(captions)]) in (0, 1)
    assert "overlap" not in capsys.readouterr().out


def test_a_film_gets_a_further_sound_track_with_its_language(scene, tmp_path):
    film, out = scene, tmp_path / "spoken.mp4"
    captions = tmp_path / "de.srt"
    captions.write_text("1\n00:00:03,000 --> 00:00:05,000\nDas ist das alte Boot im Kanal.\n", "utf-8")
    assert main(["speak", str(captions), "--media", str(film), "-o", str(out), "--quiet"]) == 0
    with av.open(str(out)) as made, av.open(str(film)) as was:
        assert [one.type for one in made.streams] == ["video", "audio", "audio"]
        assert made.streams.audio[1].metadata["language"] == "deu"
        assert "German" in made.streams.audio[1].metadata["name"]
        assert [bytes(p) for p in made.demux(video=0)] == [bytes(p) for p in was.demux(video=0)]
    with av.open(str(out)) as made:
        shaped = av.AudioResampler("fltp", "mono", 16_000)
        parts = [p.to_ndarray()[0] for f in made.decode(audio=1) for p in shaped.resample(f)]
    whole = np.concatenate(parts)
    shaped = av.AudioResampler("fltp", "mono", 16_000)
    with av.open(str(film)) as was:
        parts = [p.to_ndarray()[0] for f in was.decode(audio=0) for p in shaped.resample(f)]
    before = np.concatenate(parts)
    same = slice(8 * 16_000, 12 * 16_000)  # where nobody speaks over it
    assert np.corrcoef(whole[same], before[same])[0, 1] > 0.95


def test_a_silent_film_is_described(tmp_path):
    film, captions, out = tmp_path / "mute.mp4", tmp_path / "said.srt", tmp_path / "out.mp4"
    with av.open(str(film), "w") as made:
        stream = made.add_stream("mpeg4", rate=25)
        stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
        for _ in range(100):
            made.mux(stream.encode(av.VideoFrame(64, 48, "yuv420p")))
        made.mux(stream.encode())
    captions.write_text("1\n00:00:01,000 --> 00:00:03,000\nA boat drifts by.\n", "utf-8")
    assert (
        main(["speak", str(captions), "--media", str(film), "-o", str(out), "--quiet", "--language=en"]) == 0
    )
    assert [one.type for one in av.open(str(out)).streams] == ["video", "audio"]
    assert probe(out).duration_ms == pytest.approx(4000, abs=100)


@pytest.mark.parametrize(
    ("options", "said"),
    [
        (["-o", "out.txt"], "Known suffixes"),
        (["-o", "out.wav", "--fastest", "9"], "--fastest is how many times"),
        (["-o", "out.wav", "--under", "loud"], "--under is wrong"),
        (["-o", "out.mp4", "--language=en"], "There is no film"),
        (["-o", "out.wav"], "The language of “said.srt” cannot be told"),
        (["-o", "out.wav", "--language=akk"], "No voice here speaks Akkadian"),
        (["-o", "out.wav", "--language=en", "--voice=folder:nowhere"], "holds no voice"),
    ],
)
def test_bad_orders_are_one_sentence(tmp_path, monkeypatch, capsys, options, said):
    monkeypatch.chdir(tmp_path)
    Path("said.srt").write_text("1\n00:00:01,000 --> 00:00:03,000\nA boat.\n", "utf-8")
    assert main(["speak", "said.srt", "--quiet", *options]) == 2
    assert said in capsys.readouterr().err
    assert not list(tmp_path.glob("out.*"))


def test_a_process_that_dies_is_started_again_and_then_said(process):
    with pytest.raises(EngineError, match="The voice stopped unexpectedly"):
        process.call(_die)
    assert len(process.call(say, "formant", "once more", "en").samples)


def _die():
    import os
    import signal

    os.kill(os.getpid(), signal.SIGKILL)


def test_a_folder_with_a_voice_is_read_by_the_package_that_knows_it(tmp_path, monkeypatch):
    """The package is not shipped: one of the same interface stands in, in this process."""
    (tmp_path / "voice.onnx").write_bytes(b"\0")
    (tmp_path / "voice.onnx.json").write_text('{"language": {"code": "cs_CZ"}}')
    name = f"folder:{tmp_path}"
    assert voice_for(name, "cs") == name
    with pytest.raises(EngineError, match="does not speak"):
        voice_for(name, "en")
    monkeypatch.setitem(sys.modules, "piper", None)
    with pytest.raises(EngineError, match="pip install piper-tts"):
        say(name, "Ahoj.", "cs")


def test_the_first_words_are_where_the_aligner_hears_them(process):
    said = process.call(say, "english", "The canal was empty in the morning.", "en")
    sound = soxr.resample(said.samples, said.rate, 16_000)
    first = np.flatnonzero(np.abs(sound) > 0.03)[0] / 16_000
    assert said.times[0][0] == pytest.approx(first, abs=0.06)


def test_speaking_again_by_another_limit_takes_what_was_said_from_the_cache(monkeypatch):
    lines = (SpokenLine(1, 0, 3000, "The same words again."),)
    list(speak_lines(Speaking("formant", "en", "t", lines, 1.25)))
    monkeypatch.setattr(EngineProcess, "call", lambda *_: pytest.fail("spoken twice"))
    [found] = [
        e for e in speak_lines(Speaking("formant", "en", "t", lines, 1.0)) if isinstance(e, LinesSpoken)
    ]
    assert found.lines[0].text == "The same words again."


# -- a service -------------------------------------------------------------------------------------------


@pytest.fixture
def voice_service(monkeypatch):
    """A voice service on the loopback, to which the user has agreed, asked in this process."""
    import threading

    from dubrel.base import http_client
    from dubrel.base.value import replace
    from dubrel.speech.speaking import engines, voice_service
    from dubrel.standins.voice import StandIn
    from dubrel.user.settings import SETTINGS

    monkeypatch.setattr(http_client, "_FIRST_WAIT_S", 0.01)
    engines.loaded.cache_clear()
    voice_service.languages_of.cache_clear()
    server = StandIn()
    threading.Thread(target=server.serve_forever, daemon=True).start()
    SETTINGS.write(replace(SETTINGS.read(), consented=(voice_service.consent_name(server.address),)))
    yield server
    server.shutdown()
    server.server_close()


@pytest.mark.parametrize("fault", ["none", "slow", "error", "drop", "garbage", "times", "silent"])
def test_a_service_speaks_through_every_fault_of_the_line(voice_service, fault):
    name = f"remote:{voice_service.address}"
    assert voice_for(name, "pt") == name
    voice_service.set_fault(fault)
    said = say(name, "Bom dia a todos.", "pt")
    assert len(said.samples) / said.rate > 0.6 and len(said.times) == 4
    assert voice_service.received[-1] == "Bom dia a todos."


def test_nothing_is_sent_to_a_service_before_the_user_agrees(voice_service):
    from dubrel.base.value import replace
    from dubrel.user.settings import SETTINGS

    SETTINGS.write(replace(SETTINGS.read(), consented=()))
    with pytest.raises(EngineError, match="you have not agreed"):
        say(f"remote:{voice_service.address}", "Bom dia.", "pt")
    assert voice_service.received == []
    with pytest.raises(EngineError, match="does not speak Czech"):
        voice_for(f"remote:{voice_service.address}", "cs")
