"""Takes said again: forty put into an hour of talk with refrains and figures of speech; how many are found.

The baseline calls every sentence a take whose words (as a set) nearly all come back in the next three.
"""

from __future__ import annotations

import random
import re
import sys

from common import ROOT, report

sys.path.insert(0, str(ROOT / "tests"))
from conftest import spoken

from dubrel.base.text import bare_word
from dubrel.edits.cuts.takes import said_again
from dubrel.edits.intake import add_heard
from dubrel.model import Project

NOUNS = (
    "boat lock mill rope plank river winter lamp hinge stove bridge engine letter kettle heron ledger".split()
)
VERBS = "carried mended painted lost opened measured followed lifted counted remembered sold borrowed".split()
WHERE = (
    "below the weir|at the yard|before breakfast|in the rain|for twenty years|behind the shed|by the lock"
).split("|")
SAYS = (
    "I think that|You see,|What happened was that|And in the end|People say that|That spring|After a while"
).split("|")
SLATES = ("Sorry, again.", "Take two.", "Let me do that again.", "Once more.", "No wait.", "")
REFRAIN = "Slow water, slow boat, all the way down to the sea."


def sentence(chance: random.Random) -> str:
    """A sentence that hardly comes twice."""
    who, verb = (
        chance.choice(("Tobiah", "Isolde", "The keeper", "My aunt", "Nobody", "We", "They")),
        chance.choice(VERBS),
    )
    parts = [f"the {chance.choice(NOUNS)} and the {chance.choice(NOUNS)}", chance.choice(WHERE)]
    text = f"{chance.choice(SAYS)} {who.lower() if who in ('We', 'They') else who} {verb} {' '.join(parts)}"
    if chance.random() < 0.6:
        text += f", and then {chance.choice(VERBS)} a {chance.choice(NOUNS)} {chance.choice(WHERE)}"
    return text + "."


def changed(text: str, chance: random.Random) -> str:
    """The same a little otherwise, as a person says it again or a machine hears it."""
    words = text.split()
    for _ in range(chance.choice((0, 1, 1, 2))):
        at = chance.randrange(1, len(words))
        act = chance.choice(("drop", "add", "other"))
        if act == "drop" and len(words) > 6:
            del words[at]
        elif act == "add":
            words.insert(at, chance.choice(("really", "just", "uh", "then")))
        else:
            words[at] = chance.choice(NOUNS)
    return " ".join(words)


def talk(seed: int) -> tuple[str, list[str]]:
    """An hour of talk, and how each of its forty passages that are said again begins."""
    chance = random.Random(seed)
    parts, marks = [], []
    every = 15
    for nth in range(600):
        if nth % every == 7:
            text = " ".join(sentence(chance) for _ in range(chance.choice((1, 1, 2, 3))))
            words = text.split()
            broken = chance.random() < 0.4
            first = (
                " ".join(words[: chance.randrange(max(5, len(words) // 2), len(words))]) if broken else text
            )
            first = first.rstrip(".,") + ("–" if broken else ".")
            slate = chance.choice(SLATES)
            marks.append(f"{len(marks)}")
            parts.append(f"⟦{marks[-1]}⟧{first} {slate} {changed(text, chance)}")
        elif nth % 40 == 20:
            parts.append(REFRAIN)
        elif nth % 40 == 33:  # a figure of speech: the same beginning, meant so
            noun = chance.choice(NOUNS)
            parts.append(
                f"We lost the {noun}. We lost the {chance.choice(NOUNS)}. We lost it all in one night."
            )
        else:
            parts.append(sentence(chance))
    return " ".join(parts), marks


def main() -> None:
    """Print a line for each of some hours."""
    for seed in range(1, 4):
        text, marks = talk(seed)
        pieces = text.split()
        truths = [nth for nth, piece in enumerate(pieces) if "⟦" in piece]
        clean = [re.sub(r"⟦\d+⟧", "", piece) for piece in pieces]
        project = add_heard(Project(), spoken(" ".join(clean)))
        words = [word for turn in project.transcript.turns for word in turn.words]
        place = {word.id: nth for nth, word in enumerate(words)}
        passages = said_again(project)
        ticked = [one for one in passages if one.sure >= 0.5]
        starts = [place[one.takes[0].words[0]] for one in ticked]
        found = sum(any(abs(start - true) <= 3 for start in starts) for true in truths)
        vain = sum(all(abs(start - true) > 25 for true in truths) for start in starts)
        sets = [
            {bare_word(word) for word in one.split()} for one in re.split(r"(?<=[.–])\s", " ".join(clean))
        ]
        plain = sum(
            any(len(one & other) >= 0.75 * len(one) for other in sets[nth + 1 : nth + 4])
            for nth, one in enumerate(sets)
        )
        report(
            "takes",
            words=len(words),
            injected=len(marks),
            found=found / len(marks),
            in_vain=vain,
            shown_in_doubt=len(passages) - len(ticked),
            baseline_proposed=plain,
            ratio=(vain + 1) / (max(0, plain - len(marks)) + 1),
        )


if __name__ == "__main__":
    main()
