"""One microphone a speaker, or one file a speaker: heard apart, woven into one transcript."""

import numpy as np
import pytest
from conftest import made_once
from recordings import RATE, microphones, write_wav

from dubrel.base.errors import MediaError
from dubrel.base.text import bare_word
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import appended_turns
from dubrel.jobs.machinery.events import RecognisedTurns
from dubrel.jobs.transcribing.channels import track_sources
from dubrel.jobs.transcribing.transcribe import transcribe
from dubrel.media.probe import probe
from dubrel.media.sound import decode_blocks
from dubrel.media.trackfile import write_track_file
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker
from dubrel.model.choices import Choices
from dubrel.speech.recognise.channelspeech import Weaver, faded, own_frames
from dubrel.store.projectfile import open_project, save

APART = Choices(apart=True)


@pytest.fixture(scope="module")
def made():
    return microphones(5)


def woven(path):
    project = Project(media=probe(path))
    for event in transcribe(project.media, APART):
        if isinstance(event, RecognisedTurns):
            project = appended_turns(event.turns, event.speakers, project.next_id)(project)
    return project


@pytest.fixture(scope="module")
def project(made, tmp_path_factory):
    path = tmp_path_factory.mktemp("microphones") / "three.wav"
    return made_once(tmp_path_factory, "three-microphones", lambda: woven(write_wav(path, made.samples)))


def true_speakers(made):
    return [(made.names.index(turn.speaker), word) for turn in made.turns for word in turn.words]


def test_every_word_goes_to_the_microphone_of_who_said_it(made, project):
    right = total = 0
    for turn in project.transcript.turns:
        for word in turn.words:
            middle = (word.start_ms + word.end_ms) / 2000
            for track, said in true_speakers(made):
                if said.start <= middle <= said.end:
                    total += 1
                    right += turn.speaker == f"s{track + 1}"
    assert total > 80 and right / total > 0.98


def test_cross_talk_is_not_heard_twice(made, project):
    said = len(true_speakers(made))
    heard = project.transcript.word_count
    assert 0.92 * said <= heard <= 1.12 * said
    assert [one.name for one in project.transcript.speakers] == ["Channel 1", "Channel 2", "Channel 3"]


def test_turns_come_in_order_and_make_captions_that_do_not_run_into_each_other(project):
    starts = [turn.start_ms for turn in project.transcript.turns]
    assert starts == sorted(starts)
    captions = set_again(project, DEFAULT_STYLE).captions.captions
    assert all(a.start_ms <= b.start_ms for a, b in zip(captions, captions[1:]))


def test_one_channel_cannot_be_heard_apart(tmp_path, made):
    path = write_wav(tmp_path / "one.wav", made.samples[0])
    with pytest.raises(MediaError, match="one channel"):
        track_sources(probe(path))


def test_one_file_a_speaker_becomes_a_recording_with_a_mix_and_named_tracks(tmp_path, made):
    rows = made.samples[:2, : 25 * RATE]
    paths = [
        write_wav(tmp_path / "Isolde.wav", rows[0]),
        write_wav(tmp_path / "Tobiah.wav", rows[1, : 24 * RATE]),
    ]
    target = tmp_path / "both.mka"
    done = list(write_track_file(paths, target))
    assert done == sorted(done) and done[-1] == 1.0
    assert sorted(one.name for one in tmp_path.iterdir()) == ["Isolde.wav", "Tobiah.wav", "both.mka"]
    media = probe(target)
    assert media.tracks == ("mix", "Isolde", "Tobiah") and abs(media.duration_ms - 25_000) < 50
    for track, row in ((1, rows[0]), (2, rows[1, : 24 * RATE])):
        kept = np.concatenate(list(decode_blocks(target, track))).astype(float) / 32768
        size = min(len(kept), len(row))
        assert np.corrcoef(kept[:size], row[:size])[0, 1] > 0.99
    mix = np.concatenate(list(decode_blocks(target))).astype(float) / 32768
    assert np.corrcoef(mix[: 24 * RATE], rows.sum(axis=0)[: 24 * RATE])[0, 1] > 0.99
    heard = woven(target)
    assert [one.name for one in heard.transcript.speakers] == ["Isolde", "Tobiah"]
    assert {turn.speaker for turn in heard.transcript.turns} == {"s1", "s2"}


def test_a_file_without_sound_is_refused_and_nothing_is_left(tmp_path, made):
    good = write_wav(tmp_path / "good.wav", made.samples[0, :RATE])
    (tmp_path / "bad.wav").write_text("no sound")
    with pytest.raises(MediaError, match=r"bad\.wav"):
        list(write_track_file([good, tmp_path / "bad.wav"], tmp_path / "out.mka"))
    assert not (tmp_path / "out.mka").exists() and len(list(tmp_path.iterdir())) == 2


def test_channels_are_decoded_one_by_one(tmp_path):
    tone = np.sin(np.arange(RATE) / 10) * 0.3
    path = write_wav(tmp_path / "two.wav", np.stack([tone, np.zeros(RATE)]))
    loud = [np.abs(np.concatenate(list(decode_blocks(path, 0, k)))).max() for k in (0, 1)]
    assert loud[0] > 9000 and loud[1] < 10


def test_the_tracks_of_a_recording_are_saved_with_the_project(tmp_path, made):
    paths = [write_wav(tmp_path / f"{k}.wav", made.samples[k, :RATE]) for k in (0, 1)]
    list(write_track_file(paths, tmp_path / "both.mka"))
    save(Project(media=probe(tmp_path / "both.mka")), tmp_path / "p.dubrel")
    assert open_project(tmp_path / "p.dubrel").media.tracks == ("mix", "0", "1")


def test_a_faint_copy_is_faded_and_two_at_once_are_both_kept():
    loudness = np.full((2, 100), 3.0)
    loudness[0, 10:40] = 3000
    loudness[1, 10:40] = 300  # what the first one says, in the second microphone
    loudness[1, 50:80] = 2000
    loudness[0, 50:80] = 150
    loudness[0, 70:80] = 3000
    speech = np.where(loudness > 100, 0.9, 0.0)
    own = own_frames(loudness, speech)
    assert own[0, 15:35].all() and not own[1, 18:32].any()
    assert own[1, 55:75].all() and own[0, 73:78].all() and not own[0, 52:62].any()
    samples = np.full(100 * 512 + 7, 1000, np.int16)
    kept = faded(samples, own[1])
    assert kept[25 * 512] == 10 and kept[60 * 512] == 1000 and len(kept) == len(samples)


def word(text, start, end):
    return RecognisedWord(text, start, end)


def test_the_same_word_at_the_same_time_is_kept_where_it_is_louder():
    levels = np.zeros((2, 200))
    levels[1] = -15
    weaver = Weaver(levels)
    weaver.add(0, [word("Yes,", 1000, 1300), word("it", 1320, 1400)])
    weaver.add(1, [word("yes", 1010, 1290), word("indeed.", 1500, 1900)])
    turns = weaver.take(float("inf"))
    assert [(turn.speaker, [w.text for w in turn.words]) for turn in turns] == [
        ("s1", ["Yes,", "it"]),
        ("s2", ["indeed."]),
    ]


def test_turns_are_given_out_only_when_nothing_can_come_before_them():
    weaver = Weaver(np.zeros((2, 200)))
    weaver.add(0, [word("One.", 100, 400), word("Three.", 2000, 2400)])
    assert [turn.words[0].text for turn in weaver.take(1000)] == ["One."]
    weaver.add(1, [word("Two.", 1000, 1400)])
    assert [turn.words[0].text for turn in weaver.take(float("inf"))] == ["Two.", "Three."]


def test_a_speaker_who_goes_on_stays_in_the_turn():
    people = [Speaker("s1", "A"), Speaker("s2", "B")]
    first = [RecognisedTurn((word("One.", 0, 400),), "s1"), RecognisedTurn((word("Two.", 600, 900),), "s1")]
    project = appended_turns(first, people, Project().next_id)(Project())
    for later in (word("Yes.", 950, 1200), word("Late.", 9000, 9300)):
        project = appended_turns([RecognisedTurn((later,), "s2")], (), project.next_id)(project)
    assert [turn.text for turn in project.transcript.turns] == ["One. Two.", "Yes.", "Late."]
    ids = [one.id for turn in project.transcript.turns for one in (turn, *turn.words)]
    assert len(set(ids)) == len(ids) and max(ids) < project.next_id
    assert bare_word(project.transcript.turns[1].text) == "yes"
