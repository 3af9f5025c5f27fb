"""Clips: stories with laughter and questions with answers put into hours of talk; how many come first.

In each hour ten passages are planted, five stories that end in laughter and five questions with long
answers. Around them is talk of two people that has some of each too: laughter about nothing, questions
answered in three words, sentences that lean on the one before. The baseline takes passages of the same
length that begin and end in pauses, the loudest first.
"""

from __future__ import annotations

import random
import sys
from dataclasses import dataclass

import numpy as np
from common import report

from dubrel.edits.cuts.pauses import Levels
from dubrel.finding.clips.heard import Heard
from dubrel.finding.clips.ranking import proposed_clips
from dubrel.finding.encoder import vectors_of
from dubrel.model.cliprules import ClipRules
from dubrel.model.recognised import SoundSpot
from dubrel.project.sentences import Sentence

WHOS = "the keeper|my aunt|Tobiah|the ferryman|a man from the council|our neighbour|the apprentice".split("|")
TOPICS = {
    "baking": "flour oven loaf crust yeast baker dough tray",
    "football": "goal referee whistle striker pitch keeper boot scarf",
    "gardens": "hedge spade rose compost beetle seed greenhouse lawn",
    "trains": "platform signal carriage ticket guard rail tunnel timetable",
    "music": "cello chorus organ rehearsal trumpet score choir drum",
    "the sea": "harbour net trawler tide lighthouse mackerel storm gull",
    "school": "chalk exam satchel headmistress spelling desk bell playground",
    "money": "bank loan rent cheque wages tax penny ledger",
    "animals": "donkey goose kennel saddle vet stable ferret owl",
    "cars": "clutch bonnet garage tyre diesel mirror gearbox wiper",
}
VERBS = "carried|mended|painted|lost|opened|measured|followed|lifted|counted|borrowed|weighed|hid".split("|")
WHERE = "on a Tuesday|behind the shed|before breakfast|in the rain|in front of everybody|by mistake".split(
    "|"
)
LINKS = "And|But|So|Then|Because|Which"
SMALL = "Yes, I see.|Right.|Really?|Of course.|I know.|That is true.|And then?|Well.".split("|")


@dataclass
class Talk:
    """An hour.

    Attributes
    ----------
    sentences : list of Sentence
    spots : list of SoundSpot
    planted : list of (int, int)
        Times of what should be found.
    levels : list of float
        Decibels, one for each sentence.
    """

    sentences: list[Sentence]
    spots: list[SoundSpot]
    planted: list[tuple[int, int]]
    levels: list[float]


def line(chance: random.Random, topic: str, *, first: bool = False) -> str:
    """A sentence about a topic; one that can stand first names who it is about."""
    noun = TOPICS[topic].split()
    who = chance.choice(WHOS) if first or chance.random() < 0.5 else chance.choice(("he", "she", "they"))
    text = f"{who} {chance.choice(VERBS)} the {chance.choice(noun)} and the {chance.choice(noun)}"
    text += f" {chance.choice(WHERE)}"
    if chance.random() < 0.4:
        text += f", and {chance.choice(VERBS)} {chance.randint(2, 90)} of them"
    return text[0].upper() + text[1:] + "."


def talk(seed: int, minutes: int = 60) -> Talk:
    """An hour of talk with ten passages planted."""
    chance = random.Random(seed)
    made = Talk([], [], [], [])
    at, turn = 2000, 0

    def say(who: str, text: str, pause: int, decibels: float) -> None:
        nonlocal at
        words = len(text.split())
        length = 330 * words + chance.randint(0, 300)
        first = sum(len(one.words) for one in made.sentences[-1:]) + (
            made.sentences[-1].words[0] if made.sentences else 0
        )
        made.sentences.append(Sentence(text, tuple(range(first, first + words)), turn, who, at, at + length))
        made.levels.append(decibels)
        at += length + pause

    def laugh(since: int, length: int) -> None:
        made.spots.append(SoundSpot(since, since + length, "laughter", 0.8))

    every = minutes * 60_000 // 11
    kinds = ["story", "answer"] * 5
    while at < minutes * 60_000:
        turn += 1
        if len(made.planted) < 10 and at > every * (len(made.planted) + 1):
            topic, start = chance.choice(list(TOPICS)), at
            if kinds[len(made.planted)] == "answer":
                noun = chance.choice(TOPICS[topic].split())
                say("a", f"How did people look after the {noun} in those days?", 500, -26)
                turn += 1
            loud = chance.choice((-26, -23))
            for nth in range(chance.randint(4, 6)):
                say("b", line(chance, topic, first=nth == 0), chance.randint(150, 500), loud)
            made.planted.append((start, made.sentences[-1].end_ms))
            if kinds[len(made.planted) - 1] == "story":
                laugh(made.sentences[-1].end_ms + 200, chance.randint(1500, 3000))
            at += chance.randint(400, 1500)
            continue
        who = "ab"[turn % 2]
        for _ in range(chance.randint(1, 5)):
            topic = chance.choice(list(TOPICS))
            text = line(chance, topic, first=chance.random() < 0.6)
            if chance.random() < 0.3:
                link = chance.choice(LINKS.split("|"))
                text = f"{link} {text[0].lower()}{text[1:]}"
            say(who, text, chance.randint(150, 700), chance.uniform(-29, -24))
        if chance.random() < 0.25:  # a question with a short answer
            turn += 1
            say("a", "Is that so?", 300, -26)
            turn += 1
            say("b", chance.choice(SMALL), 300, -26)
        if chance.random() < 0.04:  # laughter about nothing, in the middle
            laugh(made.sentences[-1].start_ms + 300, 700)
    return made


def heard_of(made: Talk) -> Heard:
    """The levels and the laughter of a talk."""
    length = made.sentences[-1].end_ms + 5000
    decibels = np.full(length // 10, -60, np.float32)
    for one, level in zip(made.sentences, made.levels):
        decibels[one.start_ms // 10 : one.end_ms // 10] = level
    return Heard(Levels(decibels, 10.0), spots=tuple(made.spots))


def hits(found: list[tuple[int, int]], planted: list[tuple[int, int]]) -> int:
    """How many planted passages are found: more than half of what both cover together is in both."""
    count = 0
    for start, end in planted:
        shares = [
            (min(end, stop) - max(start, since)) / (max(end, stop) - min(start, since))
            for since, stop in found
        ]
        count += max(shares, default=0) > 0.5
    return count


def loudest(made: Talk, rules: ClipRules) -> list[tuple[int, int]]:
    """Ten passages of the wished length between pauses, the loudest first, none over another."""
    some = made.sentences
    runs = []
    for first, one in enumerate(some):
        for last in range(first, len(some)):
            length = some[last].end_ms - one.start_ms
            if length > rules.high_s * 1000:
                break
            if length >= rules.low_s * 1000:
                runs.append((float(np.mean(made.levels[first : last + 1])), one.start_ms, some[last].end_ms))
    found: list[tuple[int, int]] = []
    for _, start, end in sorted(runs, reverse=True):
        if all(end <= since or start >= stop for since, stop in found):
            found.append((start, end))
        if len(found) == 10:
            break
    return found


def main(hours: int = 20) -> None:
    """Measure."""
    rules, got, plain, inside = ClipRules(low_s=15, high_s=45), 0, 0, 0
    planted, worst = 0, 10
    for seed in range(hours):
        made = talk(seed)
        vectors = vectors_of([one.text for one in made.sentences])
        clips = proposed_clips(made.sentences, vectors, rules, heard_of(made), "en", most=10)
        starts = {one.start_ms for one in made.sentences}
        inside += sum(one.start_ms not in starts for one in clips)
        inside += sum(one.words[-1] not in {each.words[-1] for each in made.sentences} for one in clips)
        found = hits([(one.start_ms, one.end_ms) for one in clips], made.planted)
        got, worst = got + found, min(worst, found)
        plain += hits(loudest(made, rules), made.planted)
        planted += len(made.planted)
    report(
        "clips",
        found=got / planted,
        worst_hour=worst,
        by_loudness=plain / planted,
        inside_a_sentence=inside,
        hours=hours,
    )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 20)
