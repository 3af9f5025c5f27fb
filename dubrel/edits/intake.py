"""Take in what was heard or read: words become turns."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from dubrel.model import Caption, CaptionTrack, Project, Speaker, Timing, Transcript, Turn, Word
from dubrel.text import ends_sentence

SENTENCE_PAUSE_MS = 500
LONG_PAUSE_MS = 2000
LONG_TURN_WORDS = 90


@dataclass(frozen=True)
class HeardWord:
    """A word as an engine or a file gives it, before it has an id."""

    text: str
    start_ms: int
    end_ms: int
    doubt: float = 0.0
    timing: Timing = Timing.ALIGNED
    also: str | None = None
    sure: float = 1.0

    def with_id(self, word_id: int) -> Word:
        """The word of a transcript that it becomes."""
        known = (self.text, self.start_ms, self.end_ms, self.doubt, self.timing)
        return Word(word_id, *known, also=self.also, sure=self.sure)

    def later(self, ms: int) -> HeardWord:
        """The same word some milliseconds later."""
        return replace(self, start_ms=self.start_ms + ms, end_ms=self.end_ms + ms)


@dataclass(frozen=True)
class HeardTurn:
    """A stretch of words with the speaker's id, if it is known."""

    words: tuple[HeardWord, ...]
    speaker: str | None = None


@dataclass(frozen=True)
class Cue:
    """One timed text of a caption file.

    Attributes
    ----------
    start_ms, end_ms : int
    lines : tuple of str
    speaker : str or None
        The name of who speaks, in the first line at least.
    changes : dict of int to (str or None)
        Lines in which another person begins to speak, by their place, with the
        name where it is known.
    dashed : bool
        Whether dashes stood before what each person says.
    """

    start_ms: int
    end_ms: int
    lines: tuple[str, ...]
    speaker: str | None = None
    changes: Mapping[int, str | None] = field(default_factory=dict, hash=False)
    dashed: bool = False


def begins_turn(before: Word, word: HeardWord, length: int) -> bool:
    """Whether a pause or a sentence end makes the next word begin a turn."""
    pause = word.start_ms - before.end_ms
    if pause >= LONG_PAUSE_MS:
        return True
    return ends_sentence(before.text) and (pause >= SENTENCE_PAUSE_MS or length >= LONG_TURN_WORDS)


def add_heard(project: Project, heard: Sequence[HeardWord], first_id: int | None = None) -> Project:
    """Append heard words, splitting turns at long pauses and sentence ends.

    Parameters
    ----------
    project : Project
    heard : sequence of HeardWord
        In order of time, after what is already there.
    first_id : int, optional
        First id to give, not below ``project.next_id``; the same for every
        value that the words are added to.
    """
    next_id = project.next_id if first_id is None else first_id
    turns = list(project.transcript.turns)
    open_words: list[Word] = list(turns[-1].words) if turns else []
    for item in heard:
        word = item.with_id(next_id)
        next_id += 1
        if not turns or begins_turn(open_words[-1], item, len(open_words)):
            if turns:
                turns[-1] = replace(turns[-1], words=tuple(open_words))
            open_words = []
            turns.append(Turn(next_id, ()))
            next_id += 1
        open_words.append(word)
    if turns and len(open_words) != len(turns[-1].words):
        turns[-1] = replace(turns[-1], words=tuple(open_words))
    transcript = replace(project.transcript, turns=tuple(turns))
    return replace(project, transcript=transcript, next_id=next_id)


def add_turns(
    project: Project,
    turns: Iterable[HeardTurn],
    speakers: Sequence[Speaker] = (),
    first_id: int | None = None,
) -> Project:
    """Append turns whose speakers are known; one joins the turn before where the same person goes on.

    Parameters
    ----------
    project : Project
    turns : iterable of HeardTurn
        In order of their starts, none before those that are there.
    speakers : sequence of Speaker
        Added to those of the project.
    first_id : int, optional
        As in :func:`add_heard`.
    """
    next_id = project.next_id if first_id is None else first_id
    made = list(project.transcript.turns)
    for turn in turns:
        words = tuple(one.with_id(next_id + k) for k, one in enumerate(turn.words))
        next_id += len(words) + 1
        last = made[-1] if made else None
        if not words:
            continue
        if last is not None and last.speaker == turn.speaker and not _goes_apart(last, turn.words[0]):
            made[-1] = replace(last, words=last.words + words)
        else:
            made.append(Turn(next_id - 1, words, turn.speaker))
    known = {one.id for one in project.transcript.speakers}
    people = (*project.transcript.speakers, *(one for one in speakers if one.id not in known))
    transcript = replace(project.transcript, turns=tuple(made), speakers=people)
    return replace(project, transcript=transcript, next_id=next_id)


def _goes_apart(turn: Turn, word: HeardWord) -> bool:
    long = len(turn.words) >= LONG_TURN_WORDS and ends_sentence(turn.words[-1].text)
    return long or word.start_ms - turn.words[-1].end_ms >= LONG_PAUSE_MS


def set_turns(
    project: Project, turns: Iterable[HeardTurn], speakers: Sequence[Speaker], language: str
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
    return replace(project, transcript=transcript, captions=None, next_id=next_id)


def clear_transcript(project: Project, language: str) -> Project:
    """The project with an empty transcript, ready to be heard (again)."""
    return replace(project, transcript=Transcript(language), captions=None)


def from_cues(project: Project, cues: Sequence[Cue], language: str) -> Project:
    """Make cues of a caption file the transcript and the caption track.

    Words share the time of their cue by their lengths and are marked as
    spread; the captions keep the times and the lines of the file.
    """
    ordered = sorted(cues, key=lambda one: (one.start_ms, one.end_ms))
    names = dict.fromkeys(name for cue in ordered for name in (cue.speaker, *cue.changes.values()) if name)
    speakers = {name: Speaker(f"s{k}", name) for k, name in enumerate(names, 1)}
    turns: list[Turn] = []
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
            if turns and not new and not _cue_begins_turn(turns[-1], row[0], speaker):
                turns[-1] = replace(turns[-1], words=turns[-1].words + row)
            else:
                turns.append(Turn(next_id, row, speaker))
                next_id += 1
    transcript = Transcript(language, tuple(speakers.values()), tuple(turns))
    track = CaptionTrack(language, "as in the file", tuple(captions))
    return replace(project, transcript=transcript, captions=track, next_id=next_id)


def _cue_caption(cue: Cue, caption_id: int, rows: Sequence[tuple[int, tuple[Word, ...]]]) -> Caption:
    firsts = [row[0].id for _, row in rows]
    dashed = [row[0].id for line, row in rows if line == rows[0][0] or line in cue.changes]
    return Caption(
        caption_id,
        cue.start_ms,
        cue.end_ms,
        tuple(word.id for _, row in rows for word in row),
        tuple(firsts[1:]),
        dashed=tuple(dashed) if cue.dashed else (),
    )


def _cue_rows(cue: Cue, next_id: int) -> list[tuple[int, tuple[Word, ...]]]:
    """The lines that hold words, with their places; all words share the time by their lengths."""
    lines = [(place, tokens) for place, line in enumerate(cue.lines) if (tokens := line.split())]
    total = sum(len(token) for _, tokens in lines for token in tokens)
    span, done, count = cue.end_ms - cue.start_ms, 0, 0
    rows = []
    for place, tokens in lines:
        row = []
        for token in tokens:
            start = cue.start_ms + span * done // total
            done += len(token)
            end = cue.start_ms + span * done // total
            row.append(Word(next_id + count, token, start, end, timing=Timing.SPREAD))
            count += 1
        rows.append((place, tuple(row)))
    return rows


def _cue_begins_turn(turn: Turn, word: Word, speaker: str | None) -> bool:
    before = turn.words[-1]
    heard = HeardWord(word.text, word.start_ms, word.end_ms)
    return speaker != turn.speaker or begins_turn(before, heard, len(turn.words))
