"""Captions at nine places in both directions, as a browser engine shows the file."""

import base64
import json
import subprocess
import sys
from fractions import Fraction

import av
import numpy as np
import pytest
from conftest import ROOT, spoken
from PIL import Image

from dubrel.base.value import replace
from dubrel.captions.places import named_place, settings_of
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.formats.captions import webvtt
from dubrel.model import Project, RecognisedTurn, Speaker

PLACES = [f"{level} {side}" for level in ("top", "middle", "bottom") for side in ("left", "centre", "right")]
WIDE, HIGH = 480, 270
BROWSER = ROOT / "tests" / "page_in_browser.py"
SAID = {"en": "They sold the old boat that summer.", "he": "מכרו את הסירה הישנה באותו קיץ ארוך."}


def grey_film(path):
    """A film that a browser without any patented decoder plays."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libvpx", rate=25)
        stream.width, stream.height, stream.pix_fmt = WIDE, HIGH, "yuv420p"
        for nth in range(60):
            frame = av.VideoFrame.from_ndarray(np.full((HIGH, WIDE, 3), 120, np.uint8), format="rgb24")
            frame = frame.reformat(format="yuv420p")
            frame.pts, frame.time_base = nth, Fraction(1, 25)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))


def captions_at(place, language):
    """A file of one caption in two lines at a place."""
    heard = spoken(SAID[language], start=100)
    project = set_again(
        set_turns(Project("P"), [RecognisedTurn(tuple(heard), "s1")], [Speaker("s1", "")], language), None
    )
    track = project.captions
    one = replace(track.captions[0], start_ms=0, end_ms=2400, place=settings_of(named_place(place)))
    halves = (one.words[len(one.words) // 2],)
    project = replace(project, tracks=(replace(track, captions=(replace(one, breaks=halves),)),))
    return webvtt.write(project)


@pytest.mark.parametrize("language", ["en", "he"])
def test_a_caption_stands_where_it_was_put_in_two_lines_whichever_way_it_is_read(tmp_path, language):
    grey_film(tmp_path / "v.webm")
    films = "".join(
        f'<video width={WIDE} height={HIGH} src="v.webm" preload=auto muted><track default kind=captions'
        f' srclang={language} src="data:text/vtt;base64,'
        f'{base64.b64encode(captions_at(place, language).encode()).decode()}"></video>'
        for place in PLACES
    )
    page = tmp_path / "places.html"
    style = f"margin:0;line-height:0;background:#777;overflow:hidden;width:{WIDE * 3}px"
    page.write_text(f"<body style='{style}'>{films}</body>")
    go = "one.readyState ? (one.currentTime = 1) : one.onloadedmetadata = () => {one.currentTime = 1}"
    shown = "!one.seeking && one.currentTime == 1 && (one.textTracks[0].activeCues || []).length"
    there = f"[...document.querySelectorAll('video')].every(one => {shown})"
    scripts = [f"document.querySelectorAll('video').forEach(one => {{{go}}})", {"until": there}]
    picture = tmp_path / "places.png"
    subprocess.run(
        [sys.executable, str(BROWSER), str(page), str(WIDE * 3), str(HIGH * 3), str(picture)],
        input=json.dumps(scripts),
        text=True,
        capture_output=True,
        timeout=120,
        check=False,
    )
    shown = np.asarray(Image.open(picture).convert("L")).astype(int)
    for nth, place in enumerate(PLACES):
        row, column = divmod(nth, 3)
        cell = shown[row * HIGH : (row + 1) * HIGH, column * WIDE : (column + 1) * WIDE]
        ys, xs = np.nonzero(cell < 60)
        left, right, top, bottom = xs.min() / WIDE, xs.max() / WIDE, ys.min() / HIGH, ys.max() / HIGH
        level, side = place.split()
        assert 0.1 < bottom - top < 0.2, place  # two lines, and not a word to a line
        if side == "left":  # beside a share of the height this engine takes the margin of itself
            assert 0 <= left < 0.06, place
        elif side == "right":
            assert 0.92 < right < 0.98, place
        else:
            assert abs(left + right - 1) < 0.03, place
        wanted = {"top": top - 0.05, "bottom": bottom - 0.95, "middle": (top + bottom) / 2 - 0.5}[level]
        assert abs(wanted) < 0.05, place
