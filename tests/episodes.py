"""Small episodes of a series, as project files."""

from pathlib import Path

from conftest import spoken

from dubrel.edits.intake import set_turns
from dubrel.model import Project, RecognisedTurn, Speaker
from dubrel.store.projectfile import save

SAID = (
    "We found the stern post. It was dry oak.",
    "Isolde knew the stern post from a photograph.",
    "Nobody spoke of money then.",
)


def episode(path: Path, nth: int) -> Path:
    turn = RecognisedTurn(tuple(spoken(SAID[nth], start=1000)), "s1")
    made = set_turns(
        Project(title=f"Part {nth + 1}"), [turn], [Speaker("s1", ("Isolde", "Tobiah")[nth % 2])], "en"
    )
    save(made, path)
    return path
