"""What a deliverable is made from: a project, a track, options."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.value import Value, field, replace
from dubrel.captions.looks import LOOKS
from dubrel.captions.styles import STYLES
from dubrel.edits.speakers.assigning import only_speaker
from dubrel.edits.words.masking import HOW, masked, masked_text
from dubrel.film.reshaping import GROUNDS, SHAPES
from dubrel.formats.shared.document import Document, TextOptions, document_of, options_from
from dubrel.model import CaptionTrack, Project


class Source(Value, dict=True):
    """What a deliverable is made from.

    Attributes
    ----------
    original : Project
        As it is open.
    track : CaptionTrack or None
        The captions, spoken or translated.
    values : mapping
        Options, plain.
    masked_words : tuple of str
    """

    original: Project
    track: CaptionTrack | None = None
    values: dict[str, str] = field(default_factory=dict)
    masked_words: tuple[str, ...] = ()

    @cached_property
    def options(self) -> TextOptions:
        """The options of texts."""
        own = {name: value for name, value in self.values.items() if name not in EXTRA}
        return options_from(own)

    @cached_property
    def project(self) -> Project:
        """The project in the language of the track, with one speaker or masked where that is wished."""
        project = self.original
        if self.track is not None and not self.track.spoken:
            from dubrel.translation.document import translated_project  # late: only for translations

            notes = project.notes
            project = replace(translated_project(project, self.track), notes=_at_words(notes))
        elif self.track is not None and project.active != self.track.id:
            project = replace(project, active=self.track.id)
        if project.captions is None and project.transcript.word_count:
            from dubrel.edits.captions.resetting import set_again  # late: arrays

            project = set_again(project, None)
        if speaker := self.values.get("speaker"):
            project = only_speaker(project, speaker)
        return masked(project, self.masked_words, self.values.get("masks", "no"))

    @cached_property
    def document(self) -> Document:
        """The project as a document."""
        return document_of(self.project, self.options)

    @property
    def language(self) -> str:
        """Of the track, or of what is said."""
        return self.track.language if self.track else self.original.transcript.language

    @cached_property
    def facing(self) -> list[tuple[str, str, str]]:
        """Turn by turn: who speaks, what is said, the translation."""
        from dubrel.translation.document import facing_paragraphs  # late: as above

        if self.track is None or self.track.spoken:
            return []
        ours = self.original
        if speaker := self.values.get("speaker"):
            ours = only_speaker(ours, speaker)
        ours = masked(ours, self.masked_words, self.values.get("masks", "no"))
        return facing_paragraphs(ours, self.project)

    @cached_property
    def pairs(self) -> list[tuple[str, str, bool]]:
        """Sentences with their translations, and whether each is approved."""
        from dubrel.translation.pairs import pairs_of  # late: as above

        pairs = pairs_of(self.original, self.track) if self.track and not self.track.spoken else []
        speaker, how = self.values.get("speaker"), self.values.get("masks", "no")
        return [
            (
                masked_text(one.source, self.masked_words, how),
                masked_text(one.target, self.masked_words, how),
                one.approved,
            )
            for one in pairs
            if one.source and one.target and (not speaker or one.sentences[0].speaker == speaker)
        ]


_FILM = ("quality", "stretch", "crop", "ground", "style", "look", "lettering", "amount", "loudness")
_SPOKEN = ("voice", "spoken", "under", "fastest")
EXTRA = ("track", "speaker", "masks", *_FILM, *_SPOKEN, "media")
"""Options that are none of the text."""
ALLOWED: dict[str, tuple[str, ...]] = {
    "masks": HOW,
    "quality": ("usual", "high", "small"),
    "crop": tuple(SHAPES),
    "ground": GROUNDS,
    "style": ("", *STYLES),
    "look": ("", *LOOKS),
    "lettering": ("", "clear", "faces"),
    "amount": ("", "0", "50", "75", "100"),
    "loudness": ("", "-16", "-23"),
    "spoken": ("", "captions"),
    "under": ("", "alone", "10", "20", "30"),
    "fastest": ("", "100", "115", "150"),
    "media": ("", "beside", "sound", "inside", "apart"),
}
"""What those can be that are chosen from a list."""


def refuse_unknown(values: Mapping[str, str]) -> None:
    """Refuse what an option cannot be, before anything is written.

    Raises
    ------
    FormatError
    """
    options_from({name: value for name, value in values.items() if name not in EXTRA})
    for name, allowed in ALLOWED.items():
        if name in values and values[name] not in allowed:
            known = ", ".join(filter(None, allowed))
            raise FormatError(
                tr("The option “{name}” cannot be “{values}”. Possible: {known}.").format(
                    name=name, values=values[name], known=known
                )
            )


def _at_words(notes: Sequence) -> tuple:
    """Chapters go along with a translation; notes at words stay with the words that they stand beside."""
    return tuple(replace(one, words=()) for one in notes if one.kind == "Chapter")
