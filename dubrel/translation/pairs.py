"""What is translated together: sentences of the original with the captions that say them in the other language."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from dubrel.edits.index import captions_of, track_index, turn_of, turn_place, turn_with, words_with
from dubrel.finding.sentences import Sentence, sentences_of_turn
from dubrel.model import Caption, CaptionTrack, Project, Translated
from dubrel.text import joined, word_units


@dataclass(frozen=True)
class Task:
    """A sentence to be translated.

    Attributes
    ----------
    words : tuple of int
        Ids of its words, without struck ones.
    said : tuple of str
    text : str
        The same as it is written.
    edges : tuple of int
        Places among the words before which another caption of the original begins.
    """

    words: tuple[int, ...]
    said: tuple[str, ...]
    text: str
    edges: tuple[int, ...]

    def made(self, text: str, cuts: tuple[int, ...] = ()) -> Translated:
        """What it becomes."""
        return Translated(self.words, self.said, self.edges, " ".join(text.split()), cuts)


@dataclass(frozen=True)
class Pair:
    """Sentences and the captions that translate them; nothing of either is elsewhere.

    Attributes
    ----------
    sentences : tuple of Sentence
    captions : tuple of Caption
        Of the translation, in order; none where it is not translated yet.
    source, target : str
        What is said, and the translation, without line breaks, names and dashes.
    """

    sentences: tuple[Sentence, ...]
    captions: tuple[Caption, ...]
    source: str
    target: str

    @property
    def approved(self) -> bool:
        """Whether a person has approved all of it."""
        return bool(self.captions) and all(one.done for one in self.captions)

    @property
    def edited(self) -> bool:
        """Whether a person has written in it."""
        return any("text" in one.held for one in self.captions)

    @property
    def start_ms(self) -> int:
        """When it begins to be said."""
        return self.sentences[0].start_ms


def task_of(project: Project, track: CaptionTrack, sentence: Sentence) -> Task:
    """A sentence as it is to be translated."""
    words = [word for word in words_with(project, sentence.words) if not word.struck]
    held = track_index(project, track.translates or 0).of_word
    homes = [held.get(word.id) for word in words]
    edges = tuple(
        nth
        for nth in range(1, len(words))
        if homes[nth] != homes[nth - 1] and None not in homes[nth - 1 : nth + 1]
    )
    return Task(tuple(word.id for word in words), tuple(word.text for word in words), sentence.text, edges)


def pairs_of(project: Project, track: CaptionTrack) -> list[Pair]:
    """All that is translated together, in order."""
    return pairs_of_turns(project, track, (turn.id for turn in project.transcript.turns))


def pairs_of_turns(project: Project, track: CaptionTrack, turn_ids: Iterable[int]) -> list[Pair]:
    """What is translated together in some turns that follow each other."""
    found: list[Pair] = []
    open_: list[Sentence] = []
    captions: dict[int, Caption] = {}
    last: set[int] = set()
    for turn_id in turn_ids:
        turn = turn_with(project, turn_id)
        for sentence in sentences_of_turn(turn) if turn else ():
            mine = captions_of(project, track.id, sentence.words)
            if open_ and last.isdisjoint(mine):
                found.append(_pair(project, open_, captions))
                open_, captions = [], {}
            open_.append(sentence)
            captions |= mine
            last = set(mine)
    if open_:
        found.append(_pair(project, open_, captions))
    return found


def pair_of(project: Project, track: CaptionTrack, caption: Caption) -> Pair | None:
    """What a caption of a translation belongs to."""
    turns = []
    for word in caption.of:
        turn = turn_of(project, word)
        if turn is not None and turn.id not in turns:
            turns.append(turn.id)
    pairs = pairs_of_turns(project, track, _with_neighbours(project, track, turns))
    return next((one for one in pairs if any(other.id == caption.id for other in one.captions)), None)


def _with_neighbours(project: Project, track: CaptionTrack, turn_ids: Sequence[int]) -> list[int]:
    """Some turns with those beside them that share a caption with them."""
    if not turn_ids:
        return []
    places = [turn_place(project, one) for one in turn_ids]
    turns, low, high = project.transcript.turns, min(places), max(places)

    def shared(one: int, other: int) -> bool:
        mine = captions_of(project, track.id, (word.id for word in turns[one].words))
        return not mine.keys().isdisjoint(
            captions_of(project, track.id, (word.id for word in turns[other].words))
        )

    while low and shared(low - 1, low):
        low -= 1
    while high + 1 < len(turns) and shared(high, high + 1):
        high += 1
    return [turn.id for turn in turns[low : high + 1]]


def _pair(project: Project, sentences: Sequence[Sentence], captions: dict[int, Caption]) -> Pair:
    order = tuple(sorted(captions.values(), key=lambda one: (one.start_ms, one.end_ms)))
    names = tuple(one.name for one in project.transcript.speakers if one.name)
    source = " ".join(one.text for one in sentences)
    return Pair(tuple(sentences), order, source, target_text(order, names))


def target_text(captions: Iterable[Caption], names: Sequence[str] = ()) -> str:
    """What captions of a translation say, without line breaks, names and dashes."""
    lines = (bare_line(line, names) for one in captions for line in one.text.split("\n"))
    units = [unit for line in lines for unit in word_units(line)]
    return joined(units)


def bare_line(line: str, names: Sequence[str]) -> str:
    """A line without the dash or the name before it."""
    if line.startswith("– "):
        line = line[2:]
    for name in names:
        if line.startswith(f"{name}: "):
            return line[len(name) + 2 :]
    return line


def over_of(captions: Iterable[Caption]) -> tuple[tuple[int, str], ...]:
    """Captions as they are now, which a new translation may take the place of."""
    return tuple((one.id, one.text) for one in captions)
