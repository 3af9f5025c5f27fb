"""``import dubrel``: what its examples (docs/guide/python.md, run as tests) do not show."""

import pytest
from conftest import DEMO

import dubrel
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.model import Project
from dubrel.project.tracks import with_track


def test_what_a_translation_lacks_is_added_to_its_track():
    project = dubrel.open(DEMO / "slow-water-7.dubrel")
    before = replace(project.tracks[1], captions=project.tracks[1].captions[:20])
    made = dubrel.translate(with_track(project, before), "Portuguese")
    assert [one.language for one in made.tracks] == ["en", "pt"]
    texts = {one.id: one.text for one in made.tracks[1].captions}
    assert len(texts) > 40 and all(texts[one.id] == one.text for one in before.captions)


@pytest.mark.parametrize(
    ("act", "said"),
    [
        (lambda: dubrel.open(DEMO / "none.srt"), "none.srt” cannot be read"),
        (lambda: dubrel.open(DEMO / "heron-film.mp4"), "cannot be read. Known suffixes"),
        (lambda: dubrel.translate(dubrel.open(DEMO / "heron-film.dubrel"), "xx"), "no language “xx”"),
        (lambda: dubrel.transcribe(DEMO / "heron-film.mp4", language="xx"), "no language “xx”"),
        (lambda: dubrel.transcribe(DEMO / "none.mp4"), "none.mp4” cannot be read"),
        (lambda: dubrel.transcribe(DEMO / "heron-film.mp4", engine="remote:http://x"), "needs consent"),
        (lambda: dubrel.check(Project(title="Empty")), "“Empty” has no captions"),
    ],
)
def test_what_cannot_be_done_is_an_error_with_a_sentence(act, said):
    with pytest.raises(DubrelError, match=said.replace("“", ".").replace("”", ".")):
        act()


def test_a_folder_that_cannot_be_written_is_said_once(tmp_path):
    (tmp_path / "file").write_text("in the way")
    project = dubrel.open(DEMO / "slow-water-7.dubrel")
    with pytest.raises(DubrelError) as error:
        dubrel.release_to(project, tmp_path / "file", "Captions for the web")
    assert str(error.value).count("cannot be written") == 1
