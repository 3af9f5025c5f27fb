"""Translation in the core.

Sentences through the real engine, set in time, followed when the original changes.
"""

import random

import pytest
from conftest import DEMO
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import boat_project

from dubrel.base.errors import DubrelError
from dubrel.base.text import word_units
from dubrel.base.value import replace
from dubrel.captions.setting.textlines import best_text
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again, sources_renewed
from dubrel.edits.captions.shape import join_caption, split_text
from dubrel.edits.captions.trackchecks import check_track
from dubrel.edits.intake import from_cues
from dubrel.edits.translation.facing import Facing
from dubrel.edits.translation.pairing import pair_cues
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.track import (
    approve,
    begin_track,
    mirrored,
    renewed,
    source_changes,
    spoken_track,
    standing_of,
    write_first,
    write_translation,
)
from dubrel.edits.words.wording import replace_text
from dubrel.finding.elsewhere import places_in_translations, replaced_in_translations
from dubrel.finding.words import Query, find, replaced
from dubrel.jobs.machinery.events import SentencesTranslated, SentencesWeighed
from dubrel.jobs.machinery.fold import fold
from dubrel.jobs.translating import Order, translate
from dubrel.model import Cue, Project, Translated
from dubrel.project.captiontext import text_of
from dubrel.project.index import caption_with, track_index, turn_of
from dubrel.project.tracks import with_track
from dubrel.store.projectfile import open_project, read_project, save
from dubrel.translation.choosing import agreed_over, changed_pairs, missing_tasks, offers
from dubrel.translation.cutting import Cut, cut_all
from dubrel.translation.document import facing_paragraphs, translated_project
from dubrel.translation.pairs import pair_of, pairs_of, target_text
from dubrel.translation.report import doubts_in, rows


def into_portuguese(project, engine="auto"):
    """The project with a track in Portuguese, and its id."""
    project, track_id = begin_track(project, "pt")
    track = project.track(track_id)
    order = Order(track_id, missing_tasks(project, track), "en", "pt", engine)
    for event in translate(order):
        project = fold(project, event)
    return project, track_id


@pytest.fixture(scope="module")
def translated():
    """A project translated once by the real engine."""
    return into_portuguese(boat_project())


def sound(project, track_id):
    """What holds of a translated track always."""
    track = project.track(track_id)
    words = [word for caption in track.captions for word in caption.of]
    assert len(words) == len(set(words))
    assert [one.start_ms for one in track.captions] == sorted(one.start_ms for one in track.captions)
    for one in track.captions:
        assert one.words == () and len(one.of) == len(one.said.split())
        assert set(one.sources) <= set(track_index(project, track.translates).captions)
        assert one.end_ms > one.start_ms


def test_a_sentence_over_several_captions_is_translated_whole_and_set_back(translated):
    project, track_id = translated
    sound(project, track_id)
    track, source = project.track(track_id), spoken_track(project)
    assert {word for one in track.captions for word in one.of} == {
        word.id for turn in project.transcript.turns for word in turn.words
    }
    whole = target_text(track.captions, ("Isolde", "Tobiah"))
    assert "estaleiro" in whole and "carvalho" in whole and "trinta anos" in whole
    starts = {one.start_ms for one in source.captions}
    assert sum(one.start_ms in starts for one in track.captions) >= 0.7 * len(source.captions)


def test_the_rules_of_the_style_hold_for_the_translation(translated):
    project, track_id = translated
    broken = {one.rule for found in check_track(project, project.track(track_id)).values() for one in found}
    assert not broken & {"lines", "line length", "overlap", "gap", "long"}


def test_struck_words_are_not_translated():
    project = boat_project("We went, um, down to the old boat. It was dry.")
    turn = project.transcript.turns[0]
    struck = replace(turn, words=tuple(replace(w, struck=w.text == "um,") for w in turn.words))
    project = replace(
        project, transcript=replace(project.transcript, turns=(struck, *project.transcript.turns[1:]))
    )
    project, track_id = into_portuguese(project)
    assert "um," not in " ".join(one.said for one in project.track(track_id).captions)
    assert project.track(track_id).captions[0].text.lower().startswith(("nós", "fomos", "descemos"))


def test_a_correction_marks_exactly_the_captions_that_hang_on_it(translated):
    project, track_id = translated
    track = project.track(track_id)
    caption = next(one for one in track.captions if "twelve" in one.said)
    turn = turn_of(project, caption.of[0])
    at = turn.text.index("twelve")
    changed = replace_text(project, turn.id, at, at + 6, "eleven")
    now = changed.track(track_id)
    marked = [one.id for one in now.captions if source_changes(changed, now, one)]
    assert marked == [caption.id]
    assert source_changes(changed, now, caption_with(changed, track_id, caption.id)) == (
        ("twelve", "eleven"),
    )
    held = renewed(changed, track_id, [caption.id])
    assert source_changes(held, held.track(track_id), caption_with(held, track_id, caption.id)) == ()


def test_words_that_come_and_go_are_told_and_cutting_the_original_otherwise_changes_nothing(translated):
    project, track_id = translated
    track = project.track(track_id)
    caption = next(one for one in track.captions if "twelve" in one.said)
    turn = turn_of(project, caption.of[0])
    at = turn.text.index("boards")
    more = replace_text(project, turn.id, at, at, "rotten ")
    assert source_changes(more, more.track(track_id), caption_with(more, track_id, caption.id)) == (
        ("", "rotten"),
    )
    less = replace_text(project, turn.id, at, at + 7, "")
    assert source_changes(less, less.track(track_id), caption_with(less, track_id, caption.id)) == (
        ("boards", ""),
    )
    again = set_again(project, replace(DEFAULT_STYLE, max_cpl=24, max_lines=1), keep_held=False)
    now = again.track(track_id)
    assert [one for one in now.captions if source_changes(again, now, one)] == []
    assert all(one.sources for one in now.captions)


def test_translating_again_takes_only_what_changed_and_keeps_what_a_person_has_in_hand(translated):
    project, track_id = translated
    track = project.track(track_id)
    first, caption = track.captions[0], next(one for one in track.captions if "twelve" in one.said)
    project = write_translation(project, track_id, first.id, "De volta!")
    turn = turn_of(project, caption.of[0])
    at = turn.text.index("twelve")
    project = replace_text(project, turn.id, at, at + 6, "eleven")
    pairs = changed_pairs(project, project.track(track_id), pairs_of(project, project.track(track_id)))
    assert len(pairs) == 1
    order = Order(
        track_id,
        tuple(task for task in missing_tasks_of(project, track_id, pairs)),
        "en",
        "pt",
        "auto",
        over=agreed_over(pairs),
    )
    for event in translate(order):
        project = fold(project, event)
    texts = [one.text for one in project.track(track_id).captions]
    assert "De volta!" in texts and any("onze" in text for text in texts)
    assert not any("doze" in text for text in texts)
    sound(project, track_id)


def missing_tasks_of(project, track_id, pairs):
    from dubrel.translation.choosing import tasks_of

    return tasks_of(project, project.track(track_id), pairs)


def test_what_a_person_edited_meanwhile_is_not_overwritten_by_a_job_that_runs(translated):
    project, track_id = translated
    track = project.track(track_id)
    pair = pairs_of(project, track)[0]
    mine = write_translation(project, track_id, pair.captions[0].id, "Meu texto.")
    task = missing_tasks_of(project, track_id, [pair])[0]
    after = with_translations(mine, track_id, [task.made("Outro texto qualquer.")])
    assert after is mine
    agreed = with_translations(mine, track_id, [task.made("Outro texto qualquer.")], agreed_over([pair]))
    assert agreed is mine  # what was agreed to was another text
    now = pairs_of(mine, mine.track(track_id))[0]
    agreed = with_translations(mine, track_id, [task.made("Outro texto qualquer.")], agreed_over([now]))
    assert agreed.track(track_id).captions[0].text == "Outro texto qualquer."


def test_a_translation_by_hand_begins_empty_and_is_written_caption_by_caption():
    project, track_id = begin_track(boat_project(), "fi")
    project = mirrored(project, track_id)
    source, track = spoken_track(project), project.track(track_id)
    assert [one.sources for one in track.captions] == [(one.id,) for one in source.captions]
    assert all(text_of(project, track, one).lines == () for one in track.captions)
    project = write_translation(project, track_id, track.captions[0].id, "  Tervetuloa   takaisin. \n")
    assert caption_with(project, track_id, track.captions[0].id).text == "Tervetuloa takaisin."
    empty = approve(project, track_id, [one.id for one in track.captions])
    assert [one.done for one in empty.track(track_id).captions][:2] == [True, False]
    assert standing_of(empty, empty.track(track_id)).translated == 1


def test_a_place_without_a_translation_can_be_written_too():
    project, track_id = begin_track(boat_project(), "fi")
    source = spoken_track(project)
    project, new = write_first(project, track_id, [source.captions[1].id], "Tällä viikolla")
    caption = caption_with(project, track_id, new)
    assert (caption.start_ms, caption.end_ms) == (source.captions[1].start_ms, source.captions[1].end_ms)
    slots = Facing().slots(project, project.track(track_id))
    assert [slot.caption is not None for slot in slots] == [k == 1 for k in range(len(slots))]
    assert pair_of(project, project.track(track_id), caption).target == "Tällä viikolla"


def test_one_language_twice_and_no_captions_are_refused():
    project, _ = begin_track(boat_project(), "fi")
    with pytest.raises(DubrelError, match="in that language already"):
        begin_track(project, "fi")
    with pytest.raises(DubrelError, match="no captions to translate"):
        begin_track(Project(), "pt")


def test_a_project_with_a_translation_comes_back_from_its_file_as_it_was(translated, tmp_path):
    project, track_id = translated
    project = approve(project, track_id, [project.track(track_id).captions[0].id])
    path = tmp_path / "boat.dubrel"
    save(project, path)
    opened = read_project(path)
    assert opened.project.tracks == project.tracks and not opened.fixed


def test_captions_of_a_translation_are_split_and_joined_with_what_they_translate(translated):
    project, track_id = translated
    project = replace(project, active=track_id)
    caption = next(one for one in project.captions.captions if len(one.of) > 6)
    parted = split_text(project, caption.id, 0.5)
    sound(parted, track_id)
    halves = [one for one in parted.captions.captions if set(one.of) <= set(caption.of)]
    assert sum((one.of for one in halves), ()) == caption.of
    joined = join_caption(parted, halves[0].id, 1)
    sound(joined, track_id)
    assert caption_with(joined, track_id, halves[0].id).of == caption.of


def test_a_name_is_replaced_in_the_translation_where_that_is_ticked_and_marks_nothing(translated):
    project, track_id = translated
    places = find(project, Query("Tobiah"), "Jeremiah")
    left = replaced(project, places)
    assert not any("Jeremiah" in one.text for one in left.track(track_id).captions)
    assert [one for one in left.track(track_id).captions if source_changes(left, left.track(track_id), one)]
    made_ = replaced_in_translations(left, places_in_translations(project, places), project)
    track = made_.track(track_id)
    assert any("Jeremiah" in one.text for one in track.captions)
    assert [one for one in track.captions if source_changes(made_, track, one)] == []


# -- cutting -------------------------------------------------------------------------------


def cut(source, target, edges):
    return cut_all([Cut(tuple(source.split()), tuple(target.split()), tuple(edges), "pt")])[0]


def test_a_border_at_a_comma_goes_to_the_comma():
    source, target = (
        "If it rains tomorrow, we will stay in the shed.",
        "Se chover amanhã, vamos ficar no galpão.",
    )
    assert cut(source, target, [4]) == (3,)


def test_a_number_and_a_name_stay_on_their_side_of_a_border():
    source = "In 1936 the company lost its last horse and Tobiah bought it from them for 20 pounds"
    target = "A companhia perdeu seu último cavalo no ano de 1936 e Tobiah o comprou por 20 libras"
    [at] = cut(source, target, [9])
    assert "1936" in target.split()[:at] and "Tobiah" in target.split()[at:]


@given(st.integers(1, 12), st.integers(0, 9), st.integers(0, 10_000))
@settings(max_examples=120, deadline=None)
def test_borders_keep_their_order_whatever_the_sentences(words, edges, seed):
    chance = random.Random(seed)
    source = tuple(chance.choice("água barco, 14 Heron. the a".split()) for _ in range(max(words, edges + 1)))
    places = tuple(sorted(chance.sample(range(1, len(source) + 1), min(edges, len(source) - 1))))
    target = tuple(chance.choice("water boat, 14 Heron. o".split()) for _ in range(words))
    [found] = cut_all([Cut(source, target, places, "pt")])
    assert len(found) == len(places) and list(found) == sorted(found)
    assert all(0 <= one <= len(target) for one in found)


@given(st.lists(st.integers(1, 30), min_size=1, max_size=6), st.integers(0, 5000))
@settings(max_examples=60, deadline=None)
def test_translations_of_any_length_are_set_soundly(lengths, seed):
    chance = random.Random(seed)
    project, track_id = begin_track(boat_project(), "pt")
    tasks = missing_tasks(project, project.track(track_id))
    found = []
    for task, length in zip(tasks, lengths):
        text = " ".join(
            chance.choice(["barco", "a", "extraordinariamente,", "sim.", "♪"]) for _ in range(length)
        )
        cuts = cut_all([Cut(task.said, tuple(word_units(text)), task.edges, "pt")])[0]
        found.append(task.made(text, cuts))
    chance.shuffle(found)
    project = with_translations(project, track_id, found)
    sound(project, track_id)
    kept = {word for one in found for word in one.words}
    assert {word for one in project.track(track_id).captions for word in one.of} == kept
    again = with_translations(project, track_id, found)
    sound(again, track_id)
    assert [one.text for one in again.track(track_id).captions] == [
        one.text for one in project.track(track_id).captions
    ]


def test_words_that_are_gone_are_passed_over():
    project, track_id = begin_track(boat_project(), "pt")
    gone = Translated((999_999,), ("gone",), (), "desapareceu")
    assert with_translations(project, track_id, [gone]) is project
    assert with_translations(project, 12345, [gone]) is project


# -- document, report, file ------------------------------------------------------------------


def test_as_a_document_the_translation_has_the_turns_and_speakers_of_the_original(translated):
    project, track_id = translated
    track = project.track(track_id)
    whole = translated_project(project, track)
    assert [turn.speaker for turn in whole.transcript.turns] == [t.speaker for t in project.transcript.turns]
    assert [text_of(whole, whole.captions, one).lines for one in whole.captions.captions] == [
        text_of(project, track, one).lines for one in track.captions
    ]
    paragraphs = facing_paragraphs(project, translated_project(project, track))
    assert paragraphs[0][0] == "Isolde" and all(said and text for _, said, text in paragraphs)


def test_the_report_has_a_row_for_each_caption_with_what_is_wrong(translated):
    project, track_id = translated
    track = project.track(track_id)
    caption = next(one for one in track.captions if "doze" in one.text)
    bad = write_translation(project, track_id, caption.id, caption.text.replace("doze", "treze"))
    found = rows(bad, bad.track(track_id), {})
    assert [row["n"] for row in found] == list(range(1, len(track.captions) + 1))
    [row] = [row for row in found if "treze" in row["text"]]
    assert [one["message"] for one in row["findings"] if one["rule"] == "numbers"] == ["12 became 13"]
    assert row["source"] and row["start_ms"] == caption.start_ms


def test_a_sentence_said_twice_and_translated_in_two_ways_is_told():
    text = "It is dry now. We wait for the tide here. It is dry now."
    project, track_id = into_portuguese(boat_project(text))
    pairs = pairs_of(project, project.track(track_id))
    assert pairs[0].source == pairs[2].source and pairs[0].target == pairs[2].target
    project = write_translation(project, track_id, pairs[2].captions[0].id, "Agora está seco.")
    found = doubts_in(project, project.track(track_id), {})
    told = [[one.rule for one in doubts] for _, doubts in found]
    assert "consistency" in told[0] and "consistency" in told[2] and "consistency" not in told[1]


def test_a_file_that_comes_late_and_is_cut_otherwise_is_paired(translated):
    from dubrel.finding.encoder import vectors_of

    project, track_id = translated
    track = project.track(track_id)
    cues, at = [], 0
    while at < len(track.captions):  # two of ours in one of theirs, three seconds late
        some = track.captions[at : at + 2]
        cues.append(Cue(some[0].start_ms + 3000, some[-1].end_ms + 3000, tuple(one.text for one in some)))
        at += 2
    bare, other = begin_track(replace(project, tracks=project.tracks[:1]), "pt")
    found = pair_cues(bare, other, cues, vectors_of)
    assert found.course.kind == "shift" and abs(found.course.shift_ms + 3000) < 400
    theirs = found.project.track(other).captions
    wanted = [track.captions[k : k + 2] for k in range(0, len(track.captions), 2)]
    right = sum(
        len(set(one.of) & {w for c in some for w in c.of}) > 0.7 * len(one.of)
        for one, some in zip(theirs, wanted)
    )
    assert right == len(wanted)
    sound(found.project, other)


def test_times_that_are_right_do_not_drift():
    """The same captions as ours: where their meaning is found is known by a second or so."""
    from dubrel.finding.encoder import vectors_of

    project = open_project(DEMO / "slow-water-7.dubrel")
    texts = [text_of(project, project.captions, one).lines for one in project.captions.captions]
    cues = [Cue(one.start_ms, one.end_ms, lines) for one, lines in zip(project.captions.captions, texts)]
    bare, other = begin_track(replace(project, tracks=project.tracks[:1]), "pt")
    found = pair_cues(bare, other, cues, vectors_of)
    assert found.course.kind == "steady"
    times = [(one.start_ms, one.end_ms) for one in found.project.track(other).captions]
    assert times == [(one.start_ms, one.end_ms) for one in cues]


def test_the_demo_is_offered_what_can_translate_it():
    names = [one.name for one in offers("en", "pt", ["remote:http://127.0.0.1:9"])]
    assert names == ["builtin", "remote:http://127.0.0.1:9", ""]
    assert [one.name for one in offers("ja", "ja-Latn")] == ["script"]
    assert [one.name for one in offers("en", "fi")] == [""]


def test_a_long_line_is_broken_by_the_rules_and_a_short_one_stays():
    style = replace(DEFAULT_STYLE, max_cpl=20)
    assert best_text("O barco velho saiu do canal.", style, "pt").count("\n") == 1
    assert best_text("O barco.", style, "pt") == "O barco."
    assert best_text("", style, "pt") == ""


def test_the_job_gives_what_it_has_batch_by_batch_and_weighs_it():
    project, track_id = begin_track(boat_project(), "pt")
    order = Order(track_id, missing_tasks(project, project.track(track_id)), "en", "pt", "builtin", "builtin")
    events = list(translate(order))
    weighed = [one for event in events if isinstance(event, SentencesWeighed) for one in event.found]
    assert [one.source for one in weighed] == [task.text for task in order.tasks]
    assert all(one.meaning > 0.5 and one.back for one in weighed)
    assert any(isinstance(event, SentencesTranslated) for event in events)


def test_right_to_left_and_japanese_are_set_by_their_own_rules():
    project, track_id = begin_track(boat_project(), "he")
    task = missing_tasks(project, project.track(track_id))[0]
    project = with_translations(project, track_id, [task.made("ברוכים השבים למים איטיים, חברים יקרים שלי.")])
    assert text_of(project, project.track(track_id), project.track(track_id).captions[0]).rtl
    project, ja = begin_track(project, "ja", DEFAULT_STYLE)
    project = with_translations(
        project, ja, [task.made("今日はとても良い天気です。船に乗って運河をゆっくり進みましょう。")]
    )
    texts = [one.text for one in project.track(ja).captions]
    assert (
        "".join(texts).replace("\n", "") == "今日はとても良い天気です。船に乗って運河をゆっくり進みましょう。"
    )


def test_the_demo_film_can_be_translated_whole():
    project = read_project(DEMO / "heron-film.dubrel").project
    project = replace(project, tracks=tuple(one for one in project.tracks if one.spoken))
    project, track_id = into_portuguese(project)
    sound(project, track_id)
    assert standing_of(project, project.track(track_id)).translated == len(spoken_track(project).captions)


def test_a_translation_that_says_nothing_and_translates_nothing_goes_when_captions_are_set_again():
    cues = [Cue(1000, 2000, ("One two.",)), Cue(3000, 4000, ("Three four.",))]
    project = from_cues(Project("x"), cues, "en")
    project, track_id = begin_track(project, "pt")
    project = pair_cues(project, track_id, [Cue(3000, 4000, ("Um.",)), Cue(5000, 6000, ("Dois.",))]).project
    track, before = project.track(track_id), project.captions
    gone = 9_999
    made = (
        replace(track.captions[0], text="", of=(), sources=(gone,)),
        replace(track.captions[1], text="Dois.", of=(), sources=(gone,)),
    )
    project = with_track(project, replace(track, captions=made))
    renewed = sources_renewed(project, before)
    assert [(one.text, one.sources) for one in renewed.track(track_id).captions] == [("Dois.", ())]
