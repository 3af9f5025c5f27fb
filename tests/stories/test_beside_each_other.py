"""Captions, translations and text from elsewhere beside each other: what was lost or wrong once."""

import json

import pytest
from conftest import spoken, words
from random_checks import check_project, check_saved

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.captions.setting.textlines import best_text
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.rewriting import rewritten
from dubrel.edits.captions.shape import hide_words, move_words, set_place, split_caption
from dubrel.edits.captions.times import Move, moved, moved_times, retimed
from dubrel.edits.captions.trackchecks import captions_touched, check_track
from dubrel.edits.intake import add_heard, from_cues, set_turns
from dubrel.edits.notes import CHAPTER, with_note
from dubrel.edits.speakers.assigning import give_these
from dubrel.edits.speakers.voices import give_turn
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.replacing import Sought, found_in
from dubrel.edits.translation.track import (
    approve,
    begin_track,
    mirrored,
    source_changes,
    write_first,
    write_translation,
)
from dubrel.edits.words.importing import with_text_of
from dubrel.edits.words.pasting import pasted
from dubrel.edits.words.striking import struck
from dubrel.edits.words.terms import with_term
from dubrel.edits.words.wording import replace_text, split_turn
from dubrel.formats.texts.chapters import chapters_of
from dubrel.model import (
    Caption,
    CaptionTrack,
    Cue,
    Look,
    Media,
    Project,
    RecognisedTurn,
    RecognisedWord,
    Released,
    Speaker,
    Term,
    Timing,
)
from dubrel.project.captiontext import text_of
from dubrel.project.followspeakers import speakers_followed
from dubrel.project.summary import differ, is_work, summary
from dubrel.project.tracks import with_captions, with_track
from dubrel.release.forms import FORMS
from dubrel.release.kits import Item, Kit, plan
from dubrel.release.readiness import not_ready
from dubrel.store.projectfile import from_json
from dubrel.store.projectjson import to_text
from dubrel.translation.choosing import changed_pairs, missing_tasks
from dubrel.translation.pairs import pairs_of, target_text

PEOPLE = [Speaker("s1", "Anna"), Speaker("s2", "Ben")]
SAID = "The old boat is dry. She carried flour and coal for sixty years. Then she was forgotten."


def talk(text=SAID, per_turn=99):
    said = spoken(text)
    turns = [
        RecognisedTurn(tuple(said[k : k + per_turn]), f"s{1 + k // per_turn % 2}")
        for k in range(0, len(said), per_turn)
    ]
    return set_again(set_turns(Project(), turns, PEOPLE, "en"), DEFAULT_STYLE)


def in_portuguese(project):
    """Every sentence translated by its number."""
    project, track_id = begin_track(project, "pt")
    tasks = missing_tasks(project, project.track(track_id))
    found = [task.made(f"Frase número {nth} da casa.") for nth, task in enumerate(tasks, 1)]
    return with_translations(project, track_id, found), track_id


def again(project):
    """A project as it is opened after it was saved."""
    return from_json(json.loads(to_text(project)))


# -- imported captions -----------------------------------------------------------------------


def imported():
    cues = [Cue(k * 2000, k * 2000 + 1500, (f"Words of caption {k}.",)) for k in range(1, 7)]
    return from_cues(Project(), cues, "en")


@pytest.mark.parametrize("shift", [500, -900, 5000, -2000])
def test_shifting_some_imported_captions_keeps_the_order_of_words(shift):
    project = imported()
    chosen = project.captions.captions[2:4]
    some = [one.id for one in chosen]
    made = retimed(project, moved_times(Move(shift), chosen))
    check_project(made)
    opened = again(made)
    assert opened.fixed == () and [w.start_ms for w in words(opened.project)] == [
        w.start_ms for w in words(made)
    ]
    untouched = {one.id: one for one in project.captions.captions if one.id not in some}
    assert all(one == untouched[one.id] for one in made.captions.captions if one.id in untouched)


def test_words_in_no_caption_stay_when_the_caption_around_them_is_moved():
    project = imported()
    first, between, last = project.captions.captions[1:4]
    both = replace(first, words=first.words + last.words, end_ms=last.end_ms)
    project = with_captions(project, project.active, {first.id: both, between.id: None, last.id: None})
    made = retimed(project, moved_times(Move(9000), [both]))
    check_project(made, between.words)
    stayed = {word.id: word for word in words(project) if word.id in between.words}
    assert len(stayed) == 4 and all(word == stayed[word.id] for word in words(made) if word.id in stayed)


def test_captions_shifted_whole_take_their_words_along():
    project = imported()
    made = moved(project, Move(700))
    assert [w.start_ms - v.start_ms for v, w in zip(words(project), words(made))] == [700] * len(
        words(project)
    )


def test_a_shift_that_would_lose_captions_is_refused():
    with pytest.raises(DubrelError, match=r"2 captions would lie before the recording begins"):
        moved(imported(), Move(-5500))
    with pytest.raises(DubrelError, match="later than any recording ends"):
        moved(imported(), Move(400_000_000))


# -- who speaks, hidden and struck words ----------------------------------------------------------


def test_a_caption_cut_for_a_speaker_keeps_what_hands_gave_it():
    project = talk()
    one = project.captions.captions[0]
    hidden = one.words[1]
    dressed = replace(
        one,
        place="line:0",
        styled=((one.words[2], "i"),),
        hidden=(hidden,),
        held=("place", "text"),
        done=True,
    )
    project = with_captions(project, project.active, {one.id: dressed})
    made = speakers_followed(project, give_these(project, list(one.words[3:]), "s2"))
    first, second = made.captions.captions[:2]
    assert first.words == one.words[:3] and second.words[0] == one.words[3]
    assert (first.styled, first.hidden) == (((one.words[2], "i"),), (hidden,))
    for part in (first, second):
        assert (part.place, part.held, part.done) == ("line:0", ("place", "text"), True)


def test_a_caption_whose_shown_words_go_shows_the_hidden_ones():
    project = talk("One two three. Four five six.")
    one = project.captions.captions[0]
    project = hide_words(project, one.id, [one.words[0]])
    turn = project.transcript.turns[0]
    at = turn.offsets[1]
    end = turn.offsets[len(one.words) - 1] + len(turn.words[len(one.words) - 1].text)
    made = replace_text(project, turn.id, at, end, "")
    left = next(c for c in made.captions.captions if one.words[0] in c.words)
    assert text_of(made, made.captions, left).lines and one.words[0] not in left.hidden
    by_striking = struck(project, one.words[1:], True)
    shown = text_of(by_striking, by_striking.captions, by_striking.captions.captions[0])
    assert shown.lines == ("One",)


def test_a_hidden_word_that_is_no_longer_struck_shows_where_nothing_else_does():
    project = talk("One two three. Four five six.")
    one = project.captions.captions[0]
    project = hide_words(project, one.id, [one.words[0]])
    project = struck(project, one.words, True)
    made = struck(project, one.words[:1], False)
    caption = next(each for each in made.captions.captions if one.words[0] in each.words)
    assert caption.hidden == ()
    assert text_of(made, made.captions, caption).lines == ("One",)


def test_a_hidden_word_that_is_deleted_leaves_no_id():
    project = talk()
    one = project.captions.captions[0]
    project = hide_words(project, one.id, [one.words[1]])
    turn = project.transcript.turns[0]
    made = replace_text(project, turn.id, turn.offsets[1], turn.offsets[2], "")
    assert made.captions.captions[0].hidden == ()


def test_writing_in_a_caption_leaves_struck_and_hidden_words():
    project = talk("The old oak boat is dry.")
    one = project.captions.captions[0]
    project = struck(project, [one.words[1]], True)
    project = hide_words(project, one.id, [one.words[3]])
    made = rewritten(project, one.id, "A oak barge dry.")
    texts = [(word.text, word.struck) for word in words(made)]
    assert ("old", True) in texts and ("boat", False) in texts
    assert made.captions.captions[0].hidden == (one.words[3],)
    assert text_of(made, made.captions, made.captions.captions[0]).lines == ("A oak barge dry.",)


def test_new_paragraphs_have_captions_in_order():
    project = talk("Alpha beta gamma delta.")
    turn = project.transcript.turns[0]
    text = "Alpha beta.\n\nOne is new here.\n\nTwo is new here.\n\nThree is new here.\n\ngamma delta."
    made = pasted(project, (turn.id, 0), (turn.id, len(turn.text)), text)
    check_project(made)
    order = [word for caption in made.captions.captions for word in caption.words]
    assert order == [word.id for word in words(made)]


def test_two_people_at_once_share_a_caption_at_true_times():
    turns = [
        RecognisedTurn((RecognisedWord("Careful", 1000, 1600), RecognisedWord("there!", 1650, 2200)), "s1"),
        RecognisedTurn((RecognisedWord("I", 1200, 1300), RecognisedWord("know.", 1350, 1900)), "s2"),
    ]
    project = set_again(set_turns(Project(), turns, PEOPLE, "en"), DEFAULT_STYLE)
    [one] = project.captions.captions
    assert text_of(project, project.captions, one).lines == ("– Careful there!", "– I know.")
    assert one.start_ms <= 1000 and one.end_ms >= 2200


def test_long_talk_at_once_can_be_read():
    long = "a long sentence that goes on for quite some time and needs two lines of its own at least"
    first = [RecognisedWord(w, 1000 + k * 300, 1280 + k * 300) for k, w in enumerate(long.split())]
    second = [
        RecognisedWord(w, 1500 + k * 300, 1780 + k * 300) for k, w in enumerate(f"another {long}".split())
    ]
    turns = [RecognisedTurn(tuple(first), "s1"), RecognisedTurn(tuple(second), "s2")]
    project = set_again(set_turns(Project(), turns, PEOPLE, "en"), DEFAULT_STYLE)
    captions = project.captions.captions
    assert all(a.end_ms <= b.start_ms for a, b in zip(captions, captions[1:]))
    assert min(one.end_ms - one.start_ms for one in captions) >= 800


def test_captions_end_with_the_recording():
    project = talk(f"{SAID} No.", per_turn=17)
    end = words(project)[-1].end_ms
    media = Media("a.wav", "/a.wav", "", end + 5, channels=1, sample_rate=8000)
    made = set_again(replace(project, media=media), DEFAULT_STYLE, keep_held=False)
    assert project.captions.captions[-1].end_ms > end + 5 == made.captions.captions[-1].end_ms


# -- words and the index -----------------------------------------------------------------------------


def test_the_neighbour_of_a_caption_that_is_moved_away_is_checked_again():
    from dubrel.project.changes import change_between

    project = talk()
    track = project.captions
    moved_one = replace(track.captions[1], start_ms=90_000, end_ms=91_000)
    new = with_captions(project, track.id, {moved_one.id: moved_one})
    touched = captions_touched(change_between(project, new), new.captions)
    assert track.captions[0].id in touched
    split = split_turn(project, project.transcript.turns[0].id, project.transcript.turns[0].offsets[5])
    last = next(c for c in split.captions.captions if words(split)[4].id in c.words)
    assert last.id in captions_touched(change_between(project, split), split.captions)
    assert check_track(split, split.captions) is not None


def test_typing_where_turns_overlap_keeps_words_in_order():
    turns = [
        RecognisedTurn((RecognisedWord("one", 1000, 3000), RecognisedWord("two", 3000, 5000)), "s1"),
        RecognisedTurn((RecognisedWord("three", 3500, 3900),), "s2"),
    ]
    project = set_turns(Project(), turns, PEOPLE, "en")
    turn = project.transcript.turns[0]
    made = replace_text(project, turn.id, len(turn.text), len(turn.text), " more")
    starts = [word.start_ms for word in made.transcript.turns[0].words]
    assert starts == sorted(starts) and starts[0] == 1000


def test_moving_a_word_between_captions_that_overlap_gives_no_negative_time():
    project = talk()
    a, b = project.captions.captions[:2]
    close = {a.id: replace(a, start_ms=40, end_ms=200), b.id: replace(b, start_ms=60, end_ms=110)}
    project = with_captions(project, project.active, close)
    check_project(move_words(project, b.id, "in", -1))


# -- translations ----------------------------------------------------------------------------------


def approved(project, track_id):
    return approve(project, track_id, [one.id for one in project.track(track_id).captions])


@pytest.mark.parametrize("how", ["delete", "strike"])
def test_the_translation_of_a_sentence_that_went_is_to_be_looked_at(how):
    project, track_id = in_portuguese(talk())
    project = approved(project, track_id)
    gone = [word.id for word in words(project)[5:13]]
    if how == "strike":
        project = struck(project, gone, True)
    else:
        turn = project.transcript.turns[0]
        project = replace_text(project, turn.id, turn.offsets[5], turn.offsets[13], "")
    track = project.track(track_id)
    orphans = [pair for pair in pairs_of(project, track) if pair.is_orphan]
    assert orphans and all("número 2" in pair.target or "casa" in pair.target for pair in orphans)
    assert set(map(id, orphans)) <= set(map(id, [p for p in orphans if changed_pairs(project, track, [p])]))
    assert any("whose original has changed" in one.text for one in not_ready(project))


def test_an_orphan_is_watched_and_goes_with_what_has_changed(window):
    project, track_id = in_portuguese(talk())
    window.session.open(approved(project, track_id), None, saved=True)
    window.show_room("translation")
    room = window.rooms["translation"]
    room.show_track(track_id)
    turn = window.session.project.transcript.turns[0]
    window.session.step(
        lambda p: replace_text(p, turn.id, turn.offsets[5], turn.offsets[13], ""), "Delete a sentence"
    )
    room.findings.settle()
    assert [room.findings.doubts_of(one)[0].rule for one in room.findings.to_look_at] == ["changed"]
    window.commands.run("translate_changed")
    texts = [one.text for one in window.session.project.track(track_id).captions]
    assert not any("número 2" in text for text in texts) and len(texts) == 2


def test_translating_after_the_captions_were_shifted_gives_sound_times():
    project = moved(talk(), Move(3_600_000))
    made, track_id = in_portuguese(project)
    check_project(made)
    track = made.track(track_id)
    assert all(one.start_ms < one.end_ms for one in track.captions)
    assert track.captions[0].start_ms >= 3_600_000
    assert [f"número {nth}" in " ".join(c.text for c in track.captions) for nth in (1, 2, 3)] == [True] * 3


def test_a_word_is_in_one_translation_only():
    project = talk()
    project, track_id = begin_track(project, "pt")
    a, b = project.captions.captions[:2]
    project, first = write_first(project, track_id, [a.id, b.id], "Um.")
    project, second = write_first(project, track_id, [b.id, project.captions.captions[2].id], "Dois.")
    check_project(project)
    check_project(mirrored(project, track_id))
    assert first != second


def test_sources_follow_a_split_and_a_move():
    project, _ = in_portuguese(talk(per_turn=5))
    one = next(c for c in project.captions.captions if len(c.words) > 2)
    made = split_caption(project, one.id, one.words[2])
    check_project(made)
    check_project(move_words(made, made.captions.captions[0].id, "out", 1))


def test_a_translated_caption_that_is_empty_is_there_after_saving():
    project = talk()
    project, track_id = begin_track(project, "pt")
    project = mirrored(project, track_id)
    check_saved(project)
    assert len(again(project).project.track(track_id).captions) == len(project.captions.captions)


def japanese():
    said = [
        RecognisedWord(text, 1000 + k * 500, 1400 + k * 500)
        for k, text in enumerate("水門の そばに 船が あります。".split())
    ]
    return set_again(add_heard(Project(), said), DEFAULT_STYLE)


def test_written_spaces_between_japanese_words_stay():
    text = "ここは 水門の そばです。"
    assert best_text(text, DEFAULT_STYLE, "ja") == text
    assert target_text([Caption(1, 0, 1, text=text)]) == text
    assert target_text([Caption(1, 0, 1, text="水門の\nそばです。")]) == "水門のそばです。"


def test_a_phrase_over_a_line_break_and_whole_words_are_found_in_japanese():
    track = CaptionTrack(
        1, "ja", DEFAULT_STYLE, (Caption(2, 0, 900, text="古い水門の\nそばです。"),), translates=9
    )
    assert [one.id for one in found_in(track, Sought("水門のそば"))] == [2]
    assert [one.id for one in found_in(track, Sought("そば", whole=True))] == [2]
    spaced = replace(track, captions=(Caption(2, 0, 900, text="The old\nboat"),))
    assert found_in(spaced, Sought("old boat", whole=True)) and not found_in(spaced, Sought("ol", whole=True))


def test_masked_words_are_masked_on_facing_pages_and_in_exchange_forms(tmp_path):
    project, track_id = in_portuguese(talk("The wretched boat is dry."))
    one = project.track(track_id).captions[0]
    project = write_translation(project, track_id, one.id, "O barco wretched secou.")
    forms = [name for name, form in FORMS.items() if form.needs == "translation"]
    kit = Kit("x", "{title}", tuple(Item(form, {"masks": "stars", "track": "all"}) for form in forms))
    planned = list(plan(project, kit, ("wretched",)))
    assert planned
    for one in planned:
        source = one.source
        text = " ".join(
            part for row in (*source.pairs, *source.facing) for part in row if isinstance(part, str)
        )
        assert "wretched" not in text and "********" in text


# -- recovery, versions, text from elsewhere ------------------------------------------------------------


@pytest.mark.parametrize(
    "change",
    [
        lambda p: split_turn(p, p.transcript.turns[0].id, p.transcript.turns[0].offsets[5]),
        lambda p: with_track(p, replace(p.captions, looks=(("s1", Look(colour="#FF0000")),))),
        lambda p: replace(p, releases=(Released("2026-01-01T00:00:00Z", "Kit", ("a.srt",), "x"),)),
        lambda p: with_term(p, Term("Morwenna")),
        lambda p: set_place(p, [p.captions.captions[0].id], "line:0"),
        lambda p: with_note(p, "Query", "Who?", [words(p)[0].id])[0],
        lambda p: give_turn(p, p.transcript.turns[0].id, "s2"),
        lambda p: replace(p, active=0, tracks=()),
    ],
)
def test_every_kind_of_change_is_one(change):
    old = talk()
    new = change(old)
    assert differ(old, new) and summary(old, new) and is_work(old, new)
    assert str(summary(old, new)) != "nothing else"
    assert not differ(old, replace(old, next_id=9999)) and not summary(old, old)


def test_terms_alone_are_work_and_a_recording_alone_is_none():
    media = Media("a.wav", "/a.wav", "", 1000, channels=1)
    bare = Project(title="a", media=media)
    assert is_work(bare, with_term(bare, Term("Morwenna")))
    assert not is_work(Project(), bare)


def test_captions_taken_into_an_open_recording_leave_all_else_alone():
    present = with_term(talk(), Term("Morwenna"))
    present = replace(present, releases=(Released("2026-01-01T00:00:00Z", "Kit", ("a.srt",), "x"),))
    present, note_id = with_note(present, "Query", "Who?", [words(present)[6].id])
    made = with_text_of(present, imported())
    check_project(made)
    check_saved(made)
    assert made.terms == present.terms and made.releases == present.releases
    [note] = made.notes
    beside = next(word for word in words(made) if word.id in note.words)
    assert note.id == note_id and note.moved and abs(beside.start_ms - words(present)[6].start_ms) < 1500
    assert not {w.id for w in words(present)} & {w.id for w in words(made)}


def test_a_chapter_of_deleted_words_is_at_one_time():
    project = talk()
    project, _ = with_note(project, CHAPTER, "Years", [words(project)[5].id])
    turn = project.transcript.turns[0]
    made = replace_text(project, turn.id, turn.offsets[5], turn.offsets[13], "")
    from dubrel.edits.notes import notes_in_order, time_of

    [chapter] = notes_in_order(made, (CHAPTER,))
    shown = time_of(made, chapter)
    assert [start for start, _, _ in chapters_of(made)] == [0 if shown < 5000 else shown]


def test_a_word_that_is_not_in_the_script_gets_the_time_at_which_it_is_said():
    from dubrel.edits.words.unscripted import take_in, with_unscripted

    said = [RecognisedWord("see", 1000, 1500), RecognisedWord("boat", 1500, 2000)]
    project = add_heard(Project(), said)
    project = with_unscripted(project, [RecognisedWord("the", 1350, 1480, timing=Timing.ALIGNED)])
    made, word_id = take_in(project, project.notes[0].id)
    the = next(word for word in words(made) if word.id == word_id)
    assert (the.start_ms, the.end_ms) == (1350, 1500) and source_changes is not None
