"""Set translated sentences in time: captions in another language where those of the original stand."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence

from dubrel.base.text import grapheme_count, joined, spaced_units
from dubrel.base.value import Value, replace
from dubrel.captions.setting.drafts import Draft
from dubrel.model import Agreed, Caption, CaptionTrack, Project, Translated, Turn, Word
from dubrel.project.index import captions_of, index_of, track_index, turn_place, words_with
from dubrel.project.tracks import with_captions

_NEAR_MS = 1500  # a caption further from its words was moved on purpose
LEAD_MS = 400
"""How long before what it translates a caption may come in, where it could not be read in time otherwise."""


class _Piece(Value):
    """A part of a translated sentence that says what a caption of the original says."""

    words: tuple[int, ...]  # of the original
    said: tuple[str, ...]
    units: list[tuple[str, bool]]
    start_ms: int
    end_ms: int


class _Row(Value):
    """A caption to be."""

    start_ms: int
    end_ms: int
    text: str
    of: tuple[int, ...]
    said: tuple[str, ...]


class _Sentence(Value):
    found: Translated
    pieces: list[_Piece]
    turn: Turn
    first: int  # places of its first and last word in the turn
    last: int


def with_translations(
    project: Project, track_id: int, found: Iterable[Translated], over: Collection[Agreed] = ()
) -> Project:
    """The project with translated sentences set into captions of a track.

    Parameters
    ----------
    track_id : int
        A track that translates another one.
    found : iterable of Translated
        Sentences whose words are gone, and those whose captions a person has in
        hand (approved or edited), are passed over.
    over : collection of Agreed
        Captions that may go although a person had them in hand, as they were when
        that was agreed to: what was written or approved since stays.

    Returns
    -------
    Project
        Captions come in and go out as the rules of the track's language want,
        as near to those of the original as these allow.
    """
    track = project.track(track_id)
    if track is None or track.spoken:
        return project
    sentences = [one for each in found if (one := _sentence(project, track, each))]
    sentences = _whole(project, track, sentences, frozenset(over))
    for run in _runs(project, sentences):
        project = _run_set(project, track_id, run)
    return project


def _sentence(project: Project, track: CaptionTrack, found: Translated) -> _Sentence | None:
    """A sentence with its pieces and times; nothing where it cannot be set."""
    words = {word.id: word for word in words_with(project, found.words)}
    index = index_of(project)
    homes = [index.turns[index.turn_of[one]] for one in found.words if one in words]
    if not homes or not found.text.strip():
        return None
    turn = homes[0]
    places = [turn.index_of[one] for one in found.words if one in turn.index_of]
    units = spaced_units(found.text)
    cuts = found.cuts if len(found.cuts) == len(found.edges) else ()
    edges = found.edges if cuts else ()
    pieces = []
    bounds = list(zip([0, *edges], [*edges, len(found.words)], [0, *cuts], [*cuts, len(units)]))
    for a, b, c, d in bounds:
        own = [words[one] for one in found.words[a:b] if one in words]
        if own:
            start, end = _times(project, track, own)
            pieces.append(_Piece(found.words[a:b], found.said[a:b], units[c:d], start, end))
    return _Sentence(found, _filled(pieces), turn, min(places), max(places))


def _times(project: Project, track: CaptionTrack, words: Sequence[Word]) -> tuple[int, int]:
    """From when to when a piece is said: with the caption of the original where that begins with it."""
    index = track_index(project, track.translates or 0)
    start, end = words[0].start_ms, max(word.end_ms for word in words)
    for word, closing in ((words[0], False), (words[-1], True)):
        caption = index.captions.get(index.of_word.get(word.id, 0))
        shown = [one for one in words_with(project, caption.words) if not one.struck] if caption else []
        if caption is None or word not in shown:
            continue
        whole = word is shown[-1] if closing else word is shown[0]
        if closing:
            moved = (
                caption.end_ms if whole and "times" in caption.held else _shown_at(word, caption, shown, True)
            )
            end = end if moved is None else moved
        else:
            moved = caption.start_ms if whole else _shown_at(word, caption, shown, False)
            start = start if moved is None else moved
    return start, max(start + 1, end)


def _shown_at(word: Word, caption: Caption, shown: Sequence[Word], closing: bool) -> int | None:
    """When a word is shown in a caption that was moved away from it: by its place.

    Nothing where it was not.
    """
    if caption.start_ms - _NEAR_MS <= word.start_ms and word.end_ms <= caption.end_ms + _NEAR_MS:
        return None
    place = shown.index(word) + closing
    return caption.start_ms + (caption.end_ms - caption.start_ms) * place // len(shown)


def _filled(pieces: list[_Piece]) -> list[_Piece]:
    """Pieces that all have words: one without joins the one before it, or after."""
    made: list[_Piece] = []
    for piece in pieces:
        if made and (not piece.units or not made[-1].units):
            last = made.pop()
            piece = _Piece(
                last.words + piece.words,
                last.said + piece.said,
                last.units + piece.units,
                last.start_ms,
                max(last.end_ms, piece.end_ms),
            )
        made.append(piece)
    return made


def _whole(
    project: Project, track: CaptionTrack, sentences: list[_Sentence], agreed: frozenset[Agreed]
) -> list[_Sentence]:
    """Those that may be set: whose captions hold nothing else, and are not approved or edited."""
    index = track_index(project, track.id)
    while True:
        ours = {word for one in sentences for word in one.found.words}
        kept = []
        for one in sentences:
            captions = captions_of(project, track.id, one.found.words).values()
            free = all(
                (
                    not (caption.done or "text" in caption.held)
                    or (caption.id, caption.text, caption.done) in agreed
                )
                and all(word in ours or word not in index.of_word for word in caption.of)
                for caption in captions
            )
            if free:
                kept.append(one)
        if len(kept) == len(sentences):
            return kept
        sentences = kept


def _runs(project: Project, sentences: list[_Sentence]) -> list[list[_Sentence]]:
    """Sentences that follow each other with nothing between them."""
    order = sorted(sentences, key=lambda one: (turn_place(project, one.turn.id), one.first))
    runs: list[list[_Sentence]] = []
    for one in order:
        if runs and _follows(project, runs[-1][-1], one):
            runs[-1].append(one)
        else:
            runs.append([one])
    return runs


def _follows(project: Project, one: _Sentence, other: _Sentence) -> bool:
    if other.pieces[0].start_ms < one.pieces[-1].start_ms:  # captions were moved past each other
        return False
    if one.turn is other.turn:
        return all(word.struck for word in one.turn.words[one.last + 1 : other.first])
    next_to = turn_place(project, other.turn.id) == turn_place(project, one.turn.id) + 1
    between = (*one.turn.words[one.last + 1 :], *other.turn.words[: other.first])
    return next_to and all(word.struck for word in between)


def _run_set(project: Project, track_id: int, run: list[_Sentence]) -> Project:
    """Set sentences that follow each other."""
    from dubrel.captions.setting.chain import Part  # late: arrays, which opening a window does without
    from dubrel.captions.setting.setting import set_turns
    from dubrel.captions.setting.timing import Bounds

    track = project.track(track_id)
    assert track is not None
    gone = captions_of(project, track_id, (word for one in run for word in one.found.words))
    made = _Words()
    parts, before = [], _speaker_before(project, run[0])
    for turn_id in dict.fromkeys(one.turn.id for one in run):
        mine = [one for one in run if one.turn.id == turn_id]
        turn = mine[0].turn
        speaker = project.transcript.speaker(turn.speaker)
        own, edges = made.turn(turn, mine)
        begins = turn_id != run[0].turn.id or mine[0].first == 0
        changed = begins and turn.speaker != before
        parts.append(Part(own, speaker.name if speaker else "", changed, edges))
        before = turn.speaker
    first, last = run[0].pieces[0].start_ms, max(one.pieces[-1].end_ms for one in run)
    bounds = Bounds(project.frame_rate, project.shots, *_around(track, gone, first, last), project.length_ms)
    transcript = replace(project.transcript, language=track.language)
    style = replace(track.style, lead_ms=max(track.style.lead_ms, LEAD_MS))
    placed = set_turns(parts, transcript, style, bounds)
    of = made.owners([[word.id for word in one.draft.words] for one in placed])
    rows = [
        _Row(one.start_ms, one.end_ms, _text(one.draft), ids, said) for one, (ids, said) in zip(placed, of)
    ]
    next_id, come = project.next_id, []
    for row in _united(rows):
        sources = tuple(dict.fromkeys(_sources(project, track, row.of)))
        place, words = _place(project, track, sources), " ".join(row.said)
        times = (next_id, row.start_ms, row.end_ms)
        come.append(Caption(*times, text=row.text, sources=sources, place=place, of=row.of, said=words))
        next_id += 1
    project = replace(project, next_id=next_id)
    return with_captions(project, track_id, dict.fromkeys(gone), come)


def _text(draft: Draft) -> str:
    spaced = [word.spaced for word in draft.words]
    edges = [0, *draft.breaks, len(draft.texts)]
    return "\n".join(joined(draft.texts[a:b], spaced[a:b]) for a, b in zip(edges, edges[1:]))


def _speaker_before(project: Project, first: _Sentence) -> str | None:
    if first.first:
        return first.turn.speaker
    place = turn_place(project, first.turn.id)
    return project.transcript.turns[place - 1].speaker if place else None


def _around(
    track: CaptionTrack, gone: dict[int, Caption], start_ms: int, end_ms: int
) -> tuple[int | None, int | None]:
    """When the caption before a passage goes out, and when the one after it comes in."""
    at = bisect_left(track.captions, start_ms, key=lambda one: one.start_ms)
    before = next((one for one in reversed(track.captions[:at]) if one.id not in gone), None)
    after = next((one for one in track.captions[at:] if one.id not in gone), None)
    if after is not None and after.start_ms < end_ms:  # people speak at once: it is not a border
        after = None
    return before.end_ms if before else None, after.start_ms if after else None


def _sources(project: Project, track: CaptionTrack, words: Iterable[int]) -> list[int]:
    held = track_index(project, track.translates or 0).of_word
    return [held[one] for one in words if one in held]


def _place(project: Project, track: CaptionTrack, sources: Sequence[int]) -> str:
    """Where the captions of the original stand, if all stand at the same place."""
    known = track_index(project, track.translates or 0).captions
    places = {known[one].place for one in sources if one in known}
    return places.pop() if len(places) == 1 else ""


class _Words:
    """The words of translations with times of their own, and from which words of the original each is."""

    def __init__(self) -> None:
        self._next = 1
        self._pieces: list[tuple[_Piece, list[int]]] = []

    def turn(self, turn: Turn, sentences: Sequence[_Sentence]) -> tuple[Turn, frozenset[int]]:
        """A turn with the translated words of its sentences, and after which of them captions should end."""
        words: list[Word] = []
        edges = []
        for sentence in sentences:
            for piece in sentence.pieces:
                ids = self._spread(piece, words)
                if ids:
                    edges.append(ids[-1])
                self._pieces.append((piece, ids))
        return Turn(turn.id, tuple(words), turn.speaker), frozenset(edges)

    def _spread(self, piece: _Piece, words: list[Word]) -> list[int]:
        """Add the words of a piece, each as long as its letters ask for."""
        lengths = [grapheme_count(text) + 1 for text, _ in piece.units]
        whole, done, ids = sum(lengths), 0, []
        start = max(piece.start_ms, words[-1].start_ms if words else 0)
        span = max(1, piece.end_ms - start)
        for (text, spaced), length in zip(piece.units, lengths):
            begin, end = start + span * done // whole, start + span * (done + length) // whole
            words.append(Word(self._next, text, begin, end, spaced=spaced))
            ids.append(self._next)
            self._next += 1
            done += length
        return ids

    def owners(self, captions: Sequence[Sequence[int]]) -> list[tuple[tuple[int, ...], tuple[str, ...]]]:
        """For each caption the words of the original that it translates, and what they were."""
        home = {word: nth for nth, ids in enumerate(captions) for word in ids}
        found: list[tuple[list[int], list[str]]] = [([], []) for _ in captions]
        for piece, ids in self._pieces:
            shares = Counter(home[one] for one in ids)
            for nth, caption in enumerate(_dealt(len(piece.words), shares)):
                found[caption][0].append(piece.words[nth])
                found[caption][1].append(piece.said[nth])
        return [(tuple(ids), tuple(said)) for ids, said in found]


def _dealt(count: int, shares: Mapping[int, int]) -> list[int]:
    """To which caption each of some words goes.

    By the shares of these, but one at least where there are enough.

    Examples
    --------
    >>> _dealt(4, {7: 9, 8: 1})
    [7, 7, 7, 8]
    """
    order = sorted(shares)
    whole, done, at, found = sum(shares.values()), 0, 0, list[int]()
    for nth, caption in enumerate(order):
        done += shares[caption]
        left = len(order) - nth - 1
        stop = max(at + 1, min(round(count * done / whole), count - left))
        stop = min(stop, count) if left else count
        found += [caption] * (stop - at)
        at = stop
    return found


def _united(rows: Sequence[_Row]) -> list[_Row]:
    """Captions each of which translates something: one with nothing of the original goes to its neighbour."""
    made: list[_Row] = []
    for row in rows:
        if made and (not row.of or not made[-1].of):
            last = made.pop()
            row = _Row(
                last.start_ms,
                max(last.end_ms, row.end_ms),
                f"{last.text}\n{row.text}",
                last.of + row.of,
                last.said + row.said,
            )
        made.append(row)
    return made
