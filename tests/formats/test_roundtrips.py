"""Text of any kind, said by anybody, goes out in every form and comes back."""

import random
from fractions import Fraction

import pytest
from conftest import words
from recordings import caption_lines

from dubrel.base.timecode import (
    format_clock,
    format_length,
    frames_to_ms,
    ms_to_frames,
    ms_to_samples,
    parse_clock,
    parse_rate,
    rounded,
    samples_to_ms,
    snap_to_frame,
)
from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.times import Move, move_edge, moved, retimed
from dubrel.edits.intake import set_turns
from dubrel.formats.captions.webvtt import read_cues
from dubrel.formats.register import read_file
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker
from dubrel.release.onefile import write_checked, written

PLAIN = "slow water runs under the old wooden boat and nobody hurries it along".split()
ODD = [
    "AT&T",
    "R&amp;D",
    "<3",
    "a<b>c",
    "&lt;",
    "-->",
    "1984",
    "#",
    "[x]",
    "“so”",
    "it’s",
    "e\u0301te\u0301",
    "शब्द",
    "שלום,",
    "مرحبا",
    "日本語。",
    "👩🏽‍🔧",
    "🏴󠁧󠁢󠁷󠁬󠁳󠁿",
    "NOTE",
    "STYLE",
    "WEBVTT",
    "naïve",
    "20,5",
    "1:30",
    "…",
    "–",
    "\u200fא",
    "a\u00adb",
]
NAMES = [
    "Isolde",
    "Tobiah & <Co>",
    "יעל בן־דוד",
    "مريم",
    "Dr. O’Hara",
    'Guest "two"',
    "Ångström",
    "日本 太郎",
]


def talk(seed: int, odd: float, people: int = 3) -> Project:
    """A conversation of random words, at random times, by people of odd names."""
    chance = random.Random(seed)
    speakers = [Speaker(f"s{k}", name) for k, name in enumerate(chance.sample(NAMES, people), 1)]
    at, turns = chance.randrange(3000), []
    for _ in range(30):
        said = []
        for _ in range(chance.randint(1, 25)):
            text = chance.choice(ODD) if chance.random() < odd else chance.choice(PLAIN)
            end = at + chance.randint(60, 600)
            said.append(RecognisedWord(text, at, end, round(chance.random(), 3)))
            at = end + chance.choice((0, 0, 0, 20, 400))
        turns.append(RecognisedTurn(tuple(said), chance.choice(speakers).id))
        at += chance.randint(0, 3000)
    return set_turns(Project(title="Talk"), turns, speakers, "en")


def shown(project: Project) -> list:
    return [(one.start_ms, one.end_ms, caption_lines(project, one)) for one in project.captions.captions]


@pytest.mark.parametrize("seed", range(20))
def test_webvtt_keeps_text_times_lines_and_who_speaks(seed, tmp_path):
    project = set_again(talk(seed, 0.3), DEFAULT_STYLE)
    path = tmp_path / "talk.vtt"
    write_checked(project, path)
    cues, warnings = read_cues(path)
    assert not warnings
    assert [(one.start_ms, one.end_ms, list(one.lines)) for one in cues] == shown(project)
    owners = [project.transcript.name_of(one.words[0]) for one in project.captions.captions]
    assert [one.speaker for one in cues] == owners


@pytest.mark.parametrize("seed", range(20))
def test_srt_keeps_text_times_and_lines(seed, tmp_path):
    project = set_again(talk(100 + seed, 0.0), DEFAULT_STYLE)
    path = tmp_path / "talk.srt"
    write_checked(project, path)
    assert shown(read_file(path).project) == shown(project)


@pytest.mark.parametrize("seed", range(20))
def test_the_same_text_in_another_encoding_and_with_other_line_ends(seed, tmp_path):
    chance, project = random.Random(seed), set_again(talk(200 + seed, 0.0), DEFAULT_STYLE)
    suffix = chance.choice((".srt", ".vtt"))
    text = written(project, suffix)
    ends, encoding = chance.choice(("\n", "\r\n", "\r")), chance.choice(("utf-8", "utf-8-sig", "utf-16"))
    path = tmp_path / f"other{suffix}"
    path.write_bytes(text.replace("\n", ends).encode(encoding))
    assert shown(read_file(path).project) == shown(project)


@pytest.mark.parametrize("suffix", [".json", ".ctm"])
@pytest.mark.parametrize("seed", range(10))
def test_transcripts_keep_every_word_and_time(seed, suffix, tmp_path):
    project = talk(300 + seed, 0.4)
    path = tmp_path / f"talk{suffix}"
    write_checked(project, path)
    again = read_file(path).project
    assert [(w.text, w.start_ms, w.end_ms) for w in words(again)] == [
        (w.text, w.start_ms, w.end_ms) for w in words(project)
    ]
    assert [w.doubt for w in words(again)] == pytest.approx([w.doubt for w in words(project)], abs=0.001)
    if suffix == ".json":
        assert [(again.transcript.name_of(one.words[0].id), one.text) for one in again.transcript.turns] == [
            (project.transcript.name_of(one.words[0].id), one.text) for one in project.transcript.turns
        ]


@pytest.mark.parametrize("seed", range(10))
def test_struck_words_are_in_no_deliverable(seed, tmp_path):
    chance, project = random.Random(seed), talk(400 + seed, 0.1)
    turns = tuple(
        replace(turn, words=tuple(replace(word, struck=chance.random() < 0.3) for word in turn.words))
        for turn in project.transcript.turns
    )
    project = replace(project, transcript=replace(project.transcript, turns=turns))
    project = set_again(project, DEFAULT_STYLE)
    left = [word.text for word in words(project) if not word.struck]
    for suffix in (".vtt", ".ctm", ".json"):
        path = tmp_path / f"struck{suffix}"
        write_checked(project, path)
        assert [word.text for word in words(read_file(path).project)] == left


# -- times ----------------------------------------------------------------------------------

RATES = [parse_rate(one) for one in ("23.976", "24", "25", "29.97", "30", "47.95", "50", "59.94", "119.88")]


@pytest.mark.parametrize("rate", RATES)
def test_every_frame_of_a_day_is_found_again(rate):
    chance = random.Random(str(rate))
    for frame in [0, 1, *(chance.randrange(86_400 * 120) for _ in range(2000))]:
        ms = frames_to_ms(frame, rate)
        assert ms_to_frames(ms, rate) == frame
        assert snap_to_frame(ms, rate) == ms
        assert abs(Fraction(frame * 1000) / rate - ms) <= Fraction(1, 2)


@pytest.mark.parametrize("rate", [8000, 11_025, 16_000, 22_050, 44_100, 48_000, 96_000])
def test_milliseconds_and_samples_agree(rate):
    chance = random.Random(rate)
    for ms in [0, 1, *(chance.randrange(40_000_000) for _ in range(2000))]:
        assert samples_to_ms(ms_to_samples(ms, rate), rate) == ms


def test_clocks_of_any_time_read_back():
    chance = random.Random(1)
    for ms in [0, 359_999_999, *(chance.randrange(-40_000_000, 400_000_000) for _ in range(3000))]:
        for mark in ".,":
            assert parse_clock(format_clock(ms, mark=mark)) == ms
        cut = parse_clock(format_clock(ms, digits=1)) if ms >= 0 else 0
        assert ms < 0 or 0 <= ms - cut < 100
        minutes, _, seconds = format_length(ms).rpartition(":")
        assert int(seconds) == max(0, ms) // 1000 % 60 and minutes


def test_halves_are_rounded_up_and_thirds_to_the_nearest():
    assert [rounded(Fraction(k, 2)) for k in (-3, -1, 1, 3)] == [-1, 0, 1, 2]
    assert [rounded(Fraction(k, 3)) for k in (-2, -1, 1, 2)] == [-1, 0, 0, 1]


# -- captions moved --------------------------------------------------------------------------


@pytest.mark.parametrize("seed", range(10))
def test_a_stretch_and_its_inverse_bring_captions_back(seed):
    chance, project = random.Random(seed), set_again(talk(500 + seed, 0.1), DEFAULT_STYLE)
    factor = chance.choice((Fraction(25, 24), Fraction(1001, 1000), Fraction(24000, 25025)))
    shift = chance.randrange(500, 5000)
    there = moved(project, Move(shift, factor))
    before = [one.start_ms for one in project.captions.captions]
    after = [one.start_ms for one in there.captions.captions]
    assert after == [rounded(ms * factor) + shift for ms in before]
    back = moved(moved(there, Move(-shift)), Move(0, 1 / factor))
    assert all(abs(a - one.start_ms) <= 1 for a, one in zip(before, back.captions.captions))
    late = before[len(before) // 2]
    some = moved(project, Move(shift, from_ms=late))
    assert [one.start_ms for one in some.captions.captions] == [ms + shift * (ms >= late) for ms in before]
    assert [(w.start_ms, w.end_ms) for w in words(some)] == [(w.start_ms, w.end_ms) for w in words(project)]


@pytest.mark.parametrize("seed", range(10))
def test_an_edge_stops_at_its_neighbours_wherever_it_is_dragged(seed):
    chance, project = random.Random(seed), set_again(talk(600 + seed, 0.1), DEFAULT_STYLE)
    for _ in range(60):
        caption = chance.choice(project.captions.captions)
        edge = chance.choice(("in", "out"))
        to = chance.randrange(-5000, 5000) + (caption.start_ms if edge == "in" else caption.end_ms)
        project = move_edge(project, caption.id, edge, to)
        captions = project.captions.captions
        assert all(one.start_ms < one.end_ms for one in captions)
        assert all(a.end_ms <= b.start_ms for a, b in zip(captions, captions[1:]))
        assert captions[0].start_ms >= 0


def test_captions_that_change_places_are_put_in_order_again():
    project = set_again(talk(7, 0.0), DEFAULT_STYLE)
    first, second, *_ = project.captions.captions
    swapped = retimed(
        project,
        {first.id: (second.start_ms, second.end_ms), second.id: (first.start_ms, first.end_ms)},
    )
    assert [one.id for one in swapped.captions.captions[:2]] == [second.id, first.id]
    assert retimed(project, {}).captions.captions == project.captions.captions
