"""The web page in a real browser engine.

Follows, plays, searches, changes language, asks for nothing outside.
"""

import json
import shutil
import subprocess
import sys
from dataclasses import replace

import pytest
from conftest import DEMO, ROOT
from test_forms import SAMPLES

from dubrel.release.kits import Item, Kit, plan
from dubrel.store.projectfile import read_project

BROWSER = ROOT / "tests" / "page_in_browser.py"
WORD = "document.querySelectorAll('#text0 i')[40]"


def written(project, folder, **options):
    [planned] = plan(project, Kit("Page", "{title}", (Item("page", options),)))
    path = folder / "page.html"
    path.write_bytes(planned.form.written(planned.source))
    return path


def asked(page, *scripts, width=1280, height=800):
    """What scripts find in a page, and what it asked for."""
    done = subprocess.run(
        [sys.executable, str(BROWSER), str(page), str(width), str(height)],
        input=json.dumps(scripts),
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )
    line = next((one for one in done.stdout.splitlines() if one.startswith("ANSWERS")), None)
    assert line is not None, done.stderr[-500:]
    found = json.loads(line.removeprefix("ANSWERS "))
    return found["answers"], found["requests"]


@pytest.fixture(scope="module")
def podcast():
    return read_project(DEMO / "slow-water-7.dubrel").project


def test_a_word_that_is_clicked_plays_and_the_text_follows(podcast, tmp_path):
    shutil.copy(DEMO / "slow-water-7.opus", tmp_path)
    page = written(podcast, tmp_path)
    answers, requests = asked(
        page,
        "document.querySelectorAll('#text0 i').length",
        f"({WORD}.click(), +{WORD}.dataset.t)",
        1200,
        "document.getElementById('media').currentTime * 1000",
        "document.querySelectorAll('i.now').length",
        "document.getElementById('shown').textContent",
        "(s => {s.value = '1'; s.dispatchEvent(new Event('change'))})(document.getElementById('language'))",
        200,
        "document.getElementById('text0').hidden + ' ' + document.getElementById('text1').hidden",
        "document.getElementById('shown').textContent",
    )
    count, wanted, now, marked, caption, _, hidden, other = answers
    assert count == sum(len(turn.words) for turn in podcast.transcript.turns)
    assert wanted <= now < wanted + 4000 and marked == 1
    assert (
        caption.startswith("The bottom boards") and hidden == "true false" and other.startswith("As tábuas")
    )
    assert [one.rsplit("/", 1)[1] for one in requests] == ["page.html", "slow-water-7.opus"]


def test_a_search_marks_what_it_finds_whatever_accents(podcast, tmp_path):
    page = written(podcast, tmp_path)
    type_in = (
        "(f => {f.value = '%s'; f.dispatchEvent(new Event('input'))})(document.getElementById('search'))"
    )
    answers, _ = asked(
        page,
        type_in % "BOAT",
        300,
        "document.querySelectorAll('i.hit').length",
        type_in % "old mill",
        300,
        "document.getElementById('found').textContent",
        type_in % "",
        300,
        "document.querySelectorAll('i.hit').length",
    )
    assert answers[1] == 6 and answers[3] == "1 found" and answers[5] == 0


def test_hostile_words_run_nothing_and_are_read_as_they_are(tmp_path):
    page = written(replace(SAMPLES["hostile"], title="</title><script>window.bad=1</script>"), tmp_path)
    answers, requests = asked(
        page,
        "String(window.bad)",
        "document.getElementsByTagName('script').length",
        "document.querySelector('#text0').textContent.includes('</script><b>&amp;')",
        "document.title",
        width=390,
        height=780,
    )
    assert answers == ["undefined", 2, True, "</title><script>window.bad=1</script>"]
    assert [one.rsplit("/", 1)[1] for one in requests] == ["page.html"]


def test_a_right_to_left_page_reads_from_the_right_and_fits_a_telephone(tmp_path):
    page = written(SAMPLES["hebrew"], tmp_path)
    answers, _ = asked(
        page,
        "getComputedStyle(document.querySelector('#text0 p')).direction",
        "document.documentElement.scrollWidth <= innerWidth",
        width=390,
        height=780,
    )
    assert answers == ["rtl", True]


def test_a_piece_to_embed_works_in_a_page_of_others(podcast, tmp_path):
    [planned] = plan(podcast, Kit("Piece", "{title}", (Item("fragment"),)))
    shutil.copy(DEMO / "slow-water-7.opus", tmp_path)
    page = tmp_path / "page.html"
    page.write_text(
        f"<h1>Blog</h1><style>i{{color:lime}}</style>{planned.form.written(planned.source).decode()}"
    )
    inner = "document.querySelector('iframe').contentDocument"
    answers, requests = asked(
        page,
        f"{inner}.querySelectorAll('#text0 i')[40].click()",
        1200,
        f"{inner}.querySelectorAll('i.now').length",
        f"getComputedStyle({inner}.querySelector('i')).color == 'rgb(0, 255, 0)'",
    )
    assert answers[1:] == [1, False]
    assert [one.rsplit("/", 1)[1] for one in requests if one.startswith("file:")] == [
        "page.html",
        "slow-water-7.opus",
    ]


def test_the_recording_can_stand_inside_the_page(podcast, tmp_path):
    podcast = replace(podcast, media=replace(podcast.media, path=str(DEMO / podcast.media.name)))
    page = written(podcast, tmp_path, media="inside")
    answers, requests = asked(page, 2000, "document.getElementById('media').duration", width=800)
    assert 160 < answers[0] < 170 and all(one.startswith(("file:", "data:", "blob:")) for one in requests)
