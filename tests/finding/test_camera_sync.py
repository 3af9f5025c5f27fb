"""Cameras found by their sound: offset and drift, in noise, in part, and those of another event."""

import numpy as np
import pytest
import soxr

from dubrel.finding.camerasync import synced

RATE = 16_000


def camera(
    sound: np.ndarray, starts_s: float, length_s: float, ppm: float, noise: float = 0.004
) -> np.ndarray:
    """What a camera records that starts at a moment: another level, an echo, noise, another clock."""
    begin, end = round(starts_s * RATE), round((starts_s + length_s) * RATE)
    part = np.zeros(end - begin, np.float32)
    low, high = max(0, begin), min(len(sound), end)
    part[low - begin : high - begin] = sound[low:high].astype(np.float32) / 32768
    part[800:] += 0.4 * part[:-800]
    part += np.random.default_rng(3).normal(0, noise, len(part)).astype(np.float32)
    part = soxr.resample(part, RATE * (1 + ppm * 1e-6), RATE)
    return (np.clip(part * 0.4, -1, 1) * 32767).astype(np.int16)


def worst_ms(found, starts_s, length_s, ppm, whole_s):
    """How far off it is from where they meet to where they part."""
    moments = np.linspace(max(0, starts_s), min(whole_s, starts_s + length_s), 7)
    own = (moments - starts_s) * 1000 / (1 + ppm * 1e-6)
    return float(np.abs(found.starts_ms + found.rate * own - moments * 1000).max())


@pytest.mark.parametrize(
    ("starts", "length", "ppm"),
    [
        (-30.0, 120.0, 50.0),
        (12.34, 60.0, -50.0),
        (0.0, 85.0, 0.0),
        (40.0, 20.0, 30.0),
        (-600.0, 700.0, -20.0),
    ],
)
def test_a_camera_is_found_within_a_few_milliseconds(talk, starts, length, ppm):
    sound, _, _ = talk
    found = synced(sound, camera(sound, starts, length, ppm))
    assert worst_ms(found, starts, length, ppm, len(sound) / RATE) < 2


def test_noise_as_loud_as_the_voices_does_not_hide_it(talk):
    sound, _, _ = talk
    loud = float(np.sqrt(np.mean((sound / 32768.0) ** 2)))
    found = synced(sound, camera(sound, 5.0, 70.0, 40.0, noise=loud))
    assert worst_ms(found, 5.0, 70.0, 40.0, len(sound) / RATE) < 5


def test_a_camera_of_another_event_is_none(talk):
    sound, _, _ = talk
    assert synced(sound[: 40 * RATE], sound[45 * RATE :]) is None
    noise = np.random.default_rng(1).normal(0, 3000, 30 * RATE).astype(np.int16)
    assert synced(sound, noise) is None
    assert synced(sound, np.zeros(30 * RATE, np.int16)) is None
    assert synced(sound, sound[:100]) is None


def test_a_camera_that_lost_half_a_second_is_placed_by_its_longer_part_and_the_jump_is_said(talk):
    sound, _, _ = talk
    whole = camera(sound, 0.0, 85.0, 0.0)
    lost = np.concatenate([whole[: 60 * RATE], whole[60 * RATE + RATE // 20 :]])
    found = synced(sound, lost)
    assert found.starts_ms == pytest.approx(0, abs=2)
    assert found.jumps_ms == pytest.approx(60_000, abs=4500)
