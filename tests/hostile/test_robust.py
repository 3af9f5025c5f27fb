"""Odd input in great number: nothing crashes, nothing is lost, errors stay one sentence."""

import json
import os
import random
import time

import numpy as np
import pytest
from conftest import BOARDS, spoken, words
from recordings import caption_lines

from dubrel.base.errors import DubrelError
from dubrel.base.files import write_atomically, write_text
from dubrel.base.folders import cache_root, log_file
from dubrel.base.text import grapheme_count
from dubrel.captions.lengths import line_lengths
from dubrel.captions.setting.breaking import best_lines
from dubrel.captions.setting.setting import set_captions
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.trackchecks import check_track
from dubrel.edits.intake import add_heard, clear_transcript, from_cues
from dubrel.formats.register import READERS, read_file
from dubrel.formats.scripts.script import read_script, understand
from dubrel.jobs.machinery.events import Pace
from dubrel.jobs.transcribing.transcribe import settled_until
from dubrel.media.cache import trim_cache
from dubrel.model import Cue, HouseStyle, Project, RecognisedWord, Transcript, Turn, Word
from dubrel.release.onefile import written
from dubrel.speech.sound.activity import cut_chunks, speech_stretches
from dubrel.user.log import set_up_log

PIECES = [
    "1",
    "\n",
    "\n\n",
    "\r\n",
    "00:00:01,000 --> 00:00:02,000",
    "00:01.000 --> 00:02.000",
    "-->",
    "WEBVTT",
    "NOTE x",
    "<v Ann>",
    "<i>",
    "</",
    "{\\an8}",
    "text",
    "שלום",
    "日本",
    "👩🏽‍🔧",
    "\ufeff",
    "&amp;",
    "\t",
    "NAME: ",
    "00:00:05,000 --> 00:00:04,000",
    "-00:00:01,000 --> 00:00:02,000",
    "99:99:99,999 --> 0:0:0",
    "#",
    "[x]",
    "{",
    '"',
]

NEVER_BY_CHANCE = (".json", ".ctm", ".csv", ".tsv", ".lrc", ".scc", ".stl", ".ttml", ".dfxp", ".docx", ".odt")
"""Forms that pieces by chance do not come to."""


@pytest.mark.parametrize("suffix", sorted(READERS))
def test_random_files_are_read_or_refused_in_one_sentence(tmp_path, suffix):
    chance = random.Random(suffix)
    read = 0
    for nth in range(150):
        path = tmp_path / f"{nth}{suffix}"
        path.write_text("".join(chance.choices(PIECES, k=chance.randrange(40))), encoding="utf-8")
        try:
            project = read_file(path).project
        except DubrelError as error:
            assert "\n" not in str(error)
            continue
        read += 1
        assert all(
            word.start_ms <= word.end_ms and word.text.split() == [word.text] for word in words(project)
        )
        for form in (".srt", ".vtt", ".json", ".txt", ".ctm"):
            assert written(project, form)
    assert bool(read) == (suffix not in NEVER_BY_CHANCE)


def test_random_scripts_keep_their_words():
    chance = random.Random(3)
    for _ in range(200):
        text = "".join(chance.choices([*PIECES, " ", "word ", "Ann: hello ", "(aside) "], k=30))
        for piece in understand(text):
            assert piece.text.strip() == piece.text and piece.text
            assert all(line and line.strip() == line for line in piece.text.split("\n"))


def test_a_script_of_two_hundred_thousand_words_is_read(tmp_path):
    path = tmp_path / "long.txt"
    path.write_text("\n\n".join(f"Ann: {'slow water ' * 50}" for _ in range(2000)))
    pieces = read_script(path)
    assert len(pieces) == 2000
    assert sum(len(piece.text.split()) for piece in pieces) == 200_000


@pytest.mark.parametrize(
    "style",
    [
        DEFAULT_STYLE,
        HouseStyle("narrow", max_cpl=20, max_cps=12.0),
        HouseStyle("one line", max_lines=1, max_cpl=37),
        HouseStyle("three", max_lines=3, max_cpl=32, min_ms=1500, max_ms=5000),
    ],
)
def test_any_words_in_any_style_keep_space_and_order(style):
    chance = random.Random(style.name)
    for _ in range(12):
        heard, at = [], 0
        for _ in range(chance.randrange(1, 120)):
            text = chance.choice(
                ["a", "boat", "narrowboat,", "sternpost.", "I", "—", "שלום", "extraordinarily", "é" * 9]
            )
            length = chance.choice([0, 40, 180, 400, 900])
            heard.append(RecognisedWord(text, at, at + length))
            at += length + chance.choice([0, 0, 30, 400, 2500])
        project = set_again(add_heard(Project(), heard), style)
        captions = project.captions.captions
        assert [one for caption in captions for one in caption.words] == [word.id for word in words(project)]
        for caption in captions:
            lines = caption_lines(project, caption)
            assert len(lines) <= style.max_lines
            assert all(grapheme_count(line) <= style.max_cpl for line in lines)
        rules = {f.rule for found in check_track(project, project.captions).values() for f in found}
        assert not rules & {"overlap", "backwards", "lines", "line length", "long"}


def test_lines_are_never_longer_than_allowed_and_never_lose_a_word():
    chance = random.Random(12)
    for _ in range(300):
        tokens = [
            chance.choice(["a", "the", "boat", "mill,", "water.", "boatyard"])
            for _ in range(chance.randrange(1, 24))
        ]
        lines = chance.choice([1, 2, 3])
        words = [Word(nth, token, nth * 300, nth * 300 + 300) for nth, token in enumerate(tokens)]
        breaks = best_lines(words, HouseStyle("x", max_lines=lines, max_cpl=30), "en")
        if breaks is None:
            assert grapheme_count(" ".join(tokens)) > 30
            continue
        lengths = line_lengths(tokens, breaks)
        assert len(lengths) <= lines and max(lengths) <= 30
        assert sum(lengths) + len(breaks) == grapheme_count(" ".join(tokens))


def test_words_over_each_other_give_captions_in_order():
    words = [Word(1, "one", 0, 3000), Word(2, "two", 500, 900), Word(3, "three", 600, 650)]
    turns = tuple(Turn(10 + nth, (word,), speaker=str(nth)) for nth, word in enumerate(words))
    captions = set_captions(Transcript(turns=turns), DEFAULT_STYLE, first_id=20)
    times = [(one.start_ms, one.end_ms) for one in captions]
    assert [one.words for one in captions] == [(1, 2), (3,)]  # two at once share one
    assert captions[0].dashed == (1, 2)
    assert all(start < end for start, end in times)
    assert all(after[0] - before[1] >= 80 for before, after in zip(times, times[1:]))


def test_cues_in_any_order_become_turns_in_order():
    chance = random.Random(1)
    cues = [Cue(ms, ms + 900, ("two words",), chance.choice(["Ann", None])) for ms in range(0, 60_000, 1000)]
    chance.shuffle(cues)
    project = from_cues(Project(), cues, "en")
    starts = [word.start_ms for word in words(project)]
    assert starts == sorted(starts)
    assert len(project.captions.captions) == 60
    ids = [word.id for word in words(project)]
    assert len(set(ids)) == len(ids) and max(ids) < project.next_id


def test_hearing_again_begins_with_nothing(boards):
    empty = clear_transcript(set_again(boards, DEFAULT_STYLE), "en")
    assert empty.transcript.turns == () and empty.captions is None
    again = add_heard(empty, spoken(BOARDS))
    assert {word.id for word in words(again)}.isdisjoint({word.id for word in words(boards)})


def test_chunks_hold_all_speech_in_order_whatever_it_is_like():
    chance = np.random.default_rng(9)
    for _ in range(40):
        length = int(chance.integers(1, 3000))
        speech = np.repeat(chance.random(length // 20 + 1) > 0.4, 20)[:length].astype(np.float32)
        chunks = cut_chunks(speech, chance.random(length).astype(np.float32))
        assert all(chunk.start_ms < chunk.end_ms <= length * 32 for chunk in chunks)
        assert all(a.end_ms <= b.start_ms for a, b in zip(chunks, chunks[1:]))
        for begin, end in speech_stretches(speech):
            covered = sum(max(0, min(c.end_ms, end * 32) - max(c.start_ms, begin * 32)) for c in chunks)
            assert covered == (end - begin) * 32


def test_what_is_settled_ends_in_a_pause():
    probability = np.concatenate([np.ones(400), np.zeros(40), np.ones(100)]).astype(np.float32)
    assert 400 <= settled_until(probability) <= 440
    assert settled_until(np.ones(500, np.float32)) == 0


def test_the_cache_forgets_what_was_longest_unused():
    for nth, name in enumerate(("cache-old", "cache-mid", "cache-new")):
        folder = cache_root() / name
        folder.mkdir(parents=True)
        (folder / "x").write_bytes(b"0" * 1000)
        os.utime(folder, (nth + 1, nth + 1))
    trim_cache(
        keep=cache_root() / "cache-old",
        limit=2500 + sum(f.stat().st_size for f in cache_root().glob("*/*")) - 3000,
    )
    assert (cache_root() / "cache-old").is_dir() and (cache_root() / "cache-new").is_dir()
    assert not (cache_root() / "cache-mid").exists()


def test_time_left_is_told_once_it_can_be():
    assert Pace().at("Transcribing", 0.5).left_s is None
    pace = Pace(began=time.monotonic() - 30)
    assert pace.at("Transcribing", 0.25).left_s == pytest.approx(90, abs=1)
    assert pace.at("Transcribing", 7.0).fraction == 1.0


def test_a_failure_while_writing_leaves_the_old_file(tmp_path):
    path = tmp_path / "a.txt"
    write_text(path, "old")

    def break_off(file):
        file.write(b"half")
        raise ValueError("power cut")

    with pytest.raises(ValueError, match="power cut"):
        write_atomically(path, break_off)
    assert path.read_text() == "old" and list(tmp_path.iterdir()) == [path]


def test_the_log_is_kept_small_and_never_stops_the_start(monkeypatch, tmp_path):
    monkeypatch.setenv("DUBREL_LOG", str(tmp_path / "logs" / "d.log"))
    log_file().parent.mkdir()
    log_file().write_bytes(b"x" * (1 << 21))
    set_up_log()
    assert not log_file().exists() and (tmp_path / "logs" / "d.old.log").exists()
    monkeypatch.setenv("DUBREL_LOG", "/proc/nowhere/d.log")
    set_up_log()


def test_shortcuts_that_cannot_be_read_are_passed_over():
    from dubrel.desk.shell.core.commands import OWN_KEYS

    OWN_KEYS.path.parent.mkdir(parents=True, exist_ok=True)
    before = OWN_KEYS.path.read_text() if OWN_KEYS.path.exists() else None
    for text in ("", "[1, 2]", "{broken"):
        OWN_KEYS.path.write_text(text)
        assert OWN_KEYS.read() == {}
    OWN_KEYS.path.write_text(json.dumps({"save": "F12"}))
    assert OWN_KEYS.read() == {"save": "F12"}
    if before is None:
        OWN_KEYS.path.unlink()
    else:
        OWN_KEYS.path.write_text(before)
