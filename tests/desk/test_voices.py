"""Speakers at work: proposals, paragraphs, talk time, kept voices, overlaps, the list and the lanes."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import DEMO, spoken, words
from PySide6.QtCore import Qt
from recordings import write_wav
from samples import found_in, shape

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.cli import main
from dubrel.desk.voices.dialogs.voices import ProposalDialog, SpeakerDialog, SplitDialog
from dubrel.desk.voices.speakerlanes import LANE, lane_places
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard, set_turns
from dubrel.edits.speakers.assigning import (
    assign_speakers,
    merge_speakers,
    remove_speaker,
    share_covered,
    split_speaker,
    swap_speakers,
    with_overlaps,
)
from dubrel.edits.speakers.proposals import proposals, take_proposals
from dubrel.edits.speakers.voices import rename_speaker
from dubrel.edits.words.paragraphs import goes_on, set_paragraphs
from dubrel.media.sound import RATE
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker, SpeakerPassage
from dubrel.project.talk import talk_of, voice_samples
from dubrel.release.onefile import write_checked
from dubrel.speech.speakers.second_print import person_prints
from dubrel.user.voices import VOICES, forget_voice, keep_voice, names_of


@pytest.fixture(autouse=True)
def no_voices_of_before():
    VOICES.path.unlink(missing_ok=True)
    yield
    VOICES.path.unlink(missing_ok=True)


# -- proposals -----------------------------------------------------------------------------


def test_proposals_are_runs_of_words_and_are_taken_one_by_one(three):
    proposed = assign_speakers(three, [0, 0, 2, 1, 1, 1, 1, 1, 0], [0.7] * 9)
    changes = proposals(three, proposed)
    assert [(one.text, one.now, one.then) for one in changes] == [
        ("three.", "s1", proposed.transcript.speakers[2].id),
        ("Seven eight", "s1", "s2"),
    ]
    one = take_proposals(three, proposed, changes[1:])
    assert shape(one)[2:] == [("s2", "Seven eight"), ("s1", "nine.")]
    assert len(one.transcript.speakers) == 2  # the third voice was not taken
    both = take_proposals(three, proposed, changes)
    assert shape(both) == shape(proposed) and len(both.transcript.speakers) == 3
    assert (
        proposals(both, proposed) == []
        and take_proposals(three, proposed, []).transcript.turns == three.transcript.turns
    )


def test_the_dialog_shows_proposals_to_be_heard_ticked_and_taken(window, three, qtbot):
    proposed = assign_speakers(three, [0, 0, 2, 1, 1, 1, 1, 1, 0], [0.7] * 9)
    changes, heard = proposals(three, proposed), []
    dialog = ProposalDialog(three, proposed, changes, heard.append, window)
    qtbot.addWidget(dialog)
    dialog.open()  # as asked: the window's own keys wait
    assert dialog.go.text() == "Accept all 2" and dialog.table.item(0, 3).text() == "Speaker 3"
    dialog.table.setFocus()
    qtbot.keyClick(dialog.table, Qt.Key.Key_Return)
    assert heard == [changes[0]] and dialog.isVisible()
    qtbot.keyClick(dialog.table, Qt.Key.Key_Space)
    assert dialog.chosen() == changes[1:] and dialog.go.text() == "Accept 1"
    dialog.none.click()
    assert dialog.chosen() == [] and not dialog.go.isEnabled() and dialog.none.text() == "Accept all"
    qtbot.keyClick(dialog.table, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert dialog.isVisible()
    dialog.none.click()
    with qtbot.waitSignal(dialog.accepted):
        qtbot.keyClick(dialog.table, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert dialog.chosen() == changes


# -- paragraphs -----------------------------------------------------------------------------


def test_long_turns_become_paragraphs_that_end_sentences():
    text = " ".join(f"Sentence number {k} has some seven words." for k in range(40))
    project = set_turns(Project(), [RecognisedTurn(tuple(spoken(text)), "s1")], [Speaker("s1")], "en")
    made = set_paragraphs(project, 50)
    turns = made.transcript.turns
    assert len(turns) > 4 and all(turn.words[-1].text.endswith(".") for turn in turns)
    assert all(35 <= len(turn.words) <= 70 for turn in turns)
    assert words(made) == words(project) and all(
        goes_on(turns, place) == (place > 0) for place in range(len(turns))
    )
    assert set_paragraphs(made, 50) is made
    again = set_paragraphs(made, 120)
    assert len(again.transcript.turns) < len(turns) and words(again) == words(project)


def test_paragraphs_leave_other_speakers_proofed_turns_and_text_without_sentences(three):
    assert shape(set_paragraphs(three, 10)) == shape(three)
    endless = set_turns(
        Project(), [RecognisedTurn(tuple(spoken("and then " * 100)), "s1")], [Speaker("s1")], "en"
    )
    assert set_paragraphs(endless, 20) is endless
    proofed = replace(three.transcript.turns[0], proofed=True, speaker="s2")
    project = replace(
        three, transcript=replace(three.transcript, turns=(proofed, *three.transcript.turns[1:]))
    )
    assert set_paragraphs(project, 100).transcript.turns[0] is proofed


# -- talk time and samples -------------------------------------------------------------------


def test_talk_time_counts_turns_and_those_who_speak_along(three):
    both = replace(three.transcript.turns[1], speaker="s1")
    project = replace(three, transcript=replace(three.transcript, turns=(three.transcript.turns[0], both)))
    found = talk_of(project)
    assert found["s1"].turns == 1 and found["s2"] == replace(found["s2"], time_ms=0, turns=0)
    assert found["s1"].share == 1.0
    along = assign_speakers(three, [0] * 3 + [1] * 3 + [0] * 3, [1.0] * 9, [1, -1, -1] + [-1] * 6)
    first = words(along)[0]
    assert (
        first.also == "s2"
        and talk_of(along)["s2"].time_ms == talk_of(three)["s2"].time_ms + first.end_ms - first.start_ms
    )


def test_samples_are_sure_alone_and_spread_over_the_recording():
    turns = [
        RecognisedTurn(tuple(spoken("One two three four five six seven eight.", start=k * 10_000)), "s1")
        for k in range(9)
    ]
    project = set_turns(Project(), turns, [Speaker("s1"), Speaker("s2")], "en")
    unsure = [
        replace(turn, words=tuple(replace(word, sure=0.3 if k % 3 else 0.9) for word in turn.words))
        for k, turn in enumerate(project.transcript.turns)
    ]
    project = replace(project, transcript=replace(project.transcript, turns=tuple(unsure)))
    assert [start // 10_000 for start, _ in voice_samples(project, "s1")] == [0, 3, 6]
    assert voice_samples(project, "s2") == []


# -- splitting, and who speaks at the same time ----------------------------------------------


def test_a_speaker_is_split_in_two_and_words_stay(three):
    ids = {word.id for word in three.transcript.turns[2].words}
    project, other = split_speaker(three, "s1", ids)
    assert shape(project) == [
        ("s1", "One two three."),
        ("s2", "Four five six."),
        (other, "Seven eight nine."),
    ]
    assert project.transcript.turns[0] is three.transcript.turns[0] and words(project) == words(three)


def test_those_who_speak_along_follow_merging_swapping_and_removing(three):
    along = assign_speakers(three, [0] * 3 + [1] * 3 + [0] * 3, [1.0] * 9, [1] + [-1] * 8)
    assert words(merge_speakers(along, "s2", "s1"))[0].also is None
    assert words(swap_speakers(along, "s1", "s2"))[0].also == "s1"
    assert words(remove_speaker(along, "s2"))[0].also is None


def test_words_over_which_somebody_speaks_are_found(encoder):

    from voices import speak

    lines = {
        "slt": "We steam the new oak until it bends and then we clamp it to the frame before it cools.",
        "rms": "The knees are sound though and the sternpost is the original as far as anybody can tell.",
    }
    parts, heard, over, at = [], [], [], 1.0
    for nth in range(6):
        voice = ("slt", "rms")[nth % 2]
        said = speak(lines[voice], voice)
        heard += [
            RecognisedWord(w.text, round((at + w.start) * 1000), round((at + w.end) * 1000))
            for w in said.words
        ]
        level = 0.09 / np.sqrt(np.mean(said.samples**2))
        parts.append((at, said.samples * level))
        if nth in (2, 3):
            other = speak("That is quite true and I remember it very well indeed.", ("rms", "slt")[nth % 2])
            begin = at + said.words[3].start
            parts.append((begin, other.samples * 0.09 / np.sqrt(np.mean(other.samples**2))))
            over.append((begin, begin + other.words[-1].end, nth))
        at += said.words[-1].end + 0.6
    sound = np.zeros(int((at + 1) * 16_000), np.float32)
    for start, piece in parts:
        first = int(start * 16_000)
        sound[first : first + len(piece)] += piece[: len(sound) - first]
    samples = (np.clip(sound, -1, 1) * 32767).astype(np.int16)
    voices = found_in(samples, heard, encoder, least=2, most=2)
    true = np.array([any(a < (w.start_ms + w.end_ms) / 2000 < b for a, b, _ in over) for w in heard])
    marked = voices.also >= 0
    assert marked[true].mean() > 0.75 and marked[~true].mean() < 0.03
    assert all(voices.also[k] != voices.labels[k] for k in np.flatnonzero(marked))


def test_words_of_two_channels_at_the_same_time_are_marked_in_both():
    turns = [
        RecognisedTurn(
            (
                RecognisedWord("Well,", 0, 400),
                RecognisedWord("the", 500, 600),
                RecognisedWord("boat", 620, 1000),
            ),
            "s1",
        ),
        RecognisedTurn((RecognisedWord("Yes.", 450, 800),), "s2"),
        RecognisedTurn((RecognisedWord("Good.", 1500, 1800),), "s1"),
    ]
    project = set_turns(Project(), turns, [Speaker("s1"), Speaker("s2")], "en")
    assert [word.also for word in words(with_overlaps(project))] == [None, "s2", None, "s1", None]
    alone = set_turns(Project(), turns[2:], [Speaker("s1")], "en")
    assert with_overlaps(alone) is alone


# -- kept voices ------------------------------------------------------------------------------


def test_a_person_is_known_again_in_another_recording_and_in_noise(talk):
    samples, heard, true = talk
    middle = len(heard) // 2
    prints = person_prints(samples, heard[:middle], true[:middle])
    for nth, row in enumerate(prints):
        keep_voice(f"Voice {nth}", row.tolist())
    noise = np.random.default_rng(5).standard_normal(len(samples)) * 300
    noisy = np.clip(samples + noise, -32768, 32767).astype(np.int16)
    again = person_prints(noisy, heard[middle:], true[middle:])
    assert names_of(again.tolist(), VOICES.read()) == {0: "Voice 0", 1: "Voice 1"}
    assert sum(true[middle:] == 2) == 1  # one word is too little to know the third by
    alike = (prints @ again.T)[:, :2]
    assert min(alike[0, 0], alike[1, 1]) > 0.75 and max(alike[0, 1], alike[1, 0]) < 0.4
    assert not person_prints(samples, heard, np.full(len(heard), 1))[0].any()


def test_kept_voices_propose_names_only_where_they_are_alike(talk):
    samples, heard, true = talk
    prints = person_prints(samples, heard, true)
    keep_voice("Isolde", prints[0])
    keep_voice("Tobiah", prints[1])
    assert names_of(prints.tolist(), VOICES.read()) == {0: "Isolde", 1: "Tobiah"}
    assert names_of([prints[2].tolist()], VOICES.read()) == {}
    keep_voice("Isolde", prints[2])
    assert [one.name for one in VOICES.read()] == ["Tobiah", "Isolde"]
    forget_voice("Isolde")
    assert [one.name for one in VOICES.read()] == ["Tobiah"]
    VOICES.path.write_text('{"voices": [{"name": "Of an earlier encoder", "print": [1.0]}]}')
    assert VOICES.read() == []
    VOICES.path.write_text("{")
    assert VOICES.read() == [] and names_of([], []) == {}


# -- the desk ---------------------------------------------------------------------------------


@pytest.fixture
def desk(window, three):
    window.session.open(three, None, saved=True)
    window.show_room("voices")
    return window


def test_the_list_shows_talk_and_acts_on_the_chosen_speaker(desk, qtbot):
    panel = desk.rooms["voices"].panel
    assert panel.list.count() == 2 and panel.heading.text() == "Speakers: 2"
    said = panel.list.item(0).data(Qt.ItemDataRole.AccessibleTextRole)
    assert said.startswith("Anna, no role") and "2 turns" in said
    assert panel.list.item(0).isSelected()  # the speaker of the turn at the caret
    panel.list.setFocus()
    qtbot.keyClick(panel.list, Qt.Key.Key_Down)
    desk.dialogs.speaker_facts = lambda speaker, known: (f"{speaker.name} Fenn", "Host")
    desk.commands.run("rename")
    assert desk.session.project.transcript.speakers[1] == Speaker("s2", "Ben Fenn", "Host")
    played = []
    desk.desk.play = lambda start, end: played.append((start, end))
    qtbot.keyClick(panel.list, Qt.Key.Key_Space)
    assert played == voice_samples(desk.session.project, "s2")[:1]
    qtbot.keyClicks(panel.list, "3")
    assert played.pop() == voice_samples(desk.session.project, "s2")[-1]
    qtbot.keyClick(panel.list, Qt.Key.Key_Escape)
    assert desk.sheet.hasFocus()
    desk.commands.run("play_speaker")
    desk.commands.run("play_speaker")
    assert played[1:] == voice_samples(desk.session.project, "s1")[:2]
    desk.commands.run("remove_speaker")
    assert panel.list.count() == 1
    desk.commands.run("undo")
    assert panel.list.count() == 2


def test_lanes_take_the_place_of_words_in_voices_only(desk):
    strip = desk.strip
    assert strip.left > 0 and strip.x_of(0) == strip.left and strip.ms_at(strip.left) == 0
    many = replace(desk.session.project.transcript, speakers=tuple(Speaker(f"s{k}") for k in range(1, 41)))
    desk.session.apply(replace(desk.session.project, transcript=many), "Many", base=desk.session.project)
    places = lane_places(desk.session.project, desk.session.talk())
    assert max(places.values()) == 7 and places["s1"] != places["s2"] and strip.height() >= 8 * LANE
    desk.grab()
    desk.show_room("wording")
    assert strip.left == 0 and strip.height() == 130


def test_several_selected_turns_are_given_in_one_step(desk):
    spot = type(desk.sheet.caret)
    desk.sheet.move_caret(spot(0, 4))
    desk.sheet.move_caret(spot(2, 5), keep=True)
    desk.commands.run("speaker_2")
    assert shape(desk.session.project) == [
        ("s1", "One"),
        ("s2", "two three."),
        ("s2", "Four five six."),
        ("s2", "Seven"),
        ("s1", "eight nine."),
    ]
    desk.commands.run("undo")
    assert len(desk.session.project.transcript.turns) == 3
    desk.dialogs.speaker = lambda question, choices: choices[1]
    desk.sheet.move_caret(spot(0, 0))
    desk.commands.run("speaker_other")
    assert desk.session.project.transcript.turns[0].speaker == "s2"


def test_paragraphs_by_command_and_by_hand(desk, qtbot):
    text = " ".join(f"Sentence number {k} has some seven words." for k in range(30))
    long = set_turns(Project(), [RecognisedTurn(tuple(spoken(text)), "s1")], [Speaker("s1", "Anna")], "en")
    desk.session.open(long, None, saved=True)
    desk.dialogs.paragraph_length = lambda: 40
    desk.commands.run("paragraphs")
    count = len(desk.sheet.turns)
    assert count > 3
    desk.commands.run("paragraphs")
    assert "already have that length" in desk.message.text() and len(desk.sheet.turns) == count
    desk.sheet.move_caret(type(desk.sheet.caret)(1, 0))
    qtbot.keyClick(desk.sheet, Qt.Key.Key_Backspace)
    assert len(desk.sheet.turns) == count - 1


def test_rttm_is_opened_beside_a_transcript(desk, tmp_path):
    path = tmp_path / "who.rttm"
    a, b = words(desk.session.project)[2:4]
    rows = [(0, a.start_ms, "Cleo"), (a.start_ms, 60_000, "Ben"), (a.start_ms, b.end_ms, "Anna")]
    path.write_text(
        "".join(f"SPEAKER x 1 {s / 1000} {(e - s) / 1000} <NA> <NA> {n} <NA> <NA>\n" for s, e, n in rows)
    )
    taken = []
    desk.dialogs.proposals = lambda present, proposed, changes, hear: taken.extend(changes) or changes
    assert desk.filing.open_path(path) and taken
    assert shape(desk.session.project)[0] == (desk.session.project.transcript.speakers[2].id, "One two")
    assert [one.name for one in desk.session.project.transcript.speakers] == ["Anna", "Ben", "Cleo"]
    assert words(desk.session.project)[3].also == "s1"
    asked = []
    desk.dialogs.yes = lambda question, go="": asked.append(question)
    path.write_text("SPEAKER x 1 7000 10 <NA> <NA> Far <NA> <NA>\n")
    before = desk.session.project
    desk.filing.open_path(path)
    assert "another recording" in asked[0] and desk.session.project == before
    desk.session.open(Project(), None, saved=True)
    assert (
        not desk.filing.open_path(path)
        and "Open the transcript of the recording first" in desk.message.text()
    )


def test_music_has_no_speakers_and_says_so(tmp_path, capsys):
    time = np.arange(6 * RATE) / RATE
    chord = sum(np.sin(2 * np.pi * pitch * time) for pitch in (220.0, 277.2, 329.6)) * 0.2
    path = write_wav(tmp_path / "music.wav", chord * (0.6 + 0.4 * np.sin(2 * np.pi * 0.5 * time)))
    assert main(["speakers", str(path), "-o", str(tmp_path / "o.rttm"), "--quiet"]) == 2
    said = capsys.readouterr().err
    assert "No speech was found" in said and "music.wav" in said and not (tmp_path / "o.rttm").exists()


def test_convert_takes_speakers_from_rttm(three, tmp_path):
    write_checked(three, tmp_path / "in.json")
    end = words(three)[-1].end_ms / 1000 + 1
    (tmp_path / "who.rttm").write_text(f"SPEAKER x 1 0 {end} <NA> <NA> Cleo_Marsh <NA> <NA>\n")
    out = tmp_path / "out.vtt"
    assert (
        main(
            [
                "convert",
                str(tmp_path / "in.json"),
                str(out),
                "--speakers",
                str(tmp_path / "who.rttm"),
                "--quiet",
            ]
        )
        == 0
    )
    assert "<v Cleo Marsh>" in out.read_text() and "Anna" not in out.read_text()


def test_a_share_of_words_tells_another_recording(three):
    assert share_covered(three, [SpeakerPassage(0, 60_000, "A")]) == 1.0
    assert share_covered(three, []) == 0.0


def test_dialogs_of_names_and_splits(desk, qtbot):
    dialog = SpeakerDialog(Speaker("s1"), ["Tobiah"], desk)
    qtbot.addWidget(dialog)
    assert not dialog.go.isEnabled()
    dialog.name.setText("  Tobiah   Fenn ")
    dialog.role.setCurrentText("Guest")
    assert dialog.go.isEnabled() and dialog.facts() == ("Tobiah Fenn", "Guest")
    heard = []
    split = SplitDialog(desk.session.project, ("s1", "s2"), lambda a, b: heard.append(a), desk)
    qtbot.addWidget(split)
    for one in split.samples:
        one.click()
    assert len(heard) == len(split.samples) == 3


def test_while_it_plays_a_key_gives_the_turn_that_is_heard(window, qtbot, film, film_words):
    window.filing.open_path(film)
    project = rename_speaker(add_heard(window.session.project, film_words), "s1", "")
    labels = [0] * len(film_words)
    window.session.apply(
        assign_speakers(project, labels, [0.9] * len(labels), None), "Words", base=window.session.project
    )
    window.dialogs.speaker_facts = lambda speaker, known: ("Second", "")
    window.show_room("voices")
    turns = window.sheet.turns
    window.sheet.move_caret(type(window.sheet.caret)(0, 0))
    window.player.seek(turns[3].start_ms + 400)
    window.player.play()
    qtbot.waitUntil(lambda: window.player.playing and window.player.position > turns[3].start_ms)
    window.commands.run("speaker_2")
    window.player.pause()
    one, two = (who.id for who in window.session.project.transcript.speakers)
    assert [turn.speaker for turn in window.sheet.turns][:5] == [one, one, one, two, one]
    assert window.sheet.caret.turn == 0
    window.commands.run("speaker_2")  # paused: the turn at the caret
    assert window.sheet.turns[0].speaker == two


def test_voices_are_split_kept_and_proposed_again_on_the_desk(window, qtbot, film):
    import json

    rows = json.loads((DEMO / "heron-film.truth.json").read_text())["turns"][:4]
    said = [RecognisedWord(*word) for row in rows for word in row["words"]]
    window.filing.open_path(film)
    project = add_heard(window.session.project, said)
    one = assign_speakers(project, [0] * len(said), [1.0] * len(said))
    everybody = one.transcript.speakers[0].id
    window.session.apply(rename_speaker(one, everybody, "Everybody"), "One", base=window.session.project)
    shown = []
    window.dialogs.split = lambda project, both, hear: shown.append(both) or True
    window.show_room("voices")
    window.commands.run("split")
    qtbot.waitUntil(lambda: len(window.session.project.transcript.speakers) == 2)
    names = list(dict.fromkeys(row["speaker"] for row in rows))
    true = {word[1]: names.index(row["speaker"]) for row in rows for word in row["words"]}
    owners = window.session.project.transcript.speaker_of
    groups = np.array([[true[w.start_ms], owners[w.id] == everybody] for w in words(window.session.project)])
    agreement = np.mean(groups[:, 0] == groups[:, 1])
    assert max(agreement, 1 - agreement) > 0.9 and shown[0][0] == everybody and len(shown) == 1
    longest = max(window.session.project.transcript.turns, key=lambda turn: turn.end_ms - turn.start_ms)
    window.sheet.move_caret(type(window.sheet.caret)(window.sheet.turns.index(longest), 0))
    window.session.apply(
        rename_speaker(window.session.project, longest.speaker, "Isolde"), "Name", base=window.session.project
    )
    window.commands.run("keep_voice")
    qtbot.waitUntil(lambda: bool(VOICES.read()))
    kept = window.session.project
    asked = []
    window.dialogs.yes = lambda question, go="": asked.append(question) or True
    window.session.apply(
        add_heard(replace(project, transcript=replace(project.transcript, turns=())), said),
        "Again",
        base=window.session.project,
    )
    window.dialogs.speaker_count = lambda: "2"
    window.commands.run("speakers")
    qtbot.waitUntil(lambda: bool(window.session.project.transcript.speakers))
    assert any("Isolde" in one for one in asked)
    named = [one.id for one in window.session.project.transcript.speakers if one.name == "Isolde"]
    assert len(named) == 1
    mine = {
        w.start_ms
        for turn in window.session.project.transcript.turns
        if turn.speaker == named[0]
        for w in turn.words
    }
    theirs = {
        w.start_ms for turn in kept.transcript.turns if turn.speaker == longest.speaker for w in turn.words
    }
    assert len(mine & theirs) > 0.8 * len(mine | theirs)
    window.dialogs.kept_voice = lambda names: names[0]
    window.commands.run("forget_voice")
    assert VOICES.read() == []


def test_with_a_house_style_with_names_the_names_follow(desk, qtbot):
    desk.show_room("captions")
    style = replace(DEFAULT_STYLE, names="change")
    desk.session.apply(set_again(desk.session.project, style), "Set captions", base=desk.session.project)
    assert desk.stanzas.column.block(0).text.lines == ("Anna: One two three.",)
    desk.session.apply(
        rename_speaker(desk.session.project, "s1", "Annabel"), "Name", base=desk.session.project
    )
    assert desk.stanzas.column.block(0).text.lines == ("Annabel: One two three.",)
    desk.show_room("voices")
    desk.sheet.move_caret(type(desk.sheet.caret)(1, 0))
    desk.commands.run("speaker_1")
    lines = [list(desk.stanzas.build(one).text.lines) for one in desk.stanzas.captions]
    assert lines == [["Annabel: One two three."], ["Four five six."], ["Seven eight nine."]]
    desk.commands.run("undo")
    assert desk.stanzas.build(desk.stanzas.captions[1]).text.lines == ("Ben: Four five six.",)
    desk.findings.settle()
