"""Bring in what was transcribed or read: words become turns."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_name
from dubrel.base.text import ends_sentence, spaced_units
from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.model import (
    Caption,
    CaptionTrack,
    Cue,
    Project,
    RecognisedTurn,
    RecognisedWord,
    Speaker,
    Timing,
    Transcript,
    Turn,
    Word,
    opening,
)

SENTENCE_PAUSE_MS = 500
LONG_PAUSE_MS = 2000
LONG_TURN_WORDS = 90


def begins_turn(before: Word, word: RecognisedWord, length: int) -> bool:
    """Whether a pause or a sentence end makes the next word begin a turn."""
    pause = word.start_ms - before.end_ms
    if pause >= LONG_PAUSE_MS:
        return True
    return ends_sentence(before.text) and (pause >= SENTENCE_PAUSE_MS or length >= LONG_TURN_WORDS)


class Appended:
    """Words or turns that are added after those that are there; a function ``Project -> Project``.

    Everything new is built once and shared by all values that it is added to.

    Parameters
    ----------
    first_id : int
        First id to give; the same for every value.
    ids : int
        How many ids are given at most.
    grow : callable
        Gives, for the last turn that is there (or ``None``), the turns that
        come in its place.
    speakers : sequence of Speaker
        Added to those of the project.
    """

    def __init__(
        self,
        first_id: int,
        ids: int,
        grow: Callable[[Turn | None], tuple[Turn, ...]],
        speakers: Sequence[Speaker] = (),
    ) -> None:
        self._next_id, self._grow, self._speakers = first_id + ids, grow, tuple(speakers)
        self._made: list[tuple[Turn | None, tuple[Turn, ...]]] = []

    def __call__(self, project: Project) -> Project:
        """The project with what is added."""
        transcript = project.transcript
        last = transcript.turns[-1] if transcript.turns else None
        tail = next((tail for known, tail in self._made if known is last), None)
        if tail is None:
            tail = self._grow(last)
            self._made.append((last, tail))
        known = {one.id for one in transcript.speakers}
        new = tuple(one for one in self._speakers if one.id not in known)
        people = (*transcript.speakers, *new) if new else transcript.speakers
        transcript = replace(transcript, turns=(*transcript.turns[:-1], *tail), speakers=people)
        return replace(project, transcript=transcript, next_id=max(project.next_id, self._next_id))


def appended_words(heard: Sequence[RecognisedWord], first_id: int) -> Appended:
    """Transcribed words to be appended, with turns split at long pauses and sentence ends.

    Parameters
    ----------
    heard : sequence of RecognisedWord
        In order of time, after what is already there.
    first_id : int
    """
    words = [one.with_id(first_id + 2 * place) for place, one in enumerate(heard)]

    def grow(last: Turn | None) -> tuple[Turn, ...]:
        turns: list[Turn] = [last] if last else []
        open_words: list[Word] = list(last.words) if last else []
        for item, word in zip(heard, words):
            if not turns or begins_turn(open_words[-1], item, len(open_words)):
                if turns:
                    turns[-1] = replace(turns[-1], words=tuple(open_words))
                open_words = []
                turns.append(Turn(word.id + 1, ()))
            open_words.append(word)
        if turns:
            turns[-1] = replace(turns[-1], words=tuple(open_words))
        return tuple(turns)

    return Appended(first_id, 2 * len(words), grow)


def add_heard(project: Project, heard: Sequence[RecognisedWord]) -> Project:
    """Append transcribed words; see :func:`appended_words`."""
    return appended_words(heard, project.next_id)(project) if heard else project


def appended_turns(
    turns: Iterable[RecognisedTurn], speakers: Sequence[Speaker] = (), first_id: int = 1
) -> Appended:
    """Turns whose speakers are known, to be appended.

    One joins the turn before where the same person goes on.

    Parameters
    ----------
    turns : iterable of RecognisedTurn
        In order of their starts, none before those that are there.
    speakers : sequence of Speaker
        Added to those of the project.
    first_id : int
    """
    next_id, made = first_id, []
    for turn in turns:
        if turn.words:
            words = tuple(one.with_id(next_id + 1 + k) for k, one in enumerate(turn.words))
            made.append((turn, Turn(next_id, words, turn.speaker)))
            next_id += len(words) + 1

    def grow(last: Turn | None) -> tuple[Turn, ...]:
        found: list[Turn] = [last] if last else []
        for heard, turn in made:
            if found and found[-1].speaker == turn.speaker and not _goes_apart(found[-1], heard.words[0]):
                found[-1] = replace(found[-1], words=found[-1].words + turn.words)
            else:
                found.append(turn)
        return tuple(found)

    return Appended(first_id, next_id - first_id, grow, speakers)


def _goes_apart(turn: Turn, word: RecognisedWord) -> bool:
    long = len(turn.words) >= LONG_TURN_WORDS and ends_sentence(turn.words[-1].text)
    return long or word.start_ms - turn.words[-1].end_ms >= LONG_PAUSE_MS


def set_turns(
    project: Project, turns: Iterable[RecognisedTurn], speakers: Sequence[Speaker], language: str
) -> Project:
    """Make turns that are known as such the transcript of the project."""
    next_id, made = project.next_id, []
    for turn in turns:
        if not turn.words:
            continue
        words = tuple(word.with_id(next_id + 1 + k) for k, word in enumerate(turn.words))
        made.append(Turn(next_id, words, turn.speaker))
        next_id += 1 + len(words)
    transcript = Transcript(language, tuple(speakers), tuple(made))
    return replace(project, transcript=transcript, tracks=(), active=0, next_id=next_id)


def with_language(project: Project, language: str) -> Project:
    """The project with its words, and the captions of them, in another language than was said.

    Raises
    ------
    DubrelError
        If there is a translation into that language.
    """
    transcript = project.transcript
    if transcript.language == language:
        return project
    if any(not one.spoken and one.language == language for one in project.tracks):
        raise DubrelError(
            tr(
                "There is a translation into {language}, so the words cannot be in it too. Remove "
                "the translation first."
            ).format(language=tr(language_name(language)))
        )
    tracks = tuple(replace(one, language=language) if one.spoken else one for one in project.tracks)
    return replace(project, transcript=replace(transcript, language=language), tracks=tracks)


def clear_transcript(project: Project, language: str) -> Project:
    """The project with an empty transcript, ready to be transcribed (again)."""
    return replace(project, transcript=Transcript(language), tracks=(), active=0)


def from_cues(project: Project, cues: Sequence[Cue], language: str) -> Project:
    """Make cues of a caption file the transcript and the caption track.

    Words share the time of their cue by their lengths and are marked as
    spread; the captions keep the times and the lines of the file.
    """
    ordered = sorted(cues, key=lambda one: (one.start_ms, one.end_ms))
    names = dict.fromkeys(name for cue in ordered for name in (cue.speaker, *cue.changes.values()) if name)
    speakers = {name: Speaker(f"s{k}", name) for k, name in enumerate(names, 1)}
    turns: list[_OpenTurn] = []
    captions: list[Caption] = []
    next_id = project.next_id
    for cue in ordered:
        rows = _cue_rows(cue, next_id)
        words = tuple(word for _, row in rows for word in row)
        if not words:
            continue
        next_id += len(words)
        captions.append(_cue_caption(cue, next_id, rows))
        next_id += 1
        who = cue.speaker
        for line, row in rows:
            new = line in cue.changes
            who = cue.changes[line] if new else who
            speaker = speakers[who].id if who else None
            if turns and not new and not turns[-1].ends_before(row[0], speaker):
                turns[-1].words += row
            else:
                turns.append(_OpenTurn(next_id, speaker, list(row)))
                next_id += 1
    made = tuple(Turn(one.id, tuple(one.words), one.speaker) for one in turns)
    transcript = Transcript(language, tuple(speakers.values()), made)
    track = CaptionTrack(next_id, language, DEFAULT_STYLE, tuple(captions))
    return replace(project, transcript=transcript, tracks=(track,), active=next_id, next_id=next_id + 1)


@dataclass
class _OpenTurn:
    """A turn that is being read: it grows at the cost of what comes, not of what is there."""

    id: int
    speaker: str | None
    words: list[Word]

    def ends_before(self, word: Word, speaker: str | None) -> bool:
        """Whether a word begins another turn."""
        heard = RecognisedWord(word.text, word.start_ms, word.end_ms)
        return speaker != self.speaker or begins_turn(self.words[-1], heard, len(self.words))


def _cue_caption(cue: Cue, caption_id: int, rows: Sequence[tuple[int, tuple[Word, ...]]]) -> Caption:
    firsts = [row[0].id for _, row in rows]
    styled = [
        (word.id, cue.styles[line, nth])
        for line, row in rows
        for nth, word in enumerate(row)
        if cue.styles.get((line, nth))
    ]
    return Caption(
        caption_id,
        cue.start_ms,
        cue.end_ms,
        tuple(word.id for _, row in rows for word in row),
        tuple(firsts[1:]),
        named=tuple(row[0].id for line, row in rows if line in cue.named),
        dashed=tuple(row[0].id for line, row in rows if line in cue.dashed),
        place=cue.place,
        styled=tuple(styled),
    )


def _cue_rows(cue: Cue, next_id: int) -> list[tuple[int, tuple[Word, ...]]]:
    """The lines that hold words, with their places.

    Words begin when the cue says; between those times they share it by their lengths.
    """
    lines = [(place, tokens) for place, line in enumerate(cue.lines) if (tokens := spaced_units(line))]
    times = iter(
        _word_times(cue, [(place, nth, token) for place, row in lines for nth, (token, _) in enumerate(row)])
    )
    timing, count, rows = Timing.ALIGNED if cue.begins else Timing.SPREAD, 0, []
    for place, tokens in lines:
        row = []
        for token, spaced in tokens:
            row.append(Word(next_id + count, token, *next(times), timing=timing, spaced=spaced))
            count += 1
        if cue.verse:
            row[0] = opening(row[0], row[0].text)
        rows.append((place, tuple(row)))
    return rows


def _word_times(cue: Cue, words: Sequence[tuple[int, int, str]]) -> list[tuple[int, int]]:
    """In and out times of the words of a cue, given as (line, place, text)."""
    runs: list[tuple[int, list[str]]] = [(cue.start_ms, [])]
    for place, nth, token in words:
        begins = cue.begins.get((place, nth))
        if begins is not None and begins > runs[-1][0] and begins < cue.end_ms:
            runs.append((begins, []))
        runs[-1][1].append(token)
    found = []
    for (start, tokens), end in zip(runs, [*(begins for begins, _ in runs[1:]), cue.end_ms]):
        total, done = sum(map(len, tokens)), 0
        for token in tokens:
            first = start + (end - start) * done // total
            done += len(token)
            found.append((first, start + (end - start) * done // total))
    return found
