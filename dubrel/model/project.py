"""The project: the one value that everything reads."""

from __future__ import annotations

from fractions import Fraction
from functools import cached_property

from dubrel.base.value import Value, field, part_names
from dubrel.model.cameras import Cameras
from dubrel.model.captions import CaptionTrack
from dubrel.model.cuts import Cut
from dubrel.model.framing import Framing
from dubrel.model.media import Media
from dubrel.model.transcript import Transcript


class Note(Value):
    """A remark on words, for the margin and the show notes.

    Attributes
    ----------
    id : int
    start_ms : int
        Its own time, for what lies between words.
    kind, text : str
    words : tuple of int
        Ids of the words that it stands beside.
    end_ms : int
        Where a clip ends; 0 for a note that is not a passage.
    answer : str
        What a colleague answered to a query.
    done : bool
        A query that is settled.
    moved : bool
        Its own words were deleted: it stands beside the nearest now.
    by, to, answered_by : str
        Who wrote it, for whom a query is, and who answered it; empty where that is not known.
    """

    id: int
    start_ms: int
    kind: str
    text: str
    words: tuple[int, ...] = ()
    end_ms: int = 0
    answer: str = ""
    done: bool = False
    moved: bool = False
    by: str = ""
    to: str = ""
    answered_by: str = ""


class Term(Value):
    """A name or a trade term.

    Attributes
    ----------
    right : str
        As it is written; one or several words.
    heard : tuple of str
        Ways in which it was transcribed wrongly.
    note : str
    translations : tuple of (str, str)
        Language (BCP 47 tag) and what the term is in it.
    forms : tuple of (str, str)
        Other forms (plural, inflected): language and form, with no language for
        the term itself. The first form of a translation belongs to the first of
        the term, the second to the second.
    forbidden : tuple of (str, str)
        Language and a translation that must not be used.
    keep : bool
        It is not translated: it stays as it is.
    cased : bool
        Capitals matter: “Reed” is a term, “reed” is none.
    """

    right: str
    heard: tuple[str, ...] = ()
    note: str = ""
    translations: tuple[tuple[str, str], ...] = ()
    forms: tuple[tuple[str, str], ...] = ()
    forbidden: tuple[tuple[str, str], ...] = ()
    keep: bool = False
    cased: bool = False

    def translation(self, language: str) -> str:
        """What it is in a language; itself where it is kept, empty where it is not known."""
        if self.keep:
            return self.right
        known = dict(self.translations)
        return known.get(language) or known.get(language.split("-")[0], "")

    def inflected(self, language: str) -> tuple[str, ...]:
        """Its other forms in a language; with no language those of the term itself."""
        tags = {language, language.split("-")[0]}
        return tuple(form for tag, form in self.forms if tag in tags)


class Released(Value):
    """A release in the record of a project.

    Attributes
    ----------
    at : str
        When, in UTC (ISO 8601).
    kit : str
    files : tuple of str
    digest : str
        Of what the project said then.
    """

    at: str
    kit: str
    files: tuple[str, ...]
    digest: str


class Project(Value, dict=True):
    """A project: media, transcript, caption tracks, notes.

    Attributes
    ----------
    title, subtitle : str
    media : Media or None
    transcript : Transcript
    tracks : tuple of CaptionTrack
    active : int
        Id of the track that is worked on; 0 without tracks.
    notes : tuple of Note
    terms : tuple of Term
        Names and terms of this project, each once.
    releases : tuple of Released
        What was released when, the last fifty.
    cuts : tuple of Cut
        Edits of the recording; the transcript knows nothing of them.
    framing : Framing
        Where the crop of an upright or square film lies.
    cameras : Cameras
        What ran beside the recording, and which of it is shown when.
    next_id : int
        The first id not yet given to a word, turn, caption, track, note or
        speaker. Ids are never used twice, not even after an undo, so it is no
        part of what a project says.
    by : str
        Who saved it last; no part of what it says.
    index : object
        What :mod:`dubrel.project.index` keeps of this value or of an earlier one;
        it travels along where a value is made from another.
    """

    title: str = "Untitled"
    subtitle: str = ""
    media: Media | None = None
    transcript: Transcript = field(default_factory=Transcript)
    tracks: tuple[CaptionTrack, ...] = ()
    active: int = 0
    notes: tuple[Note, ...] = ()
    terms: tuple[Term, ...] = ()
    releases: tuple[Released, ...] = ()
    cuts: tuple[Cut, ...] = ()
    framing: Framing = field(default_factory=Framing)
    cameras: Cameras = field(default_factory=Cameras)
    next_id: int = 1
    by: str = ""
    index: object = None

    def __eq__(self, other: object) -> bool:
        """Whether both say the same."""
        if not isinstance(other, Project):
            return NotImplemented
        said = set(part_names(self)) - {"next_id", "by", "index"}
        pairs = ((getattr(self, name), getattr(other, name)) for name in said)
        return all(one is two or one == two for one, two in pairs)

    def track(self, track_id: int) -> CaptionTrack | None:
        """The track with an id."""
        return next((one for one in self.tracks if one.id == track_id), None)

    def cut(self, cut_id: int) -> Cut | None:
        """The cut with an id."""
        return next((one for one in self.cuts if one.id == cut_id), None)

    @property
    def frame_rate(self) -> Fraction | None:
        """Frames a second of the picture; ``None`` for sound alone without a camera, or no recording."""
        return (self.media.frame_rate if self.media else None) or self.cameras.frame_rate

    @property
    def has_picture(self) -> bool:
        """Whether there is something to see: in the recording, or from a camera."""
        return bool(self.media and self.media.has_video) or self.cameras.frame_rate is not None

    @cached_property
    def shots(self) -> tuple[int, ...]:
        """Shot changes in milliseconds, as far as they are known: of the recording, and between cameras."""
        own = (self.media.shots or ()) if self.media else ()
        return self.cameras.shot_changes(own) if self.cameras.switches else own

    @property
    def length_ms(self) -> int | None:
        """How long the recording is; ``None`` where that is not known."""
        return (self.media.duration_ms or None) if self.media else None

    @property
    def captions(self) -> CaptionTrack | None:
        """The track that is worked on."""
        return self.track(self.active)
