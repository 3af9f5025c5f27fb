"""A file with several sound tracks: one is chosen, or several are mixed, everywhere the same."""

import av
import numpy as np
import pytest
import soxr
from conftest import DEMO

from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.cli.common import tracks_of
from dubrel.film.soundtracks.cutsound import write_sound
from dubrel.media.cache import sound_path
from dubrel.media.probe import probe, sound_tracks
from dubrel.media.sound import RATE, decode_blocks, read_sound, samples_of
from dubrel.media.soundreader import SoundReader
from dubrel.model import Project
from dubrel.store.projectfile import open_project, save

RATES = (48_000, 44_100, 48_000)
TONES = (300, 700, 1100)


@pytest.fixture(scope="module")
def several(tmp_path_factory):
    """Three tracks: an English mix, a German one, a commentary; a tone each."""
    path = tmp_path_factory.mktemp("several") / "several.mkv"
    with av.open(str(path), "w") as out:
        streams = []
        for rate, language, title in zip(
            RATES, ("eng", "ger", "eng"), ("", "Fassung", "Commentary"), strict=True
        ):
            stream = out.add_stream("flac", rate=rate, layout="mono")
            stream.metadata["language"] = language
            if title:
                stream.metadata["title"] = title
            streams.append(stream)
        for stream, rate, tone in zip(streams, RATES, TONES, strict=True):
            sound = (0.2 * np.sin(2 * np.pi * tone * np.arange(4 * rate) / rate) * 32767).astype(np.int16)
            for at in range(0, len(sound), 4096):
                frame = av.AudioFrame.from_ndarray(sound[None, at : at + 4096], "s16", "mono")
                frame.sample_rate, frame.pts = rate, at
                out.mux(stream.encode(frame))
            out.mux(stream.encode(None))
    return path


def tones(sound, rate):
    """Which of the tones are heard, as shares of the loudest."""
    found = np.abs(np.fft.rfft(sound[rate // 2 : rate * 5 // 2] * np.hanning(2 * rate)))
    levels = np.array([found[2 * tone - 4 : 2 * tone + 5].max() for tone in TONES])
    return (levels / levels.max() > 0.3).tolist()


def test_the_tracks_are_named_by_language_and_title(several):
    assert [one.said(nth) for nth, one in enumerate(sound_tracks(several), 1)] == [
        "Track 1: English, mono",
        "Track 2: German, “Fassung”, mono",
        "Track 3: English, “Commentary”, mono",
    ]


@pytest.mark.parametrize("chosen", [(), (1,), (2,), (0, 2), (0, 1, 2)])
def test_what_is_read_for_the_machine_and_for_the_ear_is_what_was_chosen(several, chosen):
    media = replace(probe(several), sound=chosen)
    list(read_sound(media))
    meant = [nth in (chosen or (0,)) for nth in range(3)]
    assert tones(samples_of(media).astype(float), RATE) == meant
    reader = SoundReader(several, tracks=chosen)
    assert tones(reader.read(0, 3 * reader.rate)[0], reader.rate) == meant
    reader.close()
    assert sound_path(media) != sound_path(replace(media, sound=(0, 1))) or chosen == (0, 1)


def test_a_file_with_fewer_tracks_in_its_place_is_read_as_far_as_it_goes(several):
    for chosen, meant in (((7,), [True, False, False]), ((1, 7), [False, True, False])):
        media = replace(probe(several), sound=chosen)
        list(read_sound(media))
        assert tones(samples_of(media).astype(float), RATE) == meant


def test_a_cut_sounds_as_what_was_chosen(several, tmp_path):
    from fractions import Fraction

    from dubrel.model import Cut, CutPassage
    from dubrel.release.cutfiles import parts_of

    parts = parts_of(Cut(1, "c", (CutPassage(0, 3000),)), None)
    target = tmp_path / "cut.wav"
    list(write_sound(several, target, parts, ".wav", (1, 2)))
    reader = SoundReader(target)
    assert tones(reader.read(0, 3 * reader.rate)[0], reader.rate) == [False, True, True]
    assert Fraction(reader.rate) == 44_100


@pytest.mark.parametrize(
    ("wanted", "found"), [("", ()), ("1", ()), ("2", (1,)), ("1+3", (0, 2)), ("all", (0, 1, 2)), ("de", (1,))]
)
def test_the_command_line_says_which_one_it_took(several, capsys, wanted, found):
    assert tracks_of(several, wanted, quiet=False) == found
    assert capsys.readouterr().err.startswith("dubrel: several.mkv: Track ")


@pytest.mark.parametrize("wanted", ["4", "0", "fr", "1+9", "x"])
def test_one_that_is_not_there_is_said_with_those_that_are(several, tmp_path, capsys, wanted):
    assert main(["transcribe", str(several), "-o", str(tmp_path / "o.srt"), "--track", wanted]) == 2
    said = capsys.readouterr().err
    assert f"has no sound track “{wanted}”" in said and "Track 2: German" in said


def test_a_second_track_is_transcribed(tmp_path):
    film = tmp_path / "two.mkv"
    speech = np.concatenate(list(decode_blocks(DEMO / "heron-film.mp4")))[: 20 * RATE]
    with av.open(str(film), "w") as out:
        streams = [out.add_stream("flac", rate=RATE, layout="mono") for _ in range(2)]
        for stream, sound in zip(streams, (np.zeros_like(speech), speech), strict=True):
            for at in range(0, len(sound), 4096):
                frame = av.AudioFrame.from_ndarray(sound[None, at : at + 4096], "s16", "mono")
                frame.sample_rate, frame.pts = RATE, at
                out.mux(stream.encode(frame))
            out.mux(stream.encode(None))
    target = tmp_path / "out.dubrel"
    assert main(["transcribe", str(film), "-o", str(target), "--track=2", "--quiet"]) == 0
    project = open_project(target)
    assert project.media.sound == (1,) and project.transcript.word_count > 15
    save(project, target)
    assert open_project(target).media.sound == (1,)


def test_a_project_file_that_names_a_track_that_is_not_there_is_read(several, tmp_path):
    path = tmp_path / "p.dubrel"
    save(Project(media=replace(probe(several), sound=(1, 7))), path)
    assert open_project(path).media.sound == (1,)


def test_the_window_chooses_plays_draws_and_undoes(window, several, qtbot):
    window.filing.open_path(several)
    qtbot.waitUntil(lambda: window.session.peaks is not None)
    first = window.session.peaks
    asked = []
    window.dialogs.sound_tracks = lambda tracks, chosen: asked.append((len(tracks), chosen)) or (1,)
    window.commands.run("sound_tracks")
    assert asked == [(3, ())] and window.session.project.media.sound == (1,)
    assert window.message.text() == "Track 2: German, “Fassung”, mono."
    qtbot.waitUntil(lambda: window.session.peaks not in (None, first))
    assert window.player.track == 1
    window.commands.run("undo")
    qtbot.waitUntil(lambda: window.session.peaks is not None)
    assert window.session.project.media.sound == () and window.player.track == 0


def test_the_dialog_mixes_what_is_ticked(window, several):
    from dubrel.desk.intake.dialogs.soundtracks import SoundTracksDialog

    dialog = SoundTracksDialog(sound_tracks(several), (), window)
    assert dialog.chosen == () and dialog.go.text() == "Use it"
    dialog.boxes[2].setChecked(True)
    assert dialog.chosen == (0, 2) and dialog.go.text() == "Mix them"
    dialog.boxes[0].setChecked(False)
    dialog.boxes[2].setChecked(False)
    assert not dialog.go.isEnabled()


def test_resampled_and_mixed_stays_in_step(several):
    mixed = SoundReader(several, tracks=(0, 1))
    plain = soxr.resample(SoundReader(several, tracks=(1,)).read(0, 44_100)[0], 44_100, 48_000)
    both = mixed.read(0, 48_000)[0] - SoundReader(several).read(0, 48_000)[0]
    inside = slice(2000, 46_000)
    assert np.corrcoef(both[inside], plain[inside])[0, 1] > 0.99
