"""Where two activities meet: what went wrong there once, each with the way it must go."""

from functools import partial

import pytest
from conftest import spoken, words
from recordings import caption_lines, to_json

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.auditfixes import audit_cues, repaired
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.times import Move, move_edge, moved
from dubrel.edits.captions.trackchecks import check_track
from dubrel.edits.intake import add_heard, appended_words, from_cues
from dubrel.edits.words.typedtimes import typed_runs, with_times
from dubrel.edits.words.unscripted import take_in, with_unscripted
from dubrel.edits.words.wording import replace_range, replace_text, split_turn
from dubrel.jobs.machinery.events import CaptionsSet, Recognised
from dubrel.jobs.machinery.fold import arrival, fold
from dubrel.model import (
    Audit,
    AuditedCaption,
    Caption,
    CaptionTrack,
    Course,
    Cue,
    Note,
    Project,
    RecognisedWord,
    Timing,
)
from dubrel.project.captiontext import text_of, words_in_no_caption
from dubrel.project.changes import change_between
from dubrel.project.history import History
from dubrel.project.index import captions_of, index_of, notes_on, translations_of, turn_of, turn_place
from dubrel.project.queries import caption_at, captions_between
from dubrel.project.tracks import with_track
from dubrel.store.projectfile import from_json

HOUR = 3_600_000


@pytest.fixture
def captioned(boards):
    return set_again(boards, DEFAULT_STYLE)


def held(project):
    """Every word that is in a caption, in order."""
    return [one for caption in project.captions.captions for one in caption.words]


def all_ids(project):
    return [word.id for word in words(project)]


def struck(project, *places):
    """The project with some words of its first turn struck."""
    turn = project.transcript.turns[0]
    new = tuple(replace(w, struck=True) if k in places else w for k, w in enumerate(turn.words))
    turns = (replace(turn, words=new), *project.transcript.turns[1:])
    return replace(project, transcript=replace(project.transcript, turns=turns))


# -- captions belong to words by id -------------------------------------------------------


def test_captions_shifted_by_an_hour_still_follow_the_wording(captioned):
    far = moved(captioned, Move(HOUR))
    turn = far.transcript.turns[0]
    edited = replace_text(far, turn.id, 0, 6, "Nearly all of it is")
    edited = replace_text(
        edited, turn.id, len("Nearly all of it is oak,"), len("Nearly all of it is oak, and"), ""
    )
    assert sorted(held(edited)) == sorted(all_ids(edited))
    assert caption_lines(edited, edited.captions.captions[0])[0].startswith("Nearly all")
    again = moved(edited, Move(-HOUR))
    assert [one.start_ms for one in again.captions.captions] == [
        one.start_ms for one in captioned.captions.captions
    ]


@pytest.mark.parametrize(("first", "last"), [(0, 0), (0, 1), (0, 2), (1, 1), (1, 2), (2, 2)])
def test_a_replacement_over_turns_and_what_is_typed_after_it_reach_the_captions(captioned, first, last):
    turns = captioned.transcript.turns
    begin, end = (turns[first].id, 3), (turns[last].id, len(turns[last].text) - 3)
    project = replace_range(captioned, begin, end, "something quite else")
    turn = project.transcript.turns[first]
    project = split_turn(project, turn.id, turn.text.index("quite"))
    turn = project.transcript.turns[first + 1]
    project = replace_text(project, turn.id, 5, 5, " and more of it")
    assert sorted(held(project)) == sorted(all_ids(project))
    shown = " ".join(line for one in project.captions.captions for line in caption_lines(project, one))
    assert shown == " ".join(word.text for word in words(project))
    assert not words_in_no_caption(project, project.captions)


def test_a_caption_longer_than_ten_seconds_is_seen_and_followed():
    cues = [Cue(1000, 40_000, ("one two three four",)), Cue(41_000, 42_000, ("five",))]
    project = from_cues(Project(), cues, "en")
    track = project.captions
    assert caption_at(track, 35_000) is track.captions[0] and caption_at(track, 40_500) is None
    assert list(captions_between(track, 39_000, 41_500)) == [track.captions[1], track.captions[0]]
    turn = turn_of(project, track.captions[0].words[-1])
    edited = replace_text(project, turn.id, 0, 3, "once upon")
    assert caption_lines(edited, edited.captions.captions[0])[0].startswith("once upon two")


def test_a_word_typed_beside_struck_ones_joins_the_caption_of_its_neighbour(captioned):
    project = struck(captioned, 0, 1)
    turn = project.transcript.turns[0]
    typed = replace_text(project, turn.id, turn.offsets[2] - 1, turn.offsets[2] - 1, " ash")
    assert sorted(held(typed)) == sorted(all_ids(typed))
    assert caption_lines(typed, typed.captions.captions[0])[0].startswith("ash and most")


def test_a_word_typed_into_a_turn_that_is_all_struck_gets_a_caption(boards):
    count = len(boards.transcript.turns[0].words)
    project = set_again(struck(boards, *range(count)), DEFAULT_STYLE)
    turn = project.transcript.turns[0]
    assert not captions_of(project, project.active, (word.id for word in turn.words))
    typed = replace_text(project, turn.id, len(turn.text), len(turn.text), " Sound.")
    assert not words_in_no_caption(typed, typed.captions)
    first = typed.captions.captions[0]
    assert caption_lines(typed, first) == ["Sound."]
    assert all(a.end_ms <= b.start_ms for a, b in zip(typed.captions.captions, typed.captions.captions[1:]))


def test_retyping_keeps_what_was_struck_and_who_speaks_along(captioned):
    turn = captioned.transcript.turns[0]
    new = tuple(
        replace(word, struck=k == 1, also="s9" if k == 2 else None) for k, word in enumerate(turn.words)
    )
    project = replace(
        captioned,
        transcript=replace(
            captioned.transcript, turns=(replace(turn, words=new), *captioned.transcript.turns[1:])
        ),
    )
    end = turn.offsets[2] + len(turn.words[2].text)
    typed = replace_text(project, turn.id, 0, end, "Mostly some ashwood and")
    assert [word.struck for word in typed.transcript.turns[0].words[:4]] == [False, True, True, False]
    assert [word.also for word in typed.transcript.turns[0].words[:4]] == [None, None, None, "s9"]


def test_a_mark_on_a_word_outside_its_caption_does_no_harm(captioned):
    track, first = captioned.captions, captioned.captions.captions[0]
    odd = replace(first, dashed=(9999,), named=(9998,), breaks=(9997, *first.breaks))
    project = with_track(captioned, replace(track, captions=(odd, *track.captions[1:])))
    turn = project.transcript.turns[0]
    typed = replace_text(project, turn.id, 6, 6, " ")
    typed = replace_text(typed, turn.id, 6, 6, " so")
    assert caption_lines(typed, typed.captions.captions[0])[0].startswith("Mostly so oak,")


def test_an_all_struck_caption_is_passed_over_by_audit_and_checks(captioned):
    first = captioned.captions.captions[0]
    places = [captioned.transcript.turns[0].index_of[one] for one in first.words]
    project = struck(captioned, *places)
    ids, cues = audit_cues(project)
    assert first.id not in ids and len(cues) == len(captioned.captions.captions) - 1
    report = Audit(
        tuple(
            AuditedCaption(
                n, cue.start_ms, cue.end_ms, "", 1.0, (cue.start_ms + 500, cue.end_ms + 500), "early"
            )
            for n, cue in enumerate(cues, 1)
        ),
        Course("shift", shift_ms=500),
        (),
    )
    fixed = repaired(project, report, ids, "course")
    starts = {one.id: one.start_ms for one in project.captions.captions}
    moves = {one.id: one.start_ms - starts[one.id] for one in fixed.captions.captions}
    assert moves.pop(first.id) == 0 and set(moves.values()) == {500}
    assert first.id not in check_track(project, project.captions)


def test_an_edge_of_a_caption_that_is_gone_or_overlapped_moves_as_far_as_it_can(captioned):
    assert move_edge(captioned, 123_456, "in", 5) is captioned
    one, two = captioned.captions.captions[:2]
    over = replace(one, end_ms=two.end_ms + 4000)
    project = with_track(captioned, replace(captioned.captions, captions=(over, two)))
    for edge in ("in", "out"):
        for ms in (0, two.start_ms - 50, two.end_ms + 9000):
            made = move_edge(project, two.id, edge, ms).captions.captions
            assert all(caption.start_ms < caption.end_ms for caption in made)


def test_words_in_no_caption_are_a_finding(captioned):
    track = captioned.captions
    lost = with_track(captioned, replace(track, captions=track.captions[1:]))
    [finding] = check_track(lost, lost.captions)[0]
    assert finding.rule == "no caption" and "Mostly oak," in finding.message


# -- tracks, texts, translations, notes -------------------------------------------------


@pytest.fixture
def two_languages(captioned):
    """The same captions in Hebrew, one for each of ours, and a sound description."""
    ours = captioned.captions
    theirs = tuple(
        Caption(900 + k, one.start_ms, one.end_ms, text=f"שורה {k}\nעוד", sources=(one.id,))
        for k, one in enumerate(ours.captions)
    )
    hebrew = CaptionTrack(899, "he", DEFAULT_STYLE, theirs, translates=ours.id)
    sound = Caption(990, 60_000, 62_000, text="[water]")
    project = with_track(captioned, replace(ours, captions=(*ours.captions, sound)))
    project = with_track(replace(project, next_id=1000), hebrew)
    return replace(project, active=ours.id)


def test_each_track_has_its_text_and_its_direction(two_languages):
    ours, hebrew = two_languages.tracks
    assert text_of(two_languages, hebrew, hebrew.captions[0]).lines == ("שורה 0", "עוד")
    assert text_of(two_languages, hebrew, hebrew.captions[0]).rtl
    assert text_of(two_languages, ours, ours.captions[-1]).lines == ("[water]",)
    assert not text_of(two_languages, ours, ours.captions[0]).rtl
    assert from_json(to_json(two_languages)).project == two_languages


def test_translations_are_found_by_what_they_translate_whatever_is_edited(two_languages):
    first = two_languages.captions.captions[0]
    [(track, caption)] = translations_of(two_languages, first.id)
    assert track.language == "he" and caption.id == 900
    turn = two_languages.transcript.turns[0]
    typed = replace_text(two_languages, turn.id, 0, 6, "Nearly all")
    assert [one.id for _, one in translations_of(typed, first.id)] == [900]
    assert typed.tracks[1] is two_languages.tracks[1]
    gone = replace_text(typed, turn.id, 0, len(typed.transcript.turns[0].text), "")
    assert not list(translations_of(gone, first.id))
    assert gone.tracks[1].captions[0].text == "שורה 0\nעוד"  # what was translated is not lost
    again = set_again(typed, replace(DEFAULT_STYLE, max_cpl=20))
    sources = [one for caption in again.tracks[1].captions for one in caption.sources]
    assert set(sources) == {one.id for one in again.captions.captions if one.words}


def test_notes_stay_with_their_words(captioned):
    turn = captioned.transcript.turns[1]
    note = Note(5000, turn.words[2].start_ms, "Query", "Who?", (turn.words[2].id,))
    project = replace(captioned, notes=(note,), next_id=5001)
    at = turn.offsets[2]
    split = split_turn(project, turn.id, at)
    assert notes_on(split, [split.transcript.turns[2].words[0].id]) == {5000}
    gone = replace_text(
        project, turn.id, turn.offsets[1] + len(turn.words[1].text), at + len(turn.words[2].text), ""
    )
    assert gone.notes[0].words == (turn.words[1].id,)
    assert change_between(project, gone).notes == {5000}


def test_what_was_said_besides_the_script_is_added_where_there_is_no_text():
    project = with_unscripted(
        Project(), [RecognisedWord("Hello", 900, 1200), RecognisedWord("there", 1250, 1500)]
    )
    taken, word = take_in(project, project.notes[0].id)
    assert [w.text for w in words(taken)] == ["Hello", "there"] and words(taken)[0].id == word
    assert taken.notes == ()


# -- a change is a set of ids -----------------------------------------------------------


def test_two_edits_far_apart_are_two_turns_and_their_captions():
    story = " ".join(f"Sentence number {k} has some seven words." for k in range(900))
    project = set_again(add_heard(Project(), spoken(story)), DEFAULT_STYLE)
    first, last = project.transcript.turns[0], project.transcript.turns[-1]
    edited = replace_text(replace_text(project, first.id, 0, 8, "Phrase"), last.id, 0, 8, "Phrase")
    change = change_between(project, edited)
    assert change.turns == {first.id, last.id} and not change.captions
    typed = replace_text(edited, last.id, 0, 0, "Well ")
    assert change_between(project, typed).turns == {first.id, last.id}
    assert len(change_between(project, typed).captions[project.active]) == 1


def test_an_index_made_from_an_earlier_one_is_that_of_the_value_alone(captioned):
    project = captioned
    index_of(project)
    for step in range(12):
        turn = project.transcript.turns[step % len(project.transcript.turns)]
        project = replace_text(project, turn.id, 0, step % 5, "so " * (step % 3))
        alone = index_of(replace(project, index=None))
        kept = index_of(project)
        assert dict(kept.turn_of) == dict(alone.turn_of) and dict(kept.turns) == dict(alone.turns)
        track = project.active
        assert dict(kept.tracks[track].of_word) == dict(alone.tracks[track].of_word)
        assert all(turn_place(project, one.id) == k for k, one in enumerate(project.transcript.turns))


# -- what arrives while a person works ----------------------------------------------------


def test_an_arrival_reaches_every_value_after_its_beginning_and_none_before(boards):
    history = History(boards)
    turn = boards.transcript.turns[0]
    history.apply(replace_text(history.present, turn.id, 0, 0, "One "), "Type")
    mark = history.mark()
    history.apply(replace_text(history.present, turn.id, 0, 0, "Two "), "Type")
    more = appended_words(spoken("And more.", start=90_000), history.present.next_id)
    history.amend(more, mark)
    assert words(history.present)[-1].text == "more."
    history.undo()
    assert words(history.present)[0].text == "One" and words(history.present)[-1].text == "more."
    history.undo()
    assert history.present == boards and not history.holds(mark)
    later = appended_words(spoken("Later.", start=99_000), history.present.next_id)
    history.amend(later, mark)
    assert history.present == boards
    history.redo()
    assert words(history.present)[-1].text == "Later." and history.holds(mark)


def test_a_beginning_that_was_undone_and_replaced_gets_nothing_more(boards):
    history = History(boards)
    history.apply(replace(boards, title="Begun"), "Begin")
    mark = history.mark()
    history.undo()
    history.apply(replace(boards, title="Other"), "Other")
    history.amend(lambda project: replace(project, title="Arrived"), mark)
    assert history.present.title == "Other" and not history.holds(mark)


def test_ids_are_not_given_twice_after_an_undo(boards):
    history, turn = History(boards), boards.transcript.turns[0]
    history.apply(replace_text(boards, turn.id, 0, 0, "gone "), "Type")
    given = words(history.present)[0].id
    history.undo()
    history.apply(replace_text(history.present, turn.id, 0, 0, "new "), "Type")
    assert words(history.present)[0].id > given


def test_words_that_arrive_are_the_same_objects_in_all_values(boards):
    history, turn = History(boards), boards.transcript.turns[0]
    for nth in range(20):
        history.apply(replace_text(history.present, turn.id, 0, 0, f"w{nth} "), "Type")
    mark = history.mark()
    for nth in range(10):
        heard = spoken("Some more words. And others.", start=100_000 + nth * 20_000)
        history.amend(appended_words(heard, history.present.next_id), mark)
    history2 = History(boards)
    history2.apply(replace(boards, title="x"), "x")
    early = appended_words(spoken("Shared words.", start=90_000), 5000)
    history2.amend(early)
    now = words(history2.present)[-1]
    history2.undo()
    assert words(history2.present)[-1] is now


def test_captions_that_were_set_for_an_earlier_value_follow_what_was_edited_meanwhile(boards):
    made = set_again(boards, DEFAULT_STYLE)
    turn = boards.transcript.turns[0]
    present = replace_text(boards, turn.id, 0, 6, "Nearly all of it")
    present = replace(present, next_id=made.next_id + 50)
    present = replace_text(present, turn.id, 0, 0, "Well ")
    taken = fold(present, CaptionsSet(made))
    assert sorted(held(taken)) == sorted(all_ids(taken))
    assert caption_lines(taken, taken.captions.captions[0])[0].startswith("Well Nearly all of it")


def test_the_same_event_gives_the_same_ids_in_every_value(boards):
    event = Recognised(tuple(spoken("And then some.", start=90_000)))
    step = arrival(event, 7000)
    one, other = step(boards), step(replace(boards, title="Other"))
    assert one.transcript.turns[-1] is other.transcript.turns[-1]
    assert fold(boards, event).transcript.turns[-1].text == "And then some."


def test_typed_words_get_their_times_in_values_that_come_back(boards):
    history, turn = History(boards), boards.transcript.turns[0]
    history.apply(replace_text(boards, turn.id, 11, 11, " old"), "Type")
    [run] = typed_runs(history.present.transcript.turns[0])
    history.apply(replace_text(history.present, turn.id, 0, 6, "Nearly"), "Type")
    gap = history.present.transcript.turns[0].words[1].end_ms
    found = [RecognisedWord(text, gap + 5, gap + 20) for text in run.texts]
    history.amend(partial(with_times, run=run, heard=found))
    history.undo()
    assert history.present.transcript.turns[0].words[2].timing is Timing.ALIGNED
