"""What is listed for each kind of search: as written, as it sounds, by what it means."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.catalogue import counted, tr
from dubrel.base.languages import language_name
from dubrel.base.text import tidied
from dubrel.desk.sheet.meanings import Meanings
from dubrel.desk.shell.core.background import beside
from dubrel.desk.wording.rows import Row
from dubrel.finding.elsewhere import TranslatedPlace, places_in_translations
from dubrel.finding.words import Found, Query, find
from dubrel.model import Project, Turn

if TYPE_CHECKING:
    from dubrel.finding.phones import SoundIndex
    from dubrel.project.sentences import Sentence

_MOST_LONG = 220  # letters of a whole turn that are listed
_MOST = 60  # sentences


class WrittenRows:
    """Places where letters stand, and what they are replaced with.

    Attributes
    ----------
    left_out : set
        Places that are not replaced.
    put_in : set
        Those of translations that are.
    """

    def __init__(self) -> None:
        self.left_out: set[tuple[int, int]] = set()
        self.put_in: set[tuple[int, int]] = set()

    def start_over(self) -> None:
        """What was ticked belonged to another question."""
        self.left_out.clear()
        self.put_in.clear()

    def rows(self, project: Project, query: Query, becomes: str) -> list[Row]:
        """The places of a query; with ``becomes`` also those of translations."""
        if not (query.text or query.speaker is not None or query.unproofed or query.doubt):
            return []
        wanted = becomes if becomes and query.text else None
        look = partial(find, project, query, wanted)
        found = beside(look) if query.pattern else look()
        rows = [self._row(one, query, wanted is not None) for one in found]
        if wanted is not None:
            rows += [self._translated(one) for one in places_in_translations(project, found)]
        return rows

    def _row(self, one: Found, query: Query, replacing: bool) -> Row:
        turn, whole = one.of, not query.text
        return Row(
            one.start_ms,
            one.end_ms,
            one.words,
            turn.speaker,
            one.text[:_MOST_LONG],
            "" if whole else turn.text[max(0, one.start - 60) : one.start],
            "" if whole else turn.text[one.end : one.end + 120],
            one.becomes if replacing else None,
            ticked=(one.turn, one.start) not in self.left_out if replacing else None,
            of=one,
            named=not whole,
        )

    def _translated(self, one: TranslatedPlace) -> Row:
        """A place of a translation: replaced only where it is ticked."""
        whole = tidied(one.caption.text)
        at = max(0, whole.find(one.text))
        return Row(
            one.caption.start_ms,
            one.caption.end_ms,
            one.words,
            None,
            whole[at : at + len(one.text)],
            whole[max(0, at - 60) : at],
            whole[at + len(one.text) :][:120],
            one.becomes,
            tr("in {language}").format(language=tr(language_name(one.language))),
            ticked=(one.track, one.caption.id) in self.put_in,
            of=one,
        )

    def take_ticks(self, rows: Sequence[Row]) -> int:
        """Keep what is ticked in a list; how many places are."""
        ours = [row for row in rows if isinstance(row.of, Found)]
        theirs = [row for row in rows if isinstance(row.of, TranslatedPlace)]
        self.left_out = {(row.of.turn, row.of.start) for row in ours if row.ticked is False}
        self.put_in = {(row.of.track, row.of.caption.id) for row in theirs if row.ticked}
        return len(ours) - len(self.left_out) + len(self.put_in)


class SoundRows:
    """Words that sound like a text."""

    def __init__(self) -> None:
        self._index: tuple[Sequence[Turn], SoundIndex] | None = None

    def start_over(self) -> None:
        """Another project was opened."""
        self._index = None

    def rows(self, project: Project, text: str, row_of: Callable[..., Row | None]) -> list[Row]:
        """The words that are most alike."""
        turns = project.transcript.turns
        if self._index is None or self._index[0] is not turns:
            from dubrel.finding.phones import SoundIndex  # late: the page opens without it

            self._index = (turns, beside(partial(SoundIndex, turns)))
        found = self._index[1].find(text, 40)
        rows = [
            row_of(
                [word.id for word in one.words],
                note=tr("{likeness:.0%} alike").format(likeness=one.likeness),
                of=one,
            )
            for one in found
        ]
        return [row for row in rows if row is not None]


class MeaningRows:
    """Sentences that mean much the same as a text, of this project or of recent ones too.

    Parameters
    ----------
    meanings : Meanings
    answered : callable
        Called when more can be listed.
    """

    def __init__(self, meanings: Meanings, answered: Callable[[], object]) -> None:
        self._meanings, self._answered = meanings, answered
        self._asked = ""
        self._question: object = None

    def start_over(self) -> None:
        """Another project was opened."""
        self._asked, self._question = "", None

    @property
    def looking(self) -> bool:
        """Whether there is more to come."""
        return self._question is None or self._meanings.busy

    def rows(self, text: str, everywhere: bool) -> tuple[list[Row], str]:
        """The sentences that are nearest, and what is to be said about them."""
        if self._asked != text:
            self._asked, self._question = text, None
            self._meanings.ask(text, partial(self._on_question, text))
        if self._question is None:
            return [], ""
        ours = self._meanings.sentences()
        waiting = self._meanings.prepare(ours)
        sources: list[tuple[Path | None, str, list[Sentence]]] = [(None, "", ours)]
        if everywhere:
            sources += beside(self._meanings.recent)
            for _, _, sentences in sources[1:]:
                waiting += self._meanings.prepare(sentences)
        found = [
            (one.score, path, title, one.sentence)
            for path, title, sentences in sources
            for one in self._meanings.find(self._question, sentences)  # type: ignore[arg-type]
        ]
        found.sort(key=lambda one: -one[0])
        said = (
            tr("{sentences} not looked at yet.").format(sentences=counted(waiting, "sentence"))
            if waiting
            else ""
        )
        return [_of_sentence(*one) for one in found[:_MOST]], said

    def _on_question(self, text: str, vector: object) -> None:
        if text == self._asked:
            self._question = vector
            self._answered()


def _of_sentence(score: float, path: Path | None, title: str, one: Sentence) -> Row:
    return Row(
        one.start_ms,
        one.end_ms,
        one.words if path is None else (),
        one.speaker if path is None else None,
        one.text,
        note=f"{title}  {score:.2f}" if path else f"{score:.2f}",
        of=path,
        named=False,
    )
