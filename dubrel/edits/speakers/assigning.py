"""Who speaks, and who at the same time, for the whole project: what a machine found, and fixing it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from itertools import groupby

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.edits.speakers.voices import add_speaker, shown_name
from dubrel.edits.words.wording import handed, with_turns
from dubrel.model import Cameras, Project, Speaker, SpeakerPassage, Turn, Word
from dubrel.project.follow import rewords
from dubrel.project.index import index_of, turn_place

_SHARE = 0.5  # of a word, during which somebody else speaks


def assign_speakers(
    project: Project, labels: Sequence[int], certainty: Sequence[float], also: Sequence[int] | None = None
) -> Project:
    """Give every word to the speaker that was found for it; turns are split where the speaker changes.

    Parameters
    ----------
    project : Project
    labels : sequence of int
        A speaker's number for each word of the transcript, from 0; the first
        numbers are the project's own speakers, in order. -1 is unassigned.
    certainty : sequence of float
        0 to 1, for each word.
    also : sequence of int, optional
        Who speaks at the same time, for each word, or -1; left as it is if not given.

    Returns
    -------
    Project
        Confirmed turns are the same objects; new speakers have no name yet.
    """
    project = _with_speakers(project, max(labels, default=-1) + 1)
    ids = [one.id for one in project.transcript.speakers]
    turns: list[Turn] = []
    next_id, at = project.next_id, 0
    for turn in project.transcript.turns:
        stop = at + len(turn.words)
        if turn.confirmed:
            turns.append(turn)
            at = stop
            continue
        first = at
        for place in range(at + 1, stop + 1):
            if place < stop and labels[place] == labels[first]:
                continue
            part = tuple(map(_with_sure, turn.words[first - at : place - at], certainty[first:place]))
            if also is not None:
                part = tuple(
                    _with_other(word, ids[other] if other not in (-1, labels[first]) else None)
                    for word, other in zip(part, also[first:place])
                )
            who = ids[labels[first]] if labels[first] >= 0 else None
            part = handed(part, turn.speaker, who)
            one = turn if first == at else replace(turn, id=next_id)
            next_id += first != at
            turns.append(replace(one, words=part, speaker=who))
            first = place
        at = stop
    transcript = replace(project.transcript, turns=tuple(turns))
    return replace(project, transcript=transcript, next_id=next_id)


def _with_sure(word: Word, sure: float) -> Word:
    sure = round(sure, 3)
    return word if word.sure == sure else replace(word, sure=sure)


def _with_other(word: Word, other: str | None) -> Word:
    return word if word.also == other else replace(word, also=other)


def found_taken(
    project: Project,
    words: Sequence[int],
    labels: Sequence[int],
    certainty: Sequence[float],
    also: Sequence[int],
) -> tuple[Project, dict[int, int]]:
    """Give words to those whom a machine found, whatever became of the project meanwhile.

    Parameters
    ----------
    project : Project
    words : sequence of int
        Ids of the words that were asked about. Words that were typed since go
        with the word before them.
    labels, certainty, also
        What was found for each of them, as for :func:`assign_speakers`, by the
        machine's own numbers.

    Returns
    -------
    project : Project
    numbers : dict of int to int
        The place of a speaker in the project for each of the machine's numbers.
    """
    if not words or not project.transcript.turns:
        return project, {}
    numbers = matched_numbers(project, dict(zip(words, labels)))
    present = [word.id for turn in project.transcript.turns for word in turn.words]
    by_word = dict(zip(words, zip(labels, certainty, also)))
    last = next((by_word[one] for one in present if one in by_word), None)
    if last is None:
        return project, numbers
    rows = [last := by_word.get(one, last) for one in present]
    made = assign_speakers(
        project,
        [numbers[label] for label, _, _ in rows],
        [sure for _, sure, _ in rows],
        [numbers.get(other, -1) for _, _, other in rows],
    )
    return made, numbers


def matched_numbers(project: Project, labels: Mapping[int, int]) -> dict[int, int]:
    """Numbers of found voices, and those of the project's speakers who say the same words.

    A voice that confirmed turns taught has its speaker's number already. Voices
    that are none of the project's speakers get the numbers after theirs.

    Parameters
    ----------
    labels : mapping of word id to number of a voice
    """
    numbers = {one.id: place for place, one in enumerate(project.transcript.speakers)}
    counts: Counter[tuple[int, str]] = Counter()
    known = {}
    for turn in project.transcript.turns:
        if turn.speaker in numbers:
            counts.update((labels[word.id], turn.speaker) for word in turn.words if word.id in labels)
            if turn.confirmed:
                known[numbers[turn.speaker]] = numbers[turn.speaker]
    for (label, owner), _ in counts.most_common():
        if label not in known and numbers[owner] not in known.values():
            known[label] = numbers[owner]
    following = len(numbers)
    for label in dict.fromkeys(labels.values()):
        if label not in known:
            known[label], following = following, following + 1
    return known


def _with_speakers(project: Project, count: int) -> Project:
    while len(project.transcript.speakers) < count:
        project, _ = add_speaker(project, "")
    return project


def merge_speakers(project: Project, gone: str, kept: str) -> Project:
    """Give all turns of one speaker to another, and remove the first."""
    if gone == kept:
        return project
    turns = tuple(
        _renumbered(replace(turn, speaker=kept) if turn.speaker == gone else turn, {gone: kept, kept: kept})
        for turn in project.transcript.turns
    )
    made = _with(project, turns, [one for one in project.transcript.speakers if one.id != gone])
    return replace(made, cameras=_shown_by(made, gone, kept))


def remove_speaker(project: Project, gone: str) -> Project:
    """Remove a speaker; the turns are unassigned until they are assigned again."""
    turns = tuple(
        _renumbered(
            replace(turn, speaker=None, confirmed=False) if turn.speaker == gone else turn, {gone: None}
        )
        for turn in project.transcript.turns
    )
    made = _with(project, turns, [one for one in project.transcript.speakers if one.id != gone])
    return replace(made, cameras=_shown_by(made, gone, None))


def _shown_by(project: Project, gone: str, kept: str | None) -> Cameras:
    """The cameras where a speaker is another one, or none."""
    cameras = project.cameras
    if not any(gone in one.shows for one in cameras.all):
        return cameras
    made = []
    for one in cameras.all:
        ids = [kept if each == gone else each for each in one.shows]
        made.append(replace(one, shows=tuple(dict.fromkeys(each for each in ids if each is not None))))
    return replace(cameras, all=tuple(made))


def split_speaker(project: Project, speaker_id: str, others: Collection[int]) -> tuple[Project, str]:
    """Give some words of a speaker to a new one; turns are split around them.

    Parameters
    ----------
    others : collection of int
        Ids of the words that the new speaker says.

    Returns
    -------
    project : Project
    other : str
        Id of the new speaker.
    """
    project, other = add_speaker(project, "")
    turns: list[Turn] = []
    next_id = project.next_id
    for turn in project.transcript.turns:
        if turn.speaker != speaker_id or not any(word.id in others for word in turn.words):
            turns.append(turn)
            continue
        for nth, (is_other, run) in enumerate(groupby(turn.words, lambda word: word.id in others)):
            who = other if is_other else speaker_id
            turns.append(
                replace(turn, id=next_id if nth else turn.id, words=tuple(run), speaker=who, confirmed=False)
            )
            next_id += nth > 0
    return replace(_with(project, tuple(turns), project.transcript.speakers), next_id=next_id), other


def swap_speakers(project: Project, one: str, other: str, from_turn: int | None = None) -> Project:
    """Let two speakers change places, everywhere or from a turn on.

    Parameters
    ----------
    from_turn : int, optional
        Id of the first turn to change.
    """
    first = 0 if from_turn is None else turn_place(project, from_turn)
    other_of = {one: other, other: one}
    turns = tuple(
        (
            _renumbered(replace(turn, speaker=other_of[turn.speaker], confirmed=True), other_of)
            if place >= first and turn.speaker in other_of
            else turn
        )
        for place, turn in enumerate(project.transcript.turns)
    )
    return _with(project, turns, project.transcript.speakers)


def _renumbered(turn: Turn, others: Mapping[str, str | None]) -> Turn:
    """The turn with those who speak at the same time fixed too."""
    if not any(word.also in others for word in turn.words):
        return turn
    words = []
    for word in turn.words:
        who = others.get(word.also or "", word.also)
        words.append(_with_other(word, None if who == turn.speaker else who))
    return replace(turn, words=tuple(words))


def _with(project: Project, turns: tuple[Turn, ...], speakers: Sequence[Speaker]) -> Project:
    transcript = replace(project.transcript, turns=turns, speakers=tuple(speakers))
    return replace(project, transcript=transcript)


def move_boundary(project: Project, turn_id: int, words: int) -> Project:
    """Move where a turn begins, word by word; every word keeps its time.

    Parameters
    ----------
    turn_id : int
        The turn after the boundary.
    words : int
        Below zero takes words from the turn before, above zero gives it words.

    Returns
    -------
    Project
        The same object where a turn would become empty.
    """
    place = turn_place(project, turn_id)
    if place == 0 or words == 0:
        return project
    before, turn = project.transcript.turns[place - 1 : place + 1]
    if not -len(before.words) < words < len(turn.words):
        return project
    if words > 0:
        head = before.words + handed(turn.words[:words], turn.speaker, before.speaker)
        tail = turn.words[words:]
    else:
        head = before.words[:words]
        tail = handed(before.words[words:], before.speaker, turn.speaker) + turn.words
    return with_turns(
        project,
        place - 1,
        place + 1,
        replace(before, words=head, confirmed=True),
        replace(turn, words=tail, confirmed=True),
    )


def give_these(project: Project, word_ids: Collection[int], speaker: str) -> Project:
    """Give words to a speaker, wherever they stand by now: turns are split around them.

    Raises
    ------
    DubrelError
        If none of the words is left.
    """
    wanted, turns = set(word_ids), index_of(project).turn_of
    homes = dict.fromkeys(turns[one] for one in word_ids if one in turns)
    if not homes:
        raise DubrelError(tr("Those words are gone. Choose others."))
    for turn_id in homes:
        turn = index_of(project).turns[turn_id]
        places = [place for place, word in enumerate(turn.words) if word.id in wanted]
        runs = [list(run) for _, run in groupby(enumerate(places), lambda pair: pair[1] - pair[0])]
        for run in reversed(runs):  # from the end: places before stay the same
            project = give_words(project, turn_id, run[0][1], run[-1][1] + 1, speaker)
    return project


def give_words(project: Project, turn_id: int, first: int, stop: int, speaker: str) -> Project:
    """Give some words of a turn to a speaker: the turn is split around them.

    Parameters
    ----------
    first, stop : int
        Places in the turn's words, from and to.
    """
    place = turn_place(project, turn_id)
    turn = project.transcript.turns[place]
    if first >= stop:
        return project
    parts: list[Turn] = []
    next_id = project.next_id
    for words, mine in (
        (turn.words[:first], False),
        (turn.words[first:stop], True),
        (turn.words[stop:], False),
    ):
        if not words:
            continue
        part = turn if not parts else replace(turn, id=next_id)
        next_id += bool(parts)
        part = replace(part, words=words)
        if mine:
            words = handed(words, turn.speaker, speaker)
            part = replace(part, words=words, speaker=speaker, confirmed=True)
        parts.append(part)
    return replace(with_turns(project, place, place + 1, *parts), next_id=next_id)


def speaker_passages(project: Project) -> list[SpeakerPassage]:
    """Who speaks when, as the turns say; where two speak at the same time, both."""
    names = {one.id: shown_name(project, one.id) for one in project.transcript.speakers}
    found = []
    for turn in project.transcript.turns:
        if turn.speaker in names and turn.words:
            found.append(SpeakerPassage(turn.start_ms, turn.end_ms, names[turn.speaker]))
        for who, run in groupby(turn.words, lambda word: word.also):
            if who in names:
                words = list(run)
                found.append(SpeakerPassage(words[0].start_ms, words[-1].end_ms, names[who]))
    return found


def follow_passages(project: Project, found: Sequence[SpeakerPassage]) -> Project:
    """Give every word to whoever speaks the longest during it; words in no passage stay as they are.

    Speakers are known by name; a new name is a new speaker. Where two speak
    during most of a word, the other one speaks at the same time.
    """
    project, ids = _named(project, found)
    numbers = {one.id: place for place, one in enumerate(project.transcript.speakers)}
    labels, also = [], []
    words = ((turn, word) for turn in project.transcript.turns for word in turn.words)
    for (turn, word), shares in zip(words, _shares(project, found)):
        ranked = sorted(shares, key=lambda name: -shares[name])
        own = numbers.get(turn.speaker or "", -1)
        labels.append(numbers[ids[ranked[0]]] if ranked else own)
        length = max(1, word.end_ms - word.start_ms)
        second = len(ranked) > 1 and shares[ranked[1]] >= _MOST_OF_WORD * length
        also.append(numbers[ids[ranked[1]]] if second else -1)
    return assign_speakers(project, labels, [1.0] * len(labels), also)


def share_covered(project: Project, found: Sequence[SpeakerPassage]) -> float:
    """The share of the words during which somebody speaks, 0 to 1: little for another recording."""
    shares = _shares(project, found)
    return sum(bool(one) for one in shares) / max(1, len(shares))


def _shares(project: Project, found: Sequence[SpeakerPassage]) -> list[dict[str, int]]:
    """For each word, how many milliseconds of it each name speaks."""
    ordered, first, shares = sorted(found, key=lambda one: one.start_ms), 0, []
    for turn in project.transcript.turns:
        for word in turn.words:
            while first < len(ordered) and ordered[first].end_ms < word.start_ms - _LONGEST_MS:
                first += 1
            here: dict[str, int] = {}
            for one in ordered[first:]:
                if one.start_ms >= word.end_ms:
                    break
                shared = min(one.end_ms, word.end_ms) - max(one.start_ms, word.start_ms)
                if shared > 0:
                    here[one.speaker] = here.get(one.speaker, 0) + shared
            shares.append(here)
    return shares


_LONGEST_MS = 600_000
_MOST_OF_WORD = 0.6


def _named(project: Project, found: Sequence[SpeakerPassage]) -> tuple[Project, dict[str, str]]:
    ids = {shown_name(project, one.id): one.id for one in project.transcript.speakers}
    for name in dict.fromkeys(one.speaker for one in found):
        if name not in ids:
            project, ids[name] = add_speaker(project, name)
    return project, ids


@rewords
def only_speaker(project: Project, speaker: str) -> Project:
    """The project with one speaker's turns alone, for writing; captions follow."""
    turns = tuple(turn for turn in project.transcript.turns if turn.speaker == speaker)
    return replace(project, transcript=replace(project.transcript, turns=turns))


def with_overlaps(project: Project) -> Project:
    """Mark the words during which somebody else says a word too, for at least half of their time.

    For recordings in which each speaker was transcribed alone: their turns overlap
    where they talk at once.

    Returns
    -------
    Project
        The same object where nobody does.
    """
    words = [
        (word.start_ms, word.end_ms, turn.speaker, word.id)
        for turn in project.transcript.turns
        if turn.speaker is not None
        for word in turn.words
    ]
    words.sort()
    others: dict[int, str] = {}
    open_words: list[tuple[int, int, str, int]] = []
    for word in words:
        open_words = [one for one in open_words if one[1] > word[0]]
        for one in open_words:
            shared = min(one[1], word[1]) - word[0]
            if one[2] == word[2]:
                continue
            for mine, other in ((word, one), (one, word)):
                if shared >= _SHARE * max(1, mine[1] - mine[0]):
                    others[mine[3]] = other[2]
        open_words.append(word)
    if not others:
        return project
    turns = tuple(_talked_over(turn, others) for turn in project.transcript.turns)
    return replace(project, transcript=replace(project.transcript, turns=turns))


def _talked_over(turn: Turn, others: dict[int, str]) -> Turn:
    if not any(word.id in others for word in turn.words):
        return turn
    words: list[Word] = [
        replace(word, also=others[word.id]) if word.id in others else word for word in turn.words
    ]
    return replace(turn, words=tuple(words))
