"""A look over a recording before it is transcribed: levels, kinds of sound, channels."""

import numpy as np
import pytest
from recordings import tune, write_wav

from dubrel.jobs.machinery.events import Surveyed
from dubrel.jobs.survey import kept_survey, look_over
from dubrel.media.probe import probe
from dubrel.media.sound import RATE
from dubrel.model import Kind, Project, Survey
from dubrel.speech.sound.survey import are_apart, clipped_seconds, survey


def looked_over(samples):
    *shares, found = survey(samples)
    assert shares == sorted(shares) and shares[-1] <= 1.0
    return found


def test_speech_music_and_silence_are_told_apart_over_time(talk):
    said, silence = talk[0][4 * RATE : 16 * RATE], np.zeros(12 * RATE, np.int16)
    found = looked_over(np.concatenate([tune(12), silence, said]))
    first, middle, last = (found.kinds[start : start + 23] for start in (1, 26, 51))
    assert first.count(Kind.MUSIC) >= 18 and Kind.SPEECH not in first
    assert set(middle) == {Kind.SILENCE}
    assert last.count(Kind.SPEECH) >= 18
    assert found.share(Kind.SILENCE) + found.share(Kind.SPEECH) + found.share(Kind.MUSIC) > 0.9


def test_levels_are_those_of_the_speech_and_of_the_noise(talk):
    quiet = (talk[0][: 20 * RATE] // 10).astype(np.int16)
    loud, soft = looked_over(talk[0][: 20 * RATE]), looked_over(quiet)
    assert loud.speech_db - soft.speech_db == pytest.approx(20, abs=1)
    noise = np.random.default_rng(1).normal(0, 328, 20 * RATE)  # 40 dB below full scale
    noisy = looked_over((np.clip(talk[0][: 20 * RATE] + noise, -32768, 32767)).astype(np.int16))
    assert noisy.floor_db == pytest.approx(-40, abs=1)


def test_only_what_stays_at_full_scale_is_clipped():
    samples = (np.sin(np.arange(10 * RATE) / 20) * 32767).astype(np.int16)
    samples[: 5 * RATE] //= 2
    hot = np.clip(samples.astype(np.int32) * 2, -32768, 32767).astype(np.int16)
    hot[: 5 * RATE] = samples[: 5 * RATE]
    assert clipped_seconds(hot) == 5
    assert clipped_seconds(np.zeros(0, np.int16)) == 0


def test_nothing_at_all_can_be_looked_over():
    found = looked_over(np.zeros(RATE // 10, np.int16))
    assert (found.speech_db, found.share(Kind.SPEECH)) == (None, 0.0)


def test_channels_of_a_person_each_are_apart_and_a_stereo_mix_is_not(talk):
    said = talk[0][: 30 * RATE]
    one, other = said.copy(), said.copy()
    one[15 * RATE :] //= 50
    other[: 15 * RATE] //= 50
    assert are_apart([one, other])
    assert not are_apart([said, (said * 0.7).astype(np.int16)])
    assert not are_apart([said, np.zeros_like(said)])


def test_what_was_found_is_kept_and_a_broken_file_is_nothing(tmp_path, talk):
    from dubrel.media.cache import survey_path

    media = probe(write_wav(tmp_path / "talk.wav", talk[0][: 8 * RATE] / 32768))
    assert kept_survey(media) is None
    found = list(look_over(media))[-1]
    assert isinstance(found, Surveyed)
    assert kept_survey(media) == found.survey
    survey_path(media).write_text('{"kinds": "zz"}')
    assert kept_survey(media) is None


def test_intake_shows_what_was_found(window, qtbot, tmp_path, talk):
    path = write_wav(tmp_path / "talk.wav", talk[0][: 8 * RATE] / 32768)
    window.filing.open_path(path)
    window.show_room("intake")
    room = window.rooms["intake"]
    qtbot.waitUntil(lambda: room.panel.shown is not None)
    assert isinstance(room.panel.shown, Survey)
    assert window.intake.sound.isVisible()
    assert window.intake.sound.columns(Kind.SPEECH, 50).sum() > 25
    assert room.panel.value("Speech level") == f"−{-room.panel.shown.speech_db:.0f} dBFS"


def test_another_pass_or_project_ends_the_look_over(window, qtbot, tmp_path, talk):
    room = window.rooms["intake"]
    window.filing.open_path(write_wav(tmp_path / "long.wav", np.tile(talk[0][: 20 * RATE] / 32768, 12)))
    window.show_room("intake")
    qtbot.waitUntil(lambda: window.desk.jobs.running("survey") is not None)
    window.show_room("wording")
    assert window.desk.jobs.running("survey") is None
    window.show_room("intake")
    assert window.desk.jobs.running("survey") is not None
    window.session.open(Project(title="Another"), None, saved=False)
    assert window.desk.jobs.running("survey") is None
    assert room.panel.shown is None
    assert not window.intake.sound.isVisible()


@pytest.fixture
def band(qtbot):
    """A band of a hundred steps: a quarter each of music, speech, other sound and silence."""
    from dubrel.desk.intake.surveyview import SoundOverTime
    from dubrel.desk.shell.kit.theme import DAY

    made = SoundOverTime(DAY)
    qtbot.addWidget(made)
    kinds = [Kind.MUSIC] * 25 + [Kind.SPEECH] * 25 + [Kind.OTHER] * 25 + [Kind.SILENCE] * 25
    made.show_survey(Survey(bytes(kinds), 480, -20.0, -60.0, 0, None, 9.0))
    made.resize(700, made.sizeHint().height())
    made.show()
    return made


@pytest.mark.parametrize("width", [10, 99, 100, 640, 5000])
def test_each_pixel_shows_its_share_at_any_width(band, width):
    speech = band.columns(Kind.SPEECH, width)
    assert len(speech) == width
    assert speech.mean() == pytest.approx(0.25, abs=1e-9)
    assert speech[: width // 4 - 1].max(initial=0) == 0
    assert speech[width * 3 // 8] == pytest.approx(1.0)
    kinds = (Kind.MUSIC, Kind.SPEECH, Kind.OTHER, Kind.SILENCE)
    assert np.allclose(sum(band.columns(kind, width) for kind in kinds), 1.0)


def test_a_click_on_the_band_goes_to_its_time_and_one_beside_it_nowhere(band, qtbot):
    from PySide6.QtCore import QPoint, Qt
    from PySide6.QtTest import QTest

    sought = []
    band.seek_wanted.connect(sought.append)
    middle = 84 + (700 - 84 - 52) // 2
    QTest.mouseClick(band, Qt.MouseButton.LeftButton, pos=QPoint(middle, 30))
    QTest.mouseClick(band, Qt.MouseButton.LeftButton, pos=QPoint(20, 30))
    QTest.mouseClick(band, Qt.MouseButton.LeftButton, pos=QPoint(690, 30))
    assert len(sought) == 1
    assert sought[0] == pytest.approx(24_000, abs=100)


def test_the_band_is_painted_in_both_themes_and_where_it_is_tiny(band):
    from dubrel.desk.shell.kit.theme import NIGHT

    day = band.grab().toImage()
    band.theme = NIGHT
    night = band.grab().toImage()
    assert day.size() == night.size()
    assert day != night
    band.resize(60, 40)
    assert not band.grab().isNull()
    band.show_survey(None)
    assert not band.isVisible()


@pytest.mark.parametrize(
    ("speech_db", "floor_db", "said"),
    [
        (-20.0, -60.0, "−20 dBFS"),
        (-42.0, -70.0, "−42 dBFS, quiet"),
        (-20.0, -35.0, "−20 dBFS, noisy"),
        (None, -60.0, "no speech"),
    ],
)
def test_the_level_of_the_speech_is_judged(qtbot, speech_db, floor_db, said):
    from dubrel.desk.intake.surveyview import SoundFacts

    facts = SoundFacts()
    qtbot.addWidget(facts)
    facts.show_survey(Survey(bytes(10), 480, speech_db, floor_db, 3, True, 125.4))
    assert facts.value("Speech level") == said
    assert facts.value("Clipping") == "in 3 s of sound"
    assert facts.value("Channels") == "one person each"
    assert facts.value("Transcribing takes") == "about 2:05"


def test_a_recording_without_sound_or_without_anything_open_is_not_looked_over(window, tmp_path):
    window.show_room("intake")
    assert not window.jobs.runs("survey")
    assert window.rooms["intake"].panel.shown is None
