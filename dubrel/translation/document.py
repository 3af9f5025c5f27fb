"""A translation as a project of its own: every form of transcript and caption can be written from it."""

from __future__ import annotations

from dubrel.base.text import grapheme_count, joined, spaced_units
from dubrel.base.value import replace
from dubrel.model import Caption, CaptionTrack, Project, Timing, Transcript, Turn, Word
from dubrel.project.index import turn_of
from dubrel.translation.pairs import bare_line


def translated_project(project: Project, track: CaptionTrack) -> Project:
    """The project in the language of a translated track.

    Its turns are those of the original with the words of the translation; its
    only track holds these words at the same times, in the same lines. Words
    have times that are spread over their captions. Notes stay behind.
    """
    maker = _Maker(project, track)
    captions = tuple(made for one in track.captions if (made := maker.caption(one)))
    turns = tuple(
        Turn(turn.id, tuple(words), turn.speaker, proofed=turn.proofed)
        for turn in project.transcript.turns
        if (words := maker.words.get(turn.id))
    )
    spoken = replace(track, captions=captions, translates=None)
    return Project(
        project.title,
        project.subtitle,
        project.media,
        Transcript(track.language, project.transcript.speakers, turns),
        (spoken,),
        spoken.id,
        terms=project.terms,
        next_id=max(project.next_id, maker.next_id),
    )


class _Maker:
    """Gives the words of captions to turns."""

    def __init__(self, project: Project, track: CaptionTrack) -> None:
        self.project, self.track = project, track
        self.names = tuple(one.name for one in project.transcript.speakers if one.name)
        self.words: dict[int, list[Word]] = {}
        self.next_id = project.next_id
        self.last = project.transcript.turns[0].id if project.transcript.turns else 0

    def caption(self, caption: Caption) -> Caption | None:
        """A caption with words; nothing for an empty one; as it is where nothing is said."""
        lines = [line for line in caption.text.split("\n") if line.strip()]
        if not lines:
            return None
        if not caption.of:
            return replace(caption, sources=())
        owners = list(dict.fromkeys(turn.id for word in caption.of if (turn := turn_of(self.project, word))))
        marked = [bare_line(line, self.names) != line for line in lines]
        texts = [bare_line(line, self.names) for line in lines]
        whole, done = max(1, sum(grapheme_count(text) + 1 for text in texts)), 0
        ids: list[int] = []
        breaks: list[int] = []
        named: list[int] = []
        dashed: list[int] = []
        span = caption.end_ms - caption.start_ms
        for nth, (text, mark) in enumerate(zip(texts, marked)):
            owner = self._owner(owners, nth, sum(marked))
            first = self.next_id
            for unit, spaced in spaced_units(text):
                length = grapheme_count(unit) + 1
                start = caption.start_ms + span * done // whole
                done += length
                end = min(caption.end_ms, caption.start_ms + span * done // whole)
                word = Word(self.next_id, unit, start, max(start, end), timing=Timing.SPREAD, spaced=spaced)
                self.words.setdefault(owner, []).append(word)
                ids.append(self.next_id)
                self.next_id += 1
            if nth and self.next_id > first:
                breaks.append(first)
            if mark and self.next_id > first:
                (dashed if lines[nth].startswith("– ") else named).append(first)
        return Caption(
            caption.id,
            caption.start_ms,
            caption.end_ms,
            tuple(ids),
            tuple(breaks),
            tuple(named),
            tuple(dashed),
            place=caption.place,
            done=caption.done,
        )

    def _owner(self, owners: list[int], line: int, marked: int) -> int:
        """The turn that a line belongs to: each of two people has one."""
        if owners:
            self.last = owners[min(line, len(owners) - 1)] if marked > 1 and len(owners) > 1 else owners[0]
        return self.last


def facing_paragraphs(project: Project, translated: Project) -> list[tuple[str, str, str]]:
    """Turn by turn: who speaks, what is said, and the translation; empty where there is none yet.

    Parameters
    ----------
    translated : Project
        See :func:`translated_project`.
    """
    theirs = {turn.id: turn.text for turn in translated.transcript.turns}
    found = []
    for turn in project.transcript.turns:
        shown = [word for word in turn.words if not word.struck]
        if shown:
            speaker = project.transcript.speaker(turn.speaker)
            said = joined([word.text for word in shown], [word.spaced for word in shown])
            found.append((speaker.name if speaker else "", said, theirs.get(turn.id, "")))
    return found
