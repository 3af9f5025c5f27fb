"""Changing the wording never costs a time that could be kept."""

import random

from conftest import DEMO, spoken, words
from recordings import caption_lines

from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.times import move_edge
from dubrel.edits.intake import add_heard, appended_words
from dubrel.edits.speakers.voices import add_speaker, give_turn, rename_speaker
from dubrel.edits.words.wording import (
    accept_word,
    join_turn,
    replace_range,
    replace_text,
    set_proofed,
    split_turn,
)
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Timing
from dubrel.project.history import History


def first(project):
    return project.transcript.turns[0]


def edit(project, old, new):
    chosen = next(turn for turn in project.transcript.turns if old in turn.text)
    at = chosen.text.index(old)
    return replace_text(project, chosen.id, at, at + len(old), new)


def test_a_changed_word_keeps_its_slot_and_its_neighbours_are_the_same_objects(boards):
    after = edit(boards, "tired.", "rotten.")
    before, now = first(boards).words, first(after).words
    at = [word.text for word in now].index("rotten.")
    assert (now[at].start_ms, now[at].end_ms, now[at].id) == (
        before[at].start_ms,
        before[at].end_ms,
        before[at].id,
    )
    assert all(a is b for k, (a, b) in enumerate(zip(before, now)) if k != at)


def test_added_words_share_the_gap(boards):
    before = first(boards).words
    after = edit(boards, "oak, and", "oak, old and")
    now = first(after).words
    added = next(word for word in now if word.text == "old")
    oak = next(word for word in now if word.text == "oak,")
    follower = now[now.index(added) + 1]
    assert oak.end_ms == added.start_ms <= added.end_ms == follower.start_ms
    assert added.timing is Timing.TYPED
    assert oak is before[1] and follower is before[2]


def test_a_word_split_in_two_shares_its_slot(boards):
    after = edit(boards, "sternpost", "stern post")
    old = next(word for word in words(boards) if word.text == "sternpost")
    place = words(boards).index(old)
    stern, post = words(after)[place : place + 2]
    assert (stern.text, post.text) == ("stern", "post")
    assert old.start_ms == stern.start_ms < stern.end_ms == post.start_ms < post.end_ms == old.end_ms
    assert stern.id == old.id


def test_two_words_made_one_span_both(boards):
    after = edit(boards, "put your", "putyour")
    one = next(word for word in words(after) if word.text == "putyour")
    put, your = (next(word for word in words(boards) if word.text == text) for text in ("put", "your"))
    assert (one.start_ms, one.end_ms) == (put.start_ms, your.end_ms)


def test_deleted_words_leave_their_time_free(boards):
    after = edit(boards, " bottom boards", "")
    assert any(turn.text.startswith("The at the stern") for turn in after.transcript.turns)
    kept = [word for word in words(boards) if word.text not in ("bottom", "boards")]
    assert words(after) == kept


def test_a_turn_without_words_goes(boards):
    turn = first(boards)
    assert (
        replace_text(boards, turn.id, 0, len(turn.text), "").transcript.turns == boards.transcript.turns[1:]
    )


def test_writing_the_same_changes_nothing(boards):
    assert edit(boards, "oak,", "oak,") is boards
    assert replace_text(boards, first(boards).id, 3, 3, "") is boards


def test_random_edits_against_plain_text():
    """Whatever is typed, the text is what a text editor would hold, times stay in order, ids stay unique."""
    chance = random.Random(3)
    project = add_heard(Project(), spoken("one two three four five six seven eight nine ten"))
    project = set_again(project, DEFAULT_STYLE)
    for _ in range(600):
        if not project.transcript.turns:
            break
        turn = first(project)
        start = chance.randrange(len(turn.text) + 1)
        end = min(len(turn.text), start + chance.choice([0, 0, 0, 1, 2, 9]))
        text = chance.choice(["a", "bc", " ", " d ", "", "e f", "gh ij kl", "ñ"])
        expected = " ".join((turn.text[:start] + text + turn.text[end:]).split())
        untouched_before = [w for w, o in zip(turn.words, turn.offsets) if o + len(w.text) < start]
        project = replace_text(project, turn.id, start, end, text)
        if not expected:
            break
        now = first(project)
        assert now.text == expected
        assert now.words[: len(untouched_before)] == tuple(untouched_before)
        assert all(word.start_ms <= word.end_ms for word in now.words)
        assert all(a.start_ms <= b.start_ms for a, b in zip(now.words, now.words[1:]))
        ids = [word.id for word in now.words]
        assert len(ids) == len(set(ids)) and max(ids) < project.next_id
        held = [one for caption in project.captions.captions for one in caption.words]
        assert held == ids


def test_captions_show_a_correction_at_once(boards):
    project = set_again(boards, DEFAULT_STYLE)
    after = edit(project, "tired.", "rotten through.")
    lines = caption_lines(after, after.captions.captions[0])
    assert " ".join(lines) == "Mostly oak, and most of it rotten through."
    assert after.captions.captions[1:] == project.captions.captions[1:]


def test_a_line_break_moves_on_when_its_word_goes(boards):
    project = set_again(boards, DEFAULT_STYLE)
    caption = next(one for one in project.captions.captions if one.breaks)
    mark = next(word for word in words(project) if word.id == caption.breaks[0])
    turn = next(turn for turn in project.transcript.turns if mark.id in turn.index_of)
    at = turn.offsets[turn.index_of[mark.id]]
    after = replace_text(project, turn.id, at, at + len(mark.text) + 1, "")
    changed = next(one for one in after.captions.captions if one.id == caption.id)
    assert changed.breaks == (caption.words[caption.words.index(mark.id) + 1],)


def test_split_and_join_turns(boards):
    turn = first(boards)
    at = turn.text.index("most of")
    halves = split_turn(boards, turn.id, at)
    assert [one.text for one in halves.transcript.turns[:2]] == [turn.text[: at - 1], turn.text[at:]]
    joined = join_turn(halves, halves.transcript.turns[1].id)
    assert first(joined).words == turn.words
    assert split_turn(boards, turn.id, 0) is boards
    assert join_turn(boards, turn.id) is boards


def test_splitting_inside_a_word_splits_the_word(boards):
    turn = first(boards)
    after = split_turn(boards, turn.id, turn.text.index("tired") + 2)
    assert after.transcript.turns[0].text.endswith(" ti")
    assert after.transcript.turns[1].text.startswith("red.")


def test_a_range_over_several_turns(boards):
    turns = boards.transcript.turns
    assert len(turns) >= 3
    after = replace_range(boards, (turns[0].id, 7), (turns[2].id, 4), "pine. Those ")
    assert first(after).text == "Mostly pine. Those " + turns[2].text[4:]
    assert len(after.transcript.turns) == len(turns) - 2


def test_proofed_and_accepted_words_have_no_doubt(boards):
    from dubrel.base.value import replace as change

    turn = first(boards)
    doubtful = change(turn, words=tuple(change(word, doubt=0.8) for word in turn.words))
    project = change(
        boards, transcript=change(boards.transcript, turns=(doubtful, *boards.transcript.turns[1:]))
    )
    accepted = accept_word(project, turn.id, turn.words[1].id)
    assert [word.doubt for word in first(accepted).words[:3]] == [0.8, 0.0, 0.8]
    proofed = set_proofed(project, turn.id, True)
    assert first(proofed).proofed and not any(word.doubt for word in first(proofed).words)


def test_speakers(boards):
    project, isolde = add_speaker(boards, "Isolde")
    project, tobiah = add_speaker(project, "Tobiah")
    project = give_turn(project, first(project).id, tobiah)
    project = rename_speaker(project, tobiah, "Tobiah Fenn")
    assert project.transcript.speaker(first(project).speaker).name == "Tobiah Fenn"
    assert isolde != tobiah
    assert give_turn(project, first(project).id, tobiah) is project


def test_undo_brings_back_the_very_same_value(boards):
    history = History(boards)
    values = [boards]
    for text in ("rotten.", "gone.", "fine."):
        history.apply(edit(history.present, first(history.present).words[-1].text, text), "Type")
        values.append(history.present)
    for expected in reversed(values[:-1]):
        history.undo()
        assert history.present == expected
    assert history.undo() is None
    for expected in values[1:]:
        history.redo()
        assert history.present == expected
    assert history.redo() is None


def test_letters_of_one_word_are_one_step(boards):
    history = History(boards)
    turn = first(boards)
    for place, letter in enumerate("new"):
        history.apply(replace_text(history.present, turn.id, place, place, letter), "Type", "type-1")
    history.seal()
    history.apply(edit(history.present, "newMostly", "Mostly"), "Type", "type-1")
    assert history.depth == 2
    history.undo()
    history.undo()
    assert history.present == boards


def test_words_that_arrive_survive_the_undo_of_an_edit(boards):
    history = History(boards)
    history.apply(edit(boards, "oak,", "ash,"), "Type")
    more = spoken("And then some.", start=60_000)
    history.amend(appended_words(more, history.present.next_id))
    assert [word.text for word in words(history.present)][-3:] == ["And", "then", "some."]
    history.undo()
    texts = [word.text for word in words(history.present)]
    assert texts[1] == "oak," and texts[-1] == "some."


def test_an_edge_stops_at_its_neighbour(boards):
    project = set_again(boards, DEFAULT_STYLE)
    one, two = project.captions.captions[:2]
    moved = move_edge(project, one.id, "out", two.end_ms).captions.captions[0]
    assert moved.end_ms == two.start_ms - 80
    moved = move_edge(project, two.id, "in", 0).captions.captions[1]
    assert moved.start_ms == one.end_ms + 80
    moved = move_edge(project, two.id, "in", two.end_ms + 5000).captions.captions[1]
    assert moved.start_ms == two.end_ms - 100


# -- typed words are found in the sound ---------------------------------------------


def test_only_typed_words_are_lined_up_again_and_only_if_unchanged(boards):
    from dubrel.edits.words.typedtimes import typed_runs, with_times

    turn = boards.transcript.turns[0]
    assert typed_runs(turn) == []
    edited = replace_text(boards, turn.id, 0, 0, "Nearly all of it is ")
    turn = edited.transcript.turns[0]
    [run] = typed_runs(turn)
    assert run.texts == ("Nearly", "all", "of", "it", "is", "Mostly") and run.lead == 0
    edited = replace_text(boards, boards.transcript.turns[0].id, 11, 11, " old")
    turn = edited.transcript.turns[0]
    [run] = typed_runs(turn)
    assert run.texts == ("oak,", "old", "and") and run.lead == 1
    gap = (turn.words[1].end_ms, turn.words[3].start_ms)
    found = [
        RecognisedWord("oak,", 0, 10),
        RecognisedWord("old", gap[0] + 30, gap[1] + 500),
        RecognisedWord("and", 0, 0),
    ]
    timed = with_times(edited, run, found)
    old = timed.transcript.turns[0].words[2]
    assert (old.start_ms, old.end_ms) == (gap[0] + 30, gap[1]) and old.timing is Timing.ALIGNED
    assert timed.transcript.turns[0].words[1] is turn.words[1]
    assert with_times(boards, run, found) is boards
    spread = [RecognisedWord(one.text, one.start_ms, one.end_ms, timing=Timing.SPREAD) for one in found]
    assert with_times(edited, run, spread) is edited


def test_a_retyped_word_gets_its_time_from_the_sound_by_itself(window, qtbot, film):
    import json

    from dubrel.edits.intake import set_turns

    rows = json.loads((DEMO / "heron-film.truth.json").read_text())["turns"]
    turns = [RecognisedTurn(tuple(RecognisedWord(*word) for word in row["words"])) for row in rows]
    window.filing.open_path(film)
    window.session.apply(
        set_turns(window.session.project, turns, (), "en"), "Words", base=window.session.project
    )
    turn = window.session.project.transcript.turns[1]
    true = dict(enumerate(turn.words))
    start = turn.offsets[5]
    end = turn.offsets[7] + len(turn.words[7].text)
    said = turn.text[start:end]
    one = replace_text(window.session.project, turn.id, start, end, "x")
    window.session.apply(one, "Type", base=window.session.project)
    window.session.apply(
        replace_text(one, turn.id, start, start + 1, said), "Type", base=window.session.project
    )
    typed = window.session.project.transcript.turns[1].words[5:8]
    assert {word.timing for word in typed} == {Timing.TYPED}
    qtbot.waitUntil(lambda: window.session.project.transcript.turns[1].words[6].timing is Timing.ALIGNED)
    for k, word in enumerate(window.session.project.transcript.turns[1].words[5:8], 5):
        assert abs(word.start_ms - true[k].start_ms) <= 60
    window.commands.run("undo")
    assert "x" in window.session.project.transcript.turns[1].text.split()


def test_lining_up_in_the_background_leaves_what_was_undone_as_it_was(window, boards):
    from functools import partial

    from dubrel.edits.words.typedtimes import typed_runs, with_times

    session = window.session
    session.open(boards, None, saved=True)
    turn = boards.transcript.turns[0]
    session.apply(replace_text(boards, turn.id, 11, 11, " old"), "Type", base=session.project)
    one = session.project
    session.apply(replace_text(one, turn.id, 0, 6, "Nearly"), "Type", base=session.project)
    other = session.project
    session.undo()
    [run] = typed_runs(one.transcript.turns[0])
    gap = one.transcript.turns[0].words[1].end_ms
    heard = [RecognisedWord(text, gap + 5, gap + 20) for text in run.texts]
    session.amend(partial(with_times, run=run, heard=heard))
    assert session.project.transcript.turns[0].words[2].timing is Timing.ALIGNED
    session.redo()
    assert session.project.transcript.turns[0].text == other.transcript.turns[0].text
    assert session.project.transcript.turns[0].words[2].timing is Timing.ALIGNED
