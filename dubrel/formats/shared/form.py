"""What a form of file is: how it is written, read and read back, what it needs and what it cannot hold."""

from __future__ import annotations

from collections.abc import Callable, Collection
from pathlib import Path
from typing import Any, Literal, Protocol

from dubrel.base.catalogue import tr
from dubrel.base.value import Value
from dubrel.formats.shared.agreement import document_agrees
from dubrel.formats.shared.common import Reading
from dubrel.formats.shared.document import Document, TextOptions
from dubrel.formats.shared.losses import Cannot, differences, expected, leaves_any, lost
from dubrel.model import Cue, Project

Group = Literal["Captions", "Transcript", "Both languages", "Around it", "Film and sound"]
GROUPS: tuple[Group, ...] = ("Captions", "Transcript", "Both languages", "Around it", "Film and sound")
CAPTIONS, TRANSCRIPT, BOTH, AROUND, FILM = GROUPS
Needs = Literal["", "translation", "chapters", "queries", "film", "sound", "audio", "media-chapters"]
FilmKind = Literal["", "burn", "sound", "inside", "chapters", "copy", "small", "forward", "spoken"]


class Content(Protocol):
    """What a deliverable says; :class:`dubrel.release.source.Source` is one."""

    @property
    def original(self) -> Project:
        """As it is open."""

    @property
    def project(self) -> Project:
        """In the language of the track, with what was wished of it."""

    @property
    def document(self) -> Document:
        """The project as a document."""

    @property
    def options(self) -> TextOptions:
        """The options of texts."""

    @property
    def language(self) -> str:
        """Of the track, or of what is said."""

    @property
    def facing(self) -> list[tuple[str, str, str]]:
        """Turn by turn: who speaks, what is said, the translation."""

    @property
    def pairs(self) -> list[tuple[str, str, bool]]:
        """Sentences with their translations, and whether each is approved."""


class Form(Value, kw_only=True):
    """A form of file.

    Attributes
    ----------
    id, label : str
    suffixes : tuple of str
        The first is the one that is written; none for a film with that of its recording.
    group : Group
        Where it stands among the deliverables.
    write : callable, optional
        ``Content -> bytes``; without it the form is only read.
    read : callable, optional
        ``(path, names) -> Reading``; names are what the user says is a speaker's
        name where it stands before a colon.
    cues : callable, optional
        ``path -> (cues, warnings)``: captions as they stand in a file.
    agrees : callable, optional
        ``(Content, path) -> bool``: whether a file says what was meant.
    cannot : Cannot, optional
        What captions lose in it; what is announced is what is lost.
    loses : callable
        ``Content -> parts of a sentence``, where that depends on something else.
    warns : callable
        ``Content -> sentence``: what will not look as it should on this machine.
    needs : Needs
        Without which there is nothing to write.
    writes : callable
        ``language -> bool``: whether it has letters for a language.
    document : callable, optional
        ``Content -> Document``, of a form that is one: how it looks.
    listed : callable, optional
        ``Content -> str``: for the eye, of a form that is not text.
    text : bool
        Whether it takes the options of texts.
    each_track : bool
        Whether there is one for each language that is wished.
    film : FilmKind
        Made in a process of its own; see :mod:`dubrel.release.films`.
    seed : bytes
        A file in which much occurs, from which tests make broken ones.
    """

    id: str
    label: str
    suffixes: tuple[str, ...]
    group: Group
    write: Callable[[Any], bytes] | None = None
    read: Callable[[Path, Collection[str]], Reading] | None = None
    cues: Callable[[Path], tuple[list[Cue], list[str]]] | None = None
    agrees: Callable[[Any, Path], bool] | None = None
    cannot: Cannot | None = None
    loses: Callable[[Any], list[str]] = lambda content: []
    warns: Callable[[Any], str] = lambda content: ""
    needs: Needs = ""
    writes: Callable[[str], bool] = lambda language: True
    document: Callable[[Any], Document] | None = None
    listed: Callable[[Any], str] | None = None
    text: bool = False
    each_track: bool = True
    film: FilmKind = ""
    seed: bytes = b""

    @property
    def suffix(self) -> str:
        """The one that is written; empty for that of the recording."""
        return self.suffixes[0] if self.suffixes else ""

    def written(self, content: Content) -> bytes:
        """The file.

        Raises
        ------
        ValueError
            If the form is only read, or made as a film.
        """
        if self.write is None:
            raise ValueError(f"{self.id} is not written")
        return self.write(content)

    def reads_back(self, content: Content, path: Path) -> bool:
        """Whether a file says what was meant."""
        return self.agrees is None or self.agrees(content, path)

    def lost(self, content: Content) -> list[str]:
        """What it cannot hold of a project, as parts of a sentence."""
        if self.cannot is None:
            return self.loses(content)
        return lost(content.project, self.cannot)

    def loss_said(self, content: Content) -> str:
        """What it cannot hold, and what will look wrong, in sentences; empty for nothing."""
        parts = self.lost(content)
        lost_said = ""
        if parts:
            many = tr("{some} and {last}").format(some=", ".join(parts[:-1]), last=parts[-1])
            listed = many if len(parts) > 1 else parts[0]
            lost_said = tr("{form} has no room for {listed}.").format(form=tr(self.label), listed=listed)
        return " ".join(filter(None, (lost_said, self.warns(content))))


def caption_form(
    id: str,
    label: str,
    *suffixes: str,
    write: Callable[[Project], str | bytes],
    read: Callable[[Path, Collection[str]], Reading],
    cues: Callable[[Path], tuple[list[Cue], list[str]]],
    cannot: Cannot,
    **more: Any,
) -> Form:
    """A form of captions that is written and read.

    What reading it back shows is compared caption by caption.
    """

    def agrees(content: Content, path: Path) -> bool:
        project = content.project
        if not leaves_any(project, cannot):
            return True
        return not differences(project, read(path, ()).project, cannot) - expected(project, cannot)

    return Form(
        id=id,
        label=label,
        suffixes=suffixes,
        group=CAPTIONS,
        write=of_project(write),
        read=read,
        cues=cues,
        cannot=cannot,
        **{"agrees": agrees, **more},
    )


def document_form(
    id: str,
    label: str,
    suffix: str,
    write: Callable[[Document], str | bytes],
    text_of: Callable[[Path], str],
    *,
    marks: bool = False,
    document: Callable[[Content], Document] = lambda content: content.document,
) -> Form:
    """A form that is a document: the transcript, or what ``document`` makes of a project.

    All that the document says must be found in the file, in order.
    """
    return Form(
        id=id,
        label=label,
        suffixes=(suffix,),
        group=TRANSCRIPT,
        write=lambda content: in_bytes(write(document(content))),
        agrees=lambda content, path: document_agrees(text_of(path), document(content), marks=marks),
        document=document,
        text=True,
    )


def of_project(write: Callable[[Project], str | bytes]) -> Callable[[Content], bytes]:
    """A writer of projects as a writer of deliverables."""
    return lambda content: in_bytes(write(content.project))


def in_bytes(data: str | bytes) -> bytes:
    """Text in UTF-8."""
    return data.encode("utf-8") if isinstance(data, str) else data
