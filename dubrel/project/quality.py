"""How sure a transcript is, and how far its proofing: whole and by speaker."""

from __future__ import annotations

from collections.abc import Iterable

from dubrel.base.value import Value
from dubrel.model import Project, Turn

BANDS = (0.1, 0.3, 0.6)
"""Doubt up to which a word is sure, fairly sure, unsure; above it is doubtful."""
BAND_NAMES = ("sure", "fairly sure", "unsure", "doubtful")
_SECONDS_A_FIX = 4.0
_PACE = 1.15  # listening along with small stops


class Sureness(Value):
    """Of some words.

    Attributes
    ----------
    words : int
        That are not struck.
    shares : tuple of float
        Of the words in each of the bands, summing to 1.
    wrong : float
        About how many are probably wrong: doubt is calibrated, so it is their sum.
    proof_ms : int
        About how long proofing what is not proofed takes.
    """

    words: int
    shares: tuple[float, ...]
    wrong: float
    proof_ms: int


def sureness(turns: Iterable[Turn]) -> Sureness:
    """How sure some turns are."""
    counts, wrong, left, fixes = [0] * (len(BANDS) + 1), 0.0, 0, 0.0
    for turn in turns:
        open_turn = not turn.proofed or turn.reworded
        left += (turn.end_ms - turn.start_ms) * open_turn
        for word in turn.words:
            if not word.struck:
                counts[sum(word.doubt >= one for one in BANDS)] += 1
                wrong += word.doubt
                fixes += word.doubt * open_turn
    total = sum(counts)
    shares = tuple(count / total if total else 0.0 for count in counts)
    return Sureness(total, shares, wrong, round(left * _PACE + fixes * _SECONDS_A_FIX * 1000))


def sureness_by_speaker(project: Project) -> list[tuple[str | None, Sureness]]:
    """The same of each speaker who says something, in the order of the speakers; unassigned turns last."""
    ids: list[str | None] = [one.id for one in project.transcript.speakers]
    groups: dict[str | None, list[Turn]] = {one: [] for one in [*ids, None]}
    for turn in project.transcript.turns:
        groups.setdefault(turn.speaker, []).append(turn)
    return [(one, sureness(turns)) for one, turns in groups.items() if turns]


def most_doubtful(project: Project, most: int = 200) -> list[tuple[int, int]]:
    """Ids of turn and word, the most doubtful first."""
    found = [
        (-word.doubt, word.start_ms, turn.id, word.id)
        for turn in project.transcript.turns
        for word in turn.words
        if word.doubt > BANDS[0] and not word.struck
    ]
    return [(turn, word) for _, _, turn, word in sorted(found)[:most]]


class Proofing(Value):
    """How far the proofing is.

    Attributes
    ----------
    words, proofed : int
    ms, proofed_ms : int
        Of speech.
    """

    words: int = 0
    proofed: int = 0
    ms: int = 0
    proofed_ms: int = 0

    @property
    def share(self) -> float:
        """Of the words that are proofed, 0 to 1."""
        return self.proofed / self.words if self.words else 0.0

    def with_turn(self, turn: Turn, sign: int = 1) -> Proofing:
        """Counted with a turn, or with -1 without it."""
        words, ms = sign * len(turn.words), sign * (turn.end_ms - turn.start_ms)
        done = turn.proofed and not turn.reworded
        return Proofing(
            self.words + words, self.proofed + words * done, self.ms + ms, self.proofed_ms + ms * done
        )


def left_ms(proofing: Proofing, rate: float) -> int:
    """How long the rest takes at a rate: seconds of speech proofed in a second of work."""
    return round((proofing.ms - proofing.proofed_ms) / rate) if rate > 0 else 0
