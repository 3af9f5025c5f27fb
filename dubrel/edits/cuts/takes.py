"""What is said again: passages spoken twice or more, the last of which is usually meant.

A take begins where a sentence does or after a pause. Two takes are of the same passage where nearly all
that is said from the start of the first until the second begins is said again from there on; what
stands between two takes that are not of the same passage (a refrain comes back after a verse) keeps
them apart. Words are compared by longest common subsequence (Hirschberg 1975), rare ones weigh more.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from math import log2

from rapidfuzz.distance import LCSseq

from dubrel.base.catalogue import tr
from dubrel.base.text import bare_word, ends_sentence
from dubrel.base.value import Value
from dubrel.model import Project, Word

_NEAR_MS = 120_000  # takes are no further apart
_MOST_WORDS = 300
_PAUSE_MS = 280
_LONG_PAUSE_MS = 700
_STEM = 6  # letters of a word that are compared: “board” and “boards” are the same for this
_COVERED = 0.76
_LEAST_SHARE = 0.5
_REFRAIN = 14  # words by which a refrain is known again
_THE_SAME = 0.9
_LEAST_WORDS = 4
_BROKEN = ("–", "—", "-", "…")
_WHOLE = 0.8  # of the longest take
_TO_THE_STOP = 25  # words that the last take may go on to the end of its sentence

_ANNOUNCED = {
    "en": "sorry again take retake once over scratch redo back wait oops pardon",
    "de": "nochmal noch einmal entschuldigung sorry moment halt",
    "fr": "pardon encore reprend reprends recommence prise attends",
    "es": "perdón otra nuevo toma espera repito",
    "pt": "desculpa desculpe outra novo tomada espera repito",
    "it": "scusa scusate nuovo ancora ripeto ciak aspetta",
}
"""Words that say that something is said again."""
_BESIDE = {
    "en": "one two three four five okay ok right let me us lets start go from the top more try that no hang "
    "on cut it do i'll ill we'll please oh excuse so and um uh er erm ah this",
    "de": "mal von vorn vorne also okay nein versuch ich wir das zwei drei äh ähm eins",
    "fr": "une fois on je la deux trois non alors euh du début",
    "es": "vez de dos tres no vale desde el principio eh lo",
    "pt": "vez de dois três não do início eh hum vamos",
    "it": "di da una volta capo due tre no allora ehm",
}
"""Words that may stand beside those, where nothing else is said."""


class Take(Value):
    """One time that a passage is said.

    Attributes
    ----------
    words : tuple of int
        Ids, with what is said until the next take begins.
    start_ms, end_ms : int
    text : str
    whole : bool
        Whether it goes on to the end of the passage.
    """

    words: tuple[int, ...]
    start_ms: int
    end_ms: int
    text: str
    whole: bool


class SaidAgain(Value):
    """A passage that is said more than once.

    Attributes
    ----------
    takes : tuple of Take
        In order, at least two.
    sure : float
        That the earlier ones are not meant to stay, 0 to 1.
    doubt : str
        What speaks against it; empty where nothing does.
    """

    takes: tuple[Take, ...]
    sure: float
    doubt: str = ""

    @property
    def usual(self) -> int:
        """The number of the take that stays unless another one is chosen: the last whole one."""
        return max((nth for nth, one in enumerate(self.takes) if one.whole), default=len(self.takes) - 1)


def said_again(project: Project) -> list[SaidAgain]:
    """The passages of a project that are said more than once, in order."""
    said = _Said(project)
    found, at = list[SaidAgain](), 0
    while at < len(said.starts):
        chain = said.takes_from(at)
        passage = said.passage(chain) if len(chain) > 1 else None
        if passage:
            found.append(passage)
        at = said.start_after(passage) if passage and not passage.doubt else at + 1
    sure = [one for one in found if not one.doubt]
    return [one for one in found if not one.doubt or not any(_overlap(one, other) for other in sure)]


def _overlap(one: SaidAgain, other: SaidAgain) -> bool:
    return one.takes[0].start_ms < other.takes[-1].end_ms and other.takes[0].start_ms < one.takes[-1].end_ms


def _said_once(keys: Sequence[int]) -> list[int]:
    """Words without those that come again at once.

    Examples
    --------
    >>> _said_once([1, 2, 1, 2, 3, 3, 4])
    [1, 2, 3, 4]
    """
    found: list[int] = []
    for one in keys:
        found.append(one)
        for length in (1, 2, 3):
            if len(found) >= 2 * length and found[-length:] == found[-2 * length : -length]:
                del found[-length:]
                break
    return found


class _Said:
    """The words that show, and where takes may begin."""

    def __init__(self, project: Project) -> None:
        turns = project.transcript.turns
        pairs = [(word, turn.speaker) for turn in turns for word in turn.words if not word.struck]
        self.words = [word for word, _ in pairs]
        self.speakers = [speaker for _, speaker in pairs]
        language = project.transcript.language.split("-")[0].lower()
        self.announcing = frozenset(_ANNOUNCED.get(language, "").split())
        self.slates = self.announcing | frozenset(_BESIDE.get(language, "").split())
        self.bare = [bare_word(word.text) for word in self.words]
        keys: dict[str, int] = {}
        self.keys = [keys.setdefault(one[:_STEM], len(keys)) for one in self.bare]
        counts = Counter(self.keys)
        self.weight = {key: 1 / (1 + log2(count)) for key, count in counts.items()}
        starts = [nth for nth in range(len(self.words)) if nth == 0 or self._may_begin(nth)]
        edges = zip(starts, [*starts[1:], len(self.words)])
        self.starts = [nth for nth, stop in edges if not self._announces(self.bare[nth:stop])]

    def _announces(self, said: Sequence[str]) -> bool:
        return self.slates.issuperset(said) and not self.announcing.isdisjoint(said)

    def _may_begin(self, nth: int) -> bool:
        before, word = self.words[nth - 1], self.words[nth]
        return (
            ends_sentence(before.text)
            or before.text.endswith(_BROKEN)
            or word.start_ms - before.end_ms >= _PAUSE_MS
            or self.speakers[nth - 1] != self.speakers[nth]
        )

    def takes_from(self, place: int) -> list[int]:
        """Starts of the takes of the passage that begins at a start; itself alone where it is said once."""
        chain = [place]
        while (following := self._again(chain[-1])) is not None:
            chain.append(following)
        return chain

    def _again(self, place: int) -> int | None:
        """The nearest later start from which all that was said since this one is said again."""
        first = self.starts[place]
        for later in range(place + 1, len(self.starts)):
            second = self.starts[later]
            if second - first > _MOST_WORDS or self._ms(second) - self._ms(first) > _NEAR_MS:
                return None
            if self._alike(first, second):
                return later
        return None

    def _ms(self, nth: int) -> int:
        return self.words[nth].start_ms

    def _content(self, first: int, second: int) -> list[int]:
        """The words of a take, without what only announces the next one."""
        end = second
        while end > first and self.bare[end - 1] in self.slates:
            end -= 1
        announced = not self.announcing.isdisjoint(self.bare[end:second])
        return list(range(first, end if announced else second))

    def _alike(self, first: int, second: int) -> bool:
        own = self._content(first, second)
        slated = len(own) < second - first
        if len(own) < _LEAST_WORDS - slated:
            return False
        head = set(self.keys[second : second + 4])
        if len(head.intersection(self.keys[first : first + 4])) < 2:
            return False
        keys = _said_once([self.keys[nth] for nth in own])
        there = self.keys[second : second + len(own) + max(2, len(own) // 5)]
        if self._covered(keys, there) >= _COVERED:
            return True
        return slated and self._broken_off(keys, second)

    def _broken_off(self, keys: Sequence[int], second: int) -> bool:
        """Whether a take that was announced is the beginning of the one before it, and no more."""
        stop = second + 1
        while stop < len(self.words) and not ends_sentence(self.words[stop - 1].text):
            stop += 1
        again = _said_once([self.keys[nth] for nth in self._content(second, stop)])
        if not _LEAST_WORDS <= len(again) < len(keys):
            return False
        return self._covered(again, keys[: len(again) + 2]) >= _COVERED

    def _covered(self, keys: Sequence[int], there: Sequence[int]) -> float:
        """How much of some words comes again in the same order; rare words count more than common ones."""
        if LCSseq.similarity(keys, there) < _LEAST_SHARE * len(keys):
            return 0.0
        weights = [self.weight[one] for one in keys]
        same = (one for one in LCSseq.opcodes(keys, there) if one.tag == "equal")
        return sum(sum(weights[one.src_start : one.src_end]) for one in same) / sum(weights)

    def passage(self, chain: Sequence[int]) -> SaidAgain:
        """A passage with its takes; the last one is as long as the longest before it."""
        edges = [self.starts[one] for one in chain]
        contents = [self._content(a, b) for a, b in zip(edges, edges[1:])]
        longest = max(contents, key=len)
        end, covered = self._last(edges[-1], longest)
        wholes = [len(one) >= _WHOLE * len(longest) for one in contents]
        takes = tuple(
            self._take(a, b, whole)
            for a, b, whole in zip(edges, [*edges[1:], end], [*wholes, covered >= _WHOLE])
        )
        return SaidAgain(takes, *self._sure(edges, end))

    def _last(self, first: int, before: Sequence[int]) -> tuple[int, float]:
        """Where the last take ends, and how much it has of one before."""
        keys = [self.keys[nth] for nth in before]
        there = self.keys[first : first + len(keys) + max(2, len(keys) // 5)]
        same = [one for one in LCSseq.opcodes(keys, there) if one.tag == "equal"]
        end = first + max((one.dest_end for one in same), default=1)
        covered = sum(one.src_end - one.src_start for one in same) / max(1, len(_said_once(keys)))
        stop = end
        while stop < len(self.words) and stop - end < _TO_THE_STOP and not self._ends(stop):
            stop += 1
        return (stop if stop == len(self.words) or self._ends(stop) else end), covered

    def _ends(self, stop: int) -> bool:
        return ends_sentence(self.words[stop - 1].text)

    def _take(self, first: int, stop: int, whole: bool) -> Take:
        own: Sequence[Word] = self.words[first:stop]
        ids = tuple(word.id for word in own)
        end = max(word.end_ms for word in own)
        return Take(ids, own[0].start_ms, end, " ".join(word.text for word in own), whole)

    def _sure(self, edges: Sequence[int], end: int) -> tuple[float, str]:
        """How sure it is that the earlier takes are not meant, and what speaks against it."""
        first, second = edges[0], edges[1]
        own = self._content(first, second)
        slated = len(own) < second - first
        broken = not ends_sentence(self.words[own[-1]].text)
        pause = self._ms(second) - self.words[second - 1].end_ms
        sure = 0.55 + 0.25 * slated + 0.15 * broken + 0.15 * (pause >= _LONG_PAUSE_MS)
        sure += 0.1 * (len(own) >= 9) - 0.2 * (len(own) < 6 and not slated and not broken)
        if self.speakers[first] != self.speakers[second]:
            return round(min(0.4, sure), 2), tr("somebody else says it")
        quoted = any(mark in self.words[second].text for mark in '“„«"')
        if quoted:
            return round(min(0.4, sure), 2), tr("the second time it is a quotation")
        if self._elsewhere(own, first, end) and not slated:
            return round(min(0.4, sure), 2), tr("it comes back elsewhere too: a refrain perhaps")
        return round(min(0.98, sure), 2), ""

    def _elsewhere(self, own: Sequence[int], first: int, end: int) -> bool:
        """Whether the same words are said far from here as well."""
        run = [self.keys[nth] for nth in own[:_REFRAIN]]
        near = range(first - len(run), end)
        return any(
            self._covered(run, self.keys[nth : nth + len(run) + 1]) >= _THE_SAME
            for nth in self.starts
            if nth not in near and self.keys[nth] == run[0]
        )

    def start_after(self, found: SaidAgain) -> int:
        """The first start from which nothing of a passage is left."""
        last = found.takes[-1].start_ms
        return next((nth for nth, one in enumerate(self.starts) if self._ms(one) > last), len(self.starts))
