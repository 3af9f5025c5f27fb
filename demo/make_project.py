"""Make the demo projects: ``python demo/make_project.py``.

The recordings are transcribed by Dubrel's own recogniser. Who speaks is taken from the
true script, as if the host had said so; the first turns are corrected and
proofed; the rest keeps the mistakes that the engine made.
"""

from __future__ import annotations

import json
import os
from dataclasses import replace
from pathlib import Path

import numpy as np
from story import VOICES

from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard
from dubrel.edits.speakers.voices import add_speaker, give_turn
from dubrel.edits.words.typedtimes import typed_runs, with_times
from dubrel.edits.words.wording import replace_text, set_proofed, split_turn
from dubrel.jobs.machinery.events import Recognised
from dubrel.jobs.transcribing.transcribe import transcribe
from dubrel.media.probe import probe
from dubrel.media.sound import passage, samples_of
from dubrel.model import Note, Project, Turn
from dubrel.speech.align.aligners import aligner_for
from dubrel.store.projectfile import save

HERE = Path(__file__).parent
PROOFED = 4


def _speaker_at(truth: list[dict], ms: int) -> str:
    def distance(turn: dict) -> int:
        start, end = turn["words"][0][1], turn["words"][-1][2]
        return max(start - ms, ms - end, 0)

    return min(truth, key=distance)["speaker"]


def _split_at_voices(project: Project, truth: list[dict]) -> Project:
    """Split turns where the true speaker changes, and give each part to its speaker."""
    ids = {}
    for name in VOICES:
        project, ids[name] = add_speaker(project, name)
    place = 0
    while place < len(project.transcript.turns):
        turn = project.transcript.turns[place]
        voices = [_speaker_at(truth, (w.start_ms + w.end_ms) // 2) for w in turn.words]
        change = next((k for k, voice in enumerate(voices) if voice != voices[0]), None)
        if change is not None:
            project = split_turn(project, turn.id, turn.offsets[change])
        project = give_turn(project, turn.id, ids[voices[0]])
        place += 1
    return project


def _correct(project: Project, turn: Turn, truth: list[dict]) -> Project:
    """Type the true words over a turn, word by word, as an editor would."""
    import difflib

    true = [
        w[0]
        for t in truth
        for w in t["words"]
        if t["words"][0][1] - 400 <= turn.start_ms <= t["words"][-1][2]
    ]
    heard = [word.text for word in turn.words]
    blocks = difflib.SequenceMatcher(a=heard, b=true, autojunk=False).get_opcodes()
    for kind, a, b, c, d in reversed(blocks):
        if kind == "equal":
            continue
        now = next(one for one in project.transcript.turns if one.id == turn.id)
        start = now.offsets[a] if a < len(now.words) else len(now.text)
        end = now.offsets[b - 1] + len(now.words[b - 1].text) if b > a else start
        text = " ".join(true[c:d])
        pad = " " if b == a and text else ""
        project = replace_text(project, turn.id, start, end, text + pad)
    return project


def aligned(project: Project, media_path: Path) -> Project:
    """Give the typed words their times, as the desk does a moment after they are typed."""
    samples = np.array(samples_of(replace(project.media, path=str(media_path))))
    aligner = aligner_for(project.transcript.language)
    for turn in project.transcript.turns:
        for run in typed_runs(turn):
            sound = np.array(passage(samples, run.start_ms, run.end_ms))
            project = with_times(project, run, aligner.align(sound, list(run.texts), run.start_ms))
    return project


def _make(
    media_name: str, title: str, subtitle: str, proofed: int, notes: list[tuple[int, str, str]]
) -> Project:
    media = probe(HERE / media_name)
    truth = json.loads((HERE / media_name).with_suffix(".truth.json").read_text())["turns"]
    project = Project(title=title, subtitle=subtitle, media=media)
    for event in transcribe(media):
        if isinstance(event, Recognised):
            project = add_heard(project, event.words)
    project = _split_at_voices(project, truth)
    for turn in project.transcript.turns[:proofed]:
        project = _correct(project, turn, truth)
        project = set_proofed(project, turn.id, True)
    for ms, kind, text in notes:
        project = replace(
            project,
            notes=(*project.notes, Note(project.next_id, ms, kind, text)),
            next_id=project.next_id + 1,
        )
    project = set_again(aligned(project, HERE / media_name), DEFAULT_STYLE)
    # linked beside the project, not where it was made
    return replace(project, media=replace(media, path=media_name, relative=media_name))


def main() -> None:
    """Make both projects."""
    notes = [
        (4000, "Chapter", "Out of the water"),
        (20_500, "Query", "Knees: ship’s knees? Say so in the show notes."),
        (26_500, "Show note", "Photograph of the post on the page"),
    ]
    podcast = _make("slow-water-7.opus", "Slow Water 7", "The Heron comes out", PROOFED, notes)
    film = _make("heron-film.mp4", "The Heron", "A film from the yard", 2, [])
    os.chdir(HERE)  # the link is by file name, from beside the project
    for project, name in ((podcast, "slow-water-7.dubrel"), (film, "heron-film.dubrel")):
        save(project, Path(name))


if __name__ == "__main__":
    main()
