"""Find in 30,000 words: as written, as it sounds, by meaning; each against a plain way to the same."""

from __future__ import annotations

import re
import time

import numpy as np
from common import DEMO, report
from keystroke import project_of


def varied(count: int):  # type: ignore[no-untyped-def]
    """Some thousand different sentences of the demo's words, in turns."""
    from dubrel.edits.intake import set_turns
    from dubrel.model import Project, RecognisedTurn, RecognisedWord
    from dubrel.store.projectfile import read_project

    said = read_project(DEMO / "slow-water-7.dubrel").project
    stock = [word.text.strip(".,?!").lower() for turn in said.transcript.turns for word in turn.words]
    chance, turns, at, done = np.random.default_rng(4), [], 0, 0
    while done < count:
        words = []
        for nth in range(66):
            text = stock[chance.integers(len(stock))] + ("." if nth % 11 == 10 else "")
            words.append(RecognisedWord(text, at, at + 250))
            at += 280
        at += 900
        done += 66
        turns.append(RecognisedTurn(tuple(words), None))
    return set_turns(Project(), turns, [], "en")


def least(run, times: int = 9) -> float:  # type: ignore[no-untyped-def]
    """The quickest of several runs, in seconds."""
    spent = []
    for _ in range(times):
        began = time.perf_counter()
        run()
        spent.append(time.perf_counter() - began)
    return min(spent)


def as_written() -> None:
    """Every place of a word, against ``re`` over the joined text."""
    from dubrel.finding.words import Query, find

    project = project_of(30_000)
    text = "\n".join(turn.text for turn in project.transcript.turns)
    ours = least(lambda: find(project, Query("boat")))
    plain = least(lambda: [one.span() for one in re.finditer("boat", text, re.IGNORECASE)])
    rare = least(lambda: find(project, Query("boat and")))
    plain_rare = least(lambda: [one.span() for one in re.finditer("boat and", text, re.IGNORECASE)])
    count = len(find(project, Query("boat")))
    report("find", ratio=ours / plain, rare_ratio=rare / plain_rare, limit=3.0, ms=ours * 1000, places=count)


def as_it_sounds() -> None:
    """The first twenty that sound like a name, against a scan of all word windows."""
    from dubrel.finding.phones import MOST_WORDS, SoundIndex, distances_to, sound_of

    project = varied(30_000)
    turns = project.transcript.turns
    began = time.perf_counter()
    index = SoundIndex(turns)
    made = time.perf_counter() - began
    target = sound_of("Morwenna")

    def scan() -> list[float]:
        found = []
        for turn in turns:
            sounds = [sound_of(word.text) for word in turn.words]
            for first in range(len(sounds)):
                for stop in range(first + 1, min(first + MOST_WORDS, len(sounds)) + 1):
                    codes = np.frombuffer(b"".join(sounds[first:stop]), np.uint8)[None, :]
                    found.append(float(distances_to(target, codes)[0]) if codes.size else 99.0)
        return sorted(found)

    began = time.perf_counter()
    every = scan()
    plain = time.perf_counter() - began
    ours = least(lambda: index.find("Morwenna", 20), 5)
    found = [round(one.distance, 3) for one in index.find("Morwenna", 20)]
    best = [round(one, 3) for one in every[:20]]
    report(
        "sounds like",
        ratio=plain / ours,
        with_index_ratio=plain / (ours + made),
        limit=10.0,
        ms=ours * 1000,
        index_ms=made * 1000,
        same_first=found[0] == best[0],
        worst_of_twenty=(found[-1], best[-1]),
    )


def by_meaning() -> None:
    """The index of 30,000 words, and a question."""
    from dubrel.finding.encoder import vectors_of
    from dubrel.finding.similar import MeaningIndex
    from dubrel.project.sentences import sentences_of

    sentences = sentences_of(varied(30_000))
    vectors_of(["a boat"])
    index = MeaningIndex()
    began = time.perf_counter()
    texts = index.missing(sentences)
    index.add(texts, vectors_of(texts))
    made = time.perf_counter() - began
    ask = least(lambda: index.find(vectors_of(["where do they talk about money?"])[0], sentences))
    report(
        "meaning", index_s=made, limit_s=20.0, query_ms=ask * 1000, query_limit_ms=100.0, sentences=len(texts)
    )


if __name__ == "__main__":
    as_written()
    as_it_sounds()
    by_meaning()
