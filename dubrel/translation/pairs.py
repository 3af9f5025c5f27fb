"""What is translated together.

Sentences of the original with the captions that say them in the other language.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from dubrel.base.text import joined, spaced_units, tidied
from dubrel.base.value import Value
from dubrel.model import Agreed, Caption, CaptionTrack, Project, Translated
from dubrel.project.index import captions_of, track_index, turn_of, turn_place, words_with
from dubrel.project.sentences import Sentence, sentence_places, sentences_of_turn


class Task(Value):
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
        return Translated(self.words, self.said, self.edges, tidied(text), cuts)


class Pair(Value):
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
        return self.sentences[0].start_ms if self.sentences else self.captions[0].start_ms

    @property
    def is_orphan(self) -> bool:
        """Whether nothing of the original is left: what it translated was deleted or struck."""
        return not self.sentences


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
    return list(each_pair(project, track))


def each_pair(project: Project, track: CaptionTrack) -> Iterator[Pair]:
    """The same one after the other; those of which nothing of the original is left come last."""
    open_: list[Sentence] = []
    captions: dict[int, Caption] = {}
    last: set[int] = set()
    for turn in project.transcript.turns:
        for sentence in sentences_of_turn(turn, project.transcript.language):
            mine = captions_of(project, track.id, sentence.words)
            if open_ and last.isdisjoint(mine):
                yield _pair(project, open_, captions)
                open_, captions = [], {}
            open_.append(sentence)
            captions |= mine
            last = set(mine)
    if open_:
        yield _pair(project, open_, captions)
    for caption in track.captions:
        if _is_orphan(project, caption):
            yield _pair(project, (), {caption.id: caption})


def orphan_of(project: Project, caption: Caption) -> Pair | None:
    """A caption of which nothing of the original is left, as a pair; nothing where something is."""
    return _pair(project, (), {caption.id: caption}) if _is_orphan(project, caption) else None


def _is_orphan(project: Project, caption: Caption) -> bool:
    return bool(caption.of) and all(word.struck for word in words_with(project, caption.of))


def pair_of(project: Project, track: CaptionTrack, caption: Caption) -> Pair | None:
    """What a caption of a translation belongs to; nothing where nothing of the original is left."""
    captions, sentences = {caption.id: caption}, dict[tuple[int, int], Sentence]()
    waiting = [caption]
    while waiting:
        for sentence in _sentences_of(project, waiting.pop().of):
            key = (sentence.turn, sentence.words[0])
            if key not in sentences:
                sentences[key] = sentence
                fresh = captions_of(project, track.id, sentence.words)
                waiting += [one for one in fresh.values() if one.id not in captions]
                captions |= fresh
    if not sentences:
        return None
    order = sorted(sentences.values(), key=lambda one: (turn_place(project, one.turn), one.start_ms))
    return _pair(project, order, captions)


def pair_of_words(project: Project, track: CaptionTrack, words: Iterable[int]) -> Pair | None:
    """What some words of the original belong to, translated or not."""
    sentences = _sentences_of(project, words)
    mine = captions_of(project, track.id, (word for one in sentences for word in one.words))
    if mine:
        return pair_of(project, track, next(iter(mine.values())))
    return _pair(project, sentences, {}) if sentences else None


def _sentences_of(project: Project, words: Iterable[int]) -> list[Sentence]:
    """The sentences in which words are said, each once."""
    language, found = project.transcript.language, dict[tuple[int, int], Sentence]()
    for word in words:
        turn = turn_of(project, word)
        place = sentence_places(turn, language).get(word) if turn is not None else None
        if turn is not None and place is not None:
            found[turn.id, place] = sentences_of_turn(turn, language)[place]
    return list(found.values())


def _pair(project: Project, sentences: Sequence[Sentence], captions: dict[int, Caption]) -> Pair:
    order = tuple(sorted(captions.values(), key=lambda one: (one.start_ms, one.end_ms)))
    names = tuple(one.name for one in project.transcript.speakers if one.name)
    source = " ".join(one.text for one in sentences)
    return Pair(tuple(sentences), order, source, target_text(order, names))


def target_text(captions: Iterable[Caption], names: Sequence[str] = ()) -> str:
    """What captions of a translation say, without line breaks, names and dashes."""
    lines = (bare_line(line, names) for one in captions for line in one.text.split("\n"))
    units = [unit for line in lines for unit in spaced_units(line)]
    return joined([text for text, _ in units], [spaced for _, spaced in units])


def bare_line(line: str, names: Sequence[str]) -> str:
    """A line without the dash or the name before it."""
    if line.startswith("– "):
        line = line[2:]
    for name in names:
        if line.startswith(f"{name}: "):
            return line[len(name) + 2 :]
    return line


def over_of(captions: Iterable[Caption]) -> tuple[Agreed, ...]:
    """Captions as they are now, which a new translation may take the place of."""
    return tuple((one.id, one.text, one.done) for one in captions)


def whole_task(project: Project, track: CaptionTrack, pair: Pair) -> Task:
    """All sentences of a pair as one."""
    tasks = [task_of(project, track, one) for one in pair.sentences]
    edges: list[int] = []
    at = 0
    for task in tasks:
        edges += [at] * (at > 0) + [at + edge for edge in task.edges]
        at += len(task.words)
    held = track_index(project, track.translates or 0).of_word
    words = [word for task in tasks for word in task.words]
    parted = [edge for edge in edges if held.get(words[edge]) != held.get(words[edge - 1])]
    return Task(tuple(words), tuple(text for task in tasks for text in task.said), pair.source, tuple(parted))
