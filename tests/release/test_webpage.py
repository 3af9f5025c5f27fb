"""The web page in a real browser engine.

Follows, plays, searches, changes language, asks for nothing outside.
"""

import json
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from conftest import DEMO, ROOT
from test_forms import SAMPLES

from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.edits.captions.looks import with_look
from dubrel.jobs.releasing import films_made
from dubrel.media.probe import probe
from dubrel.model import Look, Motion
from dubrel.project.captiontext import text_of, word_times
from dubrel.release.kits import Item, Kit, plan
from dubrel.release.writing import existing, write_one
from dubrel.store.projectfile import read_project

BROWSER = ROOT / "tests" / "page_in_browser.py"
WORD = "document.querySelectorAll('#text0 i')[40]"
MEDIA, SHOWN = "document.getElementById('media')", "document.getElementById('shown')"
HITS = "document.querySelectorAll('i.hit').length"


def written(project, folder, **options):
    [planned] = plan(project, Kit("Page", "{title}", (Item("page", options),)))
    path = folder / "page.html"
    path.write_bytes(planned.form.written(planned.source))
    return path


def until(condition):
    """Wait for it in the page."""
    return {"until": condition}


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
        until(f"{MEDIA}.currentTime * 1000 >= {WORD}.dataset.t && {SHOWN}.textContent.startsWith('The')"),
        "document.getElementById('media').currentTime * 1000",
        "document.querySelectorAll('i.now').length",
        "document.getElementById('shown').textContent",
        "(s => {s.value = '1'; s.dispatchEvent(new Event('change'))})(document.getElementById('language'))",
        until(f"!{SHOWN}.textContent.startsWith('The')"),
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


def test_the_words_of_a_caption_come_as_they_are_spoken(podcast, tmp_path):
    project = with_look(podcast, Look(motion=Motion("word", colour="#FF0000", dimmed=0.5)))
    shutil.copy(DEMO / "slow-water-7.opus", tmp_path)
    page = written(project, tmp_path)
    caption = project.captions.captions[1]
    text = text_of(project, project.captions, caption)
    times = [span for row in word_times(project, caption, text) for span in row]
    third = times[2]
    look = (
        "JSON.stringify([...document.querySelectorAll('#shown b')].map(b =>"
        " [b.textContent, b.style.visibility, b.style.color, b.style.opacity]))"
    )
    seek = f"document.getElementById('media').currentTime = {(third[0] + third[1]) / 2000}"
    there = until(f"!{MEDIA}.seeking && document.querySelectorAll('#shown b').length")
    [_, said, plain], _ = asked(page, seek, there, look, f"{SHOWN}.textContent")
    rows = json.loads(said)
    assert plain == "\n".join(text.lines)
    assert [row[1] for row in rows] == [""] * 3 + ["hidden"] * (len(rows) - 3)
    assert [bool(row[2]) for row in rows[:3]] == [False, False, True]
    assert [row[3] for row in rows[:3]] == ["0.5", "0.5", ""]


def test_a_search_marks_what_it_finds_whatever_accents(podcast, tmp_path):
    page = written(podcast, tmp_path)
    type_in = (
        "(f => {f.value = '%s'; f.dispatchEvent(new Event('input'))})(document.getElementById('search'))"
    )
    answers, _ = asked(
        page,
        type_in % "BOAT",
        until(f"{HITS} > 2"),
        HITS,
        type_in % "old mill",
        until(f"{HITS} == 2"),
        "document.getElementById('found').textContent",
        type_in % "",
        until(f"{HITS} == 0"),
        HITS,
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
        until(f"{inner}.querySelectorAll('i.now').length"),
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
    answers, requests = asked(page, until(f"{MEDIA}.duration"), f"{MEDIA}.duration", width=800)
    assert 160 < answers[0] < 170 and all(one.startswith(("file:", "data:", "blob:")) for one in requests)


def test_the_kit_copies_the_recording_beside_the_page_so_that_it_plays(tmp_path):
    out = tmp_path / "out"
    project = tmp_path / "a.dubrel"
    shutil.copy(DEMO / "slow-water-7.dubrel", project)
    shutil.copy(DEMO / "slow-water-7.opus", tmp_path)
    assert main(["release", str(project), "--kit", "Podcast episode", "-o", str(out)]) == 0
    assert (out / "slow-water-7.opus").read_bytes() == (DEMO / "slow-water-7.opus").read_bytes()
    [page] = out.glob("*.html")
    answers, requests = asked(page, until(f"{MEDIA}.duration"), f"{MEDIA}.duration")
    assert 160 < answers[0] < 170
    assert sorted(Path(one).name for one in requests) == sorted([page.name, "slow-water-7.opus"])


def test_a_recording_that_lies_in_the_folder_stays_what_it_is(podcast, tmp_path):
    own = tmp_path / podcast.media.name
    shutil.copy(DEMO / podcast.media.name, own)
    before = own.stat()
    here = replace(podcast, media=replace(podcast.media, path=str(own)))
    kit = Kit("Page", "{title}", (Item("page"), Item("text")))
    planned = plan(here, kit)
    assert existing(planned, tmp_path) == []
    written = [event.path for event in films_made([one for one in planned if one.form.film], tmp_path)]
    assert written == []
    assert (own.stat().st_mtime_ns, own.stat().st_ino) == (before.st_mtime_ns, before.st_ino)


def test_a_page_plays_a_small_sound_that_is_as_long_as_the_recording(tmp_path):
    project = read_project(DEMO / "heron-film.dubrel").project
    project = replace(project, media=replace(project.media, path=str(DEMO / "heron-film.mp4")))
    planned = plan(project, Kit("Page", "{title}", (Item("page", {"media": "sound"}),)))
    assert [one.name for one in planned] == ["The Heron.html", "heron-film (sound).mp3"]
    write_one(planned[0], tmp_path)
    list(films_made(planned[1:], tmp_path))
    sound = tmp_path / "heron-film (sound).mp3"
    assert sound.stat().st_size < (DEMO / "heron-film.mp4").stat().st_size * 0.7
    assert probe(sound).duration_ms == pytest.approx(project.media.duration_ms, abs=120)
    length = "document.querySelector('audio').duration"
    answers, _ = asked(tmp_path / "The Heron.html", until(length), length)
    assert answers[0] == pytest.approx(project.media.duration_ms / 1000, abs=0.2)


def test_other_deliverables_take_no_name_of_the_recording_that_is_copied(podcast):
    media = replace(podcast.media, path=str(DEMO / podcast.media.name))
    named = replace(podcast, title="slow-water-7", media=media)
    kit = Kit("All", "{title}", (Item("recording"), Item("page")))
    names = [one.name for one in plan(named, kit)]
    assert names == ["slow-water-7 2.opus", "slow-water-7.html", "slow-water-7.opus"]


def test_not_copied_is_not_planned_and_the_page_names_it(podcast):
    here = replace(podcast, media=replace(podcast.media, path=str(DEMO / podcast.media.name)))
    [planned] = plan(here, Kit("Page", "{title}", (Item("page", {"media": "apart"}),)))
    assert b'src="slow-water-7.opus"' in planned.form.written(planned.source)


def test_a_page_may_run_its_own_script_and_no_other(podcast, tmp_path):
    page = written(podcast, tmp_path)
    bad = "</main><img src=x onerror='window.bad=1'><script>window.bad=2</script>"
    page.write_text(page.read_text().replace("</main>", bad))
    tried = until("document.querySelector('img') && document.querySelector('img').complete")
    answers, requests = asked(page, tried, "typeof window.bad", "document.querySelectorAll('i').length > 9")
    assert answers == ["undefined", True]
    assert [Path(one).name for one in requests][:1] == ["page.html"] and "x" not in map(str, requests)


@pytest.mark.parametrize("name", ["hebrew", "hostile"])
def test_numbers_and_long_names_fit_a_telephone(tmp_path, name):
    said = SAMPLES[name].transcript
    people = tuple(replace(one, name="Wilhelmina-Featherstonehaugh" * 3) for one in said.speakers)
    project = replace(SAMPLES[name], transcript=replace(said, speakers=people))
    kit = Kit("Both", "{form}", (Item("html", {"numbers": "paragraphs"}), Item("page")))
    for planned in plan(project, kit):
        page = tmp_path / planned.name
        page.write_bytes(planned.form.written(planned.source))
        boxes = "[...document.querySelectorAll('p, p *')].map(e => e.getBoundingClientRect().left)"
        left = f"Math.min(...{boxes})"
        right = left.replace("min", "max").replace("left", "right")
        answers, _ = asked(page, "document.documentElement.scrollWidth <= innerWidth", left, right, width=390)
        assert answers[0] and answers[1] >= 0 and answers[2] <= 390, planned.name
