"""Cuts: passages taken out and put back, and the project as it is in a cut."""

from __future__ import annotations

from fractions import Fraction
from random import Random

import pytest
from conftest import words
from random_checks import check_project, check_saved
from random_projects import any_cut, any_project
from samples import boat_project

from dubrel.base.errors import DubrelError
from dubrel.base.timecode import frames_to_ms, ms_to_frames
from dubrel.base.value import replace
from dubrel.edits.captions.shape import break_line
from dubrel.edits.captions.times import move_edge
from dubrel.edits.cuts.cutting import cut_project
from dubrel.edits.cuts.trimming import (
    edge_moved,
    join_set,
    nudged,
    put_back,
    renamed,
    spans_of_words,
    taken_out,
    with_cut,
    with_whole,
)
from dubrel.edits.notes import with_note
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.track import begin_track
from dubrel.model import Cut, CutPassage, Media, TakenOut
from dubrel.project.captiontext import text_of
from dubrel.project.timeline import placements, timeline
from dubrel.store.deltas import applied, delta, empty_rows
from dubrel.store.validating import project_of
from dubrel.translation.choosing import missing_tasks

LENGTH = 40_000


def boat(rate=None):
    """A project with a recording of 40 seconds."""
    media = Media(
        "boat.wav", "/nowhere/boat.wav", "", LENGTH, frame_rate=rate, channels=1, width=640 if rate else 0
    )
    return replace(boat_project(), media=media)


def said(project) -> str:
    return " ".join(word.text for word in words(project))


def cut_of(project, *spans) -> Cut:
    return Cut(project.next_id, "The cut", tuple(CutPassage(*span) for span in spans))


def without(project, *texts):
    """The project with a cut in which some words are taken out, and the cut."""
    project, cut_id = with_whole(project)
    ids = [word.id for word in words(project) if word.text in texts]
    made = taken_out(project, cut_id, spans_of_words(project, ids, "by hand"))
    return made, made.cut(cut_id)


class TestTakingOut:
    def test_words_go_with_the_shorter_pause_beside_them(self):
        project, cut = without(boat(), "Tobiah,")
        lost = cut.taken[0]
        tobiah = next(word for word in words(project) if word.text == "Tobiah,")
        assert lost.start_ms < tobiah.start_ms < tobiah.end_ms < lost.end_ms
        assert cut.length_ms == LENGTH - (lost.end_ms - lost.start_ms)
        near = [word for word in words(project) if word is not tobiah]
        assert all(word.end_ms <= lost.start_ms or word.start_ms >= lost.end_ms for word in near)
        made = cut_project(project, cut)
        before = words(made)[said(project).split().index("Tobiah,") - 1]
        after = words(made)[said(project).split().index("Tobiah,")]
        assert (before.text, after.text) == ("canal.", "what")
        assert after.start_ms - before.end_ms == pytest.approx(600, abs=60)  # the pause of before

    def test_nothing_is_struck_in_the_transcript(self):
        project = boat()
        made, _ = without(project, "Tobiah,", "thumb")
        assert made.transcript is project.transcript and made.tracks is project.tracks

    def test_put_back_is_as_before(self):
        project, cut = without(boat(), "Tobiah,", "Mostly", "storm.")
        for one in cut.taken:
            project = put_back(project, cut.id, one.start_ms, one.end_ms)
        assert project.cut(cut.id).passages == (CutPassage(0, LENGTH),)
        assert project.cut(cut.id).taken == ()

    def test_half_of_it_put_back(self):
        project, cut_id = with_whole(boat())
        project = taken_out(project, cut_id, [TakenOut(5000, 9000, "said again")])
        project = put_back(project, cut_id, 5000, 7000)
        assert project.cut(cut_id).passages == (CutPassage(0, 7000), CutPassage(9000, LENGTH))
        assert project.cut(cut_id).taken == (TakenOut(7000, 9000, "said again"),)

    def test_what_went_first_keeps_its_reason(self):
        project, cut_id = with_whole(boat())
        project = taken_out(project, cut_id, [TakenOut(5000, 6000, "pause")])
        project = taken_out(project, cut_id, [TakenOut(4000, 8000, "by hand")])
        assert [(one.start_ms, one.end_ms, one.why) for one in project.cut(cut_id).taken] == [
            (4000, 5000, "by hand"),
            (5000, 6000, "pause"),
            (6000, 8000, "by hand"),
        ]
        assert project.cut(cut_id).passages == (CutPassage(0, 4000), CutPassage(8000, LENGTH))

    def test_the_same_twice_changes_nothing(self):
        project, cut_id = with_whole(boat())
        once = taken_out(project, cut_id, [TakenOut(5000, 6000)])
        assert taken_out(once, cut_id, [TakenOut(5000, 6000)]) is once

    def test_not_everything_can_go(self):
        project, cut_id = with_whole(boat())
        with pytest.raises(DubrelError, match="everything"):
            taken_out(project, cut_id, [TakenOut(0, LENGTH + 99)])

    def test_a_pause_can_be_muted_instead(self):
        project, cut_id = with_whole(boat())
        project = taken_out(project, cut_id, [TakenOut(5000, 6000)], plays="muted")
        cut = project.cut(cut_id)
        assert [one.plays for one in cut.passages] == ["all", "muted", "all"] and cut.length_ms == LENGTH
        heard = words(cut_project(project, cut))
        assert not [word for word in heard if 5000 <= (word.start_ms + word.end_ms) // 2 < 6000]
        assert put_back(project, cut_id, 5000, 6000).cut(cut_id).passages == (CutPassage(0, LENGTH),)

    def test_on_frames_never_more_than_asked_for(self):
        rate = Fraction(30000, 1001)
        project, cut_id = with_whole(boat(rate))
        project = taken_out(project, cut_id, [TakenOut(5001, 6001)])
        first, second = project.cut(cut_id).passages
        assert first.end_ms >= 5001 and second.start_ms <= 6001
        for ms in (first.end_ms, second.start_ms):
            assert frames_to_ms(ms_to_frames(ms, rate), rate) == ms

    def test_a_join_is_nudged_by_frames_and_stops_at_its_neighbour(self):
        rate = Fraction(25)
        project, cut_id = with_whole(boat(rate))
        project = taken_out(project, cut_id, [TakenOut(5000, 6000, "pause")])
        later = nudged(project, cut_id, 0, "out", 2)
        assert later.cut(cut_id).passages[0].end_ms == 5080
        assert later.cut(cut_id).taken == (TakenOut(5080, 6000, "pause"),)
        far = edge_moved(project, cut_id, 0, "out", 9000)
        assert far.cut(cut_id).passages[0].end_ms == 6000 and far.cut(cut_id).taken == ()
        earlier = edge_moved(project, cut_id, 1, "in", 7000)
        assert [(one.start_ms, one.end_ms) for one in earlier.cut(cut_id).taken] == [(5000, 7000)]

    def test_joins_cross_all_at_once(self):
        project, cut_id = with_whole(boat())
        project = taken_out(project, cut_id, [TakenOut(5000, 6000), TakenOut(8000, 9000)], cross_ms=20)
        assert [one.cross_ms for one in project.cut(cut_id).passages] == [20, 20, 0]
        project = join_set(project, cut_id, [1], cross_ms=0, lead_frames=2)
        assert [(one.cross_ms, one.lead_frames) for one in project.cut(cut_id).passages][1] == (0, 2)

    def test_names_are_told_apart(self):
        project, _ = with_whole(boat())
        project, second = with_cut(project, "The cut", [CutPassage(0, 100)])
        assert [one.name for one in project.cuts] == ["The cut", "The cut 2"]
        with pytest.raises(DubrelError, match="called"):
            renamed(project, second, " The  cut ")


class TestTheProjectOfACut:
    def test_words_keep_their_ids_and_their_lengths(self):
        project = boat()
        made = cut_project(project, cut_of(project, (2000, 9000), (15_000, LENGTH)))
        before = {word.id: word for word in words(project)}
        for word in words(made):
            was = before[word.id]
            shift = 2000 if was.start_ms < 9000 else 8000
            if was.start_ms >= 2000 and (was.end_ms <= 9000 or was.start_ms >= 15_000):
                assert (word.start_ms, word.end_ms) == (was.start_ms - shift, was.end_ms - shift)
        kept = [w for w in before.values() if 2000 <= (w.start_ms + w.end_ms) // 2 < 9000]
        kept += [w for w in before.values() if (w.start_ms + w.end_ms) // 2 >= 15_000]
        assert [word.id for word in words(made)] == [word.id for word in kept]
        assert made.length_ms == 7000 + LENGTH - 15_000

    def test_a_caption_that_survives_whole_keeps_what_was_set_by_hand(self):
        project = boat()
        track = project.captions
        first, last = track.captions[0], track.captions[-1]
        project = move_edge(project, last.id, "out", last.end_ms + 400)
        project = break_line(project, last.id, last.words[-1])
        held = next(one for one in project.captions.captions if one.id == last.id)
        made = cut_project(project, cut_of(project, (first.end_ms + 10, LENGTH)))
        now = next(one for one in made.captions.captions if one.id == last.id)
        shift = first.end_ms + 10
        assert now == replace(held, start_ms=held.start_ms - shift, end_ms=held.end_ms - shift)

    def test_a_caption_that_a_join_goes_through_is_set_again(self):
        project = boat()
        whole = next(one for one in project.captions.captions if len(one.words) > 4)
        inner = [word for word in words(project) if word.id in whole.words]
        made = cut_project(project, cut_of(project, (0, inner[1].start_ms), (inner[2].end_ms, LENGTH)))
        ids = {word.id for word in words(made)}
        homes = [one for one in made.captions.captions if set(one.words) & set(whole.words)]
        assert inner[1].id not in ids and homes
        shown = " ".join(line for one in homes for line in text_of(made, made.captions, one).lines)
        assert inner[1].text not in shown.split() and inner[0].text in shown.split()
        check_project(made)

    def test_what_is_held_stays_though_a_pause_in_it_went(self):
        project = boat()
        found = next(
            (one, a, b)
            for one in project.captions.captions
            for a, b in zip(one.words, one.words[1:])
            if project.transcript.words_by_id[b].start_ms - project.transcript.words_by_id[a].end_ms > 200
        )
        caption, a, b = found
        project = break_line(project, caption.id, b)
        gap = (project.transcript.words_by_id[a].end_ms + 50, project.transcript.words_by_id[b].start_ms - 50)
        made = cut_project(project, cut_of(project, (0, gap[0]), (gap[1], LENGTH)))
        now = next(one for one in made.captions.captions if one.id == caption.id)
        held = next(one for one in project.captions.captions if one.id == caption.id)
        assert (now.words, now.breaks, now.held) == (held.words, held.breaks, held.held)
        assert now.end_ms == held.end_ms - (gap[1] - gap[0])

    def test_a_translation_follows_its_sources(self):
        project, track_id = begin_track(boat(), "pt")
        tasks = missing_tasks(project, project.track(track_id))
        project = with_translations(project, track_id, [one.made("texto " * 4) for one in tasks])
        spoken = project.tracks[0]
        made = cut_project(project, cut_of(project, (spoken.captions[3].start_ms - 20, LENGTH)))
        check_project(made)
        kept = {one.id for one in made.track(track_id).captions}
        gone = {one.id for one in project.track(track_id).captions} - kept
        assert kept and gone
        times = {one.id: (one.start_ms, one.end_ms) for one in made.tracks[0].captions}
        for one in made.track(track_id).captions:
            assert one.sources and one.sources[0] in times

    def test_what_fell_out_is_gone_and_a_chapter_stays_with_the_rest_of_it(self):
        project = boat()
        every = words(project)
        project, chapter = with_note(project, "Chapter", "The boards", [every[10].id])
        project, _ = with_note(project, "Show note", "A pump", [every[11].id])
        start, end = every[9].end_ms, every[14].end_ms + 10
        made = cut_project(project, cut_of(project, (0, start), (end, LENGTH)))
        assert [(one.id, one.start_ms) for one in made.notes] == [(chapter, start)]

    def test_a_passage_that_plays_twice_has_words_of_its_own(self):
        project = boat()
        made = cut_project(project, cut_of(project, (0, 8000), (0, 8000)))
        half = len(words(made)) // 2
        assert said(made).split()[:half] == said(made).split()[half:]
        first, second = words(made)[:half], words(made)[half:]
        assert [one.start_ms + 8000 for one in first] == [one.start_ms for one in second]
        check_project(made)

    def test_another_order(self):
        project = boat()
        made = cut_project(project, cut_of(project, (20_000, LENGTH), (0, 10_000)))
        assert said(made).split()[-1] != said(project).split()[-1]
        assert sorted(said(made).split()) != [] and words(made)[-1].end_ms <= 30_000
        check_project(made)
        check_saved(made)

    @pytest.mark.parametrize("rate", ["24000/1001", "25", "30000/1001", "50", "60000/1001"])
    def test_frames_do_not_add_up_to_a_drift(self, rate):
        rate = Fraction(rate)
        passages = [
            CutPassage(frames_to_ms(100 * k, rate), frames_to_ms(100 * k + 37, rate)) for k in range(3000)
        ]
        places = placements(Cut(1, "", tuple(passages)), rate)
        assert [one.at_ms for one in places] == [frames_to_ms(37 * k, rate) for k in range(3000)]
        assert places[-1].until_ms == frames_to_ms(37 * 3000, rate)

    def test_joins_are_shot_changes(self):
        project = boat(Fraction(25))
        project = replace(project, media=replace(project.media, shots=(4000, 12_000)))
        made = cut_project(project, cut_of(project, (0, 8000), (10_000, LENGTH)))
        assert made.shots == (4000, 8000, 10_000)

    def test_an_empty_cut_has_nothing(self):
        made = cut_project(boat(), Cut(99, "Nothing", ()))
        assert not words(made) and made.length_ms is None and not made.captions.captions

    def test_both_clocks(self):
        project = boat()
        clock = timeline(cut_of(project, (2000, 5000), (9000, LENGTH)), None)
        assert [clock.source(ms) for ms in (0, 2999, 3000, 4000)] == [2000, 4999, 9000, 10_000]
        assert [clock.placed(ms) for ms in (0, 2500, 6000, 9500)] == [0, 500, 3000, 3500]
        assert [clock.plays(ms) for ms in (1999, 2000, 5000, 9000)] == [False, True, False, True]

    @pytest.mark.parametrize("seed", range(40))
    def test_holds_together_whatever_is_cut(self, seed):
        chance = Random(seed)
        project = any_project(chance)
        made = cut_project(project, any_cut(project, chance))
        check_project(made)
        check_saved(made)


class TestKept:
    def test_in_the_file_and_in_the_journal(self):
        project, cut_id = with_whole(boat())
        project = taken_out(project, cut_id, [TakenOut(5000, 6000, "pause")], cross_ms=20)
        project = taken_out(project, cut_id, [TakenOut(9000, 9500)], plays="gap")
        check_saved(project)
        rows = applied(empty_rows(), delta(type(project)(), project))
        read, said_of_it = project_of(rows)
        assert read.cuts == project.cuts and not said_of_it

    def test_what_cannot_be_is_left_out_and_said(self):
        project, cut_id = with_whole(boat())
        rows = applied(empty_rows(), delta(type(project)(), project))
        rows["cuts"][0][2] += [[5, 5, 0, 0, "all"], [7, "x", 0, 0, "all"], [100, 200, 0, 0, "backwards"]]
        rows["cuts"].append([cut_id, "", "none", []])
        read, said_of_it = project_of(rows)
        assert [(one.start_ms, one.end_ms) for one in read.cuts[0].passages] == [(0, LENGTH), (100, 200)]
        assert read.cuts[1].name == "Cut" and read.cuts[1].id != cut_id and said_of_it
