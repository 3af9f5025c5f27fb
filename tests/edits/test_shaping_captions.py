"""Hand tools of captions: no word and no time is lost, each is one step, and what is held stays."""

from fractions import Fraction

import pytest
from conftest import spoken, words
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from recordings import caption_lines

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.captions.places import named_place, placed, settings_of
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions import shape as hands
from dubrel.edits.captions import times
from dubrel.edits.captions.resetting import exchanges, set_again
from dubrel.edits.captions.rewriting import rewritten, written_text
from dubrel.edits.captions.times import Move, move_edge, moved_times, retimed
from dubrel.edits.intake import add_heard
from dubrel.edits.words.striking import struck
from dubrel.model import Caption, CaptionTrack, Media, Project
from dubrel.project.captiontext import pieces_of, text_of, word_times
from dubrel.project.history import History
from dubrel.project.index import track_index
from dubrel.project.tracks import with_track
from dubrel.store.projectjson import rows_of, to_text
from dubrel.store.validating import project_of

STORY = (
    "Mostly oak, and most of it tired. The bottom boards at the stern are gone, you can put your thumb"
    " through them. The knees are sound though, and the sternpost is the original. She carried flour and coal"
    " for sixty years, and then she was a houseboat, and then she was forgotten."
)


@pytest.fixture
def captioned():
    media = Media("x.mp4", "/x.mp4", "", 60_000, frame_rate=Fraction(25), width=640, height=360)
    return set_again(add_heard(Project(media=media), spoken(STORY)), DEFAULT_STYLE)


def caption(project, place):
    return project.captions.captions[place]


def lines(project, place):
    return caption_lines(project, caption(project, place))


def all_texts(project):
    return [" ".join(lines(project, nth)) for nth in range(len(project.captions.captions))]


# -- split, join, move -------------------------------------------------------------------


def test_a_caption_is_split_at_a_word_and_joined_again(captioned):
    first = caption(captioned, 1)
    word = next(one for one in words(captioned) if one.text == "you")
    made = hands.split_caption(captioned, first.id, word.id)
    one, other = caption(made, 1), caption(made, 2)
    assert one.id == first.id and other.words[0] == word.id
    assert other.start_ms - one.end_ms == 80 and abs(other.start_ms - word.start_ms) <= 40
    assert one.words + other.words == first.words and other.end_ms == first.end_ms
    assert one.held == other.held == ("break",)
    whole = hands.join_caption(made, one.id, 1)
    back = caption(whole, 1)
    assert (back.words, back.start_ms, back.end_ms) == (first.words, first.start_ms, first.end_ms)
    assert lines(whole, 1) == lines(captioned, 1)


def test_what_translates_a_caption_translates_both_parts_and_the_whole(captioned):
    own = captioned.captions
    theirs = CaptionTrack(
        900,
        "he",
        DEFAULT_STYLE,
        (Caption(901, 0, 900, text="x", sources=(own.captions[1].id,)),),
        translates=own.id,
    )
    project = replace(with_track(captioned, theirs), active=own.id, next_id=1000)
    word = next(one for one in words(project) if one.text == "you")
    made = hands.split_caption(project, own.captions[1].id, word.id)
    assert made.track(900).captions[0].sources == (own.captions[1].id, 1000)
    joined = hands.join_caption(made, 1000, -1)
    assert joined.track(900).captions[0].sources == (own.captions[1].id,)


def test_words_move_over_the_edge_and_back(captioned):
    before = all_texts(captioned)
    second = caption(captioned, 1)
    made = hands.move_words(captioned, second.id, "out", 1)
    assert all_texts(made)[1] == before[1].rsplit(" ", 1)[0]
    assert all_texts(made)[2] == f"{before[1].rsplit(' ', 1)[1]} {before[2]}"
    moved = next(one for one in words(made) if one.id == caption(made, 2).words[0])
    assert abs(caption(made, 2).start_ms - moved.start_ms) <= 40
    assert all_texts(hands.move_words(made, second.id, "out", -1)) == before


def test_the_last_word_of_a_caption_cannot_leave_it(captioned):
    word = words(captioned)[1]
    made = hands.split_caption(captioned, caption(captioned, 0).id, word.id)
    with pytest.raises(DubrelError, match="only word"):
        hands.move_words(made, caption(made, 0).id, "out", 1)


def test_a_line_is_broken_by_hand_and_the_nearest_other_break_goes(captioned):
    second = caption(captioned, 1)
    word = next(one for one in words(captioned) if one.text == "boards")
    made = hands.break_line(captioned, second.id, word.id)
    assert lines(made, 1)[1].startswith("boards at the stern") and caption(made, 1).held == ("lines",)
    assert len(lines(made, 1)) == 2
    again = hands.break_line(made, second.id, word.id)
    assert len(lines(again, 1)) == 1


# -- text --------------------------------------------------------------------------------


def test_hidden_words_leave_one_caption_and_nothing_else(captioned):
    second = caption(captioned, 1)
    word = next(one for one in words(captioned) if one.text == "bottom")
    made = hands.hide_words(captioned, second.id, [word.id])
    assert "bottom" not in " ".join(lines(made, 1)) and "bottom" in made.transcript.turns[1].text
    assert caption(made, 1).hidden == (word.id,) and caption(made, 1).held == ("text",)
    assert not next(one for one in words(made) if one.id == word.id).struck
    shown = hands.hide_words(made, second.id, [word.id], False)
    assert lines(shown, 1) == lines(captioned, 1) and caption(shown, 1).hidden == ()
    with pytest.raises(DubrelError, match="needs a word"):
        hands.hide_words(captioned, second.id, second.words)


def test_writing_in_a_caption_writes_in_the_transcript(captioned):
    second = caption(captioned, 1)
    text = written_text(captioned, captioned.captions, second)
    made = rewritten(captioned, second.id, text.replace("boards", "planks"))
    assert "bottom planks at the stern" in made.transcript.turns[1].text
    assert "planks" in " ".join(lines(made, 1))
    old = {one.id: (one.start_ms, one.end_ms) for one in words(captioned)}
    kept = [one for one in words(made) if one.id in old]
    assert len(kept) >= len(old) - 1 and all(old[one.id] == (one.start_ms, one.end_ms) for one in kept)


def test_a_word_typed_at_the_end_or_the_beginning_stays_in_its_caption(captioned):
    second = caption(captioned, 1)
    text = written_text(captioned, captioned.captions, second)
    made = rewritten(captioned, second.id, f"So {text} now")
    assert all_texts(made)[1] == f"So {all_texts(captioned)[1]} now"
    assert all_texts(made)[2:] == all_texts(captioned)[2:]


def test_a_line_typed_is_a_line_held(captioned):
    second = caption(captioned, 1)
    flat = " ".join(lines(captioned, 1))
    made = rewritten(captioned, second.id, flat.replace("at the", "at\nthe", 1))
    assert lines(made, 1)[0] == "The bottom boards at" and caption(made, 1).held == ("lines",)


def test_struck_words_stay_where_they_are_when_a_caption_is_written(captioned):
    tired = next(one for one in words(captioned) if one.text == "most")
    project = struck(captioned, {tired.id}, True)
    made = rewritten(
        project,
        caption(project, 0).id,
        written_text(project, project.captions, caption(project, 0)) + " indeed",
    )
    assert next(one for one in words(made) if one.id == tired.id).struck


def test_a_caption_with_its_own_text_is_inserted_where_there_is_room(captioned):
    last = captioned.captions.captions[-1]
    made, new = hands.insert_caption(captioned, last.end_ms + 1000, "[music]")
    added = next(one for one in made.captions.captions if one.id == new)
    assert (added.text, added.words, added.held) == ("[music]", (), ("times", "text"))
    with pytest.raises(DubrelError, match="no room"):
        hands.insert_caption(
            times.close_gaps(captioned, None, 9000), caption(captioned, 1).start_ms + 10, "[music]"
        )
    parted = hands.split_text(hands.write_text(made, new, "soft music plays"), new, 0.4)
    assert [one.text for one in parted.captions.captions[-2:]] == ["soft", "music plays"]


def test_deleted_captions_leave_their_words(captioned):
    ids = [caption(captioned, 0).id, caption(captioned, 1).id]
    made = hands.delete_captions(captioned, ids)
    assert words(made) == words(captioned)
    assert len(made.captions.captions) == len(captioned.captions.captions) - 2


# -- times -------------------------------------------------------------------------------


def test_a_nudge_is_a_frame_alone_or_with_the_neighbour(captioned):
    first, second = caption(captioned, 0), caption(captioned, 1)
    made = times.nudge(captioned, second.id, "in", 1)
    assert caption(made, 1).start_ms == second.start_ms + 40 and caption(made, 0) == first
    along = times.nudge(captioned, second.id, "in", 1, along=True)
    assert caption(along, 1).start_ms - caption(along, 0).end_ms == second.start_ms - first.end_ms
    assert caption(along, 0).end_ms == first.end_ms + 40
    still = times.nudge(replace(captioned, media=None), second.id, "out", -1)
    assert caption(still, 1).end_ms == second.end_ms - 10


def test_tapping_times_captions_one_after_the_other(captioned):
    project, ms = captioned, 2000
    for one in captioned.captions.captions:
        project = times.tap_in(project, one.id, ms)
        project = times.tap_out(project, one.id, ms + 900)
        ms += 1000
    starts = [one.start_ms for one in project.captions.captions]
    assert starts == [2000 + 1000 * nth for nth in range(len(starts))]
    assert [one.end_ms - one.start_ms for one in project.captions.captions][:2] == [920, 920]


def test_gaps_are_closed_and_opened(captioned):
    one, two = caption(captioned, 0), caption(captioned, 1)
    shorter = move_edge(captioned, one.id, "out", one.end_ms - 200)
    closed = times.close_gaps(shorter, [one.id])
    assert caption(closed, 0).end_ms == two.start_ms - 80
    track = captioned.captions
    touching = with_track(
        captioned, replace(track, captions=(replace(one, end_ms=two.start_ms), *track.captions[1:]))
    )
    assert caption(times.open_gaps(touching), 0).end_ms == two.start_ms - 80


def test_a_whole_caption_moves_between_its_neighbours(captioned):
    second = caption(captioned, 1)
    before = caption(captioned, 0)
    made = caption(times.move_whole(captioned, second.id, 0), 1)
    assert made.start_ms == before.end_ms + 80
    assert made.end_ms - made.start_ms == second.end_ms - second.start_ms


def test_a_dragged_time_snaps_to_what_is_near(captioned):
    second = caption(captioned, 1)
    word = next(one for one in words(captioned) if one.text == "gone,")
    shots = replace(captioned, media=replace(captioned.media, shots=(7000,)))
    assert abs(times.snapped(shots, second.id, word.end_ms + 30, 0, 100) - word.end_ms) <= 20
    assert times.snapped(shots, second.id, 7040, 0, 60) == 7000
    assert times.snapped(shots, second.id, second.end_ms + 3010, second.end_ms + 3000, 60) == pytest.approx(
        second.end_ms + 3000, abs=20
    )


def test_a_selection_is_shifted_and_stretched(captioned):
    some = [caption(captioned, 1), caption(captioned, 2)]
    made = retimed(captioned, moved_times(Move(shift_ms=500), some))
    shifts = [
        new.start_ms - old.start_ms for old, new in zip(captioned.captions.captions, made.captions.captions)
    ]
    assert shifts == [0, 500, 500, *[0] * (len(shifts) - 3)]


# -- held ----------------------------------------------------------------------------------


def test_what_is_held_stays_when_captions_are_set_again_unless_asked(captioned):
    second = caption(captioned, 1)
    word = next(one for one in words(captioned) if one.text == "you")
    made = hands.split_caption(captioned, second.id, word.id)
    made = times.nudge(made, caption(made, 4).id, "out", -1)
    narrow = replace(DEFAULT_STYLE, max_cpl=20)
    kept = set_again(made, narrow)
    for place in (1, 2, 4):
        assert caption(made, place) in kept.captions.captions
    assert len(kept.captions.captions) > len(made.captions.captions)
    held = [word for one in kept.captions.captions for word in one.words]
    assert sorted(held) == sorted(one.id for one in words(captioned))
    fresh = set_again(made, narrow, keep_held=False)
    assert not any(one.held for one in fresh.captions.captions)
    let = hands.let_go(made, [one.id for one in made.captions.captions])
    assert set_again(let, narrow) == fresh


def test_only_the_selection_is_set_again(captioned):
    narrow = with_track(captioned, replace(captioned.captions, style=replace(DEFAULT_STYLE, max_cpl=20)))
    third = caption(captioned, 2)
    made = set_again(narrow, only=[third.id])
    others = [one for one in captioned.captions.captions if one is not third]
    assert all(any(one is new for new in made.captions.captions) for one in others)
    assert [one.old for one in exchanges(captioned.captions, made.captions)] == [(third,)]


def test_places_italics_and_ticks_go_with_the_words(captioned):
    second = caption(captioned, 1)
    made = hands.set_place(captioned, [second.id], settings_of(named_place("top centre")))
    made = hands.set_done(made, [caption(made, 2).id], True)
    styled = replace(caption(made, 1), styled=((second.words[1], "i"),))
    made = with_track(
        made,
        replace(
            made.captions,
            captions=tuple(styled if one.id == second.id else one for one in made.captions.captions),
        ),
    )
    again = set_again(made, replace(DEFAULT_STYLE, max_cps=19.0))
    new = next(one for one in again.captions.captions if second.words[1] in one.words)
    assert placed(new, DEFAULT_STYLE).level == "top" and new.styled == ((second.words[1], "i"),)
    assert [one.done for one in again.captions.captions].count(True) == 1


def test_own_text_stays_when_captions_are_set_again(captioned):
    last = captioned.captions.captions[-1]
    made, new = hands.insert_caption(captioned, last.end_ms + 500, "[music]")
    again = set_again(made, replace(DEFAULT_STYLE, max_cpl=25), keep_held=False)
    assert next(one for one in again.captions.captions if one.id == new).text == "[music]"


def test_all_that_hands_do_is_kept_in_the_file(captioned):
    second = caption(captioned, 1)
    made = hands.hide_words(captioned, second.id, [second.words[1]])
    made = hands.set_done(made, [second.id], True)
    made = hands.set_place(made, [caption(made, 2).id], settings_of(named_place("top left")))
    made = replace(made, media=replace(made.media, shots=(1000, 2000)))
    import json

    rows, said = rows_of(json.loads(to_text(made)))
    back, more = project_of(rows)
    assert not said and not more
    assert back.captions == made.captions and back.media == made.media


def test_the_times_of_the_words_of_a_caption_are_those_of_its_lines(captioned):
    one = caption(captioned, 1)
    text = text_of(captioned, captioned.captions, one)
    times = word_times(captioned, one, text)
    pieces = pieces_of(captioned, one, text)
    assert ["".join(word for word, _ in row) for row in pieces] == list(text.lines)
    assert [len(row) for row in times] == [len(row) for row in pieces]
    word = next(one for one in words(captioned) if one.text == "stern")
    line, place = next((k, n) for k, row in enumerate(pieces) for n, (w, _) in enumerate(row) if "stern" in w)
    assert times[line][place] == (word.start_ms, word.end_ms)


# -- any sequence ----------------------------------------------------------------------------

KINDS = (
    "split",
    "join",
    "join back",
    "move out",
    "move in",
    "break",
    "hide",
    "show",
    "nudge in",
    "nudge out",
    "along",
    "tap in",
    "tap out",
    "close",
    "open",
    "whole",
    "write",
    "delete",
    "insert",
    "set",
    "tick",
    "let go",
)


def one_act(project, kind, draw):
    captions = project.captions.captions
    one = captions[draw % len(captions)]
    word = one.words[draw // 7 % len(one.words)] if one.words else 0
    ways = {
        "split": lambda: hands.split_caption(project, one.id, word),
        "join": lambda: hands.join_caption(project, one.id, 1),
        "join back": lambda: hands.join_caption(project, one.id, -1),
        "move out": lambda: hands.move_words(project, one.id, "out", 1 - draw % 2 * 2),
        "move in": lambda: hands.move_words(project, one.id, "in", 1 - draw % 2 * 2),
        "break": lambda: hands.break_line(project, one.id, word),
        "hide": lambda: hands.hide_words(project, one.id, [word]),
        "show": lambda: hands.hide_words(project, one.id, one.hidden, False),
        "nudge in": lambda: times.nudge(project, one.id, "in", 1 - draw % 2 * 2),
        "nudge out": lambda: times.nudge(project, one.id, "out", 1 - draw % 2 * 2),
        "along": lambda: times.nudge(project, one.id, "in", 1 - draw % 2 * 2, along=True),
        "tap in": lambda: times.tap_in(project, one.id, draw * 37 % 30_000),
        "tap out": lambda: times.tap_out(project, one.id, draw * 37 % 30_000),
        "close": lambda: times.close_gaps(project),
        "open": lambda: times.open_gaps(project),
        "whole": lambda: times.move_whole(project, one.id, draw * 41 % 30_000),
        "write": lambda: rewritten(project, one.id, written_text(project, project.captions, one) + " oak"),
        "delete": lambda: hands.delete_captions(project, [one.id]) if len(captions) > 2 else project,
        "insert": lambda: hands.insert_caption(project, draw * 43 % 30_000, "[music]")[0],
        "set": lambda: set_again(project, keep_held=draw % 2 == 0),
        "tick": lambda: hands.set_done(project, [one.id], not one.done),
        "let go": lambda: hands.let_go(project, [one.id]),
    }
    return ways[kind]()


def is_sound(project):
    captions = project.captions.captions
    assert [(one.start_ms, one.end_ms) for one in captions] == sorted(
        (one.start_ms, one.end_ms) for one in captions
    )
    held = [word for one in captions for word in one.words]
    assert len(held) == len(set(held)) and len({one.id for one in captions}) == len(captions)
    for one in captions:
        assert (
            one.start_ms < one.end_ms
            and set(one.breaks) <= set(one.words[1:])
            and set(one.hidden) < set(one.words) | {0}
        )
        if one.words:
            assert text_of(project, project.captions, one).lines
    index = track_index(project, project.active)
    assert dict(index.captions.items()) == {one.id: one for one in captions}


@settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.lists(st.tuples(st.sampled_from(KINDS), st.integers(0, 10_000)), min_size=1, max_size=14))
def test_any_sequence_of_hands_keeps_every_word_and_undoes_to_the_start(steps):
    media = Media("x.mp4", "/x.mp4", "", 60_000, frame_rate=Fraction(30000, 1001), width=640, height=360)
    start = set_again(add_heard(Project(media=media), spoken(STORY)), DEFAULT_STYLE)
    history, project = History(start), start
    for kind, draw in steps:
        try:
            project = one_act(project, kind, draw)
        except DubrelError:
            continue
        is_sound(project)
        history.apply(project, kind)
        history.seal()
    while history.undo() is not None:
        pass
    assert history.present == start
