"""Projects made for tests, and what tests say of one."""

from conftest import spoken

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.model import Project, RecognisedTurn, Speaker
from dubrel.speech.speakers.diarise import Voices, diarise

SAID = (
    "Welcome back to Slow Water. This week we are down at the boatyard, where the old boat has finally come "
    "out of the canal. Tobiah, what did you find when the water went away? Mostly oak, and most of it tired. "
    "We lost twelve boards in the storm. Nobody had opened that door for thirty years, and nobody will."
)


def boat_project(text=SAID, people=2):
    """A captioned project of some people who speak in turn, sentence by sentence."""
    speakers = [Speaker(f"s{k}", name) for k, name in enumerate(("Isolde", "Tobiah", "Alasdair")[:people])]
    turns, run = [], []
    for word in spoken(text):
        run.append(word)
        if word.text[-1] in ".?!" and len(run) > 3:
            turns.append(RecognisedTurn(tuple(run), f"s{len(turns) % people}"))
            run = []
    turns += [RecognisedTurn(tuple(run), "s0")] if run else []
    return set_again(set_turns(Project(title="Boat"), turns, speakers, "en"), DEFAULT_STYLE)


def beginning(project, count):
    """A project with its first turns only, and with the captions and the translations of those."""
    turns = project.transcript.turns[:count]
    end = turns[-1].end_ms
    tracks = [
        replace(track, captions=tuple(one for one in track.captions if one.end_ms <= end + 500))
        for track in project.tracks
    ]
    return replace(project, transcript=replace(project.transcript, turns=turns), tracks=tuple(tracks))


def found_in(samples, heard, encoder, **wanted):
    *shares, voices = diarise(samples, heard, encoder, **wanted)
    assert shares == sorted(shares) and isinstance(voices, Voices)
    return voices


def shape(project):
    return [(turn.speaker, turn.text) for turn in project.transcript.turns]
