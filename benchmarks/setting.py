"""Setting 34,000 words against one pass that counts their graphemes; what is avoidable.

Breaks inside phrases.
"""

from __future__ import annotations

import gc
import random
import sys
import time
from fractions import Fraction

from common import DEMO, ROOT, report

sys.path.insert(0, str(ROOT / "tests"))
import openends
from conftest import spoken

STORY = (
    "Mostly oak, and most of it tired. The bottom boards at the stern are gone, you can put your thumb"
    " through them. The knees are sound though, and the sternpost is the original. She carried flour and coal"
    " for sixty years, and then she was a houseboat, and then she was forgotten. Forgotten is kind. She sat"
    " in the reeds below the old mill for twenty winters. So we make a pattern from thin plywood, we steam"
    " the new oak for an hour for every inch, and then we have about three minutes to bend it before it goes"
    " stiff."
).split()
# a list that setting does not use: a line or a caption should not end with one of these
NOT_LAST = set(
    "a an the of to in on at by for from with into through below about and or but that which my your his her"
    " its our their is are was were has have had will would can could not very mr mrs".split()
)


def talk(count: int, seed: int = 1):  # type: ignore[no-untyped-def]
    """Words of several people, as a project."""
    from dubrel.edits.intake import set_turns
    from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker

    chance, ms, words = random.Random(seed), 0, []
    for nth in range(count):
        text = STORY[(nth + seed * 17) % len(STORY)]
        end = ms + 60 + chance.randint(45, 75) * len(text)
        words.append(RecognisedWord(text, ms, end))
        ms = end + (chance.choice([200, 500, 1500]) if text[-1] in ".," else 0)
    turns, at = [], 0
    while at < count:
        size = chance.randint(8, 160)
        turns.append(RecognisedTurn(tuple(words[at : at + size]), f"s{len(turns) % 2}"))
        at += size
    return set_turns(Project(), turns, [Speaker("s0", "Isolde"), Speaker("s1", "Tobiah")], "en")


def best_of(work, times: int = 5) -> float:  # type: ignore[no-untyped-def]
    """The quickest of some runs."""
    spent = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        spent.append(time.perf_counter() - began)
    return min(spent)


def speed() -> None:
    """The ratio of setting to counting, both in turns."""
    from dubrel.base.text import grapheme_count
    from dubrel.captions.setting.setting import set_captions
    from dubrel.captions.styles import DEFAULT_STYLE

    gc.disable()  # as the application does
    transcript = talk(34_000).transcript
    texts = [word.text for turn in transcript.turns for word in turn.words]
    counting = best_of(lambda: sum(grapheme_count(text) for text in texts), 9)
    for rate in (None, Fraction(25)):
        setting = best_of(
            lambda rate=rate: set_captions(transcript, DEFAULT_STYLE, frame_rate=rate, first_id=1)
        )
        counting = min(counting, best_of(lambda: sum(grapheme_count(text) for text in texts), 9))
        report(
            "setting",
            words=34_000,
            rate=str(rate),
            counting_s=counting,
            setting_s=setting,
            ratio=setting / counting,
        )


def avoidable() -> None:
    """Findings that fixing can put right after setting: none may be left."""
    from dubrel.edits.captions.fixes import fix_all
    from dubrel.edits.captions.resetting import set_again
    from dubrel.edits.captions.trackchecks import check_track
    from dubrel.store.projectfile import open_project

    projects = [open_project(DEMO / f"{name}.dubrel") for name in ("heron-film", "slow-water-7")]
    projects += [talk(700, seed) for seed in range(20)]
    left = fixed = captions = 0
    for project in projects:
        made = set_again(project, keep_held=False)
        found = check_track(made, made.captions)
        left += sum(any(f.must for f in some) for some in found.values())
        fixed += len(fix_all(made)[1])
        captions += len(made.captions.captions)
    report("avoidable", projects=len(projects), captions=captions, findings=left, avoidable=fixed)


def greedy_ends(words, style) -> list[str]:  # type: ignore[no-untyped-def]
    """The last words of the lines of a greedy fill."""
    found, length = [], 0
    for before, word in zip([None, *words], words):
        size = len(word.text)
        if length and length + 1 + size > style.max_cpl:
            found.append(before.text)
            length = size
        else:
            length += size + (1 if length else 0)
    return found


def phrases() -> None:
    """The share of breaks inside a phrase against a greedy fill of lines."""
    from dubrel.captions.styles import DEFAULT_STYLE
    from dubrel.edits.captions.resetting import set_again
    from dubrel.project.captiontext import rows_of
    from dubrel.store.projectfile import open_project

    ours, theirs = [], []
    projects = [open_project(DEMO / f"{name}.dubrel") for name in ("heron-film", "slow-water-7")]
    for project in [*projects, *(talk(700, seed) for seed in range(20))]:
        made = set_again(project, DEFAULT_STYLE, keep_held=False)
        last = {turn.words[-1].id for turn in made.transcript.turns}
        for one in made.captions.captions:
            ours += [row[-1].text for row in rows_of(made, one) if row[-1].id not in last]
        for turn in made.transcript.turns:
            theirs += greedy_ends(turn.words, DEFAULT_STYLE)
    shares = [sum(text.lower() in NOT_LAST for text in some) / len(some) for some in (ours, theirs)]
    report("phrases", ours=shares[0], greedy=shares[1], ratio=shares[0] / shares[1])


def open_ends() -> None:
    """Of lines of two texts that setting was not made for, those that end open, by style."""
    from dubrel.captions.styles import STYLES
    from dubrel.edits.captions.resetting import set_again
    from dubrel.edits.intake import add_heard
    from dubrel.model import Project
    from dubrel.project.captiontext import text_of

    for name in ("Web", "Films", "Television"):
        shares = []
        for text in (openends.TEXT, openends.UNSEEN):
            project = set_again(add_heard(Project(title=""), spoken(text)), STYLES[name])
            track = project.captions
            assert track is not None
            lines = [line for one in track.captions for line in text_of(project, track, one).lines]
            shares.append(len(openends.open_ends(lines)) / len(lines))
        report("open ends", style=name, first=shares[0], unseen=shares[1], limit=0.01)


if __name__ == "__main__":
    speed()
    avoidable()
    phrases()
    open_ends()
