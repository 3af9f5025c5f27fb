"""Loudness as the standard says it, a level that is even, peaks that stay under the ceiling."""

import numpy as np
import pytest

from dubrel.media.levelling import LOSSLESS, evening_gains, gains_between, limited
from dubrel.media.loudness import (
    EnergyMeter,
    ear_filters,
    integrated,
    loudness_of,
    measured,
    true_peaks,
)

RATE = 48_000


def chunks(sound, size=31_013):
    return [sound[:, at : at + size] for at in range(0, sound.shape[1], size)]


def speech(seconds, level=0.1, channels=1, seed=2):
    """Noise in syllables and pauses."""
    random = np.random.default_rng(seed)
    time = np.arange(seconds * RATE) / RATE
    shape = np.clip(np.sin(2 * np.pi * 4 * time), 0, 1) * (np.sin(2 * np.pi * 0.2 * time) > -0.6)
    return (random.standard_normal((channels, len(time))) * shape * level).astype(np.float32)


@pytest.mark.parametrize(("rate", "channels"), [(48_000, 1), (48_000, 2), (44_100, 2)])
def test_integrated_loudness_agrees_with_an_independent_meter(rate, channels):
    import pyloudnorm  # late here and below: each process that collects tests would load it for seconds

    sound = speech(14, 0.08, channels)[:, : 14 * rate]
    expected = pyloudnorm.Meter(rate, filter_class="DeMan").integrated_loudness(sound.T)
    found, _ = measured(chunks(sound), rate)
    assert found == pytest.approx(expected, abs=0.1)


@pytest.mark.parametrize("rate", [8_000, 22_050, 44_100, 48_000, 192_000])
def test_a_sound_is_weighed_as_by_the_filters_themselves_loud_and_hardly_heard(rate):
    import pyloudnorm
    from scipy import signal

    weighed = sound = np.random.default_rng(1).standard_normal((2, 3 * rate + 123))
    sound[:, rate : 2 * rate] *= 1e-5
    expected = pyloudnorm.Meter(rate, filter_class="DeMan")._filters.values()
    for ours, theirs in zip(ear_filters(rate), expected, strict=True):
        assert np.allclose(ours[0], theirs.b, rtol=1e-12) and np.allclose(ours[1], theirs.a, rtol=1e-12)
        weighed = signal.lfilter(theirs.b, theirs.a, weighed, axis=1)
    step = rate // 10
    tenths = (weighed[:, : 30 * step].reshape(2, 30, step) ** 2).mean(axis=2).sum(axis=0)
    assert np.allclose(EnergyMeter(rate).add(sound), tenths, rtol=1e-8)


def test_peaks_between_samples_are_those_of_a_resampler():
    from scipy import signal

    sound = np.random.default_rng(3).standard_normal((2, 5000))
    fine = np.abs(signal.resample_poly(sound, 4, 1, axis=1)[:, : 4 * 5000]).reshape(2, 5000, 4)
    assert np.allclose(true_peaks(sound), fine.max(axis=(0, 2)), atol=0.005)


def test_a_full_sine_has_the_loudness_of_the_standard():
    """EBU Tech 3341: a stereo sine of 1 kHz at −23 dBFS is −23 LUFS."""
    tone = 10 ** (-23 / 20) * np.sin(2 * np.pi * 1000 * np.arange(20 * RATE) / RATE)
    found, peak = measured(chunks(np.stack([tone, tone])), RATE)
    assert found == pytest.approx(-23.0, abs=0.1)
    assert peak == pytest.approx(-23.0, abs=0.1)


def test_a_peak_between_samples_is_seen():
    """A sine at a quarter of the rate whose samples all miss its crest by 45°."""
    tone = np.sin(2 * np.pi * RATE / 4 * np.arange(4800) / RATE + np.pi / 4)[None]
    assert np.abs(tone).max() == pytest.approx(0.7071, abs=0.001)
    assert true_peaks(tone)[200:-200].max() == pytest.approx(1.0, abs=0.02)


def test_silence_is_gated_away():
    loud = speech(10)
    alone, _ = measured([loud], RATE)
    with_rest, _ = measured([loud, np.zeros((1, 60 * RATE), np.float32)], RATE)
    assert with_rest == pytest.approx(alone, abs=0.15)
    assert integrated(np.zeros(100)) == -70.0


def test_energies_do_not_hang_on_how_the_sound_is_cut():
    sound = speech(5, channels=2)
    whole, meter = EnergyMeter(RATE).add(sound), EnergyMeter(RATE)
    parts = np.concatenate([meter.add(block) for block in chunks(sound, 997)])
    assert np.allclose(whole, parts)


def test_a_quiet_and_a_loud_speaker_come_out_alike_and_a_pause_is_not_raised():
    quiet, loud = speech(15, 0.03), speech(15, 0.2, seed=3)
    hum = 0.0005 * np.sin(2 * np.pi * 100 * np.arange(6 * RATE) / RATE)[None]
    sound = np.concatenate([quiet, hum, loud], axis=1)
    gains = evening_gains(EnergyMeter(RATE).add(sound), -20)
    evened = sound * gains_between(gains, 0, sound.shape[1], RATE)
    first, _ = measured([evened[:, 2 * RATE : 13 * RATE]], RATE)
    last, _ = measured([evened[:, 23 * RATE : 34 * RATE]], RATE)
    assert abs(first + 20) < 1 and abs(last + 20) < 1
    assert gains[150:210].max() <= gains[:140].max() + 0.01  # the pause is not raised
    steps = np.abs(np.diff(20 * np.log10(gains)))
    assert steps.max() < 1.5  # decibels in a tenth of a second: nothing pumps


def test_the_limiter_keeps_every_peak_under_the_ceiling_and_leaves_the_rest_alone():
    sound = speech(6, 0.1)
    sound[0, 100_000:100_050] = 3.0
    made = np.concatenate(list(limited(chunks(sound, 9_000), RATE)), axis=1)
    assert made.shape == sound.shape
    assert true_peaks(made).max() <= LOSSLESS * 1.001
    far = np.r_[0:90_000, 110_000 : sound.shape[1]]
    calm = far[np.abs(sound[0, far]) < 0.3]
    assert np.allclose(made[0, calm], sound[0, calm], atol=0.02)
    quiet = speech(2, 0.05)
    assert np.array_equal(np.concatenate(list(limited([quiet], RATE)), axis=1), quiet)


def test_loudness_of_nothing_is_very_low():
    assert loudness_of(np.zeros(3)).max() < -100
    assert measured([], RATE)[0] == -70.0
