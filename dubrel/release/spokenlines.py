"""What is spoken of a project: lines with their times, shorter readings and their speaker's pitch."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping

from dubrel.base.catalogue import tr
from dubrel.base.languages import language_name
from dubrel.base.value import Value, replace
from dubrel.film.order import Speaking, SpokenLine
from dubrel.model import Caption, CaptionTrack, Project
from dubrel.project.captiontext import text_of
from dubrel.project.index import turn_of
from dubrel.project.sentences import sentences_of
from dubrel.translation.memory import Memory, memory_path
from dubrel.translation.pairs import pairs_of, target_text
from dubrel.translation.shorter import shorter_readings

VOICE_LABELS = {"auto": tr("the best voice here"), "english": tr("the English voice"), "formant": "espeak-ng"}
"""The voices that ship, as they stand in a sentence."""
PITCHES = (0.0, -3.0, 2.5, -5.0, 4.5, -1.5, 1.5)
"""Semitones: of the first speaker, the second and so on, where all have one voice."""
_AFTER_MS = 10_000  # how long the last line may take
UNDER = {"": 15.0, "alone": None, "10": 10.0, "20": 20.0, "30": 30.0}
"""By how much the recording goes down, by option."""
FASTEST = ("", "100", "115", "150")
_FASTEST = 125
Known = Callable[[str], Iterable[str]]


def speaking_by_memory(project: Project, track: CaptionTrack | None, values: Mapping[str, str]) -> Speaking:
    """The same, with what the translation memory has for a sentence as another reading of it."""
    if track is None or track.spoken or not memory_path().is_file():
        return speaking_of(project, track, values)
    memory = Memory(memory_path())
    try:
        languages = project.transcript.language, track.language
        known = lambda source: filter(None, [memory.exact(source, *languages)])  # noqa: E731
        return speaking_of(project, track, values, known)
    finally:
        memory.close()


class _Said(Value):
    id: int
    start_ms: int
    text: str
    speaker: str | None
    source: str = ""


def speaking_of(
    project: Project,
    track: CaptionTrack | None,
    values: Mapping[str, str],
    known: Known = lambda source: (),
) -> Speaking:
    """What is spoken of a track.

    Parameters
    ----------
    track : CaptionTrack or None
        A translation, or what is said itself.
    values : mapping
        ``voice``, ``spoken``, ``under``, ``fastest``, plain.
    known : callable
        Other translations of a sentence of the original, that may be shorter.
    """
    language = track.language if track else project.transcript.language
    by_captions = values.get("spoken") == "captions" and (track or project.captions) is not None
    rows = list(_captions(project, track) if by_captions else _sentences(project, track))
    rows.sort(key=lambda one: one.start_ms)
    pitches = _pitches(rows)
    ends = [one.start_ms for one in rows[1:]] + [rows[-1].start_ms + _AFTER_MS if rows else 0]
    lines = tuple(
        SpokenLine(
            one.id,
            one.start_ms,
            end,
            one.text,
            tuple(shorter_readings(one.text, language, known(one.source) if one.source else ())),
            pitches.get(one.speaker or "", 0.0),
        )
        for one, end in zip(rows, ends)
    )
    return Speaking(
        values.get("voice") or "auto",
        language,
        f"{language_name(language)}, spoken",
        lines,
        int(values.get("fastest") or _FASTEST) / 100,
        UNDER[values.get("under", "")],
    )


def _captions(project: Project, track: CaptionTrack | None) -> Iterator[_Said]:
    """Each caption by itself."""
    track = track or project.captions
    names = tuple(one.name for one in project.transcript.speakers if one.name)
    for caption in track.captions if track else ():
        if track is not None and track.spoken and caption.words:
            bare = replace(caption, named=(), dashed=())
            text = " ".join(text_of(project, track, bare).lines)
        else:
            text = target_text((caption,), names)
        yield _Said(caption.id, caption.start_ms, text, _speaker(project, caption))


def _sentences(project: Project, track: CaptionTrack | None) -> Iterator[_Said]:
    """Each sentence, from the beginning of its first caption or word."""
    if track is None or track.spoken:
        for one in sentences_of(project):
            yield _Said(one.words[0], one.start_ms, one.text, one.speaker)
        return
    for pair in pairs_of(project, track):
        if pair.target and pair.captions:
            speaker = pair.sentences[0].speaker if pair.sentences else None
            first = pair.captions[0]
            yield _Said(first.id, first.start_ms, pair.target, speaker, pair.source)


def _speaker(project: Project, caption: Caption) -> str | None:
    word = next(iter(caption.words or caption.of), None)
    turn = turn_of(project, word) if word is not None else None
    return turn.speaker if turn is not None else None


def _pitches(rows: Iterable[_Said]) -> dict[str, float]:
    """How high each speaker talks, by the order in which they are heard."""
    order = list(dict.fromkeys(one.speaker for one in rows if one.speaker))
    return {speaker: PITCHES[nth % len(PITCHES)] for nth, speaker in enumerate(order)}
