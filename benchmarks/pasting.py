"""A paste of 10,000 words over as many, aligned by text, against one pass of ``difflib.SequenceMatcher``."""

from __future__ import annotations

import difflib
import time

import numpy as np
from common import report

from dubrel.edits.intake import set_turns
from dubrel.edits.words.pasting import pasted
from dubrel.model import Project, RecognisedTurn, RecognisedWord


def main() -> None:
    """Paste a text in which every twelfth word is another."""
    chance = np.random.default_rng(1)
    vocabulary = np.array([f"w{k}" for k in range(3000)])
    weights = 1 / np.arange(1, 3001)
    said = [str(one) for one in chance.choice(vocabulary, 10_000, p=weights / weights.sum())]
    becomes: list[str] = []
    for word in said:
        luck = chance.random()
        if luck < 0.03:
            continue
        if luck < 0.08:
            becomes.append(str(chance.choice(vocabulary)))
            continue
        becomes += [word] if luck < 0.98 else [word, "more"]
    turns = [
        RecognisedTurn(
            tuple(
                RecognisedWord(w, (k + j) * 300, (k + j) * 300 + 250) for j, w in enumerate(said[k : k + 40])
            ),
            None,
        )
        for k in range(0, len(said), 40)
    ]
    project = set_turns(Project(), turns, [], "en")
    first, last = project.transcript.turns[0], project.transcript.turns[-1]
    text = " ".join(becomes)
    ours, plain, usual = [], [], []
    for _ in range(3):
        began = time.perf_counter()
        made = pasted(project, (first.id, 0), (last.id, len(last.text)), text)
        ours.append(time.perf_counter() - began)
        began = time.perf_counter()
        difflib.SequenceMatcher(None, said, becomes, autojunk=False).get_opcodes()
        plain.append(time.perf_counter() - began)
        began = time.perf_counter()
        difflib.SequenceMatcher(None, said, becomes).get_opcodes()
        usual.append(time.perf_counter() - began)
    assert [word.text for turn in made.transcript.turns for word in turn.words] == becomes
    known = {word.id: word for turn in project.transcript.turns for word in turn.words}
    kept = sum(known.get(w.id) is w for turn in made.transcript.turns for w in turn.words)
    report(
        "paste",
        ratio=min(ours) / min(plain),
        limit=1.0,
        s=min(ours),
        against_the_junk_heuristic=min(ours) / min(usual),
        words_untouched=kept,
    )


if __name__ == "__main__":
    main()
