"""Give the new things of a project other ids, wherever they are referred to."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from dubrel.base.value import replace
from dubrel.model import Camera, Caption, CaptionTrack, Note, Project, Switch, Turn, Word


class Renumbering:
    """Other ids for things and speakers.

    Parameters
    ----------
    number : callable
        The new id of an id; the same for one that stays.
    speakers : mapping of str to str
        Of speakers whose id is another.
    """

    def __init__(self, number: Callable[[int], int], speakers: Mapping[str, str] = {}) -> None:
        self._number, self._speakers = number, speakers

    def project(self, project: Project) -> Project:
        """The project with other ids."""
        transcript = project.transcript
        people = tuple(replace(one, id=self._who(one.id) or one.id) for one in transcript.speakers)
        turns = tuple(self._turn(one) for one in transcript.turns)
        cameras = project.cameras
        return replace(
            project,
            transcript=replace(transcript, speakers=people, turns=turns),
            tracks=tuple(self._track(one) for one in project.tracks),
            active=self._number(project.active) if project.active else 0,
            notes=tuple(self._note(one) for one in project.notes),
            cuts=tuple(replace(one, id=self._number(one.id)) for one in project.cuts),
            cameras=replace(
                cameras,
                all=tuple(self._camera(one) for one in cameras.all),
                switches=tuple(Switch(one.ms, self._number(one.camera)) for one in cameras.switches),
            ),
            index=None,
        )

    def _who(self, speaker: str | None) -> str | None:
        return self._speakers.get(speaker, speaker) if speaker is not None else None

    def _ids(self, ids: tuple[int, ...]) -> tuple[int, ...]:
        return tuple(map(self._number, ids))

    def _turn(self, turn: Turn) -> Turn:
        words = tuple(self._word(word) for word in turn.words)
        number, who = self._number(turn.id), self._who(turn.speaker)
        if number == turn.id and who == turn.speaker and all(a is b for a, b in zip(words, turn.words)):
            return turn
        return replace(turn, id=number, words=words, speaker=who)

    def _word(self, word: Word) -> Word:
        number, also = self._number(word.id), self._who(word.also)
        return word if number == word.id and also == word.also else replace(word, id=number, also=also)

    def _track(self, track: CaptionTrack) -> CaptionTrack:
        return replace(
            track,
            id=self._number(track.id),
            translates=None if track.translates is None else self._number(track.translates),
            captions=tuple(self._caption(one) for one in track.captions),
            looks=tuple((self._who(who) or who, look) for who, look in track.looks),
        )

    def _caption(self, one: Caption) -> Caption:
        made = replace(
            one,
            id=self._number(one.id),
            words=self._ids(one.words),
            breaks=self._ids(one.breaks),
            named=self._ids(one.named),
            dashed=self._ids(one.dashed),
            sources=self._ids(one.sources),
            styled=tuple((self._number(word), marks) for word, marks in one.styled),
            hidden=self._ids(one.hidden),
            of=self._ids(one.of),
        )
        return one if made == one else made

    def _note(self, note: Note) -> Note:
        return replace(note, id=self._number(note.id), words=self._ids(note.words))

    def _camera(self, camera: Camera) -> Camera:
        shows = tuple(self._who(one) or one for one in camera.shows)
        return replace(camera, id=self._number(camera.id), shows=shows)
