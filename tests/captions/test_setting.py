"""Setting is the cheapest there is: compared with every setting of short random turns, one by one."""

import random
import re
from fractions import Fraction
from functools import cache
from itertools import combinations, pairwise

import pytest
from conftest import DEMO, ROOT

from dubrel.base import timecode
from dubrel.base.text import ends_clause, ends_sentence, grapheme_count
from dubrel.base.value import replace
from dubrel.captions.bonds import bond_of
from dubrel.captions.setting import costs, search
from dubrel.captions.setting.chain import Part, make_chain
from dubrel.captions.setting.search import Search
from dubrel.captions.setting.timing import Bounds
from dubrel.captions.styles import STYLES
from dubrel.edits.captions.resetting import set_again
from dubrel.model import HouseStyle, Turn, Word
from dubrel.store.projectfile import read_project

ms_to_frames, frames_to_ms = cache(timecode.ms_to_frames), cache(timecode.frames_to_ms)
WORDS = (
    "the old boat, of oak. is and never Mr Grace waits on Monday, twenty a yes, planks! to go because she"
).split()


class Everything:
    """All settings of a turn, with their costs, word by word and frame by frame."""

    def __init__(self, words, style, rate, shots=(), after=None):
        self.words, self.style, self.rate, self.shots, self.after = words, style, rate, shots, after
        self.bonds = [*(bond_of(one.text, two.text, "en") for one, two in zip(words, words[1:])), 0.0]

    # -- text -------------------------------------------------------------------------

    @cache  # noqa: B019
    def length(self, start, stop):
        return grapheme_count(" ".join(word.text for word in self.words[start:stop]))

    def pause(self, place):
        return self.words[place + 1].start_ms - self.words[place].end_ms

    @cache  # noqa: B019
    def text_cost(self, start, stop):
        inner = sum(self.inner_cost(place) for place in range(start, stop - 1))
        lines = min(
            self.lines_cost([start, *breaks, stop])
            for count in range(min(self.style.max_lines, stop - start))
            for breaks in combinations(range(start + 1, stop), count)
        )
        return costs.CAPTION + self.end_cost(stop - 1) + inner + lines

    def hurt(self, place):
        return self.bonds[place] + costs.TIGHT * max(0, self.bonds[place] - costs.TIGHT_FROM)

    def end_cost(self, place):
        if place == len(self.words) - 1 or ends_sentence(self.words[place].text):
            return 0.0
        clause = ends_clause(self.words[place].text)
        cost = costs.END_CLAUSE if clause else costs.END_INSIDE + costs.END_BOND * self.hurt(place)
        return (
            max(costs.PAUSE_LEAST, cost - costs.PAUSE_GAIN) if self.pause(place) >= costs.PAUSE_MS else cost
        )

    def inner_cost(self, place):
        cost = costs.INNER_SILENCE if self.pause(place) >= costs.SILENCE_MS else 0.0
        if ends_sentence(self.words[place].text):
            if self.style.one_sentence:
                return cost + costs.VIOLATION
            cost += costs.INNER_SENTENCE if self.pause(place) >= costs.PAUSE_MS else 0.0
        return cost

    def lines_cost(self, edges):
        pairs = list(zip(edges, edges[1:]))
        cost = -(self.length(edges[0], edges[-1]) ** 2) * costs.IMBALANCE / self.style.max_cpl / len(pairs)
        for nth, (start, stop) in enumerate(pairs):
            signs, below = self.length(start, stop), len(pairs) - nth - 1
            cost += signs**2 * costs.IMBALANCE / self.style.max_cpl
            if signs > self.style.max_cpl:
                if stop > start + 1:
                    return float("inf")
                cost += costs.VIOLATION + (signs - self.style.max_cpl) * costs.OVER_LINE
            if self.style.shape == "bottom-heavy":
                cost += signs * costs.TOP_HEAVY * below
            if len(pairs) > 1 and stop == start + 1 and signs <= costs.ORPHAN_LENGTH:
                cost += costs.ORPHAN
            if below:
                cost += costs.LINE + self.line_end(stop - 1)
        if len(pairs) == 1 and self.style.max_lines > 1 and 0 < self.style.single_cpl < signs:
            cost += costs.OVER_SINGLE
        return cost

    def line_end(self, place):
        if ends_sentence(self.words[place].text):
            return 0.0
        if ends_clause(self.words[place].text):
            return costs.LINE_CLAUSE
        return costs.LINE_INSIDE + costs.LINE_BOND * self.hurt(place)

    # -- times ------------------------------------------------------------------------

    def frames(self, low, high):
        return [
            frames_to_ms(one, self.rate)
            for one in range(ms_to_frames(low, self.rate), ms_to_frames(high, self.rate) + 1)
        ]

    @cache  # noqa: B019
    def ins(self, place):
        if place == len(self.words):
            return [self.after if self.after is not None else None]
        start = self.words[place].start_ms
        usual = max(one for one in self.frames(max(0, start - 200), start) if one <= start)
        lead, snap = self.style.lead_ms, self.style.shot_snap_frames
        early = [one for one in self.frames(max(0, start - lead), start) if 0 <= start - one <= lead]
        frame = ms_to_frames(usual, self.rate)
        near = [shot for shot in self.shots if abs(ms_to_frames(shot, self.rate) - frame) < snap]
        nearest = frames_to_ms(ms_to_frames(start, self.rate), self.rate)
        return sorted({usual, nearest, *early, *near})

    def in_cost(self, start, word):
        cost = (word - start) * costs.LEAD if start < word else (start - word) * costs.LATE
        snap = self.style.shot_snap_frames
        beside = any(
            0 < ms_to_frames(start, self.rate) - ms_to_frames(shot, self.rate) < snap for shot in self.shots
        )
        return cost + beside * costs.SHOT_NEAR

    def out_cost(self, start, stop, begin, end, following):
        style, cost, span = self.style, 0.0, end - begin
        least = style.least_ms(self.length(start, stop), stop - start)
        if span < least:
            cost += costs.VIOLATION + (least - span) * style.max_cps / 1000 * costs.OVER_SIGN
        if span < style.min_ms:
            cost += costs.VIOLATION + (style.min_ms - span) * costs.SHORT
        word = self.words[stop - 1].end_ms
        cost += (end - word) * costs.LINGER if end > word else (word - end) * costs.EARLY
        cost += costs.EARLY_FAR * (word - end > costs.EARLY_FAR_MS)
        if following is not None:
            frames = ms_to_frames(following, self.rate) - ms_to_frames(end, self.rate)
            if frames < style.gap_frames:
                cost += costs.CRAMPED
            latest = frames_to_ms(ms_to_frames(following, self.rate) - style.gap_frames, self.rate)
            if 0 < latest - end < style.chain_ms - style.least_gap(self.rate):
                cost += costs.FLICKER
        return cost + self.shot_cost(begin, end)

    def shot_cost(self, begin, end):
        begin, end = ms_to_frames(begin, self.rate), ms_to_frames(end, self.rate)
        shots = [ms_to_frames(one, self.rate) for one in self.shots]
        never, snap = self.style.shot_never_frames, self.style.shot_snap_frames
        crossed = any(begin < one < end and min(one - begin, end - one) < never for one in shots)
        ahead = min((one - end for one in shots if one >= end), default=snap)
        near = ahead < snap and ahead != self.style.shot_gap_frames
        return crossed * costs.VIOLATION + near * costs.SHOT_NEAR

    @cache  # noqa: B019
    def outs(self, start, stop, begin, following):
        word = self.words[stop - 1].end_ms
        least = begin + costs.LEAST_MS
        most = min(max(word + self.style.linger_ms, word), begin + self.style.max_ms)
        if following is not None:
            most = min(
                most, frames_to_ms(ms_to_frames(following, self.rate) - self.style.gap_frames, self.rate)
            )
        found = [one for one in self.frames(least, max(most, least) + 100) if one >= least]
        kept = [one for one in found if one <= most]
        return kept or found[:1]

    def cheapest(self):
        """The least that any setting costs, by going through all of them."""

        @cache
        def rest(start, begin):
            if start == len(self.words):
                return 0.0
            best = float("inf")
            for stop in range(start + 1, len(self.words) + 1):
                if (
                    stop > start + 1
                    and self.words[stop - 1].end_ms - self.words[start].start_ms > self.style.max_ms
                ):
                    break
                if self.style.max_words and stop - start > self.style.max_words:
                    break
                text = self.text_cost(start, stop)
                if text >= 1e8:
                    continue
                for following in self.ins(stop):
                    outs = self.outs(start, stop, begin, following)
                    here = min(self.out_cost(start, stop, begin, end, following) for end in outs)
                    then = (
                        self.in_cost(following, self.words[stop].start_ms) if stop < len(self.words) else 0.0
                    )
                    best = min(best, text + here + then + rest(stop, following))
            return best

        first = self.words[0].start_ms
        return min(self.in_cost(begin, first) + rest(0, begin) for begin in self.ins(0))


def random_words(chance):
    ms, found = chance.randrange(0, 2000), []
    for nth in range(chance.randint(1, 7)):
        text = chance.choice(WORDS)
        length = chance.randint(60, 700)
        found.append(Word(nth + 1, text, ms, ms + length))
        ms += length + chance.choice([0, 0, 0, 40, 200, 400, 900, 1700])
    return found


def random_style(chance):
    return HouseStyle(
        "Any",
        max_lines=chance.choice([1, 2, 2, 3]),
        max_cpl=chance.choice([10, 16, 24]),
        single_cpl=chance.choice([0, 0, 12]),
        max_words=chance.choice([0, 0, 3]),
        max_cps=chance.choice([9.0, 15.0, 20.0]),
        max_wpm=chance.choice([0, 0, 140]),
        min_ms=chance.choice([600, 1000]),
        max_ms=chance.choice([2500, 6000]),
        chain_ms=chance.choice([200, 400]),
        lead_ms=chance.choice([0, 120]),
        linger_ms=chance.choice([300, 1500]),
        one_sentence=chance.random() < 0.3,
        shape=chance.choice(["balanced", "bottom-heavy"]),
    )


def set_cheapest(words, style, rate, shots=(), after=None):
    chain = make_chain([Part(Turn(1, tuple(words)))], style, "en")
    return Search(chain, Bounds(rate, shots, None, after)).cheapest()


@pytest.mark.parametrize("seed", range(6))
def test_no_setting_of_a_short_turn_is_cheaper(seed):
    chance = random.Random(seed)
    for _ in range(55):
        words, style = random_words(chance), random_style(chance)
        rate = chance.choice([Fraction(10), Fraction(12), Fraction(30000, 2002)])
        end = words[-1].end_ms
        after = chance.choice([None, frames_to_ms(ms_to_frames(end + chance.randint(200, 2500), rate), rate)])
        _, cost = set_cheapest(words, style, rate, (), after)
        least = Everything(words, style, rate, (), after).cheapest()
        assert cost == pytest.approx(least, abs=0.05), (words, style, rate, after)


@pytest.mark.parametrize("seed", range(4))
def test_no_setting_over_shot_changes_is_cheaper(seed):
    chance = random.Random(1000 + seed)
    for _ in range(30):
        words, style = random_words(chance), random_style(chance)
        never, snap = chance.choice([3, 5]), chance.choice([3, 5])
        style = replace(style, shot_snap_frames=snap, shot_never_frames=never)
        rate = Fraction(chance.choice([10, 12]))
        first, apart = chance.randrange(40), chance.randint(13, 30)
        shots = tuple(frames_to_ms(first + nth * apart, rate) for nth in range(6))
        _, cost = set_cheapest(words, style, rate, shots)
        least = Everything(words, style, rate, shots).cheapest()
        assert cost == pytest.approx(least, abs=0.05), (words, style, rate, shots)


def test_the_table_of_costs_in_the_docs_is_true():
    table = (ROOT / "docs" / "captions.md").read_text()
    listed = dict(re.findall(r"\| `([A-Z_]+)` \| ([\d.]+) \|", table))
    assert {name: float(value) for name, value in listed.items()} == {
        name: float(value)
        for name, value in vars(costs).items()
        if name.isupper()
        and name
        not in (
            "PAUSE_MS",
            "PAUSE_LEAST",
            "SILENCE_MS",
            "ORPHAN_LENGTH",
            "EARLY_FAR_MS",
            "LEAST_MS",
            "ANSWER_MS",
        )
    }


def test_without_a_picture_a_caption_comes_in_no_earlier_than_reading_needs():
    (one,), _ = set_cheapest([Word(1, "planks.", 1000, 1900)], HouseStyle("x"), None, (), 1990)
    assert (one.start_ms, one.end_ms) == (910, 1910)
    (slow,), _ = set_cheapest([Word(1, "Oak", 1000, 3000)], HouseStyle("x"), None)
    assert slow.start_ms == 1000


@pytest.mark.parametrize("name", list(STYLES))
@pytest.mark.parametrize("demo", ["slow-water-7", "heron-film"])
def test_no_gap_is_a_little_wider_than_the_least(demo, name):
    project = set_again(read_project(DEMO / f"{demo}.dubrel").project, STYLES[name])
    track = project.captions
    rules = track.rules
    rate = project.media.frame_rate
    least = rules.least_gap(rate if demo == "heron-film" else None)
    gaps = [late.start_ms - early.end_ms for early, late in pairwise(track.captions)]
    assert [gap for gap in gaps if least < gap < 400] == []
    assert gaps.count(least) > 5


@pytest.mark.parametrize("rate", [None, Fraction(25)])
def test_a_long_talk_is_set_in_pieces_as_it_is_in_one(monkeypatch, rate):
    """Pieces are computed in threads, and come in their order."""
    chance, at, words = random.Random(5), 0, []
    for nth in range(900):
        end = at + chance.randint(120, 700)
        words.append(Word(nth + 1, chance.choice(WORDS), at, end))
        at = end + chance.choice([0, 0, 0, 60, 400, 1600])
    whole = set_cheapest(words, STYLES["Web"], rate)
    monkeypatch.setattr(search, "_STOPS", 70)
    runs, cost = set_cheapest(words, STYLES["Web"], rate)
    assert len(runs) > 60
    assert runs == whole[0]
    assert cost == pytest.approx(whole[1], rel=1e-6)
