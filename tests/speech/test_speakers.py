"""Who speaks when: voices told apart, and every way to fix it."""

import io
import pickle
from collections import OrderedDict
from itertools import groupby
from pathlib import Path

import numpy as np
import pytest
from conftest import DEMO, words
from recordings import write_wav
from samples import found_in, shape

from dubrel.base.errors import DubrelError, EngineError, FormatError
from dubrel.cli import main
from dubrel.edits.intake import add_heard
from dubrel.edits.speakers.assigning import (
    assign_speakers,
    follow_passages,
    found_taken,
    give_words,
    matched_numbers,
    merge_speakers,
    move_boundary,
    remove_speaker,
    speaker_passages,
    swap_speakers,
)
from dubrel.edits.speakers.voices import give_turn
from dubrel.edits.words.wording import replace_text
from dubrel.formats.words.rttm import read_passages
from dubrel.formats.words.rttm import write as write_rttm
from dubrel.jobs.diarising import question, speaker_bounds
from dubrel.model import Project, RecognisedWord, SpeakerPassage
from dubrel.speech.speakers.diarise import phrases
from dubrel.speech.weights.torchfile import read_tensors
from dubrel.store.projectfile import open_project, save


def test_three_voices_are_found_and_words_go_to_the_right_one(talk, encoder):
    samples, heard, true = talk
    voices = found_in(samples, heard, encoder)
    assert len(voices.prints) == 3
    assert np.mean(voices.labels == true) > 0.96
    short = [k for k, word in enumerate(heard) if word.text == "Yes."]
    assert len(short) == 1 and voices.labels[short[0]] == true[short[0]]
    assert ((voices.sureness > 0) & (voices.sureness <= 1)).all()


def test_two_real_people_with_short_answers_are_two(encoder, tmp_path):
    """A dialogue that comes with the recogniser's package: one asks and tells, the other answers."""
    import moonshine_voice

    from dubrel.jobs.machinery.events import Recognised
    from dubrel.jobs.transcribing.transcribe import transcribe
    from dubrel.media.probe import probe
    from dubrel.media.sound import samples_of

    media = probe(Path(moonshine_voice.__file__).parent / "assets" / "endgame_nagg_nell.wav")
    heard = [word for event in transcribe(media) if isinstance(event, Recognised) for word in event.words]
    voices = found_in(np.array(samples_of(media)), heard, encoder)
    assert len(voices.prints) == 2 and (voices.also < 0).all()
    turns = [key for key, _ in groupby(voices.labels.tolist())]
    assert turns == [0, 1] * 7
    short = [k for k, word in enumerate(heard) if word.text.strip(",.") in ("Yes", "Laugh", "No")]
    assert len(short) >= 3 and (voices.labels[short[:2]] == 1).all()


def test_one_speaker_is_one_and_a_number_that_is_given_is_kept(talk, encoder):
    samples, heard, true = talk
    alone = [word for word, who in zip(heard, true) if who == 1]
    assert len(found_in(samples, alone, encoder).prints) == 1
    half = heard[: len(heard) // 2]
    assert len(found_in(samples, half, encoder, least=2, most=2).prints) <= 2
    many = found_in(samples, half, encoder, least=6, most=6)
    assert 1 <= len(set(many.labels)) <= 6 and many.people <= 3
    assert len(found_in(samples, [], encoder).labels) == 0


def test_confirmed_words_teach_and_stay(talk, encoder):
    samples, heard, true = talk
    wrong = 2 if true[0] != 2 else 1
    fixed = {k: int(who) for k, who in enumerate(true) if k % 20 < 4} | {0: wrong}
    voices = found_in(samples, heard, encoder, fixed=fixed)
    assert all(voices.labels[k] == who for k, who in fixed.items())
    assert np.mean(voices.labels[1:] == true[1:]) > 0.95


def test_one_confirmed_turn_leaves_the_other_speakers_their_numbers(talk, encoder):
    samples, heard, true = talk
    project = assign_speakers(add_heard(Project(), heard), true.tolist(), [0.9] * len(heard))
    ids = [one.id for one in project.transcript.speakers]
    number = 1
    turn = next(one for one in project.transcript.turns if one.speaker == ids[number])
    confirmed = give_turn(project, turn.id, ids[number])
    asked = question(confirmed)
    assert set(asked.fixed.values()) == {number}
    voices = found_in(samples, asked.words, encoder, fixed=asked.fixed, now=asked.now)
    numbers = matched_numbers(confirmed, dict(zip(asked.ids, voices.labels.tolist())))
    assert numbers[number] == number
    assert np.mean([numbers[one] == who for one, who in zip(voices.labels.tolist(), true)]) > 0.95


def test_phrases_end_at_pauses_and_sentence_ends():
    heard = [
        RecognisedWord("a", 0, 100),
        RecognisedWord("bee.", 110, 200),
        RecognisedWord("c", 210, 300),
        RecognisedWord("d", 600, 700),
    ]
    assert phrases(heard) == [(0, 2), (2, 3), (3, 4)]


def test_weights_are_numbers_and_nothing_else(tmp_path):
    class Evil:
        def __reduce__(self):
            return print, ("owned",)

    path = tmp_path / "weights.pt"
    stream = io.BytesIO()
    for value in (0x1950A86A20F9469CFC6C, 1001, {}, OrderedDict(a=Evil())):
        stream.write(pickle.dumps(value, protocol=2))
    path.write_bytes(stream.getvalue())
    with pytest.raises(EngineError, match="not a tensor"):
        read_tensors(path)
    path.write_bytes(b"short")
    with pytest.raises(EngineError):
        read_tensors(path)


# -- fixing it -----------------------------------------------------------------------


def test_what_was_found_splits_turns_and_spares_confirmed_ones(three):
    confirmed = give_turn(three, three.transcript.turns[1].id, "s1")
    found = assign_speakers(confirmed, [0, 0, 2, 1, 1, 1, 1, 0, 0], [0.9] * 9)
    assert shape(found) == [
        ("s1", "One two"),
        (found.transcript.speakers[2].id, "three."),
        ("s1", "Four five six."),
        ("s2", "Seven"),
        ("s1", "eight nine."),
    ]
    assert found.transcript.turns[2] is confirmed.transcript.turns[1]
    assert [one.id for one in words(found)] == [one.id for one in words(three)]
    assert [one.start_ms for one in words(found)] == [one.start_ms for one in words(three)]
    assert len({turn.id for turn in found.transcript.turns}) == 5
    assert found.transcript.turns[0].sureness == 0.9
    assert question(confirmed).fixed == {3: 0, 4: 0, 5: 0}


def test_found_voices_keep_the_names_of_the_speakers_who_say_the_same(three):
    ids = [word.id for word in words(three)]
    assert matched_numbers(three, dict(zip(ids, [1, 1, 1, 0, 0, 0, 1, 1, 2]))) == {1: 0, 0: 1, 2: 2}
    assert matched_numbers(Project(), {1: 0, 2: 1}) == {0: 0, 1: 1}


def test_words_typed_meanwhile_go_with_the_word_before_them(three):
    ids = [word.id for word in words(three)]
    labels, sure, also = [0] * 2 + [1] * (len(ids) - 2), [1.0] * len(ids), [-1] * len(ids)
    present = replace_text(three, three.transcript.turns[0].id, 0, 0, "Well ")
    found, numbers = found_taken(present, ids, labels, sure, also)
    assert [turn.text for turn in found.transcript.turns][:2] == ["Well One two", "three."]
    assert set(numbers) == {0, 1}
    shorter = replace_text(three, three.transcript.turns[0].id, 0, 4, "")
    found, _ = found_taken(shorter, ids, labels, sure, also)
    assert [turn.text for turn in found.transcript.turns][:2] == ["two", "three."]
    assert found_taken(Project(), ids, labels, sure, also)[0] == Project()


def test_boundaries_move_word_by_word_and_no_turn_becomes_empty(three):
    second = three.transcript.turns[1].id
    earlier = move_boundary(three, second, -1)
    assert [text for _, text in shape(earlier)][:2] == ["One two", "three. Four five six."]
    assert words(earlier) == words(three)
    assert move_boundary(earlier, second, 1).transcript.turns[0].text == "One two three."
    assert move_boundary(three, second, -3) is three
    assert move_boundary(three, three.transcript.turns[0].id, 1) is three


def test_words_are_given_out_of_the_middle_of_a_turn(three):
    given = give_words(three, three.transcript.turns[1].id, 1, 2, "s1")
    assert shape(given)[1:4] == [("s2", "Four"), ("s1", "five"), ("s2", "six.")]
    assert [turn.confirmed for turn in given.transcript.turns] == [False, False, True, False, False]
    assert len({turn.id for turn in given.transcript.turns}) == 5


def test_speakers_are_swapped_merged_and_removed(three):
    second = three.transcript.turns[1].id
    assert [who for who, _ in shape(swap_speakers(three, "s1", "s2"))] == ["s2", "s1", "s2"]
    assert [who for who, _ in shape(swap_speakers(three, "s1", "s2", second))] == ["s1", "s1", "s2"]
    merged = merge_speakers(three, "s2", "s1")
    assert {who for who, _ in shape(merged)} == {"s1"} and len(merged.transcript.speakers) == 1
    gone = remove_speaker(three, "s1")
    assert [who for who, _ in shape(gone)] == [None, "s2", None]
    assert merge_speakers(three, "s1", "s1") is three


def test_what_a_person_has_said_is_saved(three, tmp_path):
    project = give_turn(three, three.transcript.turns[0].id, "s2")
    save(project, tmp_path / "p.dubrel")
    turns = open_project(tmp_path / "p.dubrel").transcript.turns
    assert [turn.confirmed for turn in turns] == [True, False, False]


# -- RTTM -----------------------------------------------------------------------------


def test_rttm_goes_out_and_comes_in(three, tmp_path):
    path = tmp_path / "who.rttm"
    path.write_text(write_rttm(three))
    found, warnings = read_passages(path)
    assert found == speaker_passages(three) and not warnings
    plain = add_heard(Project(), [RecognisedWord(w.text, w.start_ms, w.end_ms) for w in words(three)])
    assert [turn.text for turn in follow_passages(plain, found).transcript.turns] == [
        "One two three.",
        "Four five six.",
        "Seven eight nine.",
    ]


def test_rttm_with_gaps_overlaps_and_nonsense_is_read_as_well_as_can_be(three, tmp_path):
    path = tmp_path / "odd.rttm"
    lines = [
        "SPEAKER x 1 0.5 2 <NA> <NA> Cara <NA> <NA>",
        "SPEAKER x 1 one 2",
        "SPEAKER x 1 1 -2 a b C d",
        "LEXEME 1",
    ]
    path.write_text("\r\n".join([*lines, "SPEAKER x 1 1.0 0.3 <NA> <NA> Dan <NA> <NA>"]))
    found, warnings = read_passages(path)
    assert [(one.speaker, one.start_ms, one.end_ms) for one in found] == [
        ("Cara", 500, 2500),
        ("Dan", 1000, 1300),
    ]
    assert len(warnings) == 2
    laid = follow_passages(three, found)
    assert laid.transcript.turns[-1].speaker == "s1" and {"Cara", "Dan"} <= {
        o.name for o in laid.transcript.speakers
    }
    path.write_text("nothing here")
    with pytest.raises(FormatError, match="names no speakers"):
        read_passages(path)
    forty = [SpeakerPassage(k * 100, k * 100 + 90, f"P{k}") for k in range(40)]
    assert len(follow_passages(three, forty).transcript.speakers) == 42


def test_numbers_of_speakers_are_understood():
    assert (
        speaker_bounds("3") == (3, 3) and speaker_bounds("2-4") == (2, 4) and speaker_bounds("auto")[0] == 1
    )
    for bad in ("0", "x", "4-2", "99", ""):
        with pytest.raises(DubrelError, match="not a number of speakers"):
            speaker_bounds(bad)


def test_the_command_line_writes_who_speaks_when(tmp_path, talk, capsys):
    sound = [talk[0][begin * 16_000 : end * 16_000] for begin, end in ((3, 9), (14, 20), (25, 31))]
    path = write_wav(tmp_path / "talk.wav", np.concatenate(sound) / 32768)
    assert main(["speakers", str(path), "-o", str(tmp_path / "o.rttm"), "--quiet"]) == 0
    found, _ = read_passages(tmp_path / "o.rttm")
    assert [one.speaker for one in found] == ["Speaker 1", "Speaker 2", "Speaker 3"]
    assert main(["speakers", str(path), "-o", str(tmp_path / "o.rttm"), "--speakers", "many"]) == 2
    capsys.readouterr()
    assert main(["speakers", str(path), "-o", str(tmp_path / "o.rttm"), "--speakers", "5"]) == 0
    said = capsys.readouterr().err
    assert "speakers, as you asked, but they sound like" in said and "Traceback" not in said


# -- on the desk --------------------------------------------------------------------


def test_speakers_are_found_taken_in_and_undone_on_the_desk(window, qtbot, scene):
    import json

    rows = json.loads((DEMO / "heron-film.truth.json").read_text())["turns"][:2]
    said = [RecognisedWord(*word) for row in rows for word in row["words"]]
    window.filing.open_path(scene)
    project = add_heard(window.session.project, said)
    window.session.apply(project, "Words", base=window.session.project)
    window.dialogs.speaker_count = lambda: "auto"
    window.commands.run("speakers")
    qtbot.waitUntil(lambda: bool(window.session.project.transcript.speakers))
    qtbot.waitUntil(lambda: not window.jobs.runs("captions"))
    names = list(dict.fromkeys(row["speaker"] for row in rows))
    true = {word[1]: names.index(row["speaker"]) for row in rows for word in row["words"]}
    turns = window.session.project.transcript.turns
    ids = [one.id for one in window.session.project.transcript.speakers]
    right = sum(turn.speaker == ids[true[word.start_ms]] for turn in turns for word in turn.words)
    assert right / len(said) > 0.95
    window.show_room("voices")
    before = window.session.project
    window.sheet.move_caret(type(window.sheet.caret)(1, 0))
    window.commands.run("boundary_back")
    assert window.session.project.transcript.turns[1].words[0] is before.transcript.turns[0].words[-1]
    window.commands.run("undo")
    assert window.session.project.transcript is before.transcript
    window.dialogs.speaker = lambda question, choices: choices[0]
    window.commands.run("merge")
    assert len(window.session.project.transcript.speakers) == len(before.transcript.speakers) - 1
    window.commands.run("undo")


def test_selected_words_are_given_by_one_key(window, three, qtbot):
    window.session.open(three, None, saved=True)
    window.show_room("voices")
    spot = type(window.sheet.caret)
    window.sheet.move_caret(spot(0, 4))
    window.sheet.move_caret(spot(0, 7), keep=True)
    window.commands.run("speaker_2")
    assert shape(window.session.project)[:3] == [("s1", "One"), ("s2", "two"), ("s1", "three.")]
    window.commands.run("next_uncertain")
    assert "unsure" in window.message.text()
