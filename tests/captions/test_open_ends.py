"""What a professional sees first: lines and captions that end with “the”, “with”, “is”."""

import pytest
from conftest import spoken
from openends import TEXT, open_ends

from dubrel.captions.bonds import bond_of
from dubrel.captions.styles import STYLES
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard
from dubrel.model import Project
from dubrel.project.captiontext import text_of


def lines_in(style):
    """Every line of the text in captions of a style."""
    project = set_again(add_heard(Project(title="Letters"), spoken(TEXT)), style)
    track = project.captions
    return [line for one in track.captions for line in text_of(project, track, one).lines]


@pytest.mark.parametrize(("name", "most"), [("Web", 0), ("Films", 0), ("Television", 2)])
def test_hardly_a_line_of_a_text_nobody_fitted_ends_open(name, most):
    lines = lines_in(STYLES[name])
    assert len(lines) > 90 and len(open_ends(lines)) <= most


def test_a_form_of_to_be_stays_with_what_it_says():
    for after in ("from", "the", "easy", "standing", "not"):
        assert bond_of("is", after, "en") > bond_of("bell", "is", "en")
