"""Captions that move, in files: word times go through the forms that hold them, and what is lost is said."""

from __future__ import annotations

import json
import subprocess
import sys
import xml.etree.ElementTree as ElementTree
from random import Random

import pytest
from conftest import ROOT
from random_projects import any_project
from samples import boat_project

from dubrel.base.timecode import clock_ms
from dubrel.base.value import replace
from dubrel.captions.looks import LOOKS
from dubrel.captions.motion import coming
from dubrel.edits.captions.looks import with_look
from dubrel.formats.captions import lrc, ttml, webvtt
from dubrel.formats.register import read_file
from dubrel.formats.shared.losses import lost
from dubrel.model import Look, Motion
from dubrel.project.captiontext import shown_captions, word_times
from dubrel.release.forms import FORMS
from dubrel.release.source import Source
from dubrel.release.writing import put

HELD = Motion("word", colour="#F6E27A", box="#0F5E5A", bold=True, ruled=True, larger=12, dimmed=0.35)


def starts(project):
    """When each word of each caption begins."""
    return [
        [start for row in word_times(project, caption, text) for start, _ in row]
        for caption, text in shown_captions(project, project.captions)
    ]


def moving(look=None, project=None):
    return with_look(project or boat_project(), look or Look(motion=HELD))


def through(project, form, tmp_path, suffix):
    path = tmp_path / f"moving{suffix}"
    path.write_text(form.write(project), encoding="utf-8")
    return read_file(path)


def test_webvtt_holds_the_time_of_every_word(tmp_path):
    project = moving()
    reading = through(project, webvtt, tmp_path, ".vtt")
    assert starts(reading.project) == starts(project)
    assert [text.lines for _, text in shown_captions(reading.project, reading.project.captions)] == [
        text.lines for _, text in shown_captions(project, project.captions)
    ]


def test_webvtt_sets_off_what_is_past_and_to_come(tmp_path):
    text = webvtt.write(moving())
    for said in (
        "::cue(c) {\n  color: #F6E27A;\n  background-color: #0F5E5A;\n",
        "::cue(:past) {",
        "opacity: 0.65",
        "::cue(:future) {",
        "visibility: hidden",
    ):
        assert said in text
    assert through(moving(), webvtt, tmp_path, ".vtt").project.captions.look == Look(motion=HELD)


def test_a_look_that_stands_still_has_no_times_inside(tmp_path):
    assert "<0" not in webvtt.write(boat_project())
    assert "<0" not in lrc.write(boat_project())
    assert "<span begin" not in ttml.write(boat_project())


def test_times_inside_a_cue_only_grow_and_lie_within_it():
    chance = Random(4)
    for _ in range(30):
        project = any_project(chance)
        if project.captions is None:
            continue
        for block in webvtt.write(moving(project=project)).split("\n\n"):
            lines = block.strip().split("\n")
            times = [one for one in lines if " --> " in one]
            if not times:
                continue
            start, end = times[0].split(" --> ")[0], times[0].split(" --> ")[1].split()[0]
            inside = [part.split(">")[0] for line in lines for part in line.split("<") if part[:1].isdigit()]
            inside = [one for one in inside if one[2:3] == ":" and "--" not in one]
            assert all(start < one < end for one in inside)
            assert inside == sorted(set(inside))


def test_lrc_holds_the_time_of_every_word_to_a_hundredth(tmp_path):
    project = moving()
    reading = through(project, lrc, tmp_path, ".lrc")
    wanted = [start for row in starts(project) for start in row]
    found = [start for row in starts(reading.project) for start in row]
    assert len(found) == len(wanted)
    assert max(abs(one - other) for one, other in zip(found, wanted)) <= 5


@pytest.mark.parametrize("words", ["word", "few", "line"])
def test_ttml_lets_words_come_when_they_are_spoken(words, tmp_path):
    project = moving(Look(motion=Motion(words, few=2)))
    tree = ElementTree.fromstring(ttml.write(project))
    paragraphs = [one for one in tree.iter() if one.tag.endswith("}p")]
    for paragraph, (caption, text) in zip(paragraphs, shown_captions(project, project.captions)):
        times = word_times(project, caption, text)
        wanted = [
            ms
            for ms in coming(times, project.captions.look.motion, caption.start_ms)
            if ms > caption.start_ms
        ]
        begins = [
            one.get("begin") for one in paragraph.iter() if one.tag.endswith("}span") and one.get("begin")
        ]
        assert [caption.start_ms + round(float(one[:-1]) * 1000) for one in begins] == wanted
    reading = through(project, ttml, tmp_path, ".ttml")
    assert [(one.start_ms, one.end_ms) for one in reading.project.captions.captions] == [
        (one.start_ms, one.end_ms) for one in project.captions.captions
    ]
    assert [text.lines for _, text in shown_captions(reading.project, reading.project.captions)] == [
        text.lines for _, text in shown_captions(project, project.captions)
    ]


@pytest.mark.parametrize("name", LOOKS)
@pytest.mark.parametrize("form", ["webvtt", "srt", "ttml", "lrc"])
def test_every_look_is_written_read_back_and_what_is_lost_is_said(name, form, tmp_path):
    project = with_look(boat_project(), LOOKS[name])
    source = Source(project, None, {}, ())
    path = tmp_path / f"a{FORMS[form].suffix}"
    put(FORMS[form], source, path)
    said = " ".join(FORMS[form].lost(source))
    motion = LOOKS[name].motion
    whole = form == "webvtt" and not (
        motion.words in ("few", "line") or motion.entrance != "none" or motion.leaving != "none"
    )
    assert ("movement" in said or "the look" in said.replace("of the look", "")) == (
        motion.moves and not whole
    )


def test_a_speaker_whose_words_move_otherwise_is_said(tmp_path):
    project = with_look(moving(), Look(motion=Motion(colour="#FF0000")), "s1")
    assert "looks of single speakers" in " ".join(lost(project, FORMS["webvtt"].cannot))


def test_styled_words_keep_their_style_and_their_time(tmp_path):
    project = moving()
    track = project.captions
    caption = track.captions[0]
    styled = replace(caption, styled=((caption.words[1], "i"),))
    project = replace(project, tracks=(replace(track, captions=(styled, *track.captions[1:])),))
    reading = through(project, webvtt, tmp_path, ".vtt")
    assert starts(reading.project) == starts(project)
    assert [style for _, style in reading.project.captions.captions[0].styled] == ["i"]


def test_a_browser_reads_the_words_and_their_times(tmp_path):
    project = moving()
    blocks = [one for one in webvtt.write(project).split("\n\n") if " --> " in one]
    cues = ["\n".join(one.strip().split("\n")[1:]) for one in blocks]
    page = tmp_path / "page.html"
    page.write_text("<!doctype html><title>cues</title>")
    script = (
        f"JSON.stringify({json.dumps(cues)}.map(text => {{"
        " const html = new VTTCue(0, 1e6, text).getCueAsHTML();"
        " const walk = document.createTreeWalker(html, NodeFilter.SHOW_PROCESSING_INSTRUCTION);"
        " const times = []; while (walk.nextNode()) times.push(walk.currentNode.data);"
        " return [html.textContent, times]; }))"
    )
    done = subprocess.run(
        [sys.executable, str(ROOT / "tests" / "page_in_browser.py"), str(page), "400", "300"],
        input=json.dumps([script]),
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )
    line = next(one for one in done.stdout.splitlines() if one.startswith("ANSWERS"))
    read = json.loads(json.loads(line.removeprefix("ANSWERS "))["answers"][0])
    for (text, times), (caption, shown) in zip(read, shown_captions(project, project.captions)):
        wanted = [start for row in word_times(project, caption, shown) for start, _ in row]
        wanted = sorted({start for start in wanted if caption.start_ms < start < caption.end_ms})
        assert text == "\n".join(shown.lines)
        found = [clock_ms(*one.split(":")[:2], *one.split(":")[2].split(".")) for one in times]
        assert found == pytest.approx(wanted, abs=1)  # a browser cuts its own numbers off
