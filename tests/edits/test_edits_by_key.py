"""Striking, joining, case, punctuation, word times, pasting: what changes, and what must not."""

import json

import pytest
from conftest import spoken, words
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st
from recordings import caption_lines

from dubrel.base.errors import DubrelError
from dubrel.base.text import word_units
from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits import notes
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.times import move_edge
from dubrel.edits.intake import add_heard, set_turns
from dubrel.edits.words import cleaning, figures
from dubrel.edits.words.casing import cased, mark_moved, marks_of, punctuated
from dubrel.edits.words.pasting import MOST_WORDS, cleaned, pasted
from dubrel.edits.words.striking import is_verbatim, reading, struck
from dubrel.edits.words.terms import clashes, corrections, merged
from dubrel.edits.words.typedtimes import typed_runs, with_times
from dubrel.edits.words.wording import (
    join_turn,
    join_words,
    moved_range,
    replace_range,
    set_proofed,
    split_turn,
)
from dubrel.edits.words.wordtimes import LEAST_MS, word_edge_moved
from dubrel.formats.register import read_file
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker, Term, Timing
from dubrel.project.captiontext import text_of, words_in_no_caption
from dubrel.project.changes import change_between
from dubrel.project.history import History
from dubrel.project.index import index_of, turn_of
from dubrel.project.quality import sureness, sureness_by_speaker
from dubrel.release.onefile import written
from dubrel.store.projectjson import rows_of, to_text
from dubrel.store.validating import project_of


def one_turn(text, **known):
    return add_heard(Project(**known), spoken(text))


def text(project):
    return " / ".join(turn.text for turn in project.transcript.turns)


def first_turn(project):
    return project.transcript.turns[0]


# -- by key ----------------------------------------------------------------------------


def test_struck_words_keep_their_time_and_leave_captions_and_files(boards):
    project = set_again(boards, DEFAULT_STYLE)
    tired = next(word for word in words(project) if word.text == "tired.")
    made = struck(project, {tired.id}, True)
    after = next(word for word in words(made) if word.id == tired.id)
    assert after.struck and (after.start_ms, after.end_ms) == (tired.start_ms, tired.end_ms)
    shown = " ".join(line for one in made.captions.captions for line in caption_lines(made, one))
    assert (
        "tired" not in shown and "tired" not in written(made, ".txt") and "tired" not in written(made, ".srt")
    )
    assert not words_in_no_caption(made, made.captions)
    assert struck(made, {tired.id}, False) == project


def test_a_word_typed_beside_a_struck_one_joins_its_caption(boards):
    project = set_again(boards, DEFAULT_STYLE)
    tired = next(word for word in words(project) if word.text == "tired.")
    turn = turn_of(project, tired.id)
    made = struck(project, {tired.id}, True)
    at = turn.offsets[turn.index_of[tired.id]] + len("tired.")
    made = replace_range(made, (turn.id, at), (turn.id, at), " indeed")
    home = next(one for one in project.captions.captions if tired.id in one.words)
    indeed = next(word for word in words(made) if word.text == "indeed")
    assert indeed.id in next(one for one in made.captions.captions if one.id == home.id).words
    assert next(word for word in words(made) if word.id == tired.id).struck


def test_joined_words_last_from_the_first_to_the_last():
    project = one_turn("the boat yard is old")
    turn = first_turn(project)
    made = join_words(project, turn.id, 1, 3)
    joined = first_turn(made).words[1]
    assert text(made) == "the boatyard is old"
    assert (joined.start_ms, joined.end_ms) == (turn.words[1].start_ms, turn.words[2].end_ms)
    assert joined.id == turn.words[1].id and joined.timing is Timing.ALIGNED
    assert join_words(project, turn.id, 1, 2) is project


def test_capitals_go_round():
    project = one_turn("the old boat")
    ids = [word.id for word in words(project)]
    steps = [project]
    for _ in range(3):
        steps.append(cased(steps[-1], ids[1:]))
    assert [text(one) for one in steps] == ["the old boat", "the Old Boat", "the OLD BOAT", "the old boat"]


@pytest.mark.parametrize(
    ("before", "place", "mark", "after"),
    [
        ("it is oak and old", 2, ".", "it is oak. And old"),
        ("it is oak. And old", 2, ",", "it is oak, and old"),
        ("it is oak. And old", 2, ".", "it is oak and old"),
        ("he said “yes” and left", 2, "?", "he said “yes?” And left"),
        ("came out. Heron sank", 1, ",", "came out, Heron sank"),
        ("well. I know", 0, ",", "well, I know"),
    ],
)
def test_a_mark_by_one_key_puts_the_capital_right(before, place, mark, after):
    project = one_turn(before)
    turn = first_turn(project)
    project = replace(
        project, transcript=replace(project.transcript, turns=(replace(turn, words=tuple(words(project))),))
    )
    made = punctuated(project, turn.id, place, mark, {"Heron"})
    assert text(made).replace(" / ", " ") == after
    assert [(w.id, w.start_ms, w.end_ms) for w in words(made)] == [
        (w.id, w.start_ms, w.end_ms) for w in words(project)
    ]


def test_a_full_stop_at_the_end_of_a_turn_gives_the_next_one_its_capital(three):
    turns = three.transcript.turns
    small = replace_range(three, (turns[1].id, 0), (turns[1].id, 4), "four")
    made = punctuated(punctuated(small, turns[0].id, 2, ","), turns[0].id, 2, ".")
    assert text(made) == "One two three. / Four five six. / Seven eight nine."


def test_a_mark_moves_to_the_next_word_and_back():
    project = one_turn("it is oak, and old")
    turn = first_turn(project)
    on = mark_moved(project, turn.id, 2, 1)
    assert text(on) == "it is oak and, old"
    assert mark_moved(on, turn.id, 3, -1) == project
    assert mark_moved(project, turn.id, 0, 1) is project
    assert marks_of("gone,”") == ("gone", ",", "”")


def test_an_edge_moves_with_its_neighbour_or_stops_at_it():
    project = one_turn("one two three")
    one, two, three = words(project)
    moved = word_edge_moved(project, two.id, "in", two.start_ms - 50)
    assert [(w.start_ms, w.end_ms) for w in words(moved)] == [
        (one.start_ms, two.start_ms - 50),
        (two.start_ms - 50, two.end_ms),
        (three.start_ms, three.end_ms),
    ]
    assert word_edge_moved(project, two.id, "in", two.start_ms - 50, neighbour=False) is project
    far = words(word_edge_moved(project, two.id, "in", 0))
    assert far[1].start_ms == one.start_ms + LEAST_MS and far[0].end_ms == far[1].start_ms
    late = words(word_edge_moved(project, two.id, "in", 99_999))
    assert late[1].start_ms == two.end_ms - LEAST_MS


def test_a_caption_follows_the_edge_it_comes_in_with_and_stays_where_a_hand_put_it(boards):
    project = set_again(boards, DEFAULT_STYLE)
    second = project.captions.captions[1]
    word = next(one for one in words(project) if one.id == second.words[0])
    assert second.start_ms == word.start_ms
    moved = word_edge_moved(project, word.id, "in", word.start_ms + 40)
    assert moved.captions.captions[1].start_ms == word.start_ms + 40
    assert moved.captions.captions[0] == project.captions.captions[0]
    by_hand = move_edge(project, second.id, "in", second.start_ms + 60)
    again = word_edge_moved(by_hand, word.id, "in", word.start_ms + 30)
    assert again.captions == by_hand.captions


def test_moving_words_leaves_all_others_their_times(three):
    turns = three.transcript.turns
    made = moved_range(three, (turns[0].id, 4), (turns[0].id, 7), (turns[2].id, 0), "two")
    assert text(made) == "One three. / Four five six. / two Seven eight nine."
    back = moved_range(three, (turns[2].id, 0), (turns[2].id, 5), (turns[0].id, 4), "Seven")
    assert text(back) == "One Seven two three. / Four five six. / eight nine."
    known = {word.id: word for word in words(three)}
    for project in (made, back):
        kept = [word for word in words(project) if word.id in known and word.timing is Timing.ALIGNED]
        assert len(kept) == 8 and all(word == known[word.id] for word in kept)


# -- pasting ---------------------------------------------------------------------------


def test_a_paste_over_several_turns_keeps_what_both_say(three):
    project = set_again(three, DEFAULT_STYLE)
    turns = project.transcript.turns
    end = len(turns[2].text)
    made = pasted(
        project, (turns[0].id, 0), (turns[2].id, end), "One too three. Four, five six! Seven eight and nine."
    )
    assert text(made) == "One too three. / Four, five six! / Seven eight and nine."
    assert [turn.speaker for turn in made.transcript.turns] == [turn.speaker for turn in turns]
    known = {word.id: (word.start_ms, word.end_ms) for word in words(project)}
    assert all((w.start_ms, w.end_ms) == known[w.id] for w in words(made) if w.id in known)
    assert not words_in_no_caption(made, made.captions)


def test_blank_lines_in_a_paste_part_paragraphs(three):
    turns = three.transcript.turns
    made = pasted(
        three, (turns[0].id, 0), (turns[0].id, len(turns[0].text)), "One two\n\nand then three.\r\n\r\n More."
    )
    assert text(made) == "One two / and then three. / More. / Four five six. / Seven eight nine."
    assert len({turn.id for turn in made.transcript.turns}) == 5


def test_a_paste_from_elsewhere_loses_what_nobody_sees():
    assert cleaned("a\u200bb\ufeff\x00c\r\nd\u2028e \u202eright\u202c") == "abc\nd\ne right"
    assert cleaned("👩\u200d🚀 می\u200cرود") == "👩\u200d🚀 می\u200cرود"  # joiners are part of these


def test_a_paste_longer_than_a_recording_is_refused(three):
    turn = first_turn(three)
    with pytest.raises(DubrelError, match="Paste it in parts"):
        pasted(three, (turn.id, 0), (turn.id, len(turn.text)), "word " * (MOST_WORDS + 1))


# -- scripts without spaces ------------------------------------------------------------

JAPANESE = (
    "1\n00:00:01,000 --> 00:00:05,000\n今日は良い天気です。水門のそばで\nHeronを見ました。 こんにちは 世界\n"
)


@pytest.fixture
def japanese(tmp_path):
    path = tmp_path / "ja.srt"
    path.write_text(JAPANESE)
    return read_file(path).project


def test_japanese_is_written_without_spaces_and_its_words_have_times(japanese):
    turn = first_turn(japanese)
    assert turn.text == "今日は良い天気です。水門のそばで Heronを見ました。 こんにちは 世界"
    assert [word.text for word in turn.words][:4] == ["今日は", "良い", "天気です。", "水門の"]
    starts = [word.start_ms for word in turn.words]
    assert starts == sorted(starts) and len(set(starts)) == len(starts)
    assert written(japanese, ".srt") == JAPANESE
    value, said = rows_of(json.loads(to_text(japanese)))
    assert project_of(value) == (japanese, []) and said == []


@pytest.mark.parametrize(
    ("start", "end", "typed", "after"),
    [
        (5, 5, "とても", "今日は良いとても天気です。"),  # between two words: both stay as they are
        (3, 5, "", "今日は天気です。"),  # a whole word goes
        (4, 4, "さ", "今日は良さい天気です。"),  # inside a word
        (3, 3, " ", "今日は 良い天気です。"),  # a space that the script does not ask for
    ],
)
def test_japanese_is_edited_by_letter_with_its_times_right(japanese, start, end, typed, after):
    turn = first_turn(japanese)
    made = replace_range(japanese, (turn.id, start), (turn.id, end), typed)
    assert first_turn(made).text.startswith(after)
    known = {word.text: (word.start_ms, word.end_ms) for word in turn.words}
    same = [word for word in words(made) if word.text in known]
    assert len(same) >= len(turn.words) - 1
    assert all((word.start_ms, word.end_ms) == known[word.text] for word in same)


def test_lines_of_japanese_are_counted_without_spaces(japanese):
    style = replace(DEFAULT_STYLE, max_cpl=16, max_lines=2)
    made = set_again(japanese, style)
    lines = [line for one in made.captions.captions for line in caption_lines(made, one)]
    assert "".join(lines).replace(" ", "") == first_turn(japanese).text.replace(" ", "")
    assert max(map(len, lines)) <= 16 and max(map(len, lines)) > 10
    assert word_units("วันนี้อากาศดี") == ["วัน", "นี้", "อากาศ", "ดี"]


# -- cleaning up -----------------------------------------------------------------------


def test_fillers_are_struck_and_come_back_in_a_verbatim_reading():
    project = set_again(one_turn("Um, the boat, you know, is uh old. You know it."), DEFAULT_STYLE)
    found = cleaning.fillers(project)
    sure = [one for one in found if one.sure > 0.5]
    assert [" ".join(w.text for w in one.words) for one in sure] == ["Um,", "uh", "you know,"]
    clean = cleaning.cleaned_up(project, sure)
    assert written(clean, ".txt") == "the boat, is old.\n\nYou know it.\n"
    verbatim = reading(clean, True)
    assert is_verbatim(verbatim) and "you know, is uh old." in written(verbatim, ".txt")
    assert reading(verbatim, False) == clean
    other = next(word for word in words(clean) if word.text == "boat,")
    assert "boat" not in written(reading(struck(clean, {other.id}, True), True), ".txt")


def test_deleted_fillers_leave_the_capital_and_the_full_stop():
    project = one_turn("Um, the boat is old uh. It is dry.")
    made = cleaning.cleaned_up(project, cleaning.fillers(project), delete=True)
    assert text(made).replace(" / ", " ") == "The boat is old. It is dry."


def test_repeats_and_false_starts_but_not_what_is_meant():
    project = one_turn(
        "I I think the the bo- boat had had that that on the boat on the boat, really really old. No. No."
    )
    found = cleaning.repeats(project)
    sure = [" ".join(w.text for w in one.words) for one in found if one.sure > 0.5]
    assert sure == ["I", "the", "bo-", "on the boat"]
    made = cleaning.cleaned_up(project, [one for one in found if one.sure > 0.5], delete=True)
    assert text(made).startswith("I think the boat had had that that on the boat, really really old.")


def test_how_alike_two_words_sound_decides_of_a_repeat():
    project = one_turn("the the boat")
    apart, alike = (
        cleaning.repeats(project, lambda a, b, value=value: value)[0].sure for value in (0.0, 1.0)
    )
    assert apart < 0.5 < alike


def test_figures_words_capitals_quotes():
    project = one_turn(
        'it cost four thousand and two hundred pounds,, in nineteen eighty one. it has 3 "masts".'
    )
    for kind in (
        figures.words_as_figures,
        figures.figures_as_words,
        cleaning.capitals_and_stops,
        cleaning.quotes_and_dashes,
    ):
        project = cleaning.cleaned_up(project, kind(project))
    assert text(project).replace(" / ", " ") == "It cost 4200 pounds, in 1981. It has three “masts”."
    assert figures.number_of(["two", "hundred", "twenty", "five"]) == 225
    assert figures.number_of(["five", "six"]) is None


# -- notes, proofing, terms ------------------------------------------------------------


def test_a_note_whose_words_are_deleted_moves_to_the_nearest_and_says_so(three):
    turn = first_turn(three)
    project, note_id = notes.with_note(three, notes.QUERY, "Who?", [turn.words[1].id])
    made = replace_range(project, (turn.id, 4), (turn.id, 8), "")
    note = notes.note_with(made, note_id)
    assert note.moved and note.words == (turn.words[0].id,)
    assert not notes.note_with(project, note_id).moved


def test_a_clip_lasts_from_its_first_to_its_last_word(three):
    turn = three.transcript.turns[1]
    project, clip = notes.with_note(three, notes.CLIP, "The four", [word.id for word in turn.words])
    assert notes.span_of(project, notes.note_with(project, clip)) == (turn.start_ms, turn.end_ms)
    project, chapter = notes.with_note(project, notes.CHAPTER, "Start", [first_turn(project).words[0].id])
    assert [one.id for one in notes.notes_in_order(project)] == [chapter, clip]


def test_a_proofed_turn_that_changes_says_so_until_it_is_proofed_again(three):
    turn = first_turn(three)
    project = set_proofed(three, turn.id, True)
    assert not first_turn(project).reworded
    changed = replace_range(project, (turn.id, 0), (turn.id, 3), "Won")
    assert first_turn(changed).reworded and first_turn(changed).proofed
    assert not first_turn(set_proofed(changed, turn.id, True)).reworded
    assert first_turn(struck(project, {turn.words[0].id}, True)).reworded
    other = three.transcript.turns[1]
    assert not first_turn(replace_range(project, (other.id, 0), (other.id, 4), "For")).reworded


def test_how_sure_a_transcript_is():
    said = [
        RecognisedWord("sure", 0, 100, 0.0),
        RecognisedWord("maybe", 100, 200, 0.2),
        RecognisedWord("no", 200, 300, 0.9),
    ]
    people = [Speaker("s1", "Anna"), Speaker("s2", "Ben")]
    turns = [RecognisedTurn(tuple(said[:2]), "s1"), RecognisedTurn((said[2],), "s2")]
    project = set_turns(Project(), turns, people, "en")
    whole = sureness(project.transcript.turns)
    assert whole.shares == (1 / 3, 1 / 3, 0, 1 / 3) and whole.wrong == pytest.approx(1.1)
    assert [(who, one.words) for who, one in sureness_by_speaker(project)] == [("s1", 2), ("s2", 1)]
    done = set_proofed(project, project.transcript.turns[1].id, True)
    assert sureness(done.transcript.turns).proof_ms < whole.proof_ms


def test_corrections_are_of_words_and_not_of_marks(three):
    turn = first_turn(three)
    made = replace_range(three, (turn.id, 4), (turn.id, 7), "too,")
    assert [(one.was, one.becomes) for one in corrections(change_between(three, made))] == [("two", "too")]
    marks = replace_range(three, (turn.id, 0), (turn.id, 3), "one,")
    assert corrections(change_between(three, marks)) == []


def test_terms_are_merged_and_clashes_named():
    terms = merged(
        [Term("Heron", ("hair in",))],
        [Term("Heron", ("her on", "hair in"), "boat"), Term("Harren", ("her on",))],
    )
    assert terms[0] == Term("Heron", ("hair in", "her on"), "boat")
    assert clashes(terms) == [("her on", "Heron", "Harren")]


def test_a_project_keeps_fillers_terms_notes_and_what_changed_since(three):
    turn = first_turn(three)
    project = struck(set_proofed(three, turn.id, True), {turn.words[0].id}, True, filler=True)
    project = reading(project, True)
    project = notes.with_note(project, notes.CLIP, "A clip", [turn.words[1].id, turn.words[2].id])[0]
    query, note_id = notes.with_note(project, notes.QUERY, "Who?", [turn.words[1].id])
    answered = replace(notes.note_with(query, note_id), answer="Anna", done=True)
    project = replace(
        notes.note_changed(query, answered), terms=(Term("Heron", ("hair in",), "boat", (("es", "Garza"),)),)
    )
    rows, said = rows_of(json.loads(to_text(project)))
    assert project_of(rows) == (project, []) and said == []


# -- anything in any order -------------------------------------------------------------

STEPS = (
    "strike",
    "join",
    "case",
    "mark",
    "edge",
    "paste",
    "type",
    "split",
    "join turns",
    "move",
    "proof",
    "clean",
    "replace",
    "arrive",
)
PIECES = ("", "so ", "and then, ", "uh the the ", "Boat yard", "水門 ", "שלום ", "x\n\ny z w q r")


def stepped(project, kind, draw):
    turns = project.transcript.turns
    if not turns:
        return project
    place = draw % len(turns)
    turn = turns[place]
    word = turn.words[draw % len(turn.words)]
    at, to = sorted((draw * 7 % (len(turn.text) + 1), draw * 3 % (len(turn.text) + 1)))
    last = turns[min(len(turns) - 1, place + draw % 3)]
    to_last = max(at, to) if last is turn else draw % (len(last.text) + 1)
    piece = PIECES[draw % len(PIECES)]
    return {
        "strike": lambda: struck(project, {word.id, turn.words[0].id}, draw % 2 == 0, filler=draw % 3 == 0),
        "join": lambda: join_words(project, turn.id, 0, 2),
        "case": lambda: cased(project, [word.id]),
        "mark": lambda: punctuated(project, turn.id, draw % len(turn.words), ".,?"[draw % 3]),
        "edge": lambda: word_edge_moved(
            project, word.id, ("in", "out")[draw % 2], word.start_ms + draw % 900 - 400
        ),
        "paste": lambda: pasted(project, (turn.id, at), (last.id, to_last), "one three and " + piece * 3),
        "type": lambda: replace_range(project, (turn.id, at), (last.id, to_last), piece),
        "split": lambda: split_turn(project, turn.id, at),
        "join turns": lambda: join_turn(project, turn.id),
        "move": lambda: moved_range(
            project,
            (turn.id, 0),
            (turn.id, len(turn.words[0].text)),
            (last.id, len(last.text)),
            turn.words[0].text,
        ),
        "proof": lambda: set_proofed(project, turn.id, draw % 2 == 0),
        "clean": lambda: cleaning.cleaned_up(
            project, [*cleaning.fillers(project), *cleaning.repeats(project)], delete=draw % 2 == 0
        ),
        "replace": lambda: cleaning.cleaned_up(project, cleaning.capitals_and_stops(project)),
    }[kind]()


def arrived(project):
    """Times for typed words, as the background finds them."""
    for turn in project.transcript.turns:
        for run in typed_runs(turn):
            count = len(run.texts)
            edges = [run.start_ms + (run.end_ms - run.start_ms) * k // count for k in range(count + 1)]
            heard = [RecognisedWord(text, a, b) for text, a, b in zip(run.texts, edges, edges[1:])]
            project = with_times(project, run, heard)
    return project


def is_sound(project):
    every = [word for turn in project.transcript.turns for word in turn.words]
    assert len({word.id for word in every}) == len(every)
    starts = [word.start_ms for word in every]
    assert starts == sorted(starts) and all(word.start_ms <= word.end_ms for word in every)
    assert {word.id: turn.id for turn in project.transcript.turns for word in turn.words} == dict(
        index_of(project).turn_of.items()
    )
    for track in project.tracks:
        held = [one for caption in track.captions for one in caption.words]
        assert len(held) == len(set(held)) and set(held) <= {word.id for word in every}
        assert not words_in_no_caption(project, track)
        for caption in track.captions:
            text_of(project, track, caption)


@settings(max_examples=120, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.lists(st.tuples(st.sampled_from(STEPS), st.integers(0, 10_000)), max_size=14))
@example([("type", 1861), ("move", 224), ("split", 221), ("arrive", 0), ("join turns", 3), ("paste", 274)])
def test_any_sequence_of_edits_keeps_order_and_untouched_times_and_undoes_to_the_start(steps):
    people = [Speaker("s1", "Anna"), Speaker("s2", "Ben")]
    said = spoken("One two uh three. Four five the the six. Seven eight nine. Ten eleven, twelve.")
    turns = [RecognisedTurn(tuple(said[k : k + 4]), f"s{1 + k // 4 % 2}") for k in range(0, len(said), 4)]
    first = set_again(set_turns(Project(), turns, people, "en"), DEFAULT_STYLE)
    history = History(first)
    for kind, draw in steps:
        before = history.present
        if kind == "arrive":
            history.amend(arrived)
        else:
            history.apply(stepped(before, kind, draw), kind)
        is_sound(history.present)
        if kind not in ("edge", "arrive", "join"):
            known = {(word.id, word.text): word for word in words(before) if word.timing is Timing.ALIGNED}
            for word in words(history.present):
                if (word.id, word.text) in known and word.timing is Timing.ALIGNED:
                    old = known[word.id, word.text]
                    assert (word.start_ms, word.end_ms) == (old.start_ms, old.end_ms)
    while history.undo():
        is_sound(history.present)
    assert history.present == first
