"""How voices are counted, parted and joined, and who speaks along, each part by itself."""

import numpy as np
import pytest
from conftest import DEMO

from dubrel.base.errors import EngineError
from dubrel.media.sound import decode_blocks
from dubrel.model import RecognisedWord
from dubrel.speech.speakers import clusters, overlap
from dubrel.speech.speakers.clusters import find_voices, speaker_count
from dubrel.speech.speakers.overlap import overlaps
from dubrel.speech.speakers.second_print import IdentityEncoder
from dubrel.speech.speakers.segmentation import FRAMES, VOICES, WINDOW, Segmenter, frame_times_ms
from dubrel.speech.weights import innermodels

SIZE = 256


def directions(count, seed=3):
    """Prints that have nothing in common, of length one."""
    rows, _ = np.linalg.qr(np.random.default_rng(seed).standard_normal((SIZE, count)))
    return rows.T


def scattered(centre, count, spread=0.02, seed=0):
    rows = centre + np.random.default_rng(seed).standard_normal((count, SIZE)) * spread
    return rows / np.linalg.norm(rows, axis=1, keepdims=True)


@pytest.fixture
def known(monkeypatch):
    """A second encoder that knows the truth: the sound of a window is the number of who speaks."""

    class Knowing:
        asked = 0

        def print_of(self, samples):
            Knowing.asked += 1
            return np.eye(8)[np.bincount(samples).argmax()]

    monkeypatch.setattr(clusters, "IdentityEncoder", Knowing)
    return Knowing


def voices_of(prints, people, least=1, most=40):
    people = np.asarray(people)
    return find_voices(prints, lambda places: np.repeat(people[places], 3), least, most)


# -- how many ---------------------------------------------------------------------------------


@pytest.mark.parametrize("count", [1, 2, 3, 5, 8])
def test_voices_that_have_nothing_in_common_are_counted(known, count):
    prints = np.concatenate([scattered(one, 24, seed=k) for k, one in enumerate(directions(count))])
    found = voices_of(prints, np.repeat(range(count), 24))
    assert len(found.centres) == found.people == count
    labels = np.argmax(prints @ found.centres.T, axis=1).reshape(count, 24)
    assert (labels == labels[:, :1]).all() and len(set(labels[:, 0])) == count
    assert speaker_count(prints, 12) == count
    assert np.linalg.norm(found.centres, axis=1) == pytest.approx(1.0)


def halves():
    """One voice that sounds in two ways, and another one."""
    one, other, way = directions(3)
    loud = scattered(one + 0.45 * way, 20, seed=1)
    soft = scattered(one - 0.45 * way, 20, seed=2)
    return np.concatenate([loud / 1, soft, scattered(other, 20, seed=3)])


def test_two_ways_to_sound_are_one_person_if_the_second_encoder_says_so(known, monkeypatch):
    monkeypatch.setattr(clusters, "_MAYBE_ALIKE", 0.6)
    prints = halves()
    assert len(voices_of(prints, [0] * 40 + [1] * 20).centres) == 2
    assert len(voices_of(prints, [0] * 20 + [2] * 20 + [1] * 20).centres) == 3


def test_a_number_that_was_asked_for_is_kept_and_too_many_is_known(known, monkeypatch):
    monkeypatch.setattr(clusters, "_MAYBE_ALIKE", 0.6)
    found = voices_of(halves(), [0] * 40 + [1] * 20, least=3, most=3)
    assert len(found.centres) == 3 and found.people == 2
    found = voices_of(halves(), [0] * 40 + [1] * 20, least=2, most=2)
    assert len(found.centres) == found.people == 2


def test_two_people_in_one_cluster_are_parted_where_there_is_room(known):
    first, other, way = directions(3)
    one = np.concatenate([scattered(first, 20, seed=1), scattered(first + 0.7 * way, 9, seed=2)])
    prints = np.concatenate([one, scattered(other, 20, seed=3)])
    labels = np.array([0] * 29 + [1] * 20)
    both = clusters.means(prints, labels)
    true = np.array([0] * 20 + [2] * 9 + [1] * 20)
    identities = clusters._Identities(lambda places: np.repeat(true[places], 3))
    parted = clusters.with_parts(prints, both, 40, identities)
    assert len(parted) == 3
    assert (np.argmax(prints[20:29] @ parted.T, axis=1) == 2).all()
    assert len(clusters.with_parts(prints, both, 2, identities)) == 2
    same = clusters._Identities(lambda places: np.repeat(np.array([0] * 29 + [1] * 20)[places], 3))
    assert len(clusters.with_parts(prints, both, 40, same)) == 2


def test_the_second_encoder_is_asked_only_where_it_is_in_question(known):
    prints = np.concatenate([scattered(one, 24, seed=k) for k, one in enumerate(directions(4))])
    voices_of(prints, np.repeat(range(4), 24))
    assert known.asked == 0


def test_hardly_any_sound_is_one_voice(known):
    assert find_voices(np.zeros((0, SIZE)), lambda places: places, 1, 40).centres.shape == (1, SIZE)
    assert len(voices_of(scattered(directions(1)[0], 1), [0]).centres) == 1
    assert len(voices_of(scattered(directions(1)[0], 2), [0, 0], least=9, most=9).centres) <= 2


def test_the_second_encoder_does_not_hear_how_loud_or_how_long_it_is():
    sound = np.concatenate(list(decode_blocks(DEMO / "slow-water-7.opus")))
    encoder = IdentityEncoder()
    first, again, soft = (sound[a * 16_000 : b * 16_000] for a, b in ((4, 12), (4, 8), (4, 12)))
    print_ = encoder.print_of(first)
    assert print_ @ encoder.print_of((soft / 4).astype(np.int16)) > 0.97
    assert print_ @ encoder.print_of(again) > 0.75
    other = encoder.print_of(sound[15 * 16_000 : 23 * 16_000])
    assert print_ @ other < 0.4 and np.linalg.norm(other) == pytest.approx(1.0)


# -- two at once ---------------------------------------------------------------------------------


def test_silence_is_nobody_and_one_voice_is_one():
    sound = np.concatenate(list(decode_blocks(DEMO / "slow-water-7.opus")))
    silent, one = (
        Segmenter()
        .activity(np.concatenate([np.zeros(WINDOW, np.int16), sound[4 * 16_000 :]]), np.array([0, WINDOW]))
        .__next__()
    )
    assert silent.shape == (FRAMES, VOICES) and not silent.any()
    assert (one.sum(axis=1) == 1).mean() > 0.6 and (one.sum(axis=1) > 1).mean() < 0.02
    times = frame_times_ms()
    assert len(times) == FRAMES and 0 < times[0] < 40 and times[-1] < 10_000
    assert np.allclose(np.diff(times), 16.875)


def test_a_model_that_is_not_there_is_one_sentence(monkeypatch):
    monkeypatch.setattr(innermodels, "_LIBRARY", "libgone.so")
    with pytest.raises(EngineError, match="segmentation model of the recogniser"):
        innermodels.inner_session("segmentation")
    monkeypatch.undo()
    with pytest.raises(EngineError, match="nonesuch"):
        innermodels.inner_session("nonesuch")


class Script:
    """A segmentation that says what a test wants.

    Stretches (from_ms, to_ms, voice), the same in all windows.
    """

    said: tuple = ()

    def activity(self, samples, starts):
        for start in starts:
            times = start / 16 + frame_times_ms()
            active = np.zeros((1, FRAMES, VOICES), bool)
            for begin, end, voice in self.said:
                active[0, (times >= begin) & (times < end), voice] = True
            yield active


class Prints:
    """An encoder by which every sound is the first speaker's and a little of the third's."""

    def prints(self, samples, starts):
        row = np.eye(3)[0] + 0.3 * np.eye(3)[2]
        yield np.tile(row / np.linalg.norm(row), (len(starts), 1))


def along(monkeypatch, said, labels, words=None):
    monkeypatch.setattr(overlap, "Segmenter", Script)
    monkeypatch.setattr(Script, "said", said)
    words = words or [RecognisedWord("so", 1000 * k, 1000 * k + 900) for k in range(len(labels))]
    samples = np.ones(16 * (words[-1].end_ms + 1000), np.int16)
    *shares, also = overlaps(samples, words, np.array(labels), np.eye(3), Prints())
    assert shares == sorted(shares)
    return also.tolist()


def test_words_said_together_are_marked_with_the_voice_that_fits(monkeypatch):
    said = [(0, 6000, 0), (2000, 4000, 1)]
    assert along(monkeypatch, said, [0] * 6) == [-1, -1, 2, 2, -1, -1]


def test_a_word_is_marked_only_if_a_good_part_of_it_is_said_together(monkeypatch):
    said = [(0, 4000, 0), (1000, 1250, 1), (2000, 2600, 2)]
    assert along(monkeypatch, said, [0] * 4) == [-1, -1, 2, -1]


def test_both_sides_of_a_change_are_marked_with_each_other(monkeypatch):
    words = [
        RecognisedWord("one", 0, 900),
        RecognisedWord("two", 1000, 2000),
        RecognisedWord("three", 1100, 2100),
    ]
    words += [RecognisedWord("four", 2200, 3000)]
    assert along(monkeypatch, [(0, 2000, 0), (1100, 3000, 1)], [0, 0, 2, 2], words) == [-1, 2, 0, -1]


def test_one_speaker_speaks_along_with_nobody(monkeypatch):
    monkeypatch.setattr(overlap, "Segmenter", lambda: pytest.fail("nothing to be heard"))
    *_, also = overlaps(
        np.ones(32_000, np.int16), [RecognisedWord("so", 0, 900)], np.zeros(1, int), np.eye(3)[:1], None
    )
    assert also.tolist() == [-1]


def test_only_windows_with_words_are_heard():
    words = [RecognisedWord("early", 500, 900), RecognisedWord("late", 7_200_000, 7_200_400)]
    starts = overlap.window_starts(words) / 16_000
    assert starts.tolist() == [0, 7190, 7195, 7200]
    assert list(overlap.runs_of_two(np.array([1, 2, 3, 7, 8]), np.array([0, 0, 0, 1, 0, 0, 0, 0, 0]))) == [
        (1, 3),
        (3, 4),
        (7, 9),
    ]
    assert list(overlap.runs_of_two(np.zeros(0, int), np.zeros(3, int))) == []
